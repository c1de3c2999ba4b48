"""The transport from any page: what it says, loops, slower and faster, and what one comes to is heard."""

from __future__ import annotations

import threading

import pytest
from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from made import song_of
from yellow_hinge.song.model import Song
from yellow_hinge.sound.player import Player
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.keys.view import KeysPage
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.sheet.view import SheetPage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.playback import heard
from yellow_hinge.ui.transport import place_words
from yellow_hinge.ui.window import Window
from yellow_hinge.voicing.recipes import builtin_library

from .conftest import press, settle, show, type_chart

K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier


@pytest.mark.parametrize(
    ("index", "words"),
    [
        (0, "Bar 1: C, then G7"),
        (1, "Bar 1: G7, then Am"),
        (2, "Bar 2: Am, the last"),
        (9, "Bar 2: Am, the last"),
    ],
)
def test_where_a_chord_is_and_what_comes_next(index: int, words: str) -> None:
    assert place_words(song_of("| C G7 | Am |"), index) == words


def test_the_transport_says_where_one_is(window: Window, qtbot: QtBot) -> None:
    show(window, qtbot, HingesPage)
    said = window.transport.sound_label
    assert said.text().startswith("Bar 1: Aadd9, then C♯m11")
    press(window, qtbot, K.Key_Right)
    press(window, qtbot, K.Key_Right)
    assert said.text().startswith("Bar 2: C♯m11, then ")
    window.transport.tempo.setValue(300)
    press(window, qtbot, K.Key_Space)
    qtbot.waitUntil(lambda: said.text().startswith("Bar 4: "), timeout=9000)
    press(window, qtbot, K.Key_Space)
    assert said.text().startswith("Bar 2: C♯m11")  # silent: where the player is


@pytest.fixture
def asked(window: Window, monkeypatch: pytest.MonkeyPatch) -> list[tuple[Sounding, float]]:
    """What is to be played, and how fast."""
    asked: list[tuple[Sounding, float]] = []
    real = window.playback.play

    def noted(sounding: Sounding, pace: float = 1.0) -> None:
        asked.append((sounding, pace))
        real(sounding, pace)

    monkeypatch.setattr(window.playback, "play", noted)
    return asked


def loop(window: Window, qtbot: QtBot) -> None:
    qtbot.keyClick(window.page.focus, K.Key_L, CTRL)


@pytest.mark.parametrize("kind", [HingesPage, RhythmPage, SheetPage, SongPage])
def test_one_key_loops_the_chosen_place_on_any_page(
    window: Window, qtbot: QtBot, asked: list[tuple[Sounding, float]], kind: type[HingesPage]
) -> None:
    window.document.choose(3)
    show(window, qtbot, kind)
    asked.clear()
    loop(window, qtbot)
    ((sounding, pace),) = asked
    assert (sounding.first, sounding.last, sounding.loops, pace) == (2, 4, True, 1.0)
    qtbot.waitUntil(lambda: window.playback.quarters is not None, timeout=5000)
    assert window.playback.looping
    loop(window, qtbot)
    assert not window.playback.playing and len(asked) == 1


def test_what_plays_is_looped(window: Window, qtbot: QtBot, asked: list[tuple[Sounding, float]]) -> None:
    show(window, qtbot, HingesPage)
    press(window, qtbot, K.Key_Right)  # a hinge
    press(window, qtbot, K.Key_H)
    press(window, qtbot, K.Key_End)  # the player goes elsewhere
    loop(window, qtbot)
    assert (asked[-1][0].first, asked[-1][0].last, asked[-1][0].loops) == (0, 1, True)
    loop(window, qtbot)
    press(window, qtbot, K.Key_Space)  # to the end: there is no stretch of it to loop
    loop(window, qtbot)
    last = len(window.document.song.slots) - 1
    assert (asked[-1][0].first, asked[-1][0].last) == (last - 1, last)
    loop(window, qtbot)


def test_a_lap_ends_where_its_last_chord_does() -> None:
    song: Song = song_of("| C | G7 | Am | F |")
    library = builtin_library()
    looped = heard(Sounding(song, 1, 2, loops=True), library, False, False, False)
    assert (looped.start, looped.until) == (4.0, 12.0)
    assert heard(Sounding(song, 1, 2), library, False, False, False).until is None
    assert heard(Sounding(song, 1, loops=True), library, False, False, False).until == 16.0
    assert heard(Sounding(song, 3, 3, back=True, loops=True), library, False, False, False).until == 20.0


