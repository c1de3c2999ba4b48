"""The search against brute force, an independent library, and itself after edits."""

from __future__ import annotations

from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import dijkstra

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.chain import ChainSolver, Column, DeadEnd, Link
from yellow_hinge.lattice.kernel import FORBIDDEN, Costs, min_plus


class Chain:
    """A random problem: columns with some forbidden states, links, and content keys."""

    def __init__(self, seed: int, length: int, most: int, top: int = 20, forbidden: float = 0.2) -> None:
        self.random = np.random.default_rng(seed)
        self.top, self.most, self.forbidden = top, most, forbidden
        self.columns = [self.column(k) for k in range(length)]
        self.links: dict[tuple[object, object], Link] = {}

    def column(self, key: object) -> Column:
        shape = tuple(self.random.integers(1, self.most + 1, 2))
        cost = self.random.integers(0, self.top, shape).astype(np.int32)
        cost[self.random.random(shape) < self.forbidden] = FORBIDDEN
        if (cost >= FORBIDDEN).all():
            cost[0, 0] = 1
        return Column(cost, key)

    def link(self, k: int) -> Link:
        before, after = self.columns[k], self.columns[k + 1]
        key = (before.key, after.key)
        if key not in self.links:
            self.links[key] = Link(
                *(
                    self.random.integers(0, self.top, (b, a)).astype(np.int32)
                    for b, a in zip(before.cost.shape, after.cost.shape, strict=True)
                )
            )
        return self.links[key]

    def cost(self, states: tuple[tuple[int, int], ...]) -> int:
        total = sum(int(c.cost[s]) for c, s in zip(self.columns, states, strict=True))
        for k, (a, b) in enumerate(pairwise(states)):
            link = self.link(k)
            total += int(link.left[a[0], b[0]]) + int(link.right[a[1], b[1]])
        return total

    def paths(self) -> list[tuple[tuple[int, int], ...]]:
        """Every allowed path, in the order in which ties are broken."""
        every = [[divmod(i, c.cost.shape[1]) for i in range(c.cost.size)] for c in self.columns]
        return [p for p in product(*every) if self.cost(p) < FORBIDDEN]


seeds = st.integers(0, 10_000)


@given(st.integers(0, 1000), st.integers(1, 6), st.integers(1, 6), st.integers(1, 6))
def test_min_plus_against_its_definition(seed: int, i: int, j: int, k: int) -> None:
    random = np.random.default_rng(seed)
    a = random.integers(0, 50, (i, k)).astype(np.int32)
    b = random.integers(0, 50, (k, j)).astype(np.int32)
    b[random.random((k, j)) < 0.3] = FORBIDDEN
    wanted = [
        [min(*(int(a[x, z]) + int(b[z, y]) for z in range(k)), FORBIDDEN) for y in range(j)] for x in range(i)
    ]
    assert min_plus(a, b).tolist() == wanted


@settings(max_examples=60, deadline=None)
@given(seeds, st.integers(1, 4), st.integers(1, 3))
def test_path_is_the_first_of_the_cheapest(seed: int, length: int, top: int) -> None:
    chain = Chain(seed, length, 3, top=top)  # small costs: many ties
    path = ChainSolver().solve(chain.columns, chain.link)
    every = chain.paths()
    best = min(map(chain.cost, every))
    assert path.cost == best
    assert path.states == next(p for p in every if chain.cost(p) == best)


@settings(max_examples=8, deadline=None)
@given(seeds)
def test_cost_against_an_independent_shortest_path_library(seed: int) -> None:
    chain = Chain(seed, 8, 9)
    sizes = [c.cost.size for c in chain.columns]
    starts = np.concatenate([[1], 1 + np.cumsum(sizes)])
    edges: list[tuple[int, int, int]] = []
    for state, cost in enumerate(chain.columns[0].cost.ravel()):
        if cost < FORBIDDEN:
            edges.append((0, 1 + state, int(cost) + 1))
    for k in range(7):
        link, after = chain.link(k), chain.columns[k + 1].cost
        step = link.left[:, None, :, None] + link.right[None, :, None, :] + after
        step = step.reshape(sizes[k], sizes[k + 1])
        for a, b in np.argwhere(step < FORBIDDEN):
            edges.append((int(starts[k] + a), int(starts[k + 1] + b), int(step[a, b]) + 1))
    rows, ends, weights = zip(*edges, strict=True)
    graph = csr_matrix((weights, (rows, ends)), shape=(starts[-1], starts[-1]))
    distance = dijkstra(graph, indices=0)[starts[-2] :].min()
    assert ChainSolver().solve(chain.columns, chain.link).cost == distance - 8  # one added per edge


