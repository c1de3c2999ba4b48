"""Why a voicing or a change costs what it costs, as phrases with shares.

Computed plainly, one note at a time; the tests hold the sums against the arrays of
:mod:`motion.terms`, so that what is shown is what was searched.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.motion.distance import HandMotion, hand_motion, large_excess
from yellow_hinge.motion.weights import (
    BASS_TOP_KEY,
    EASY_GAP_ST,
    EASY_REACH_SHARE,
    MELODY_ROOM_ST,
    Weights,
    weights_of,
)
from yellow_hinge.voicing.candidates import Wish
from yellow_hinge.voicing.register import mud
from yellow_hinge.voicing.shape import HandShape, Voicing


@dataclass(frozen=True, slots=True)
class Term:
    """One reason: the phrase, and its share in hundredths of a half step. ``mark`` is "mud",
    "rub", "wide" or "roll" for what is marked on the leaf."""

    phrase: str
    cost: int
    mark: str = ""


#: Share of the reach, in hundredths, from which a stretch is marked.
WIDE_FROM_SHARE = 95


def _steps(count: int) -> str:
    return f"{count} half step{'' if count == 1 else 's'}"


def _kept(terms: Iterator[Term]) -> tuple[Term, ...]:
    """What costs anything, the dearest first."""
    return tuple(sorted((term for term in terms if term.cost), key=lambda term: -term.cost))


def explain_voicing(wish: Wish, voicing: Voicing) -> tuple[Term, ...]:
    """What a voicing costs by itself."""
    return _kept(_voicing_terms(wish, voicing, weights_of(wish.school)))


def _voicing_terms(wish: Wish, voicing: Voicing, weights: Weights) -> Iterator[Term]:
    profile, left, right = wish.profile, voicing.left, voicing.right
    sides = (
        ("left", left, profile.left, wish.school.left(wish.bass)),
        ("right", right, profile.right, wish.school.right),
    )
    for side, shape, hand, ids in sides:
        yield from _hand_terms(side, shape, hand, ids, profile, weights)
    if wish.bass == "self":
        above = max(0, left.keys[0] - BASS_TOP_KEY)
        yield Term(f"the bass lies {_steps(above)} high", weights.high_bass * above)
    gap = right.keys[0] - left.keys[-1]
    yield Term(f"a hole of {_steps(gap)} between the hands", weights.gap * max(0, gap - EASY_GAP_ST))
    count = len(voicing.keys)
    yield Term(
        f"{count} notes where {wish.school.density} are wanted",
        weights.density * abs(count - wish.school.density),
    )
    ninths = sum(
        high - low == 13 and degree != "b9"
        for low in left.keys
        for high, degree in zip(right.keys, right.degrees, strict=True)
    )
    yield Term("a minor ninth rubs between the hands", weights.minor_ninth * ninths, "rub")
    yield Term("low and close: it sounds muddy", weights.mud * mud(voicing.keys) // 100, "mud")
    if wish.clear_of is not None:
        rubs = sum((key - wish.clear_of) % 12 in (1, 11) for key in voicing.keys)
        yield Term("a half step beside the sung melody", weights.melody_rub * rubs, "rub")
    if wish.room_for is not None:
        near = sum(abs(key - wish.room_for) <= MELODY_ROOM_ST for key in voicing.keys)
        yield Term("in the register that the melody wants", weights.melody_room * near)


def _hand_terms(
    side: str, shape: HandShape, hand: Hand, ids: tuple[str, ...], profile: HandProfile, weights: Weights
) -> Iterator[Term]:
    keys = shape.keys
    share = profile.strain(hand, keys)
    yield Term(
        f"the {side} hand stretches to {share} % of its reach",
        weights.strain * max(0, share - EASY_REACH_SHARE),
        "wide" if WIDE_FROM_SHARE <= share <= 100 else "",
    )
    yield Term(f"the {side} hand rolls its chord", weights.roll * profile.rolls(hand, keys), "roll")
    outside = max(0, hand.home_low - keys[0]) + max(0, keys[-1] - hand.home_high)
    yield Term(f"the {side} hand is {_steps(outside)} from home", weights.home * outside)
    steps = sum(b - a == 1 for a, b in pairwise(keys))
    yield Term(f"a half step inside the {side} hand", weights.seconds * steps)
    place = ids.index(shape.recipe) if shape.recipe in ids else 0
    yield Term(f"the school likes other {side}-hand shapes better", weights.taste * place)


def explain_change(wish: Wish, before: Voicing, after: Voicing, bass_before: str) -> tuple[Term, ...]:
    """What the change into ``after`` costs; ``wish`` is that of the chord it leads to."""
    weights = weights_of(wish.school)
    has_bass = bass_before == "self" == wish.bass
    return _kept(_change_terms(weights, before, after, has_bass))


def _change_terms(weights: Weights, before: Voicing, after: Voicing, has_bass: bool) -> Iterator[Term]:
    for side, start, end, move, large in (
        ("left", before.left, after.left, weights.left_move, weights.large_left),
        ("right", before.right, after.right, weights.right_move, weights.large_right),
    ):
        motion = hand_motion(start.keys, end.keys)
        yield Term(f"the {side} hand moves {_steps(motion.motion_st)}", move * motion.motion_st)
        excess = sum(large_excess(to - key) for key, to in motion.pairs)
        yield Term(f"a large move in the {side} hand", large * excess)
        yield from _coming_and_going(side, motion, weights)
        if weights.shape_change:
            yield Term(
                f"the {side} hand changes its form", weights.shape_change * _form_change(start.keys, end.keys)
            )
    if before.right.keys and after.right.keys:
        top = abs(after.right.keys[-1] - before.right.keys[-1])
        yield Term(f"the top line moves {_steps(top)}", weights.top_move * top)
    if has_bass and before.left.keys and after.left.keys:
        bass = abs(after.left.keys[0] - before.left.keys[0])
        yield Term(f"the bass moves {_steps(bass)}", weights.bass_move * bass)


def _coming_and_going(side: str, motion: HandMotion, weights: Weights) -> Iterator[Term]:
    came, went = len(motion.entered), len(motion.left)
    yield Term(f"{came} more in the {side} hand", weights.enter * came)
    yield Term(f"{went} fewer in the {side} hand", weights.leave * went)


def _form_change(before: tuple[int, ...], after: tuple[int, ...]) -> int:
    if len(before) != len(after):
        return 12
    return sum(abs((b - after[0]) - (a - before[0])) for a, b in zip(before, after, strict=True))
