"""Opens the window: the one place where everything is wired together."""

from __future__ import annotations

import gc
import os
import sys
import threading
from collections.abc import Callable
from functools import partial
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QApplication

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.settings.display import Display
from yellow_hinge.tasks.settings.library import load_library
from yellow_hinge.tasks.settings.own_keys import OwnKeys
from yellow_hinge.ui import theme
from yellow_hinge.ui.access import tell_what_is_painted
from yellow_hinge.ui.looks import put_on
from yellow_hinge.ui.pages import PAGES
from yellow_hinge.ui.playback import Playback
from yellow_hinge.ui.safety_net import SafetyNet
from yellow_hinge.ui.window import Window
from yellow_hinge.voicing.recipes import builtin_library

if TYPE_CHECKING:
    from yellow_hinge.sound.player import Player

#: A thread that works gives way after so long, in seconds: what makes sound must have its turn before the
#: device runs dry.
_TURN_S = 0.001

#: When what may be wanted next is loaded, seconds after the search has begun: its first row comes first.
_AHEAD_S = 1.0
ICON = Path(__file__).parent / "icon.svg"


def make_window(song: Song) -> Window:
    """A window with fonts, theme and a song; needs a QApplication. A bad file of own recipes is
    said, and the window opens with what ships."""
    theme.load_fonts()
    display, problems = Display.read()
    own_keys, more = OwnKeys.read()
    put_on(display)  # before any widget: fonts decide sizes
    try:
        library = load_library()
    except YellowHingeError as error:
        library, more = builtin_library(), (*more, *error.problems)
    problems = (*problems, *more)
    window = Window(library, song, PAGES, make_player, display=display, own_keys=own_keys)
    if problems:
        window.say(problems)
    return window


def leave_what_stays() -> None:
    """Keep the collector of rubbish away from what has been worked out. A search makes a million
    values and no circles, and going through all of them takes a fifth of a second in which nothing
    else runs; what is made and dropped meanwhile it still looks at."""
    gc.freeze()
    gc.set_threshold(2000, 20, 1_000_000)
    gc.enable()  # loading went without


def _load_ahead(playback: Playback) -> None:
    """What sounds and what the Swaps page works with, so that the first chord and going there do not wait."""
    playback.load_ahead()
    import_module("yellow_hinge.tasks.swaps.desk")


def make_player() -> Player:
    """The player, loaded when something is first played: it brings NumPy and sound libraries."""
    from yellow_hinge.sound.instrument import best_instrument  # noqa: PLC0415
    from yellow_hinge.sound.output import best_output  # noqa: PLC0415
    from yellow_hinge.sound.player import Player  # noqa: PLC0415

    return Player(best_instrument(), best_output())


def open_window(arguments: list[str]) -> int:
    """Open the window on a file named in ``arguments``, else on the first demo song; stay until it is
    closed."""
    sys.setswitchinterval(_TURN_S)
    app = theme.make_application(arguments)
    app.setApplicationName("Yellow Hinge")
    app.setDesktopFileName("yellow-hinge")
    first = not Display.path().exists()
    window = make_window(demo_song(DEMO_SONGS[0]))
    if first:
        window.steps.toggle()
    net = SafetyNet(window)
    if arguments:
        window.files.open_path(Path(arguments[0]))
    window.installEventFilter(_FirstPaint(window, partial(_after_first_paint, window)))
    window.show()
    code = app.exec()
    window.files.finish()
    net.take_down()
    _leave(code)
    return code


class _FirstPaint(QObject):
    """Does something once the window has been painted: a search that began before would be in the way."""

    def __init__(self, window: Window, then: Callable[[], None]) -> None:
        super().__init__(window)
        self._then = then

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Paint:
            watched.removeEventFilter(self)
            QTimer.singleShot(0, self._then)  # what is in the window is painted in the same turn
        return False


def _after_first_paint(window: Window) -> None:
    from PySide6.QtGui import QIcon  # noqa: PLC0415 - the first leaf comes first

    QApplication.setWindowIcon(QIcon(str(ICON)))
    tell_what_is_painted()
    if not window.document.worker.running:
        window.document.solve()
    ahead = threading.Timer(_AHEAD_S, _load_ahead, (window.playback,))
    ahead.daemon = True
    ahead.start()
    window.found.look()
    leave_what_stays()


def _leave(code: int) -> None:
    """End at once where a thread would not: what it works out, nobody waits for any more."""
    others = [one for one in threading.enumerate() if one is not threading.main_thread()]
    if others:
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)
