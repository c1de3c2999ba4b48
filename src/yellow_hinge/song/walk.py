"""The one walk from a song to what sounds when. All times are in quarters from the first bar line."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from fractions import Fraction

from msgspec import Struct

from yellow_hinge.rhythm.band import DrumBar, drums
from yellow_hinge.rhythm.events import NoteEvent, PedalEvent
from yellow_hinge.rhythm.patterns import HANDS, HELD
from yellow_hinge.rhythm.perform import BarAt, Feel, QuarterMs, pedalling, performed
from yellow_hinge.rhythm.realise import Form, Grip, Realised, joined, realise, untangled
from yellow_hinge.rhythm.time import TempoMap
from yellow_hinge.rhythm.touch import Edges, as_a_person, phrases_of, shaped
from yellow_hinge.song.chart import PlayedBar
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.playing import VELOCITY, Playing, fifth_of, known_patterns, stretch_of
from yellow_hinge.song.tune import melody_events

_CLICK_VELOCITY = 90
#: High and low wood block (General MIDI percussion).
_CLICKS = (76, 77)
#: The register of a bassist that is made up (E1 to D#2).
_BASS_LOWEST = 28
#: How much slower it is at the end of slowing down, and on a last chord that is held.
_SLOWEST, _HELD_RATE = Fraction(65, 100), Fraction(1, 2)


def tempo_changes(song: Song) -> tuple[tuple[Fraction, Fraction], ...]:
    """(start, quarters a minute) wherever the tempo changes, with the slowing at the end."""
    groove, slots = song.arrangement.groove, song.slots
    changes = list(song.chart.tempos)
    if not slots or not (groove.slowing or groove.ending):
        return tuple(changes)
    end = song.chart.length_quarters
    if groove.slowing:
        changes = _slowed(changes, slots[max(0, len(slots) - groove.slowing)].start_quarters, end)
    if groove.ending:
        last = slots[-1].start_quarters
        kept = [change for change in changes if change[0] < last]
        changes = [*kept, (last, (kept or changes)[-1][1] * _HELD_RATE)]
    return tuple(changes)


def _slowed(
    changes: list[tuple[Fraction, Fraction]], start: Fraction, end: Fraction
) -> list[tuple[Fraction, Fraction]]:
    """Slower with each quarter from a place to the end, evenly."""
    before = [change for change in changes if change[0] <= start]
    rate, steps = before[-1][1], max(1, int(end - start))
    row = [(start + step, rate * (1 - (1 - _SLOWEST) * (step + 1) / steps)) for step in range(steps)]
    return [one for one in before if one[0] < start] + row


def tempo_map(song: Song) -> TempoMap:
    """How quarters pass in seconds."""
    return TempoMap(tempo_changes(song))


def quarter_ms(song: Song) -> QuarterMs:
    """Milliseconds of a quarter at a place."""
    changes = tempo_changes(song)

    def found(at: Fraction) -> float:
        rate = next((rate for start, rate in reversed(changes) if start <= at), changes[0][1])
        return 60_000 / float(rate)

    return found


def bars_of(song: Song) -> tuple[BarAt, ...]:
    """Every bar as it is played."""
    return tuple(BarAt(bar.start_quarters, bar.bar.meter) for bar in song.chart.played)


# --- everything --------------------------------------------------------------------------


def walk(
    song: Song,
    bass_keys: tuple[int | None, ...] = (),
    melody: bool = False,
) -> tuple[NoteEvent, ...]:
    """All notes of the song as they are written, in time order: both hands in their patterns, riffs, the
    bassist's notes (one key per slot or None) and, if wanted, the melody."""
    playing = Playing(song)
    events = [*playing.written(), *_bass(playing, bass_keys)]
    if melody:
        events += melody_events(song)
    return tuple(sorted(events))


def _bass(playing: Playing, bass_keys: tuple[int | None, ...], own: bool = True) -> Iterator[NoteEvent]:
    """The bassist: the keys that are given, or, where the take wants a line of its own (``own``), the
    roots."""
    rows: list[Realised] = []
    slots = playing.song.slots
    keys = [_bass_key(playing.song, slot, bass_keys, own) for slot in slots]
    for slot, key in zip(slots, keys, strict=True):
        if key is None:
            rows.append(Realised(()))
            continue
        known = known_patterns(playing.song.decided(slot.index).groove)
        pattern = known.get(playing.song.decided(slot.index).groove.bass_line) or known[HELD]
        following = keys[slot.index + 1] if slot.index + 1 < len(keys) else None
        after = None if following is None else Grip((following,))
        grip = Grip((key,), fifth_of(slot.chord), _BASS_LOWEST, 60)
        form: Form = "ending" if playing.form(slot.index) == "ending" else ""
        rows.append(
            realise(pattern, grip, after, stretch_of(slot), "bass", velocity=VELOCITY["bass"], form=form)
        )
    yield from untangled(joined(rows))


