"""A page of somebody's grips from the clipboard to paper, with keys alone."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QFileDialog, QMenu
from pytestqt.qtbot import QtBot

from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import walk
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.swaps.held_face import HeldFace
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.paste_dialog import PasteDialog
from yellow_hinge.ui.window import Window

from .conftest import come_back, page, press, settle

K, CTRL, SHIFT = Qt.Key, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
TWENTY = "title: Twenty\nkey: C\n" + 5 * (
    "Dm7: D3 C4 ; F4 A4 D5\nG7: G2 F3 ; B3 D4 G4\nCmaj7: C3 B3 ; E4 G4\nA7: A2 G3 ; C#4 E4 G4\n"
)


def grips(song: Song) -> list[tuple[tuple[int, ...], tuple[int, ...]]]:
    found = [song.voicing(slot.index) for slot in song.slots]
    return [((), ()) if one is None else (one.left.keys, one.right.keys) for one in found]


def go(window: Window, qtbot: QtBot, number: Qt.Key) -> None:
    """To another place by its key."""
    qtbot.keyClick(window.page.focus, number, CTRL)
    settle(window, qtbot)


@pytest.mark.long
def test_twenty_lines_pasted_slid_kept_swapped_under_the_tune_and_printed(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    paste(window, qtbot)
    slide_and_keep(window, qtbot)
    put_a_bass_under(window, qtbot)
    play_the_tune(window, qtbot)
    path = tmp_path / "twenty.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    go(window, qtbot, K.Key_9)
    qtbot.waitUntil(window.page.commands["save-sheet"].enabled, timeout=30_000)
    press(window, qtbot, K.Key_W)
    qtbot.waitUntil(lambda: path.exists() and path.read_bytes()[:5] == b"%PDF-", timeout=30_000)


def paste(window: Window, qtbot: QtBot) -> None:
    """Twenty lines become a song, its grips locked."""
    settle(window, qtbot)
    QGuiApplication.clipboard().setText(TWENTY)
    QTimer.singleShot(200, lambda: answer(qtbot, PasteDialog, K.Key_Return))
    qtbot.keyClick(window, K.Key_V, CTRL | SHIFT)
    come_back(window, qtbot)
    song = window.document.song
    assert len(song.slots) == 20 and all(song.locked(slot.index) for slot in song.slots)
    assert grips(song)[1] == ((43, 53), (59, 62, 67)) and window.page.name == "Hinges"


def slide_and_keep(window: Window, qtbot: QtBot) -> None:
    """The first one slides by a half step, and is kept wherever the chord is."""
    press(window, qtbot, K.Key_Home)
    qtbot.keyClick(window.page.focus, K.Key_Up, SHIFT)
    said: list[str] = []
    QTimer.singleShot(200, lambda: said.extend(answer(qtbot, QMenu, K.Key_3)))
    press(window, qtbot, K.Key_P)
    qtbot.wait(400)
    come_back(window, qtbot)
    assert "5 chords, bars 1, 5, 9, 13, 17; 4 grips of your own give way" in said[2]
    slid = ((51, 61), (66, 70, 75))
    assert [k for k, one in enumerate(grips(window.document.song)) if one == slid] == [0, 4, 8, 12, 16]


def put_a_bass_under(window: Window, qtbot: QtBot) -> None:
    """Another bass under the second one: nothing above it changes, and no other grip."""
    press(window, qtbot, K.Key_Right, 2)
    before = grips(window.document.song)
    go(window, qtbot, K.Key_4)
    swaps = page(window, SwapsPage)
    qtbot.waitUntil(lambda: not swaps.weighing.worker.running, timeout=30_000)
    press(window, qtbot, K.Key_B)
    qtbot.waitUntil(
        lambda: isinstance(swaps.on_face.face, HeldFace) and swaps.on_face.face.ready, timeout=30_000
    )
    press(window, qtbot, K.Key_Up)
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    after = grips(window.document.song)
    assert [k for k in range(20) if before[k] != after[k]] == [1]
    assert after[1][1] == before[1][1] and window.document.song.arrangement.swaps


def play_the_tune(window: Window, qtbot: QtBot) -> None:
    """A tune is typed over the last bar, and the right hand plays it over what it keeps."""
    before = grips(window.document.song)
    go(window, qtbot, K.Key_1)
    qtbot.keyClick(window.page.focus, K.Key_End, CTRL)
    qtbot.keyClick(window.page.focus, K.Key_Return)
    qtbot.keyClicks(window.page.focus, "melody: A4:2 B4:2")
    go(window, qtbot, K.Key_7)
    assert grips(window.document.song) == before
    press(window, qtbot, K.Key_F)
    tick = page(window, RhythmPage).side.feel.ticks["tune"]
    tick.setFocus()
    qtbot.keyClick(tick, K.Key_Space)
    settle(window, qtbot)
    assert grips(window.document.song) == before
    right = [one.key for one in walk(window.document.song) if one.part == "right" and one.slot == 19]
    assert sorted(right) == [61, 64, 67, 69, 71]


def answer(qtbot: QtBot, kind: type, *keys: Qt.Key) -> list[str]:
    """Keys for what stands before the window, which is closed in any case; what its entries say."""
    one = QApplication.activeModalWidget() or QApplication.activePopupWidget()
    said = [action.text() for action in one.actions()] if one is not None else []
    if one is None or not isinstance(one, kind):
        return []
    for key in keys:
        qtbot.keyClick(one.focusWidget() or one, key)
    if one.isVisible():
        one.close()
    return said
