"""What makes a change hard before anybody has played it.

Each row of :data:`ASPECTS` measures one thing and says it in words. The measures are weighed into the
log-odds of a slip at the tempo of the song. Which things make a change hard follows what teachers name and
what models of keyboard difficulty measure (stretch, displacement, fingers, black and white, speed:
R. Parncutt et al., Music Perception 14, 1997; M. Sébastien et al., ISMIR 2012); the weights are our choice
and only an opening: what happens at the keys soon counts for more (:mod:`sureness`).
"""

from __future__ import annotations

import math
from collections.abc import Callable

from msgspec import Struct

from yellow_hinge.hands.geometry import is_black
from yellow_hinge.motion.figures import half_steps
from yellow_hinge.motion.hinge import SIDES, interval_words
from yellow_hinge.practice.piece import Change, Piece
from yellow_hinge.theory.pretty import counted

#: Log-odds of a slip at a change in which nothing moves (about one in thirty), and the bounds within which
#: an opening guess stays: two in a hundred to two in three.
NOTHING_MOVES = -3.4
_BOUNDS = (-3.9, 0.7)


class Aspect(Struct, frozen=True):
    """One thing that makes a change hard: its weight in log-odds, how much of it there is, and in words."""

    name: str
    weight: float
    amount: Callable[[Change, float], float]
    words: Callable[[Change], str]


def _motion(change: Change, _: float) -> float:
    return min(change.report.motion_st, 24) / 12


def _largest(change: Change, _: float) -> float:
    return max(0, min(change.report.largest_st, 14) - 2) / 6


def _coming(change: Change, _: float) -> float:
    return (change.report.entered + change.report.left_off) / 2


def crossings(change: Change) -> int:
    """Fingers that go from a white key to a black one, or back."""
    moves = [pair for side in SIDES for pair in change.report.hand(side).pairs]
    return sum(is_black(start) != is_black(to) for start, to in moves)


def finger_changes(change: Change) -> int:
    """Held notes whose finger changes, and moving ones that another finger takes."""
    before, after = change.report.ends
    return sum(
        before.finger(side, start) != after.finger(side, to)
        for side in SIDES
        for start, to in change.report.hand(side).pairs
    )


def contrary(change: Change) -> bool:
    """Whether the hands go opposite ways."""
    ways = []
    for side in SIDES:
        shift = sum(to - start for start, to in change.report.hand(side).pairs)
        ways.append((shift > 0) - (shift < 0))
    return ways[0] * ways[1] < 0


def _stretch(change: Change, _: float) -> float:
    return max(0.0, min(change.strain, 1.2) - 0.6) / 0.4


def _speed(change: Change, seconds: float) -> float:
    """Fingers that move, by the time there is for it: one a second is slow."""
    moving = sum(start != to for side in SIDES for start, to in change.report.hand(side).pairs)
    return min(3.0, moving / max(0.2, seconds)) / 2


def _motion_words(change: Change) -> str:
    return half_steps(change.report.motion_st)


#: Weights in log-odds; our choice.
ASPECTS: tuple[Aspect, ...] = (
    Aspect("motion", 0.7, _motion, _motion_words),
    Aspect("largest", 0.6, _largest, lambda c: f"a move of {interval_words(c.report.largest_st)}"),
    Aspect("coming", 0.35, _coming,
           lambda c: f"{counted(c.report.entered + c.report.left_off, 'note')} coming or going"),
    Aspect("crossing", 0.4, lambda c, _: crossings(c) / 2,
           lambda c: f"{counted(crossings(c), 'finger')} crossing between black and white"),
    Aspect("stretch", 0.5, _stretch, lambda c: f"{c.strain:.0%} of the reach"),
    Aspect("fingers", 0.35, lambda c, _: finger_changes(c) / 2,
           lambda c: f"{finger_changes(c)} fingers change"),
    Aspect("contrary", 0.35, lambda c, _: float(contrary(c)), lambda _: "the hands go opposite ways"),
    Aspect("speed", 0.5, _speed, lambda _: "little time"),
)  # fmt: skip


def opening(change: Change, piece: Piece) -> float:
    """Log-odds of a slip at the song's tempo, by how a change is built alone."""
    seconds = piece.seconds(change.quarters, piece.tempo)
    total = NOTHING_MOVES + sum(aspect.weight * aspect.amount(change, seconds) for aspect in ASPECTS)
    return max(_BOUNDS[0], min(_BOUNDS[1], total))


def hard_because(change: Change, piece: Piece, most: int = 2) -> str:
    """What makes it hard, the heaviest first: "12 half steps, the hands go opposite ways". Empty where
    nothing does."""
    seconds = piece.seconds(change.quarters, piece.tempo)
    weighed = sorted(ASPECTS, key=lambda aspect: -aspect.weight * aspect.amount(change, seconds))
    shown = [aspect for aspect in weighed[:most] if aspect.weight * aspect.amount(change, seconds) > 0.15]
    return ", ".join(aspect.words(change) for aspect in shown)


def chance(log_odds: float) -> float:
    """Log-odds as a chance, 0..1."""
    return 1 / (1 + math.exp(-log_odds))


def log_odds(share: float) -> float:
    """A chance as log-odds; never quite sure of anything."""
    kept = max(1e-4, min(1 - 1e-4, share))
    return math.log(kept / (1 - kept))
