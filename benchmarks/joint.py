"""Proposals, and the joint search of swaps and voicings against the same lattice as an explicit
graph in scipy.sparse.csgraph. Prints ratios; asserts nothing about time.
Run: python benchmarks/joint.py
"""

from __future__ import annotations

import time
from itertools import pairwise
from pathlib import Path

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.lattice import compiled
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.joint import JointSearch, Option
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.swaps import reharmonise
from yellow_hinge.tasks.swaps.reharmonise import find_swaps
from yellow_hinge.voicing.recipes import builtin_library

ROW = "| Dm7 | G7 | Cmaj7 | A7 | Fmaj7 | Bm7b5 | E7 | Am7 |\n"
SLOTS, PROPOSALS, MOST_SWAPS, SLICE = 64, 8, 8, 3


def slots(count: int) -> tuple[Planner, list[list[Option]], float]:
    """A song of ``count`` chords, eight single-chord or split proposals each; seconds to find them."""
    song, library = Song(parse_chart("key: C\n" + ROW * (count // 8))), builtin_library()
    started = time.perf_counter()
    found = find_swaps(song)
    seconds = time.perf_counter() - started
    planner = Planner(library)
    groups = reharmonise._groups(song)
    rows = reharmonise._options(song, library, planner, found, groups, appetite="anything")[1]
    return planner, [row[: PROPOSALS + 1] for row in rows], seconds


def explicit(planner: Planner, row: list[list[Option]]) -> tuple[float, int]:
    """Seconds (building the graph included) and cost of the shortest path over every pair of
    states, first chords only."""
    search = JointSearch(planner, [[Option(o.places[:1], o.swap) for o in options] for options in row])
    started = time.perf_counter()
    nodes, offset, starts = [], 1, []
    for options in search._parts:
        own = [(parts[0], np.argwhere(parts[0].cost < FORBIDDEN)) for parts in options]
        starts.append([offset + sum(len(a) for _, a in own[:i]) for i in range(len(own))])
        offset += sum(len(places) for _, places in own)
        nodes.append(own)
    heads, tails, costs = [], [], []
    for (part, places), first in zip(nodes[0], starts[0], strict=True):
        heads.append(np.zeros(len(places), dtype=np.int64))
        tails.append(first + np.arange(len(places)))
        costs.append(part.cost[places[:, 0], places[:, 1]])
    for k, (before, after) in enumerate(pairwise(nodes)):
        for (one, a), first in zip(before, starts[k], strict=True):
            for (other, b), second in zip(after, starts[k + 1], strict=True):
                link = search._steps.link(one, other, 1)
                step = np.stack([link.out_of((int(left), int(right)))[b[:, 0], b[:, 1]] for left, right in a])
                costs.append((step + other.cost[b[:, 0], b[:, 1]][None, :]).ravel())
                heads.append(np.repeat(first + np.arange(len(a)), len(b)))
                tails.append(np.tile(second + np.arange(len(b)), len(a)))
    ends = offset - sum(len(places) for _, places in nodes[-1])
    weights = np.concatenate(costs).astype(float) + 1e-6  # zero would mean "no edge"
    graph = csr_array((weights, (np.concatenate(heads), np.concatenate(tails))), shape=(offset, offset))
    built = time.perf_counter() - started
    started = time.perf_counter()
    distances = dijkstra(graph, indices=0)
    print(f"explicit graph of {SLICE} slots: {offset:,} states, {graph.nnz:,} steps, built in {built:.1f} s")
    return built + time.perf_counter() - started, round(float(distances[ends:].min()))


def bare_arithmetic(search: JointSearch, most: int) -> float:
    """Seconds of the same sums at full width, on arrays of the same sizes with nothing around them."""
    seconds, random = 0.0, np.random.default_rng(1)
    for before, after in pairwise(search._parts):
        lefts = len({int(row) for parts in after for row in parts[0].left_rows})
        rights = len({int(row) for parts in before for row in parts[-1].right_rows})
        for shapes, width in ((before, lefts), (after, rights)):
            for parts in shapes:
                part = parts[-1] if shapes is before else parts[0]
                left, right = part.cost.shape
                inner, outer = (left, right) if shapes is before else (rights, left)
                other = width if shapes is before else right
                first = random.integers(0, 9000, (other, inner)).astype(np.int32)
                second = random.integers(0, 9000, (inner, (most + 1) * outer)).astype(np.int32)
                out = np.empty((other, (most + 1) * outer), dtype=np.int32)
                started = time.perf_counter()
                compiled._min_plus(first, second, out)
                seconds += time.perf_counter() - started
    return seconds


def timed(search: JointSearch, most: int) -> tuple[float, int]:
    started = time.perf_counter()
    answers = search.solve(most)
    return time.perf_counter() - started, min(answer.cost for answer in answers)


def main() -> None:
    planner, row, seconds = slots(SLOTS)
    print(f"proposals for {SLOTS} chords: {seconds:.2f} s")
    search = JointSearch(planner, row)
    timed(search, 0)  # tables of hinge costs, kernel loaded
    single = JointSearch(planner, [[Option(o.places, swap=False) for o in options] for options in row])
    timed(single, 0)
    one, _ = timed(single, 0)
    curve, _ = timed(search, MOST_SWAPS)
    print(f"{search.states:,} states; one joint solve {one:.2f} s, curve 0..{MOST_SWAPS} {curve:.2f} s")
    print(f"trade curve / one joint solve: {curve / one:.1f}  (wanted: at most 10)")
    status = Path("/proc/self/status").read_text()
    peak = int(status.split("VmHWM:")[1].split()[0]) / 1024
    print(f"peak memory so far: {peak:.0f} MB (wanted: under 300)")
    bare = bare_arithmetic(search, MOST_SWAPS)
    print(f"RATIO trade curve / bare arithmetic of its lattice: {curve / bare:.2f}  (wanted: at most 2)")
    small = [[Option(o.places[:1], swap=False) for o in options] for options in row[:SLICE]]
    graph_seconds, graph_cost = explicit(planner, row[:SLICE])
    slice_search = JointSearch(planner, small)
    timed(slice_search, 0)
    own_seconds, own_cost = timed(slice_search, 0)
    hinges = (SLOTS - 1) / (SLICE - 1)
    print(f"same cost on a slice of {SLICE} slots: {graph_cost == own_cost}")
    print(f"explicit graph / ours, slice: {graph_seconds / own_seconds:.0f}")
    print(f"explicit graph scaled to {SLOTS} slots / one joint solve: {graph_seconds * hinges / one:.0f}"
          "  (wanted: at least 100)")  # fmt: skip


if __name__ == "__main__":
    main()
