"""What is said, where, and for how long: messages, a chart that waits, lists that are not known yet, the
window's own place."""

from __future__ import annotations

import threading
from collections.abc import Callable

import pytest
from PySide6.QtCore import QMargins, QPoint, QRect, Qt
from PySide6.QtWidgets import QLabel, QPushButton, QTextEdit, QWidget
from pytestqt.qtbot import QtBot

from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.settings.display import Display
from yellow_hinge.tasks.song.session import Deliver
from yellow_hinge.tasks.song.solved import Solved
from yellow_hinge.tasks.swaps.desk import Looked
from yellow_hinge.ui.main import make_window
from yellow_hinge.ui.page import Page
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.window import Window

from .conftest import PAGES, Rested, RestedDesk, click, click_in_menu, forget, press, settle, show, type_chart
from .drawn import written_on

K = Qt.Key


def words_of(widget: QWidget) -> str:
    """Everything that can be read there, in labels, texts and pictures."""
    labels = [one.text() for one in widget.findChildren(QLabel) if one.isVisible()]
    texts = [one.toPlainText() for one in widget.findChildren(QTextEdit) if one.isVisible()]
    return " ".join([*labels, *texts, *(one.text for one in written_on(widget))])


def test_a_chart_that_waits_is_said_on_every_page(window: Window, qtbot: QtBot) -> None:
    type_chart(window, qtbot, "title: Weir\n| C | Hxx |\n")
    for kind in PAGES[1:]:
        assert not window.unread.isVisible()  # the page says it itself, at the line
        show(window, qtbot, kind)
        assert window.unread.isVisible() and "line 2" in window.unread.text.text(), kind.name
        assert "Lantern Ferry" in window.unread.text.text() and "Weir" not in window.unread.text.text()
        press(window, qtbot, K.Key_Escape)
        assert window.unread.isVisible()  # it is true as long as the chart waits
        click(qtbot, window.unread.findChildren(QPushButton)[0])
        assert isinstance(window.page, SongPage), kind.name
    assert not window.unread.isVisible()


def test_nothing_waits_once_the_chart_is_read(window: Window, qtbot: QtBot) -> None:
    show(window, qtbot, HingesPage)
    assert not window.unread.isVisible()
    type_chart(window, qtbot, "| C | Hxx |\n")
    type_chart(window, qtbot, "| C | F |\n")
    show(window, qtbot, HingesPage)
    assert not window.unread.isVisible()


def test_a_message_leaves_with_the_next_act_and_can_be_looked_up(window: Window, qtbot: QtBot) -> None:
    show(window, qtbot, HingesPage)
    window.message.tell("First thing")
    window.message.tell("Second thing")
    assert window.message.isVisible() and window.message.text.text() == "Second thing"
    press(window, qtbot, K.Key_L)  # lock
    settle(window, qtbot)
    assert not window.message.isVisible()
    help_menu = next(
        one for one in window.menuBar().actions() if one.text().replace("&", "") == "Help"
    ).menu()
    click_in_menu(qtbot, help_menu, "What happened")  # type: ignore[arg-type]
    text = words_of(window.key_list)
    assert text.index("Second thing") < text.index("First thing")
    assert "Undo (Ctrl+Z) takes back" in text
    window.key_list.close()


@pytest.fixture
def slow(monkeypatch: pytest.MonkeyPatch) -> threading.Event:
    """A search that gives nothing before this is set."""
    gate = threading.Event()

    class Slow(Rested):
        def __call__(
            self,
            song: Song,
            most: int,
            progress: Progress = lambda _: True,
            deliver: Deliver = lambda _: None,
        ) -> Solved:
            while not gate.wait(0.01):
                progress(0.0)
            return super().__call__(song, most, progress, deliver)

    class SlowDesk(RestedDesk):
        def look(
            self, song: Song, written: int, progress: Progress,
            deliver: Callable[[Looked], object] = lambda _: None,
        ) -> Looked:  # fmt: skip
            while not gate.wait(0.01):
                progress(0.0)
            return super().look(song, written, progress, deliver)

    monkeypatch.setattr("yellow_hinge.tasks.song.session.Session", Slow)
    monkeypatch.setattr("yellow_hinge.tasks.swaps.desk.SwapDesk", SlowDesk)
    return gate


