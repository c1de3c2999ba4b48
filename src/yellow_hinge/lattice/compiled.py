"""The min-plus products compiled by Numba: many times NumPy's speed, some half second to load.
Import it only for long searches. It lets go of the interpreter lock.

Where the costs are small enough it works in 16 bits, which is three times as quick again and
gives the same numbers.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numba
import numpy as np
import numpy.typing as npt

from yellow_hinge.lattice.kernel import FORBIDDEN, SUMS_AT_ONCE, Costs, Cuts, Kernel
from yellow_hinge.stopping import ask

Ends = npt.NDArray[np.intp]
_Short = npt.NDArray[np.uint16]
#: What is done in one go: it is some ten times as quick as NumPy's.
_SUMS_AT_ONCE = 5 * SUMS_AT_ONCE
_MOST = int(np.iinfo(np.uint16).max)


@numba.njit(cache=True, nogil=True)
def _min_plus(first: Costs, second: Costs, out: Costs) -> None:
    for i in range(first.shape[0]):
        out[i, :] = FORBIDDEN
        for k in range(first.shape[1]):
            step = first[i, k]
            for j in range(second.shape[1]):
                total = second[k, j] + step
                out[i, j] = min(out[i, j], total)


@numba.njit(cache=True, nogil=True)
def _min_plus_short(first: _Short, second: _Short, out: _Short) -> None:
    for i in range(first.shape[0]):
        out[i, :] = np.uint16(65535)
        for k in range(first.shape[1]):
            step = first[i, k]
            for j in range(second.shape[1]):
                total = np.uint16(second[k, j] + step)
                before = out[i, j]
                out[i, j] = total if total < before else before


@numba.njit(cache=True, nogil=True)
def _greatest(costs: Costs) -> np.int32:
    """The greatest cost that is not forbidden, 0 where there is none."""
    most = np.int32(0)
    for i in range(costs.shape[0]):
        for j in range(costs.shape[1]):
            cost = costs[i, j]
            most = max(most, cost if cost < FORBIDDEN else np.int32(0))
    return most


@numba.njit(cache=True, nogil=True)
def _narrow(costs: Costs, ceiling: int, mark: int) -> _Short:
    """In 16 bits: cut down to the ceiling, the mark where forbidden."""
    out = np.empty(costs.shape, dtype=np.uint16)
    for i in range(costs.shape[0]):
        for j in range(costs.shape[1]):
            cost = costs[i, j]
            out[i, j] = np.uint16(mark if cost >= FORBIDDEN else min(cost, ceiling))
    return out


@numba.njit(cache=True, nogil=True)
def _widened(costs: _Short, ceiling: int, mark: int, out: Costs) -> npt.NDArray[np.bool_]:
    """Back in 32 bits, into ``out``; (rows,) which rows have a sum from the ceiling up to the mark."""
    doubtful = np.zeros(costs.shape[0], dtype=np.bool_)
    for i in range(costs.shape[0]):
        for j in range(costs.shape[1]):
            cost = np.int32(costs[i, j])
            out[i, j] = FORBIDDEN if cost >= mark else cost
            if ceiling <= cost < mark:
                doubtful[i] = True
    return doubtful


@numba.njit(cache=True, nogil=True)
def _apart(first: Costs, second: Costs, low: Ends, high: Ends, out: Costs) -> None:
    out[:, :, :] = FORBIDDEN
    for i in range(first.shape[0]):
        for k in range(first.shape[1]):
            step = first[i, k]
            run = int(k >= low[i]) + int(k >= high[i])
            for j in range(second.shape[1]):
                total = second[k, j] + step
                out[run, i, j] = min(out[run, i, j], total)


@numba.njit(cache=True, nogil=True)
def _apart_short(first: _Short, second: _Short, low: Ends, high: Ends, out: _Short) -> None:
    out[:, :, :] = np.uint16(65535)
    for i in range(first.shape[0]):
        for k in range(first.shape[1]):
            step = first[i, k]
            run = int(k >= low[i]) + int(k >= high[i])
            for j in range(second.shape[1]):
                total = np.uint16(second[k, j] + step)
                before = out[run, i, j]
                out[run, i, j] = total if total < before else before


@numba.njit(cache=True, nogil=True)
def _joined(first: Costs, seconds: Costs, low: Ends, high: Ends, out: Costs) -> None:
    for i in range(first.shape[0]):
        out[i, :] = FORBIDDEN
        for k in range(first.shape[1]):
            step = first[i, k]
            run = int(k >= low[i]) + int(k >= high[i])
            for j in range(seconds.shape[2]):
                total = seconds[run, k, j] + step
                out[i, j] = min(out[i, j], total)


@numba.njit(cache=True, nogil=True)
def _joined_short(first: _Short, seconds: _Short, low: Ends, high: Ends, out: _Short) -> None:
    for i in range(first.shape[0]):
        out[i, :] = np.uint16(65535)
        for k in range(first.shape[1]):
            step = first[i, k]
            run = int(k >= low[i]) + int(k >= high[i])
            for j in range(seconds.shape[2]):
                total = np.uint16(seconds[run, k, j] + step)
                before = out[i, j]
                out[i, j] = total if total < before else before


def min_plus(first: Costs, second: Costs) -> Costs:
    """As :func:`kernel.min_plus`: the same numbers."""
    out = np.empty((first.shape[0], second.shape[1]), dtype=np.int32)
    for rows in _shares(first, second.size):
        _product(first[rows], second, out[rows], _min_plus_short, _min_plus)
    return out


def runs_apart(first: Costs, second: Costs, cuts: Cuts) -> Costs:
    """As :func:`kernel.runs_apart`: the same numbers."""
    out = np.empty((3, first.shape[0], second.shape[1]), dtype=np.int32)
    for rows in _shares(first, second.size):
        _product(first[rows], second, out[:, rows], _apart_short, _apart, cuts[0][rows], cuts[1][rows])
    return out


def runs_joined(first: Costs, seconds: Costs, cuts: Cuts) -> Costs:
    """As :func:`kernel.runs_joined`: the same numbers."""
    out = np.empty((first.shape[0], seconds.shape[2]), dtype=np.int32)
    for rows in _shares(first, seconds.size // 3):
        _product(first[rows], seconds, out[rows], _joined_short, _joined, cuts[0][rows], cuts[1][rows])
    return out


KERNEL = Kernel(min_plus, runs_apart, runs_joined)


def _shares(first: Costs, size: int) -> Iterator[slice]:
    """The rows of a product, as many at once as take no longer than one waits to be asked."""
    rows = 1 + _SUMS_AT_ONCE // max(1, size)
    for start in range(0, first.shape[0], rows):
        ask()
        yield slice(start, start + rows)


def _product(
    first: Costs,
    second: Costs,
    out: Costs,
    short: Callable[..., None],
    wide: Callable[..., None],
    *ends: Ends,
) -> None:
    """A product into ``out``, whose rows are its last axis but one: in 16 bits where that is exact."""
    behind = int(_greatest(second.reshape(-1, second.shape[-1]))) if second.size else 0
    dearest = int(_greatest(first))
    ceiling = min(dearest, (_MOST - behind - 1) // 2)
    if not second.size or ceiling < behind // 4:
        _wide(first, second, out, wide, ends)
        return
    # Steps above the ceiling are cut down to it. A sum below the ceiling has no such step in it and
    # is exact; rows with any other sum are done again at full width.
    mark = ceiling + behind + 1
    widened = np.empty(out.shape, dtype=np.uint16)
    flat = second.reshape(-1, second.shape[-1])
    short(_narrow(first, ceiling, mark), _narrow(flat, behind, mark).reshape(second.shape), *ends, widened)
    cut = ceiling if dearest > ceiling else mark
    if len(out.shape) == 2:
        doubtful = _widened(widened, cut, mark, out)
    else:
        doubtful = np.zeros(out.shape[1], dtype=np.bool_)
        for run in range(3):
            doubtful |= _widened(widened[run], cut, mark, out[run])
    if doubtful.any():
        again = np.empty((*out.shape[:-2], int(doubtful.sum()), out.shape[-1]), dtype=np.int32)
        _wide(first[doubtful], second, again, wide, tuple(end[doubtful] for end in ends))
        out[..., doubtful, :] = again


def _wide(first: Costs, second: Costs, out: Costs, wide: Callable[..., None], ends: tuple[Ends, ...]) -> None:
    wide(np.ascontiguousarray(first), np.ascontiguousarray(second), *ends, out)
