"""Columns of states whose step costs split by side, and the steps between them.

A state of column ``k`` is a pair (l, r). A row of states pays ``Column.cost[l, r]`` for each state
and ``Link.left[l, l'] + Link.right[r, r']`` for each step. Because the step cost splits, going over
a step is two min-plus products: first over l, then over r. What does not split is a :class:`Turns`:
nine numbers, by which way either side goes; it makes each product fall into three runs.
"""

from __future__ import annotations

from collections.abc import Hashable

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.lattice.kernel import FORBIDDEN, Costs, Cuts, Kernel, Packed, packed, unpacked


class Column:
    """The states of one place. ``cost`` (L, R) int32, at least 0, FORBIDDEN where illegal; kept in
    half the room where that goes. ``key`` names the content: equal keys promise equal costs. A column
    made of another one says in its key in which way: numbers alone mean one thing here and another there."""

    __slots__ = ("_cost", "_more", "key")

    def __init__(self, cost: Costs | Packed, key: Hashable, more: Costs | None = None) -> None:
        """``more`` (R,) int32, at least 0, is paid on top."""
        self._cost, self._more, self.key = _in_little_room(cost), more, key

    def with_more(self, more: npt.NDArray[np.int64], key: Hashable) -> Column:
        """The same states with further costs, (L, R) or (1, R), at least 0; the latter share the room."""
        if len(more) == 1 and self._more is None:
            return Column(self._cost, key, more[0].astype(np.int32))
        return Column(np.minimum(self.cost + more, FORBIDDEN).astype(np.int32), key)

    @property
    def cost(self) -> Costs:
        cost = unpacked(self._cost)
        return cost if self._more is None else np.minimum(cost + self._more, FORBIDDEN)

    @property
    def shape(self) -> tuple[int, int]:
        left, right = self._cost.shape
        return left, right

    @property
    def nbytes(self) -> int:
        """What it takes; where costs are shared, its own."""
        return self._cost.nbytes if self._more is None else self._more.nbytes


class Side(Struct, frozen=True, eq=False):
    """How high the states of one side lie at both ends of a step, (K,) and (I,) int; neither falls from a
    state to the next."""

    before: npt.NDArray[np.int64]
    after: npt.NDArray[np.int64]

    @property
    def back(self) -> Side:
        """The same, gone over the other way."""
        return Side(self.after, self.before)

    @property
    def cuts(self) -> Cuts:
        """For each state after, where the states before that lie below it end, and those as high."""
        low = np.searchsorted(self.before, self.after, side="left")
        return low, np.searchsorted(self.before, self.after, side="right")

    def ways(self, start: int | slice, end: int | slice) -> npt.NDArray[np.intp]:
        """Which way some states go to others: 0 up, 1 level, 2 down."""
        return np.asarray(1 - np.sign(self.after[end] - self.before[start]), dtype=np.intp)


_Table = tuple[tuple[int, int, int], tuple[int, int, int], tuple[int, int, int]]


class Turns(Struct, frozen=True, eq=False):
    """What a step costs by which ways its sides go: ``table[left][right]``, 0 up, 1 level, 2 down; all at
    least 0."""

    table: _Table
    left: Side
    right: Side

    @property
    def back(self) -> Turns:
        """The same, gone over the other way: what went up goes down."""
        return Turns(tuple(row[::-1] for row in self.table[::-1]), self.left.back, self.right.back)  # type: ignore[arg-type] # three of three

    def plus(self, turns: Turns | None, times: tuple[int, int] = (1, 1)) -> Turns:
        """Two of one step, each so many times."""
        mine, more = np.array(self.table), np.zeros((3, 3)) if turns is None else np.array(turns.table)
        total = mine * times[0] + more * times[1]
        return Turns(tuple(tuple(int(one) for one in row) for row in total), self.left, self.right)  # type: ignore[arg-type] # as above

    def costs(self, left: npt.NDArray[np.intp], right: npt.NDArray[np.intp]) -> Costs:
        """(lefts, rights): the costs for ways of both sides."""
        found: Costs = np.array(self.table, dtype=np.int32)[left[:, None], right[None, :]]
        return found


def mixed(halves: Costs, table: _Table) -> Costs:
    """``out[b] = min over a of halves[a] + table[a][b]``, for halves (3, ...)."""
    out = np.empty_like(halves)
    spare = np.empty_like(halves[0])
    for way in range(3):
        np.add(halves[0], np.int32(table[0][way]), out=out[way])
        for other in (1, 2):
            np.add(halves[other], np.int32(table[other][way]), out=spare)
            np.minimum(out[way], spare, out=out[way])
    return np.minimum(out, FORBIDDEN, out=out)


def over_left(left: Costs, sheet: Costs, turns: Turns | None, kernel: Kernel) -> Costs:
    """The first product of a step: over its left side (L, L'), from a sheet (L, J). (3, L', J), apart by the
    way that the left side goes; (1, L', J) where that does not matter. :func:`mixed` comes next."""
    first = np.ascontiguousarray(left.T)
    if turns is None:
        return kernel.product(first, sheet)[None]
    return kernel.apart(first, sheet, turns.left.cuts)


