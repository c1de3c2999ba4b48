"""Takes, grid and ladder, in processor time, as shares of what they may take: the Takes page of 12 takes of
64 chords opens in 0.15 s; every combination of six swaps in a song of 32 chords takes 1 s, the ladder 2 s.

Prints ratios; asserts nothing about time. Run: python benchmarks/takes.py
"""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()


from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import new_take
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.swaps.grid import swap_grid, switches_of
from yellow_hinge.tasks.takes.ladder import ladder
from yellow_hinge.ui.main import make_window
from yellow_hinge.ui.theme import make_application
from yellow_hinge.voicing.recipes import builtin_library

PAGE_S, GRID_S, LADDER_S = 0.15, 1.0, 2.0
SCHOOLS = ("solo", "spread", "guide", "singer")
ROUNDS = 3


def song_of(lines: int) -> Song:
    """A song with eight chords to a line."""
    rows = (
        "| Cmaj7 | A7 | Dm7 | G7 | Em7 | A7 | Dm7 | G7 |\n| Fmaj7 | Fm6 | Em7 | Am7 | D7 | Dm7 | G7 | C6 |\n"
    )
    return Song(parse_chart("title: Long Shore\nkey: C\n[A]\n" + rows * (lines // 2)))


def least(job: Callable[[], object], clock: Callable[[], float] = time.process_time) -> float:
    """The least time of a few runs, s."""
    times = []
    for _ in range(ROUNDS):
        started = clock()
        job()
        times.append(clock() - started)
    return min(times)


def page_s() -> float:
    """How long the interface thread takes to open the Takes page, its takes not yet solved, s."""
    app = make_application()
    song = song_of(8)
    for count in range(11):
        song = new_take(song, f"Take {count + 2}", school=SCHOOLS[count % len(SCHOOLS)]).song
    window = make_window(song)
    window.resize(1280, 800)
    window.show()
    window.document.solve()
    while window.document.worker.running:
        app.processEvents()
        time.sleep(0.002)
    started = time.thread_time()
    window.go_to("Takes")
    app.processEvents()
    return time.thread_time() - started


def main() -> None:
    library, song = builtin_library(), song_of(4)
    planner = Planner(library)
    switches = switches_of(song, {}, library, planner)
    grid = least(lambda: swap_grid(song, switches, library, planner))
    steps = least(lambda: ladder(song, library, 4))
    page = page_s()
    print(f"Takes page, 12 takes of 64 chords: {page / PAGE_S:.2f} of what it may take")
    print(f"grid of {2 ** len(switches)}, {len(song.slots)} chords: {grid / GRID_S:.2f}")
    print(f"ladder, {len(song.slots)} chords: {steps / LADDER_S:.2f}")


if __name__ == "__main__":
    main()
