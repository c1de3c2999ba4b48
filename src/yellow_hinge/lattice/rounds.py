"""The cheapest states of columns that are played in rounds: exact, or with a bound.

A chord that is played several times is one column; the steps between columns may lead back. All
steps but some form a tree, which :mod:`lattice.tree` solves. For the others one end, the pivot, is
looked at twice: once as it is, and once as the nearest of a set of its states, for the sake of the
step alone. With the set of all states that gives a bound; where both happen to be the same state
it gives a cheapest choice. Otherwise the set is parted between the two (branch and bound).
"""

from __future__ import annotations

import heapq
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.columns import Column, DeadEnd, Link, Path, Progress, always
from yellow_hinge.lattice.kernel import FORBIDDEN, Costs, kernel_for
from yellow_hinge.lattice.ranks import MOST_NUMBERS, Ranks, seen_from
from yellow_hinge.lattice.tree import Table, Tree, TreeSolver

#: How many trees a search may look at, and how many columns in all of them: our choice, a second or two.
_LEAST_TREES, _MOST_TREES, _MOST_COLUMNS = 12, 200, 6_400

Mask = npt.NDArray[np.bool_]
_State = tuple[int, int]


class RoundsPath(Struct, frozen=True):
    """The best choice found, and a bound that no choice can beat; exact when they meet."""

    path: Path
    bound: int

    @property
    def exact(self) -> bool:
        return self.path.cost <= self.bound


