"""From a MIDI message to the keyboard on the screen: how late it is, on the real Practise page, offscreen.

Another process plays 300 notes a second into the simulated keyboard, each held for a while, while a drill
runs with bass and click and a search goes on. Each note says when it was sent (all processes of a machine
have one clock); it counts as shown when the first painting is over that has it. Prints the median and the
99th percentile as shares of what they may take, 20 and 50 ms, at rest and under that load, and what was lost.

Run: python benchmarks/listening.py [seconds]
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from textwrap import dedent

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_STATE_HOME"] = os.environ["XDG_DATA_HOME"] = os.environ["XDG_CONFIG_HOME"] = (
    tempfile.mkdtemp()
)

import numpy as np
from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtGui import QPaintEvent
from PySide6.QtTest import QTest

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.model import Song
from yellow_hinge.sound import output
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.ui.keyboard import KeyboardView
from yellow_hinge.ui.main import leave_what_stays, make_window
from yellow_hinge.ui.pages.practise.view import PractisePage
from yellow_hinge.ui.theme import make_application
from yellow_hinge.ui.window import Window
from yellow_hinge.ui.worker import Deliver, Worker
from yellow_hinge.voicing.recipes import builtin_library

MEDIAN_MS, LATE_MS = 20.0, 50.0
RATE = 300
#: Notes are struck in turn from here on, so that each is held until all the others have been.
LOWEST, KEYS = 30, 70

SENDER = dedent("""
    import sys, time
    import mido
    from mido.sockets import connect
    port, rate, seconds, lowest, keys = int(sys.argv[1]), *map(float, sys.argv[2:6])
    keyboard = connect("127.0.0.1", port)
    begin = time.perf_counter() + 0.2
    for number in range(int(rate * seconds)):
        while time.perf_counter() < begin + number / rate:
            time.sleep(0.0005)
        key = int(lowest + number % keys)
        off = int(lowest + (number + keys // 2) % keys)
        print(number, key, time.perf_counter(), flush=False)
        keyboard.send(mido.Message("note_on", note=key, velocity=70))
        keyboard.send(mido.Message("note_off", note=off))
    sys.stdout.flush()
    time.sleep(0.5)
""")


class Painted:
    """When which keys were on the screen."""

    def __init__(self, view: KeyboardView) -> None:
        self.rows: list[tuple[float, frozenset[int]]] = []
        paint = view.paintEvent

        def painted(event: QPaintEvent) -> None:
            paint(event)
            self.rows.append((time.perf_counter(), frozenset(view._held)))

        view.paintEvent = painted  # type: ignore[method-assign, assignment]


def measure(window: Window, painted: Painted, seconds: float) -> tuple[float, float, int, int]:
    """Median and 99th percentile in ms, notes sent and notes never heard."""
    painted.rows.clear()
    heard: set[int] = set()
    window.devices.played.connect(lambda _: heard.add(len(heard)))
    numbers = (window.devices.simulated.port, RATE, seconds, LOWEST, KEYS)
    command = [sys.executable, "-c", SENDER, *map(str, numbers)]
    sender = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    loop, look = QEventLoop(), QTimer()  # as the application runs: waiting for events, not asking for them
    look.timeout.connect(lambda: None if sender.poll() is None else loop.quit())
    look.start(100)
    loop.exec()
    QTest.qWait(300)
    assert sender.stdout is not None
    sent = [(int(key), float(at)) for _, key, at in map(str.split, sender.stdout)]
    late = []
    times = np.array([at for at, _ in painted.rows])
    for key, at in sent:
        k = int(np.searchsorted(times, at))
        while k < len(painted.rows) and key not in painted.rows[k][1] and times[k] < at + 1:
            k += 1
        if k < len(painted.rows) and key in painted.rows[k][1]:
            late.append(1000 * (times[k] - at))
    window.devices.played.disconnect()
    window.devices.played.connect(window._key_played)
    return float(np.median(late)), float(np.quantile(late, 0.99)), 2 * len(sent), 2 * len(sent) - len(heard)


def stolen() -> float:
    """Seconds of processor time that the machine under this one has taken so far; 0 where nobody says."""
    try:
        fields = Path("/proc/stat").read_text().split("\n", 1)[0].split()
        return int(fields[8]) / os.sysconf("SC_CLK_TCK")
    except (OSError, IndexError, ValueError):
        return 0.0


def search_on(progress: Progress, _: Deliver) -> object:
    """Search, and search anew: a song of 200 chords, with nothing known of it."""
    rows = "| Cmaj7 | A7 | Dm7 | G7 | Em7 | A7b9 | Dm9 | G13 |\n" * 25
    song, library = Song(parse_chart(f"key: C\n[A]\n{rows}")), builtin_library()
    while progress(0.0):
        voice_song(song, library, Planner(library), progress)
    return None


def main() -> None:
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 8.0
    output.has_sound_device = lambda: False
    app = make_application()
    app.setQuitOnLastWindowClosed(False)
    window = make_window(demo_song("lantern-ferry"))
    window.resize(1280, 800)
    window.show()
    window.document.solve()
    while window.document.worker.running:
        QTest.qWait(20)
    leave_what_stays()  # as the application does after its first search
    window.go_to(PractisePage.name)
    page = window.page
    assert isinstance(page, PractisePage)
    while not page.state.ready:
        QTest.qWait(20)
    window.panel.choose(window.devices.simulated.name)
    painted = Painted(page.middle.keyboard)
    QTest.qWait(300)
    for words, loaded in (("at rest", False), ("under load", True)):
        if loaded:
            page.setting.set(way="time", bass=True)
            QTest.keyClick(page.focus, Qt.Key.Key_Space)
            searching = Worker(window, "search")
            searching.start(search_on)
        before, began = stolen(), time.perf_counter()
        median, most, count, lost = measure(window, painted, seconds)
        share = (stolen() - before) / (time.perf_counter() - began) / (os.cpu_count() or 1)
        print(f"{words:11} median {median / MEDIAN_MS:.2f} of {MEDIAN_MS:g} ms, 99 % within "
              f"{most / LATE_MS:.2f} of {LATE_MS:g} ms; {lost} of {count} messages lost; "
              f"stolen by the host: {share:.0%}")  # fmt: skip
    sys.stdout.flush()
    os._exit(0)  # a search goes on that nobody waits for


if __name__ == "__main__":
    main()
