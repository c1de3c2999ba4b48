"""Closed paths against brute force, and the compiled product against the plain one."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yellow_hinge.lattice import kernel
from yellow_hinge.lattice.chain import ChainSolver, Column, DeadEnd, Link
from yellow_hinge.lattice.kernel import FORBIDDEN, kernel_for, min_plus
from yellow_hinge.lattice.loop import solve_loop

from .test_chain import Chain, seeds


@settings(max_examples=60, deadline=None)
@given(seeds, st.integers(2, 4), st.integers(1, 20))
def test_loops_are_the_cheapest_and_say_so(seed: int, length: int, top: int) -> None:
    chain = Chain(seed, length, 3, top=top)
    last, first = chain.columns[-1].cost.shape, chain.columns[0].cost.shape
    closing = Link(
        *(chain.random.integers(0, top, (a, b)).astype(np.int32) for a, b in zip(last, first, strict=True))
    )
    found = solve_loop(chain.columns, chain.link, closing, most_chains=10_000)

    def cost(path: tuple[tuple[int, int], ...]) -> int:
        (l0, r0), (l1, r1) = path[-1], path[0]
        return chain.cost(path) + int(closing.left[l0, l1]) + int(closing.right[r0, r1])

    assert found.exact
    assert found.path.cost == cost(found.path.states) == min(map(cost, chain.paths()))


def test_a_loop_cut_short_gives_an_honest_bound() -> None:
    chain = Chain(11, 5, 5, top=9)
    last, first = chain.columns[-1].cost.shape, chain.columns[0].cost.shape
    closing = Link(
        *(chain.random.integers(0, 9, (a, b)).astype(np.int32) for a, b in zip(last, first, strict=True))
    )
    full = solve_loop(chain.columns, chain.link, closing, most_chains=10_000)
    short = solve_loop(chain.columns, chain.link, closing, most_chains=1)
    assert full.exact
    assert short.bound <= full.path.cost <= short.path.cost


def test_a_loop_without_a_way_is_a_dead_end() -> None:
    blocked = Column(np.full((1, 1), FORBIDDEN, dtype=np.int32), 0)
    zero = np.zeros((1, 1), dtype=np.int32)
    with pytest.raises(DeadEnd):
        solve_loop([blocked, Column(zero, 1)], lambda _: Link(zero, zero), Link(zero, zero))


def test_the_compiled_product_gives_the_same_numbers(monkeypatch: pytest.MonkeyPatch) -> None:
    compiled = kernel_for(10**12)
    assert compiled is not min_plus
    random = np.random.default_rng(2)
    for shape in ((1, 1, 1), (7, 5, 9), (40, 33, 21)):
        first = random.integers(0, 900, shape[:2]).astype(np.int32)
        second = random.integers(0, 900, shape[1:]).astype(np.int32)
        second[random.random(second.shape) < 0.3] = FORBIDDEN
        assert (compiled(first, second) == min_plus(first, second)).all()
    chain = Chain(4, 6, 5)
    plain = ChainSolver().solve(chain.columns, chain.link)
    monkeypatch.setattr(kernel, "COMPILE_FROM_SUMS", 0)
    assert ChainSolver().solve(chain.columns, chain.link) == plain
