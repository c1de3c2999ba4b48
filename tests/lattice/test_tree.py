"""The search over trees against brute force, an independent library, and itself after edits."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import dijkstra

from constants import numbers_of
from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice import kernel, quickest
from yellow_hinge.lattice.columns import Column, DeadEnd, Link
from yellow_hinge.lattice.kernel import FORBIDDEN, PLAIN, Costs, Cuts, min_plus, runs_apart, runs_joined
from yellow_hinge.lattice.quickest import kernel_for
from yellow_hinge.lattice.tree import Table, TableCache, Tree, TreeSolver
from yellow_hinge.stopping import while_wanted

from .problems import Problems, steps_of

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


@settings(max_examples=80)
@given(seeds, st.integers(1, 4), st.integers(1, 3), st.booleans())
def test_the_choice_is_the_first_of_the_cheapest(seed: int, count: int, top: int, row: bool) -> None:
    problems = Problems(seed, top=top).with_columns(count)  # small costs: many ties
    tree = problems.row() if row else problems.tree()
    path = TreeSolver().solve(tree)
    assert (path.cost, path.states) == problems.least(steps_of(tree))


@settings(max_examples=8)
@given(seeds)
def test_cost_against_an_independent_shortest_path_library(seed: int) -> None:
    problems = Problems(seed, 9).with_columns(8)
    sizes = [c.cost.size for c in problems.columns]
    starts = np.concatenate([[1], 1 + np.cumsum(sizes)])
    edges: list[tuple[int, int, int]] = []
    for state, cost in enumerate(problems.columns[0].cost.ravel()):
        if cost < FORBIDDEN:
            edges.append((0, 1 + state, int(cost) + 1))
    for k in range(7):
        link, after = problems.link(k, k + 1), problems.columns[k + 1].cost
        step = link.left[:, None, :, None] + link.right[None, :, None, :] + after
        for a in np.ndindex(*step.shape[:2]):
            step[a] += link.out_of(a) - link.left[a[0]][:, None] - link.right[a[1]]
        step = step.reshape(sizes[k], sizes[k + 1])
        for a, b in np.argwhere(step < FORBIDDEN):
            edges.append((int(starts[k] + a), int(starts[k + 1] + b), int(step[a, b]) + 1))
    rows, ends, weights = zip(*edges, strict=True)
    graph = csr_matrix((weights, (rows, ends)), shape=(starts[-1], starts[-1]))
    distance = dijkstra(graph, indices=0)[starts[-2] :].min()
    assert TreeSolver().solve(problems.row()).cost == distance - 8  # one added per edge


@pytest.mark.long
@settings(max_examples=60)
@given(
    seeds, st.lists(st.tuples(st.integers(0, 5), st.booleans()), min_size=1, max_size=5), st.integers(1, 4)
)
def test_edits_give_what_a_fresh_solver_gives(seed: int, edits: list[tuple[int, bool]], top: int) -> None:
    problems = Problems(seed, top=top).with_columns(6)
    solver = TreeSolver()
    solver.solve(problems.row())
    for number, (place, look) in enumerate(edits):
        if look:
            solver.marginals(problems.row())
        problems.columns[place] = problems.column(("edit", number))
        assert solver.solve(problems.row()) == TreeSolver().solve(problems.row())


def test_longer_and_shorter_rows_reuse_the_tables() -> None:
    problems = Problems(5, 4).with_columns(7)
    solver = TreeSolver()
    for length in (7, 3, 7, 1):
        assert solver.solve(problems.row(length)) == TreeSolver().solve(problems.row(length))


def test_a_cache_may_be_tiny_and_shared() -> None:
    problems, others = (Problems(seed, 4).with_columns(6) for seed in (5, 6))
    for column in others.columns:
        column.key = ("other", column.key)
    cache = TableCache(most_bytes=200)
    one, other = TreeSolver(cache), TreeSolver(cache)
    for _ in range(2):
        assert one.solve(problems.row()) == TreeSolver().solve(problems.row())
        assert other.solve(others.row()) == TreeSolver().solve(others.row())
    assert cache.bytes <= 200


def made_for(problems: Problems, solver: TreeSolver, monkeypatch: pytest.MonkeyPatch) -> int:
    """How many tables a solve makes."""
    made = []
    put = TableCache.put

    def counted(cache: TableCache, name: int, table: Table) -> Table:
        made.append(name)
        return put(cache, name, table)

    with monkeypatch.context() as patched:
        patched.setattr(TableCache, "put", counted)
        solver.solve(problems.row())
    return len(made)


def test_an_edit_makes_only_the_tables_past_it(monkeypatch: pytest.MonkeyPatch) -> None:
    problems = Problems(9, 4).with_columns(20)
    solver = TreeSolver()
    assert made_for(problems, solver, monkeypatch) == 19
    solver.marginals(problems.row())
    problems.columns[10] = problems.column("new")
    assert made_for(problems, solver, monkeypatch) == 0  # both neighbours' tables lead to it
    assert made_for(problems, solver, monkeypatch) == 0


@settings(max_examples=40)
@given(seeds, st.integers(1, 4), st.booleans())
def test_marginals_are_the_cost_of_locking_each_state(seed: int, count: int, row: bool) -> None:
    problems = Problems(seed).with_columns(count)
    tree = problems.row() if row else problems.tree()
    best, times = TreeSolver().solve(tree).cost, steps_of(tree)
    marginals = TreeSolver().marginals(tree)
    every = [(problems.cost(states, times), states) for states in problems.every()]
    for k, column in enumerate(problems.columns):
        for state in np.ndindex(column.cost.shape):
            through = min(cost for cost, states in every if states[k] == state)
            extra = int(marginals[k][state])
            assert extra >= FORBIDDEN if through >= FORBIDDEN else extra == through - best


@settings(max_examples=20)
@given(seeds, st.integers(1, 4))
def test_totals_at_a_column_are_the_marginals_with_the_best_on_top(seed: int, count: int) -> None:
    problems = Problems(seed).with_columns(count)
    tree = problems.tree()
    path, marginals = TreeSolver().solve(tree), TreeSolver().marginals(tree)
    for k in range(count):
        total, base = TreeSolver().totals(tree, k)
        allowed = marginals[k] < FORBIDDEN
        assert (total[allowed] + base == marginals[k][allowed] + path.cost).all()
        assert (total[~allowed] >= FORBIDDEN).all()


def test_nothing_allowed_is_a_dead_end() -> None:
    blocked: Costs = np.full((2, 2), FORBIDDEN, dtype=np.int32)
    open_: Costs = np.zeros((2, 2), dtype=np.int32)
    link = Link(open_, open_)
    columns = [Column(open_, 0), Column(blocked, 1), Column(open_, 2)]
    with pytest.raises(DeadEnd) as caught:
        TreeSolver().solve(Tree.row(columns, lambda _: link))
    assert caught.value.column == 1


def test_cancelling_leaves_the_solver_usable() -> None:
    problems = Problems(3, 4).with_columns(10)
    solver = TreeSolver()
    with pytest.raises(Cancelled):
        solver.solve(problems.row(), lambda share: share < 0.5)
    with pytest.raises(Cancelled):
        solver.marginals(problems.row(), lambda share: share < 0.9)
    assert solver.solve(problems.row()) == TreeSolver().solve(problems.row())


def test_long_rows_do_not_overflow() -> None:
    cost: Costs = np.full((2, 2), 200_000_000, dtype=np.int32)
    link = Link(np.full((2, 2), 50_000_000, dtype=np.int32), np.zeros((2, 2), dtype=np.int32))
    columns = [Column(cost, k) for k in range(50)]
    path = TreeSolver().solve(Tree.row(columns, lambda _: link))
    assert path.cost == 50 * 200_000_000 + 49 * 50_000_000


def test_steps_taken_another_way_are_another_step() -> None:
    problems = Problems(7).with_columns(2)
    solver = TreeSolver()
    once = solver.solve(Tree(problems.columns, (-1, 0), lambda _: problems.link(0, 1), (0, 1)))
    twice = solver.solve(Tree(problems.columns, (-1, 0), lambda _: problems.link(0, 1).times(2), (0, 2)))
    assert once.cost == problems.least({(0, 1): 1})[0]
    assert twice.cost == problems.least({(0, 1): 2})[0]


def test_the_compiled_products_give_the_same_numbers(monkeypatch: pytest.MonkeyPatch) -> None:
    compiled = kernel_for(10**12)
    assert compiled is not PLAIN
    random = np.random.default_rng(2)
    for shape in ((1, 1, 1), (7, 5, 9), (40, 33, 21)):
        for most in (900, 60_000, 1_000_000):  # in 16 bits, cut down to them, and not
            first = random.integers(0, most, shape[:2]).astype(np.int32)
            second = random.integers(0, 900, shape[1:]).astype(np.int32)
            second[random.random(second.shape) < 0.3] = FORBIDDEN
            assert (compiled.product(first, second) == min_plus(first, second)).all()
            low = np.sort(random.integers(0, shape[1] + 1, shape[0]))
            cuts = low, np.minimum(shape[1], low + 2)
            halves = PLAIN.apart(first, second, cuts)
            assert (compiled.apart(first, second, cuts) == halves).all()
            seconds = random.integers(0, 900, (3, *shape[1:])).astype(np.int32)
            joined = PLAIN.joined(first, seconds, cuts)
            assert (compiled.joined(first, seconds, cuts) == joined).all()
    problems = Problems(4, 5).with_columns(6)
    plain = TreeSolver().solve(problems.row())
    monkeypatch.setattr(quickest, "COMPILE_FROM_SUMS", 0)
    assert TreeSolver().solve(problems.row()) == plain


@given(st.integers(0, 1000), st.integers(1, 6), st.integers(1, 6), st.integers(1, 6))
def test_products_in_runs_against_their_definition(seed: int, i: int, j: int, k: int) -> None:
    random = np.random.default_rng(seed)
    first = random.integers(0, 50, (i, k)).astype(np.int32)
    seconds = random.integers(0, 50, (3, k, j)).astype(np.int32)
    seconds[random.random(seconds.shape) < 0.3] = FORBIDDEN
    low = np.sort(random.integers(0, k + 1, i))
    cuts = low, np.array([int(random.integers(one, k + 1)) for one in low])
    cuts = low, np.maximum.accumulate(cuts[1])
    run = [[0 if z < cuts[0][x] else 1 if z < cuts[1][x] else 2 for z in range(k)] for x in range(i)]

    def least(costs: list[int]) -> int:
        return min([*costs, FORBIDDEN])

    apart = [
        [[least([int(first[x, z] + seconds[0, z, y]) for z in range(k) if run[x][z] == c]) for y in range(j)]
         for x in range(i)] for c in range(3)
    ]  # fmt: skip
    assert runs_apart(first, seconds[0], cuts).tolist() == apart
    joined = [
        [least([int(first[x, z] + seconds[run[x][z], z, y]) for z in range(k)]) for y in range(j)]
        for x in range(i)
    ]
    assert runs_joined(first, seconds, cuts).tolist() == joined


@pytest.mark.parametrize(("most", "wanted"), [(20, 7), (40, 4), (120, 2), (10**9, 1)])
@pytest.mark.parametrize("runs", [False, True])
def test_how_often_a_product_asks_whether_to_go_on(
    monkeypatch: pytest.MonkeyPatch, most: int, wanted: int, runs: bool
) -> None:
    """Once for so many sums, however they are laid out; at least once."""
    monkeypatch.setattr(kernel, "SUMS_AT_ONCE", most)
    asked: list[int] = []

    def goes_on() -> bool:
        asked.append(1)
        return True

    first, second = np.zeros((7, 5), dtype=np.int32), np.zeros((5, 8), dtype=np.int32)
    with while_wanted(goes_on):
        runs_apart(first, second, cuts(first)) if runs else min_plus(first, second)
    assert len(asked) == wanted


def cuts(first: Costs) -> Cuts:
    return np.full(len(first), 2, dtype=np.intp), np.full(len(first), 4, dtype=np.intp)


def test_a_cleared_cache_holds_nothing_and_keeps_its_names() -> None:
    cache = TableCache()
    name = cache.name(("a", 1))
    cache.put(name, Table.of(np.zeros((2, 3), dtype=np.int32)))
    assert cache.has(name) and cache.bytes == 2 * 3 * 2
    cache.clear()
    assert not cache.has(name) and cache.bytes == 0 and cache.get(name) is None
    assert cache.name(("a", 1)) == name and cache.name(("a", 2)) != name


def test_names_of_tables_are_bounded(monkeypatch: pytest.MonkeyPatch) -> None:
    """Equal content has one name as long as it is remembered; no name is given twice."""
    monkeypatch.setattr("yellow_hinge.lattice.tree._MOST_NAMES", 3)
    cache = TableCache()
    first = [cache.name(content) for content in "abcabc"]
    assert first == [0, 1, 2, 0, 1, 2]
    more = [cache.name(content) for content in "dead"]
    assert more == [3, 4, 5, 3] and len(cache._names) == 3


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("lattice")
    assert {name: now.get(name) for name in decided} == decided != {}
