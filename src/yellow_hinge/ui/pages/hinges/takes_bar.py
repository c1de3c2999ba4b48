"""The line of takes: the one being worked on by name, and other rows that the search offers."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QButtonGroup, QComboBox, QPushButton, QWidget

from yellow_hinge.song.edits import go_to_take, rename_take
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.pages.hinges.state import HingesState, offer_words

#: Rows that can be looked at, the song's own among them.
MOST_ROWS = 4


class TakesBar(QWidget):
    """Shows the document's takes and offers."""

    def __init__(
        self, document: Document, state: HingesState, commands: CommandList, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._document, self._state = document, state
        layout = kit.row(owner=self, spacing=4)
        label = kit.label("quiet", "Take", wraps=False)
        tip = "Choose a take, or write another name for this one and press Return"
        self.box = kit.choice("Take that is worked on", tip, self._chosen)
        self.box.setEditable(True)
        self.box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.box.setMinimumWidth(150)
        edit = self.box.lineEdit()
        assert edit is not None
        edit.editingFinished.connect(self._named)
        kit.add_all(layout, (label, self.box))
        self.rows_label = kit.label("quiet", "Rows by effort", wraps=False)
        self.rows_label.setToolTip("Other rows for the same chords that the search found, and their effort")
        layout.addSpacing(6)
        layout.addWidget(self.rows_label)
        self.rows = QButtonGroup(self)
        for number in range(MOST_ROWS):
            button = QPushButton()
            button.setCheckable(True)
            button.setObjectName("face")
            self.rows.addButton(button, number)
            layout.addWidget(button)
        self.keep = kit.button(commands, "keep-row", "take")
        layout.addWidget(self.keep)
        layout.addStretch(1)

    def refresh(self) -> None:
        """Takes and rows as they are now."""
        song, offers = self._document.song, self._document.solved.offers
        edit = self.box.lineEdit()
        assert edit is not None
        if not edit.hasFocus():
            with QSignalBlocker(self.box):
                self.box.offer(((take.name, take.id) for take in song.takes), song.current)
        for number, button in enumerate(self.rows.buttons()):
            button.setVisible(number < len(offers))
            button.setChecked(number == self._state.offer)
            words = str(number + 1)
            if number < len(offers):
                lines = offer_words(offers[number], len(song.slots))
                words = f"{words}: {lines[0]}"
                button.setToolTip("\n".join(("O goes to the next row.", *lines[1:])))
            button.setText(words)
        self.rows_label.setVisible(bool(offers))
        self.keep.setVisible(self._state.offer > 0)

    def _chosen(self) -> None:
        take_id = self.box.currentData()
        if take_id is not None and take_id != self._document.song.current:
            self._document.apply(go_to_take(self._document.song, take_id))

    def _named(self) -> None:
        """Another name was written for the take."""
        song, words = self._document.song, self.box.currentText().strip()
        if words and words not in {take.name for take in song.takes}:
            self._document.apply(rename_take(song, song.current, words))
