"""Keyboards that are played: MIDI ports where the system has them, and a simulated keyboard that
another process plays over a local socket.

What comes in is heard on a thread of its own and handed on at once; whoever takes it must be quick.
"""

from __future__ import annotations

import os
import selectors
import socket
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from functools import partial
from typing import Any, Protocol

import mido
from msgspec import Struct

from yellow_hinge.sound import clock

#: Only programs on this machine can play the simulated keyboard.
LOCAL_HOST, FIRST_PORT, PORTS_TRIED = "127.0.0.1", 9787, 20
#: Players at once, messages of one in a second (a cable carries half of it), and bytes that are no message.
MOST_PLAYERS, MOST_A_SECOND, MOST_UNREAD = 4, 2_000, 65_536
#: A port of our own, to which other programs connect, where the system has them.
VIRTUAL, _OWN_PORT = "A port of our own, for other programs", "Yellow Hinge"
_SUSTAIN_CONTROL, _PEDAL_DOWN_FROM = 64, 64
#: How long stopping the simulated keyboard may take, seconds; what is played comes at once.
POLL_S = 0.05
_PATIENCE_S = 0.5


@dataclass(frozen=True, slots=True)
class Struck:
    """A key that goes down (``velocity`` 1..127) or up (0); ``at`` is when it was heard, in seconds of
    ``clock.now``."""

    key: int
    velocity: int
    at: float = field(default_factory=lambda: clock.now(), compare=False)  # noqa: PLW0108 - looked up when struck


class Pedal(Struct, frozen=True):
    """The sustain pedal goes down or up."""

    down: bool


KeyEvent = Struck | Pedal
Hear = Callable[[KeyEvent], object]


def event_of(message: Any) -> KeyEvent | None:
    """A MIDI message (``mido.Message``) as what a player did; None for what is not played."""
    if message.type == "note_on":
        return Struck(message.note, message.velocity)
    if message.type == "note_off":
        return Struck(message.note, 0)
    if message.type == "control_change" and message.control == _SUSTAIN_CONTROL:
        return Pedal(message.value >= _PEDAL_DOWN_FROM)
    return None


class HeldKeys(Struct):
    """Which keys are down, and which sound on because of the pedal."""

    down: set[int] = set()
    kept: set[int] = set()
    pedal: bool = False

    def feed(self, event: KeyEvent) -> None:
        if isinstance(event, Pedal):
            self.pedal = event.down
            if not event.down:
                self.kept.clear()
        elif event.velocity:
            self.down.add(event.key)
            self.kept.discard(event.key)
        elif event.key in self.down:
            self.down.discard(event.key)
            if self.pedal:
                self.kept.add(event.key)

    @property
    def sounding(self) -> tuple[int, ...]:
        """All keys that are to be heard, low to high."""
        return tuple(sorted(self.down | self.kept))


class Keyboard(Protocol):
    """Something that is played. ``name`` is what a player chooses by."""

    name: str

    def start(self, hear: Hear) -> None:
        """Hand on what is played from now. Raises ``OSError`` where that cannot be."""

    def stop(self) -> None:
        """Hear nothing any more."""


class SimulatedKeyboard:
    """A keyboard that ships with the application: any program on this machine plays it by sending MIDI
    to its port, as ``python -m yellow_hinge.sound.simulated`` does."""

    name = "Simulated keyboard"

    def __init__(self) -> None:
        self.port = 0  #: where it listens, once it does
        self._over = threading.Event()
        self._thread: threading.Thread | None = None

    def start(self, hear: Hear) -> None:
        server = _server()
        self.port = server.getsockname()[1]
        server.setblocking(False)
        self._over.clear()
        self._thread = threading.Thread(target=self._listen, args=(server, hear), daemon=True)
        self._thread.start()

    def _listen(self, server: socket.socket, hear: Hear) -> None:
        """Hear everybody who plays until it is over. The MIDI library's own socket ports lose what a
        player sent just before leaving."""
        with selectors.DefaultSelector() as waiting:
            waiting.register(server, selectors.EVENT_READ)
            while not self._over.is_set():
                for ready, _ in waiting.select(POLL_S):
                    if ready.data is None:
                        self._let_in(server, waiting)
                    elif not ready.data.read(ready.fileobj, hear):
                        waiting.unregister(ready.fileobj)
                        ready.fileobj.close()  # type: ignore[union-attr] # it is a socket
            for open_one in list(waiting.get_map().values()):
                open_one.fileobj.close()  # type: ignore[union-attr]

    def _let_in(self, server: socket.socket, waiting: selectors.BaseSelector) -> None:
        connection, _ = server.accept()
        if len(waiting.get_map()) > MOST_PLAYERS:  # the server is one of them
            connection.close()
        else:
            waiting.register(connection, selectors.EVENT_READ, _Player())

    def stop(self) -> None:
        self._over.set()
        if self._thread is not None:
            self._thread.join(_PATIENCE_S)
            self._thread = None


