"""The first face of the Swaps page: the proposals for the chosen chord, the key and rules they go by, and
chords that fit a melody note."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton

from yellow_hinge.song.edits import Edit, set_local_key
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import fill_menu, refresh_menu
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.pages.swaps.face import ChordFace, Given
from yellow_hinge.ui.pages.swaps.proposals import Proposals
from yellow_hinge.ui.pages.swaps.swapping import Rules
from yellow_hinge.ui.quiet import QuietList
from yellow_hinge.ui.words import Words


class ProposalsFace(ChordFace):
    """Shows the state; the weighing is the page's."""

    alone = False

    def __init__(self, given: Given) -> None:
        super().__init__(given)
        self.state, self._weighing, self._commands = given.state, given.weighing, given.commands
        self.model = Proposals()
        layout = kit.column(self)
        layout.addLayout(self._build_bar(given.rules))
        self.list = QuietList()
        self.model.show_in(self.list, "Proposals for the chosen chord")
        self.list.clicked.connect(self._clicked)
        self.list.doubleClicked.connect(lambda _: self._commands["accept"].try_run())
        layout.addWidget(self.list, 1)
        layout.addLayout(self._build_query())
        self.words = Words()
        self.words.setObjectName("")  # what was asked for, and no remark
        layout.addWidget(self.words)

    def _build_bar(self, rules: Rules) -> QHBoxLayout:
        bar = QHBoxLayout()
        label = kit.label("quiet", "Key here", wraps=False)
        tip = "The key that the rules count from here; yours goes before what was found"
        self.key_box = kit.choice("Local key of the chosen chord", tip, self._set_key)
        self.key_box.setMinimumWidth(180)
        self.rules_button = QPushButton("Rules")
        self.rules_button.setToolTip("Switch single rules on or off")
        self.rules_menu = QMenu(self)
        fill_menu(self.rules_menu, rules.switches(), "Rules")
        self.rules_button.setMenu(self.rules_menu)
        kit.add_all(bar, (label, self.key_box))
        bar.addStretch(1)
        bar.addWidget(self.rules_button)
        return bar

    def _build_query(self) -> QHBoxLayout:
        """What chords fit this melody note?"""
        query = QHBoxLayout()
        asked = kit.label("quiet", "Chords that fit a melody note", wraps=False)
        tip = "Chord tones first, then tensions; chords of the key first in each"
        self.note_box = kit.choice("Melody note to find chords for", tip, self._show_fitting)
        kit.add_all(query, (asked, self.note_box))
        query.addStretch(1)
        return query

    # --- showing ---

    def _say_to_wait(self, busy: bool) -> None:
        """The side says it."""

    def refresh(self) -> None:
        state = self.state
        lines = state.lines()
        if lines != self.model.lines:
            self.model.take(lines)
        proposals = [line.proposal for line in lines]
        if state.proposal is not None and state.proposal in proposals:
            self.list.setCurrentIndex(self.model.index(proposals.index(state.proposal)))
        self._show_keys()
        self._show_fitting()
        refresh_menu(self.rules_menu)

    def _show_keys(self) -> None:
        self.key_box.offer(((words, key) for key, words in self.state.key_choices()), self.state.key_set)

    def _set_key(self) -> None:
        if self.state.at is not None:
            key = self.key_box.currentData()
            self.document.apply(set_local_key(self.document.song, self.state.at, key))

    def _show_fitting(self) -> None:
        note = max(0, self.note_box.currentIndex())
        choices = self.state.note_choices()
        self.note_box.offer((words, name) for name, words in choices)
        self.note_box.setCurrentIndex(note)
        self.words.setText(self.state.fitting_words(choices[note][0]) + "...")

    # --- acting ---

    def step(self, direction: int) -> None:
        self.state.step(direction)
        self.changed.emit()

    def _clicked(self, index: QModelIndex) -> None:
        proposal = self.model.lines[index.row()].proposal
        if proposal is not None:
            self.state.proposal = proposal
            self.changed.emit()

    @property
    def ready(self) -> bool:
        return self.state.proposal is not None

    @property
    def hearable(self) -> bool:
        return self.state.proposal in self.state.weighed

    @property
    def holds(self) -> bool:
        return self.state.is_marked

    @property
    def weighs(self) -> bool:
        return self._weighing.worker.running

    def can(self, act: str) -> bool:
        return act == "mark" and self.ready

    def audition(self) -> None:
        """The proposal between its neighbours, voiced as it would be."""
        heard = self.state.heard()
        if heard is not None:
            song, first, last = heard
            self.hear.emit(Sounding(song, first, last))

    def take(self) -> None:
        proposal = self.state.proposal
        if proposal is None:
            return
        if proposal in self.state.weighed:
            label = f"Swap for {proposal.chords[0].chord.pretty}"
            self.document.apply(Edit(self.state.weighed[proposal].song, label))
        else:
            self._weighing.look(again=True)

    def mark(self) -> None:
        """The proposal is for the grid, or no longer."""
        if self.state.mark():
            self.changed.emit()

    def stop(self) -> None:
        self._weighing.worker.cancel()
