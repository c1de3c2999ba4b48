"""Notes that were played, put on a grid: one at a time, as a tune has them."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from msgspec import Struct


class Played(Struct, frozen=True):
    """A key that was held, from and to, in quarters."""

    key: int
    start: float
    end: float


class TuneNote(Struct, frozen=True, order=True):
    """A note of a tune, in quarters from the first bar line."""

    start: Fraction
    end: Fraction
    key: int


def on_grid(played: Sequence[Played], grid: Fraction) -> tuple[TuneNote, ...]:
    """What was played, on the nearest places of a grid (in quarters). A note ends where the next one
    begins, at the latest; of several on one place the highest is the tune's; none is shorter than the
    grid."""
    firsts: dict[Fraction, Played] = {}
    for first in played:
        at = _nearest(first.start, grid)
        if at not in firsts or first.key > firsts[at].key:
            firsts[at] = first
    starts = sorted(firsts)
    notes = []
    for place, start in enumerate(starts):
        first = firsts[start]
        end = max(start + grid, _nearest(first.end, grid))
        if place + 1 < len(starts):
            end = min(end, starts[place + 1])
        notes.append(TuneNote(start, end, first.key))
    return tuple(notes)


def _nearest(quarters: float, grid: Fraction) -> Fraction:
    return round(quarters / float(grid)) * grid
