"""Takes as such: making, naming, ordering, dropping them, twins with and without a bassist."""

from __future__ import annotations

from typing import Literal

from yellow_hinge.song.edits import Edit, copy_take, drop_take, keep_row, move_take, new_take, rename_take
from yellow_hinge.song.pairs import new_twin, part
from yellow_hinge.tasks.song.describe_song import who_has_bass
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.pages.takes.part import TakesPart, any_chord


def has_twin(page_part: TakesPart) -> bool:
    """Whether the chosen take goes in step with another one."""
    return page_part.document.song.take_of(page_part.state.chosen).twin is not None


class Making(TakesPart):
    """What is done with whole takes."""

    @command("copy", "Copy", "C", tip="A new take like the chosen one", when=any_chord)
    def copy(self) -> None:
        self.take_made(copy_take(self.from_chosen()))

    @command("drop", "Delete", "Delete", tip="Undo brings it back",
             when=lambda self: len(self.document.song.takes) > 1)  # fmt: skip
    def drop(self) -> None:
        self.apply(drop_take(self.document.song, self.state.chosen))

    def drop_it(self) -> None:
        """The chosen take goes, where it is not the last one."""
        if len(self.document.song.takes) > 1:
            self.drop()

    def place_at(self, lane: int, place: int) -> None:
        """The chosen lane goes to the place of another one."""
        song, chosen = self.document.song, self.state.chosen
        for _ in range(abs(place - lane)):
            song = move_take(song, chosen, 1 if place > lane else -1).song
        self.apply(Edit(song, f"Move {song.take_of(chosen).name}"))
        self.state.lane = place
        self.shown.emit()

    def rename(self, name: str) -> None:
        """The chosen take has another name."""
        self.apply(rename_take(self.document.song, self.state.chosen, name))
        self.shown.emit()

    @command("earlier", "Move up", "Shift+Up", given=(-1,), when=lambda self: self.state.lane > 0)
    @command("later", "Move down", "Shift+Down", given=(1,),
             when=lambda self: self.state.lane < len(self.document.song.takes) - 1)  # fmt: skip
    def reorder(self, step: Literal[-1, 1]) -> None:
        """The chosen lane further up or down."""
        chosen = self.state.chosen
        self.apply(move_take(self.document.song, chosen, step))
        self.state.lane = [take.id for take in self.document.song.takes].index(chosen)
        self.shown.emit()

    @command("offer", "From another row", "O",
             tip="Another row for the same chords that differs audibly becomes a take",
             when=lambda self: len(self.document.solved.offers) > 1)  # fmt: skip
    def from_offer(self) -> None:
        song, offers = self.document.song, self.document.solved.offers
        used = sum(take.name.startswith("Row ") for take in song.takes)
        number = 1 + used % (len(offers) - 1)
        self.take_made(keep_row(song, offers[number].voicings, f"Row {number + 1}"))

    def from_school(self, school: str, name: str) -> None:
        """A take of another school."""
        self.take_made(new_take(self.from_chosen(), name, school=school, prices=self.document.taste.prices))

    @command("pair", "With a bassist", "B", when=any_chord,
             tip="The same take for when somebody else has the bass, or has not; both stay in step: "
                 "swaps, wishes and rhythm of one go into the other")  # fmt: skip
    def with_bassist(self) -> None:
        song = self.from_chosen()
        bass = "self" if who_has_bass(song.arrangement, self.document.library) == "bassist" else "bassist"
        words = "with a bassist" if bass == "bassist" else "alone"
        self.take_made(new_twin(song, f"{song.take.name} {words}", bass))

    @command("in-step", "In step", "T", when=has_twin, checked=has_twin,
             tip="On: what is decided in one of the two goes into the other, the bass and the grips "
                 "apart. Off: each goes its own way")  # fmt: skip
    def part_from_twin(self) -> None:
        self.apply(part(self.document.song, self.state.chosen))
