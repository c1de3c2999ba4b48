"""Take the pictures in docs/screenshots from the demo data. One command, no display needed."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QCoreApplication
from PySide6.QtWidgets import QApplication

from yellow_hinge.tasks.files import demo_song
from yellow_hinge.ui import theme
from yellow_hinge.ui.hinges_page.state import Selection
from yellow_hinge.ui.main import make_window
from yellow_hinge.ui.window import HANDS, HINGES, SONG, SWAPS, Window

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"


def settle(window: Window) -> None:
    """Let the search end and everything be painted."""
    while window.document.worker.running:
        QCoreApplication.processEvents()
    while "swaps_view" in window.__dict__ and window.swaps_view.worker.running:
        QCoreApplication.processEvents()
    for _ in range(20):
        QCoreApplication.processEvents()


def song_page(window: Window) -> None:
    window.go_to(SONG)


def hands_page(window: Window) -> None:
    window.go_to(HANDS)
    window.hands_view.play(48)
    window.hands_view.play(62)


def hinges_leaf(window: Window) -> None:
    window.go_to(HINGES)
    window.hinges_view.select(Selection(3))


def hinges_hinge(window: Window) -> None:
    window.go_to(HINGES)
    window.hinges_view.select(Selection(5, True))


def hinges_loop(window: Window) -> None:
    window.go_to(HINGES)
    window.hinges_view.toggle_loop()
    settle(window)
    window.hinges_view.select(Selection(24, True))


def wishes(window: Window) -> None:
    window.go_to(HINGES)
    window.hinges_view.select(Selection(3))
    window.hinges_view.toggle_wishes()


def lines(window: Window) -> None:
    window.go_to(HINGES)
    window.hinges_view.toggle_melody()
    window.hinges_view.toggle_scale()
    window.hinges_view.select(Selection(5))


def swaps(window: Window) -> None:
    window.go_to(HINGES)
    window.hinges_view.select(Selection(5))
    window.go_to(SWAPS)
    view = window.swaps_view
    settle(window)
    view.work_out()
    settle(window)
    view.take_point(3)
    settle(window)
    view.choose(5)


def hinges_dark(window: Window) -> None:
    window.set_theme(theme.DARK)
    window.hinges_view.select(Selection(2))


SHOTS: tuple[tuple[str, str, Callable[[Window], None]], ...] = (
    ("song-light", "lantern-ferry", song_page),
    ("hands-light", "lantern-ferry", hands_page),
    ("hinges-light", "lantern-ferry", hinges_leaf),
    ("hinge-chosen-light", "copper-kite", hinges_hinge),
    ("hinges-loop-light", "copper-kite", hinges_loop),
    ("wishes-light", "lantern-ferry", wishes),
    ("lines-light", "salt-stairs", lines),
    ("swaps-light", "salt-stairs", swaps),
    ("hinges-dark", "salt-stairs", hinges_dark),
)


def main(folder: Path) -> None:
    app = QApplication.instance() or QApplication([])
    folder.mkdir(parents=True, exist_ok=True)
    for name, song, arrange in SHOTS:
        window = make_window(demo_song(song))
        window.resize(1280, 800)
        window.show()
        window.document.solve()
        settle(window)
        arrange(window)
        settle(window)
        window.grab().save(str(folder / f"{name}.png"))
        window.document.history.mark_clean(window.document.song)
        window.close()
        print(folder / f"{name}.png")
    del app


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER)
