"""The min-plus product, the one inner loop of the search, plain and in three runs."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.stopping import ask

Costs = npt.NDArray[np.int32]
#: For each row i of a product where its runs end: the first is ``[0, low[i])``, the second ``[low[i],
#: high[i])``, the third the rest; both (I,), and neither ever falls.
Cuts = tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]

MinPlus = Callable[["Costs", "Costs"], "Costs"]
RunsPlus = Callable[["Costs", "Costs", Cuts], "Costs"]


class Kernel(Struct, frozen=True):
    """The products of one make: :func:`min_plus`, :func:`runs_apart` and :func:`runs_joined`."""

    product: MinPlus
    apart: RunsPlus
    joined: RunsPlus


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


def runs_apart(first: Costs, second: Costs, cuts: Cuts) -> Costs:
    """``out[c, i, j] = min over k in run c of row i of first[i, k] + second[k, j]``, FORBIDDEN where the
    run is empty.

    first   (I, K) int32
    second  (K, J) int32, costs up to FORBIDDEN
    out     (3, I, J) int32
    """
    rows, length = first.shape
    out = np.full((3, rows, second.shape[1]), FORBIDDEN, dtype=np.int32)
    sheet = np.empty(second.shape, dtype=np.int32)
    at_once = 1 + SUMS_AT_ONCE // max(1, sheet.size)
    for row in range(rows):
        if not row % at_once:
            ask()
        np.add(second, first[row, :, None], out=sheet)
        ends = (0, int(cuts[0][row]), int(cuts[1][row]), length)
        for run in range(3):
            if ends[run] < ends[run + 1]:
                np.minimum.reduce(sheet[ends[run] : ends[run + 1]], axis=0, out=out[run, row])
    return np.minimum(out, FORBIDDEN, out=out)


def runs_joined(first: Costs, seconds: Costs, cuts: Cuts) -> Costs:
    """``out[i, j] = min over c and over k in run c of row i of first[i, k] + seconds[c, k, j]``.

    first    (I, K) int32
    seconds  (3, K, J) int32, costs up to FORBIDDEN
    out      (I, J) int32
    """
    rows = first.shape[0]
    out = np.empty((rows, seconds.shape[2]), dtype=np.int32)
    start = 0
    while start < rows:  # rows with the same runs are one product
        low, high = int(cuts[0][start]), int(cuts[1][start])
        alike = (int(np.searchsorted(cut[start:], cut[start], side="right")) for cut in cuts)
        end = start + min(alike)
        second = np.concatenate([seconds[0, :low], seconds[1, low:high], seconds[2, high:]])
        out[start:end] = min_plus(first[start:end], second)
        start = end
    return out


PLAIN = Kernel(min_plus, runs_apart, runs_joined)
