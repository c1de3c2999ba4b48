"""Effort as arrays: what each pair of hands costs by itself, and each hinge.

All arrays are int32 or int64 in hundredths of a half step. Index 0 of an axis is the first shape
of that hand's list.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import chain

import numpy as np
import numpy.typing as npt

from yellow_hinge.lattice.kernel import FORBIDDEN, Costs
from yellow_hinge.motion.distance import LARGE_FROM_ST, Change
from yellow_hinge.motion.pairing import by_count, hand_distances
from yellow_hinge.motion.weights import (
    BASS_TOP_KEY,
    EASY_GAP_ST,
    EASY_REACH_SHARE,
    HOLE_FROM_ST,
    LONE_BASS_TOP_KEY,
    MELODY_ROOM_ST,
    Weights,
)
from yellow_hinge.stopping import ask
from yellow_hinge.theory.coverage import contradictions
from yellow_hinge.theory.tension import is_triad
from yellow_hinge.voicing.candidates import (
    Candidates,
    doubled_masks,
    has_masks,
    label_mask,
    once_mask,
    twice_masks,
)
from yellow_hinge.voicing.register import (
    LOWEST_KEY,
    LOWEST_SECOND_KEY,
    MUD_FROM_KEY,
    depth_st,
    mud_table,
)
from yellow_hinge.voicing.shape import HandShape
from yellow_hinge.voicing.wish import Wish

Numbers = npt.NDArray[np.int64]
Shapes = tuple[HandShape, ...]
_NO_KEY = -1000


def pair_costs(wish: Wish, candidates: Candidates, weights: Weights) -> Costs:
    """(L, R): the cost of each voicing by itself, FORBIDDEN where the pair is not legal."""
    left, right = candidates.left, candidates.right
    if not left or not right:
        return np.full((len(left), len(right)), FORBIDDEN, dtype=np.int32)
    own = [_hand_costs(wish, side, shapes, weights) for side, shapes in (("left", left), ("right", right))]
    ask()
    costs = own[0][:, None] + own[1][None, :] + _tone_costs(wish, left, right, weights)
    ask()
    costs += weights.minor_ninth * _minor_ninths(left, right)
    costs += weights.mud * _mud(left, right) // 100
    if wish.hands == "both":
        costs += _between_costs(wish, left, right, weights)
    return np.where(candidates.legal, costs, FORBIDDEN).astype(np.int32)


def _hand_costs(wish: Wish, side: str, shapes: Shapes, weights: Weights) -> Numbers:
    """(shapes,): everything that one hand pays by itself; 0 for a hand that does not play."""
    if not wish.plays(side):
        return np.zeros(len(shapes), dtype=np.int64)
    profile, hand = wish.profile, wish.hand(side)
    strains = _each(shapes, lambda shape: profile.strain(hand, shape.keys))
    lows, highs = _ends(shapes, 0), _ends(shapes, -1)
    outside = np.maximum(0, hand.home_low - lows) + np.maximum(0, highs - hand.home_high)
    row = np.array(wish.school.notes.of(side, wish.bass), dtype=np.int64)
    places = {recipe: place for place, recipe in enumerate(wish.recipes_of(side))}
    costs = (
        weights.strain * np.maximum(0, strains - EASY_REACH_SHARE)
        + weights.roll * (strains > 100)
        + weights.home * outside
        + weights.notes * row[_counts(shapes)] // 100
        + weights.taste * _each(shapes, lambda shape: places.get(shape.recipe, 0))
        + weights.seconds * _neighbours(shapes)
    )
    if side == "right" and not wish.third_below:
        costs += weights.echo * np.bitwise_count(twice_masks(shapes)).astype(np.int64)
    signature = set(wish.school.signature(side))
    if signature:
        costs += weights.off_class * _each(shapes, lambda shape: shape.recipe not in signature)
    if wish.school.loose:
        costs += weights.low_interval * _each(shapes, lambda shape: depth_st(shape.keys))
    if wish.clear_of is not None:
        costs += weights.melody_rub * _rubs(shapes, wish.clear_of)
    if wish.room_for is not None:
        costs += weights.melody_room * _near(shapes, wish.room_for)
    if wish.heard_below is not None:
        below = wish.chord.bass_name.pitch_class
        costs += weights.minor_ninth * _rubs_over(shapes, below)
    if side == ("left" if wish.plays("left") else "right"):
        costs += _bottom_costs(wish, shapes, weights)
    return np.asarray(costs)


def _bottom_costs(wish: Wish, shapes: Shapes, weights: Weights) -> Numbers:
    """(shapes,): what the hand with the lowest note pays for it."""
    lows = _ends(shapes, 0)
    cost = np.zeros(len(shapes), dtype=np.int64)
    if wish.bass == "self" and wish.plays("left"):
        cost += weights.high_bass * np.maximum(0, lows - BASS_TOP_KEY)
        lone = np.maximum(0, lows - LONE_BASS_TOP_KEY) * (_counts(shapes) == 1)
        cost += weights.lone_bass * lone * (wish.hands == "both")
    if wish.low_degrees is not None:
        cost += weights.inverted_bass * (lows % 12 != wish.chord.bass_name.pitch_class)
    if wish.school.loose:
        second = _each(shapes, lambda s: len(s.keys) > 1 and s.keys[1] - s.keys[0] <= 2)
        cost += weights.low_second * second * (lows < LOWEST_SECOND_KEY)
    return np.asarray(cost)


def _tone_costs(wish: Wish, left: Shapes, right: Shapes, weights: Weights) -> Numbers:
    """(L, R): what the degrees that sound cost, whatever their places."""
    chord = wish.chord
    union = has_masks(left)[:, None] | has_masks(right)[None, :]
    below = 0 if wish.heard_below is None else label_mask((wish.heard_below,))
    heard = union | below
    triad = is_triad(chord)
    named = label_mask(frozenset(chord.degrees)) | label_mask((wish.bass_label,))
    named |= 0 if wish.top_label is None else label_mask((wish.top_label,))
    price = weights.colour + weights.colour_on_triad * triad
    costs = price * np.bitwise_count(union & ~named).astype(np.int64)
    if triad and chord.fifth:
        costs += weights.no_fifth * ((heard & label_mask((chord.fifth,))) == 0)
    for one, other in contradictions(chord):
        pair = label_mask((one, other))
        costs += weights.contradiction * ((heard & pair) == pair)
    doubled = doubled_masks(wish, left, right)
    if chord.third:
        thirds = [_each(shapes, lambda shape: shape.degrees.count(chord.third)) for shapes in (left, right)]
        total = thirds[0][:, None] + thirds[1][None, :] + (wish.heard_below == chord.third)
        price = weights.third_over_third if wish.third_below else weights.doubled_third
        costs += price * np.maximum(0, total - 1)
    once = once_mask(wish)
    if wish.bass == "self" and not wish.third_below:
        once &= ~(label_mask((wish.bass_label,)) if wish.plays("left") else 0)  # octaves are one bass
    costs += weights.doubled * np.bitwise_count(doubled & once).astype(np.int64)
    return np.asarray(costs)


def _between_costs(wish: Wish, left: Shapes, right: Shapes, weights: Weights) -> Numbers:
    """(L, R): what lies between the hands."""
    gap = _ends(right, 0)[None, :] - _ends(left, -1)[:, None]
    costs = weights.gap * np.maximum(0, gap - EASY_GAP_ST) + weights.hole * np.maximum(0, gap - HOLE_FROM_ST)
    if wish.school.loose:
        limits = np.array([LOWEST_KEY.get(interval, 0) for interval in range(128)])
        deep = np.maximum(0, limits[np.clip(gap, 0, 127)] - _ends(left, -1)[:, None])
        costs += weights.low_interval * deep
        single = (_counts(left) == 1) & (_ends(left, 0) < LOWEST_SECOND_KEY)
        costs += weights.low_second * (single[:, None] & (gap <= 2))
    return np.asarray(costs)


def _mud(left: Shapes, right: Shapes) -> Numbers:
    """(L, R): mud of both hands together, in hundredths."""
    # in floats, whose products are quick and exact for numbers this small; only over the keys that
    # are there, the lower one of a pair where it can be muddy at all
    low, high = (_presence(shapes, allowed=True) for shapes in (left, right))
    sounding = np.flatnonzero(low.any(axis=0) | high.any(axis=0))
    muddy = sounding[sounding < MUD_FROM_KEY]
    table = mud_table().astype(np.float32)[np.ix_(muddy, sounding)]
    below, above = low[:, muddy] @ table, high[:, sounding]
    own = [((sheet[:, muddy] @ table) * sheet[:, sounding]).sum(axis=1) for sheet in (low, high)]
    return np.asarray(own[0][:, None] + own[1][None, :] + below @ above.T, dtype=np.int64)


def _each(shapes: Shapes, measure: Callable[[HandShape], int]) -> Numbers:
    """(shapes,): one number for each."""
    return np.array([measure(shape) for shape in shapes], dtype=np.int64)


def _neighbours(shapes: Shapes) -> Numbers:
    """(shapes,): half steps between neighbouring notes."""
    sheet = _presence(shapes, allowed=True)
    return np.asarray((sheet[:, :-1] * sheet[:, 1:]).sum(axis=1).astype(np.int64))


def _rubs(shapes: Shapes, melody: int) -> Numbers:
    """(shapes,): notes a half step from a melody note, in any octave."""
    return _each(shapes, lambda shape: sum((key - melody) % 12 in (1, 11) for key in shape.keys))


def _near(shapes: Shapes, melody: int) -> Numbers:
    """(shapes,): notes in the register of a melody note."""
    return _each(shapes, lambda shape: sum(abs(key - melody) <= MELODY_ROOM_ST for key in shape.keys))


def _rubs_over(shapes: Shapes, bass_class: int) -> Numbers:
    """(shapes,): notes a minor ninth above the bassist's note, flat ninths apart."""
    return _each(
        shapes,
        lambda shape: sum(
            (key - bass_class) % 12 == 1 and degree != "b9"
            for key, degree in zip(shape.keys, shape.degrees, strict=True)
        ),
    )