class _Extra(Struct, frozen=True):
    """A step that is not in the tree: from its pivot to its other end, and what names it."""

    pivot: int
    other: int
    link: Link
    way: tuple[int, int]


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

    # --- the graph -------------------------------------------------------------------------

    def _with_itself(self, k: int, column: Column) -> Column:
        """A column that is followed by itself pays for that step."""
        times = self._times.get((k, k), 0)
        if not times:
            return column
        link = self._link(k, k)
        stay = np.add.outer(np.diag(link.left), np.diag(link.right)) * times
        cost = np.minimum(column.cost + stay, FORBIDDEN).astype(np.int32)
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
            link = self._link(end, start).times(back)
            return Link(link.left.T, link.right.T)
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
        left, found = list(pairs), []
        while left:
            shared = Counter(end for pair in left for end in pair)
            pivot = min(shared, key=lambda end: (-shared[end], sizes[end], end))
            for pair in [pair for pair in left if pivot in pair]:
                other = pair[1] if pair[0] == pivot else pair[0]
                found.append(_Extra(pivot, other, self.step(pivot, other), self.way(pivot, other)))
                left.remove(pair)
        return found

    # --- trees -----------------------------------------------------------------------------

    def tree(self, allowed: Mapping[int, Mask], ends: Mapping[int, int] | None = None) -> Tree:
        """The columns joined into a tree, those of ``allowed`` within the given states. For each
        step that is not in it one end, the pivot if ``ends`` (by the step's number) does not say
        otherwise, is the one that is looked at twice, and the other one pays for the nearest of
        its allowed states."""
        columns = list(self.columns)
        for k, mask in allowed.items():
            cost = np.where(mask, columns[k].cost, FORBIDDEN).astype(np.int32)
            columns[k] = Column(cost, (columns[k].key, "within", _named(mask)))
        for number, extra in enumerate(self.extras):
            end = ends[number] if ends else extra.pivot
            payer = extra.other if end == extra.pivot else extra.pivot
            cost = np.minimum(columns[payer].cost + self._nearest(extra, end, allowed[end]), FORBIDDEN)
            looked_at = (self.columns[end].key, _named(allowed[end]))
            key = (columns[payer].key, end == extra.pivot, extra.way, *looked_at)
            columns[payer] = Column(cost.astype(np.int32), key)
        order, parents = self._order, [-1] + [self._place[self._hangs_on[k]] for k in self._order[1:]]
        return Tree(
            [columns[k] for k in order],
            parents,
            lambda place: self.step(order[parents[place]], order[place]),
            [(0, 0)] + [self.way(order[parents[place]], order[place]) for place in range(1, len(order))],
        )

    def _nearest(self, extra: _Extra, end: int, mask: Mask) -> Costs:
        """For each state of a step's other end what the step to the nearest allowed state costs."""
        cache, outward = self._solver.cache, end == extra.pivot
        keys = (self.columns[extra.pivot].key, self.columns[extra.other].key)
        name = cache.name(("nearest", outward, *keys, extra.way, _named(mask)))
        kept = cache.get(name)
        if kept is None:
            places = np.argwhere(mask)
            if len(places) == 1:
                state = (int(places[0][0]), int(places[0][1]))
                sheet = extra.link.out_of(state) if outward else extra.link.into(state)
            else:
                start = np.where(mask, 0, FORBIDDEN).astype(np.int32)
                way = extra.link.over if outward else extra.link.back
                sheet = way(start, kernel_for(0))
            kept = cache.put(name, Table.of(sheet))
        return kept.costs

    def solved(self, allowed: Mapping[int, Mask]) -> Path | None:
        """The cheapest choice for the relaxed problem, its states by column."""
        try:
            path = self._solver.solve(self.tree(allowed))
        except DeadEnd:
            return None
        return Path(tuple(path.states[self._place[k]] for k in range(len(self.columns))), path.cost)

    def pruned(self, allowed: Mapping[int, Mask], below: int) -> dict[int, Mask]:
        """The allowed states without those that cannot be part of a choice cheaper than ``below``."""
        found = dict(allowed)
        for pivot in self.pivots:
            if not all(mask.any() for mask in found.values()):
                break
            total, base = self._solver.totals(self.tree(found), self._place[pivot])
            found[pivot] = found[pivot] & (total + base < below)
        return found

    def closed(self, path: Path) -> Path:
        """The cheapest choice with every pivot where a path has it: one of the real problem."""
        found = self.solved({pivot: self._only(pivot, path) for pivot in self.pivots})
        assert found is not None
        return found

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
        sheets = self._solver.marginals(self.tree({p: self._only(p, path) for p in self.pivots}), progress)
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
        tree = self.tree(kept, ends)
        total, base = self._solver.totals(tree, self._place[k])
        return np.where(total >= FORBIDDEN, FORBIDDEN, total + base - path.cost).astype(np.int32)

    def at_pivots(self, path: Path) -> tuple[_State, ...]:
        """Where a path has the pivots."""
        return tuple(path.states[pivot] for pivot in self.pivots)

    def apart(self, path: Path, allowed: Mapping[int, Mask]) -> tuple[int, _State] | None:
        """A pivot that a step looks at in another state than its own, with that state; None where
        there is none."""
        worst: tuple[int, int, _State] | None = None
        for extra in self.extras:
            costs = np.where(allowed[extra.pivot], extra.link.into(path.states[extra.other]), FORBIDDEN)
            own = path.states[extra.pivot]
            missed = int(costs[own]) - int(costs.min())
            if missed and (worst is None or missed > worst[0]):
                worst = (missed, extra.pivot, _first(costs == costs.min()))
        return None if worst is None else worst[1:]


@dataclass(order=True)
class _Open:
    """A part of the problem that is still to be looked into, by its bound."""

    bound: int
    ticket: int
    allowed: dict[int, Mask] = field(compare=False)
    path: Path = field(compare=False)
    pruned: bool = field(compare=False, default=False)


def solve_rounds(rounds: Rounds, most_trees: int | None = None, progress: Progress = always) -> RoundsPath:
    """The cheapest choice. After ``most_trees`` trees (None: :func:`usual_trees`) the best one so far is
    given, with the bound that still stands. Raises :class:`DeadEnd` and :class:`Cancelled`."""
    most = usual_trees(len(rounds.columns)) if most_trees is None else most_trees
    return _Search(rounds, most, progress).run()


def usual_trees(columns: int, share: float = 1.0) -> int:
    """How many trees are worth looking at for so many columns: a tree takes as long as it is large, so that
    long songs get fewer and the time stays in line with their length. ``share``: of the usual patience."""
    return max(_LEAST_TREES, round(share * min(_MOST_TREES, _MOST_COLUMNS / columns)))


