"""What the parts of the Hinges page have in common."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.faces import Face, Faces
from yellow_hinge.ui.page import Part, Sounding
from yellow_hinge.ui.pages.hinges.grip_state import GripState
from yellow_hinge.ui.pages.hinges.state import HingesState


class Bench:
    """What all parts of the workbench look at: row and trial, the grip that is being entered, and what the
    side shows."""

    def __init__(self, document: Document, state: HingesState, grips: GripState, faces: Faces[Face]) -> None:
        self.document, self.state, self.grips, self.faces = document, state, grips, faces


class HingesPart(Part):
    """A part that works on what is chosen. ``to_row``: the keyboard is for the row of leaves now."""

    to_row = Signal()

    def __init__(self, bench: Bench, parent: QObject | None = None) -> None:
        super().__init__(bench.document, parent)
        self.bench, self.state, self.grips = bench, bench.state, bench.grips

    @property
    def index(self) -> int:
        """The slot of the chosen leaf, or of the one before the chosen hinge."""
        return self.state.selection.index

    def put_on_trial(self) -> None:
        """Show the grip that is being entered for the chosen leaf in its place."""
        song = self.document.song
        if not on_leaf(self) or self.bench.faces.open.id != "grip":
            return
        draft = self.grips.draft(song, self.index)
        if draft is not None and song.slots[self.index].chord is not None:
            self.state.start_trial(self.grips.desk.voicing(song, self.index, draft.keys))

    def around(self) -> Sounding | None:
        """The chosen leaf between its neighbours, or both sides of the chosen hinge."""
        state = self.state
        if not state.song.slots:
            return None
        index, last = state.selection.index, len(state.song.slots) - 1
        first = index if state.selection.on_hinge else max(0, index - 1)
        back = state.selection.on_hinge and index == last
        return Sounding(state.song, first, min(last, index + 1), back)

    def audition(self) -> None:
        """Hear it there."""
        sounding = self.around()
        if sounding is not None:
            self.hear.emit(sounding)


def any_chord(part: HingesPart) -> bool:
    """Whether there is anything on the bench."""
    return bool(part.state.song.slots)


def on_leaf(part: HingesPart) -> bool:
    """Whether a leaf is chosen and not a hinge."""
    return any_chord(part) and not part.state.selection.on_hinge


def can_grip(part: HingesPart) -> bool:
    """Whether the chosen leaf has a chord that hands can hold."""
    return on_leaf(part) and part.state.song.slots[part.index].chord is not None


def can_keep(part: HingesPart) -> bool:
    """Whether there is a grip to keep."""
    if not can_grip(part):
        return False
    keys = part.grips.keys(part.document.song, part.index)
    return bool(keys.left or keys.right)


def entering(part: HingesPart) -> bool:
    """Whether a grip is being entered that could be kept."""
    return part.grips.draft(part.document.song, part.index) is not None and can_keep(part)
