"""The cheapest closed path: the last column also steps to the first. Exact, with a bound.

Branch and bound over sets of states of the first column. For a set, the chain that
begins and ends anywhere in it costs no more than the best loop through it: a bound. If
that chain happens to begin and end in the same state it is a loop. Otherwise the set
is parted between the two.
"""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.chain import ChainSolver, Column, DeadEnd, Link, LinkOf, Path, Progress
from yellow_hinge.lattice.kernel import FORBIDDEN


@dataclass(frozen=True)
class LoopPath:
    """The best loop found, and a bound that no loop can beat; exact when they meet."""

    path: Path
    bound: int

    @property
    def exact(self) -> bool:
        return self.path.cost == self.bound


class _Search:
    def __init__(self, columns: Sequence[Column], link: LinkOf, closing: Link) -> None:
        self.columns, self.link, self.closing = list(columns), link, closing
        self.count = 0

    def _links(self, k: int) -> Link:
        return self.closing if k == len(self.columns) - 1 else self.link(k)

    def chain(self, allowed: npt.NDArray[np.bool_]) -> Path | None:
        """The cheapest chain from the set through all columns back into the set."""
        self.count += 1
        first = np.where(allowed, self.columns[0].cost, FORBIDDEN).astype(np.int32)
        last = np.where(first < FORBIDDEN, 0, FORBIDDEN).astype(np.int32)
        row = [Column(first, "first"), *self.columns[1:], Column(last, "last")]
        try:
            return ChainSolver().solve(row, self._links)
        except DeadEnd:
            return None

    def closed(self, state: tuple[int, int]) -> Path | None:
        """The best loop through one state of the first column."""
        only = np.zeros(self.columns[0].cost.shape, dtype=bool)
        only[state] = True
        return self.chain(only)


def solve_loop(
    columns: Sequence[Column],
    link: LinkOf,
    closing: Link,
    most_chains: int = 300,
    progress: Progress = lambda _: True,
) -> LoopPath:
    """The cheapest loop through all columns.

    ``closing`` steps from the last column to the first. After ``most_chains`` chains the
    best loop so far is given with the bound that still stands. Raises :class:`DeadEnd`
    and :class:`Cancelled`.
    """
    search = _Search(columns, link, closing)
    every = np.asarray(columns[0].cost < FORBIDDEN)
    root = search.chain(every)
    if root is None:
        raise DeadEnd(0)
    best: Path | None = None
    tried: set[tuple[int, int]] = set()
    ticket = 0
    open_sets = [(root.cost, ticket, every, root)]
    while open_sets and (best is None or open_sets[0][0] < best.cost):
        if not progress(min(1.0, search.count / most_chains)):
            raise Cancelled
        if best is not None and search.count >= most_chains:
            break
        bound, _, allowed, path = heapq.heappop(open_sets)
        start, end = path.states[0], path.states[-1]
        if start == end:
            best = _better(best, path)
            continue
        if start not in tried:
            tried.add(start)
            best = _better(best, search.closed(start))
        for part in _parted(allowed, start, end):
            chain = search.chain(part)
            if chain is not None and (best is None or chain.cost < best.cost):
                ticket += 1
                heapq.heappush(open_sets, (max(bound, chain.cost), ticket, part, chain))
    assert best is not None
    bound = min([best.cost, *(entry[0] for entry in open_sets)])
    return LoopPath(Path(best.states[:-1], best.cost), bound)


def _better(best: Path | None, other: Path | None) -> Path | None:
    if other is None or (best is not None and best.cost <= other.cost):
        return best
    return other


def _parted(
    allowed: npt.NDArray[np.bool_], start: tuple[int, int], end: tuple[int, int]
) -> tuple[npt.NDArray[np.bool_], npt.NDArray[np.bool_]]:
    """Two halves of the set, one with the start and one with the end in it."""
    axis = 0 if start[0] != end[0] else 1
    middle = (start[axis] + end[axis] + 1) // 2
    low = allowed.copy()
    if axis == 0:
        low[middle:, :] = False
    else:
        low[:, middle:] = False
    return low, allowed & ~low
