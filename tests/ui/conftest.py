"""A real window on the first demo song, and hands that press and click."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from importlib import import_module
from pathlib import Path
from typing import ClassVar, TypeVar

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QFileDialog,
    QMenu,
    QMessageBox,
    QWidget,
)
from pytestqt.qtbot import QtBot

from yellow_hinge.motion.store import Store, store_of
from yellow_hinge.reharm.appetite import Appetite
from yellow_hinge.song.model import Song
from yellow_hinge.sound import output as output_module
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.song.session import Deliver, Session
from yellow_hinge.tasks.song.solved import Solved
from yellow_hinge.tasks.swaps.desk import Looked, SwapDesk
from yellow_hinge.tasks.swaps.reharmonise import TradePoint
from yellow_hinge.theory.pitch import name_as
from yellow_hinge.ui import pages, theme
from yellow_hinge.ui.access import tell_what_is_painted
from yellow_hinge.ui.drawn_choice import DrawnChoice
from yellow_hinge.ui.main import make_window
from yellow_hinge.ui.page import Page, PageRow
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.window import Window
from yellow_hinge.voicing.recipes import builtin_library

_Page = TypeVar("_Page", bound=Page)


def kind_of(row: PageRow) -> type[Page]:
    """The class of a page."""
    view = import_module(f"{row.make.__module__}.view")
    kinds = (kind for kind in vars(view).values() if isinstance(kind, type) and issubclass(kind, Page))
    return next(kind for kind in kinds if kind.name == row.name)


#: Every page there is, in the order of the rail.
PAGES = tuple(kind_of(row) for row in pages.PAGES)


@pytest.fixture(scope="session")
def qapp_args() -> list[str]:
    """The application as it is started."""
    return ["yellow-hinge", "-style", "Fusion"]


class HandClock:
    """Seconds by which keys are heard and rounds counted, which pass when a test says so."""

    def __init__(self) -> None:
        self.at = 1000.0

    def __call__(self) -> float:
        return self.at


@pytest.fixture
def clock(monkeypatch: pytest.MonkeyPatch) -> HandClock:
    hand = HandClock()
    monkeypatch.setattr("yellow_hinge.sound.clock.now", hand)
    return hand


def settle(window: Window, qtbot: QtBot) -> None:
    """Wait for the search, then for the paint."""
    qtbot.waitUntil(lambda: not window.document.worker.running, timeout=60_000)
    qtbot.wait(20)


def come_back(window: Window, qtbot: QtBot) -> None:
    """The window has the keyboard again, after a dialog or a menu."""
    settle(window, qtbot)
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)


def page(window: Window, kind: type[_Page]) -> _Page:
    """A page of the window, whether it is shown or not."""
    found = window.page_named(kind.name)
    assert isinstance(found, kind)
    return found


def show(window: Window, qtbot: QtBot, kind: type[_Page]) -> _Page:
    """Go to a page by its key."""
    number = [one.name for one in PAGES].index(kind.name) + 1
    qtbot.keyClick(window, Qt.Key(Qt.Key.Key_0 + number), Qt.KeyboardModifier.ControlModifier)
    found = window.page
    assert isinstance(found, kind)
    return found


def look_at(still: Window, qtbot: QtBot, kind: type[_Page]) -> _Page:
    """Go to a page of the window that all tests of a file look at; others have had the keyboard meanwhile."""
    still.activateWindow()
    qtbot.waitUntil(still.isActiveWindow)
    return show(still, qtbot, kind)


def press(window: Window, qtbot: QtBot, key: Qt.Key, times: int = 1) -> None:
    """A key on the page that is shown."""
    for _ in range(times):
        qtbot.keyClick(window.page.focus, key)


def click(qtbot: QtBot, widget: QWidget, pos: QPoint | None = None) -> None:
    qtbot.mouseClick(widget, Qt.MouseButton.LeftButton, pos=pos or QPoint())


def button(view: QWidget, words: str) -> QAbstractButton:
    """The button with these words."""
    return next(one for one in view.findChildren(QAbstractButton) if one.text() == words)


def pick(qtbot: QtBot, box: QComboBox | DrawnChoice, data: object, stays: bool = True) -> None:
    """Open a box and choose an entry with the keyboard, or walk along pictures; whether it ``stays``
    chosen."""
    if isinstance(box, DrawnChoice):
        box.setFocus()
        qtbot.keyClick(box, Qt.Key.Key_Home)
        for _ in range([value for _, value in box.rows].index(data)):
            qtbot.keyClick(box, Qt.Key.Key_Right)
        qtbot.keyClick(box, Qt.Key.Key_Return)
        assert (box.currentData() == data) == stays
        return
    role = Qt.ItemDataRole.AccessibleDescriptionRole
    rows = [k for k in range(box.count()) if box.itemData(k, role) != "separator"]  # keys go past a line
    place = [box.itemData(k) for k in rows].index(data)
    box.setFocus()
    box.showPopup()
    view = box.view()
    for _ in range(box.count()):
        qtbot.keyClick(view, Qt.Key.Key_Up)
    for _ in range(place):
        qtbot.keyClick(view, Qt.Key.Key_Down)
    qtbot.keyClick(view, Qt.Key.Key_Return)
    assert (box.currentData() == data) == stays
    box.window().activateWindow()  # without a window manager nobody else does, once a popup is gone
    qtbot.waitUntil(box.window().isActiveWindow)


def undo(window: Window, qtbot: QtBot, times: int = 1) -> None:
    for _ in range(times):
        qtbot.keyClick(window.page.focus if not typing(window) else window, Qt.Key.Key_Z, _CTRL)
    settle(window, qtbot)


def redo(window: Window, qtbot: QtBot) -> None:
    modifiers = _CTRL | Qt.KeyboardModifier.ShiftModifier
    qtbot.keyClick(window.page.focus if not typing(window) else window, Qt.Key.Key_Z, modifiers)
    settle(window, qtbot)


_CTRL = Qt.KeyboardModifier.ControlModifier


def typing(window: Window) -> bool:
    """Whether the page's keys belong to a text."""
    return isinstance(window.page, SongPage)


