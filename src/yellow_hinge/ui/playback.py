"""Playing the song from the window: one player, made when first needed."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from fractions import Fraction
from functools import cached_property, partial
from typing import TYPE_CHECKING, Literal

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from yellow_hinge.errors import FileTrouble, Problem, YellowHingeError
from yellow_hinge.rhythm.events import NoteEvent, PedalEvent
from yellow_hinge.rhythm.time import TempoMap
from yellow_hinge.song.walk import clicks, count_in_before, perform
from yellow_hinge.sound.loudness import START_VOLUME
from yellow_hinge.tasks.song.describe_song import bassist_keys
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.worker import Worker
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.sound.player import Player
    from yellow_hinge.sound.ports_out import SimulatedOut
    from yellow_hinge.ui.page import Backing, Sounding

_LOOK_MS = 30
#: A chord that one comes to is struck moderately, and rings so long.
_STRUCK, _RINGS_MS = 64, 1400


class Heard(Struct, frozen=True):
    """What sounds, by the places in the song, and from where, in quarters; ``until``: from there it begins
    again."""

    events: list[NoteEvent]
    pedals: list[PedalEvent]
    tempo: TempoMap
    start: float
    until: float | None = None


def heard(sounding: Sounding, library: Library, melody: bool, click: bool, band: bool) -> Heard:
    """A stretch of a song as it is performed."""
    song, first, last = sounding.song, sounding.first, sounding.last
    performance = perform(song, bassist_keys(song, library), melody, band)
    events, pedals = list(performance.notes), list(performance.pedal)
    counted_in = sounding.count_in or (song.arrangement.groove.count_in and first == 0 and last is None)
    if click or counted_in:
        events = sorted([*events, *clicks(song)])
    start = song.slots[first].start_quarters
    if first == 0 and last is None and events:
        start = min(start, events[0].start_quarters)
    if last is not None:
        end = song.slots[last].start_quarters + song.slots[last].quarters
        events = [event for event in events if event.start_quarters < end]
        pedals = [pedal for pedal in pedals if pedal.start_quarters <= end]
    if sounding.back:
        again = [event for event in performance.notes if event.slot == 0]
        end = song.chart.length_quarters
        events += [replace(event, start_quarters=event.start_quarters + end) for event in again]
    if counted_in:
        start, before = count_in_before(song, start)
        events = sorted([*before, *events])
    at = float(start) if sounding.at is None else sounding.at
    behind = song.slots[-1 if last is None else last]
    until = behind.start_quarters + behind.quarters + (song.slots[0].quarters if sounding.back else 0)
    return Heard(events, pedals, performance.tempo, at, float(until) if sounding.loops else None)


class Playback(QObject):
    """``moved`` carries the slot that sounds (-1 when all is silent), ``placed`` the place, in quarters.
    ``began``: something sounds from now; ``switched``: something else sounds besides the hands; ``failed``
    carries the problems that keep it from sounding."""

    moved = Signal(int)
    placed = Signal(float)
    began = Signal()
    switched = Signal()
    failed = Signal(tuple)

    def __init__(
        self, document: Document, make_player: Callable[[], Player], parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._document, self._make_player = document, make_player
        self.heard: Sounding | None = None  #: what was asked for last
        self._worker = Worker(self, "performance")
        self._worker.done.connect(self._start)
        self._worker.failed.connect(lambda error: self.failed.emit(error.problems))
        self.with_melody = False
        self.with_click = False
        self.with_band = True
        self.goes_to = ""  #: the port that notes go to besides here
        self._here = False
        self._mute = False  #: no sound output could be opened for a chord that one came to
        self.volume = START_VOLUME
        self._player: Player | None = None
        self._making = threading.Lock()
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self._look)
        self._ringing: tuple[int, ...] = ()
        self._rings = QTimer(self)
        self._rings.setSingleShot(True)
        self._rings.setInterval(_RINGS_MS)
        self._rings.timeout.connect(self._let_go)

    def commands(self) -> Sequence[Command]:
        """What sounds besides the hands, each a switch."""
        return [
            Command("with-melody", "With melody", partial(self._switch, "with_melody"), menu="Play",
                    tip="The tune too, where the chart has melody: lines (Song page)",
                    enabled=lambda: bool(self._document.song.tune), checked=lambda: self.with_melody),
            Command("with-click", "Click", partial(self._switch, "with_click"), menu="Play",
                    tip="A click on every count, the first of the bar higher",
                    checked=lambda: self.with_click),
            Command("with-band", "Band", partial(self._switch, "with_band"), menu="Play",
                    tip="Drums and the bassist's line, as the Rhythm page has them",
                    checked=lambda: self.with_band),
        ]  # fmt: skip

    def _switch(self, part: Literal["with_melody", "with_click", "with_band"]) -> None:
        setattr(self, part, not getattr(self, part))
        self.switched.emit()

    @property
    def playing(self) -> bool:
        """Whether anything sounds, or is about to."""
        return self._timer.isActive() or self._worker.running

    @property
    def quarters(self) -> float | None:
        """The place of the song that sounds now; None when all is silent."""
        return self._player.quarters if self._player is not None and self.playing else None

    @property
    def looping(self) -> bool:
        """Whether something plays over and over."""
        return self.playing and self.heard is not None and self.heard.loops

    @property
    def description(self) -> str:
        """What makes the sound and where it goes."""
        if self._player is None:
            return ""
        return f"{self._player.instrument.name}, {self._player.output.name}"

    def play(self, sounding: Sounding, pace: float = 1.0) -> None:
        """Play a stretch, as soon as it is known how it sounds; ``pace`` 2 is twice as fast as the chart
        says. :attr:`failed` says when no sound output can be opened at all."""
        self.heard = sounding
        parts = self.with_melody, self.with_click, self.with_band
        library = self._document.library
        self._worker.start(lambda *_: (heard(sounding, library, *parts), pace))

    def play_notes(self, backing: Backing) -> None:
        """Play notes that belong to no song, or fall silent; as :meth:`play`."""
        if not backing.events:
            self.stop()
            return
        self._worker.cancel()
        self.heard = None
        tempo = TempoMap(((Fraction(0), backing.quarters_per_minute),))
        self._start((Heard(list(backing.events), [], tempo, 0.0), 1.0))

    def _start(self, result: tuple[Heard, float]) -> None:
        heard, pace = result
        try:
            self._ready().play(
                heard.events, heard.tempo, heard.start, pace, pedals=heard.pedals, until=heard.until
            )
        except YellowHingeError as error:
            self.failed.emit(error.problems)
            return
        self._timer.start()
        self.began.emit()

    def prepare(self) -> None:
        """Have everything there before the first key is struck. Raises
        :class:`FileTrouble` when no sound output can be opened at all."""
        self._ready()

    def load_ahead(self) -> None:
        """The same in any thread, so that the first chord does not wait; what is wrong is said when it
        sounds."""
        with suppress(YellowHingeError):
            self._made()

    def touch(self, key: int, velocity: int) -> None:
        """A key that is struck by hand (``velocity`` 1..127) or let go (0). Raises as :meth:`play`."""
        if velocity or self._player is not None:
            self._ready().touch(key, velocity)

    def strike(self, keys: Iterable[int]) -> None:
        """Strike keys at once; they are let go after a while, or when others are struck. Not while something
        plays. :attr:`failed` says, once, when no sound output can be opened."""
        self._let_go()
        if self.playing or self._mute:
            return
        try:
            player = self._ready()
        except YellowHingeError as error:
            self._mute = True
            self.failed.emit(error.problems)
            return
        self._ringing = tuple(keys)
        for key in self._ringing:
            player.touch(key, _STRUCK)
        self._rings.start()

    def _let_go(self) -> None:
        self._rings.stop()
        for key in self._ringing:
            self.touch(key, 0)
        self._ringing = ()

    def pedal(self, down: bool) -> None:
        """The sustain pedal, for whoever hears through a port."""
        if self._player is not None:
            self._player.pedal(down)

    # --- ports -----------------------------------------------------------------------------

    def ports(self) -> tuple[str, ...]:
        """Where notes can go besides here: the stand-in, and what the system has now."""
        from yellow_hinge.sound.keyboards import system_ports  # noqa: PLC0415 - brings the MIDI library

        return (self._stand_in.name, *system_ports().outputs)

    def send_to(self, name: str) -> None:
        """Notes go to a port from now, here too if wanted; any other name: to none. Raises ``OSError``
        where it cannot be opened, and as :meth:`play`."""
        from yellow_hinge.sound.ports_out import MidiOut, PortOut  # noqa: PLC0415

        port: PortOut | None = None
        if name in self.ports():
            port = self._stand_in if name == self._stand_in.name else MidiOut(name)
        player = self._ready()
        self.stop()
        player.send_to(port)
        self.goes_to = "" if port is None else name

    def sound_here(self, on: bool) -> None:
        """Whether this program sounds too while notes go to a port."""
        self._here = on
        if self._player is not None:
            self._player.here = on

    @cached_property
    def _stand_in(self) -> SimulatedOut:
        from yellow_hinge.sound.ports_out import SimulatedOut  # noqa: PLC0415

        return SimulatedOut()

    def _ready(self) -> Player:
        player = self._made()
        player.volume = self.volume
        player.here = self._here
        return player

    def _made(self) -> Player:
        with self._making:
            if self._player is None:
                try:
                    self._player = self._make_player()
                except (ImportError, OSError) as error:
                    raise FileTrouble(
                        Problem("sound", str(error), "everything but playing still works")
                    ) from None
            return self._player

    def set_volume(self, volume: float) -> None:
        """Loudness 0..1, at once."""
        self.volume = volume
        if self._player is not None:
            self._player.volume = volume

    def stop(self) -> None:
        """Fall silent."""
        sounded = self.playing
        self._let_go()
        self._worker.cancel()
        self._timer.stop()
        if self._player is not None:
            self._player.stop()
        if sounded:
            self.moved.emit(-1)

    def close(self) -> None:
        """Fall silent for good; a port is let go."""
        self.stop()
        self._worker.close()
        if self._player is not None and self.goes_to:
            self._player.send_to(None)

    def _look(self) -> None:
        assert self._player is not None
        if self._player.playing:
            if self._player.slot >= 0:  # while it counts in, no chord sounds yet, and it is not silent
                self.moved.emit(self._player.slot)
            self.placed.emit(self._player.quarters)
        elif self._worker.running:  # the next is on its way
            self._timer.stop()
        else:
            self.stop()
