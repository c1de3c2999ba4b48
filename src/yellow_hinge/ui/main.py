"""Opens the window: the one place where everything is wired together."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files import DEMO_SONGS, demo_song, open_song
from yellow_hinge.tasks.library import load_library
from yellow_hinge.ui import theme
from yellow_hinge.ui.window import Makers, Window
from yellow_hinge.voicing.recipes import Library, builtin_library

if TYPE_CHECKING:
    from yellow_hinge.sound.player import Player
    from yellow_hinge.tasks.solver import Solver
    from yellow_hinge.tasks.swap_desk import SwapDesk
    from yellow_hinge.ui.document import Document
    from yellow_hinge.ui.hands_page.view import HandsView
    from yellow_hinge.ui.swaps_page.view import SwapsView

ICON = Path(__file__).parent / "icon.svg"


def make_window(song: Song) -> Window:
    """A window with fonts, theme and a song; needs a QApplication. A bad file of own recipes is
    said, and the window opens with what ships."""
    theme.load_fonts()
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    theme.apply(app, theme.LIGHT)  # before any widget: fonts decide sizes
    problems: tuple[Problem, ...] = ()
    try:
        library = load_library()
    except YellowHingeError as error:
        library, problems = builtin_library(), error.problems
    window = Window(library, song, Makers(make_solver, make_player, make_hands_page, make_swaps_page))
    if problems:
        window.say(problems)
    return window


def make_solver(library: Library) -> Solver:
    """The search, loaded after the first paint and off the interface thread: it brings NumPy."""
    from yellow_hinge.tasks.solver import Solver  # noqa: PLC0415

    return Solver(library)


def make_desk(library: Library) -> SwapDesk:
    """What weighs swaps, loaded when the Swaps page is first used."""
    from yellow_hinge.tasks.swap_desk import SwapDesk  # noqa: PLC0415

    return SwapDesk(library)


def make_hands_page(document: Document) -> HandsView:
    """The Hands page, loaded when it is first wanted."""
    from yellow_hinge.ui.hands_page.view import HandsView  # noqa: PLC0415

    return HandsView(document)


def make_swaps_page(document: Document) -> SwapsView:
    """The Swaps page, loaded when it is first wanted."""
    from yellow_hinge.ui.swaps_page.view import SwapsView  # noqa: PLC0415

    return SwapsView(document, make_desk)


def make_player() -> Player:
    """The player, loaded when something is first played: it brings NumPy and sound libraries."""
    from yellow_hinge.sound.instrument import best_instrument  # noqa: PLC0415
    from yellow_hinge.sound.output import best_output  # noqa: PLC0415
    from yellow_hinge.sound.player import Player  # noqa: PLC0415

    return Player(best_instrument(), best_output())


def open_window(arguments: list[str]) -> int:
    """Open the window on a file named in ``arguments``, else on the first demo song."""
    app = QApplication.instance() or QApplication(["yellow-hinge", *arguments])
    assert isinstance(app, QApplication)
    app.setApplicationName("Yellow Hinge")
    app.setDesktopFileName("yellow-hinge")
    app.setWindowIcon(QIcon(str(ICON)))
    song, path, problems = _first_song(arguments)
    window = make_window(song)
    window.document.path = path
    window.show()
    QTimer.singleShot(0, window.document.solve)  # after the first paint
    if problems:
        window.say(problems)
    return app.exec()


def _first_song(arguments: list[str]) -> tuple[Song, Path | None, tuple[Problem, ...]]:
    if not arguments:
        return demo_song(DEMO_SONGS[0]), None, ()
    path = Path(arguments[0])
    try:
        imported = open_song(path)
    except YellowHingeError as error:
        print("\n".join(map(str, error.problems)), file=sys.stderr)
        return demo_song(DEMO_SONGS[0]), None, error.problems
    return imported.song, path if path.suffix == ".yhinge" else None, imported.problems
