"""The motion of one hand: which note goes where.

Hands with equally many notes pair them in order; that crossing-free pairing is the
cheapest for any convex cost (a classical exchange argument). Where the counts differ the
cheapest order-preserving pairing is taken; the notes left over enter or leave.
"""

from __future__ import annotations

from enum import IntEnum
from functools import lru_cache
from itertools import combinations

from msgspec import Struct

from yellow_hinge.remembering import for_a_song
from yellow_hinge.theory.chord_symbol import ChordSymbol

#: A move beyond this many semitones counts as large, and grows with the square (our
#: choice: up to a major third a finger or the hand turns, beyond it the arm travels).
LARGE_FROM_ST = 4


class Change(IntEnum):
    """What is another from one chord to the next: nothing, the chord, or its root as well."""

    NONE = 0
    CHORD = 1
    ROOT = 2


def change_between(before: ChordSymbol, after: ChordSymbol) -> Change:
    """What of a chord changes into the next one."""
    if before == after:
        return Change.NONE
    return Change.CHORD if before.root.pitch_class == after.root.pitch_class else Change.ROOT


class HandMotion(Struct, frozen=True):
    """Pairs (from key, to key) in order, and the notes that enter or leave."""

    pairs: tuple[tuple[int, int], ...]
    entered: tuple[int, ...]
    left: tuple[int, ...]

    @property
    def motion_st(self) -> int:
        return sum(abs(to - start) for start, to in self.pairs)

    @property
    def held(self) -> int:
        return sum(1 for start, to in self.pairs if start == to)

    @property
    def largest_st(self) -> int:
        return max((abs(to - start) for start, to in self.pairs), default=0)


def large_excess(move_st: int) -> int:
    """Squared semitones beyond :data:`LARGE_FROM_ST`."""
    return max(0, abs(move_st) - LARGE_FROM_ST) ** 2


@for_a_song
@lru_cache(maxsize=1 << 16)
def hand_motion(before: tuple[int, ...], after: tuple[int, ...]) -> HandMotion:
    """The pairing with the least motion; among equals the least excess of large moves, then
    the lowest notes."""
    count = min(len(before), len(after))
    shorter_first = len(before) <= len(after)
    longer = after if shorter_first else before

    def pairs(chosen: tuple[int, ...]) -> tuple[tuple[int, int], ...]:
        kept = tuple(longer[i] for i in chosen)
        return tuple(zip(before, kept, strict=True) if shorter_first else zip(kept, after, strict=True))

    def rank(chosen: tuple[int, ...]) -> tuple[int, int]:
        moves = [to - start for start, to in pairs(chosen)]
        return sum(map(abs, moves)), sum(map(large_excess, moves))

    best = min(combinations(range(len(longer)), count), key=rank)
    surplus = tuple(note for i, note in enumerate(longer) if i not in best)
    return HandMotion(pairs(best), surplus if shorter_first else (), () if shorter_first else surplus)
