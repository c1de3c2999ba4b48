"""Open search with generous reach: against the dense step, against the bare arithmetic, by
length, and the memory of it. Prints ratios. Run: python benchmarks/open_search.py
"""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Sequence
from functools import partial
from itertools import pairwise
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from search import dense_step, timed

from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.lattice import compiled
from yellow_hinge.lattice.columns import Column, Link
from yellow_hinge.motion.place import Place, Progression
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.store import Store
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.wish import Wish

SYMBOLS = ["Dm9", "G13", "Cmaj9", "Am9", "G9", "Cmaj7", "Dm7", "Bm11"]


def song(chords: int, bass: str = "bassist", similar: bool = True) -> list[Place]:
    """Tenths in both hands, colour 2, a bassist below: every shape of two to four notes. With the own bass
    outer voices are priced, unless ``similar`` is not."""
    library = builtin_library()
    school = library.schools["open"]
    if not similar:
        school = replace(school, weights={**school.weights, "similar": 0})
    profile = HandProfile().with_reach(10, 10)
    profile = replace(profile, left=replace(profile.left, most_notes=3))
    places = []
    for index in range(chords):
        chord = parse_chord(SYMBOLS[index % len(SYMBOLS)])
        assert chord is not None
        chord = chord.transposed(index // 8 * 4 % 7, index // 8 * 7 % 12)
        wish = Wish(chord, None, school, 2, bass, profile)
        places.append(Place(wish))
    return places


def prepared(chords: int, bass: str = "bassist", similar: bool = True) -> tuple[Planner, Store, list[Place]]:
    """A planner with its columns and hinge arrays built, but nothing solved."""
    store, places = Store(builtin_library()), song(chords, bass, similar)
    planner = Planner(store.library, store)
    for before, after in pairwise(places):
        store.link(before, after)
    return planner, store, places


def sums_of(columns: Sequence[Column]) -> int:
    """About the sums of a search from the first column to the last."""
    return sum(
        left * new_left * right + right * new_right * new_left
        for (left, right), (new_left, new_right) in pairwise([column.shape for column in columns])
    )


def outer_voices() -> None:
    """What the term of the outer voices costs: the whole search, and one step of bare arithmetic."""
    seconds = []
    for similar in (False, True):
        planner, store, places = prepared(32, "self", similar)
        seconds.append(min(timed(partial(_afresh, store, places)) for _ in range(3)))
    print(f"32 chords with the own bass: {seconds[0]:.2f} s, with outer voices {seconds[1]:.2f} s")
    print(f"RATIO search with outer voices / without: {seconds[1] / seconds[0]:.2f} (wanted: at most 2.5)")
    link, sheet = store.link(places[0], places[1]), planner.column(places[0])[0].cost
    assert link.turns is not None
    plain, kernel = Link(link.left, link.right), compiled.KERNEL
    one, other = (min(timed(partial(step.over, sheet, kernel)) for _ in range(9)) for step in (plain, link))
    print(f"RATIO step with outer voices / without: {other / one:.2f} (wanted: at most 2.5)")
    left, right = link.left.T.copy(), link.right.T.copy()
    bare = []
    for cuts in (None, (link.turns.left.cuts, link.turns.right.cuts)):
        started = time.perf_counter()
        for _ in range(9):
            if cuts is None:
                compiled.min_plus(right, compiled.min_plus(left, sheet).T.copy())
            else:
                halves = compiled.runs_apart(left, sheet, cuts[0]).transpose(0, 2, 1).copy()
                compiled.runs_joined(right, halves, cuts[1])
        bare.append(time.perf_counter() - started)
    print(f"RATIO of the bare arithmetic, in runs / plain: {bare[1] / bare[0]:.2f}")


def _afresh(store: Store, places: Sequence[Place]) -> None:
    store.tables.clear()
    Planner(store.library, store).solve(Progression.of(places))


def main() -> None:
    warm = np.zeros((2, 2), dtype=np.int32)
    compiled.min_plus(warm, warm)
    planner, store, places = prepared(64)
    steps = [store.link(before, after) for before, after in pairwise(places)]
    columns = [planner.column(place)[0] for place in places]
    sizes = [column.cost.size for column in columns]
    full = timed(partial(planner.solve, Progression.of(places)))
    print(f"64 chords, {min(sizes):,} to {max(sizes):,} states: {full:.2f} s")

    dense = 0.0
    for k in range(3):
        link, rows = steps[k], 150
        share = columns[k + 1].cost.size / rows
        dense += share * timed(partial(dense_step, columns[k].cost, link.left, link.right, rows))
    dense *= 63 / 3
    print(f"RATIO dense (3 hinges, scaled) / ours: {dense / full:.0f} (wanted: at least 300)")

    bare = 0.0
    for k in range(63):
        link, sheet = steps[k], columns[k].cost
        started = time.perf_counter()
        half = compiled.min_plus(link.left.T, sheet)
        compiled.min_plus(link.right.T, half.T)
        bare += time.perf_counter() - started
    sums = sums_of(columns)
    print(f"bare min-plus arithmetic: {bare:.2f} s, {sums / bare / 1e9:.1f} thousand million sums a second")
    print(f"RATIO ours / bare arithmetic: {full / bare:.2f} (wanted: at most 4)")

    planner.alternatives(1)
    edited = list(places)
    edited[30] = places[33]
    for k in (29, 30):
        store.link(edited[k], edited[k + 1])
    edit = timed(partial(planner.solve, Progression.of(edited)))
    print(f"RATIO one edit / full: {edit / full:.3f} (wanted: at most 0.2)")
    planner.alternatives(1)
    again = timed(partial(planner.alternatives, 1))
    print(f"RATIO all alternatives, tables there / full: {again / full:.3f}")
    for chords in (32, 64, 128, 256):
        longer, _, row = prepared(chords)
        seconds = timed(partial(longer.solve, Progression.of(row)))
        print(
            f"{chords} chords: {seconds:.2f} s, RATIO per chord to 64: {seconds / chords / (full / 64):.2f}"
        )
    outer_voices()
    subprocess.run([sys.executable, __file__, "memory"], check=True)


def memory() -> None:
    """Peak memory of a process that solves 256 chords and ranks all alternatives."""
    planner, _, places = prepared(256)
    planner.solve(Progression.of(places))
    # of this program alone: getrusage would count the process that started it as well
    status = Path("/proc/self/status").read_text()
    solved = int(status.split("VmHWM:")[1].split()[0]) / 1024
    print(f"256 chords solved: peak {solved:.0f} MB (wanted: at most 1024)")


if __name__ == "__main__":
    memory() if sys.argv[1:] == ["memory"] else main()
