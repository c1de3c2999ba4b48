"""MIDI files out: each hand on a track of its own with touch and pedal, chord names as text, sections as
markers."""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator
from fractions import Fraction
from typing import TYPE_CHECKING

from yellow_hinge.rhythm.events import NoteEvent, PedalEvent
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import perform, tempo_changes
from yellow_hinge.theory.chord_symbol import symbol_text
from yellow_hinge.theory.keys import Key

if TYPE_CHECKING:
    import mido

TICKS_PER_QUARTER = 480
_TRACKS = (("left", "Left hand", 0), ("right", "Right hand", 1), ("riff", "Riff", 4), ("bass", "Bassist", 2),
           ("melody", "Melody", 3), ("drums", "Drums", 9))  # fmt: skip
#: What the pedal is for, and MIDI's number of it.
_PEDALLED, _SUSTAIN = ("left", "right", "riff"), 64
_ACOUSTIC_PIANO, _ACOUSTIC_BASS = 0, 32


def write(song: Song, bass_keys: tuple[int | None, ...] = ()) -> bytes:
    """A format 1 file: tempo, meter and chord names, then a track for each part that plays."""
    import mido  # noqa: PLC0415 - heavy, and the command line starts without it

    file = mido.MidiFile(type=1, ticks_per_beat=TICKS_PER_QUARTER, charset="utf-8")
    file.tracks.append(_conductor(song))
    heard = perform(song, bass_keys, melody=True)
    events = heard.notes
    for part, name, channel in _TRACKS:
        note_events = [event for event in events if event.part == part]
        if note_events or part in ("left", "right"):
            pedal = heard.pedal if part in _PEDALLED else ()
            file.tracks.append(_part(song, name, channel, part == "bass", note_events, pedal=pedal))
    buffer = io.BytesIO()
    file.save(file=buffer)
    return buffer.getvalue()


def _ticks(song: Song, quarters: Fraction) -> int:
    """A place in the file, which begins with the pickup."""
    return round((quarters + song.chart.pickup_quarters) * TICKS_PER_QUARTER)


def _conductor(song: Song) -> mido.MidiTrack:
    import mido  # noqa: PLC0415

    timed = [(0, mido.MetaMessage("track_name", name=song.title))]
    timed += [
        (_ticks(song, start), mido.MetaMessage("set_tempo", tempo=round(60_000_000 / float(rate))))
        for start, rate in tempo_changes(song)
    ]
    timed += [
        (
            at,
            mido.MetaMessage(
                "time_signature", numerator=beats, denominator=unit, clocks_per_click=_clocks(beats, unit)
            ),
        )
        for at, beats, unit in _meters(song)
    ]
    timed += [(at, mido.MetaMessage("key_signature", key=str(key))) for at, key in _keys(song)]
    timed += [
        (_ticks(song, slot.start_quarters), mido.MetaMessage("text", text=symbol_text(slot.chord)))
        for slot in song.slots
    ]
    timed += [
        (_ticks(song, song.slots[index].start_quarters), mido.MetaMessage("marker", text=name))
        for index, name in song.section_starts.items()
        if name
    ]
    return _track(sorted(timed, key=lambda item: item[0]))


def _clocks(beats: int, unit: int) -> int:
    """MIDI clocks (24 a quarter) from click to click: a beat, or three in compound meters."""
    clocks = 96 // unit
    return clocks * 3 if unit >= 8 and beats % 3 == 0 and beats > 3 else clocks


def _meters(song: Song) -> Iterator[tuple[int, int, int]]:
    """(tick, beats, unit) wherever the meter changes. A pickup has a bar of its own length, so that
    all others begin where they do."""
    before: Meter | None = None
    whole = song.chart.pickup_quarters / 4
    if whole and whole.denominator in (1, 2, 4, 8, 16, 32):
        unit = max(whole.denominator, song.meter.unit)
        yield 0, int(whole * unit), unit
    for played in song.chart.played:
        if played.bar.meter != before:
            before = played.bar.meter
            yield _ticks(song, played.start_quarters), before.beats, before.unit


def _keys(song: Song) -> Iterator[tuple[int, Key]]:
    """(tick, key) wherever the key changes; the first one from the pickup on."""
    before: Key | None = None
    for played in song.chart.played:
        key = song.key_of(played)
        if key != before:
            at = 0 if before is None else _ticks(song, played.start_quarters)
            before = key
            yield at, key


def _part(
    song: Song,
    name: str,
    channel: int,
    is_bass: bool,
    events: Iterable[NoteEvent],
    *,
    pedal: Iterable[PedalEvent],
) -> mido.MidiTrack:
    import mido  # noqa: PLC0415

    program = _ACOUSTIC_BASS if is_bass else _ACOUSTIC_PIANO
    head = [
        (0, mido.MetaMessage("track_name", name=name)),
        (0, mido.Message("program_change", program=program, channel=channel)),
    ]
    timed = []
    for event in events:
        end = event.start_quarters + event.quarters
        for order, kind, at, velocity in (
            (1, "note_on", event.start_quarters, event.velocity),
            (0, "note_off", end, 0),
        ):
            message = mido.Message(kind, note=event.key, velocity=velocity, channel=channel)
            timed.append((_ticks(song, at), order, message))
    for pedal_event in pedal:
        message = mido.Message(
            "control_change", channel=channel, control=_SUSTAIN, value=127 if pedal_event.down else 0
        )
        timed.append((_ticks(song, pedal_event.start_quarters), 2 if pedal_event.down else 0, message))
    timed.sort(key=lambda item: item[:2])  # at one tick, keys come up before they go down
    return _track(head + [(tick, message) for tick, _, message in timed])


def _track(timed: Iterable[tuple[int, mido.Message | mido.MetaMessage]]) -> mido.MidiTrack:
    """Absolute ticks to a track."""
    import mido  # noqa: PLC0415

    track, now = mido.MidiTrack(), 0
    for tick, message in timed:
        track.append(message.copy(time=tick - now))
        now = tick
    return track