def test_slower_and_faster_from_any_page_go_on_from_there(
    window: Window, qtbot: QtBot, asked: list[tuple[Sounding, float]]
) -> None:
    show(window, qtbot, SheetPage)
    tempo = window.transport.tempo
    assert tempo.value() == 84
    qtbot.keyClick(window.page.focus, K.Key_Period, CTRL)
    assert tempo.value() == 88
    qtbot.keyClick(window.page.focus, K.Key_Comma, CTRL)
    qtbot.keyClick(window.page.focus, K.Key_Comma, CTRL)
    assert tempo.value() == 80
    qtbot.wait(350)
    assert not asked and not window.playback.playing  # nothing plays: nothing begins
    press(window, qtbot, K.Key_Space)
    qtbot.waitUntil(lambda: (window.playback.quarters or 0) > 0.5, timeout=5000)
    qtbot.keyClick(window.page.focus, K.Key_Comma, CTRL)
    qtbot.waitUntil(lambda: len(asked) == 2, timeout=3000)
    again, pace = asked[-1]
    assert again.at is not None and again.at > 0.4 and pace == pytest.approx(76 / 84)
    loop(window, qtbot)
    qtbot.waitUntil(lambda: window.playback.quarters is not None, timeout=5000)
    qtbot.keyClick(window.page.focus, K.Key_Period, CTRL)
    qtbot.waitUntil(lambda: len(asked) == 4, timeout=3000)
    assert asked[-1][0].loops and asked[-1][0].at is None  # a lap begins anew
    loop(window, qtbot)


def test_the_tempo_of_the_player_outlives_an_edit_and_not_another_song(window: Window, qtbot: QtBot) -> None:
    show(window, qtbot, HingesPage)
    qtbot.keyClick(window.page.focus, K.Key_Comma, CTRL)
    assert window.transport.tempo.value() == 80
    press(window, qtbot, K.Key_L)  # an edit
    settle(window, qtbot)
    assert window.transport.tempo.value() == 80
    type_chart(window, qtbot, "title: Quay\ntempo: 120\n| C | G7 | C |\n")
    assert window.transport.tempo.value() == 120


def struck(window: Window) -> list[int]:
    """The keys that are struck from now on."""
    keys: list[int] = []

    def touch(key: int, velocity: int) -> None:
        if velocity:
            keys.append(key)

    window.playback._ready().touch = touch  # type: ignore[method-assign]
    return keys


@pytest.mark.long
def test_a_key_sounds_when_one_comes_to_it(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, KeysPage)
    qtbot.waitUntil(lambda: view.state.whole, timeout=60_000)
    keys = struck(window)
    press(window, qtbot, K.Key_Down)
    song = view.state.here()
    assert song is not None and view.state.chosen == 1
    voicing = song.voicing(0)
    assert voicing is not None and keys == list(voicing.keys)


def test_a_round_of_a_take_sounds_when_one_comes_to_it(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, TakesPage)
    qtbot.waitUntil(lambda: bool(view.state.lanes) and not view.worker.running, timeout=60_000)
    keys = struck(window)
    press(window, qtbot, K.Key_Right)
    first = next(slot for slot in window.document.song.slots if slot.round == 2)
    voicing = window.document.song.voicing(first.index)
    assert voicing is not None and keys == list(voicing.keys)
    keys.clear()
    qtbot.mouseClick(view.lanes, Qt.MouseButton.LeftButton, pos=QPoint(2, 2))  # beside the lanes
    assert not keys


def test_what_sounds_is_loaded_ahead_in_another_thread(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It is made once, whoever asks first, and nothing sounds yet."""
    made = 0
    real = window.playback._make_player

    def counted() -> Player:
        nonlocal made
        made += 1
        return real()

    monkeypatch.setattr(window.playback, "_make_player", counted)
    thread = threading.Thread(target=window.playback.load_ahead)
    thread.start()
    thread.join()
    window.playback.load_ahead()
    player = window.playback._ready()
    assert made == 1 and not window.playback.playing and player.volume == window.playback.volume


def test_what_is_wrong_with_it_is_said_when_it_sounds(window: Window, qtbot: QtBot) -> None:
    def broken() -> Player:
        raise OSError("no such device")

    window.playback._make_player = broken
    window.playback.load_ahead()
    assert not window.message.isVisible()
    show(window, qtbot, HingesPage)
    press(window, qtbot, K.Key_Space)
    qtbot.waitUntil(window.message.isVisible, timeout=5000)
    assert "no such device" in window.message.text.text()
