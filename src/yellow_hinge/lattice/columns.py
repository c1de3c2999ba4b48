"""Columns of states whose step costs split by side, and the steps between them.

A state of column ``k`` is a pair (l, r). A row of states pays ``Column.cost[l, r]`` for each state
and ``Link.left[l, l'] + Link.right[r, r']`` for each step. Because the step cost splits, going over
a step is two min-plus products: first over l, then over r.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable

import numpy as np
from msgspec import Struct

from yellow_hinge.lattice.kernel import Costs, MinPlus, Packed, packed, unpacked


class Column:
    """The states of one place. ``cost`` (L, R) int32, at least 0, FORBIDDEN where illegal; kept in
    half the room where that goes. ``key`` names the content: equal keys promise equal costs."""

    __slots__ = ("_cost", "key")

    def __init__(self, cost: Costs, key: Hashable) -> None:
        self._cost, self.key = packed(cost), key

    @property
    def cost(self) -> Costs:
        return unpacked(self._cost)

    @property
    def shape(self) -> tuple[int, int]:
        left, right = self._cost.shape
        return left, right

    @property
    def nbytes(self) -> int:
        return self._cost.nbytes


class Link:
    """The step from one column to another: ``left`` (L, L') and ``right`` (R, R') int32, at least 0
    and never FORBIDDEN; kept in half the room where that goes."""

    __slots__ = ("_left", "_right")

    def __init__(self, left: Costs, right: Costs) -> None:
        self._left, self._right = packed(left), packed(right)

    @property
    def left(self) -> Costs:
        return unpacked(self._left)

    @property
    def right(self) -> Costs:
        return unpacked(self._right)

    @property
    def nbytes(self) -> int:
        return self._left.nbytes + self._right.nbytes

    def times(self, count: int) -> Link:
        """The step taken so many times."""
        return self if count == 1 else Link(self.left * np.int32(count), self.right * np.int32(count))

    def over(self, sheet: Costs, product: MinPlus) -> Costs:
        """(L', R'): the cheapest way over the step from the states of a sheet (L, R)."""
        best = product(np.ascontiguousarray(self.left.T), sheet)
        return product(np.ascontiguousarray(self.right.T), np.ascontiguousarray(best.T)).T

    def back(self, sheet: Costs, product: MinPlus) -> Costs:
        """(L, R): the cheapest way over the step to the states of a sheet (L', R')."""
        best = product(self.left, sheet)
        return product(self.right, np.ascontiguousarray(best.T)).T

    def both_ways(self, back: Link) -> Link:
        """This step, and ``back`` the other way round, at once: what a pair of states pays for both."""
        return Link(self.left + back.left.T, self.right + back.right.T)

    def out_of(self, state: tuple[int, int]) -> Costs:
        """(L', R'): the step from one state."""
        return unpacked(self._left[state[0]])[:, None] + unpacked(self._right[state[1]])[None, :]

    def into(self, state: tuple[int, int]) -> Costs:
        """(L, R): the step to one state."""
        return unpacked(self._left[:, state[0]])[:, None] + unpacked(self._right[:, state[1]])[None, :]


class Path(Struct, frozen=True):
    """``states[k]`` = (l, r) of column k, and the total cost."""

    states: tuple[tuple[int, int], ...]
    cost: int


class DeadEnd(Exception):
    """No path exists. ``column`` is the first place that cannot be reached."""

    def __init__(self, column: int) -> None:
        super().__init__(f"column {column} cannot be reached")
        self.column = column


class Sheets:
    """A row of sheets of costs, kept in half the room where that goes."""

    def __init__(self) -> None:
        self._kept: list[Packed] = []
        self._open: dict[int, Costs] = {}  # the last few as int32: neighbours are read in turn

    def __len__(self) -> int:
        return len(self._kept)

    def __getitem__(self, index: int) -> Costs:
        """The sheet as int32; not to be changed."""
        index %= len(self._kept)
        found = self._open.get(index)
        if found is None:
            if len(self._open) > 1:
                del self._open[next(iter(self._open))]
            found = self._open[index] = unpacked(self._kept[index])
        return found

    def append(self, sheet: Costs) -> None:
        self._kept.append(packed(sheet))

    def cut(self, count: int) -> None:
        """Keep the first ``count`` only."""
        del self._kept[count:]
        self._open.clear()


Progress = Callable[[float], bool]


def always(_: float) -> bool:
    """Progress that nobody looks at."""
    return True
