"""Effort as arrays: what each pair of hands costs by itself, and each hinge.

All arrays are int32 or int64 in hundredths of a half step. Index 0 of an axis is the first shape
of that hand's list.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from itertools import chain

import numpy as np
import numpy.typing as npt

from yellow_hinge.lattice.kernel import FORBIDDEN, Costs
from yellow_hinge.motion.distance import LARGE_FROM_ST, Change
from yellow_hinge.motion.line import ALONG, Step, end_bass, end_share, end_tops
from yellow_hinge.motion.pairing import hand_distances
from yellow_hinge.motion.weights import (
    COLOUR_WANTED,
    EASY_GAP_ST,
    EASY_REACH_SHARE,
    HOLE_FROM_ST,
    LEAP_FROM_ST,
    LONE_BASS_TOP_KEY,
    MELODY_ROOM_ST,
    Weights,
    bass_top_key,
)
from yellow_hinge.remembering import for_a_song
from yellow_hinge.stopping import ask
from yellow_hinge.theory.coverage import contradictions
from yellow_hinge.theory.roughness import MUD_FROM_KEY
from yellow_hinge.theory.tension import is_triad
from yellow_hinge.voicing.candidates import (
    Candidates,
    doubled_masks,
    has_masks,
    label_mask,
    once_mask,
    twice_masks,
)
from yellow_hinge.voicing.inside import NINTH_ST, ninths_inside, rubs_on_top
from yellow_hinge.voicing.limits import LOWEST_KEY, LOWEST_SECOND_KEY, depth_st
from yellow_hinge.voicing.register import mud_table
from yellow_hinge.voicing.shape import HandShape, Roles
from yellow_hinge.voicing.wish import Wish

Numbers = npt.NDArray[np.int64]
Shapes = tuple[HandShape, ...]
#: For each shape of a right hand the semitones of its top note above the chord's bass, and its pitch class.
Over = tuple[Numbers, Numbers]
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
    costs += weights.minor_ninth * _rubs_between(left, right)
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
    struck, over_bassist = wish.struck_by(side), wish.bass == "bassist"
    places = {recipe: place for place, recipe in enumerate(wish.recipes_of(side))}
    costs = (
        weights.strain * np.maximum(0, strains - EASY_REACH_SHARE)
        + weights.roll * (strains > 100)
        + weights.home * outside
        + weights.notes * row[_counts(shapes)] // 100
        + weights.struck * _each(shapes, lambda shape: struck.off(len(shape.keys)))
        + weights.struck_low * _each(shapes, lambda shape: struck.off_st(shape.keys[0], over_bassist))
        + weights.taste * _each(shapes, lambda shape: places.get(shape.recipe, 0))
        + weights.seconds * _neighbours(shapes)
        + weights.minor_ninth * _each(shapes, ninths_inside)
    )
    if side == "right" and not wish.third_below:
        costs += weights.echo * np.bitwise_count(twice_masks(shapes)).astype(np.int64)
    if side == "right" and wish.top is None:
        costs += weights.rub_on_top * _each(shapes, lambda shape: rubs_on_top(shape.keys))
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
        cost += weights.high_bass * np.maximum(0, lows - bass_top_key(wish))
        lone = np.maximum(0, lows - LONE_BASS_TOP_KEY) * (_counts(shapes) == 1)
        cost += weights.lone_bass * lone * (wish.hands == "both")
    if wish.low_degrees is not None:
        cost += weights.inverted_bass * (lows % 12 != wish.chord.bass_name.pitch_class)
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
    colours = np.bitwise_count(union & ~named).astype(np.int64)
    if triad:
        costs = weights.colour_on_triad // max(1, wish.colour) * colours
    else:
        costs = weights.colour * np.abs(100 * colours - COLOUR_WANTED[wish.colour]) // 100
    if triad and chord.fifth:
        costs += weights.no_fifth * ((heard & label_mask((chord.fifth,))) == 0)
    for one, other in contradictions(chord):
        pair = label_mask((one, other))
        costs += weights.contradiction * ((heard & pair) == pair)
    doubled = doubled_masks(wish, left, right)
    if chord.third:
        price = weights.third_over_third if wish.third_below else weights.doubled_third
        costs += price * np.maximum(0, _thirds(wish, left, right) - 1)
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
    return np.array([shape.keys[index] if shape.keys else _NO_KEY for shape in shapes], dtype=np.int64)


def _counts(shapes: Shapes) -> Numbers:
    return np.array([len(shape.keys) for shape in shapes], dtype=np.int64)


def _presence(shapes: Shapes, allowed: bool) -> npt.NDArray[np.float32]:
    """(shapes, 128): 1 where a key sounds; flat ninths left out when ``allowed`` is False."""
    sheet = _sheet(shapes, 0, 128)
    if not allowed:
        for row, shape in enumerate(shapes):
            if "b9" in shape.degrees:
                flat = (key for key, label in zip(shape.keys, shape.degrees, strict=True) if label == "b9")
                sheet[row, list(flat)] = 0
    return sheet


def _rubs_between(left: Shapes, right: Shapes) -> Numbers:
    """(L, R): half steps and minor ninths from the left hand up to the right one. A flat ninth of the chord
    over its own root is the sound that the symbol asks for."""
    low, high = _presence(left, allowed=True), _presence(right, allowed=False)
    ninths = low[:, :-NINTH_ST] @ high[:, NINTH_ST:].T
    return np.asarray(np.rint(ninths + low[:, :-1] @ high[:, 1:].T), dtype=np.int64)


def line_costs(wish: Wish, left: Shapes, right: Shapes, weights: Weights) -> Numbers:
    """(L, R), or (1, R) where only the right hand is concerned: what a chord's place in its section costs."""
    line = wish.line
    costs = np.zeros((1, len(right)), dtype=np.int64)
    if wish.plays("right") and line.aim is not None:
        costs[0] += weights.aim * np.maximum(0, np.abs(_ends(right, -1) - line.aim) - line.room)
    if line.closes:
        costs = costs + _end_costs(wish, left, right, weights)
    return costs


