"""The Hands page: the guided try by mouse and keys, registers, kept hands."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.keyboard import key_rect
from yellow_hinge.ui.pages.hands.state import TRY_KEYS
from yellow_hinge.ui.pages.hands.view import HandsPage
from yellow_hinge.ui.window import Window

from .conftest import button, click, pick, settle, show, undo


def play(qtbot: QtBot, view: HandsPage, key: int) -> None:
    """Click a key of the try."""
    rect = key_rect(key, *TRY_KEYS, view.keyboard._area())
    click(qtbot, view.keyboard, QPoint(int(rect.center().x()), int(rect.bottom() - 9)))


def test_the_guided_try_sets_the_reach(window: Window, qtbot: QtBot) -> None:
    view, document = show(window, qtbot, HandsPage), window.document
    assert "click one end" in view.instruction.text()
    for key in (48, 64):
        play(qtbot, view, key)
    settle(window, qtbot)
    assert "C3 to E4" in view.instruction.text()
    assert document.song.hands.left.reach == 10
    assert document.history.undo_label == "Reach of the left hand"
    click(qtbot, button(view, "Try the right hand"))
    view.keyboard.setFocus()
    for key, times in (
        (Qt.Key.Key_Left, 4), (Qt.Key.Key_Return, 1), (Qt.Key.Key_Right, 9), (Qt.Key.Key_Return, 1),
    ):  # fmt: skip
        for _ in range(times):
            qtbot.keyClick(view.keyboard, key)
    settle(window, qtbot)
    assert document.song.hands.right.reach_mm < 164.5
    undo(window, qtbot)
    assert document.song.hands.right.reach == 8


def test_arrows_move_no_key_while_something_else_has_the_focus(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, HandsPage)
    assert view.commands["key-up"].enabled()
    view.octave.setFocus()
    assert not view.commands["key-up"].enabled()


def test_notes_register_and_narrow_keys(window: Window, qtbot: QtBot) -> None:
    view, document = show(window, qtbot, HandsPage), window.document
    spin(qtbot, view, ("right", "most_notes"), 3)
    settle(window, qtbot)
    assert all(len(held.voicing.right.keys) <= 3 for held in document.row.held)
    spin(qtbot, view, ("left", "lowest_key"), 36)
    settle(window, qtbot)
    assert all(held.voicing.left.keys[0] >= 36 for held in document.row.held)
    before = document.song.hands
    view.limits.spins["left", "lowest_key"].setValue(100)  # above the highest key: not taken
    assert document.song.hands == before and view.limits.spins["left", "lowest_key"].value() == 36
    pick(qtbot, view.octave, 140.0)
    settle(window, qtbot)
    assert document.song.hands.octave_mm == 140.0
    assert "mm" in view.limits.summaries["left"].text()


def spin(qtbot: QtBot, view: HandsPage, which: tuple[str, str], value: int) -> None:
    """Press Up or Down until a box has a value."""
    box = view.limits.spins[which]
    for _ in range(60):
        if box.value() == value:
            return
        qtbot.keyClick(box, Qt.Key.Key_Up if box.value() < value else Qt.Key.Key_Down)
    raise AssertionError(f"{which} does not reach {value}")


def test_rolled_reach_habits_and_kept_hands(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    path = tmp_path / "x" / "hands.json"
    monkeypatch.setattr("yellow_hinge.tasks.settings.profiles.profiles_path", lambda: path)
    view, document = show(window, qtbot, HandsPage), window.document
    click(qtbot, button(view, "Left, rolled"))
    for key in (48, 65):
        play(qtbot, view, key)
    settle(window, qtbot)
    profile = document.song.hands
    assert profile.roll and profile.left.widest_mm > profile.left.reach_mm
    assert "rolled" in view.limits.summaries["left"].text()
    interlock = button(view, "Hands may interlock")
    interlock.click()
    view.profile_box.setCurrentText("  Own  hands ")
    click(qtbot, button(view, "Keep"))
    kept = document.song.hands
    assert kept.interlock and view.profile_box.currentText() == "Own hands"
    button(view, "Roll wide chords with the pedal").click()
    assert not document.song.hands.roll
    view.profile_box.activated.emit(0)
    assert document.song.hands == kept
    click(qtbot, button(view, "Forget"))
    assert view.profile_box.count() == 0
    view.profile_box.setCurrentText(" ")
    click(qtbot, button(view, "Keep"))
    assert window.message.isVisible() and "no name" in window.message.text.text()
    (tmp_path / "x" / "hands.json").write_text('{"schema": 3}')
    view.profile_box.setCurrentText("Other")
    click(qtbot, button(view, "Keep"))
    assert "hands.json" in window.message.text.text()
    settle(window, qtbot)
