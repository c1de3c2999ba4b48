"""What the parts of the Rhythm page have in common."""

from __future__ import annotations

from PySide6.QtCore import QObject

from yellow_hinge.song.edits import Edit
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part, Sounding
from yellow_hinge.ui.pages.rhythm.state import RhythmState


class RhythmPart(Part):
    """A part that works on what the strip shows."""

    def __init__(self, document: Document, state: RhythmState, parent: QObject | None = None) -> None:
        super().__init__(document, parent)
        self.state = state

    def apply_and_hear(self, edit: Edit | None) -> None:
        """An edit, and what came of it."""
        if edit is not None:
            self.apply(edit)
            self.audition()

    def audition(self) -> None:
        """The chosen chord and the next one."""
        if any_chord(self):
            last = min(len(self.state.song.slots) - 1, self.state.index + 1)
            self.hear.emit(Sounding(self.document.song, self.state.index, last))


def any_chord(part: RhythmPart) -> bool:
    """Whether there is anything to walk through."""
    return bool(part.state.song.slots)
