"""Where the minutes of a day go: a portion at a time, to what is expected to lower slips most.

What is counted is the sum of the chances of a slip to the power of :func:`weak`, so that the weakest changes
count most and no change is nothing. Playing a change n times on one day is taken to lower its chance of a
slip by ``exp(-RATE * FULL * ln(1 + n / FULL))``: each further try less, so that the rest of its minutes fall
on other days.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from yellow_hinge.practice.drills import LONG, MOST_CHAIN, Drill, kind_of
from yellow_hinge.practice.piece import Piece

Floats = NDArray[np.float64]

#: Share of slips that a try at a change removes, at first; tries of a day after which it is half as much;
#: what playing a change the other way round is worth. Our choice, between what quick and slow learners show.
RATE, FULL, BACK = 0.1, 20.0, 0.4
#: After so many tries in all, a further one does half as much.
OLD = 25.0
#: How much more the weakest count, as a power: where there is little time for each change, and where there
#: is more than that (seconds for each change). Measured in benchmarks/practice_plan.py.
WEAK, WEAKEST, LITTLE_S, MUCH_S = 1.9, 3.4, 8.0, 20.0
#: What a portion lasts at least, in seconds; longer stretches take a whole round.
PORTION_S = 20.0
#: The most of a day that one stretch gets, as long as there are others.
MOST_S = 240.0
#: The slowest share of the goal tempo that anything is begun with.
SLOWEST = 0.6


def share_for(slip: float) -> float:
    """The share of the goal tempo at which something is begun that slips so often: the weaker, the slower."""
    return max(SLOWEST, min(1.0, 1.1 - 0.5 * slip))


def weak(seconds: float) -> float:
    """How much more the weakest count, with so many seconds for each change."""
    share = (seconds - LITTLE_S) / (MUCH_S - LITTLE_S)
    return WEAK + (WEAKEST - WEAK) * max(0.0, min(1.0, share))


class Portions(Struct, frozen=True):
    """Drills, and the seconds for each, in the order in which they were chosen."""

    drills: tuple[Drill, ...]
    seconds: dict[int, float]


class Market:
    """All drills of some songs, as rows for the arithmetic: ``changes`` (entries,) are the changes of one
    drill after the other, ``starts`` (drills,) where each begins, ``tries`` (entries,) how much of a try a
    round gives, ``round_s`` (drills,) how long a round lasts."""

    def __init__(self, pieces: Sequence[Piece], slips: Floats) -> None:
        self.drills: list[Drill] = []
        changes: list[int] = []
        tries: list[float] = []
        starts: list[int] = []
        round_s: list[float] = []
        offset = 0
        for number, piece in enumerate(pieces):
            for drill in drills_of(piece, number):
                starts.append(len(changes))
                self.drills.append(drill)
                given: dict[int, float] = {}
                for _, change, backwards in drill.round(piece):
                    if change >= 0:
                        given[change] = given.get(change, 0.0) + (BACK if backwards else 1.0)
                changes += [offset + change for change in given]
                tries += given.values()
                slip = slips[[offset + change for change in given]]
                round_s.append(drill.round_seconds(piece, piece.tempo * share_for(float(slip.mean()))))
            offset += len(piece.changes)
        self.changes, self.tries = np.array(changes, dtype=np.int64), np.array(tries)
        self.starts, self.round_s = np.array(starts, dtype=np.int64), np.array(round_s)

    def spend(self, slips: Floats, tried: Floats, today: Floats, seconds: float) -> Portions:
        """Give seconds away; ``slips``, ``tried`` (tries before) and ``today`` (those of today) are
        (changes,)."""
        self._rate = (RATE / (1 + tried / OLD))[self.changes]
        slips, today = slips.copy(), today.copy()
        portion = np.maximum(self.round_s, np.ceil(PORTION_S / self.round_s) * self.round_s)
        rounds = np.repeat(portion / self.round_s, np.diff([*self.starts, len(self.changes)]))
        spent: dict[int, float] = {}
        left, power = seconds, weak(seconds / max(1, len(slips)))
        while left > 0 and len(self.drills):
            after = self._after(slips, today, rounds * self.tries)
            lowered = slips[self.changes] ** power - after**power
            gains = np.add.reduceat(lowered, self.starts) / portion
            full = [at for at, took in spent.items() if took >= MOST_S]
            if len(full) < len(self.drills):
                gains[full] = -1.0  # nothing is played all day
            best = int(gains.argmax())
            own = slice(self.starts[best], self.starts[best + 1] if best + 1 < len(self.starts) else None)
            took = min(left, float(portion[best]))
            slips[self.changes[own]] = after[own]
            today[self.changes[own]] += (rounds * self.tries)[own]
            spent[best] = spent.get(best, 0.0) + took
            left -= took
        return Portions(tuple(self.drills), spent)

    def _after(self, slips: Floats, today: Floats, tries: Floats) -> Floats:
        before = today[self.changes]
        strength = FULL * np.log((FULL + before + tries) / (FULL + before))
        return np.asarray(slips[self.changes] * np.exp(-self._rate * strength))


def drills_of(piece: Piece, number: int) -> Iterator[Drill]:
    """Everything of a song that can be drilled: each different change, chains of two to four, phrases,
    sections and the whole."""
    seen: set[tuple[int, ...]] = set()
    spans: list[tuple[int, int]] = [
        (first, first + length) for first in range(len(piece.row)) for length in range(1, MOST_CHAIN + 1)
    ]
    spans += [*piece.phrases, *piece.sections, (0, len(piece.stands) - 1)]
    for first, last in spans:
        row = tuple(piece.row[first:last])
        if last >= len(piece.stands) or last <= first or row in seen:
            continue
        seen.add(row)
        kind = kind_of(piece, first, last)
        if -1 not in row or (kind in LONG and set(row) != {-1}):
            yield Drill(kind, number, ((first, last),))
