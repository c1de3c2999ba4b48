"""The exact search against the dense step, and a re-solve against the full search.

Prints ratios; asserts nothing about time. Run: python benchmarks/search.py
"""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.lattice.columns import Column, Link
from yellow_hinge.lattice.tree import Tree, TreeSolver
from yellow_hinge.motion.place import Place, Progression
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.store import Store
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import Library, Notes, School, builtin_library
from yellow_hinge.voicing.wish import Wish

SYMBOLS = ["Dm9", "G13", "Cmaj9", "A7b9", "Fmaj9", "Bm7b5", "E7b9", "Am9"]
CHORDS = 64
WIDE_REACH = 13
DENSE_HINGES = 3


def everything(library: Library) -> School:
    """A school that allows every recipe: states by the ten thousand."""
    ids = list(library.recipes)
    left = tuple(i for i in ids if "left" in library.recipes[i].hands)
    right = tuple(i for i in ids if "right" in library.recipes[i].hands)
    return School("everything", "", "", "bassist", 3, left, left, right, Notes(*[(0,) * 6] * 3), 40)


def song(school: School) -> list[Place]:
    profile = HandProfile().with_reach(WIDE_REACH, WIDE_REACH)
    profile = replace(
        profile,
        left=replace(profile.left, highest_key=76, lowest_key=28, most_notes=5),
        right=replace(profile.right, lowest_key=43, highest_key=96),
    )
    places = []
    for index in range(CHORDS):
        chord = parse_chord(SYMBOLS[index % len(SYMBOLS)])
        assert chord is not None
        chord = chord.transposed(index // 8 * 4 % 7, index // 8 * 7 % 12)
        places.append(Place(Wish(chord, parse_key("C"), school, 3, "bassist", profile)))
    return places


def timed(action: Callable[[], object]) -> float:
    started = time.perf_counter()
    action()
    return time.perf_counter() - started


def dense_step(before: np.ndarray, left: np.ndarray, right: np.ndarray, rows: int) -> np.ndarray:
    """One hinge with every pair of states, a block of ``rows`` target states at a time."""
    after_left, after_right = left.shape[1], right.shape[1]
    out = np.empty((after_left, after_right), dtype=np.int32)
    for state in range(rows):
        i, j = divmod(state, after_right)
        out[i, j] = (before + left[:, i, None] + right[None, :, j]).min()
    return out


def plain_columns() -> None:
    """The search alone, on all-legal states of random cost: 128 x 96 = 12,288 per chord."""
    random = np.random.default_rng(7)
    columns = [Column(random.integers(0, 900, (128, 96)).astype(np.int32), k) for k in range(CHORDS)]
    links = [
        Link(
            random.integers(0, 900, (128, 128)).astype(np.int32),
            random.integers(0, 900, (96, 96)).astype(np.int32),
        )
        for _ in range(CHORDS - 1)
    ]
    tree = Tree.row(columns, links.__getitem__)
    ours = min(timed(lambda: TreeSolver().solve(tree)) for _ in range(3))
    rows = 400
    dense = timed(lambda: dense_step(columns[0].cost, links[0].left, links[0].right, rows))
    dense *= 128 * 96 / rows * (CHORDS - 1)
    print(f"12,288 legal states, {CHORDS} chords: {ours:.3f} s, dense step (scaled) {dense:.1f} s")
    print(f"RATIO dense / ours: {dense / ours:.0f} (wanted: at least 50)")


def main() -> None:
    library = builtin_library()
    places = song(everything(library))
    store = Store(library)
    planner = Planner(library, store)
    steps = list(pairwise(places))
    build = timed(lambda: [store.link(before, after) for before, after in steps])
    full = timed(lambda: planner.solve(Progression.of(places)))
    answer = planner.solve(Progression.of(places))
    columns = [planner.column(place)[0] for place in places]
    sizes = [column.cost.size for column in columns]
    print(
        f"states per chord: {min(sizes):,} to {max(sizes):,} "
        f"(legal: {min(answer.states):,} to {max(answer.states):,})"
    )
    print(f"building columns and hinges: {build:.2f} s, once per kind of chord")
    print(f"exact search, {CHORDS} chords: {full:.3f} s")

    dense = 0.0
    for k in range(DENSE_HINGES):
        link, target = store.link(*steps[k]), columns[k + 1].cost
        rows = min(400, target.size)
        share = target.size / rows
        dense += share * timed(partial(dense_step, columns[k].cost, link.left, link.right, rows))
    dense *= (CHORDS - 1) / DENSE_HINGES
    print(f"dense step on the same states, measured on {DENSE_HINGES} hinges and scaled: {dense:.1f} s")
    print(f"RATIO dense / ours: {dense / full:.0f} (wanted: at least 50)")

    alternatives = timed(lambda: planner.alternatives(40))
    edits = []
    for place in (0, 21, 42, CHORDS - 1):
        edited = list(places)
        edited[place] = places[(place + 5) % CHORDS]
        for k in range(max(0, place - 1), min(CHORDS - 1, place + 1)):
            store.link(edited[k], edited[k + 1])  # the hinge arrays are a cost of building, as above
        edits.append(timed(partial(planner.solve, Progression.of(edited))))
        planner.solve(Progression.of(places))
        planner.alternatives(1)
    print(
        f"all alternatives of all chords: {alternatives:.3f} s, "
        f"RATIO to the search: {alternatives / full:.2f}"
    )
    print(
        f"RATIO re-solve after one changed chord / full: {max(edits) / full:.3f} at worst "
        "(wanted: at most 0.33)"
    )
    plain_columns()


if __name__ == "__main__":
    main()
