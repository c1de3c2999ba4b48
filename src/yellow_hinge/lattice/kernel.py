"""The min-plus product, the one inner loop of the search."""

from __future__ import annotations

import sys
from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from yellow_hinge.stopping import ask

Costs = npt.NDArray[np.int32]

MinPlus = Callable[["Costs", "Costs"], "Costs"]
#: Sums from which the compiled product saves more than it takes to load. Once it is there it is the
#: quicker one for any number.
COMPILE_FROM_SUMS = 1_200_000_000

#: Sums between two questions whether to go on; the compiled product's take longest in one go.
SUMS_AT_ONCE = 8_000_000

#: Cost of what is not allowed. Three of them still fit an int32.
FORBIDDEN = 1 << 28


#: Costs in half the room where all that is allowed fits; its greatest number marks what is not.
Packed = npt.NDArray[np.int32 | np.uint16]
_MARK = int(np.iinfo(np.uint16).max)


def packed(costs: Costs) -> Packed:
    """The costs in 16 bits where they fit, else as they are."""
    allowed = costs < FORBIDDEN
    if int(costs.max(initial=0, where=allowed)) >= _MARK or int(costs.min(initial=0)) < 0:
        return costs
    return np.where(allowed, costs, _MARK).astype(np.uint16)


def unpacked(kept: Packed) -> Costs:
    """The costs again, int32, FORBIDDEN where they are not allowed."""
    if kept.dtype != np.uint16:
        return kept.astype(np.int32, copy=False)
    costs = kept.astype(np.int32)
    costs += (kept == _MARK) * np.int32(FORBIDDEN - _MARK)
    return costs


def min_plus(first: Costs, second: Costs) -> Costs:
    """``out[i, j] = min over k of first[i, k] + second[k, j]``, capped at FORBIDDEN.

    first   (I, K) int32, costs below FORBIDDEN
    second  (K, J) int32, costs up to FORBIDDEN
    out     (I, J) int32

    One row of ``out`` at a time, so that the (K, J) working sheet stays in the cache; one
    column at a time where there are fewer of them.
    """
    rows, columns = first.shape[0], second.shape[1]
    if columns < rows:
        return np.ascontiguousarray(_by_rows(np.ascontiguousarray(second.T), np.ascontiguousarray(first.T)).T)
    return _by_rows(first, second)


def _by_rows(first: Costs, second: Costs) -> Costs:
    rows, columns = first.shape[0], second.shape[1]
    out = np.empty((rows, columns), dtype=np.int32)
    sheet = np.empty(second.shape, dtype=np.int32)
    at_once = 1 + SUMS_AT_ONCE // max(1, sheet.size)
    for row in range(rows):
        if not row % at_once:
            ask()
        np.add(second, first[row, :, None], out=sheet)
        np.minimum.reduce(sheet, axis=0, out=out[row])
    return np.minimum(out, FORBIDDEN, out=out)


def kernel_for(sums: int) -> MinPlus:
    """The quickest product for a search of this many sums; the compiled one where it is loaded, or
    where loading it pays."""
    if "yellow_hinge.lattice.compiled" not in sys.modules and sums < COMPILE_FROM_SUMS:
        return min_plus
    try:
        from yellow_hinge.lattice import compiled  # noqa: PLC0415 - Numba is heavy
    except ImportError:
        return min_plus
    return compiled.min_plus


def warm() -> None:
    """Load the compiled product now: for a program that goes on running it pays in any case."""
    nothing = np.zeros((1, 1), dtype=np.int32)
    kernel_for(COMPILE_FROM_SUMS)(nothing, nothing)