def _bass_key(song: Song, slot: Slot, given: tuple[int | None, ...], own: bool) -> int | None:
    key = given[slot.index] if slot.index < len(given) else None
    if key is not None or slot.chord is None or not own or not song.decided(slot.index).groove.bass_line:
        return key
    return _BASS_LOWEST + (slot.chord.bass_name.pitch_class - _BASS_LOWEST) % 12


def drum_events(song: Song) -> list[NoteEvent]:
    """The drums of the take; none where it has none."""
    groove = song.arrangement.groove
    if not groove.drums:
        return []
    played = song.chart.played
    bars = []
    for number, bar in enumerate(played):
        before = played[number - 1] if number else None
        after = played[number + 1] if number + 1 < len(played) else None
        bars.append(
            DrumBar(bar.start_quarters, bar.bar.meter, before is None or _part(before) != _part(bar),
                    after is None or _part(after) != _part(bar))
        )  # fmt: skip
    return list(drums(bars, groove.drums, groove.swing > 0))


def _part(played: PlayedBar) -> tuple[str, int]:
    return played.section.name, played.round


class Performance(Struct, frozen=True):
    """What sounds: notes as they are played, the pedal, and how quarters pass."""

    notes: tuple[NoteEvent, ...]
    pedal: tuple[PedalEvent, ...]
    tempo: TempoMap


def perform(
    song: Song,
    bass_keys: tuple[int | None, ...] = (),
    melody: bool = False,
    band: bool = True,
) -> Performance:
    """The song as it is played: with swing, rolls and slowing; without ``band`` nobody plays
    but the hands and a bassist whom the take has."""
    playing = Playing(song)
    groove = song.arrangement.groove
    passing = quarter_ms(song)
    feel = Feel(groove.swing, groove.swing_by_tempo, groove.roll_ms)
    slots = song.slots

    def begins(note: NoteEvent) -> Fraction:
        return slots[note.slot].start_quarters if 0 <= note.slot < len(slots) else note.start_quarters

    events = [*playing.written(), *_bass(playing, bass_keys, band)]
    events += _left_to_others(song) if melody else []
    bars = bars_of(song)
    events = shaped(events, bars, _phrases(song, bars), _edges(playing, bass_keys))
    events += drum_events(song) if band else []
    notes = as_a_person(performed(events, bars, feel, passing, begins), groove.person, passing)
    return Performance(tuple(notes), tuple(pedalling(playing.pedalled(), passing)), tempo_map(song))


def _phrases(song: Song, bars: Sequence[BarAt]) -> list[tuple[Fraction, Fraction]]:
    played = song.chart.played
    firsts = [
        number for number, bar in enumerate(played) if not number or _part(played[number - 1]) != _part(bar)
    ]
    return phrases_of(bars, firsts, song.chart.length_quarters)


def _edges(playing: Playing, bass_keys: tuple[int | None, ...]) -> dict[int, Edges]:
    """The outer voices of the hands on each slot: no bass where a bassist has it, no top under a tune or a
    line."""
    edges = {}
    for slot in playing.song.slots:
        keys = [key for hand in HANDS for key in playing.grip(slot.index, hand).keys]
        if keys:
            others = slot.index < len(bass_keys) and bass_keys[slot.index] is not None
            over = playing.song.texture(slot.index).tune or playing.song.line_over(slot.index)
            edges[slot.index] = Edges(None if others else min(keys), None if over else max(keys))
    return edges


def _left_to_others(song: Song) -> Iterator[NoteEvent]:
    """The notes of the tune that begin where the right hand does not play it."""
    starts = [slot.start_quarters for slot in song.slots]
    for note in melody_events(song):
        index = bisect_right(starts, note.start_quarters) - 1
        if index < 0 or not song.texture(index).tune:
            yield note


def clicks(song: Song) -> Iterator[NoteEvent]:
    """A click on every count, the first of each bar higher."""
    for played in song.chart.played:
        meter = played.bar.meter
        for beat in range(-(-played.bar.quarters // meter.quarters_per_beat)):
            at = played.start_quarters + beat * meter.quarters_per_beat
            key = _CLICKS[bool(beat)]
            yield NoteEvent(at, key, meter.quarters_per_beat / 4, _CLICK_VELOCITY, "click")


def count_in_before(song: Song, quarters: Fraction) -> tuple[Fraction, tuple[NoteEvent, ...]]:
    """When a bar of clicks begins that leads to a place, and its clicks, in the meter that holds there."""
    playing = [bar.bar for bar in song.chart.played if bar.start_quarters <= quarters]
    meter = playing[-1].meter if playing else song.chart.meter
    start = quarters - meter.quarters
    row = tuple(
        NoteEvent(start + beat * meter.quarters_per_beat, _CLICKS[bool(beat)], meter.quarters_per_beat / 4,
                  _CLICK_VELOCITY, "click")
        for beat in range(meter.beats)
    )  # fmt: skip
    return start, row
