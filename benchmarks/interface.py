"""The longest step on the interface thread, in processor time of its own, for songs of many chords.

A step is one turn of the event loop, or one thing that a player does. Printed as a share of what it may
be: 100 ms for a step up to 500 chords, 250 ms for opening 2,000; and memory over a thousand edits. First
what it takes to enter a page of grips, against opening the song that it becomes.
Run: python benchmarks/interface.py [--chords 500]
"""

from __future__ import annotations

import argparse
import os
import resource
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.edits import choose, settle
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.pasted import recognise
from yellow_hinge.ui.main import leave_what_stays, make_window
from yellow_hinge.ui.theme import make_application
from yellow_hinge.ui.window import Window

STEP_MS, OPEN_MS = 100.0, 250.0
KINDS = ("Cmaj9", "F#m7b5", "B7", "Em11", "A13", "Dm9", "G7b9", "Ebmaj7", "Abm6", "Dbadd9", "Gb7", "F")


def chart_of(chords: int) -> str:
    """A long song of all kinds of chords."""
    lines = ["title: Long Shore", "key: C"]
    for section in range(-(-chords // 64)):
        lines.append(f"[Part {section + 1}]")
        for row in range(8):
            bars = [KINDS[(section * 5 + row * 3 + k * 7) % len(KINDS)] for k in range(8)]
            lines.append(f"| {' | '.join(bars)} |")
    return "\n".join(lines) + "\n"


class Steps:
    """Measures steps by what was going on."""

    def __init__(self, app: QApplication, window: Window) -> None:
        self._app, self._window = app, window
        self.longest: dict[str, float] = {}

    def do(self, name: str, action: Callable[[], object]) -> None:
        """Something that a player does, and all that follows from it."""
        self._measured(name, action)
        until = time.monotonic() + 180
        while self._window.document.worker.running and time.monotonic() < until:
            self._measured(f"{name}: what follows", self._app.processEvents)
            time.sleep(0.002)
        for _ in range(20):
            self._measured(f"{name}: what follows", self._app.processEvents)

    def _measured(self, name: str, action: Callable[[], object]) -> None:
        begun = time.thread_time()
        action()
        spent = 1000 * (time.thread_time() - begun)
        self.longest[name] = max(spent, self.longest.get(name, 0.0))

    def report(self, limit: float) -> None:
        for name, spent in sorted(self.longest.items(), key=lambda item: -item[1])[:12]:
            print(f"  {spent / limit:5.2f} of {limit:.0f} ms  {name}")


def steps_of(app: QApplication, chords: int) -> None:
    window = make_window(Song())
    window.show()
    path = Path(tempfile.mkdtemp()) / "long.txt"
    path.write_text(chart_of(chords), "utf-8")
    steps = Steps(app, window)
    document = window.document
    limit = OPEN_MS if chords >= 2000 else STEP_MS
    steps.do("open", lambda: window.files.open_path(path))
    if chords < 2000:
        for name in ("Song", "Hands", "Hinges", "Swaps", "Hinges"):
            steps.do(f"go to {name}", partial(window.go_to, name))
        key = lambda code, **more: QTest.keyClick(window.page.focus, code, **more)  # noqa: E731
        steps.do("arrow", lambda: key(Qt.Key.Key_Right))
        steps.do("end", lambda: key(Qt.Key.Key_End))
        steps.do("lock", lambda: key(Qt.Key.Key_L))
        steps.do("undo", window.undo)
        steps.do("colour", lambda: document.apply(settle(document.song, colour=2)))
        steps.do("other colours of the screen", window.looks.switch_theme)
        window.go_to("Song")
        steps.do("a letter", lambda: key(Qt.Key.Key_Space))
        steps.do("reading the chart", document.read_draft)
        steps.do("another size", lambda: window.resize(1100, 700))
    print(f"{chords} chords:")
    steps.report(limit)
    window.document.history.mark_clean(document.song, document.history.draft)
    window.close()


def memory(app: QApplication) -> None:
    """Growth over a thousand edits against that over the first hundred."""
    window = make_window(Song(parse_chart(chart_of(32))))
    window.document.solve()
    steps = Steps(app, window)
    grown: list[int] = []
    document = window.document
    for count in range(1000):
        index = count % len(document.song.slots)
        voicing = document.song.voicing(index)
        if voicing is not None:
            document.apply(choose(document.song, index, voicing, not document.song.locked(index)))
        app.processEvents()
        if count % 100 == 99:
            steps.do("edit", lambda: None)
            grown.append(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024)
    print(
        f"memory after each hundred of a thousand edits, MB: {grown}; last / first {grown[-1] / grown[0]:.2f}"
    )
    document.history.mark_clean(document.song, document.history.draft)
    window.close()


def entering(app: QApplication) -> None:
    """From a page of 32 grips in the clipboard to their row on the screen, against opening that song."""
    rows = ("Dm7: D3 C4 ; F4 A4 D5", "G7: G2 F3 ; B3 D4 G4", "Cmaj7: C3 B3 ; E4 G4", "A7: A2 G3 ; C#4 E4 G4")
    text = "\n".join(["title: Thirty-two", "key: C", *rows * 8])
    folder = Path(tempfile.mkdtemp())
    window = make_window(Song())
    window.show()

    def shown(begin: Callable[[], object]) -> float:
        """Until the row of the song is there, in seconds; the fastest of five."""
        found = []
        for _ in range(5):
            window.document.start_over(Song(), None)
            app.processEvents()
            begun = time.perf_counter()
            begin()
            while not window.document.song.solved or window.document.solved.voiced is None:
                app.processEvents()
            found.append(time.perf_counter() - begun)
            while window.document.worker.running:
                app.processEvents()
        return min(found)

    pasted = shown(lambda: window.files.take_pasted(recognise(text)))
    path = folder / "thirty-two.yhinge"
    window.document.save(path)
    opened = shown(lambda: window.files.open_path(path))
    print(f"entering 32 grips by paste / opening that song: {pasted / opened:.2f}")
    window.document.history.mark_clean(window.document.song, window.document.history.draft)
    window.close()


def main() -> None:
    options = argparse.ArgumentParser(description=(__doc__ or "").partition("\n")[0])
    options.add_argument("--chords", default="32,128,500,2000")
    given = options.parse_args()
    app = make_application()
    leave_what_stays()
    entering(app)
    for chords in filter(None, given.chords.split(",")):
        steps_of(app, int(chords))
    memory(app)
    os._exit(0)


if __name__ == "__main__":
    main()