def _ends(shapes: Shapes, index: int) -> Numbers:
    return _each(shapes, lambda shape: shape.keys[index] if shape.keys else _NO_KEY)


def _counts(shapes: Shapes) -> Numbers:
    return _each(shapes, lambda shape: len(shape.keys))


def _presence(shapes: Shapes, allowed: bool) -> npt.NDArray[np.float32]:
    """(shapes, 128): 1 where a key sounds; flat ninths left out when ``allowed`` is False."""
    sheet = np.zeros((len(shapes), 128), dtype=np.float32)
    keys = np.fromiter(chain.from_iterable(shape.keys for shape in shapes), dtype=np.int64)
    sheet[np.repeat(np.arange(len(shapes)), _counts(shapes)), keys] = 1
    if not allowed:
        for row, shape in enumerate(shapes):
            if "b9" in shape.degrees:
                flat = (key for key, label in zip(shape.keys, shape.degrees, strict=True) if label == "b9")
                sheet[row, list(flat)] = 0
    return sheet


def _minor_ninths(left: Shapes, right: Shapes) -> Numbers:
    """(L, R): minor ninths from the left hand up to the right one. A flat ninth of the chord
    over its own root is the sound that the symbol asks for."""
    low = _presence(left, allowed=True)[:, :-13]
    high = _presence(right, allowed=False)[:, 13:]
    return np.asarray(np.rint(low @ high.T), dtype=np.int64)


