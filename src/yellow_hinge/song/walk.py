"""The one walk from a song to what sounds when."""

from __future__ import annotations

from fractions import Fraction

from yellow_hinge.rhythm.events import NoteEvent, Part, block_stroke
from yellow_hinge.song.model import Song

#: How hard each part is struck, 1..127: moderate, the tune a little above the hands.
_VELOCITY = {"left": 64, "right": 68, "bass": 66, "melody": 84}


def walk(song: Song, bass_keys: tuple[int | None, ...] = (), melody: bool = False) -> tuple[NoteEvent, ...]:
    """All notes of the song in time order: block strokes of both hands, the bassist's notes
    (one key per slot or None) and, if wanted, the melody."""
    events: list[NoteEvent] = []
    for slot in song.slots:
        voicing = song.voicing(slot.index)
        if voicing is not None and slot.chord is not None:
            hands: tuple[tuple[Part, tuple[int, ...]], ...] = (
                ("left", voicing.left.keys),
                ("right", voicing.right.keys),
            )
            for part, keys in hands:
                events += block_stroke(keys, slot.start_beats, slot.beats, part, slot.index, _VELOCITY[part])
        bass = bass_keys[slot.index] if slot.index < len(bass_keys) else None
        if bass is not None:
            events += block_stroke(
                (bass,), slot.start_beats, slot.beats, "bass", slot.index, _VELOCITY["bass"]
            )
    if melody:
        events += melody_events(song)
    return tuple(sorted(events))


def melody_keys(song: Song) -> tuple[int | None, ...]:
    """For each slot the melody key at its stroke: the note that sounds there, or else the first
    one that begins while the chord lasts."""
    tune = melody_events(song)
    keys: list[int | None] = []
    for slot in song.slots:
        end = slot.start_beats + slot.beats
        sounding = [e for e in tune if e.start_beats <= slot.start_beats < e.start_beats + e.length_beats]
        later = [e for e in tune if slot.start_beats < e.start_beats < end]
        nearest = next(iter(sounding or later), None)
        keys.append(None if nearest is None else nearest.key)
    return tuple(keys)


def melody_events(song: Song) -> list[NoteEvent]:
    """The tune, repeats written out."""
    events = []
    for number, (_, _, bar) in enumerate(song.bars_in_order):
        start = Fraction(song.meter.beats) * number
        for note in bar.melody:
            if note.pitch is not None:
                events.append(NoteEvent(start, note.pitch.key, note.beats, _VELOCITY["melody"], "melody"))
            start += note.beats
    return events
