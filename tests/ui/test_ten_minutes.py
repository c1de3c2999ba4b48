"""The first ten minutes, as the README tells them: the same keys, in its order, from an empty home."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog
from pytestqt.qtbot import QtBot

from yellow_hinge.tasks.practice.desk import log_at
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.practise.view import PractisePage
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.sheet.view import SheetPage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.window import Window

from .conftest import press, settle, show

K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier
README = Path(__file__).parents[2] / "README.md"


def own_chart() -> str:
    """The chart that the README has the player type."""
    told = README.read_text("utf-8").partition("## Ten minutes")[2]
    found = re.search(r"\n\n((?:       .*\n)+)\n", told)
    assert found is not None
    return "\n".join(line[7:] for line in found[1].splitlines())


def test_from_nothing_to_an_own_song_practised(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    settle(window, qtbot)
    assert window.document.song.title == "Lantern Ferry" and window.document.song.solved
    press(window, qtbot, K.Key_Space)  # 1: it plays, and is stopped
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    press(window, qtbot, K.Key_Space)
    assert not window.playback.playing

    _written(window, qtbot)
    _voiced(window, qtbot)
    _given_a_rhythm(window, qtbot)
    _printed(window, qtbot, tmp_path / "tar.pdf", monkeypatch)
    _practised(window, qtbot)
    _kept(window, qtbot, tmp_path / "tar.yhinge", monkeypatch)


def _written(window: Window, qtbot: QtBot) -> None:
    song = show(window, qtbot, SongPage)  # 2: a chart of one's own
    qtbot.keyClick(song.editor, K.Key_A, CTRL)
    for line in own_chart().splitlines():
        qtbot.keyClicks(song.editor, line)
        qtbot.keyClick(song.editor, K.Key_Return)
    qtbot.wait(450)
    settle(window, qtbot)
    assert window.document.song.title == "Tar Barrel" and len(window.document.song.slots) == 5
    assert window.document.history.draft is None


def _voiced(window: Window, qtbot: QtBot) -> None:
    hinges = show(window, qtbot, HingesPage)  # 4: voiced, heard, another voicing tried, one locked
    settle(window, qtbot)
    assert window.document.song.solved and hinges.title.text() == "Tar Barrel"
    press(window, qtbot, K.Key_Right, 2)
    assert hinges.state.selection.index == 1 and not hinges.state.selection.on_hinge
    press(window, qtbot, K.Key_Down)
    press(window, qtbot, K.Key_H)
    press(window, qtbot, K.Key_T)
    assert hinges.state.trial is not None
    press(window, qtbot, K.Key_Escape)
    assert hinges.state.trial is None
    press(window, qtbot, K.Key_L)
    settle(window, qtbot)
    assert window.document.song.locked(1)


def _given_a_rhythm(window: Window, qtbot: QtBot) -> None:
    rhythm = show(window, qtbot, RhythmPage)  # 5: a pattern
    qtbot.waitUntil(lambda: not rhythm.remarks.worker.running, timeout=60_000)
    assert rhythm.state.hand == "right"
    press(window, qtbot, K.Key_J)
    assert rhythm.state.hand == "left"


def _printed(window: Window, qtbot: QtBot, page: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    sheet = show(window, qtbot, SheetPage)  # 6: on paper
    press(window, qtbot, K.Key_C)
    qtbot.waitUntil(lambda: sheet.state.sheet is not None and not sheet.worker.running, timeout=60_000)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(page), ""))
    press(window, qtbot, K.Key_W)
    qtbot.waitUntil(page.is_file, timeout=60_000)
    assert page.read_bytes().startswith(b"%PDF")


def _practised(window: Window, qtbot: QtBot) -> None:
    practise = show(window, qtbot, PractisePage)  # 7: practised, without a keyboard
    qtbot.waitUntil(lambda: practise.state.ready, timeout=60_000)
    for _ in range(4):
        if practise.state.settings.way == "mark":
            break
        press(window, qtbot, K.Key_V)
    assert practise.state.settings.way == "mark"
    press(window, qtbot, K.Key_Space)
    press(window, qtbot, K.Key_Y)
    qtbot.waitUntil(lambda: bool(log_at(None).tries()), timeout=5000)
    assert all(one.clean for one in log_at(None).tries())
    press(window, qtbot, K.Key_Space)


def _kept(window: Window, qtbot: QtBot, project: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(project), ""))
    qtbot.keyClick(window, K.Key_S, CTRL)  # 8
    assert project.is_file()
    qtbot.keyClick(window, K.Key_F1)
    assert "Here you learn it" in window.key_list.text.toPlainText()
    window.key_list.close()
    assert QApplication.focusWidget() is not None