# --- hinges --------------------------------------------------------------------------


def hinge_costs(
    before: Shapes, after: Shapes, weights: Weights, side: str, has_bass: bool, change: Change = Change.ROOT
) -> Costs:
    """(B, A): the cost of one hand going from each shape of ``before`` to each of ``after``; 0
    where either is empty: a hand comes from rest as it likes.

    ``side`` is "left" or "right". The top line is the right hand's highest note; the bass
    line the left hand's lowest, when ``has_bass``. ``change`` says what of the chord is another.
    """
    motion, excess, surplus, bass = hand_distances(before, after)
    move = weights.left_move if side == "left" else weights.right_move
    large = weights.large_left if side == "left" else weights.large_right
    cost = motion * move
    cost += large * excess
    if side == "left" and has_bass:
        goes = (_ends(after, 0)[None, :] - _ends(before, 0)[:, None]) % 12 != 0
        leap = np.maximum(0, bass - LARGE_FROM_ST) ** 2
        cost += goes * ((weights.bass_move - move) * bass - large * leap)
    ask()
    if weights.shape_change:
        cost += weights.shape_change * _form_changes(before, after)
    ask()
    cost += np.where(surplus > 0, weights.enter * surplus, -weights.leave * surplus)
    ask()
    if side == "right":
        top = np.abs(_ends(after, -1)[None, :] - _ends(before, -1)[:, None]).astype(np.int32)
        cost += weights.top_move * top
        if weights.held_top and change != Change.NONE:
            cost += weights.held_top * (top == 0)
    elif weights.still and change == Change.ROOT:
        cost += weights.still * ((motion == 0) & (surplus == 0))
    ask()
    cost[_counts(before) == 0, :] = 0
    cost[:, _counts(after) == 0] = 0
    return np.minimum(cost, FORBIDDEN - 1)


def _form_changes(before: Shapes, after: Shapes) -> Costs:
    """(B, A): by how many half steps in all the notes move against the lowest one; 0 for a shape
    that slides in parallel, an octave for shapes of different size."""
    change = np.full((len(before), len(after)), 12, dtype=np.int32)
    for b_count, b_rows, b_keys in by_count(before):
        for a_count, a_rows, a_keys in by_count(after):
            if a_count == b_count:
                ask()
                forms = [keys - keys[:, :1] for keys in (b_keys, a_keys)]
                moved = np.abs(forms[1][None, :, :] - forms[0][:, None, :]).sum(axis=2)
                change[np.ix_(b_rows, a_rows)] = moved
    return change
