"""The cheapest choice of states for columns that are played in rounds: exact, or with a bound.

:mod:`lattice.rounds` gives bounds: choices of a relaxed problem, real ones where no column is seen in two
states. First prices draw the two together, which closes most of what is open; then the states are
parted between them (branch and bound).
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass, field

import numpy as np
from msgspec import Struct

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.columns import DeadEnd, Path
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.lattice.quickest import kernel_for
from yellow_hinge.lattice.rounds import Apart, Mask, Rounds, State
from yellow_hinge.stopping import Progress, always

#: How many trees a search may look at, and how many columns in all of them: our choice, a second or two.
_LEAST_TREES, _MOST_TREES, _MOST_COLUMNS = 12, 200, 6_400
#: Prices are drawn together as long as that closes this share of what is open.
_WORTH_IT = 0.1
#: So often every step is drawn together, as a rule.
_SWEEPS = 4


class RoundsPath(Struct, frozen=True):
    """The best choice found, and a bound that no choice can beat; exact when they meet."""

    path: Path
    bound: int

    @property
    def exact(self) -> bool:
        return self.path.cost <= self.bound


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
    """Prices first, then branch and bound over the states of the pivots."""

    def __init__(self, rounds: Rounds, most_trees: int, progress: Progress) -> None:
        self._rounds, self._most, self._progress = rounds, most_trees, progress
        self._parts: list[_Open] = []
        self._tried: set[tuple[State, ...]] = set()
        self._trees = self._tickets = 0
        self._best: Path | None = None
        self._prices = rounds.free

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
        root = self._drawn_together(root, every)
        best = self._close(root)
        self._open(root.cost, every, root)
        while self._parts and self._parts[0].bound < best.cost and self._trees < self._most:
            self._go_on()
            part = heapq.heappop(self._parts)
            best = self._close(part.path)
            apart = rounds.apart(part.path, part.allowed, self._prices)
            if apart:  # else the relaxed choice is a real one, its closed one no dearer
                self._look_into(part, apart[0])
        return RoundsPath(best, min([best.cost, *(part.bound for part in self._parts)]))

    def _go_on(self) -> None:
        if not self._progress(min(1.0, self._trees / self._most)):
            raise Cancelled

    def _drawn_together(self, path: Path, every: dict[int, Mask]) -> Path:
        """The cheapest relaxed choice with better and better prices, from the one without any."""
        kernel_for(self._rounds.sums * _SWEEPS * len(self._rounds.extras))
        while self._trees < self._most:
            gap = self._close(path).cost - path.cost
            prices = self._prices
            for apart in self._rounds.apart(path, every, prices) if gap > 0 else ():
                self._go_on()
                prices = self._rounds.drawn_together(apart.number, every, prices)
                self._trees += 1
            if prices is self._prices:
                break
            better = self._rounds.solved(every, prices)
            self._trees += 1
            if better is None or better.cost <= path.cost:
                break
            gained, path, self._prices = better.cost - path.cost, better, prices
            if gained < _WORTH_IT * gap:
                break
        return path

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

    def _look_into(self, part: _Open, apart: Apart) -> None:
        """First leave out states that cannot be part of anything cheaper; then part what is left
        between the two states that the pivot was looked at in."""
        rounds = self._rounds
        if not part.pruned:
            allowed = rounds.pruned(part.allowed, self._limit, self._prices)
            path = (
                rounds.solved(allowed, self._prices) if all(mask.any() for mask in allowed.values()) else None
            )
            self._trees += 1 + len(rounds.pivots)
            self._open(part.bound, allowed, path, pruned=True)
            return
        for mask in _parted(part.allowed[apart.pivot], part.path.states[apart.pivot], apart.seen):
            allowed = {**part.allowed, apart.pivot: mask}
            self._trees += 1
            self._open(part.bound, allowed, rounds.solved(allowed, self._prices))


def _parted(allowed: Mask, one: State, other: State) -> tuple[Mask, Mask]:
    """Two halves of a set of states, one state in each."""
    axis = 0 if one[0] != other[0] else 1
    middle = (one[axis] + other[axis] + 1) // 2
    low = allowed.copy()
    if axis == 0:
        low[middle:, :] = False
    else:
        low[:, middle:] = False
    return low, allowed & ~low
