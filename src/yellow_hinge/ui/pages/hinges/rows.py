"""Other rows for the same chords, and takes, as they are reached from the workbench."""

from __future__ import annotations

from msgspec.structs import replace

from yellow_hinge.song.arrangement import Taste
from yellow_hinge.song.edits import (
    copy_take,
    drop_take,
    go_to_take,
    keep_row,
    lead_back,
    vary_with_copy,
    wish_for_section,
)
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.pages.hinges.part import HingesPart, any_chord
from yellow_hinge.ui.pages.hinges.wishes_state import TOP_LINES


def _several_takes(part: HingesPart) -> bool:
    return len(part.document.song.takes) > 1


class Rows(HingesPart):
    """Rows on trial, takes, rounds, and the way back to the beginning."""

    @command("next-row", "Another row", "X", tip="Another row for the same chords on trial, in turn",
             when=lambda self: len(self.document.solved.offers) > 1)  # fmt: skip
    def next_row(self) -> None:
        """The next row in turn, the song's own after the last."""
        self.show_row((self.state.offer + 1) % len(self.document.solved.offers))

    def shape_top(self, index: int, way: str) -> None:
        """The top line goes another way through the section of a slot."""
        song = self.document.song
        section = song.slots[index].section
        taste = song.arrangement.tastes.get(section, Taste())
        self.apply(wish_for_section(song, section, replace(taste, **TOP_LINES[way].fields)))

    def show_row(self, number: int) -> None:
        """Another row on trial; 0 is the song's own."""
        offers = self.document.solved.offers
        if 0 < number < len(offers):
            self.state.start_offer(number, offers[number])
        else:
            self.state.end_trial()
        self.shown.emit()

    @command("keep-row", "Keep this row", "K", tip="Keep the row on trial as a take, its chords locked",
             when=lambda self: self.state.offer > 0)  # fmt: skip
    def keep_row(self) -> None:
        offer = self.document.solved.offers[self.state.offer]
        name = f"Row {self.state.offer + 1}"
        self.state.end_trial()
        self.apply(keep_row(self.document.song, offer.voicings, name))

    @command("new-take", "New take", menu="Takes", tip="A copy of this take, to go on with", when=any_chord)
    def copy_take(self) -> None:
        self.apply(copy_take(self.document.song))

    @command("next-take", "Next take", "A", menu="Takes", tip="Work on the next take", when=_several_takes)
    def next_take(self) -> None:
        song = self.document.song
        ids = [take.id for take in song.takes]
        self.apply(go_to_take(song, ids[(ids.index(song.take.id) + 1) % len(ids)]))

    @command("drop-take", "Drop this take", menu="Takes", when=_several_takes)
    def drop_take(self) -> None:
        self.apply(drop_take(self.document.song, self.document.song.current))

    @command("vary-round", "Vary this round", "V", menu="Takes",
             tip="Give the round of the chosen chord a take of its own",
             when=lambda self: any_chord(self) and self.state.can_vary)  # fmt: skip
    def vary_round(self) -> None:
        slot = self.document.song.slots[self.index]
        self.apply(vary_with_copy(self.document.song, slot.section, slot.round))

    @command("loop", "Lead back", "B",
             tip="A vamp: the last chord leads back to the first, which counts too",
             when=lambda self: len(self.document.song.slots) > 1,
             checked=lambda self: self.document.song.arrangement.loop)  # fmt: skip
    def toggle_loop(self) -> None:
        song = self.document.song
        self.apply(lead_back(song, not song.arrangement.loop))
