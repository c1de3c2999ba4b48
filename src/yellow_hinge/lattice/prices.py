"""Prices that bring two looks at one column together.

A pivot is looked at as it is, and again for the sake of a step (:mod:`lattice.rounds`). A price is paid for
the state that the step sees, and given back for the state that the pivot is in: where both are the same,
nothing is paid, so whatever the prices are, the cheapest relaxed choice is a bound for the real ones. Good
prices make that bound high (Lagrange multipliers; raised step by step from min-marginals, as in max-sum
diffusion: Werner, "A linear programming approach to max-sum problem", 2007).
"""

from __future__ import annotations

from collections.abc import Sequence
from hashlib import blake2b

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.lattice.kernel import Costs

#: No price is changed by more at once, so that sums of costs stay far from what is not allowed.
MOST_AT_ONCE = 100_000


class Prices(Struct, frozen=True, eq=False):
    """``seen[n]`` (L, R) int32, at least 0: what is paid for each state of the pivot of step n where that
    step looks at it; the pivot as it is gets as much. ``names[n]`` tells such sheets from each other."""

    seen: tuple[Costs, ...]
    names: tuple[bytes, ...]

    @staticmethod
    def none(shapes: Sequence[tuple[int, int]]) -> Prices:
        """All are 0."""
        return Prices(tuple(np.zeros(shape, dtype=np.int32) for shape in shapes), (b"",) * len(shapes))

    def own(self, numbers: Sequence[int]) -> tuple[Costs, int]:
        """What the pivot of these steps pays as it is: a sheet of at least 0, and what has to be taken off
        all of its states besides."""
        total = sum(self.seen[number] for number in numbers)
        most = int(np.max(total))
        return np.asarray(most - total, dtype=np.int32), most

    def moved(self, number: int, change: npt.NDArray[np.int64]) -> Prices:
        """Each state of a step's pivot costs so much more as it is, so much less where the step sees it."""
        sheet = self.seen[number] - np.clip(change, -MOST_AT_ONCE, MOST_AT_ONCE)
        sheet = (sheet - sheet.min()).astype(np.int32)  # the same for all states is no price
        name = blake2b(sheet.tobytes(), digest_size=16).digest()
        seen = (*self.seen[:number], sheet, *self.seen[number + 1 :])
        return Prices(seen, (*self.names[:number], name, *self.names[number + 1 :]))