@settings(max_examples=60, deadline=None)
@given(
    seeds, st.lists(st.tuples(st.integers(0, 5), st.booleans()), min_size=1, max_size=5), st.integers(1, 4)
)
def test_edits_give_what_a_fresh_solver_gives(seed: int, edits: list[tuple[int, bool]], top: int) -> None:
    chain = Chain(seed, 6, 3, top=top)
    solver = ChainSolver()
    solver.solve(chain.columns, chain.link)
    for number, (place, look) in enumerate(edits):
        if look:
            solver.marginals()
        chain.columns[place] = chain.column(("edit", number))
        assert solver.solve(chain.columns, chain.link) == ChainSolver().solve(chain.columns, chain.link)


def test_longer_and_shorter_chains_reuse_the_solver() -> None:
    chain = Chain(5, 7, 4)
    solver = ChainSolver()
    for length in (7, 3, 7, 1):
        part = chain.columns[:length]
        assert solver.solve(part, chain.link) == ChainSolver().solve(part, chain.link)


def test_an_edit_computes_only_the_neighbourhood() -> None:
    chain = Chain(9, 20, 4)
    solver = ChainSolver()
    solver.solve(chain.columns, chain.link)
    solver.marginals()
    chain.columns[10] = chain.column("new")
    steps: list[float] = []

    def progress(share: float) -> bool:
        steps.append(share)
        return True

    solver.solve(chain.columns, chain.link, progress)
    assert len(steps) == 1


@settings(max_examples=40, deadline=None)
@given(seeds, st.integers(1, 4))
def test_marginals_are_the_cost_of_locking_each_state(seed: int, length: int) -> None:
    chain = Chain(seed, length, 3)
    solver = ChainSolver()
    best = solver.solve(chain.columns, chain.link).cost
    marginals = solver.marginals()
    for k, column in enumerate(chain.columns):
        for state in np.ndindex(column.cost.shape):
            if column.cost[state] >= FORBIDDEN:
                assert marginals[k][state] >= FORBIDDEN
                continue
            locked = np.full_like(column.cost, FORBIDDEN)
            locked[state] = column.cost[state]
            others = [*chain.columns[:k], Column(locked, "locked"), *chain.columns[k + 1 :]]
            links = [chain.link(i) for i in range(length - 1)]
            assert ChainSolver().solve(others, links.__getitem__).cost == best + marginals[k][state]


def test_nothing_allowed_is_a_dead_end() -> None:
    blocked: Costs = np.full((2, 2), FORBIDDEN, dtype=np.int32)
    open_: Costs = np.zeros((2, 2), dtype=np.int32)
    link = Link(open_, open_)
    with pytest.raises(DeadEnd) as caught:
        ChainSolver().solve([Column(open_, 0), Column(blocked, 1), Column(open_, 2)], lambda _: link)
    assert caught.value.column == 1


def test_cancelling_leaves_the_solver_usable() -> None:
    chain = Chain(3, 10, 4)
    solver = ChainSolver()
    with pytest.raises(Cancelled):
        solver.solve(chain.columns, chain.link, lambda share: share < 0.5)
    assert solver.solve(chain.columns, chain.link) == ChainSolver().solve(chain.columns, chain.link)


def test_long_chains_do_not_overflow() -> None:
    cost: Costs = np.full((2, 2), 200_000_000, dtype=np.int32)
    link = Link(np.full((2, 2), 50_000_000, dtype=np.int32), np.zeros((2, 2), dtype=np.int32))
    columns = [Column(cost, k) for k in range(50)]
    assert ChainSolver().solve(columns, lambda _: link).cost == 50 * 200_000_000 + 49 * 50_000_000
