"""The side of the workbench for a chosen change: the move in words and figures, and small notes."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QGridLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.song.edits import wish_for_chord
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.pages.hinges.leaf_side import reasons_label
from yellow_hinge.ui.pages.hinges.state import HINGE_REASONS, HingesState
from yellow_hinge.ui.quiet import QuietSide
from yellow_hinge.ui.words import Label


class HingeSide(QuietSide):
    """Shows the chosen hinge from the state."""

    def __init__(
        self, document: Document, state: HingesState, commands: CommandList, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._document, self._state = document, state
        layout = self.rows
        self.words = kit.label()
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        layout.addWidget(self.words)
        hear = kit.button(commands, "hear", "first")
        layout.addWidget(hear)
        layout.addSpacing(10)
        layout.addLayout(self._build_figures())
        self.reasons = reasons_label(layout, "Its share of the effort")
        self.better_label = kit.label()
        self.better_button = kit.button(commands, "better")
        layout.addSpacing(10)
        kit.add_all(layout, (self.better_label, self.better_button))
        self._build_fills(layout)
        layout.addStretch(1)

    def _build_figures(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(1)
        self.figures: list[tuple[QLabel, QLabel]] = []
        for row in range(6):
            figure, label = Label(), Label()
            figure.setObjectName("figure")
            label.setObjectName("quiet")
            grid.addWidget(figure, row, 0, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label, row, 1, Qt.AlignmentFlag.AlignLeft)
            self.figures.append((figure, label))
        grid.setColumnStretch(1, 1)
        grid.setHorizontalSpacing(12)
        return grid

    def _build_fills(self, layout: QVBoxLayout) -> None:
        self.fills_heading = kit.heading(
            "Small notes on the way", "Ticked ones are played and exported to MIDI with the chords"
        )
        self.fills = kit.named(QListWidget(), "Small notes on the way to the next chord")
        self.fills.setWordWrap(True)
        self.fills.itemChanged.connect(self._fill_ticked)
        layout.addSpacing(6)
        kit.add_all(layout, (self.fills_heading, self.fills))

    def refresh(self) -> None:
        """The chosen hinge as it is now."""
        state, solved, index = self._state, self._document.solved, self._state.selection.index
        report = state.row.hinges[index]
        self.words.setText(report.pretty_words.replace("\n", "\n\n"))
        nothing = "nothing" if solved.hinge_terms and not state.trying else ""
        self.reasons.setText(state.reasons(solved.hinge_terms, HINGE_REASONS) or nothing)
        better = state.better(solved.betterments)
        self.better_label.setText(state.betterment_words(better) if solved.betterments else "")
        self.better_button.setVisible(better is not None)
        numbers = state.hinge_numbers(report)
        for (figure, label), (value, words, how) in zip(self.figures, numbers, strict=True):
            figure.setText(value.replace("-", "−"))
            label.setText(words)
            figure.setToolTip(how)
            label.setToolTip(how)
        self._show_fills()

    def _show_fills(self) -> None:
        self._offered = self._state.fill_choices()
        kit.fill(self.fills, (connection.words for connection, _ in self._offered))
        kit.tick_rows(self.fills, [taken for _, taken in self._offered])
        self.fills.setFixedHeight(min(150, 16 + 40 * self.fills.count()))
        for widget in (self.fills, self.fills_heading):
            widget.setVisible(bool(self._offered))

    def _fill_ticked(self, item: QListWidgetItem) -> None:
        connection, _ = self._offered[self.fills.row(item)]
        on = item.checkState() == Qt.CheckState.Checked
        ask = self._state.with_fill(connection, on)
        self._document.apply(wish_for_chord(self._document.song, self._state.selection.index, ask))
