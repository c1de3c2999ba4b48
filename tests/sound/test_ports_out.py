"""Notes that go to ports: heard by another process, in time, and all let go when it stops."""

from __future__ import annotations

import re
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from fractions import Fraction
from itertools import pairwise
from types import SimpleNamespace

import mido
import pytest

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.time import TempoMap
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import clicks
from yellow_hinge.sound import keyboards, ports_out
from yellow_hinge.sound.instrument import BuiltInTone
from yellow_hinge.sound.output import DeviceOutput
from yellow_hinge.sound.player import CHANNELS, Player
from yellow_hinge.sound.ports_out import MidiOut, Sender, SimulatedOut, note, pedal
from yellow_hinge.sound.simulated_listener import words


class Listener:
    """The listener that ships, as another process."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "yellow_hinge.sound.simulated_listener", "0"],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        assert self._process.stdout is not None
        self.port = int(self._process.stdout.readline().split()[-1])
        self.lines: list[str] = []
        self._reader = threading.Thread(target=self._read, daemon=True)
        self._reader.start()

    def _read(self) -> None:
        assert self._process.stdout is not None
        self.lines.extend(iter(self._process.stdout.readline, ""))

    def wait_for(self, pattern: str, count: int = 1) -> list[re.Match[str]]:
        for _ in range(1000):
            found = [match for line in list(self.lines) if (match := re.search(pattern, line))]
            if len(found) >= count:
                return found
            time.sleep(0.01)
        raise AssertionError(f"{pattern} in {self.lines}")

    def close(self) -> None:
        self._process.terminate()
        self._process.wait()
        self._reader.join()
        assert self._process.stdout is not None
        self._process.stdout.close()


@pytest.fixture
def listener() -> Iterator[Listener]:
    made = Listener()
    yield made
    made.close()


def event(at: float, key: int, quarters: float = 0.5) -> NoteEvent:
    return NoteEvent(Fraction(at), key, Fraction(quarters), 70, "right", 0)


def test_playing_is_heard_elsewhere_in_time(listener: Listener) -> None:
    player = Player(BuiltInTone(), DeviceOutput(silent=True))
    player.send_to(SimulatedOut(listener.port))
    in_time = pytest.approx([0.25, 0.25], abs=0.08)
    for _ in range(8):  # a machine with other work is late now and then, but not always
        listener.lines.clear()
        player.play([event(0, 60), event(0.5, 64), event(1, 67)], TempoMap(((Fraction(0), Fraction(120)),)))
        ons = listener.wait_for(r"^([\d.]+) on 2 (\d+) 70", 3)
        assert [int(one[2]) for one in ons] == [60, 64, 67]
        listener.wait_for(r"off 2 67")
        if [float(b[1]) - float(a[1]) for a, b in pairwise(ons)] == in_time:
            break
    else:
        raise AssertionError(f"never in time: {ons}")
    player.send_to(None)


def test_stopping_lets_everything_go(listener: Listener) -> None:
    player = Player(BuiltInTone(), DeviceOutput(silent=True))
    player.send_to(SimulatedOut(listener.port))
    player.play([event(0, 60, 100)], TempoMap(((Fraction(0), Fraction(60)),)))
    listener.wait_for(r"on 2 60")
    assert not any("off" in line for line in listener.lines)
    player.stop()
    for channel in range(1, 17):
        listener.wait_for(rf"control {channel} 123 0")
    player.touch(62, 80)
    listener.wait_for(r"on 2 62 80")
    player.pedal(True)
    listener.wait_for(r"control 2 64 127")
    player.touch(62, 0)
    listener.wait_for(r"off 2 62")
    player.send_to(None)
    player.touch(63, 80)  # goes nowhere any more
    player.stop()
    time.sleep(0.1)
    assert not any(" 63 " in line for line in listener.lines)


def test_ports_that_cannot_be_had_are_said_and_the_old_one_stays(listener: Listener) -> None:
    player = Player(BuiltInTone(), DeviceOutput(silent=True))
    player.send_to(SimulatedOut(listener.port))
    with pytest.raises(OSError, match="nobody listens"):
        player.send_to(SimulatedOut(1))
    with pytest.raises(OSError, match="cannot be opened"):
        player.send_to(MidiOut("a port that was pulled out"))
    player.touch(62, 80)
    listener.wait_for(r"on 2 62 80")
    player.send_to(None)


def test_a_listener_that_leaves_does_no_harm(listener: Listener) -> None:
    out = SimulatedOut(listener.port)
    out.open()
    listener.close()
    for _ in range(3):
        out.send(note(0, 60, 80))
        time.sleep(0.02)
    out.close()


class Kept:
    """A port that keeps what comes, and a clock that only waiting moves."""

    name = "kept"

    def __init__(self) -> None:
        self.came: list[tuple[float, str]] = []
        self.now = 100.0

    def monotonic(self) -> float:
        return self.now

    def open(self) -> None: ...

    def send(self, message: mido.Message) -> None:
        self.came.append((self.now, words(message)))

    def close(self) -> None: ...


def test_the_sender_keeps_its_own_clock(monkeypatch: pytest.MonkeyPatch) -> None:
    port = Kept()

    class Passing(threading.Event):
        def wait(self, timeout: float | None = None) -> bool:
            port.now += timeout or 0.0
            return super().is_set()

    monkeypatch.setattr(ports_out, "time", port)
    monkeypatch.setattr(ports_out, "threading", SimpleNamespace(Event=Passing, Thread=threading.Thread))
    row = [(0.0, note(0, 60, 80)), (0.1, note(0, 60, 0)), (0.1, note(0, 61, 80)), (5.0, note(0, 61, 0))]
    sender = Sender(port)
    sender.play(row, 0.05)
    assert sender._thread is not None
    sender._thread.join(5)
    assert [said for _, said in port.came] == ["on 1 60 80", "off 1 60 0", "on 1 61 80", "off 1 61 0"]
    assert [at for at, _ in port.came] == pytest.approx([100.05, 100.15, 100.15, 105.05])


def test_the_sender_ends_at_once() -> None:
    port = Kept()
    sender = Sender(port)
    sender.play([(0.0, note(0, 60, 80)), (60.0, note(0, 61, 80))])
    while not port.came:
        time.sleep(0.01)
    sender.stop()
    said = [line for _, line in port.came]
    assert said[0] == "on 1 60 80" and "on 1 61 80" not in said and said.count("control 3 123 0") == 1
    assert words(pedal(True)) == "control 1 64 127"


def test_clicks_are_on_every_count_of_every_meter() -> None:
    song = Song(parse_chart("meter: 3/4\n| C | G |\nmeter: 2/4\n| C |\n"))
    row = list(clicks(song))
    assert [event.start_quarters for event in row] == list(range(8))
    assert [event.key for event in row] == [76, 77, 77, 76, 77, 77, 76, 77]
    assert CHANNELS["click"] == 9 and {event.part for event in row} == {"click"}
    eighths = Song(parse_chart("meter: 6/8\n| C |\n"))
    assert [event.start_quarters for event in clicks(eighths)] == [Fraction(k, 2) for k in range(6)]


class FakeBackend:
    """What the MIDI library gives where the system has ports."""

    def __init__(self) -> None:
        self.opened: list[tuple[str, str, bool]] = []

    def get_input_names(self) -> list[str]:
        return ["Stage keys"]

    def get_output_names(self) -> list[str]:
        return ["Module"]

    def open_input(self, name: str, callback: object = None, virtual: bool = False) -> FakeBackend:
        self.opened.append(("in", name, virtual))
        return self

    def open_output(self, name: str, virtual: bool = False) -> FakeBackend:
        self.opened.append(("out", name, virtual))
        return self

    def close(self) -> None: ...


def test_where_the_system_has_ports_one_of_our_own_is_offered(monkeypatch: pytest.MonkeyPatch) -> None:
    backend = FakeBackend()
    monkeypatch.setattr(keyboards, "midi_backend", lambda: backend)
    monkeypatch.setattr(ports_out, "midi_backend", lambda: backend)
    ports = keyboards.system_ports()
    assert ports.inputs == (keyboards.VIRTUAL, "Stage keys") and ports.outputs == (
        keyboards.VIRTUAL,
        "Module",
    )
    for name in ports.inputs:
        keyboards.MidiKeyboard(name).start(lambda _: None)
    for name in ports.outputs:
        MidiOut(name).open()
    assert backend.opened == [
        ("in", "Yellow Hinge", True), ("in", "Stage keys", False),
        ("out", "Yellow Hinge", True), ("out", "Module", False),
    ]  # fmt: skip
