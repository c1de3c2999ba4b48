"""A keyboard is played into the real window by another process, and a grip comes of it."""

from __future__ import annotations

import subprocess
import sys

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.devices import Devices
from yellow_hinge.ui.pages.hands.view import HandsPage
from yellow_hinge.ui.pages.hinges.state import Selection
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.theme import TEXT_SCALES
from yellow_hinge.ui.window import Window

from .conftest import page, press, settle, show

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
CHORD = 4


class Player:
    """Another process plays the simulated keyboard: what is said, when it is said."""

    def __init__(self, devices: Devices) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-u", "-m", "yellow_hinge.sound.simulated", str(devices.simulated.port)],
            stdin=subprocess.PIPE, text=True,
        )  # fmt: skip

    def say(self, *lines: str) -> None:
        assert self._process.stdin is not None
        self._process.stdin.write("".join(f"{line}\n" for line in lines))
        self._process.stdin.flush()

    def __enter__(self) -> Player:
        return self

    def __exit__(self, *_: object) -> None:
        self._process.communicate(timeout=20)
        assert self._process.returncode == 0


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


@pytest.mark.long
def test_a_grip_is_played_looked_at_with_free_hands_and_kept(
    window: Window, devices: Devices, qtbot: QtBot
) -> None:
    view = page(window, HingesPage)
    view.walking.select(Selection(CHORD))
    view.row_view.setFocus()
    press(window, qtbot, K.Key_Y)
    with Player(devices) as player:
        player.say("down F#2 E3", "wait 0.1", "down A3 C#4 G#4")
        qtbot.waitUntil(lambda: devices.held.sounding == (42, 52, 57, 61, 68), timeout=60_000)
        assert view.keyboard._held == (42, 52, 57, 61, 68)
        player.say("up")
        qtbot.waitUntil(lambda: not devices.held.sounding, timeout=60_000)
    assert view.keyboard._held == ()
    trial = view.state.trial
    assert trial is not None and (trial.left.keys, trial.right.keys) == ((42, 52), (57, 61, 68))
    assert "F♯m9" in view.side.grip.words.text() and "G♯4" not in window.message.text.text()
    assert window.panel.last.text() == "G♭2 E3 A3 D♭4 A♭4"
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    kept = window.document.song.voicing(CHORD)
    assert kept == trial and window.document.song.locked(CHORD)


def test_played_keys_sound_and_the_pedal_holds_them(window: Window, devices: Devices, qtbot: QtBot) -> None:
    touched: list[tuple[int, int]] = []
    devices._touch = lambda key, velocity: touched.append((key, velocity))
    with Player(devices) as player:
        player.say("pedal down", "down C4 *70", "up C4", "wait 0.1", "pedal up")
        qtbot.waitUntil(lambda: (60, 0) in touched, timeout=60_000)
    assert touched == [(60, 70), (60, 0)]
    window.panel.sounds.click()
    with Player(devices) as player:
        player.say("down D4", "wait 0.05", "up")
        qtbot.waitUntil(lambda: devices.last[-1:] == [62] and not devices.held.sounding, timeout=60_000)
    assert (62, 80) not in touched


def test_outside_the_face_for_own_grips_playing_changes_nothing(
    window: Window, devices: Devices, qtbot: QtBot
) -> None:
    view, song = page(window, HingesPage), window.document.song
    with Player(devices) as player:
        player.say("down C4 E4", "wait 0.1", "up")
        qtbot.waitUntil(lambda: devices.last == [60, 64] and not devices.held.sounding, timeout=60_000)
    assert view.state.trial is None and window.document.song is song


def test_keyboards_that_cannot_be_had_are_said(window: Window, devices: Devices, qtbot: QtBot) -> None:
    devices.choose("a keyboard that was pulled out")
    assert "cannot be opened" in window.panel.words.text() and devices.name == "No keyboard"
    assert not devices.listening
    qtbot.keyClick(window, K.Key_K, CTRL)
    assert not window.panel.isVisible()


def test_closing_lets_the_port_go(window: Window, devices: Devices, qtbot: QtBot) -> None:
    with Player(devices) as player:
        player.say("down C4")
        qtbot.waitUntil(lambda: devices.held.sounding == (60,), timeout=60_000)
    devices.stop()
    assert devices.held.sounding == () and devices.name == "No keyboard"
    devices.choose(devices.simulated.name)  # the port is free again
    assert devices.listening