class _Search:
    """Branch and bound over the states of the pivots."""

    def __init__(self, rounds: Rounds, most_trees: int, progress: Progress) -> None:
        self._rounds, self._most, self._progress = rounds, most_trees, progress
        self._parts: list[_Open] = []
        self._tried: set[tuple[_State, ...]] = set()
        self._trees = self._tickets = 0
        self._best: Path | None = None

    @property
    def _limit(self) -> int:
        """What a choice must be cheaper than."""
        return FORBIDDEN if self._best is None else self._best.cost

    def run(self) -> RoundsPath:
        rounds = self._rounds
        every = {pivot: np.asarray(rounds.columns[pivot].cost < FORBIDDEN) for pivot in rounds.pivots}
        root = rounds.solved(every)
        if root is None:
            raise DeadEnd(0)
        if not rounds.extras:
            return RoundsPath(root, root.cost)
        best = self._close(root)
        self._open(root.cost, every, root)
        while self._parts and self._parts[0].bound < best.cost and self._trees < self._most:
            if not self._progress(self._trees / self._most):
                raise Cancelled
            part = heapq.heappop(self._parts)
            best = self._close(part.path)
            apart = rounds.apart(part.path, part.allowed)
            if apart is not None:  # else the relaxed choice is a real one, its closed one no dearer
                self._look_into(part, *apart)
        return RoundsPath(best, min([best.cost, *(part.bound for part in self._parts)]))

    def _close(self, path: Path) -> Path:
        """The best choice so far, one with the pivots where a relaxed choice has them among them."""
        where = self._rounds.at_pivots(path)
        if where not in self._tried:
            self._tried.add(where)
            self._trees += 1
            closed = self._rounds.closed(path)
            if self._best is None or closed.cost < self._best.cost:
                self._best = closed
        assert self._best is not None
        return self._best

    def _open(self, bound: int, allowed: dict[int, Mask], path: Path | None, pruned: bool = False) -> None:
        """Keep a part to be looked into, unless nothing in it can be cheaper."""
        if path is not None and path.cost < self._limit:
            self._tickets += 1
            part = _Open(max(bound, path.cost), self._tickets, allowed, path, pruned)
            heapq.heappush(self._parts, part)

    def _look_into(self, part: _Open, pivot: int, seen: _State) -> None:
        """First leave out states that cannot be part of anything cheaper; then part what is left
        between the two states that the pivot was looked at in."""
        rounds = self._rounds
        if not part.pruned:
            allowed = rounds.pruned(part.allowed, self._limit)
            path = rounds.solved(allowed) if all(mask.any() for mask in allowed.values()) else None
            self._trees += 1 + len(rounds.pivots)
            self._open(part.bound, allowed, path, pruned=True)
            return
        for mask in _parted(part.allowed[pivot], part.path.states[pivot], seen):
            allowed = {**part.allowed, pivot: mask}
            self._trees += 1
            self._open(part.bound, allowed, rounds.solved(allowed))


def _each_alone(shape: tuple[int, int], states: Sequence[_State]) -> Costs:
    """(states, L, R): for each state a sheet that allows it alone."""
    sheets = np.full((len(states), *shape), FORBIDDEN, dtype=np.int32)
    for number, state in enumerate(states):
        sheets[number][state] = 0
    return sheets


def _named(mask: Mask) -> bytes:
    return np.packbits(mask).tobytes()


def _first(mask: Mask) -> _State:
    left, right = np.unravel_index(int(np.argmax(mask)), mask.shape)
    return int(left), int(right)


def _parted(allowed: Mask, one: _State, other: _State) -> tuple[Mask, Mask]:
    """Two halves of a set of states, one state in each."""
    axis = 0 if one[0] != other[0] else 1
    middle = (one[axis] + other[axis] + 1) // 2
    low = allowed.copy()
    if axis == 0:
        low[middle:, :] = False
    else:
        low[:, middle:] = False
    return low, allowed & ~low
