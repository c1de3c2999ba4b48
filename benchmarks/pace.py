"""Scale and start, side by side: long songs against short ones, and starting against what it stands on.

Every figure is a process of its own, the fastest of several runs, those that are compared taken in turn.
Prints ratios; asserts nothing about time. Run: python benchmarks/pace.py [scale|start]
"""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import time
from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise
from multiprocessing import Process, Queue
from pathlib import Path
from tempfile import TemporaryDirectory

LENGTHS = (500, 1000, 2000)
SYMBOLS = [
    "Dm9", "G13", "Cmaj9", "A7b9", "Fmaj9", "Bm7b5", "E7b9", "Am9", "Dm7", "G7", "Cmaj7", "C6", "Ebmaj7",
    "Abmaj7", "Bb7", "F#m7b5", "B7", "Em7", "A7", "D7", "Gm7", "C7", "Fmaj7", "Bb7#11",
]  # fmt: skip
COMMANDS: dict[str, tuple[str, ...]] = {
    "voice": ("voice",),
    "voice --takes 3": ("voice", "--takes", "3"),
    "voice --loop": ("voice", "--loop"),
    "keys": ("keys",),
}
STARTS = 9
BARE = """
import os
from PySide6.QtWidgets import QApplication, QWidget
class Bare(QWidget):
    def paintEvent(self, event):
        os._exit(0)
app = QApplication([])
window = Bare()
window.resize(1280, 800)
window.show()
app.exec()
"""
OURS = """
import gc, os, sys
gc.disable()
import yellow_hinge.__main__ as door
import yellow_hinge.ui.ahead
from yellow_hinge.ui import main
make = main.make_window
def watched(song):
    window = make(song)
    window.page_named("Hinges").row_view.on_painted = lambda: os._exit(0)
    return window
main.make_window = watched
sys.argv = ["yellow-hinge"]
door.main()
"""


def chart(chords: int) -> str:
    """A song of so many chords: runs of eight that move on, none the same for long."""
    row = [SYMBOLS[(k * 7 + k // len(SYMBOLS) * 3) % len(SYMBOLS)] for k in range(chords)]
    return "key: C\n" + "\n".join(f"| {' | '.join(row[k : k + 8])} |" for k in range(0, chords, 8)) + "\n"


def sections(chords: int) -> str:
    """The same as sections of 16 bars that are played four times each."""
    lines = chart(chords // 4).splitlines()[1:]
    parts = ["\n".join([f"[Part {k // 2 + 1}] x4", *lines[k : k + 2]]) for k in range(0, len(lines), 2)]
    return "key: C\n" + "\n".join(parts) + "\n"


def _measured(arguments: Sequence[str], answer: Queue[tuple[float, float, int]]) -> None:
    started = time.perf_counter()
    subprocess.run([sys.executable, *arguments], check=True, stdout=subprocess.DEVNULL)
    used = resource.getrusage(resource.RUSAGE_CHILDREN)
    answer.put((time.perf_counter() - started, used.ru_utime + used.ru_stime, used.ru_maxrss))


def run(arguments: Sequence[str]) -> tuple[float, float, int]:
    """Seconds by the clock and of a processor, and kilobytes at most, of one process."""
    answer: Queue[tuple[float, float, int]] = Queue()
    helper = Process(target=_measured, args=(arguments, answer))
    helper.start()
    found = answer.get()
    helper.join()
    return found


def scale(folder: Path) -> Iterator[str]:
    """Each command over longer and longer songs: a ratio of 2 from step to step is linear."""
    for name, words in COMMANDS.items():
        used = []
        for chords in LENGTHS:
            path = folder / f"{chords}.txt"
            path.write_text(chart(chords))
            used.append(run(["-m", "yellow_hinge", words[0], str(path), "--json", *words[1:]]))
        seconds = [one[1] for one in used]
        steps = " ".join(f"{late / early:.2f}" for early, late in pairwise(seconds))
        yield (
            f"{name:16} {' '.join(f'{one:.1f}' for one in seconds)} s of a processor for {LENGTHS} chords, "
            f"{used[-1][2] // 1000} MB; RATIO from step to step {steps} (linear: 2)"
        )
    for name, text in (("in a row", chart(500)), ("in sections", sections(500))):
        path = folder / "song.txt"
        path.write_text(text)
        _, seconds_used, kilobytes = run(["-m", "yellow_hinge", "keys", str(path), "--json"])
        yield (
            f"keys, 500 chords {name}: {seconds_used:.1f} s, {kilobytes // 1000} MB; "
            f"RATIO to what is wanted {seconds_used / 12:.2f} of 12 s, {kilobytes / 300_000:.2f} of 300 MB"
        )


def fastest(commands: Mapping[str, Sequence[str]]) -> dict[str, float]:
    """Seconds of each, the fastest of several runs, taken in turn. Compiled modules are kept between runs, as
    for any player."""
    least = dict.fromkeys(commands, float("inf"))
    for _ in range(STARTS):
        for name, arguments in commands.items():
            least[name] = min(least[name], run(arguments)[0])
    return least


def start(folder: Path) -> Iterator[str]:
    """The first painted leaf against a bare window, and commands against importing NumPy."""
    song = folder / "short.txt"
    song.write_text("| Dm7 | G7 | Cmaj7 | % |\n")
    door = ("-m", "yellow_hinge")
    window = fastest({"bare": ("-c", BARE), "ours": ("-c", OURS)})
    yield f"bare window {window['bare']:.3f} s, first painted leaf {window['ours']:.3f} s"
    yield f"RATIO first leaf / bare window: {window['ours'] / window['bare']:.2f} (wanted: at most 2.5)"
    commands = {
        "bare Python": ("-c", "pass"), "import numpy": ("-c", "import numpy"),
        "--version": (*door, "--version"), "schools": (*door, "schools"), "patterns": (*door, "patterns"),
        "formulas": (*door, "formulas"), "name": (*door, "name", "48,52,55"),
        "candidates": (*door, "candidates", "Dm7"), "voice": (*door, "voice", str(song), "--json"),
        "events": (*door, "events", str(song), "--json"), "swaps": (*door, "swaps", str(song), "--json"),
        "check": (*door, "check", str(song)), "practice log": (*door, "practice", "log"),
        "practice plan": (*door, "practice", "plan", str(song)),
        "convert": (*door, "convert", str(song), str(folder / "song.abc")),
    }  # fmt: skip
    times = fastest(commands)
    bare = times.pop("bare Python")
    numpy = times.pop("import numpy") - bare
    for name, seconds in times.items():
        ratio = (seconds - bare) / numpy
        yield f"{name:14} {seconds:.3f} s; RATIO to importing NumPy {ratio:.2f} (wanted: at most 3)"


def main() -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    parts = {"scale": scale, "start": start}
    with TemporaryDirectory() as folder:
        for name in sys.argv[1:] or parts:
            for line in parts[name](Path(folder)):
                print(line, flush=True)


if __name__ == "__main__":
    main()
