"""A row in figures: its effort by shares, its half steps, loop and rests included.

One place for these numbers, so that every page and the command line say the same. No search and
no arrays.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import TypeVar

from msgspec import Struct

from yellow_hinge.motion.distance import HandMotion, hand_motion
from yellow_hinge.motion.weights import Group
from yellow_hinge.theory.pretty import counted
from yellow_hinge.voicing.shape import Voicing

#: Hundredths of a half step of effort: below the first nobody notices it, below the other it is not one.
_NOTHING, _LITTLE = 5, 75

_T = TypeVar("_T")


class Effort(Struct, frozen=True):
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

    def __sub__(self, effort: Effort) -> Effort:
        return Effort(*(getattr(self, g.value) - getattr(effort, g.value) for g in Group))


class Figures(Struct, frozen=True):
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


def figures(voicings: Sequence[Voicing], loop: bool) -> Figures:
    """Add up a row's changes, the way back of a loop among them. A hand that comes from rest or
    goes to rest neither moves nor counts as coming and going."""
    moves: dict[str, list[HandMotion]] = {"left": [], "right": []}
    for before, after in changes_of(voicings, loop):
        for side, motions in moves.items():
            if before.hand(side).keys and after.hand(side).keys:
                motions.append(hand_motion(before.hand(side).keys, after.hand(side).keys))
    left, right = (sum(move.motion_st for move in moves[side]) for side in ("left", "right"))
    both = [*moves["left"], *moves["right"]]
    return Figures(
        left + right,
        left,
        right,
        sum(move.held for move in both),
        sum(len(move.entered) + len(move.left) for move in both),
    )


def effort_words(effort: Effort, motion_st: int) -> str:
    """The effort in a line, its shares adding up: "Effort 152: 82 for 96 half steps, 42 for notes
    that come or go, 27 for sound and comfort, 1 for style"."""
    moved = f"for {half_steps(motion_st)}"
    words = (moved, "for notes that come or go", "for sound and comfort", "for style")
    shares = _rounded((effort.moving, effort.coming, effort.sound + effort.comfort, effort.style))
    said = [f"{share} {word}" for share, word in zip(shares, words, strict=True) if share or word == moved]
    return f"Effort {sum(shares)}: {', '.join(said)}"


def _rounded(shares: Sequence[int]) -> list[int]:
    """Hundredths as whole numbers that add up to the rounded sum: the largest remainders go up."""
    whole = [share // 100 for share in shares]
    short = round(sum(shares) / 100) - sum(whole)
    for place in sorted(range(len(shares)), key=lambda k: whole[k] * 100 - shares[k])[:short]:
        whole[place] += 1
    return whole


def half_steps(count: int) -> str:
    """A number of half steps in words."""
    return counted(count, "half step")


def amount_words(cost: int) -> str:
    """An amount of effort (hundredths of a half step, 0 or more), rounded as players say it."""
    return half_steps(round(cost / 100)) if cost >= _LITTLE else "less than a half step"


def more_words(more: int) -> str:
    """What something adds to the effort (hundredths of a half step), in whole half steps: "+12", "−3"; what
    is less than one is "+½", and what nobody notices "±0"."""
    if abs(more) < _NOTHING:
        return "±0"
    sign = "+" if more > 0 else "−"
    return f"{sign}{round(abs(more) / 100)}" if abs(more) >= _LITTLE else f"{sign}½"


def motion_st(before: Voicing | None, after: Voicing | None) -> int:
    """Half steps between two voicings; none from or to silence."""
    if before is None or after is None:
        return 0
    return figures((before, after), loop=False).motion_st
