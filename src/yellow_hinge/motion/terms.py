"""Weights to integer arrays: what each pair of hands costs by itself, and each hinge.

All arrays are int32 in hundredths of a semitone. Index 0 of an axis is the first shape
of that hand's list.
"""

from __future__ import annotations

from itertools import combinations

import numpy as np
import numpy.typing as npt

from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.lattice.kernel import FORBIDDEN, Costs
from yellow_hinge.motion.distance import LARGE_FROM_ST
from yellow_hinge.motion.weights import (
    BASS_TOP_KEY,
    EASY_GAP_ST,
    EASY_REACH_SHARE,
    MELODY_ROOM_ST,
    Weights,
)
from yellow_hinge.voicing.candidates import Candidates, Wish
from yellow_hinge.voicing.register import mud_table
from yellow_hinge.voicing.shape import HandShape

#: Ranks the pairings of one step: a semitone of motion outranks any excess (at most five moves of
#: 127 semitones, squared), and five such moves still fit an int32.
_MOTION_RANK = 1 << 17


def pair_costs(wish: Wish, candidates: Candidates, weights: Weights) -> Costs:
    """(L, R): the cost of each voicing by itself, FORBIDDEN where the pair is not legal."""
    left, right = candidates.left, candidates.right
    if not left or not right:
        return np.full((len(left), len(right)), FORBIDDEN, dtype=np.int32)
    hand = wish.profile.left
    cost = _hand_costs(left, hand, wish.profile, weights, wish.school.left(wish.bass))
    if wish.bass == "self":
        cost += weights.high_bass * np.maximum(0, _ends(left, 0) - BASS_TOP_KEY)
    hand = wish.profile.right
    costs = cost[:, None] + _hand_costs(right, hand, wish.profile, weights, wish.school.right)
    gap = _ends(right, 0)[None, :] - _ends(left, -1)[:, None]
    costs += weights.gap * np.maximum(0, gap - EASY_GAP_ST)
    counts = _counts(left)[:, None] + _counts(right)[None, :]
    costs += weights.density * np.abs(counts - wish.school.density)
    costs += weights.minor_ninth * _minor_ninths(left, right)
    costs += weights.mud * _mud(left, right) // 100
    if wish.clear_of is not None:
        rub = [_rubs(shapes, wish.clear_of) for shapes in (left, right)]
        costs += weights.melody_rub * (rub[0][:, None] + rub[1][None, :])
    if wish.room_for is not None:
        near = [_near(shapes, wish.room_for) for shapes in (left, right)]
        costs += weights.melody_room * (near[0][:, None] + near[1][None, :])
    return np.where(candidates.legal, costs, FORBIDDEN).astype(np.int32)


def _hand_costs(
    shapes: tuple[HandShape, ...],
    hand: Hand,
    profile: HandProfile,
    weights: Weights,
    ids: tuple[str, ...],
) -> npt.NDArray[np.int64]:
    """Strain, home zone, semitone steps and taste of one hand, (shapes,)."""
    places = {recipe: place for place, recipe in enumerate(ids)}
    strains = np.array([profile.strain(hand, shape.keys) for shape in shapes], dtype=np.int64)
    lows, highs = _ends(shapes, 0), _ends(shapes, -1)
    outside = np.maximum(0, hand.home_low - lows) + np.maximum(0, highs - hand.home_high)
    sheet = _presence(shapes, allowed=True)
    seconds = (sheet[:, :-1] * sheet[:, 1:]).sum(axis=1).astype(np.int64)
    taste = np.array([places.get(shape.recipe, 0) for shape in shapes], dtype=np.int64)
    return np.asarray(
        weights.strain * np.maximum(0, strains - EASY_REACH_SHARE)
        + weights.roll * (strains > 100)
        + weights.home * outside
        + weights.seconds * seconds
        + weights.taste * taste
    )


def _mud(left: tuple[HandShape, ...], right: tuple[HandShape, ...]) -> npt.NDArray[np.int64]:
    """(L, R): mud of both hands together, in hundredths."""
    # in floats, whose products are quick and exact for numbers this small
    low, high = (_presence(shapes, allowed=True).astype(np.float64) for shapes in (left, right))
    table = mud_table().astype(np.float64)
    own = [((sheet @ table) * sheet).sum(axis=1) for sheet in (low, high)]
    return np.asarray(own[0][:, None] + own[1][None, :] + low @ table @ high.T, dtype=np.int64)


def _rubs(shapes: tuple[HandShape, ...], melody: int) -> npt.NDArray[np.int64]:
    """(shapes,): notes a half step from a melody note, in any octave."""
    return np.array(
        [sum((key - melody) % 12 in (1, 11) for key in shape.keys) for shape in shapes],
        dtype=np.int64,
    )


def _near(shapes: tuple[HandShape, ...], melody: int) -> npt.NDArray[np.int64]:
    """(shapes,): notes in the register of a melody note."""
    return np.array(
        [sum(abs(key - melody) <= MELODY_ROOM_ST for key in shape.keys) for shape in shapes], dtype=np.int64
    )


def _ends(shapes: tuple[HandShape, ...], index: int) -> npt.NDArray[np.int64]:
    return np.array([shape.keys[index] for shape in shapes], dtype=np.int64)


def _counts(shapes: tuple[HandShape, ...]) -> npt.NDArray[np.int64]:
    return np.array([len(shape.keys) for shape in shapes], dtype=np.int64)


