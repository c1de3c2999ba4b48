"""Columns that are played in rounds, against brute force."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice import rounds as rounds_module
from yellow_hinge.lattice import search as search_module
from yellow_hinge.lattice.columns import Column, DeadEnd, Link
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.lattice.rounds import Rounds
from yellow_hinge.lattice.search import solve_rounds
from yellow_hinge.lattice.tree import TableCache, TreeSolver

from .problems import Problems, seeds_and_ways

Ways = dict[tuple[int, int], int]


def rounds_of(problems: Problems, ways: Ways, solver: TreeSolver | None = None) -> Rounds:
    return Rounds(problems.columns, ways, problems.link, solver or TreeSolver())


@pytest.mark.long
@settings(max_examples=120)
@given(seeds_and_ways())
def test_the_cheapest_choice_and_it_says_so(drawn: tuple[int, int, Ways]) -> None:
    seed, count, ways = drawn
    problems = Problems(seed).with_columns(count)
    found = solve_rounds(rounds_of(problems, ways), most_trees=5000)
    cost, _ = problems.least(ways)
    assert found.exact
    assert found.path.cost == cost == problems.cost(found.path.states, ways)


@settings(max_examples=40)
@given(seeds_and_ways())
def test_cut_short_the_bound_is_honest(drawn: tuple[int, int, Ways]) -> None:
    seed, count, ways = drawn
    problems = Problems(seed, top=9).with_columns(count)
    short = solve_rounds(rounds_of(problems, ways), most_trees=1)
    cost, _ = problems.least(ways)
    assert short.bound <= cost <= short.path.cost == problems.cost(short.path.states, ways)


@pytest.mark.long
@settings(max_examples=60)
@given(seeds_and_ways(), st.integers(0, 2**32 - 1))
def test_whatever_the_prices_the_bound_is_honest(drawn: tuple[int, int, Ways], seed_of_prices: int) -> None:
    seed, count, ways = drawn
    problems = Problems(seed, top=9).with_columns(count)
    rounds, random = rounds_of(problems, ways), np.random.default_rng(seed_of_prices)
    prices = rounds.free
    for number, sheet in enumerate(prices.seen):
        prices = prices.moved(number, random.integers(-9, 10, sheet.shape))
    every = {pivot: rounds.columns[pivot].cost < FORBIDDEN for pivot in rounds.pivots}
    path = rounds.solved(every, prices)
    assert path is not None and path.cost <= problems.least(ways)[0]
    if not rounds.apart(path, every, prices):
        assert problems.cost(path.states, ways) == path.cost == problems.least(ways)[0]


@pytest.mark.long
@settings(max_examples=60)
@given(seeds_and_ways())
def test_drawing_together_never_lowers_the_bound(drawn: tuple[int, int, Ways]) -> None:
    seed, count, ways = drawn
    problems = Problems(seed, top=30).with_columns(count)
    rounds = rounds_of(problems, ways)
    every = {pivot: rounds.columns[pivot].cost < FORBIDDEN for pivot in rounds.pivots}
    prices, bound = rounds.free, -FORBIDDEN
    for number in [*range(len(rounds.extras))] * 4:
        path = rounds.solved(every, prices)
        assert (
            path is not None and bound <= path.cost + 1 and path.cost <= problems.least(ways)[0]
        )  # whole costs
        bound, prices = path.cost, rounds.drawn_together(number, every, prices)


def test_prices_close_what_is_open() -> None:
    """Of problems that the first tree leaves open most are settled by prices alone."""
    opened = closed = 0
    for seed in range(60):
        problems = Problems(seed, 4, top=30).with_columns(4)
        rounds = rounds_of(problems, {(0, 1): 1, (1, 2): 1, (2, 3): 1, (3, 0): 2, (2, 0): 1})
        every = {pivot: rounds.columns[pivot].cost < FORBIDDEN for pivot in rounds.pivots}
        prices, path = rounds.free, rounds.solved(every)
        assert path is not None
        if not rounds.apart(path, every, prices):
            continue
        opened += 1
        for _ in range(6):
            for one in rounds.apart(path, every, prices):
                prices = rounds.drawn_together(one.number, every, prices)
            path = rounds.solved(every, prices)
            assert path is not None
        closed += rounds.closed(path).cost == path.cost
    assert opened > 10 and closed > opened / 2


@settings(max_examples=40)
@given(seeds_and_ways(), st.integers(1, 3))
def test_edits_give_what_a_fresh_solver_gives(drawn: tuple[int, int, Ways], edits: int) -> None:
    seed, count, ways = drawn
    problems = Problems(seed, top=4).with_columns(count)
    solver = TreeSolver(TableCache(3000))
    for number in range(edits):
        kept = solve_rounds(rounds_of(problems, ways, solver), most_trees=5000)
        fresh = solve_rounds(rounds_of(problems, ways), most_trees=5000)
        assert kept == fresh
        problems.columns[number % count] = problems.column(("edit", number))


@pytest.mark.long
@settings(max_examples=80)
@given(seeds_and_ways())
def test_marginals_are_what_locking_each_state_costs(drawn: tuple[int, int, Ways]) -> None:
    """Exactly where one column sees all that leads back, else at most what is said."""
    seed, count, ways = drawn
    problems = Problems(seed).with_columns(count)
    rounds = rounds_of(problems, ways)
    path = solve_rounds(rounds, most_trees=5000).path
    every = [(problems.cost(states, ways), states) for states in problems.every()]
    sheets, exact = rounds.marginals(path)
    assert exact == (len(rounds.pivots) < 2)
    for k, sheet in enumerate(sheets):
        for state in np.ndindex(problems.columns[k].cost.shape):
            least = min(cost for cost, states in every if states[k] == state)
            said = int(sheet[state])
            if least >= FORBIDDEN:
                assert said >= FORBIDDEN - path.cost
            elif exact:
                assert said == least - path.cost
            else:
                assert said >= least - path.cost
        assert sheet[path.states[k]] == 0


def test_marginals_of_too_many_states_are_upper_bounds(monkeypatch: pytest.MonkeyPatch) -> None:
    larger = 0
    for seed in range(8):
        problems, ways = Problems(seed, 4).with_columns(4), {(0, 1): 1, (1, 2): 1, (2, 3): 1, (3, 0): 2}
        rounds = rounds_of(problems, ways)
        path = solve_rounds(rounds).path
        exact, all_exact = rounds.marginals(path)
        with monkeypatch.context() as patched:
            patched.setattr(rounds_module, "MOST_NUMBERS", 3)
            rough, still = rounds.marginals(path)
        assert all_exact and not still
        assert all((one <= other).all() for one, other in zip(exact, rough, strict=True))
        assert all(sheet[state] == 0 for sheet, state in zip(rough, path.states, strict=True))
        larger += sum(bool((one < other).any()) for one, other in zip(exact, rough, strict=True))
    assert larger
    with pytest.raises(Cancelled):
        rounds.marginals(path, lambda share: share < 0.9)


def test_a_column_behind_itself_pays_for_it() -> None:
    cost = np.array([[0, 3]], dtype=np.int32)
    link = Link(np.array([[0]], dtype=np.int32), np.array([[5, 0], [0, 1]], dtype=np.int32))
    found = solve_rounds(Rounds([Column(cost, 0)], {(0, 0): 2}, lambda _, __: link, TreeSolver()))
    assert (found.path.states, found.path.cost) == (((0, 1),), 3 + 2)


def test_without_a_way_it_is_a_dead_end() -> None:
    blocked = Column(np.full((1, 1), FORBIDDEN, dtype=np.int32), 0)
    zero = np.zeros((1, 1), dtype=np.int32)
    rounds = Rounds(
        [blocked, Column(zero, 1)], {(0, 1): 1, (1, 0): 1}, lambda _, __: Link(zero, zero), TreeSolver()
    )
    with pytest.raises(DeadEnd):
        solve_rounds(rounds)


def test_it_can_be_cancelled() -> None:
    for seed in range(40):  # until one that is not settled by the first tree
        problems = Problems(seed, 4, top=30).with_columns(4)
        ways = {(0, 1): 1, (1, 2): 1, (2, 3): 1, (3, 0): 2, (2, 0): 1}
        first = solve_rounds(rounds_of(problems, ways), most_trees=1)
        if not first.exact:
            with pytest.raises(Cancelled):
                solve_rounds(rounds_of(problems, ways), progress=lambda _: False)
            return
    raise AssertionError("no problem was hard enough")


def test_a_shared_cache_does_not_mix_up_steps_taken_more_often() -> None:
    solver = TreeSolver()
    problems = Problems(8, 4).with_columns(3)
    for ways in ({(0, 1): 1, (1, 2): 1}, {(0, 1): 3, (1, 2): 1}, {(0, 1): 1, (1, 2): 1, (2, 0): 2},
                 {(0, 1): 1, (1, 2): 1, (0, 2): 2}):  # fmt: skip
        assert solve_rounds(rounds_of(problems, ways, solver)).path.cost == problems.least(ways)[0]


@settings(max_examples=60)
@given(seeds_and_ways())
def test_a_column_s_own_marginal_holds_the_other_ends_where_they_are(drawn: tuple[int, int, Ways]) -> None:
    seed, count, ways = drawn
    problems = Problems(seed, top=9).with_columns(count)
    rounds = rounds_of(problems, ways)
    path = solve_rounds(rounds, most_trees=5000).path
    every = [(problems.cost(states, ways), states) for states in problems.every()]
    for k in range(count):
        ends = {extra.other if extra.pivot == k else extra.pivot for extra in rounds.extras} - {k}
        held = [(cost, states) for cost, states in every if all(states[e] == path.states[e] for e in ends)]
        sheet = rounds.marginal(k, path)
        for state in np.ndindex(problems.columns[k].cost.shape):
            least = min(cost for cost, states in held if states[k] == state)
            if least < FORBIDDEN and not any(extra.pivot == extra.other for extra in rounds.extras):
                assert int(sheet[state]) == least - path.cost


@settings(max_examples=60)
@given(seeds_and_ways(), st.lists(st.integers(0, 3), min_size=1, max_size=4))
def test_one_cache_for_many_questions(drawn: tuple[int, int, Ways], edits: list[int]) -> None:
    """Columns change one after the other, and come back; nothing of an older question is taken for it."""
    seed, count, ways = drawn
    problems = Problems(seed, top=6).with_columns(count)
    first, solver = list(problems.columns), TreeSolver(TableCache())
    for number, place in enumerate([*edits, -1]):
        if place < 0:
            problems.columns = list(first)
        else:
            problems.columns[place % count] = problems.column(("edit", number))
        kept = solve_rounds(rounds_of(problems, ways, solver), most_trees=5000)
        assert kept == solve_rounds(rounds_of(problems, ways), most_trees=5000)
        turned = {(b, a): times for (a, b), times in ways.items()}
        kept = solve_rounds(rounds_of(problems, turned, solver), most_trees=5000)
        assert kept == solve_rounds(rounds_of(problems, turned), most_trees=5000)


@given(st.integers(1, 4), st.integers(1, 4), st.data())
def test_parted_states_fall_into_two_halves(rows: int, columns: int, data: st.DataObject) -> None:
    state = st.tuples(st.integers(0, rows - 1), st.integers(0, columns - 1))
    one, other = data.draw(state), data.draw(state)
    if one == other:
        return
    allowed = np.ones((rows, columns), dtype=bool)
    low, high = search_module._parted(allowed, one, other)
    assert not (low & high).any() and (low | high).all()
    assert {bool(low[one]), bool(low[other])} == {True, False}
    axis = 0 if one[0] != other[0] else 1  # the first that tells them apart, in the middle between them
    middle = (one[axis] + other[axis] + 1) // 2
    assert low.any(axis=1 - axis).sum() == middle


@pytest.mark.parametrize(
    ("columns", "share", "trees"),
    [(1, 1.0, 200), (32, 1.0, 200), (33, 1.0, 194), (64, 1.0, 100), (67, 1.0, 96), (533, 1.0, 12),
     (5000, 1.0, 12), (32, 1 / 12, 17), (64, 1 / 12, 12), (4, 0.123, 25)],
)  # fmt: skip
def test_long_songs_get_fewer_trees(columns: int, share: float, trees: int) -> None:
    assert search_module.usual_trees(columns, share) == trees
