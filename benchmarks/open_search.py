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
from yellow_hinge.lattice.columns import Column
from yellow_hinge.motion.place import Place, Progression
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.store import Store
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.wish import Wish

SYMBOLS = ["Dm9", "G13", "Cmaj9", "Am9", "G9", "Cmaj7", "Dm7", "Bm11"]


def song(chords: int) -> list[Place]:
    """Tenths in both hands, colour 2, a bassist below: every shape of two to four notes."""
    library = builtin_library()
    profile = HandProfile().with_reach(10, 10)
    profile = replace(profile, left=replace(profile.left, most_notes=3))
    places = []
    for index in range(chords):
        chord = parse_chord(SYMBOLS[index % len(SYMBOLS)])
        assert chord is not None
        chord = chord.transposed(index // 8 * 4 % 7, index // 8 * 7 % 12)
        wish = Wish(chord, None, library.schools["open"], 2, "bassist", profile)
        places.append(Place(wish))
    return places


def prepared(chords: int) -> tuple[Planner, Store, list[Place]]:
    """A planner with its columns and hinge arrays built, but nothing solved."""
    store, places = Store(builtin_library()), song(chords)
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
