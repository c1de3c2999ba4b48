"""Columns that are played in rounds, as trees.

A chord that is played several times is one column; the steps between columns may lead back. All
steps but some form a tree, which :mod:`lattice.tree` solves. For the others one end, the pivot, is
looked at twice: once as it is, and once as the nearest of a set of its states, for the sake of the
step alone. With the set of all states that gives a bound; where both happen to be the same state
it gives a cheapest choice. :mod:`lattice.search` finds such choices.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Hashable, Mapping, Sequence

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.columns import Column, DeadEnd, Link, Path
from yellow_hinge.lattice.kernel import FORBIDDEN, Costs
from yellow_hinge.lattice.prices import Prices
from yellow_hinge.lattice.quickest import kernel_for
from yellow_hinge.lattice.ranks import MOST_NUMBERS, Ranks, seen_from
from yellow_hinge.lattice.tree import Table, Tree, TreeSolver, step_sums
from yellow_hinge.stopping import Progress, always

Mask = npt.NDArray[np.bool_]
State = tuple[int, int]


class _Extra(Struct, frozen=True):
    """A step that is not in the tree: from its pivot to its other end, and what names it."""

    pivot: int
    other: int
    link: Link
    way: tuple[int, int]


class Apart(Struct, frozen=True):
    """A step of this number looks at its pivot in the state ``seen``, and gains so much by not looking at the
    one that the pivot is in."""

    number: int
    pivot: int
    seen: State
    gained: int


class Rounds:
    """Columns with the steps between them: ``times[u, v]`` is how often the step from ``u`` to ``v``
    is taken, and ``link(u, v)`` is that step, taken once. Every column must be reached from column 0
    over some steps, whichever way round they lead. A column's cost is to hold for all its rounds."""

    def __init__(
        self,
        columns: Sequence[Column],
        times: Mapping[tuple[int, int], int],
        link: Callable[[int, int], Link],
        solver: TreeSolver,
    ) -> None:
        self._times, self._link, self._solver = times, link, solver
        self._steps: dict[tuple[int, int], Link] = {}
        self.columns = [self._with_itself(k, column) for k, column in enumerate(columns)]
        pairs = list(dict.fromkeys((min(pair), max(pair)) for pair in times if pair[0] != pair[1]))
        self._order, self._hangs_on, extra = self._spanned(pairs)
        self._place = {column: place for place, column in enumerate(self._order)}
        self.extras = self._with_pivots(extra)
        self.pivots = sorted({one.pivot for one in self.extras})
        #: Those by which no price is paid.
        self.free = Prices.none([self.columns[one.pivot].shape for one in self.extras])

    # --- the graph -------------------------------------------------------------------------

    def _with_itself(self, k: int, column: Column) -> Column:
        """A column that is followed by itself pays for that step."""
        times = self._times.get((k, k), 0)
        if not times:
            return column
        link = self._link(k, k)
        cost = np.minimum(column.cost + link.staying() * times, FORBIDDEN).astype(np.int32)
        return Column(cost, (column.key, "again", times))

    def way(self, start: int, end: int) -> tuple[int, int]:
        """How often the step between two columns is taken, there and back."""
        return self._times.get((start, end), 0), self._times.get((end, start), 0)

    def step(self, start: int, end: int) -> Link:
        """All that two columns pay for the steps between them."""
        if (start, end) not in self._steps:
            self._steps[start, end] = self._both(start, end)
        return self._steps[start, end]

    def _both(self, start: int, end: int) -> Link:
        there, back = self.way(start, end)
        if not back:
            return self._link(start, end).times(there)
        if not there:
            return self._link(end, start).times(back).turned
        return self._link(start, end).times(there).both_ways(self._link(end, start).times(back))

    def _spanned(
        self, pairs: Sequence[tuple[int, int]]
    ) -> tuple[list[int], dict[int, int], list[tuple[int, int]]]:
        """A tree over all columns: their order from column 0 on, what each hangs on, and the pairs
        that are left over. Those are left over that have an end with few states."""
        sizes = [int(np.count_nonzero(column.cost < FORBIDDEN)) for column in self.columns]
        joined = list(range(len(self.columns)))

        def group(k: int) -> int:
            while joined[k] != k:
                k = joined[k]
            return k

        near: dict[int, list[int]] = {k: [] for k in range(len(self.columns))}
        left_over = []
        for pair in sorted(pairs, key=lambda pair: -min(sizes[pair[0]], sizes[pair[1]])):
            ends = group(pair[0]), group(pair[1])
            if ends[0] == ends[1]:
                left_over.append(pair)
            else:
                joined[max(ends)] = min(ends)
                near[pair[0]].append(pair[1])
                near[pair[1]].append(pair[0])
        order: list[int] = [0]
        hangs_on: dict[int, int] = {}
        for k in order:
            for other in sorted(near[k]):
                if other != hangs_on.get(k):
                    hangs_on[other] = k
                    order.append(other)
        return order, hangs_on, left_over

    def _with_pivots(self, pairs: Sequence[tuple[int, int]]) -> list[_Extra]:
        """The left-over steps, each with one end as its pivot: as few columns as go (the one that most
        steps share first), and those with few states."""
        sizes = [int(np.count_nonzero(column.cost < FORBIDDEN)) for column in self.columns]
        left, extras = list(pairs), []
        while left:
            shared = Counter(end for pair in left for end in pair)
            pivot = min(shared, key=lambda end: (-shared[end], sizes[end], end))
            for pair in [pair for pair in left if pivot in pair]:
                other = pair[1] if pair[0] == pivot else pair[0]
                extras.append(_Extra(pivot, other, self.step(pivot, other), self.way(pivot, other)))
                left.remove(pair)
        return extras

    @property
    def sums(self) -> int:
        """About how many sums one tree takes."""
        return sum(
            step_sums(self.columns[k].shape, self.columns[near].shape) for near, k in self._hangs_on.items()
        )

    # --- trees -----------------------------------------------------------------------------

    def tree(
        self,
        allowed: Mapping[int, Mask],
        ends: Mapping[int, int] | None = None,
        prices: Prices | None = None,
    ) -> tuple[Tree, int]:
        """The columns joined into a tree, those of ``allowed`` within the given states, and what has to be
        taken off its costs. For each step that is not in it one end, the pivot if ``ends`` (by the step's
        number) does not say otherwise, is the one that is looked at twice, and the other one pays for the
        nearest of its allowed states. ``prices`` are for the pivots."""
        columns, above = list(self.columns), 0
        for k, mask in allowed.items():
            cost = columns[k].cost
            key: Hashable = (columns[k].key, "within", _named(mask))
            numbers = [number for number, extra in enumerate(self.extras) if extra.pivot == k]
            if prices is not None and any(prices.names[number] for number in numbers):
                own, most = prices.own(numbers)
                cost, above = np.minimum(cost + own, FORBIDDEN), above + most
                key = (key, "priced", *(prices.names[number] for number in numbers))
            columns[k] = Column(np.where(mask, cost, FORBIDDEN).astype(np.int32), key)
        for number, extra in enumerate(self.extras):
            end = ends[number] if ends else extra.pivot
            payer = extra.other if end == extra.pivot else extra.pivot
            near, name = self._nearest(number, end, allowed[end], prices)
            cost = np.minimum(columns[payer].cost + near, FORBIDDEN)
            columns[payer] = Column(cost.astype(np.int32), (columns[payer].key, "pays", name))
        order, parents = self._order, [-1] + [self._place[self._hangs_on[k]] for k in self._order[1:]]
        return Tree(
            [columns[k] for k in order],
            parents,
            lambda place: self.step(order[parents[place]], order[place]),
            [(0, 0)] + [self.way(order[parents[place]], order[place]) for place in range(1, len(order))],
        ), above

    def _nearest(self, number: int, end: int, mask: Mask, prices: Prices | None) -> tuple[Costs, Hashable]:
        """For each state of a step's other end what the step to the nearest allowed state costs, its price
        included; and a name for it."""
        cache, extra = self._solver.cache, self.extras[number]
        outward = end == extra.pivot
        keys = (self.columns[extra.pivot].key, self.columns[extra.other].key)
        priced = b"" if prices is None else prices.names[number]
        name = cache.name(("nearest", outward, *keys, extra.way, _named(mask), priced))
        kept = cache.get(name)
        if kept is None:
            places = np.argwhere(mask)
            if len(places) == 1 and not priced:
                state = (int(places[0][0]), int(places[0][1]))
                sheet = extra.link.out_of(state) if outward else extra.link.into(state)
            else:
                back = prices.seen[number] if prices is not None and priced else 0
                start = np.where(mask, back, FORBIDDEN).astype(np.int32)
                way = extra.link.over if outward else extra.link.back
                sheet = way(start, kernel_for(0))
            kept = cache.put(name, Table.of(sheet))
        return kept.costs, name

    def solved(self, allowed: Mapping[int, Mask], prices: Prices | None = None) -> Path | None:
        """The cheapest choice for the relaxed problem, its states by column; no real one is cheaper."""
        tree, above = self.tree(allowed, prices=prices)
        try:
            path = self._solver.solve(tree)
        except DeadEnd:
            return None
        return Path(tuple(path.states[self._place[k]] for k in range(len(self.columns))), path.cost - above)

    def pruned(self, allowed: Mapping[int, Mask], below: int, prices: Prices) -> dict[int, Mask]:
        """The allowed states without those that cannot be part of a choice cheaper than ``below``."""
        found = dict(allowed)
        for pivot in self.pivots:
            if not all(mask.any() for mask in found.values()):
                break
            tree, above = self.tree(found, prices=prices)
            total, base = self._solver.totals(tree, self._place[pivot])
            found[pivot] = found[pivot] & (total + base - above < below)
        return found

    def drawn_together(self, number: int, allowed: Mapping[int, Mask], prices: Prices) -> Prices:
        """Prices by which the two looks at the pivot of a step come nearer. Say that with a state s as it is
        the whole costs m(s) at least, and n(s) where the step sees it: then s becomes dearer by half of
        n(s) - m(s) as it is, and as much cheaper where it is seen. But for rounding the bound never falls by
        that: a choice with s, and t seen, costs the mean of m(s) and n(t) at least, and now the mean of n(s)
        and m(t)."""
        extra = self.extras[number]
        tree, _ = self.tree(allowed, prices=prices)
        own, base = self._solver.totals(tree, self._place[extra.pivot])
        payer, payer_base = self._solver.totals(tree, self._place[extra.other])
        near, _ = self._nearest(number, extra.pivot, allowed[extra.pivot], prices)
        behind = np.where(payer >= FORBIDDEN, FORBIDDEN, payer - near)
        least = int(behind.min())
        sheet = np.minimum(behind - least, FORBIDDEN).astype(np.int32)
        again = extra.link.back(sheet, kernel_for(0)) + prices.seen[number].astype(np.int64)
        apart = (again + (least + payer_base)) - (own + base)
        return prices.moved(number, np.where(allowed[extra.pivot], apart // 2, 0))

    def closed(self, path: Path) -> Path:
        """The cheapest choice with every pivot where a path has it: one of the real problem."""
        solved = self.solved({pivot: self._only(pivot, path) for pivot in self.pivots})
        assert solved is not None
        return solved

    def _only(self, k: int, path: Path) -> Mask:
        mask = np.zeros(self.columns[k].cost.shape, dtype=bool)
        mask[path.states[k]] = True
        return mask

    # --- what other states cost ------------------------------------------------------------

    def marginals(self, path: Path, progress: Progress = always) -> tuple[list[Costs], bool]:
        """For every column what each state costs the whole more than the path, with everything else
        at its best; FORBIDDEN where no way goes. After solving. Where several pivots share the steps
        that are not in the tree, or a pivot has too many states, all but one of them stay, so that a
        state may cost less than is said; the second value is whether all is exact."""
        tree, _ = self.tree({p: self._only(p, path) for p in self.pivots})
        sheets = self._solver.marginals(tree, progress)
        found = [sheets[self._place[k]] for k in range(len(self.columns))]
        exact = len(self.pivots) < 2
        for number, pivot in enumerate(self.pivots):
            others = self._with_every_state(pivot, path)
            if others is None:
                exact, found[pivot] = False, self.marginal(pivot, path)
            else:
                found = [np.minimum(one, other) for one, other in zip(found, others, strict=True)]
            if not progress((number + 1) / len(self.pivots)):
                raise Cancelled
        return found, exact

    def _with_every_state(self, pivot: int, path: Path) -> list[Costs] | None:
        """As :meth:`marginals`, with one pivot in every state and the others where they are; None
        where that would be too much."""
        legal = np.argwhere(self.columns[pivot].cost < FORBIDDEN)
        states = [(int(left), int(right)) for left, right in legal]
        if len(states) * sum(column.cost.size for column in self.columns) > MOST_NUMBERS:
            return None
        own: dict[int, Costs] = {}
        columns = list(self.columns)
        for extra in self.extras:
            if extra.pivot == pivot:
                seen = seen_from(extra.link, states, outward=True)
                own[extra.other] = own[extra.other] + seen if extra.other in own else seen
            else:
                cost = columns[extra.other].cost + extra.link.out_of(path.states[extra.pivot])
                columns[extra.other] = Column(np.minimum(cost, FORBIDDEN).astype(np.int32), None)
        for other in self.pivots:
            if other != pivot:
                kept = np.where(self._only(other, path), columns[other].cost, FORBIDDEN).astype(np.int32)
                columns[other] = Column(kept, None)
        own[pivot] = own.get(pivot, 0) + _each_alone(self.columns[pivot].shape, states)
        order = self._order
        parents = [-1] + [self._place[self._hangs_on[k]] for k in order[1:]]
        links = [None, *(self.step(order[parents[place]], order[place]) for place in range(1, len(order)))]
        ranks = Ranks(
            [columns[k] for k in order], parents, links, {self._place[k]: cost for k, cost in own.items()}
        )
        totals = ranks.marginals()
        return [
            np.where(total >= FORBIDDEN, FORBIDDEN, total - path.cost).astype(np.int32)
            for total in (totals[self._place[k]] for k in range(len(self.columns)))
        ]

    def marginal(self, k: int, path: Path) -> Costs:
        """As :meth:`marginals` for one column, which may be another one than the path has there: of
        the steps that are not in the tree the ends that are not ``k`` stay."""
        ends = {
            one: extra.other if extra.pivot == k else extra.pivot for one, extra in enumerate(self.extras)
        }
        kept = {end: self._only(end, path) for end in ends.values()}
        tree, _ = self.tree(kept, ends)
        total, base = self._solver.totals(tree, self._place[k])
        return np.where(total >= FORBIDDEN, FORBIDDEN, total + base - path.cost).astype(np.int32)

    def at_pivots(self, path: Path) -> tuple[State, ...]:
        """Where a path has the pivots."""
        return tuple(path.states[pivot] for pivot in self.pivots)

    def apart(self, path: Path, allowed: Mapping[int, Mask], prices: Prices) -> list[Apart]:
        """The steps that look at their pivot in another state than its own, those that gain most by it
        first."""
        rows: list[Apart] = []
        for number, extra in enumerate(self.extras):
            costs = extra.link.into(path.states[extra.other]) + prices.seen[number]
            costs = np.where(allowed[extra.pivot], costs, FORBIDDEN)
            gained = int(costs[path.states[extra.pivot]]) - int(costs.min())
            if gained:
                rows.append(Apart(number, extra.pivot, _first(costs == costs.min()), gained))
        return sorted(rows, key=lambda apart: -apart.gained)


def _each_alone(shape: tuple[int, int], states: Sequence[State]) -> Costs:
    """(states, L, R): for each state a sheet that allows it alone."""
    sheets = np.full((len(states), *shape), FORBIDDEN, dtype=np.int32)
    for number, state in enumerate(states):
        sheets[number][state] = 0
    return sheets


def _named(mask: Mask) -> bytes:
    return np.packbits(mask).tobytes()


def _first(mask: Mask) -> State:
    left, right = np.unravel_index(int(np.argmax(mask)), mask.shape)
    return int(left), int(right)
