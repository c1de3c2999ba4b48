"""Plays events through an instrument and an output, and knows where it is."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Sequence
from fractions import Fraction
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.rhythm.events import NoteEvent, PedalEvent
from yellow_hinge.rhythm.time import TempoMap
from yellow_hinge.sound.instrument import (
    BASS_CHANNEL,
    CLICK_CHANNEL,
    PEDALLED,
    SAMPLE_RATE,
    Frames,
    Instrument,
)
from yellow_hinge.sound.loudness import START_VOLUME
from yellow_hinge.sound.output import BufferOutput, Output
from yellow_hinge.sound.ports_out import PortOut, Sender, let_all_go, note, pedal

CHANNELS = {"left": 0, "right": 1, "bass": BASS_CHANNEL, "melody": 3, "riff": 4, "click": CLICK_CHANNEL,
            "drums": CLICK_CHANNEL}  # fmt: skip
#: What a player strikes by hand.
HAND_CHANNEL = CHANNELS["right"]
#: Notes end a little before the next stroke, so that repeated keys are heard anew.
_LIFT_S = 0.03
_TAIL_S = 1.0
#: A lap is played over and over for so long; then it is time for a break.
_LAPS_S = 900.0
#: So many frames at once where nobody waits for them.
_BLOCK = 4096


_PEDAL = -1


class _Stroke(Struct, frozen=True, order=True):
    """Something to do at a sample: ``down`` False comes first at the same moment. The key of the pedal is
    :data:`_PEDAL`."""

    at: int
    down: bool
    channel: int
    key: int
    velocity: int
    slot: int


class Player:
    """Owns the clock: everything happens at a sample number inside :meth:`fill`."""

    def __init__(self, instrument: Instrument, output: Output) -> None:
        self.instrument, self.output = instrument, output
        self.volume = START_VOLUME
        self._lock = threading.Lock()
        self._strokes: list[_Stroke] = []
        self._next = 0
        self._now = 0
        self._end = 0
        self._lap = 0  #: in samples, of what comes over and over; 0: once
        self._slot = -1
        self._running = False
        self._tempo, self._begin, self._pace = TempoMap(((Fraction(0), Fraction(120)),)), 0.0, 1.0
        self._open = False  # whether the output pulls
        self._touched: deque[tuple[int, int]] = deque()
        self.here = True  #: whether this program sounds as well where notes go to a port
        self._sender: Sender | None = None

    @property
    def playing(self) -> bool:
        """Whether anything is still to be heard."""
        return self._running and self._now < self._end

    @property
    def quarters(self) -> float:
        """The place that sounds now, in quarters from the first bar line."""
        now = self._now % self._lap if self._lap else self._now
        return self._tempo.quarters(self._begin + now / SAMPLE_RATE * self._pace)

    @property
    def slot(self) -> int:
        """The slot that sounds now, -1 before the first."""
        return self._slot

    def play(
        self,
        events: Sequence[NoteEvent],
        tempo: TempoMap,
        start_quarters: float = 0.0,
        pace: float = 1.0,
        pedals: Sequence[PedalEvent] = (),
        until: float | None = None,
    ) -> None:
        """Start at ``start_quarters``; whatever sounded before stops. ``pace`` 2 is twice as fast as
        the tempo says. ``until``: from this place, in quarters, it begins again, for a quarter of an hour."""
        self.stop()
        strokes = _strokes(events, pedals, tempo, start_quarters, pace)
        self._lap = 0
        if until is not None:
            length = (tempo.seconds(until) - tempo.seconds(start_quarters)) / pace
            self._lap = max(1, round(length * SAMPLE_RATE))
            strokes = _laps(strokes, self._lap)
        self._tempo, self._begin, self._pace = tempo, tempo.seconds(start_quarters), pace
        with self._lock:
            self._strokes, self._next, self._now, self._slot = strokes, 0, 0, -1
            last = strokes[-1].at if strokes else 0
            self._end = last + int(_TAIL_S * SAMPLE_RATE)
            self._running = self._open = True
        self.output.start(self.fill)
        if self._sender is not None:
            row = [(stroke.at / SAMPLE_RATE, message) for stroke in strokes for message in _messages(stroke)]
            self._sender.play(row, self.output.ahead_s)

    def send_to(self, port: PortOut | None) -> None:
        """Notes go to a port as well from now, or to none. Raises ``OSError`` where it cannot be opened; the
        one before stays then."""
        if port is not None:
            port.open()
        self.stop()
        if self._sender is not None:
            self._sender.stop()
            let_all_go(self._sender.port)
            self._sender.port.close()
        self._sender = None if port is None else Sender(port)

    def pedal(self, down: bool) -> None:
        """The pedal, for the port: here it is understood where keys are let go."""
        if self._sender is not None:
            self._sender.port.send(pedal(down, HAND_CHANNEL))

    def touch(self, key: int, velocity: int) -> None:
        """A key that a player strikes (``velocity`` 1..127) or lets go (0), beside whatever plays."""
        if self._sender is not None:
            self._sender.port.send(note(HAND_CHANNEL, key, velocity))
        self._touched.append((key, velocity))  # whoever strikes does not wait while sound is made
        if velocity and (not self._open or self.output.dry):
            self._open = True
            self.output.start(self.fill)

    def stop(self) -> None:
        """Fall silent at once."""
        if self._sender is not None:
            self._sender.stop()
        if not self._open:
            return
        self._running = self._open = False
        self.output.stop()
        with self._lock:
            self._touched.clear()
            self.instrument.silence()

    def fill(self, frames: int) -> Frames:
        """The next block of sound, (frames, 2); called by the output."""
        with self._lock:
            self._strike_touched()
            pieces: list[Frames] = []
            done = 0
            while done < frames:
                self._strike()
                until = self._strokes[self._next].at if self._next < len(self._strokes) else None
                length = frames - done
                if until is not None:
                    length = min(length, until - self._now)
                pieces.append(self.instrument.render(length))
                done += length
                self._now += length
            volume = self.volume if self.here or self._sender is None else 0.0
            return np.concatenate(pieces) * np.float32(volume)

    def _strike_touched(self) -> None:
        """What was struck by hand since the last block."""
        while self._touched:
            key, velocity = self._touched.popleft()
            if velocity:
                self.instrument.note_on(HAND_CHANNEL, key, velocity)
            else:
                self.instrument.note_off(HAND_CHANNEL, key)

    def _strike(self) -> None:
        """Do everything that is due."""
        while self._next < len(self._strokes) and self._strokes[self._next].at <= self._now:
            stroke = self._strokes[self._next]
            if stroke.key == _PEDAL:
                self.instrument.sustain(stroke.down)
            elif stroke.down:
                self.instrument.note_on(stroke.channel, stroke.key, stroke.velocity)
                self._slot = stroke.slot if stroke.slot >= 0 else self._slot
            else:
                self.instrument.note_off(stroke.channel, stroke.key)
            self._next += 1


def _laps(strokes: Sequence[_Stroke], lap: int) -> list[_Stroke]:
    """The strokes of a lap over and over; what would sound into the next one ends with it."""
    held = [
        replace(stroke, at=min(stroke.at, lap - 1))
        for stroke in strokes
        if stroke.at < lap or not stroke.down
    ]
    count = max(1, round(_LAPS_S * SAMPLE_RATE / lap))
    return [
        replace(stroke, at=stroke.at + number * lap) for number in range(count) for stroke in sorted(held)
    ]


def _messages(stroke: _Stroke) -> list[Any]:
    """A stroke for a port."""
    if stroke.key == _PEDAL:
        return [pedal(stroke.down, channel) for channel in PEDALLED]
    return [note(stroke.channel, stroke.key, stroke.velocity if stroke.down else 0)]


def _strokes(
    events: Sequence[NoteEvent],
    pedals: Sequence[PedalEvent],
    tempo: TempoMap,
    start_quarters: float,
    pace: float,
) -> list[_Stroke]:
    lift = int(_LIFT_S * SAMPLE_RATE)
    begin = tempo.seconds(start_quarters)

    def sample(quarters: float) -> int:
        return round((tempo.seconds(quarters) - begin) / pace * SAMPLE_RATE)

    strokes = []
    for event in events:
        start = float(event.start_quarters)
        if start < start_quarters - 1e-9:
            continue
        first = sample(start)
        last = max(first + 1, sample(start + float(event.quarters)) - lift)
        channel = CHANNELS[event.part]
        strokes.append(_Stroke(first, True, channel, event.key, event.velocity, slot=event.slot))
        strokes.append(_Stroke(last, False, channel, event.key, 0, slot=event.slot))
    for pedal_event in pedals:
        if pedal_event.start_quarters >= start_quarters:
            at = sample(float(pedal_event.start_quarters))
            strokes.append(_Stroke(at, pedal_event.down, CHANNELS["left"], _PEDAL, 0, slot=pedal_event.slot))
    return sorted(strokes)


def render(
    instrument: Instrument, events: Sequence[NoteEvent], tempo: TempoMap, pedals: Sequence[PedalEvent] = ()
) -> Frames:
    """All of it as sound, (frames, 2) float32 in -1..1 at :data:`SAMPLE_RATE`, faster than it lasts."""
    if not events:
        return np.zeros((0, 2), np.float32)
    start = min(event.start_quarters for event in events)
    end = max(event.end_quarters for event in events)
    seconds = tempo.seconds(float(end)) - tempo.seconds(float(start)) + _TAIL_S
    output = BufferOutput(seconds, _BLOCK)
    Player(instrument, output).play(events, tempo, float(start), 1.0, pedals)
    return output.sound
