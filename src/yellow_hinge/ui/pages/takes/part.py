"""What the parts of the Takes page have in common."""

from __future__ import annotations

from msgspec.structs import replace

from yellow_hinge.song.edits import Edit
from yellow_hinge.song.model import Song
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.takes.state import TakesState


class TakesPart(Part):
    """A part that works on the chosen lane and round."""

    def __init__(self, document: Document, state: TakesState) -> None:
        super().__init__(document)
        self.state = state

    def from_chosen(self) -> Song:
        """The song with the chosen take at work, to make another one of it."""
        return replace(self.document.song, current=self.state.chosen)

    def take_made(self, edit: Edit) -> None:
        """A new take is there: its lane is chosen."""
        self.apply(edit)
        self.state.lane = len(self.document.song.takes) - 1
        self.shown.emit()

    def first_slot(self, song: Song) -> int:
        """The first slot of the chosen round in a song."""
        here = self.state.here
        wanted = None if here is None else (here.section, here.turn)
        own = (slot.index for slot in song.slots if (slot.section, slot.round) == wanted)
        return next(own, 0)


def any_round(part: TakesPart) -> bool:
    """Whether there is anything in the lanes."""
    return bool(part.state.rounds)


def any_chord(part: TakesPart) -> bool:
    """Whether there is anything to take."""
    return bool(part.document.song.slots)


def is_other(part: TakesPart) -> bool:
    """Whether the chosen take is not the one that is worked on."""
    return any_round(part) and part.state.chosen != part.document.song.current


def can_take_over(part: TakesPart) -> bool:
    """Whether its chords are known, so that they can come into the other one."""
    return is_other(part) and bool(part.state.lanes)
