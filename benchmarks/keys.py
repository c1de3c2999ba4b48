"""Twelve keys against one full solve of the same song, as commands in processes of their own.

Prints ratios; asserts nothing about time. Run: python benchmarks/keys.py
"""

from __future__ import annotations

import subprocess
import sys
import time

CHART = "key: C\n" + "| Dm9 | G13 | Cmaj9 | A7b9 | Fmaj9 | Bm7b5 | E7b9 | Am9 |\n" * 8
ROUNDS = 5


def command(name: str) -> float:
    """Seconds of one run, start-up and printing included."""
    started = time.perf_counter()
    subprocess.run(
        [sys.executable, "-m", "yellow_hinge", name, "-", "--json"],
        input=CHART,
        text=True,
        check=True,
        stdout=subprocess.DEVNULL,
    )
    return time.perf_counter() - started


def main() -> None:
    one, twelve = (min(command(name) for _ in range(ROUNDS)) for name in ("voice", "keys"))
    print(f"64 chords: one key {one:.2f} s, twelve keys {twelve:.2f} s")
    print(f"twelve keys / one key: {twelve / one:.1f}  (wanted: at most 4)")


if __name__ == "__main__":
    main()
