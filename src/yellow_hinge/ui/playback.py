"""Playing the song from the window: one player, made when first needed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from yellow_hinge.errors import FileTrouble, Problem
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.time import TempoMap
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import tempo_map, walk
from yellow_hinge.sound.loudness import START_VOLUME
from yellow_hinge.tasks.describe_song import Row

if TYPE_CHECKING:
    from yellow_hinge.sound.player import Player

_LOOK_MS = 30


class Playback(QObject):
    """``moved`` carries the slot that sounds (-1 when all is silent)."""

    moved = Signal(int)

    def __init__(self, make_player: Callable[[], Player], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._make_player = make_player
        self.with_melody = False
        self.volume = START_VOLUME
        self._player: Player | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self._look)

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    @property
    def description(self) -> str:
        """What makes the sound and where it goes."""
        if self._player is None:
            return ""
        return f"{self._player.instrument.name}, {self._player.output.name}"

    def play(
        self,
        song: Song,
        described: Row,
        first: int,
        last: int | None = None,
        back: bool = False,
        pace: float = 1.0,
    ) -> None:
        """Play from slot ``first``, to the end or through slot ``last``; ``back`` adds the first
        slot behind the end, for the way back of a loop. From the very beginning the pickup sounds.
        ``pace`` 2 is twice as fast as the chart says.

        Raises :class:`FileTrouble` when no sound output can be opened at all.
        """
        events = list(walk(song, described.bassist, self.with_melody))
        start = song.slots[first].start_quarters
        if first == 0 and last is None and events:
            start = min(start, events[0].start_quarters)
        if last is not None:
            end = song.slots[last].start_quarters + song.slots[last].quarters
            events = [event for event in events if event.start_quarters < end]
        if back:
            again = [event for event in walk(song, described.bassist) if event.slot == 0]
            end = song.chart.length_quarters
            events += [replace(event, start_quarters=event.start_quarters + end) for event in again]
        self._start(events, tempo_map(song), float(start), pace)

    def _start(self, events: list[NoteEvent], tempo: TempoMap, start: float, pace: float) -> None:
        self._ready().play(events, tempo, start, pace)
        self._timer.start()

    def touch(self, key: int, velocity: int) -> None:
        """A key that is struck by hand (``velocity`` 1..127) or let go (0). Raises as :meth:`play`."""
        if velocity or self._player is not None:
            self._ready().touch(key, velocity)

    def _ready(self) -> Player:
        if self._player is None:
            try:
                self._player = self._make_player()
            except (ImportError, OSError) as error:
                raise FileTrouble(
                    Problem("sound", str(error), "everything but playing still works")
                ) from None
        self._player.volume = self.volume
        return self._player

    def set_volume(self, volume: float) -> None:
        """Loudness 0..1, at once."""
        self.volume = volume
        if self._player is not None:
            self._player.volume = volume

    def stop(self) -> None:
        """Fall silent."""
        if self._player is not None:
            self._player.stop()
        if self._timer.isActive():
            self._timer.stop()
            self.moved.emit(-1)

    def _look(self) -> None:
        assert self._player is not None
        if self._player.playing:
            self.moved.emit(self._player.slot)
        else:
            self.stop()
