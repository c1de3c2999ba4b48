"""The time to the first painted leaf against a bare PySide6 window, and of the commands.

Each is a fresh process, the fastest of several runs. Run: python benchmarks/start.py
"""

from __future__ import annotations

import os
import subprocess
import sys
import time

RUNS = 7
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
import os
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
app = QApplication([])
from yellow_hinge.tasks.files import demo_song
from yellow_hinge.ui.main import make_window
window = make_window(demo_song("lantern-ferry"))
window.page_named("Hinges").row_view.on_painted = lambda: os._exit(0)
window.show()
QTimer.singleShot(0, window.document.solve)
app.exec()
"""


def fastest(arguments: list[str]) -> float:
    """Seconds of the fastest run. Compiled modules are kept between runs, as for any player."""
    times = []
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    for _ in range(RUNS):
        started = time.perf_counter()
        subprocess.run([sys.executable, *arguments], check=True, capture_output=True, env=environment)
        times.append(time.perf_counter() - started)
    return min(times)


def main() -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    bare, ours = fastest(["-c", BARE]), fastest(["-c", OURS])
    print(f"bare window {bare:.2f} s, first painted leaf {ours:.2f} s")
    print(f"RATIO first leaf / bare window: {ours / bare:.2f} (wanted: at most 3)")
    command = fastest(["-m", "yellow_hinge", "candidates", "Dm7", "--json"])
    empty = fastest(["-c", "pass"])
    print(
        f"a command without window: {command:.2f} s (wanted: a third of a second), bare Python {empty:.2f} s"
    )


if __name__ == "__main__":
    main()
