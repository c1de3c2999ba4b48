"""How many presses it takes, besides what is typed: to a sheet, a grip of one's own, a swap that is heard."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.sheet.view import SheetPage
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.window import Window

from .conftest import page, settle

K, CTRL, NONE = Qt.Key, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.NoModifier
CHART = "title: Eel Pots\nkey: G\n| Gmaj7 | Em7 | Am7 | D7 | Bm7 | E7 | Am7 D7 | Gmaj7 |\n"


class Hands:
    """Presses keys and counts them; what is typed does not count."""

    def __init__(self, window: Window, qtbot: QtBot) -> None:
        self._window, self._qtbot = window, qtbot
        self.presses = 0

    def press(self, *keys: Qt.Key, modifiers: Qt.KeyboardModifier = NONE) -> None:
        for key in keys:
            self.presses += 1
            self._qtbot.keyClick(self._window.focusWidget() or self._window, key, modifiers)

    def type(self, text: str) -> None:
        self._qtbot.keyClicks(self._window.focusWidget(), text)


@pytest.fixture
def hands(window: Window, qtbot: QtBot) -> Hands:
    return Hands(window, qtbot)


def test_from_an_empty_window_to_a_sheet_of_eight_bars(
    window: Window, qtbot: QtBot, hands: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "eel-pots.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), "PDF (*.pdf)"))
    hands.press(K.Key_N, modifiers=CTRL)
    hands.press(K.Key_A, modifiers=CTRL)
    for line in CHART.splitlines():
        hands.type(line)
        hands.press(K.Key_Return)
    hands.press(K.Key_9, modifiers=CTRL)
    settle(window, qtbot)
    sheet = page(window, SheetPage)
    qtbot.waitUntil(
        lambda: sheet.state.sheet is not None and not window.document.worker.running, timeout=30_000
    )
    hands.press(K.Key_W)
    assert path.read_bytes().startswith(b"%PDF") and window.document.song.title == "Eel Pots"
    assert hands.presses <= 7


def test_from_a_song_to_a_grip_of_ones_own_that_is_kept(window: Window, qtbot: QtBot, hands: Hands) -> None:
    assert isinstance(window.page, HingesPage)
    hands.press(K.Key_Y)
    view = page(window, HingesPage)
    view.side.grip.field.setFocus()
    hands.presses += 1  # a click into the field
    hands.press(K.Key_A, modifiers=CTRL)
    hands.type("A2 E3 ; B3 C#4 E4")
    hands.press(K.Key_Return)
    song = window.document.song
    voicing = song.voicing(0)
    assert voicing is not None and voicing.keys == (45, 52, 59, 61, 64) and song.locked(0)
    assert hands.presses <= 4


@pytest.mark.long
def test_from_a_song_to_a_swap_that_is_heard_in_its_place(window: Window, qtbot: QtBot, hands: Hands) -> None:
    hands.press(K.Key_4, modifiers=CTRL)
    view = page(window, SwapsPage)
    qtbot.waitUntil(lambda: view.on_face.first.hearable, timeout=60_000)
    hands.press(K.Key_H)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    assert window.playback.heard is not None and hands.presses <= 2
    assert [slot.chord for slot in window.playback.heard.song.slots] != [
        slot.chord for slot in window.document.song.slots
    ]
