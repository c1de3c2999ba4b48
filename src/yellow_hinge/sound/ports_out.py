"""Where notes go as MIDI: ports of the system, and a simulated one that another process listens on.

Notes keep their own clock here, beside the sound of this program; stopping lets all of them go.
"""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Sequence
from contextlib import suppress
from typing import Any, Protocol

import mido

from yellow_hinge.sound.keyboards import LOCAL_HOST, midi_backend, opened_as, quietly

#: Where the simulated listener waits (``python -m yellow_hinge.sound.simulated_listener``).
LISTENER_PORT = 9827
_SUSTAIN, _ALL_SOUND_OFF, _ALL_NOTES_OFF = 64, 120, 123
_CHANNELS = range(16)
_PATIENCE_S = 0.3


class PortOut(Protocol):
    """A port that takes MIDI messages. ``name`` is what a player chooses by."""

    name: str

    def open(self) -> None:
        """Ready from now. Raises ``OSError`` where that cannot be."""

    def send(self, message: Any) -> None:
        """Send a ``mido.Message``; one that cannot be sent any more is dropped."""

    def close(self) -> None:
        """Let it go."""


class MidiOut:
    """A MIDI output of the system."""

    def __init__(self, name: str) -> None:
        self.name = name
        self._port: Any = None

    def open(self) -> None:
        with quietly():
            try:
                name, more = opened_as(self.name)
                self._port = midi_backend().open_output(name, **more)
            except Exception as error:  # the driver raises errors of its own
                raise OSError(f"{self.name} cannot be opened: {error}") from None

    def send(self, message: Any) -> None:
        if self._port is not None:
            with suppress(Exception):  # a port that was pulled out
                self._port.send(message)

    def close(self) -> None:
        if self._port is not None:
            with suppress(Exception):
                self._port.close()
            self._port = None


class SimulatedOut:
    """A stand-in that ships with the application: bytes to a listener on this machine."""

    name = "Simulated port"

    def __init__(self, port: int = LISTENER_PORT) -> None:
        self.port = port
        self._socket: socket.socket | None = None

    def open(self) -> None:
        try:
            self._socket = socket.create_connection((LOCAL_HOST, self.port), timeout=1)
        except OSError:
            raise OSError(
                f"nobody listens on port {self.port}: start python -m yellow_hinge.sound.simulated_listener"
            ) from None

    def send(self, message: Any) -> None:
        if self._socket is not None:
            with suppress(OSError):  # a listener that went away does no harm
                self._socket.sendall(bytes(message.bytes()))

    def close(self) -> None:
        if self._socket is not None:
            self._socket.close()
            self._socket = None


def let_all_go(port: PortOut) -> None:
    """The pedal up, and every note off, on every channel."""
    for channel in _CHANNELS:
        for control in (_SUSTAIN, _ALL_NOTES_OFF, _ALL_SOUND_OFF):
            port.send(mido.Message("control_change", channel=channel, control=control, value=0))


def note(channel: int, key: int, velocity: int) -> Any:
    """A ``mido.Message``: a key struck (``velocity`` 1..127) or let go (0)."""
    kind = "note_on" if velocity else "note_off"
    return mido.Message(kind, channel=channel, note=key, velocity=velocity)


def pedal(down: bool, channel: int = 0) -> Any:
    """The sustain pedal as a ``mido.Message``."""
    return mido.Message("control_change", channel=channel, control=_SUSTAIN, value=127 if down else 0)


class Sender:
    """Sends what is due, by the system's clock, on a thread of its own."""

    def __init__(self, port: PortOut) -> None:
        self.port = port
        self._over = threading.Event()
        self._thread: threading.Thread | None = None

    def play(self, row: Sequence[tuple[float, Any]], delay_s: float = 0.0) -> None:
        """Send messages at their seconds from now, ``delay_s`` later; what was being sent ends."""
        self.stop()
        self._over = over = threading.Event()
        begin = time.monotonic() + delay_s
        self._thread = threading.Thread(target=self._run, args=(list(row), begin, over), daemon=True)
        self._thread.start()

    def _run(self, row: list[tuple[float, Any]], begin: float, over: threading.Event) -> None:
        for at, message in row:
            wait = begin + at - time.monotonic()
            if over.wait(max(0.0, wait)):
                return
            self.port.send(message)

    def stop(self) -> None:
        """Nothing more is sent, and everything is let go."""
        self._over.set()
        if self._thread is not None:
            self._thread.join(_PATIENCE_S)
            self._thread = None
            let_all_go(self.port)
