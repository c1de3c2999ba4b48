"""How grips of the player's own that the hands cannot reach could be played all the same, one by one or all
at once."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from yellow_hinge.song.edits import Edit, choose
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.theory.pretty import counted
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.reductions import Reduction, reductions
from yellow_hinge.voicing.shape import Voicing

#: By slot the ways to play its grip.
Ways = Sequence[tuple[int, tuple[Reduction, ...]]]


def ways_out(song: Song, library: Library) -> tuple[tuple[int, tuple[Reduction, ...]], ...]:
    """By slot, how locked voicings that the hands cannot reach could be played all the same."""
    found: list[tuple[int, tuple[Reduction, ...]]] = []
    if not any(choice.locked for take in song.takes for choice in take.arrangement.choices.values()):
        return ()
    for place, column in zip(progression(song, library).places, song.columns, strict=True):
        if place.lock is not None and place.wish is not None:
            ways = tuple(
                reductions(place.lock, place.wish) or reductions(place.lock, place.wish, lawful=False)
            )
            found += [(index, ways) for index in column if ways]
    return tuple(found)


class WayOut(Struct, frozen=True):
    """The first way to play a grip that is out of reach, in the order of the school: the first slot of its
    chord, the grip as it is, and what is done."""

    slot: Slot
    was: Voicing
    way: Reduction

    @property
    def words(self) -> str:
        """Place, what is done, and the notes before and after."""
        now = "" if self.way.rolled else f" → {_notes(self.slot, self.way.voicing)}"
        symbol = "" if self.slot.chord is None else self.slot.chord.pretty
        return f"Bar {self.slot.bar}, {symbol}: {self.way.words}\n{_notes(self.slot, self.was)}{now}"


def first_ways(song: Song, found: Ways) -> tuple[WayOut, ...]:
    """For each chord whose grip is out of reach the first of its ways, in playing order."""
    ways = dict(found)
    rows = []
    for column in song.columns:
        voicing = song.voicing(column[0])
        if ways.get(column[0]) and voicing is not None:
            rows.append(WayOut(song.slots[column[0]], voicing, ways[column[0]][0]))
    return tuple(rows)


def take_first_ways(song: Song, rows: Sequence[WayOut]) -> Edit:
    """All of them at once: the grips locked as they can be played. One that is to be rolled stays."""
    after = song
    for out in rows:
        if not out.way.rolled:
            after = choose(after, out.slot.index, out.way.voicing).song
    return Edit(after, f"Ways out of {counted(len(rows), 'stretch', 'stretches')}")


def _notes(slot: Slot, voicing: Voicing) -> str:
    if slot.chord is None:
        return ""
    hands = (shape.pitches(slot.chord) for shape in (voicing.left, voicing.right) if shape.keys)
    return " ; ".join(" ".join(pitch.pretty for pitch in pitches) for pitches in hands)
