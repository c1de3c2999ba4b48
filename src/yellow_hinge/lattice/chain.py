"""Exact cheapest path where each column's states are pairs and every step cost splits.

A state of column ``k`` is a pair (l, r). A path pays ``Column.cost[l, r]`` for each
state and ``Link.left[l, l'] + Link.right[r, r']`` for each step. Because the step cost
splits, one dynamic-programming step over (L·R) x (L'·R') pairs of states is two min-plus
products: first over l, then over r.

:class:`ChainSolver` keeps its forward and backward tables. A table is good as long as
everything before it (or behind it) is the same, so after an edit only the neighbours
of the change are computed again.

Ties: among all cheapest paths the one whose sequence of flat state indices
(``l * R + r``) comes first in dictionary order, however the tables came about.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.kernel import (
    FORBIDDEN,
    Costs,
    MinPlus,
    Packed,
    kernel_for,
    min_plus,
    packed,
    unpacked,
)


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
    """The step between two columns: ``left`` (L, L') and ``right`` (R, R') int32, at least 0 and
    never FORBIDDEN; kept in half the room where that goes."""

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

    def out_of(self, state: tuple[int, int]) -> Costs:
        """(L', R'): the step from one state."""
        return unpacked(self._left[state[0]])[:, None] + unpacked(self._right[state[1]])[None, :]

    def into(self, state: tuple[int, int]) -> Costs:
        """(L, R): the step to one state."""
        return unpacked(self._left[:, state[0]])[:, None] + unpacked(self._right[:, state[1]])[None, :]


@dataclass(frozen=True)
class Path:
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


@dataclass
class _Tables:
    """Tables of one direction. ``sheets[i]`` has its minimum moved to 0; ``base[i]`` is what
    was taken off, as a Python int, so that no song is too long for int32."""

    keys: list[Hashable] = field(default_factory=list)
    sheets: Sheets = field(default_factory=Sheets)
    base: list[int] = field(default_factory=list)

    def keep(self, keys: Sequence[Hashable]) -> int:
        """Drop what no longer holds; give the number of tables that stay."""
        good = 0
        while good < min(len(keys), len(self.keys)) and keys[good] == self.keys[good]:
            good += 1
        del self.keys[good:], self.base[good:]
        self.sheets.cut(good)
        return good

    def push(self, key: Hashable, sheet: Costs, base: int) -> bool:
        """Add the next table; False when nothing in it is allowed."""
        least = int(sheet.min(initial=FORBIDDEN))
        if least >= FORBIDDEN:
            return False
        normal = np.where(sheet >= FORBIDDEN, FORBIDDEN, sheet - least).astype(np.int32)
        self.keys.append(key)
        self.sheets.append(normal)
        self.base.append(base + least)
        return True


def _sums(columns: Sequence[Column]) -> int:
    """Sums of the min-plus products along a row of columns."""
    total = 0
    for before, after in pairwise(columns):
        (left, right), (new_left, new_right) = before.shape, after.shape
        total += left * new_left * right + right * new_right * new_left
    return total


LinkOf = Callable[[int], Link]
Progress = Callable[[float], bool]


def _always(_: float) -> bool:
    return True


class ChainSolver:
    """Solves one chain after another, reusing what did not change.

    ``link(k)`` gives the step from column k to k + 1; it must depend on the keys of the
    two columns alone. ``progress`` is called with a share 0..1 and cancels with False.
    """

    def __init__(self) -> None:
        self._forward = _Tables()
        self._backward = _Tables()
        self._columns: tuple[Column, ...] = ()
        self._link: LinkOf | None = None
        self._min_plus: MinPlus = min_plus

    def solve(self, columns: Sequence[Column], link: LinkOf, progress: Progress = _always) -> Path:
        """The cheapest path. Raises :class:`DeadEnd` or :class:`Cancelled`; needs a column."""
        self._columns, self._link = tuple(columns), link
        keys = [column.key for column in columns]
        first = self._forward.keep(keys)
        behind = self._backward.keep(keys[::-1])
        if len(columns) - first - behind > 0:
            self._min_plus = kernel_for(_sums(columns[max(0, first - 1) : len(columns) - behind]))
        meet = max(first - 1, 0)
        while meet + behind < len(columns) - 1 or meet >= len(self._forward.sheets):
            if len(self._forward.sheets) > meet:
                meet += 1
            self._extend_forward(meet)
            if not progress((meet + 1 - first) / max(1, len(columns) - first - behind)):
                raise Cancelled
        return self._trace(meet)

    def marginals(self, progress: Progress = _always) -> list[Costs]:
        """For every column the cost of each state with everything else at its best, less the
        cost of the cheapest path: 0 on it, FORBIDDEN where no path goes. After ``solve``."""
        count = len(self._columns)
        for k in range(count):
            self._extend_forward(k)
            if not progress(0.5 * k / count):
                raise Cancelled
        for k in reversed(range(count)):
            self._extend_backward(k)
            if not progress(1 - 0.5 * k / count):
                raise Cancelled
        return [self._through(k) for k in range(count)]

    def in_place(self, k: int, column: Column, into: Link | None, out: Link | None) -> Costs:
        """What each state of another column would cost the whole row in the place of column
        ``k``, less the cost of the cheapest path as it is; may be negative. After ``marginals``.

        ``into`` and ``out`` are the steps from column k - 1 and to column k + 1, None at the ends.
        """
        total = column.cost.astype(np.int64)
        forbidden = column.cost >= FORBIDDEN
        if into is not None:
            best = self._min_plus(np.ascontiguousarray(into.left.T), self._forward.sheets[k - 1])
            best = self._min_plus(np.ascontiguousarray(into.right.T), np.ascontiguousarray(best.T)).T
            forbidden |= best >= FORBIDDEN
            total += best.astype(np.int64) + self._forward.base[k - 1]
        if out is not None:
            place = len(self._columns) - 2 - k
            best = self._min_plus(out.left, self._backward.sheets[place])
            best = self._min_plus(out.right, np.ascontiguousarray(best.T)).T
            forbidden |= best >= FORBIDDEN
            total += best.astype(np.int64) + self._backward.base[place]
        last = len(self._columns) - 1
        cheapest = self._forward.base[last] + int(self._forward.sheets[last].min())
        return np.where(forbidden, FORBIDDEN, total - cheapest).astype(np.int32)

    def _extend_forward(self, k: int) -> None:
        if k < len(self._forward.sheets):
            return
        assert self._link is not None
        column = self._columns[k]
        base = self._forward.base[k - 1] if k else 0
        sheet = column.cost
        if k:
            link = self._link(k - 1)
            best = self._min_plus(np.ascontiguousarray(link.left.T), self._forward.sheets[k - 1])
            best = self._min_plus(np.ascontiguousarray(link.right.T), np.ascontiguousarray(best.T)).T
            sheet = np.minimum(best + column.cost, FORBIDDEN)
        if not self._forward.push(column.key, sheet, base):
            raise DeadEnd(k)

    def _rest(self, k: int) -> tuple[Costs, int]:
        """Cheapest cost of everything behind column ``k`` for each of its states, without its
        own cost; (sheet, base). The table of column k + 1 must be there."""
        assert self._link is not None
        place = len(self._columns) - 2 - k
        if place < 0:
            return np.zeros(self._columns[k].shape, dtype=np.int32), 0
        link = self._link(k)
        best = self._min_plus(link.left, self._backward.sheets[place])
        best = self._min_plus(link.right, np.ascontiguousarray(best.T)).T
        return best, self._backward.base[place]

    def _extend_backward(self, k: int) -> None:
        if len(self._columns) - 1 - k < len(self._backward.sheets):
            return
        rest, base = self._rest(k)
        sheet = np.minimum(rest + self._columns[k].cost, FORBIDDEN)
        if not self._backward.push(self._columns[k].key, sheet, base):
            raise DeadEnd(k)

    def _through(self, k: int) -> Costs:
        rest, _ = self._rest(k)
        forward = self._forward.sheets[k]
        total = forward.astype(np.int64) + rest
        extra = np.minimum(total - total.min(), FORBIDDEN)
        return np.where(forward >= FORBIDDEN, FORBIDDEN, extra).astype(np.int32)

    # --- reading the path off the tables ---

    def _trace(self, meet: int) -> Path:
        """The first cheapest path: sets of optimal states back from ``meet``, then the smallest
        index forwards, column by column."""
        rest, rest_base = self._rest(meet)
        total = self._forward.sheets[meet].astype(np.int64) + rest
        cost = int(total.min())
        if cost >= FORBIDDEN:
            raise DeadEnd(min(meet + 1, len(self._columns) - 1))
        optimal = total == cost
        sets = [optimal]
        for k in range(meet, 0, -1):
            optimal = self._predecessors(k, optimal)
            sets.append(optimal)
        states: list[tuple[int, int]] = []
        for k, optimal in enumerate(reversed(sets)):
            states.append(self._first(optimal & self._reachable(k, states)))
        for k in range(meet + 1, len(self._columns)):
            step = self._step_from(k, states[-1]) + self._backward.sheets[len(self._columns) - 1 - k]
            states.append(self._first(step == step.min()))
        return Path(tuple(states), cost + self._forward.base[meet] + rest_base)

    @staticmethod
    def _first(mask: np.ndarray) -> tuple[int, int]:
        left, right = np.unravel_index(int(np.argmax(mask)), mask.shape)
        return int(left), int(right)

    def _step_from(self, k: int, state: tuple[int, int]) -> Costs:
        """Step costs from a state of column k - 1 to every state of column k, (L, R)."""
        assert self._link is not None
        link = self._link(k - 1)
        return link.out_of(state)

    def _predecessors(self, k: int, optimal: np.ndarray) -> np.ndarray:
        """States of column k - 1 that lie on a cheapest way to the optimal ones of column k."""
        assert self._link is not None
        link, before, here = self._link(k - 1), self._forward.sheets[k - 1], self._forward.sheets[k]
        drop = self._forward.base[k] - self._forward.base[k - 1]
        found = np.zeros(before.shape, dtype=bool)
        for left, right in np.argwhere(optimal):
            wanted = int(here[left, right]) + drop - int(self._columns[k].cost[left, right])
            ways = before + link.into((left, right))
            found |= ways == wanted
        return found

    def _reachable(self, k: int, states: list[tuple[int, int]]) -> np.ndarray:
        """States of column k that continue the path so far at the cheapest cost."""
        here = self._forward.sheets[k]
        if k == 0:
            return np.ones(here.shape, dtype=bool)
        before = int(self._forward.sheets[k - 1][states[-1]])
        drop = self._forward.base[k] - self._forward.base[k - 1]
        ways = self._step_from(k, states[-1]) + self._columns[k].cost + before
        return np.asarray(ways == here + drop)