def click_in_menu(qtbot: QtBot, menu: QMenu, words: str) -> None:
    """Open a menu and click on an entry."""
    menu.popup(QPoint(0, 0))
    action = next(one for one in menu.actions() if one.text().partition("\t")[0].replace("&", "") == words)
    assert action.isEnabled(), words
    qtbot.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(action).center())
    menu.close()


def colours(widget: QWidget) -> set[str]:
    image: QImage = widget.grab().toImage()
    return {
        QColor(image.pixel(x, y)).name()
        for x in range(0, image.width(), 2)
        for y in range(0, image.height(), 2)
    }


def type_chart(window: Window, qtbot: QtBot, text: str) -> SongPage:
    """Replace the chart by typing over it, and wait for the live check."""
    song_page = show(window, qtbot, SongPage)
    song_page.editor.selectAll()
    song_page.editor.insertPlainText(text)
    qtbot.wait(450)
    settle(window, qtbot)
    return song_page


@pytest.fixture(scope="session")
def store() -> Store:
    """What windows have worked out, for all of them: it goes by content, and every window solves the
    same demo song first."""
    return store_of(builtin_library())


class Rested(Session):
    """A session that gives a song which any window of this process has had as it was worked out then: the one
    that every window opens, and what undo and redo bring back."""

    known: ClassVar[deque[tuple[Song, list[Solved]]]] = deque(maxlen=64)

    def __call__(
        self, song: Song, most: int, progress: Progress = lambda _: True, deliver: Deliver = lambda _: None
    ) -> Solved:
        for known, found in self.known:
            if known == song:
                for part in found[:-1]:
                    deliver(part)
                return found[-1]
        parts: list[Solved] = []

        def passed_on(part: Solved) -> None:
            parts.append(part)
            deliver(part)

        last = super().__call__(song, most, progress, passed_on)
        self.known.append((song, [*parts, last]))
        return last


