"""What is played is heard: by value, and over a socket from a process of its own."""

from __future__ import annotations

import queue
import socket
import subprocess
import sys
import time
from contextlib import ExitStack

import mido
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.sound import clock, keyboards
from yellow_hinge.sound.keyboards import (
    HeldKeys,
    KeyEvent,
    MidiKeyboard,
    Pedal,
    SimulatedKeyboard,
    Struck,
    event_of,
    system_ports,
)
from yellow_hinge.sound.simulated import messages


def test_messages_are_what_a_player_did() -> None:
    assert event_of(mido.Message("note_on", note=60, velocity=9)) == Struck(60, 9)
    assert event_of(mido.Message("note_on", note=60, velocity=0)) == Struck(60, 0)
    assert event_of(mido.Message("note_off", note=60, velocity=64)) == Struck(60, 0)
    assert event_of(mido.Message("control_change", control=64, value=64)) == Pedal(down=True)
    assert event_of(mido.Message("control_change", control=64, value=63)) == Pedal(down=False)
    for other in (
        mido.Message("control_change", control=1),
        mido.Message("pitchwheel"),
        mido.Message("clock"),
    ):
        assert event_of(other) is None


_EVENTS = st.lists(
    st.one_of(
        st.builds(Struck, st.integers(60, 64), st.sampled_from([0, 80])), st.builds(Pedal, st.booleans())
    )
)


@given(_EVENTS)
def test_a_key_sounds_while_it_is_down_or_the_pedal_has_it(events: list[KeyEvent]) -> None:
    held = HeldKeys()
    down: set[int] = set()
    since_pedal: set[int] = set()  # struck or held at some time while the pedal was down
    pedal = False
    for event in events:
        held.feed(event)
        if isinstance(event, Pedal):
            since_pedal = set(down) if event.down and not pedal else since_pedal if event.down else set()
            pedal = event.down
        elif event.velocity:
            down.add(event.key)
            since_pedal |= {event.key} if pedal else set()
        else:
            down.discard(event.key)
        assert held.sounding == tuple(sorted(down | since_pedal))


def test_a_script_is_played_and_mistakes_say_their_line() -> None:
    found = list(messages(["# a grip", "down C4 E4 67 *90", "pedal down", "wait 0.5", "up C4", "up"]))
    assert [str(one) for one in found] == [
        "note_on channel=0 note=60 velocity=90 time=0", "note_on channel=0 note=64 velocity=90 time=0",
        "note_on channel=0 note=67 velocity=90 time=0",
        "control_change channel=0 control=64 value=127 time=0", "0.5",
        "note_off channel=0 note=60 velocity=64 time=0", "note_off channel=0 note=64 velocity=64 time=0",
        "note_off channel=0 note=67 velocity=64 time=0",
    ]  # fmt: skip
    for line in ("down H4", "down 128", "pedal sideways", "sing C4", "wait long"):
        with pytest.raises(ValueError, match="line 2: "):
            list(messages(["down C4", line]))


def _heard(keyboard: SimulatedKeyboard, script: str, count: int) -> list[KeyEvent]:
    """What comes in while another process plays the script."""
    came: queue.Queue[KeyEvent] = queue.Queue()
    keyboard.start(came.put)
    try:
        subprocess.run(
            [sys.executable, "-m", "yellow_hinge.sound.simulated", str(keyboard.port)],
            input=script, text=True, check=True, timeout=30,
        )  # fmt: skip
        return [came.get(timeout=10) for _ in range(count)]
    finally:
        keyboard.stop()


def test_another_process_plays_the_simulated_keyboard() -> None:
    keyboard = SimulatedKeyboard()
    script = "down D3 C4\npedal down\nup\nwait 0.05\ndown F4 *101\n"
    assert _heard(keyboard, script, 6) == [
        Struck(50, 80), Struck(60, 80), Pedal(down=True), Struck(50, 0), Struck(60, 0), Struck(65, 101),
    ]  # fmt: skip
    assert _heard(keyboard, "down C4\n", 1) == [Struck(60, 80)]  # stopped, and started again


def test_many_notes_come_through_in_order() -> None:
    script = "".join(f"down {36 + k % 48}\nup {36 + k % 48}\n" for k in range(400))
    came = _heard(SimulatedKeyboard(), script, 800)
    assert came == [Struck(36 + k % 48, hard) for k in range(400) for hard in (80, 0)]


def test_two_windows_have_keyboards_of_their_own() -> None:
    both = SimulatedKeyboard(), SimulatedKeyboard()
    for one in both:
        one.start(lambda _: None)
    try:
        assert both[0].port != both[1].port
    finally:
        for one in both:
            one.stop()


def test_nobody_listening_is_said() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "yellow_hinge.sound.simulated", "9"], input="", text=True,
        capture_output=True, check=False, timeout=30,
    )  # fmt: skip
    assert done.returncode == 1 and "nobody listens" in done.stderr and "Traceback" not in done.stderr


