"""Exact cheapest choice of a state for every column of a tree.

Columns are joined by steps into a tree; a row of columns is the plain case. What everything beyond
a step costs at its best, for every state at its near end, is a table (a message of dynamic
programming); a state's cost to the whole is its own and the tables of all steps at its column.

Tables are named by what lies beyond their step, so that they are used again wherever the same lies
there: after an edit only the ways past the change are gone over again. They live in a cache that
is bounded in bytes and may be shared by many solvers.

Ties: among all cheapest choices the one whose flat state indices (``l * R + r``), column by
column from the root, come first, however the tables came about.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from itertools import pairwise
from threading import Lock

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.cache import ByteCache
from yellow_hinge.lattice.columns import Column, DeadEnd, Link, Path
from yellow_hinge.lattice.kernel import FORBIDDEN, Costs, Kernel, Packed, packed, unpacked
from yellow_hinge.lattice.quickest import kernel_for
from yellow_hinge.stopping import Progress, always, ask

#: Names of tables that are kept; beyond it all are forgotten.
_MOST_NAMES = 400_000
_TABLE_BYTES = 160_000_000


class Table(Struct, frozen=True):
    """A sheet of costs with its lowest moved to 0; ``base`` is what was taken off, as a Python int,
    so that no song is too long for int32."""

    sheet: Packed
    base: int = 0

    @staticmethod
    def of(sheet: Costs, base: int = 0) -> Table:
        """A sheet kept in half the room where that goes."""
        return Table(packed(sheet), base)

    @property
    def costs(self) -> Costs:
        """The sheet as int32."""
        return unpacked(self.sheet)


class TableCache:
    """Tables by name, for many solvers and threads."""

    def __init__(self, most_bytes: int = _TABLE_BYTES) -> None:
        self._kept: ByteCache[Table] = ByteCache(most_bytes, lambda table: table.sheet.nbytes)
        self._names: dict[Hashable, int] = {}
        self._lock = Lock()
        self._next = 0

    def name(self, content: Hashable) -> int:
        """A short name for what a table holds: equal content, equal name."""
        with self._lock:
            short = self._names.get(content)
            if short is None:
                if len(self._names) >= _MOST_NAMES:
                    self._names.clear()
                short = self._names[content] = self._next
                self._next += 1
            return short

    def get(self, name: int) -> Table | None:
        with self._lock:
            return self._kept.get(name)

    def put(self, name: int, table: Table) -> Table:
        with self._lock:
            return self._kept.put(name, table)

    @property
    def bytes(self) -> int:
        return self._kept.bytes

    def clear(self) -> None:
        """Keep no table; names stay as they are."""
        with self._lock:
            self._kept.clear()

    def rest(self) -> None:
        """Keep little, what was used last; what is named later has other names."""
        with self._lock:
            self._kept.rest()
            self._names.clear()

    def has(self, name: int) -> bool:
        """Whether a table is there, without counting as a use."""
        with self._lock:
            return name in self._kept


class Tree(Struct, frozen=True):
    """Columns joined into a tree. ``parents[k]`` is the column that column ``k`` hangs on, a lower
    one (-1 for column 0), and ``link(k)`` the step from there to ``k``. It must depend on the keys of
    its two columns and ``ways[k]`` alone."""

    columns: Sequence[Column]
    parents: Sequence[int]
    link: Callable[[int], Link]
    ways: Sequence[Hashable] = ()

    @staticmethod
    def row(columns: Sequence[Column], link: Callable[[int], Link]) -> Tree:
        """Columns in a row; ``link(k)`` steps from column k to k + 1."""
        return Tree(columns, range(-1, len(columns) - 1), lambda k: link(k - 1))


def step_sums(start: tuple[int, ...], end: tuple[int, ...]) -> int:
    """About the sums that two products over a step take, by the shapes (L, R) of its columns."""
    (left, right), (new_left, new_right) = start, end
    return left * new_left * right + right * new_right * new_left


_Edge = tuple[int, int]  # from which column towards which one


class TreeSolver:
    """Solves one tree after another; tables are taken from and left in the cache."""

    def __init__(self, cache: TableCache | None = None) -> None:
        self.cache = cache or TableCache()

    def solve(self, tree: Tree, progress: Progress = always) -> Path:
        """The cheapest states. Raises :class:`DeadEnd` or :class:`Cancelled`; needs a column."""
        return _Solve(tree, self.cache, progress).path()

    def marginals(self, tree: Tree, progress: Progress = always) -> list[Costs]:
        """For every column the cost of each state with everything else at its best, less the
        cost of the cheapest choice: 0 on it, FORBIDDEN where no way goes."""
        return _Solve(tree, self.cache, progress).marginals()

    def totals(self, tree: Tree, k: int) -> tuple[npt.NDArray[np.int64], int]:
        """What each state of column ``k`` costs the whole with everything else at its best, FORBIDDEN
        where no way goes, and what has been taken off all of them."""
        return _Solve(tree, self.cache, always).totals(k)


class _Solve:
    """One tree, with the tables it has needed so far."""

    def __init__(self, tree: Tree, cache: TableCache, progress: Progress) -> None:
        self.tree, self._cache, self._progress = tree, cache, progress
        count = len(tree.columns)
        self._near: list[list[int]] = [[] for _ in range(count)]
        for k in range(1, count):
            self._near[k].append(tree.parents[k])
            self._near[tree.parents[k]].append(k)
        self._names: dict[_Edge, int] = {}
        self._tables: dict[_Edge, tuple[Costs, int]] = {}
        self._held: dict[_Edge, Table] = {}
        self._kernel: Kernel | None = None

    # --- names -----------------------------------------------------------------------------

    def _name_all(self) -> None:
        """Names for the tables over all steps, both ways."""
        tree, count = self.tree, len(self.tree.columns)
        keys = [self._cache.name(column.key) for column in tree.columns]
        for k in range(count - 1, 0, -1):
            self._name((k, tree.parents[k]), keys)
        for k in range(1, count):
            self._name((tree.parents[k], k), keys)

    def _name(self, edge: _Edge, keys: Sequence[int]) -> None:
        start, end = edge
        beyond = sorted(
            (self._down(near, start), self._way(near, start), self._names[near, start])
            for near in self._near[start]
            if near != end
        )
        self._names[edge] = self._cache.name((keys[start], *beyond))

    def _down(self, start: int, end: int) -> bool:
        """Whether the second of two neighbours hangs on the first."""
        return self.tree.parents[end] == start

    def _way(self, start: int, end: int) -> Hashable:
        """What makes the step between two neighbours another one, beside their keys."""
        if not self.tree.ways:
            return 0
        return self._cache.name(self.tree.ways[end if self._down(start, end) else start])

    # --- tables ----------------------------------------------------------------------------

    def _edges_to(self, root: int) -> list[_Edge]:
        """The steps towards a column, from the leaves on."""
        edges, stack = [], [(root, -1)]
        while stack:
            here, before = stack.pop()
            if before >= 0:
                edges.append((here, before))
            stack += [(near, here) for near in self._near[here] if near != before]
        return edges[::-1]

    def _missing(self, edges: Sequence[_Edge]) -> list[_Edge]:
        return [edge for edge in edges if edge not in self._held and not self._cache.has(self._names[edge])]

    def _meeting(self) -> int:
        """The column towards which the fewest tables are missing."""
        count, parents = len(self.tree.columns), self.tree.parents
        there = {edge: self._cache.has(name) for edge, name in self._names.items()}
        missing = [0] * count
        missing[0] = sum(not there[k, parents[k]] for k in range(1, count))
        for k in range(1, count):
            missing[k] = missing[parents[k]] - (not there[k, parents[k]]) + (not there[parents[k], k])
        return min(range(count), key=missing.__getitem__)

    def _link(self, start: int, end: int) -> Link:
        return self.tree.link(end if self._down(start, end) else start)

    def _pushed(self, start: int, end: int) -> tuple[Costs, int]:
        """What everything behind the step costs at its best, for each state of ``end``."""
        sheet, base = self._table((start, end))
        return self._over(self._link(start, end), start, end, sheet), base

    def _over(self, link: Link, start: int, end: int, sheet: Costs) -> Costs:
        assert self._kernel is not None
        down = self._down(start, end)
        return link.over(sheet, self._kernel) if down else link.back(sheet, self._kernel)

    def _table(self, edge: _Edge) -> tuple[Costs, int]:
        """Over a step: own cost of its start and everything behind it."""
        held = self._held.get(edge)
        if held is None:
            held = self._cache.get(self._names[edge])
            if held is None:
                return self._make(edge)
            self._held[edge] = held
        return held.costs, held.base

    def _make(self, edge: _Edge) -> tuple[Costs, int]:
        start, end = edge
        sheet, base = self.tree.columns[start].cost, 0
        for near in self._near[start]:
            if near != end:
                more, added = self._pushed(near, start)
                sheet, base = np.minimum(sheet + more, FORBIDDEN), base + added
        least = int(sheet.min(initial=FORBIDDEN))
        if least >= FORBIDDEN:
            raise DeadEnd(start)
        normal = np.where(sheet >= FORBIDDEN, FORBIDDEN, sheet - least).astype(np.int32)
        made = Table.of(normal, base + least)
        self._held[edge] = self._cache.put(self._names[edge], made)
        return normal, base + least

    def _prepare(self, edges: Sequence[_Edge], share: tuple[float, float]) -> None:
        """Make the tables of some steps, in this order."""
        missing = self._missing(edges)
        if missing:
            self._choose_kernel(missing)
        for place, edge in enumerate(edges):
            self._table(edge)
            if not self._progress(share[0] + (share[1] - share[0]) * (place + 1) / len(edges)):
                raise Cancelled

    def _choose_kernel(self, missing: Sequence[_Edge]) -> None:
        self._kernel = kernel_for(sum(self._sums(*edge) for edge in missing))

    def _sums(self, start: int, end: int) -> int:
        """About the sums that a table over a step takes to make and to go on from."""
        return step_sums(self.tree.columns[start].shape, self.tree.columns[end].shape)

    # --- answers ---------------------------------------------------------------------------

    def path(self) -> Path:
        self._name_all()
        self._choose_kernel(())
        meet = self._meeting()
        self._prepare(self._edges_to(meet), (0.0, 1.0))
        total, base = self._total(meet)
        least = int(total.min())
        if least >= FORBIDDEN:
            raise DeadEnd(meet)
        return Path(tuple(self._trace(meet, total == least)), base + least)

    def _total(self, k: int) -> tuple[npt.NDArray[np.int64], int]:
        """What each state of a column costs the whole."""
        total, base = self.tree.columns[k].cost.astype(np.int64), 0
        for near in self._near[k]:
            more, added = self._pushed(near, k)
            total, base = np.minimum(total + more, FORBIDDEN), base + added
        return total, base

    def marginals(self) -> list[Costs]:
        self._name_all()
        self._choose_kernel(())
        count, parents = len(self.tree.columns), self.tree.parents
        self._prepare([(k, parents[k]) for k in range(count - 1, 0, -1)], (0.0, 0.4))
        self._prepare([(parents[k], k) for k in range(1, count)], (0.4, 0.8))
        found = []
        for k in range(count):
            total, _ = self._through(k)
            extra = total - total.min()
            found.append(np.where(total >= FORBIDDEN, FORBIDDEN, extra).astype(np.int32))
            if not self._progress(0.8 + 0.2 * (k + 1) / count):
                raise Cancelled
        return found

    def _through(self, k: int) -> tuple[npt.NDArray[np.int64], int]:
        """As :meth:`_total`, from the table towards the parent, which holds most of it already."""
        if k == 0:
            return self._total(0)
        parent = self.tree.parents[k]
        sheet, base = self._table((k, parent))
        more, added = self._pushed(parent, k)
        total = np.minimum(sheet.astype(np.int64) + more, FORBIDDEN)
        return total, base + added

    def totals(self, k: int) -> tuple[npt.NDArray[np.int64], int]:
        self._name_all()
        self._choose_kernel(())
        self._prepare(self._edges_to(k), (0.0, 1.0))
        return self._total(k)

    # --- reading the states off the tables -------------------------------------------------

    def _trace(self, meet: int, optimal: npt.NDArray[np.bool_]) -> list[tuple[int, int]]:
        """The first cheapest choice: sets of optimal states back from ``meet`` to the root, then the
        smallest index from the root on, column by column."""
        way = [meet]
        while way[-1]:
            way.append(self.tree.parents[way[-1]])
        sets = {meet: optimal}
        for end, start in pairwise(way):
            ask()
            sets[start] = self._leading(start, end, sets[end])
        states: list[tuple[int, int]] = []
        for k in range(len(self.tree.columns)):
            ask()
            parent = self.tree.parents[k]
            if k == 0:
                states.append(_first(sets[0]))
            elif k in sets:
                states.append(self._continued(parent, k, states[parent], sets[k]))
            else:
                sheet, _ = self._table((k, parent))
                cost = self._steps(parent, k, states[parent]) + sheet
                states.append(_first(cost == cost.min()))
        return states

    def _steps(self, start: int, end: int, state: tuple[int, int]) -> Costs:
        """The step's cost between a state of ``start`` and every state of ``end``."""
        link = self._link(start, end)
        return link.out_of(state) if self._down(start, end) else link.into(state)

    def _leading(self, start: int, end: int, optimal: npt.NDArray[np.bool_]) -> npt.NDArray[np.bool_]:
        """States of ``start`` that lie on a cheapest way to the optimal ones of ``end``."""
        sheet, _ = self._table((start, end))
        kept = np.zeros(sheet.shape, dtype=bool)
        for left, right in np.argwhere(optimal):
            ways = sheet + self._steps(end, start, (int(left), int(right)))
            kept |= ways == ways.min()
        return kept

    def _continued(
        self, start: int, end: int, state: tuple[int, int], optimal: npt.NDArray[np.bool_]
    ) -> tuple[int, int]:
        """The first optimal state of ``end`` that a state of ``start`` leads to most cheaply."""
        sheet, _ = self._table((start, end))
        for left, right in np.argwhere(optimal):
            here = (int(left), int(right))
            ways = sheet + self._steps(end, start, here)
            if ways[state] == ways.min():
                return here
        raise AssertionError("a table holds a cost that no way leads to")


def _first(mask: npt.NDArray[np.bool_]) -> tuple[int, int]:
    left, right = np.unravel_index(int(np.argmax(mask)), mask.shape)
    return int(left), int(right)
