"""The function board on the Swaps page, by real keys and clicks."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.pages.swaps.board_face import BoardFace
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.window import Window

from .conftest import pick, press, settle, show, type_chart, undo

K = Qt.Key
CHART = "title: Slack Water\nkey: C\ntempo: 100\n[A]\n| Dm9 | G7 | Cmaj7 |\n"


def opened(window: Window, qtbot: QtBot) -> BoardFace:
    type_chart(window, qtbot, CHART)
    settle(window, qtbot)
    view = show(window, qtbot, SwapsPage)
    view.swapping.choose(1)
    press(window, qtbot, K.Key_I)
    face = view.on_face.face
    assert isinstance(face, BoardFace)
    rest(face, qtbot)
    return face


def rest(face: BoardFace, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not face.worker.running, timeout=30_000)
    qtbot.wait(20)


@pytest.mark.long
def test_an_upper_chord_is_walked_to_turned_heard_and_taken(window: Window, qtbot: QtBot) -> None:
    face = opened(window, qtbot)
    assert face.bass.currentText() == "5 (G): pull" and face.goal.currentText() == "Cmaj7, the next chord"
    assert "Bø7 over G: G9 (3, 5, ♭7, 9)" in face.sum.text() and "inversion 1 of 4" in face.sum.text()
    press(window, qtbot, K.Key_U)
    assert "inversion 2 of 4" in face.sum.text()
    wanted = face.lying[1].voicing
    press(window, qtbot, K.Key_H)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    window.playback.stop()
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    song = window.document.song
    assert [str(slot.chord) for slot in song.slots] == ["Dm9", "G9", "Cmaj7"]
    assert song.voicing(1) == wanted and song.locked(1)
    undo(window, qtbot)
    assert str(window.document.song.slots[1].chord) == "G7"


def test_the_board_is_walked_by_keys_and_clicks(window: Window, qtbot: QtBot) -> None:
    face = opened(window, qtbot)
    row, column = face.at
    press(window, qtbot, K.Key_Up)
    press(window, qtbot, K.Key_Period)
    assert face.at == (row - 1, column + 1)
    press(window, qtbot, K.Key_Comma)
    assert face.at == (row - 1, column)
    point = face.view.box(0, 6).center().toPoint()
    qtbot.mouseClick(face.view, Qt.MouseButton.LeftButton, pos=point)
    assert face.at == (0, 6) and face.sum.text().startswith("D♭ over G:")
    assert "half steps to Cmaj7" in face.sum.text()


@pytest.mark.long
def test_another_goal_takes_the_second_half(window: Window, qtbot: QtBot) -> None:
    face = opened(window, qtbot)
    assert face.goal.itemText(1) == "G7, this chord itself"
    pick(qtbot, face.goal, 1)
    rest(face, qtbot)
    assert face.bass.currentText() == "2 (D): pull"
    pick(qtbot, face.bass, "b6")
    rest(face, qtbot)
    view = window.page
    assert isinstance(view, SwapsPage)
    assert face.board is not None and str(face.board.base) == "Ab7" and face.ready
    view.chips.setFocus()
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    chords = [str(slot.chord) for slot in window.document.song.slots]
    assert len(chords) == 4 and chords[1].startswith("Ab") and chords[2] == "G7"
