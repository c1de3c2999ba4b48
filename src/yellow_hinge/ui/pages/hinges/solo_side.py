"""The side of the workbench for a line over the chords: scale, guide tones, targets."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from yellow_hinge.ui import kit
from yellow_hinge.ui.pages.hinges.soloing import soloing_words
from yellow_hinge.ui.pages.hinges.state import HingesState
from yellow_hinge.ui.quiet import QuietSide


class SoloSide(QuietSide):
    """Shows what a line over the chosen leaf can be made of; the scale is ringed on the keys."""

    def __init__(self, state: HingesState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._state = state
        layout = self.rows
        self.words = kit.label()
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        layout.addWidget(self.words)
        layout.addStretch(1)

    def refresh(self) -> None:
        """The chosen leaf as it is now."""
        state, index = self._state, self._state.selection.index
        words = soloing_words(state.song, index, state.key_at(index)) if index < len(state.song.slots) else ""
        self.words.setText(words.replace("\n", "\n\n"))
