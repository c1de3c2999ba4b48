"""Opens the window: the one place where everything is wired together."""

from __future__ import annotations

import gc
import os
import sys
import threading
from collections.abc import Callable
from functools import partial
from pathlib import Path
from threading import Lock
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QApplication

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.settings.display import read_display
from yellow_hinge.tasks.settings.library import load_library
from yellow_hinge.ui import theme
from yellow_hinge.ui.access import tell_what_is_painted
from yellow_hinge.ui.hinges_page.view import HingesPage
from yellow_hinge.ui.looks import put_on
from yellow_hinge.ui.page import Page, PageRow
from yellow_hinge.ui.safety_net import SafetyNet
from yellow_hinge.ui.window import Window
from yellow_hinge.voicing.recipes import Library, builtin_library

if TYPE_CHECKING:
    from yellow_hinge.motion.store import Store
    from yellow_hinge.sound.player import Player
    from yellow_hinge.tasks.grips.shape_desk import ShapeDesk
    from yellow_hinge.tasks.keys.survey import KeyFigures
    from yellow_hinge.tasks.song.rule_desk import RuleDesk
    from yellow_hinge.tasks.song.session import Session
    from yellow_hinge.tasks.swaps.desk import SwapDesk
    from yellow_hinge.tasks.takes.desk import TakeDesk
    from yellow_hinge.ui.document import Document

#: When what may be wanted next is loaded, seconds after the search has begun: its first row comes first.
_AHEAD_S = 1.0
ICON = Path(__file__).parent / "icon.svg"


def make_window(song: Song) -> Window:
    """A window with fonts, theme and a song; needs a QApplication. A bad file of own recipes is
    said, and the window opens with what ships."""
    theme.load_fonts()
    display, problems = read_display()
    put_on(display)  # before any widget: fonts decide sizes
    try:
        library = load_library()
    except YellowHingeError as error:
        library, problems = builtin_library(), (*problems, *error.problems)
    engines = Engines(library)
    window = Window(library, song, pages(engines), engines.session, make_player, display)
    window.document.learned.connect(engines.learn)
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


class Engines:
    """What searches, loaded after the first paint and off the interface thread: it brings NumPy.
    All of it shares one store of what has been worked out, whoever comes first."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._lock = Lock()
        self._store: Store | None = None

    def _shared(self) -> Store:
        from yellow_hinge.motion.store import Store  # noqa: PLC0415

        with self._lock:
            if self._store is None:
                self._store = Store(self._library)
            return self._store

    def learn(self, library: Library) -> None:
        """Other recipes from now on."""
        with self._lock:
            self._library, self._store = library, None

    def session(self) -> Session:
        """What keeps the song solved."""
        from yellow_hinge.tasks.song.session import Session  # noqa: PLC0415

        ahead = threading.Timer(_AHEAD_S, _load_ahead)
        ahead.daemon = True
        ahead.start()
        return Session(self._library, self._shared())

    def shapes(self) -> ShapeDesk:
        """What looks at every shape of a chord."""
        from yellow_hinge.tasks.grips.shape_desk import ShapeDesk  # noqa: PLC0415

        return ShapeDesk(self._library, self._shared())

    def rules(self) -> RuleDesk:
        """What prices rules for a stretch."""
        from yellow_hinge.tasks.song.rule_desk import RuleDesk  # noqa: PLC0415

        return RuleDesk(self._library, self._shared())

    def takes(self) -> TakeDesk:
        """What solves takes."""
        from yellow_hinge.tasks.takes.desk import TakeDesk  # noqa: PLC0415

        return TakeDesk(self._library, self._shared())

    def desk(self) -> SwapDesk:
        """What weighs swaps."""
        from yellow_hinge.tasks.swaps.desk import SwapDesk  # noqa: PLC0415

        return SwapDesk(self._library, self._shared())


def _load_ahead() -> None:
    """What the Swaps page works with, so that going there does not wait for it."""
    import yellow_hinge.tasks.swaps.desk  # noqa: PLC0415, F401


def pages(engines: Engines) -> tuple[PageRow, ...]:
    """The pages in the order of the rail: a new one is a row here, and its folder. Each is loaded when
    it is first wanted."""
    return (
        PageRow("Song", _song_page),
        PageRow("Hands", _hands_page),
        PageRow("Hinges", partial(_hinges_page, engines), opens=True),
        PageRow("Swaps", partial(_swaps_page, engines)),
        PageRow("Takes", partial(_takes_page, engines)),
        PageRow("Keys", _keys_page),
        PageRow("Rhythm", _rhythm_page),
        PageRow("Practise", _practise_page),
        PageRow("Sheet", _sheet_page),
    )


def _song_page(document: Document) -> Page:
    from yellow_hinge.ui.song_page.view import SongPage  # noqa: PLC0415

    return SongPage(document)


def _hands_page(document: Document) -> Page:
    from yellow_hinge.ui.hands_page.view import HandsPage  # noqa: PLC0415

    return HandsPage(document)


def _hinges_page(engines: Engines, document: Document) -> Page:
    return HingesPage(document, engines.shapes, engines.rules)


def _swaps_page(engines: Engines, document: Document) -> Page:
    from yellow_hinge.ui.swaps_page.view import SwapsPage  # noqa: PLC0415

    return SwapsPage(document, engines.desk)


def _takes_page(engines: Engines, document: Document) -> Page:
    from yellow_hinge.ui.takes_page.view import TakesPage  # noqa: PLC0415

    return TakesPage(document, engines.takes)


def _keys_page(document: Document) -> Page:
    from yellow_hinge.ui.keys_page.view import KeysPage  # noqa: PLC0415

    return KeysPage(document, _survey)


def _survey(song: Song, library: Library, progress: Callable[[float], bool]) -> list[KeyFigures]:
    from yellow_hinge.tasks.keys.survey import survey  # noqa: PLC0415 - brings NumPy

    return survey(song, library, progress)


def _rhythm_page(document: Document) -> Page:
    from yellow_hinge.ui.rhythm_page.view import RhythmPage  # noqa: PLC0415

    return RhythmPage(document)


def _practise_page(document: Document) -> Page:
    from yellow_hinge.ui.practise_page.view import PractisePage  # noqa: PLC0415

    return PractisePage(document)


def _sheet_page(document: Document) -> Page:
    from yellow_hinge.ui.sheet_page.view import SheetPage  # noqa: PLC0415

    return SheetPage(document)


def make_player() -> Player:
    """The player, loaded when something is first played: it brings NumPy and sound libraries."""
    from yellow_hinge.sound.instrument import best_instrument  # noqa: PLC0415
    from yellow_hinge.sound.output import best_output  # noqa: PLC0415
    from yellow_hinge.sound.player import Player  # noqa: PLC0415

    return Player(best_instrument(), best_output())


def open_window(arguments: list[str]) -> int:
    """Open the window on a file named in ``arguments``, else on the first demo song; stay until it is
    closed."""
    app = theme.make_application(arguments)
    app.setApplicationName("Yellow Hinge")
    app.setDesktopFileName("yellow-hinge")
    window = make_window(demo_song(DEMO_SONGS[0]))
    net = SafetyNet(window)
    if arguments:
        window.files.open_path(Path(arguments[0]))
    window.installEventFilter(_FirstPaint(window, partial(_after_first_paint, window)))
    window.show()
    code = app.exec()
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
    window.found.look()
    leave_what_stays()


def _leave(code: int) -> None:
    """End at once where a thread would not: what it works out, nobody waits for any more."""
    others = [one for one in threading.enumerate() if one is not threading.main_thread()]
    if others:
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)
