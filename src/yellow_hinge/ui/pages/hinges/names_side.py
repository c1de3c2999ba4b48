"""The side of the workbench for names: what the chosen notes are called, and over each bass."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.identify import over_number
from yellow_hinge.ui import kit
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.pages.hinges.grip_state import GripState, pretty_reading
from yellow_hinge.ui.pages.hinges.state import HingesState
from yellow_hinge.ui.quiet import QuietSide

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent


class _Names(QListWidget):
    """A list whose entries are taken by one click, or by Return."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        item = self.currentItem()
        if item is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.itemClicked.emit(item)
        else:
            super().keyPressEvent(event)


class NamesSide(QuietSide):
    """Ranked names with readings; a click or Return puts one into the chart."""

    wanted = Signal(object)

    def __init__(
        self, document: Document, state: HingesState, grips: GripState, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._document, self._state, self._grips = document, state, grips
        layout = self.rows
        self.agreement = kit.label()
        layout.addWidget(self.agreement)
        into = "A click or Return puts the name into the chart."
        self.names = self._list(layout, "What it can be called", into)
        self.hands = self._list(layout, "Each hand by itself", f"What one hand plays alone. {into}")
        over = "The bass decides: the same notes have another name over each one."
        self.basses = self._list(layout, "The right hand over every bass", f"{over} {into}")

    def _list(self, layout: QVBoxLayout, words: str, tip: str) -> QListWidget:
        made = kit.named(_Names(), words, tip)
        made.setWordWrap(True)
        made.itemClicked.connect(self._put)
        layout.addWidget(kit.heading(words, tip))
        layout.addWidget(made, 1)
        return made

    def _put(self, item: QListWidgetItem) -> None:
        chord = item.data(Qt.ItemDataRole.UserRole)
        if isinstance(chord, ChordSymbol):
            self.wanted.emit(chord)

    def refresh(self) -> None:
        """The chosen leaf as it is now."""
        song, index = self._document.song, self._state.selection.index
        tried = self._grips.reading(song, index)
        self.names.clear()
        self.hands.clear()
        self.basses.clear()
        if tried is None:
            self.agreement.setText("No notes sound here. Lock a voicing, or enter a grip with Y.")
            return
        self.agreement.setText(tried.agreement)
        key = song.slots[index].key
        for name in tried.called:
            split = name.chord.upper is not None or name.chord.bass is not None
            number = f" ({over_number(name.chord, key)})" if split else ""
            self._add(self.names, f"{name.chord.pretty}{number}: {pretty_reading(name)}", name.chord)
        for side, name in self._grips.names_by_hand(song, index):
            words = f"{side.capitalize()}: {name.chord.pretty}: {pretty_reading(name)}"
            self._add(self.hands, words, name.chord)
        for over in self._grips.over_basses(song, index):
            words = ", or ".join(name.chord.pretty for name in over.names) or "no name"
            self._add(
                self.basses, f"{over.bass.pretty}: {words}", over.names[0].chord if over.names else None
            )

    @staticmethod
    def _add(to: QListWidget, words: str, chord: ChordSymbol | None) -> None:
        item = QListWidgetItem(words)
        item.setData(Qt.ItemDataRole.UserRole, chord)
        to.addItem(item)