def _end_costs(wish: Wish, left: Shapes, right: Shapes, weights: Weights) -> Numbers:
    """(L, R): what an ending costs."""
    lowest = left if wish.plays("left") else right
    low = _each(lowest, lambda shape: end_bass(wish, shape.keys[0], weights))
    highest, tops = right if wish.plays("right") else left, end_tops(wish)
    top = weights.end_top * _each(highest, lambda shape: shape.keys[-1] % 12 not in tops)
    costs = low[:, None] if lowest is left else low[None, :]
    costs = costs + (top[:, None] if highest is left else top[None, :])
    if wish.chord.third:
        costs = costs + weights.end_third * np.maximum(0, _thirds(wish, left, right) - 1)
    return np.asarray(costs * end_share(wish.line) // 100)


def _thirds(wish: Wish, left: Shapes, right: Shapes) -> Numbers:
    """(L, R): how often the third sounds."""
    thirds = [_each(shapes, lambda shape: shape.degrees.count(wish.chord.third)) for shapes in (left, right)]
    return np.asarray(thirds[0][:, None] + thirds[1][None, :] + (wish.heard_below == wish.chord.third))


# --- hinges --------------------------------------------------------------------------


def hinge_costs(before: Shapes, after: Shapes, weights: Weights, side: str, step: Step) -> Costs:
    """(B, A): the cost of one hand going from each shape of ``before`` to each of ``after``; 0
    where either is empty: a hand comes from rest as it likes.

    ``side`` is "left" or "right". The top line is the right hand's highest note; the bass
    line the left hand's lowest, where it has the bass. ``step`` says what of the chord is another.
    """
    motion, excess, surplus, bass = hand_distances(before, after)
    move = weights.left_move if side == "left" else weights.right_move
    large = weights.large_left if side == "left" else weights.large_right
    cost = motion * move
    cost += large * excess
    if side == "left" and step.has_bass:
        goes = (_ends(after, 0)[None, :] - _ends(before, 0)[:, None]) % 12 != 0
        leap = np.maximum(0, bass - LARGE_FROM_ST) ** 2
        cost += goes * ((weights.bass_move - move) * bass - large * leap)
    ask()
    hand_roles = step.roles_of(side)
    if weights.shape_change and hand_roles is not None:
        ends = zip((before, after), hand_roles, strict=True)
        start, end = (shape_ids(shapes, step.root, roles) for shapes, roles in ends)
        cost += weights.shape_change * (start[:, None] != end[None, :])
    ask()
    cost += np.where(surplus > 0, weights.enter * surplus, -weights.leave * surplus)
    ask()
    if weights.still and step.change == Change.ROOT:
        cost += weights.still * ((motion == 0) & (surplus == 0))
    if side == "right":
        cost += _top_costs(before, after, weights, step)
    if weights.tendency and step.leading:
        cost += weights.tendency * unresolved_costs(before, after, step)
    ask()
    cost[_counts(before) == 0, :] = 0
    cost[:, _counts(after) == 0] = 0
    return np.minimum(cost, FORBIDDEN - 1)


def _top_costs(before: Shapes, after: Shapes, weights: Weights, step: Step) -> Costs:
    """(B, A): what the top line costs."""
    tops, new_tops = _ends(before, -1), _ends(after, -1)
    top = np.abs(new_tops[None, :] - tops[:, None]).astype(np.int32)
    cost: Costs = weights.top_move * top
    if weights.held_top and step.change != Change.NONE:
        cost += weights.held_top * (top == 0)
    if weights.top_leap:
        cost += weights.top_leap * np.maximum(0, top - LEAP_FROM_ST)
    if weights.parallel and step.basses is not None:
        start, end = over_basses(step, tops, new_tops)
        cost += weights.parallel * along_costs(start, end)
    return cost


def same_tops(before: Shapes, after: Shapes) -> npt.NDArray[np.bool_]:
    """(B, A): where the top note stays; nowhere with an empty hand."""
    tops, new_tops = _ends(before, -1), _ends(after, -1)
    return np.asarray((tops[:, None] == new_tops[None, :]) & (tops != _NO_KEY)[:, None])


def over_basses(step: Step, tops: Numbers, new_tops: Numbers) -> tuple[Over, Over]:
    """Top notes over the basses of a step."""
    assert step.basses is not None
    start, end = (
        ((keys - step.root - bass) % 12, keys % 12)
        for keys, bass in zip((tops, new_tops), step.basses, strict=True)
    )
    return start, end


def along_costs(start: Over, end: Over) -> npt.NDArray[np.bool_]:
    """(B, A): where the top line goes along with the basses, as :func:`motion.line.along`."""
    (over, tone), (new_over, new_tone) = start, end
    same = (over[:, None] == new_over[None, :]) & np.isin(over, ALONG)[:, None]
    return np.asarray(same & (tone[:, None] != new_tone[None, :]))


def unresolved_costs(before: Shapes, after: Shapes, step: Step) -> Costs:
    """(B, A): tones that do not go where they lead, as :func:`motion.line.unresolved` counts them."""
    keys_there = [key for shape in (*before, *after) for key in shape.keys]
    lowest, highest = min(keys_there, default=0), max(keys_there, default=0)
    base, width = lowest - _WIDEST_LEAD_ST, highest - lowest + 1 + 2 * _WIDEST_LEAD_ST
    start, there = (_sheet(shapes, base, width) for shapes in (before, after))
    missed = np.zeros((len(before), len(after)), dtype=np.float32)
    for tone, moves in step.leading:
        keys = np.flatnonzero((np.arange(base, base + width) - step.root) % 12 == tone)
        keys = keys[(keys >= _WIDEST_LEAD_ST) & (keys < width - _WIDEST_LEAD_ST)]
        goes = [there[:, keys + move] > 0 for move in moves]
        missed += start[:, keys] @ (~np.logical_or.reduce(goes)).astype(np.float32).T
    return missed.astype(np.int32)


#: No tone leads on by more.
_WIDEST_LEAD_ST = 2


def _sheet(shapes: Shapes, base: int, width: int) -> npt.NDArray[np.float32]:
    """(shapes, width): 1 where a key sounds, from the key ``base`` on."""
    sheet = np.zeros((len(shapes), width), dtype=np.float32)
    keys = np.fromiter(chain.from_iterable(shape.keys for shape in shapes), dtype=np.int64)
    sheet[np.repeat(np.arange(len(shapes)), _counts(shapes)), keys - base] = 1
    return sheet


def shape_ids(shapes: Shapes, root: int, roles: Roles) -> Numbers:
    """(shapes,): a number for what the notes of each do, by their roles above a root: the same for shapes
    that are one, transposed."""
    return _each(shapes, lambda shape: shape_id(tuple(roles[(key - root) % 12] for key in shape.keys)))


@for_a_song
@lru_cache(maxsize=16_384)
def shape_id(roles: Roles) -> int:
    """A number for a row of roles."""
    return _shape_numbers.setdefault(roles, len(_shape_numbers))


_shape_numbers: dict[Roles, int] = {}
