"""How far one hand goes from each of many shapes to each of many others."""

from __future__ import annotations

import sys
from collections.abc import Callable
from itertools import combinations

import numpy as np
import numpy.typing as npt

from yellow_hinge.lattice import quickest
from yellow_hinge.lattice.kernel import Costs
from yellow_hinge.motion.distance import LARGE_FROM_ST
from yellow_hinge.stopping import ask
from yellow_hinge.voicing.shape import HandShape

Shapes = tuple[HandShape, ...]
Pairings = Callable[[Shapes, Shapes], tuple[Costs, Costs, Costs]]
#: Ranks the pairings of one step: a half step of motion outranks any excess (at most five moves of
#: 127 half steps, squared), and five such moves still fit an int32.
_MOTION_RANK = 1 << 17

#: Shapes whose pairings are looked at together, so that the working arrays stay small.
_ROWS_AT_ONCE = 128


def hand_distances(before: Shapes, after: Shapes) -> tuple[Costs, Costs, Costs, Costs]:
    """Motion in half steps, squared excess of large moves, notes entered (positive) or left
    (negative), and how far the lowest note goes where it goes to the lowest one, else 0; each
    (B, A). The pairing is that of :func:`distance.hand_motion`."""
    counts = [np.array([len(shape.keys) for shape in row], dtype=np.int32) for row in (before, after)]
    surplus = counts[1][None, :] - counts[0][:, None]
    make = _compiled() or _by_groups
    motion, excess, bass = make(before, after)
    return motion, excess, surplus, bass


def _compiled() -> Pairings | None:
    """The compiled pairings, where they are loaded."""
    module = sys.modules.get("yellow_hinge.motion.compiled")
    return None if module is None else module.pairings


def warm() -> None:
    """Load what is compiled now: for a program that goes on running it pays in any case."""
    if _compiled() is not None:
        return
    quickest.warm()
    try:
        from yellow_hinge.motion import compiled  # noqa: PLC0415 - Numba is heavy
    except ImportError:
        return
    compiled.pairings((HandShape((60,)),), (HandShape((62,)),))


def _by_groups(before: Shapes, after: Shapes) -> tuple[Costs, Costs, Costs]:
    """Motion, excess and the lowest note's move, the shapes of one number of notes at a time."""
    motion, excess, bass = (np.zeros((len(before), len(after)), dtype=np.int32) for _ in range(3))
    for b_count, rows, keys in by_count(before):
        for start in range(0, len(rows), _ROWS_AT_ONCE):
            ask()
            b_rows, b_keys = rows[start : start + _ROWS_AT_ONCE], keys[start : start + _ROWS_AT_ONCE]
            for a_count, a_rows, a_keys in by_count(after):
                block = np.ix_(b_rows, a_rows)
                rank, bass[block] = _pairing_rank(b_keys, a_keys, b_count, a_count)
                motion[block], excess[block] = np.divmod(rank, _MOTION_RANK)
    return motion, excess, bass


def by_count(shapes: Shapes) -> list[tuple[int, list[int], npt.NDArray[np.int16]]]:
    """The shapes sorted by number of notes: (notes, rows, keys (rows, notes))."""
    groups: dict[int, list[int]] = {}
    for row, shape in enumerate(shapes):
        groups.setdefault(len(shape.keys), []).append(row)
    return [
        (count, rows, np.array([shapes[row].keys for row in rows], dtype=np.int16))
        for count, rows in groups.items()
    ]


def _pairing_rank(
    before: npt.NDArray[np.int16], after: npt.NDArray[np.int16], b_count: int, a_count: int
) -> tuple[npt.NDArray[np.int32], npt.NDArray[np.int32]]:
    """(B, A): the least ``motion * _MOTION_RANK + excess`` over order-preserving pairings, and in
    the first pairing that has it the move of the lowest note to the lowest note, else 0."""
    count = min(b_count, a_count)
    best: npt.NDArray[np.int32] | None = None
    bass = np.zeros((len(before), len(after)), dtype=np.int32)
    for chosen in combinations(range(max(b_count, a_count)), count):
        start = before if b_count <= a_count else before[:, chosen]
        end = after[:, chosen] if b_count <= a_count else after
        moves = np.abs(end[None, :, :] - start[:, None, :])
        excess = np.maximum(0, moves - LARGE_FROM_ST) ** 2
        rank = moves.sum(axis=2, dtype=np.int32) * np.int32(_MOTION_RANK)
        rank += excess.sum(axis=2, dtype=np.int32)
        low = moves[:, :, 0] if count and chosen[0] == 0 else np.zeros_like(rank)
        if best is None:
            best, bass = rank, low
        else:
            better = rank < best
            best, bass = np.where(better, rank, best), np.where(better, low, bass)
    assert best is not None
    return best, bass
