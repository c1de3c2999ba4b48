"""A keyboard is played into the real window by another process, and a grip comes of it."""

from __future__ import annotations

import subprocess
import sys

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.devices import Devices
from yellow_hinge.ui.hinges_page.state import Selection
from yellow_hinge.ui.hinges_page.view import HingesPage
from yellow_hinge.ui.window import Window

from .conftest import page, press, settle

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
CHORD = 4


def play(devices: Devices, script: str) -> subprocess.Popen[str]:
    """Another process plays the simulated keyboard."""
    player = subprocess.Popen(
        [sys.executable, "-m", "yellow_hinge.sound.simulated", str(devices.simulated.port)],
        stdin=subprocess.PIPE, text=True,
    )  # fmt: skip
    assert player.stdin is not None
    player.stdin.write(script)
    player.stdin.close()
    return player


@pytest.fixture
def devices(window: Window, qtbot: QtBot) -> Devices:
    """The panel is open, and the simulated keyboard was chosen with the keyboard."""
    qtbot.keyClick(window, K.Key_K, CTRL)
    box = window.panel.box
    assert box.isVisible() and box.itemText(0) == "No keyboard" and box.itemText(1).startswith("Simulated")
    box.setFocus()
    qtbot.keyClick(box, K.Key_Down)
    box.activated.emit(1)  # what a platform without popups does not send for a key
    assert window.devices.name == box.currentText() == window.devices.simulated.name
    return window.devices


def test_a_grip_is_played_looked_at_with_free_hands_and_kept(
    window: Window, devices: Devices, qtbot: QtBot
) -> None:
    view = page(window, HingesPage)
    view.select(Selection(CHORD))
    view.row_view.setFocus()
    press(window, qtbot, K.Key_Y)
    with play(devices, "down F#2 E3\nwait 0.1\ndown A3 C#4 G#4\nwait 0.2\nup\n") as player:
        qtbot.waitUntil(lambda: devices.held.sounding == (42, 52, 57, 61, 68), timeout=20_000)
        assert view.keyboard._held == (42, 52, 57, 61, 68)
        qtbot.waitUntil(lambda: not devices.held.sounding, timeout=20_000)
    assert player.returncode == 0 and view.keyboard._held == ()
    trial = view.state.trial
    assert trial is not None and (trial.left.keys, trial.right.keys) == ((42, 52), (57, 61, 68))
    assert "F♯m9" in view.grip.words.text() and "G♯4" not in window.message.text.text()
    assert window.panel.last.text() == "G♭2 E3 A3 D♭4 A♭4"
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    kept = window.document.song.voicing(CHORD)
    assert kept == trial and window.document.song.locked(CHORD)


def test_played_keys_sound_and_the_pedal_holds_them(window: Window, devices: Devices, qtbot: QtBot) -> None:
    touched: list[tuple[int, int]] = []
    devices._touch = lambda key, velocity: touched.append((key, velocity))
    with play(devices, "pedal down\ndown C4 *70\nup C4\nwait 0.1\npedal up\n"):
        qtbot.waitUntil(lambda: (60, 0) in touched, timeout=20_000)
    assert touched == [(60, 70), (60, 0)]
    window.panel.sounds.click()
    with play(devices, "down D4\nwait 0.05\nup\n"):
        qtbot.waitUntil(lambda: devices.last[-1:] == [62] and not devices.held.sounding, timeout=20_000)
    assert (62, 80) not in touched


def test_outside_the_face_for_own_grips_playing_changes_nothing(
    window: Window, devices: Devices, qtbot: QtBot
) -> None:
    view, song = page(window, HingesPage), window.document.song
    with play(devices, "down C4 E4\nwait 0.1\nup\n"):
        qtbot.waitUntil(lambda: devices.last == [60, 64] and not devices.held.sounding, timeout=20_000)
    assert view.state.trial is None and window.document.song is song


def test_keyboards_that_cannot_be_had_are_said(window: Window, devices: Devices, qtbot: QtBot) -> None:
    devices.choose("a keyboard that was pulled out")
    assert "cannot be opened" in window.panel.words.text() and devices.name == "No keyboard"
    assert not devices.listening
    qtbot.keyClick(window, K.Key_K, CTRL)
    assert not window.panel.isVisible()


def test_closing_lets_the_port_go(window: Window, devices: Devices, qtbot: QtBot) -> None:
    with play(devices, "down C4\nwait 0.05\n"):
        qtbot.waitUntil(lambda: devices.held.sounding == (60,), timeout=20_000)
    devices.stop()
    assert devices.held.sounding == () and devices.name == "No keyboard"
    devices.choose(devices.simulated.name)  # the port is free again
    assert devices.listening
