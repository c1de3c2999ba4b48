"""The one walk from a song to what sounds when. All times are in quarters from the first bar line."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction

from yellow_hinge.rhythm.events import Fill, NoteEvent, NoteOver, Part, block_stroke
from yellow_hinge.rhythm.time import TempoMap
from yellow_hinge.song.model import Slot, Song

#: How hard each part is struck, 1..127: moderate, the tune a little above the hands.
_VELOCITY = {"left": 64, "right": 68, "bass": 66, "melody": 84, "click": 90}
#: High and low wood block (General MIDI percussion).
_CLICKS = (76, 77)


def tempo_map(song: Song) -> TempoMap:
    """How quarters pass in seconds."""
    return TempoMap(song.chart.tempos)


def walk(song: Song, bass_keys: tuple[int | None, ...] = (), melody: bool = False) -> tuple[NoteEvent, ...]:
    """All notes of the song in time order: block strokes of both hands, the bassist's notes
    (one key per slot or None) and, if wanted, the melody."""
    events: list[NoteEvent] = []
    for slot in song.slots:
        if slot.chord is not None:
            events += _strokes(song, slot)
        bass = bass_keys[slot.index] if slot.index < len(bass_keys) else None
        if bass is not None:
            events += block_stroke(
                (bass,), slot.start_quarters, slot.quarters, "bass", slot.index, _VELOCITY["bass"]
            )
    if melody:
        events += melody_events(song)
    return tuple(sorted(events))


def clicks(song: Song) -> Iterator[NoteEvent]:
    """A click on every count, the first of each bar higher."""
    for played in song.chart.played:
        meter = played.bar.meter
        for beat in range(-(-played.bar.quarters // meter.quarters_per_beat)):
            at = played.start_quarters + beat * meter.quarters_per_beat
            key = _CLICKS[bool(beat)]
            yield NoteEvent(at, key, meter.quarters_per_beat / 4, _VELOCITY["click"], "click")


def count_in_before(song: Song, quarters: Fraction) -> tuple[Fraction, tuple[NoteEvent, ...]]:
    """When a bar of clicks begins that leads to a place, and its clicks, in the meter that holds there."""
    playing = [one.bar for one in song.chart.played if one.start_quarters <= quarters]
    meter = playing[-1].meter if playing else song.chart.meter
    start = quarters - meter.quarters
    row = tuple(
        NoteEvent(start + beat * meter.quarters_per_beat, _CLICKS[bool(beat)], meter.quarters_per_beat / 4,
                  _VELOCITY["click"], "click")
        for beat in range(meter.beats)
    )  # fmt: skip
    return start, row


def _strokes(song: Song, slot: Slot) -> Iterator[NoteEvent]:
    """The chord's notes, each up to the small note that takes it on, and the small notes."""
    voicing = song.voicing(slot.index)
    if voicing is None:
        return
    unit = slot.meter.quarters_per_beat
    fills = fills_sounding(song, slot.index)
    hands: tuple[tuple[Part, tuple[int, ...]], ...] = (
        ("left", voicing.left.keys),
        ("right", voicing.right.keys),
    )
    for part, keys in hands:
        for key in keys:
            ends = [f.offset_beats * unit for f in fills if (f.hand, f.start_key) == (part, key)]
            length = min([slot.quarters, *ends])
            yield NoteEvent(slot.start_quarters, key, length, _VELOCITY[part], part, slot.index)
        for fill in fills:
            if fill.hand == part:
                start = slot.start_quarters + fill.offset_beats * unit
                yield NoteEvent(start, fill.key, fill.beats * unit, _VELOCITY[part], part, slot.index)


def fills_sounding(song: Song, index: int) -> tuple[Fill, ...]:
    """The small notes of a slot whose voice still goes where it went when they were taken."""
    fills = song.ask(index).fills
    if not fills:
        return ()
    following = (index + 1) % len(song.slots)
    here, there = song.voicing(index), song.voicing(following)
    if here is None or there is None or (following == 0 and not song.arrangement.loop):
        return ()
    return tuple(
        fill
        for fill in fills
        if fill.start_key in here.hand(fill.hand).keys
        and fill.end_key in there.hand(fill.hand).keys
        and fill.offset_beats + fill.beats <= song.slots[index].beats
    )


def melody_keys(song: Song) -> tuple[int | None, ...]:
    """For each slot the melody key at its stroke: the note that sounds there, or else the first
    one that begins while the chord lasts."""
    return tuple(over[0].key if over else None for over in melody_over(song))


def melody_over(song: Song) -> tuple[tuple[NoteOver, ...], ...]:
    """For each slot the melody notes that sound while it lasts."""
    return melody_within(song, [(slot.start_quarters, slot.quarters) for slot in song.slots])


def strong_places(song: Song) -> frozenset[Fraction]:
    """Where the first beat of a bar falls, and its middle one where the bar has an even number."""
    found = set()
    for played in song.chart.played:
        found.add(played.start_quarters)
        if played.bar.meter.beats % 2 == 0:
            found.add(played.start_quarters + played.bar.quarters / 2)
    return frozenset(found)


def melody_within(song: Song, spans: Iterable[tuple[Fraction, Fraction]]) -> tuple[tuple[NoteOver, ...], ...]:
    """For each stretch (start, length, in quarters; in time order) the melody notes that sound in
    it."""
    tune = song.tune
    if not tune:
        return tuple(() for _ in spans)
    strong_at = strong_places(song)
    found = []
    first = 0  # notes before it have ended before any of the stretches to come
    for start, length in spans:
        end = start + length
        over = []
        while first < len(tune) and tune[first][0] + tune[first][1] <= start:
            first += 1
        for place in range(first, len(tune)):
            onset, lasts, pitch = tune[place]
            if onset >= end:
                break
            begins, stops = max(onset, start), min(onset + lasts, end)
            around = (tune[i][2].key for i in (place - 1, place + 1) if 0 <= i < len(tune))
            stepwise = any(1 <= abs(pitch.key - other) <= 2 for other in around)
            strong = begins in strong_at or begins == start
            over.append(NoteOver(pitch.key, pitch, begins, stops - begins, strong, stepwise))
        found.append(tuple(over))
    return tuple(found)


def melody_events(song: Song) -> list[NoteEvent]:
    """The tune, repeats written out, the pickup before 0."""
    return [
        NoteEvent(start, pitch.key, length, _VELOCITY["melody"], "melody")
        for start, length, pitch in song.tune
    ]