@pytest.mark.long
def test_two_rows_of_letters_play(window: Window, devices: Devices, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    view.walking.select(Selection(CHORD))
    view.row_view.setFocus()
    press(window, qtbot, K.Key_Y)
    devices.choose(devices.computer.name)
    assert "no commands meanwhile" in window.panel.words.text()
    focus = window.page.focus
    for key in (K.Key_Z, K.Key_D, K.Key_B):
        qtbot.keyPress(focus, key)
    assert devices.held.sounding == (60, 63, 67) == view.keyboard._held
    qtbot.keyRelease(focus, K.Key_D)
    qtbot.keyClick(focus, K.Key_BracketLeft)
    qtbot.keyPress(focus, K.Key_Slash)
    assert devices.held.sounding == (60, 64, 67)  # an octave lower: E4 above C4 that is still held
    trial = view.state.trial
    assert trial is not None and set(trial.keys) == {60, 64, 67}
    qtbot.keyRelease(focus, K.Key_Z)
    assert devices.held.sounding == (64, 67)
    view.side.grip.field.setFocus()
    qtbot.keyClicks(view.side.grip.field, "b")
    assert view.side.grip.field.text().endswith("b")  # where one types they are letters
    view.row_view.setFocus()
    devices.choose("No keyboard")
    assert devices.held.sounding == ()
    take = window.document.song.arrangement.loop
    press(window, qtbot, K.Key_B)
    settle(window, qtbot)
    assert window.document.song.arrangement.loop != take


def test_a_keyboard_on_the_screen_is_clicked(window: Window, devices: Devices, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    view.walking.select(Selection(CHORD))
    view.row_view.setFocus()
    press(window, qtbot, K.Key_Y)
    keys = devices.screen
    assert not keys.isVisible()
    devices.choose(keys.name)
    assert keys.isVisible() and "leaves it down" in window.panel.words.text()
    left, right = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
    for key in (42, 57):
        qtbot.mouseClick(keys, right, pos=keys.place_of(key).toPoint())
    qtbot.mousePress(keys, left, pos=keys.place_of(61).toPoint())
    assert devices.held.sounding == (42, 57, 61) == view.keyboard._held
    qtbot.mouseRelease(keys, left, pos=keys.place_of(61).toPoint())
    assert devices.held.sounding == (42, 57)
    qtbot.mouseClick(keys, right, pos=keys.place_of(42).toPoint())  # up again
    keys.setFocus()
    for key in (K.Key_Up, K.Key_Right, K.Key_Right):  # from F sharp 2 to G sharp 3
        qtbot.keyClick(keys, key)
    qtbot.keyPress(keys, K.Key_Return)
    assert devices.held.sounding == (56, 57)
    qtbot.keyRelease(keys, K.Key_Return)
    trial = view.state.trial
    assert trial is not None and trial.keys == (56, 57)  # what was let go is no part of the next grip
    devices.choose("No keyboard")
    assert devices.held.sounding == () and not keys.isVisible()


def test_the_keyboard_on_the_screen_grows_with_the_text(
    window: Window, devices: Devices, qtbot: QtBot
) -> None:
    keys = devices.screen
    devices.choose(keys.name)
    qtbot.waitExposed(keys)
    high = keys.height()
    for _ in range(len(TEXT_SCALES) - 1):
        qtbot.keyClick(window, K.Key_Plus, CTRL)
    try:
        qtbot.waitUntil(lambda: keys.height() == 2 * high)
        for key in (36, 61, 84):  # drawn and found at the same places
            qtbot.mousePress(keys, Qt.MouseButton.LeftButton, pos=keys.place_of(key).toPoint())
            assert devices.held.sounding == (key,)
            qtbot.mouseRelease(keys, Qt.MouseButton.LeftButton, pos=keys.place_of(key).toPoint())
    finally:
        for _ in TEXT_SCALES:
            qtbot.keyClick(window, K.Key_Minus, CTRL)
    qtbot.waitUntil(lambda: keys.height() == high)
    keys.setFocus()
    qtbot.keyClick(keys, K.Key_Left)  # from the one that was clicked last
    assert keys.accessibleDescription() == "B5"
    devices.choose("No keyboard")


def test_notes_go_to_the_simulated_port(window: Window, devices: Devices, qtbot: QtBot) -> None:
    panel, playback = window.panel, window.playback
    panel.out_box.setFocus()
    panel.out_box.setCurrentText("Simulated port")
    panel.out_box.activated.emit(panel.out_box.currentIndex())
    if "obody listens" in panel.out_words.text():
        assert panel.out_box.currentText() == "This program only" and playback.goes_to == ""
    listener = subprocess.Popen(
        [sys.executable, "-m", "yellow_hinge.sound.simulated_listener", "0"],
        stdout=subprocess.PIPE,
        text=True,
    )
    assert listener.stdout is not None
    playback._stand_in.port = int(listener.stdout.readline().split()[-1])
    panel.out_box.setCurrentText("Simulated port")
    panel.out_box.activated.emit(panel.out_box.currentIndex())
    assert playback.goes_to == "Simulated port" and panel.out_words.text() == ""
    window.transport.click.click()
    press(window, qtbot, K.Key_Space)
    qtbot.waitUntil(lambda: playback.playing, timeout=5000)
    qtbot.waitUntil(lambda: playback._ready().quarters > 2, timeout=60_000)
    qtbot.wait(200)
    press(window, qtbot, K.Key_Space)
    window.playback.close()
    listener.terminate()
    said = listener.stdout.read()
    listener.stdout.close()
    listener.wait()
    keys = {key for voicing in [window.document.song.voicing(0)] if voicing for key in voicing.keys}
    assert keys <= {int(line.split()[3]) for line in said.splitlines() if " on " in line}
    assert " on 10 76 " in said and "control 2 123 0" in said


def test_held_keys_show_on_the_hands_page(window: Window, devices: Devices, qtbot: QtBot) -> None:
    hands = show(window, qtbot, HandsPage)
    before = window.document.song.hands
    with Player(devices) as player:
        player.say("down C3 E4")
        qtbot.waitUntil(lambda: hands.keyboard._held == (48, 64), timeout=60_000)
        player.say("up")
        qtbot.waitUntil(lambda: hands.keyboard._held == (), timeout=60_000)
    assert window.document.song.hands == before