@pytest.mark.long
@pytest.mark.parametrize("kind", [HingesPage, SwapsPage])
def test_nothing_says_none_before_it_is_known(
    window: Window, slow: threading.Event, qtbot: QtBot, kind: type[Page]
) -> None:
    made = make_window(demo_song("lantern-ferry"))
    qtbot.addWidget(made, before_close_func=forget)
    try:
        made.show()
        made.activateWindow()
        qtbot.waitUntil(made.isActiveWindow)
        made.document.solve()
        shown = show(made, qtbot, kind)
        qtbot.wait(200)
        text = words_of(shown)
        assert made.document.waits and "Looking for" in text
        assert "No other voicing" not in text and "No swap fits" not in text
    finally:
        slow.set()
    settle(made, qtbot)
    assert not made.document.waits
    qtbot.waitUntil(lambda: "Looking for" not in words_of(shown), timeout=20_000)


def made_again(window: Window, qtbot: QtBot, place: QRect) -> Window:
    """The window that is opened after one was closed at a place."""
    window.looks.keep_place(place)
    assert Display.read()[0].window == (place.x(), place.y(), place.width(), place.height())
    made = make_window(demo_song("lantern-ferry"))
    qtbot.addWidget(made, before_close_func=forget)
    return made


def test_a_window_stands_where_it_stood(window: Window, qtbot: QtBot) -> None:
    room = window.screen().availableGeometry()
    corner = QPoint(room.x() + 20, room.y() + 60)
    inside = QRect(corner, room.size().shrunkBy(QMargins(60, 100, 60, 60)))
    made = made_again(window, qtbot, inside)
    assert (made.pos(), made.size()) == (inside.topLeft(), inside.size().expandedTo(made.minimumSizeHint()))


def test_a_window_never_opens_larger_than_the_screen_leaves(window: Window, qtbot: QtBot) -> None:
    room = window.screen().availableGeometry()
    beyond = QRect(room.x() + 9000, room.y() + 9000, 9000, 9000)
    made = made_again(window, qtbot, beyond)
    assert made.pos() != beyond.topLeft()
    assert made.width() <= max(room.width() - 16, made.minimumSizeHint().width())
    assert made.height() <= max(room.height() - 48, made.minimumSizeHint().height())


@pytest.mark.long
@pytest.mark.parametrize("kind", [HingesPage, SwapsPage, RhythmPage])
def test_a_chord_sounds_when_one_comes_to_it(window: Window, qtbot: QtBot, kind: type[Page]) -> None:
    struck: list[tuple[int, int]] = []
    window.playback._ready().touch = lambda key, velocity: struck.append((key, velocity))  # type: ignore[method-assign]
    show(window, qtbot, kind)
    struck.clear()
    while window.document.chosen == 0:
        press(window, qtbot, K.Key_Right)
    voicing = window.document.song.voicing(window.document.chosen)
    assert voicing is not None
    rings = {key for key, velocity in struck if velocity}
    assert rings == set(voicing.keys) and not window.playback.playing
    qtbot.waitUntil(lambda: {key for key, velocity in struck if not velocity} >= rings, timeout=5000)
    struck.clear()
    press(window, qtbot, K.Key_Space)  # what plays is not disturbed
    qtbot.waitUntil(lambda: window.playback.playing)
    press(window, qtbot, K.Key_Home)
    press(window, qtbot, K.Key_End)
    assert not struck
    press(window, qtbot, K.Key_Space)


def test_a_chord_is_silent_when_the_switch_is_off_and_stays_so(window: Window, qtbot: QtBot) -> None:
    struck: list[int] = []
    window.playback._ready().touch = lambda key, velocity: struck.append(key)  # type: ignore[method-assign]
    show(window, qtbot, HingesPage)
    play = next(one for one in window.menuBar().actions() if one.text().replace("&", "") == "Play").menu()
    click_in_menu(qtbot, play, "Chords sound as I walk")  # type: ignore[arg-type]
    assert not Display.read()[0].walking
    press(window, qtbot, K.Key_End)
    assert not struck
    click_in_menu(qtbot, play, "Chords sound as I walk")  # type: ignore[arg-type]
    press(window, qtbot, K.Key_Home)
    assert struck and Display.read()[0].walking


def test_no_sound_is_said_once_while_walking(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    def none() -> None:
        raise OSError("no device")

    window.playback._player = None
    monkeypatch.setattr(window.playback, "_make_player", none)
    show(window, qtbot, HingesPage)
    press(window, qtbot, K.Key_End)
    assert window.message.isVisible() and "no device" in window.message.text.text()
    said = len(window.message.happened)
    press(window, qtbot, K.Key_Home)
    assert len(window.message.happened) == said
