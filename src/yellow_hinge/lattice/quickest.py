"""Which min-plus products a search takes: plain ones, or those compiled where that pays."""

from __future__ import annotations

import sys

import numpy as np

from yellow_hinge.lattice.kernel import PLAIN, Kernel

#: Sums from which the compiled product saves more than it takes to load. Once it is there it is the
#: quicker one for any number.
COMPILE_FROM_SUMS = 1_200_000_000


def kernel_for(sums: int) -> Kernel:
    """The quickest products for a search of this many sums; the compiled ones where they are loaded, or
    where loading them pays."""
    if "yellow_hinge.lattice.compiled" not in sys.modules and sums < COMPILE_FROM_SUMS:
        return PLAIN
    try:
        from yellow_hinge.lattice import compiled  # noqa: PLC0415 - Numba is heavy
    except ImportError:
        return PLAIN
    return compiled.KERNEL


def warm() -> None:
    """Load the compiled products now: for a program that goes on running it pays in any case."""
    nothing, cuts = np.zeros((1, 1), dtype=np.int32), (np.zeros(1, dtype=np.intp),) * 2
    kernel = kernel_for(COMPILE_FROM_SUMS)
    kernel.product(nothing, nothing)
    kernel.joined(nothing, kernel.apart(nothing, nothing, cuts), cuts)
