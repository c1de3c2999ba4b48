"""The min-plus product compiled by Numba: some four times NumPy's speed, some half second to
load. Import it only for long searches. It lets go of the interpreter lock."""

from __future__ import annotations

import numba
import numpy as np

from yellow_hinge.lattice.kernel import FORBIDDEN, Costs


@numba.njit(cache=True, nogil=True)
def _min_plus(first: Costs, second: Costs, out: Costs) -> None:
    for i in range(first.shape[0]):
        out[i, :] = FORBIDDEN
        for k in range(first.shape[1]):
            step = first[i, k]
            for j in range(second.shape[1]):
                total = second[k, j] + step
                out[i, j] = min(out[i, j], total)


def min_plus(first: Costs, second: Costs) -> Costs:
    """As :func:`kernel.min_plus`: the same numbers."""
    out = np.empty((first.shape[0], second.shape[1]), dtype=np.int32)
    _min_plus(np.ascontiguousarray(first), np.ascontiguousarray(second), out)
    return out
