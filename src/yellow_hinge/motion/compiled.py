"""The pairings of two rows of shapes compiled by Numba; the same numbers as NumPy's, many times as
fast. Import it only in a program that goes on running."""

from __future__ import annotations

from itertools import combinations

import numba
import numpy as np
import numpy.typing as npt

from yellow_hinge.lattice.kernel import Costs
from yellow_hinge.motion.distance import LARGE_FROM_ST
from yellow_hinge.stopping import ask
from yellow_hinge.voicing.shape import HandShape

#: More notes than any hand holds.
_MOST = 6
#: Pairs of shapes between two questions whether to go on.
_PAIRS_AT_ONCE = 200_000
_Keys = npt.NDArray[np.int32]


def _choices() -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """[longer, shorter, number] -> which notes of the longer shape are paired, and how many such
    choices there are, in the order in which ties go."""
    most = max(len(list(combinations(range(n), m))) for n in range(_MOST) for m in range(n + 1))
    rows = np.zeros((_MOST, _MOST, most, _MOST), dtype=np.int64)
    counts = np.zeros((_MOST, _MOST), dtype=np.int64)
    for longer in range(_MOST):
        for shorter in range(longer + 1):
            for number, chosen in enumerate(combinations(range(longer), shorter)):
                rows[longer, shorter, number, :shorter] = chosen
                counts[longer, shorter] = number + 1
    return rows, counts


_ROWS, _COUNTS = _choices()


@numba.njit(cache=True, nogil=True)
def _paired(
    before: _Keys, b_counts: _Keys, after: _Keys, a_counts: _Keys, rows: npt.NDArray[np.int64],
    counts: npt.NDArray[np.int64], motion: Costs, excess: Costs, bass: Costs,
) -> None:  # fmt: skip
    for b in range(before.shape[0]):
        for a in range(after.shape[0]):
            longer, shorter = max(b_counts[b], a_counts[a]), min(b_counts[b], a_counts[a])
            best_motion, best_excess, best_bass = 1 << 30, 1 << 30, 0
            for number in range(counts[longer, shorter]):
                chosen = rows[longer, shorter, number]
                moved, far, low = 0, 0, 0
                for note in range(shorter):
                    if b_counts[b] <= a_counts[a]:
                        step = abs(after[a, chosen[note]] - before[b, note])
                    else:
                        step = abs(after[a, note] - before[b, chosen[note]])
                    moved += step
                    if step > LARGE_FROM_ST:
                        far += (step - LARGE_FROM_ST) ** 2
                    if note == 0 and chosen[0] == 0:
                        low = step
                if moved < best_motion or (moved == best_motion and far < best_excess):
                    best_motion, best_excess, best_bass = moved, far, low
            motion[b, a], excess[b, a], bass[b, a] = best_motion, best_excess, best_bass


def pairings(before: tuple[HandShape, ...], after: tuple[HandShape, ...]) -> tuple[Costs, Costs, Costs]:
    """As :func:`motion.pairing.hand_distances`, without the notes that come or go."""
    motion, excess, bass = (np.zeros((len(before), len(after)), dtype=np.int32) for _ in range(3))
    (keys, counts), ends = _padded(before), _padded(after)
    at_once = 1 + _PAIRS_AT_ONCE // max(1, len(after))
    for start in range(0, len(before), at_once):
        ask()
        rows = slice(start, start + at_once)
        out = (motion[rows], excess[rows], bass[rows])
        _paired(keys[rows], counts[rows], *ends, _ROWS, _COUNTS, *out)
    return motion, excess, bass


def _padded(shapes: tuple[HandShape, ...]) -> tuple[_Keys, _Keys]:
    """(shapes, notes) keys, filled up with zeros, and (shapes,) how many there are."""
    rows = [(*shape.keys, 0, 0, 0, 0, 0)[: _MOST - 1] for shape in shapes]
    return (
        np.array(rows, dtype=np.int32).reshape(len(shapes), _MOST - 1),
        np.array([len(shape.keys) for shape in shapes], dtype=np.int32),
    )