class _Player:
    """One who plays; one who sends more than any keyboard is sent away, and the keys are let go."""

    def __init__(self) -> None:
        self._parser = mido.Parser()
        self._since, self._count, self._unread = clock.now(), 0, 0
        self._down: set[int] = set()

    def read(self, connection: Any, hear: Hear) -> bool:
        """Hand on what was sent; whether more may come."""
        try:
            data = connection.recv(4096)
        except OSError:  # one that leaves without a word does no harm
            return False
        self._parser.feed(data)
        messages = list(self._parser)
        for message in messages:
            _hand_on(message, partial(self._heard, hear))
        self._unread = 0 if messages else self._unread + len(data)
        if self._is_flood(len(messages)):
            for key in self._down:
                hear(Struck(key, 0))
            return False
        return bool(data)

    def _heard(self, hear: Hear, event: KeyEvent) -> None:
        if isinstance(event, Struck):
            (self._down.add if event.velocity else self._down.discard)(event.key)
        hear(event)

    def _is_flood(self, count: int) -> bool:
        now = clock.now()
        if now - self._since >= 1:
            self._since, self._count = now, 0
        self._count += count
        return self._count > MOST_A_SECOND or self._unread > MOST_UNREAD


def _hand_on(message: Any, hear: Hear) -> None:
    event = event_of(message)
    if event is not None:
        hear(event)


def _server() -> socket.socket:
    """On the first port of ours that is free; another window may have the first one."""
    for port in range(FIRST_PORT, FIRST_PORT + PORTS_TRIED):
        try:
            return socket.create_server((LOCAL_HOST, port))
        except OSError as error:
            last = error
    raise OSError(f"no port from {FIRST_PORT} on is free ({last.strerror})")


class MidiKeyboard:
    """A MIDI input of the system."""

    def __init__(self, name: str) -> None:
        self.name = name
        self._port: Any = None

    def start(self, hear: Hear) -> None:
        with quietly():
            try:
                name, more = opened_as(self.name)
                self._port = midi_backend().open_input(name, callback=lambda one: _hand_on(one, hear), **more)
            except Exception as error:  # the driver raises errors of its own
                raise OSError(f"{self.name} cannot be opened: {error}") from None

    def stop(self) -> None:
        if self._port is not None:
            with suppress(Exception):  # a keyboard that was pulled out
                self._port.close()
            self._port = None


class Ports(Struct, frozen=True):
    """MIDI ports of the system by name; ``trouble`` says in words why there are none to be had."""

    inputs: tuple[str, ...] = ()
    outputs: tuple[str, ...] = ()
    trouble: str = ""


def system_ports() -> Ports:
    """What is there now; asked again it finds what was plugged in meanwhile."""
    with quietly():
        try:
            backend = midi_backend()
            inputs, outputs = backend.get_input_names(), backend.get_output_names()
            return Ports((VIRTUAL, *inputs), (VIRTUAL, *outputs))
        except ImportError:
            return Ports(trouble="MIDI ports need the package python-rtmidi; the others work without it.")
        except Exception:
            words = "This system has no MIDI ports (no ALSA sequencer). The simulated keyboard works without."
            return Ports(trouble=words)


def opened_as(name: str) -> tuple[str, dict[str, bool]]:
    """What a port that was chosen is called when it is opened, and how: one of our own is made for others
    to connect to."""
    return (_OWN_PORT, {"virtual": True}) if name == VIRTUAL else (name, {})


def midi_backend() -> Any:
    """What knows the MIDI ports of the system. Raises whatever its driver does where there are none."""
    return mido.Backend("mido.backends.rtmidi", load=True)


@contextmanager
def quietly() -> Iterator[None]:
    """The MIDI library writes its own troubles past Python on the terminal: they are said in words."""
    try:
        kept = os.dup(2)
    except OSError:  # there is no terminal to keep clean
        yield
        return
    try:
        sys.stderr.flush()
        with open(os.devnull, "wb") as nowhere:  # noqa: PTH123 - its number is wanted
            os.dup2(nowhere.fileno(), 2)
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