def _presence(shapes: tuple[HandShape, ...], allowed: bool) -> npt.NDArray[np.float32]:
    """(shapes, 128): 1 where a key sounds; flat ninths left out when ``allowed`` is False."""
    sheet = np.zeros((len(shapes), 128), dtype=np.float32)
    for row, shape in enumerate(shapes):
        for key, degree in zip(shape.keys, shape.degrees, strict=True):
            sheet[row, key] = allowed or degree != "b9"
    return sheet


def _minor_ninths(left: tuple[HandShape, ...], right: tuple[HandShape, ...]) -> npt.NDArray[np.int64]:
    """(L, R): minor ninths from the left hand up to the right one. A flat ninth of the chord
    over its own root is the sound that the symbol asks for."""
    low = _presence(left, allowed=True)[:, :-13]
    high = _presence(right, allowed=False)[:, 13:]
    return np.asarray(np.rint(low @ high.T), dtype=np.int64)


# --- hinges --------------------------------------------------------------------------


def hinge_costs(
    before: tuple[HandShape, ...],
    after: tuple[HandShape, ...],
    weights: Weights,
    side: str,
    has_bass: bool,
) -> Costs:
    """(B, A): the cost of one hand going from each shape of ``before`` to each of ``after``.

    ``side`` is "left" or "right". The top line is the right hand's highest note; the bass
    line the left hand's lowest, when ``has_bass``.
    """
    motion, excess, surplus = hand_distances(before, after)
    move = weights.left_move if side == "left" else weights.right_move
    large = weights.large_left if side == "left" else weights.large_right
    cost = move * motion + large * excess
    if weights.shape_change:
        cost += weights.shape_change * _form_changes(before, after)
    cost += np.where(surplus > 0, weights.enter * surplus, -weights.leave * surplus)
    if side == "right":
        cost += weights.top_move * _outer_move(before, after, -1)
    elif has_bass:
        cost += weights.bass_move * _outer_move(before, after, 0)
    return np.asarray(np.minimum(cost, FORBIDDEN - 1), dtype=np.int32)


def _outer_move(
    before: tuple[HandShape, ...], after: tuple[HandShape, ...], index: int
) -> npt.NDArray[np.int64]:
    """(B, A): semitones between the outer notes; 0 where a hand is empty."""
    start = np.array([s.keys[index] if s.keys else -1 for s in before], dtype=np.int64)[:, None]
    end = np.array([s.keys[index] if s.keys else -1 for s in after], dtype=np.int64)[None, :]
    return np.where((start < 0) | (end < 0), 0, np.abs(end - start))


def _form_changes(before: tuple[HandShape, ...], after: tuple[HandShape, ...]) -> npt.NDArray[np.int64]:
    """(B, A): by how many semitones in all the notes move against the lowest one; 0 for a shape
    that slides in parallel, an octave for shapes of different size."""
    change = np.full((len(before), len(after)), 12, dtype=np.int64)
    for b_count, b_rows, b_keys in _by_count(before):
        for a_count, a_rows, a_keys in _by_count(after):
            if a_count == b_count:
                forms = [keys - keys[:, :1] for keys in (b_keys, a_keys)]
                moved = np.abs(forms[1][None, :, :] - forms[0][:, None, :]).sum(axis=2)
                change[np.ix_(b_rows, a_rows)] = moved
    return change


def hand_distances(
    before: tuple[HandShape, ...], after: tuple[HandShape, ...]
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Motion in semitones, squared excess of large moves, and notes entered (positive) or
    left (negative); each (B, A). The pairing is that of :func:`distance.hand_motion`."""
    shape = (len(before), len(after))
    motion = np.zeros(shape, dtype=np.int64)
    excess = np.zeros(shape, dtype=np.int64)
    surplus = _counts(after)[None, :] - _counts(before)[:, None] if motion.size else motion
    for b_count, b_rows, b_keys in _by_count(before):
        for a_count, a_rows, a_keys in _by_count(after):
            block = np.ix_(b_rows, a_rows)
            rank = _pairing_rank(b_keys, a_keys, b_count, a_count)
            motion[block], excess[block] = np.divmod(rank, _MOTION_RANK)
    return motion, excess, surplus


def _by_count(
    shapes: tuple[HandShape, ...],
) -> list[tuple[int, list[int], npt.NDArray[np.int32]]]:
    """The shapes sorted by number of notes: (notes, rows, keys (rows, notes))."""
    groups: dict[int, list[int]] = {}
    for row, shape in enumerate(shapes):
        groups.setdefault(len(shape.keys), []).append(row)
    return [
        (count, rows, np.array([shapes[row].keys for row in rows], dtype=np.int32))
        for count, rows in groups.items()
    ]


def _pairing_rank(
    before: npt.NDArray[np.int32], after: npt.NDArray[np.int32], b_count: int, a_count: int
) -> npt.NDArray[np.int32]:
    """(B, A): the least ``motion * _MOTION_RANK + excess`` over order-preserving pairings."""
    count = min(b_count, a_count)
    best: npt.NDArray[np.int32] | None = None
    for chosen in combinations(range(max(b_count, a_count)), count):
        start = before if b_count <= a_count else before[:, chosen]
        end = after[:, chosen] if b_count <= a_count else after
        moves = np.abs(end[None, :, :] - start[:, None, :])
        excess = np.maximum(0, moves - LARGE_FROM_ST) ** 2
        rank = moves.sum(axis=2, dtype=np.int32) * np.int32(_MOTION_RANK)
        rank += excess.sum(axis=2, dtype=np.int32)
        best = rank if best is None else np.minimum(best, rank)
    assert best is not None
    return best
