"""The side of the workbench for a chosen leaf: what each hand holds, why, and other voicings."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from yellow_hinge.motion.hinge import SIDES
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.pages.hinges.alternatives import Alternatives
from yellow_hinge.ui.pages.hinges.filter_bar import FilterBar
from yellow_hinge.ui.pages.hinges.state import VOICING_REASONS, HingesState
from yellow_hinge.ui.quiet import QuietList, QuietSide
from yellow_hinge.ui.theme import worn
from yellow_hinge.voicing.shape import Voicing


def reasons_label(layout: QVBoxLayout, words: str) -> QLabel:
    """A heading with a label under it for the reasons."""
    heading = kit.heading(
        words, "Reasons with their shares, in half steps: what the search has added up here."
    )
    label = kit.label("quiet")
    layout.addSpacing(4)
    kit.add_all(layout, (heading, label))
    return label


class LeafSide(QuietSide):
    """Shows the chosen leaf from the state."""

    def __init__(
        self, document: Document, state: HingesState, commands: CommandList, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._document, self._state = document, state
        self.alternatives = Alternatives()
        layout = self.rows
        self._build_words(layout)
        self.lock_button, *others = (
            kit.button(commands, act, look) for act, look in (("lock", "first"), ("try", ""), ("hear", ""))
        )
        layout.addLayout(kit.row(self.lock_button, *others))
        self.reasons = reasons_label(layout, "What the voicing itself weighs")
        self._build_list(layout, commands)

    def _build_words(self, layout: QVBoxLayout) -> None:
        self.hand_labels = {name: kit.label() for name in SIDES}
        for label in self.hand_labels.values():
            label.setTextFormat(Qt.TextFormat.RichText)
        self.pair_label, self.melody_label = kit.label("quiet"), kit.label("quiet")
        self.taste_label = kit.label("quiet")
        lines = (self.pair_label, self.melody_label, self.taste_label)
        kit.add_all(layout, (*self.hand_labels.values(), *lines))

    def _build_list(self, layout: QVBoxLayout, commands: CommandList) -> None:
        self.filter = FilterBar(self._document, self._state, self.alternatives)
        layout.addWidget(self.filter)
        tip = "The number: what each adds to the effort of the song, in half steps."
        self.list_heading = kit.heading("", tip)
        layout.addWidget(self.list_heading)
        self.list = QuietList()
        self.list.setMinimumHeight(90)  # a row and a half: there are more
        self.alternatives.show_in(self.list, "Other voicings of the chosen chord")
        self.list.doubleClicked.connect(lambda _: commands["try"].try_run())
        layout.addWidget(self.list, 1)

    def refresh(self) -> None:
        """The chosen leaf as it is now."""
        state, solved, index = self._state, self._document.solved, self._state.selection.index
        for side, words in state.hand_lines(solved.families):
            ink = getattr(worn(), side)
            self.hand_labels[side].setText(f'<b style="color:{ink}">{side.capitalize()}</b> {escape(words)}')
        self.pair_label.setText(state.pair_line(solved.families))
        melody = state.melody_line()
        self.melody_label.setText(f"Melody: {melody}" if melody else "")
        self.melody_label.setVisible(bool(melody))
        taste = state.taste_line(solved.by_ours(index))
        self.taste_label.setText(taste)
        self.taste_label.setVisible(bool(taste))
        nothing = "nothing" if solved.voicing_terms and not state.trying else ""
        self.reasons.setText(state.reasons(solved.voicing_terms, VOICING_REASONS) or nothing)
        self.filter.refresh(self._document.song, index)
        self.list_heading.setVisible(not self.filter.on)
        if self.filter.on:
            self.list.viewport().update()
            return
        ways_out = solved.ways_out(index)
        lines = state.alternative_lines(solved.others(index), ways_out) if solved.alternatives else []
        if lines != self.alternatives.lines:
            self.alternatives.take(lines)
        waiting = self._document.waits and not lines
        words = _list_heading(bool(ways_out), bool(lines), waiting)
        self.list_heading.setText(words if solved.ranks_exact else f"{words} at most")
        self.list.viewport().update()

    def listed(self) -> Voicing | None:
        """The voicing chosen in the list, else the first that is not in use."""
        lines = self.alternatives.lines
        row = self.list.currentIndex().row()
        if 0 <= row < len(lines):
            return lines[row].voicing
        return next((line.voicing for line in lines if not line.current), None)

    def step_list(self, direction: int) -> None:
        """Walk the list of other voicings."""
        count = self.alternatives.rowCount()
        if count:
            row = max(0, min(count - 1, self.list.currentIndex().row() + direction))
            self.list.setCurrentIndex(self.alternatives.index(row))


def _list_heading(reduced: bool, any_lines: bool, waiting: bool) -> str:
    if waiting:
        return "Looking for other voicings..."
    if reduced:
        return "Out of reach: ways to play it, then others"
    return "Other voicings, and the effort they add" if any_lines else "No other voicing fits here"
