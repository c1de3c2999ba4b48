"""The tune is played in through the real window, by step and to the click."""

from __future__ import annotations

from fractions import Fraction

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.pages.song.tune_strip import TuneStrip
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.window import Window

from .conftest import HandClock, click, click_in_menu, come_back, pick, settle, type_chart, undo

K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier
CHART = "key: C\n# mine\n[A]\n| C | F |\n| G7 | C |\n"


def opened(window: Window, qtbot: QtBot) -> tuple[SongPage, TuneStrip]:
    """A chart without a tune, the computer's keys as a keyboard, and the strip open."""
    page = type_chart(window, qtbot, CHART)
    window.devices.choose(window.devices.computer.name)
    qtbot.keyClick(page.editor, K.Key_T, CTRL)
    assert page.tune.isVisible() and page.tune.hasFocus()
    return page, page.tune


@pytest.mark.long
def test_the_tune_goes_in_note_by_note(window: Window, qtbot: QtBot) -> None:
    page, strip = opened(window, qtbot)
    song = window.document.song
    for key in (K.Key_C, K.Key_B):  # E4, G4
        qtbot.keyClick(strip, key)
    qtbot.keyClick(strip, K.Key_R)
    pick(qtbot, strip.length, Fraction(2))
    strip.setFocus()
    qtbot.keyClick(strip, K.Key_M)  # B4 over the bar line
    settle(window, qtbot)
    tune = [(start, length, pitch.key) for start, length, pitch in window.document.song.tune]
    assert tune == [(0, 1, 64), (1, 1, 67), (3, 2, 71)]
    assert page.editor.toPlainText().splitlines()[4] == "melody: E4:1 G4:1 r:1 B4:1~ | B4:1 r:3"
    assert "# mine" in page.editor.toPlainText() and "E4" in strip.words.text()
    qtbot.keyClick(strip, K.Key_Backspace)
    settle(window, qtbot)
    assert [pitch.key for _, _, pitch in window.document.song.tune] == [64, 67]
    strip.bar.setValue(3)
    click(qtbot, strip.rest_button)
    strip.setFocus()
    qtbot.keyClick(strip, K.Key_V)
    settle(window, qtbot)
    assert [(start, pitch.key) for start, _, pitch in window.document.song.tune] == [
        (0, 64),
        (1, 67),
        (10, 65),
    ]
    qtbot.keyClick(strip, K.Key_Escape)
    assert not strip.isVisible() and page.editor.hasFocus()
    window.devices.choose("No keyboard")
    undo(window, qtbot)
    assert [pitch.key for _, _, pitch in window.document.song.tune] == [64, 67]
    undo(window, qtbot)
    assert window.document.song.chart == song.chart and page.editor.toPlainText() == CHART


def test_the_tune_is_clicked_on_the_screen(window: Window, qtbot: QtBot) -> None:
    opened(window, qtbot)
    qtbot.keyClick(window, K.Key_K, CTRL)
    keys = window.devices.screen
    window.devices.choose(keys.name)
    for key in (64, 66, 67):
        qtbot.mouseClick(keys, Qt.MouseButton.LeftButton, pos=keys.place_of(key).toPoint())
    settle(window, qtbot)
    assert [pitch.key for _, _, pitch in window.document.song.tune] == [64, 66, 67]


@pytest.mark.parametrize("calm", [False, True])
def test_the_tune_is_played_to_the_click(window: Window, qtbot: QtBot, clock: HandClock, calm: bool) -> None:
    page, strip = opened(window, qtbot)
    if calm:  # nothing follows what plays, but its end is told all the same
        click_in_menu(qtbot, window.menus["View"], "Nothing moves by itself")
        come_back(window, qtbot)
    pick(qtbot, strip.how, True)
    pick(qtbot, strip.length, Fraction(1))
    with qtbot.waitSignal(window.playback.began, timeout=5000):
        click(qtbot, strip.start_button)
        assert "Listening" in strip.words.text()
    beat = 60 / window.document.song.tempo
    qtbot.waitUntil(lambda: window.isActiveWindow() and window.focusWidget() is strip)
    qtbot.wait(120)  # it counts in: that is no end of it
    begun = clock.at + 0.016 + 4 * beat  # a bar is counted in
    for count, key in ((0, K.Key_Z), (1.1, K.Key_X), (1.9, K.Key_C)):
        clock.at = begun + count * beat
        qtbot.keyPress(strip, key)
        assert len(window.devices.held.down) == 1 and window.playback.playing
        clock.at += 0.9 * beat
        qtbot.keyRelease(strip, key)
    clock.at = begun + 3.5 * beat
    qtbot.keyClick(window, K.Key_Space, CTRL)  # stop
    qtbot.waitUntil(lambda: not window.playback.playing, timeout=5000)
    settle(window, qtbot)
    tune = [(start, length, pitch.key) for start, length, pitch in window.document.song.tune]
    assert tune == [(0, 1, 60), (1, 1, 62), (2, 1, 64)]
    assert page.editor.toPlainText().splitlines()[4].startswith("melody: C4:1 D4:1 E4:1 r:1")
    click(qtbot, strip.done_button)
    undo(window, qtbot)
    assert window.document.song.tune == ()


def test_text_that_is_to_be_mended_is_not_played_over(window: Window, qtbot: QtBot) -> None:
    page = type_chart(window, qtbot, CHART + "| Xyz |\n")
    qtbot.keyClick(page.editor, K.Key_T, CTRL)
    assert not page.tune.isVisible() and "mend them" in window.message.text.text()
    assert page.editor.toPlainText().endswith("| Xyz |\n")


@pytest.mark.long
def test_a_click_that_is_stopped_before_it_sounds_takes_nothing(window: Window, qtbot: QtBot) -> None:
    page, strip = opened(window, qtbot)
    pick(qtbot, strip.how, True)
    waiting = strip.words.text()
    click(qtbot, strip.start_button)
    assert "Listening" in strip.words.text()
    qtbot.keyClick(window, K.Key_Space, CTRL)
    assert not window.playback.playing and strip.words.text() == waiting
    qtbot.keyClick(strip, K.Key_Z)
    settle(window, qtbot)
    assert not window.document.song.tune and page.editor.toPlainText() == CHART
