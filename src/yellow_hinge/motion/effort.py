"""What a whole row costs: its effort by shares, its half steps, and the reasons behind them.

One place for the figures of a row, loop and rests included, so that every page and the command
line say the same number.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TypeVar

from yellow_hinge.motion.distance import HandMotion, hand_motion
from yellow_hinge.motion.explain import Term, explain_change, explain_voicing
from yellow_hinge.motion.plan import Answer
from yellow_hinge.motion.weights import Group
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish

_T = TypeVar("_T")
Wishes = Sequence[Wish | None]


@dataclass(frozen=True, slots=True)
class Effort:
    """The shares of an effort, in hundredths of a half step; they add up to ``cost``."""

    moving: int
    coming: int
    sound: int
    comfort: int
    style: int

    @property
    def cost(self) -> int:
        return self.moving + self.coming + self.sound + self.comfort + self.style

    def shares(self) -> dict[str, float]:
        """By name, in half steps."""
        return {group.value: getattr(self, group.value) / 100 for group in Group}

    def __sub__(self, other: Effort) -> Effort:
        return Effort(*(getattr(self, g.value) - getattr(other, g.value) for g in Group))


@dataclass(frozen=True, slots=True)
class Figures:
    """A row in figures: half steps in all and by hand, notes held, notes that come or go."""

    motion_st: int
    left_st: int
    right_st: int
    held: int
    changing: int


def changes_of(row: Sequence[_T], loop: bool) -> list[tuple[_T, _T]]:
    """The changes of a row: neighbours, and in a loop the last with the first."""
    closing = [row[0]] if loop and len(row) > 1 else []
    return list(pairwise([*row, *closing]))


def row_terms(
    wishes: Wishes, voicings: Sequence[Voicing], loop: bool
) -> tuple[list[tuple[Term, ...]], list[tuple[Term, ...]]]:
    """Reasons for every chord and for every change of a row. Rests cost nothing."""
    chords = [
        explain_voicing(wish, voicing) if wish is not None and voicing.keys else ()
        for wish, voicing in zip(wishes, voicings, strict=True)
    ]
    hinges = [
        () if start is None or end is None else explain_change(start, end, before, after)
        for (start, before), (end, after) in changes_of(list(zip(wishes, voicings, strict=True)), loop)
    ]
    return chords, hinges


def effort_of(answer: Answer) -> Effort:
    """The effort of an answer by shares. Its cost is the answer's cost, locked chords included."""
    chords, hinges = row_terms(answer.wishes, answer.voicings, answer.loop)
    return added_up([term for terms in (*chords, *hinges) for term in terms])


def added_up(terms: Sequence[Term]) -> Effort:
    """The shares of some reasons."""
    shares = dict.fromkeys(Group, 0)
    for term in terms:
        shares[term.group] += term.cost
    return Effort(*(shares[group] for group in Group))


def figures(voicings: Sequence[Voicing], loop: bool) -> Figures:
    """Add up a row's changes, the way back of a loop among them. A hand that comes from rest or
    goes to rest neither moves nor counts as coming and going."""
    moves: dict[str, list[HandMotion]] = {"left": [], "right": []}
    for before, after in changes_of(voicings, loop):
        for side, found in moves.items():
            if before.hand(side).keys and after.hand(side).keys:
                found.append(hand_motion(before.hand(side).keys, after.hand(side).keys))
    left, right = (sum(move.motion_st for move in moves[side]) for side in ("left", "right"))
    both = [*moves["left"], *moves["right"]]
    return Figures(
        left + right,
        left,
        right,
        sum(move.held for move in both),
        sum(len(move.entered) + len(move.left) for move in both),
    )
