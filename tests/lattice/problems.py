"""Random small problems for the search, with their costs by definition."""

from __future__ import annotations

from collections.abc import Hashable
from itertools import product

import numpy as np
from hypothesis import strategies as st

from yellow_hinge.lattice.columns import Column, Link, Side, Turns
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.lattice.tree import Tree

States = tuple[tuple[int, int], ...]


class Problems:
    """Columns with some forbidden states, and links between any two of them; half of the links cost by
    which way the heights of both sides go as well."""

    def __init__(self, seed: int, most: int = 3, top: int = 20, forbidden: float = 0.2) -> None:
        self.random = np.random.default_rng(seed)
        self.top, self.most, self.forbidden = top, most, forbidden
        self.columns: list[Column] = []
        self.links: dict[tuple[object, object], Link] = {}
        self.heights: dict[tuple[object, int], np.ndarray] = {}

    def column(self, key: Hashable) -> Column:
        shape = tuple(self.random.integers(1, self.most + 1, 2))
        cost = self.random.integers(0, self.top, shape).astype(np.int32)
        cost[self.random.random(shape) < self.forbidden] = FORBIDDEN
        if (cost >= FORBIDDEN).all():
            cost[0, 0] = 1
        return Column(cost, key)

    def with_columns(self, count: int) -> Problems:
        self.columns = [self.column(k) for k in range(count)]
        return self

    def link(self, start: int, end: int) -> Link:
        """The step between two columns; it hangs on their keys alone."""
        before, after = self.columns[start], self.columns[end]
        key = (before.key, after.key)
        if key not in self.links:
            left, right = (
                self.random.integers(0, self.top, (b, a)).astype(np.int32)
                for b, a in zip(before.shape, after.shape, strict=True)
            )
            turns = self.turns(before, after) if self.random.random() < 0.5 else None
            self.links[key] = Link(left, right, turns)
        return self.links[key]

    def turns(self, before: Column, after: Column) -> Turns:
        """A random price for every pair of ways."""
        one, two, three = self.random.integers(0, self.top, (3, 3)).tolist()
        sides = (Side(self.height(before, side), self.height(after, side)) for side in (0, 1))
        return Turns((tuple(one), tuple(two), tuple(three)), *sides)

    def height(self, column: Column, side: int) -> np.ndarray:
        """How high the states of a side lie, some alike."""
        key = (column.key, side)
        if key not in self.heights:
            self.heights[key] = np.sort(self.random.integers(0, 4, column.shape[side]))
        return self.heights[key]

    def row(self, length: int | None = None) -> Tree:
        return Tree.row(self.columns[:length], lambda k: self.link(k, k + 1))

    def tree(self) -> Tree:
        """Every column hangs on a lower one, at random."""
        parents = [-1] + [int(self.random.integers(0, k)) for k in range(1, len(self.columns))]
        return Tree(self.columns, parents, lambda k: self.link(parents[k], k))

    def step(self, start: int, end: int, states: States) -> int:
        link, a, b = self.link(start, end), states[start], states[end]
        cost = int(link.left[a[0], b[0]]) + int(link.right[a[1], b[1]])
        if link.turns is None:
            return cost
        before, after = self.columns[start], self.columns[end]
        rise = [int(self.height(after, k)[b[k]]) - int(self.height(before, k)[a[k]]) for k in (0, 1)]
        up_level_down = [0 if one > 0 else 1 if one == 0 else 2 for one in rise]
        return cost + link.turns.table[up_level_down[0]][up_level_down[1]]

    def cost(self, states: States, times: dict[tuple[int, int], int]) -> int:
        """What a choice costs when steps are taken so many times."""
        total = sum(int(c.cost[s]) for c, s in zip(self.columns, states, strict=True))
        return total + sum(count * self.step(*pair, states) for pair, count in times.items())

    def every(self) -> list[States]:
        """Every choice, in the order in which ties are broken; forbidden ones among them."""
        rows = [[divmod(i, c.shape[1]) for i in range(c.cost.size)] for c in self.columns]
        return list(product(*rows))

    def least(self, times: dict[tuple[int, int], int]) -> tuple[int, States]:
        """By trying every choice: the least cost, and the first choice that has it."""
        costs = [(self.cost(states, times), number) for number, states in enumerate(self.every())]
        cost, number = min(costs)
        return cost, self.every()[number]


def steps_of(tree: Tree) -> dict[tuple[int, int], int]:
    """Each step of a tree, taken once."""
    return {(tree.parents[k], k): 1 for k in range(1, len(tree.columns))}


@st.composite
def seeds_and_ways(draw: st.DrawFn) -> tuple[int, int, dict[tuple[int, int], int]]:
    """A seed, how many columns there are, and how often which step is taken: a row from the first
    column to the last, and some further steps that may lead back or stay where they are."""
    count = draw(st.integers(1, 4))
    times = st.integers(1, 3)
    ways = {(k, k + 1): draw(times) for k in range(count - 1)}
    places = st.integers(0, count - 1)
    for pair in draw(st.lists(st.tuples(places, places), max_size=4)):
        ways[pair] = draw(times)
    return draw(st.integers(0, 10_000)), count, ways
