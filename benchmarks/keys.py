"""Twelve keys against one full solve of the same song, each with nothing kept from before.

Prints ratios; asserts nothing about time. Run: python benchmarks/keys.py
"""

from __future__ import annotations

import time

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.tasks.voice_song import voice_keys, voice_song
from yellow_hinge.voicing.recipes import builtin_library

CHART = "key: C\n" + "| Dm9 | G13 | Cmaj9 | A7b9 | Fmaj9 | Bm7b5 | E7b9 | Am9 |\n" * 8
ROUNDS = 5


def main() -> None:
    library, song = builtin_library(), parse_chart(CHART)
    voice_song(song, library, Planner(library))  # recipes read, libraries loaded
    ones, twelves = [], []
    for _ in range(ROUNDS):
        started = time.perf_counter()
        voice_song(song, library, Planner(library))
        between = time.perf_counter()
        voice_keys(song, library)
        ones.append(between - started)
        twelves.append(time.perf_counter() - between)
    print(f"{len(song.slots)} chords, one key {min(ones):.2f} s, twelve keys {min(twelves):.2f} s")
    print(f"twelve keys / one full solve: {min(twelves) / min(ones):.1f}  (wanted: at most 4)")


if __name__ == "__main__":
    main()