class RestedDesk(SwapDesk):
    """A desk that gives what any of them has worked out once for the same song."""

    known: ClassVar[list[tuple[Song, int, Looked]]] = []
    curves: ClassVar[list[tuple[Song, int, Appetite, list[TradePoint]]]] = []

    def look(
        self,
        song: Song,
        written: int,
        progress: Progress,
        deliver: Callable[[Looked], object] = lambda _: None,
    ) -> Looked:
        for known, place, looked in self.known:
            if place == written and known == song:
                (_, *found), base, weighed = looked
                return (song, *found), base, weighed  # type: ignore[return-value]
        self.known.append((song, written, super().look(song, written, progress, deliver)))
        return self.known[-1][-1]

    def curve(
        self, song: Song, most: int, progress: Progress, appetite: Appetite = "fits"
    ) -> list[TradePoint]:
        for known, count, name, points in self.curves:
            if count == most and name == appetite and known == song:
                return points
        self.curves.append((song, most, appetite, super().curve(song, most, progress, appetite)))
        return self.curves[-1][-1]


@pytest.fixture(scope="session", autouse=True)
def told(qapp: QApplication) -> None:
    """As the program does it once its window stands."""
    tell_what_is_painted()


@pytest.fixture(autouse=True)
def nobody_is_asked(monkeypatch: pytest.MonkeyPatch) -> None:
    """A dialog that nobody answers would stand there for ever: it is called off, unless a test answers it."""
    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, lambda *_: ("", ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([], ""))
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Cancel)


@contextmanager
def standing(qtbot: QtBot, patch: pytest.MonkeyPatch, home: Path) -> Iterator[Window]:
    """A window on the first demo song, solved, that has the keyboard."""
    patch.setenv("HOME", str(home))
    patch.setattr("yellow_hinge.tasks.song.session.Session", Rested)
    patch.setattr("yellow_hinge.tasks.swaps.desk.SwapDesk", RestedDesk)
    patch.setattr(output_module, "has_sound_device", lambda: False)
    made = make_window(demo_song("lantern-ferry"))
    made.resize(1280, 800)  # whatever the screen of a test leaves
    made.show()
    with qtbot.waitExposed(made):
        pass
    made.activateWindow()  # without a window manager nobody else does
    qtbot.waitUntil(made.isActiveWindow)
    made.document.solve()
    settle(made, qtbot)
    yield made
    made.playback.stop()
    name_as("letters")  # as for everybody, whatever this window's player reads


@pytest.fixture
def window(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path, store: Store) -> Iterator[Window]:
    del store  # it lasts as long as the tests do
    with standing(qtbot, monkeypatch, tmp_path) as made:
        qtbot.addWidget(made, before_close_func=forget)
        yield made


@pytest.fixture(autouse=True)
def in_light(qapp: QApplication) -> Iterator[None]:
    """What a test leaves dark is light again for the next one: the application is one for all."""
    yield
    if theme.worn() is not theme.LIGHT:
        theme.apply(qapp, theme.LIGHT)


@pytest.fixture(scope="module")
def still(
    request: pytest.FixtureRequest, qapp: QApplication, tmp_path_factory: pytest.TempPathFactory, store: Store
) -> Iterator[Window]:
    """One window for all tests of a file that only look at it."""
    del qapp, store
    home = tmp_path_factory.mktemp("home")
    with pytest.MonkeyPatch.context() as patch:
        for name in ("STATE", "CONFIG", "DATA"):
            patch.setenv(f"XDG_{name}_HOME", str(home / name.lower()))
        with standing(QtBot(request), patch, home) as made:
            yield made
            forget(made)
            made.close()
            made.deleteLater()


def forget(window: Window) -> None:
    """Nothing to save when the test is over."""
    window.document.history.mark_clean(window.document.song, window.document.history.draft)