def test_ports_are_listed_or_it_is_said_why_not(capfd: pytest.CaptureFixture[str]) -> None:
    ports = system_ports()
    assert ports.trouble == "" or (ports.inputs == () and ports.trouble.endswith("."))
    with pytest.raises(OSError, match="no such keyboard"):
        MidiKeyboard("no such keyboard").start(lambda _: None)
    time.sleep(0)
    assert capfd.readouterr() == ("", "")


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("down C4", [("note_on", 60, 80)]), ("down 60 *81", [("note_on", 60, 81)]),
        ("down 0 127", [("note_on", 0, 80), ("note_on", 127, 80)]), ("up 60", [("note_off", 60, 64)]),
        ("wait 60", [60.0]), ("wait 61", [60.0]), ("wait", [0.0]), ("wait -1", [0.0]),
        ("pedal down", [("control_change", 64, 127)]), ("pedal up", [("control_change", 64, 0)]),
    ],
)  # fmt: skip
def test_a_line_of_the_simulated_keyboard(line: str, said: list[object]) -> None:
    found = [one if isinstance(one, float) else tuple(one.dict()[name] for name in NAMES[one.type])
             for one in messages([line])]  # fmt: skip
    assert found == said


NAMES = {
    "note_on": ("type", "note", "velocity"), "note_off": ("type", "note", "velocity"),
    "control_change": ("type", "control", "value"),
}  # fmt: skip


@pytest.mark.parametrize(
    "line", ["down 128", "down G#9", "down C-2", "down x", "pedal", "pedal half", "sing"]
)
def test_a_line_that_makes_no_sense_is_said_with_its_number(line: str) -> None:
    with pytest.raises(ValueError, match=r"^line 2: "):
        list(messages(["# a remark", line]))


def test_up_alone_lets_go_what_is_down_and_nothing_else() -> None:
    rows = list(messages(["down 60 64 67", "up 64", "up", "up"]))
    assert [one.note for one in rows if one.type == "note_off"] == [64, 60, 67]


class _Leaves:
    """A player whose connection breaks."""

    def recv(self, _: int) -> bytes:
        raise OSError("gone")


class _Says:
    """A player who sends these bytes."""

    def __init__(self, data: bytes) -> None:
        self.data = data

    def recv(self, _: int) -> bytes:
        return self.data


@pytest.mark.parametrize(
    ("player", "more", "heard"),
    [(_Leaves(), False, []), (_Says(b""), False, []), (_Says(bytes((0x90, 60, 80))), True, [Struck(60, 80)]),
     (_Says(bytes((0x90, 60))), True, [])],
)  # fmt: skip
def test_whether_more_may_come(player: object, more: bool, heard: list[KeyEvent]) -> None:
    came: list[KeyEvent] = []
    assert keyboards._Player().read(player, came.append) == more and came == heard


ON, OFF = bytes((0x90, 60, 80)), bytes((0x80, 60, 0))


@pytest.mark.parametrize(
    ("data", "times", "more"),
    [
        ((ON + OFF) * 500, 2, True), ((ON + OFF) * 500 + ON, 2, False),  # 2,000 in a second, and 2,002
        (b"\xf0" + b"\x01" * 4095, 16, True), (b"\xf0" + b"\x01" * 4095, 17, False),  # no end of it
    ],
)  # fmt: skip
def test_who_sends_more_than_any_keyboard_is_sent_away_and_the_keys_are_let_go(
    monkeypatch: pytest.MonkeyPatch, data: bytes, times: int, more: bool
) -> None:
    monkeypatch.setattr(clock, "now", lambda: 1.0)
    came: list[KeyEvent] = []
    player = keyboards._Player()
    assert [player.read(_Says(data), came.append) for _ in range(times)][-1] == more
    held = HeldKeys()
    for event in came:
        held.feed(event)
    assert more or not held.sounding


def test_a_second_later_one_may_play_on(monkeypatch: pytest.MonkeyPatch) -> None:
    player = keyboards._Player()
    for second in range(4):
        monkeypatch.setattr(clock, "now", lambda second=second: 1e9 + second)
        assert player.read(_Says((ON + OFF) * 1000), lambda _: None)
    monkeypatch.setattr(clock, "now", lambda: 1e9 + 3.99)
    assert not player.read(_Says(ON), lambda _: None)


def test_no_more_than_four_play_at_once() -> None:
    keyboard = SimulatedKeyboard()
    keyboard.start(lambda _: None)
    with ExitStack() as open_now:
        open_now.callback(keyboard.stop)
        players = [
            open_now.enter_context(socket.create_connection(("127.0.0.1", keyboard.port), timeout=5))
            for _ in range(5)
        ]
        assert players[4].recv(1) == b""  # let go at once
        for player in players[:4]:
            player.settimeout(0.05)
            with pytest.raises(TimeoutError):
                player.recv(1)


def test_a_keyboard_that_is_stopped_has_no_thread_left() -> None:
    keyboard = SimulatedKeyboard()
    keyboard.stop()  # before it began
    keyboard.start(lambda _: None)
    thread = keyboard._thread
    assert thread is not None and thread.is_alive()
    keyboard.stop()
    assert keyboard._thread is None and not thread.is_alive()