def over_right(right: Costs, sheets: Costs, turns: Turns | None, kernel: Kernel) -> Costs:
    """The second one: over its right side (R, R'), from sheets (3, R, J) by the way that the right side goes,
    or (1, R, J). (R', J)."""
    first = np.ascontiguousarray(right.T)
    if turns is None:
        return kernel.product(first, sheets[0])
    return kernel.joined(first, sheets, turns.right.cuts)


class Link:
    """The step from one column to another: ``left`` (L, L') and ``right`` (R, R') int32, at least 0
    and never FORBIDDEN, kept in half the room where that goes; and what does not split by side."""

    __slots__ = ("_left", "_right", "turns")

    def __init__(self, left: Costs | Packed, right: Costs | Packed, turns: Turns | None = None) -> None:
        self._left, self._right, self.turns = _in_little_room(left), _in_little_room(right), turns

    @property
    def left(self) -> Costs:
        return unpacked(self._left)

    @property
    def right(self) -> Costs:
        return unpacked(self._right)

    @property
    def nbytes(self) -> int:
        return self._left.nbytes + self._right.nbytes

    @property
    def turned(self) -> Link:
        """The step gone over the other way."""
        return Link(self._left.T, self._right.T, None if self.turns is None else self.turns.back)

    def with_right(self, more: Costs) -> Link:
        """The same step with further costs (R, R') of the right side."""
        return Link(self._left, self.right + more, self.turns)

    def times(self, count: int) -> Link:
        """The step taken so many times."""
        if count == 1:
            return self
        turns = None if self.turns is None else self.turns.plus(None, (count, 0))
        return Link(self.left * np.int32(count), self.right * np.int32(count), turns)

    def over(self, sheet: Costs, kernel: Kernel) -> Costs:
        """(L', R'): the cheapest way over the step from the states of a sheet (L, R)."""
        found: Costs = self.pushed(sheet[None], kernel)[0]
        return found

    def back(self, sheet: Costs, kernel: Kernel) -> Costs:
        """(L, R): the cheapest way over the step to the states of a sheet (L', R')."""
        return self.turned.over(sheet, kernel)

    def pushed(self, sheets: Costs, kernel: Kernel) -> Costs:
        """(N, L', R'): as :meth:`over`, for N sheets (N, L, R) at once."""
        count, lefts, rights = sheets.shape
        wide = np.ascontiguousarray(sheets.transpose(1, 0, 2)).reshape(lefts, count * rights)
        halves = over_left(self.left, wide, self.turns, kernel)
        if self.turns is not None:
            halves = mixed(halves, self.turns.table)
        apart = halves.reshape(len(halves), -1, count, rights).transpose(0, 3, 2, 1)
        flat = np.ascontiguousarray(apart).reshape(len(halves), rights, -1)
        whole = over_right(self.right, flat, self.turns, kernel).reshape(-1, count, self._left.shape[1])
        return whole.transpose(1, 2, 0)

    def both_ways(self, back: Link) -> Link:
        """This step, and ``back`` the other way round, at once: what a pair of states pays for both."""
        turned = back.turned
        turns = self.turns.plus(turned.turns) if self.turns is not None else turned.turns
        return Link(self.left + turned.left, self.right + turned.right, turns)

    def at(self, start: tuple[int, int], end: tuple[int, int]) -> int:
        """What the step from one state to another costs."""
        own = int(self._left[start[0], end[0]]) + int(self._right[start[1], end[1]])
        if self.turns is None:
            return own
        sides = zip((self.turns.left, self.turns.right), start, end, strict=True)
        left, right = (int(side.ways(one, other)) for side, one, other in sides)
        return own + self.turns.table[left][right]

    def out_of(self, state: tuple[int, int]) -> Costs:
        """(L', R'): the step from one state."""
        costs = unpacked(self._left[state[0]])[:, None] + unpacked(self._right[state[1]])[None, :]
        if self.turns is not None:
            sides = zip((self.turns.left, self.turns.right), state, strict=True)
            costs += self.turns.costs(*(side.ways(one, slice(None)) for side, one in sides))
        return costs

    def into(self, state: tuple[int, int]) -> Costs:
        """(L, R): the step to one state."""
        return self.turned.out_of(state)

    def staying(self) -> Costs:
        """(L, R): the step of each state to itself, between a column and the same."""
        level = 0 if self.turns is None else self.turns.table[1][1]
        stay: Costs = np.add.outer(np.diag(self.left), np.diag(self.right)) + np.int32(level)
        return stay


def _in_little_room(costs: Costs | Packed) -> Packed:
    return costs if costs.dtype == np.uint16 else packed(costs.astype(np.int32, copy=False))


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
