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
from .mouse import drag

K = Qt.Key


def play(qtbot: QtBot, view: HandsPage, key: int) -> None:
    """Click a key of the try."""
    rect = key_rect(key, *TRY_KEYS, view.keyboard._area())
    click(qtbot, view.keyboard, QPoint(int(rect.center().x()), int(rect.bottom() - 9)))


@pytest.mark.long
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


@pytest.mark.long
def test_notes_register_and_narrow_keys(window: Window, qtbot: QtBot) -> None:
    view, document = show(window, qtbot, HandsPage), window.document
    pick(qtbot, view.limits.notes["right"], 3)
    settle(window, qtbot)
    assert all(len(held.voicing.right.keys) <= 3 for held in document.row.held)
    left = view.limits.registers["left"]
    drag(left, left.box_of(28).center(), left.box_of(33).center(), left.box_of(36).center())
    settle(window, qtbot)
    assert document.song.hands.left.lowest_key == 36 and document.song.hands.left.highest_key == 67
    assert all(held.voicing.left.keys[0] >= 36 for held in document.row.held)
    pick(qtbot, view.octave, 140.0)
    settle(window, qtbot)
    assert document.song.hands.octave_mm == 140.0
    assert "mm" in view.limits.summaries["left"].text()


@pytest.mark.parametrize(
    ("begin", "end", "register"),
    [
        (67, 60, (28, 60)), (50, 45, (28, 45)), (46, 40, (40, 67)), (28, 100, (66, 67)), (67, 21, (28, 29)),
        (30, 21, (21, 67)), (64, 108, (28, 108)), (28, 28, (28, 67)),
    ],
)  # fmt: skip
def test_the_nearer_end_of_a_register_is_dragged(
    window: Window, qtbot: QtBot, begin: int, end: int, register: tuple[int, int]
) -> None:
    """Not beyond the piano, and not over the other end; each hand by itself."""
    view, before = show(window, qtbot, HandsPage), window.document.song
    left = view.limits.registers["left"]
    drag(left, left.box_of(begin).center(), left.box_of(end).center())
    hands = window.document.song.hands
    assert (hands.left.lowest_key, hands.left.highest_key) == register == left.shown
    assert hands.right == before.hands.right
    if register == (28, 67):
        assert window.document.song is before
    else:
        undo(window, qtbot)
        assert window.document.song.hands == before.hands and left.shown == (28, 67)


@pytest.mark.long
def test_a_register_is_moved_by_keys(window: Window, qtbot: QtBot) -> None:
    view, before = show(window, qtbot, HandsPage), window.document.song
    right = view.limits.registers["right"]
    right.setFocus()
    assert right.accessibleDescription() == "D3 to E6"
    for key, words in (
        (K.Key_Right, "D♯3 to E6"), (K.Key_Right, "E3 to E6"), (K.Key_Left, "D♯3 to E6"),
        (K.Key_Up, "D3 to E6"),
        (K.Key_Left, "D3 to D♯6"), (K.Key_Escape, "D3 to E6"), (K.Key_Left, "D3 to D♯6"),
        (K.Key_Down, "D3 to E6"), (K.Key_Left, "C♯3 to E6"),
    ):  # fmt: skip
        qtbot.keyClick(right, key)
        assert right.accessibleDescription() == words, key
        assert window.document.song is before
    qtbot.keyClick(right, K.Key_Return)
    settle(window, qtbot)
    assert window.document.song.hands.right.lowest_key == 49
    qtbot.keyClick(right, K.Key_Return)  # nothing has moved since
    assert window.document.song.hands.right.lowest_key == 49
    qtbot.keyClick(right, K.Key_Right)
    view.octave.setFocus()
    assert right.shown == (49, 88)  # what was walked to is forgotten
    qtbot.mouseClick(right, Qt.MouseButton.RightButton, pos=right.box_of(70).center().toPoint())
    assert window.document.song.hands.right.lowest_key == 49


@pytest.mark.long
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
