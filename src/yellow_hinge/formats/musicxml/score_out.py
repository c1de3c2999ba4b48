"""What is played in a song, by part, staff and bar, ready to write: events, names, fingers, pedal, words."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Hashable, Iterable, Iterator, Mapping, Sequence
from fractions import Fraction
from functools import cached_property
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.formats.repeats_out import Sheet
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.perform import Pedalled
from yellow_hinge.song.chart import Syllable
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.song.tune import melody_events
from yellow_hinge.song.walk import tempo_changes, walk
from yellow_hinge.song.words import Singing
from yellow_hinge.theory.pitch import Pitch, pitch_for_key
from yellow_hinge.theory.spelling import plain

_MIDDLE_C = 60
#: A finger number for each key of the left and the right grip, by slot.
Fingers = Sequence[tuple[Sequence[int | None], Sequence[int | None]]]
Only = Literal["", "lead", "hands"]


class Staff(Struct, frozen=True):
    """A staff: its clef, its number in the part (0: the only one), and what is played on it by bar."""

    clef: tuple[str, str]
    number: int
    bars: Mapping[int, list[NoteEvent]]


class Part(Struct, frozen=True):
    id: str
    name: str
    staves: tuple[Staff, ...]
    symbols: bool = False
    pedal: bool = False
    words: bool = False
    octave: int = 0  # how many octaves it sounds above what is written


class Score:
    """A song with what is played in it, ready to be written bar by bar."""

    def __init__(
        self,
        song: Song,
        bass_keys: tuple[int | None, ...],
        fingers: Fingers,
        only: Only = "",
        engraved: bool = False,
    ) -> None:
        self.song, self.engraved = song, engraved
        self.played = song.chart.played
        self._singing = Singing(song.chart)
        self._starts = [bar.start_quarters for bar in self.played]
        playing = Playing(song)
        events = [*playing.written(), *melody_events(song)]
        bass = [event for event in walk(song, bass_keys) if event.part == "bass"]
        self.divisions = math.lcm(
            64,
            *(
                value.denominator
                for event in (*events, *bass)
                for value in (event.start_quarters, event.quarters)
            ),
            *(slot.quarters.denominator for slot in song.slots),
            song.chart.pickup_quarters.denominator,
        )
        self.parts = tuple(self._parts(events, bass, only))
        self._pedal = _pedal_signs(playing.pedal_said())
        self._spelled = self._spellings()
        self.fingers = self._fingers(fingers)
        self.slots: dict[int, list[Slot]] = {}
        for slot in song.slots:
            self.slots.setdefault(slot.bar - 1, []).append(slot)
        per_beat = song.meter.quarters_per_beat
        self._tempos = {start: int(rate / per_beat) for start, rate in song.chart.tempos}
        self.slowing = [change for change in tempo_changes(song) if change not in song.chart.tempos]

    def _parts(self, events: Sequence[NoteEvent], bass: Sequence[NoteEvent], only: Only) -> Iterator[Part]:
        tune = [event for event in events if event.part == "melody" and only != "hands"]
        sung = only != "hands" and any(bar.bar.words for bar in self.played)
        if tune or sung or only == "lead":
            staff = Staff(("G", "2"), 0, self._by_bar(tune))
            yield Part("P1", "Tune" if tune else "Words", (staff,), symbols=True, words=bool(tune or sung))
        if only == "lead":
            return
        tune_or_words = bool(tune or sung)
        number = 2 if tune_or_words else 1
        right = Staff(("G", "2"), 1, self._by_bar(_of_hand(self.song, events, "right")))
        left = Staff(("F", "4"), 2, self._by_bar(_of_hand(self.song, events, "left")))
        yield Part(f"P{number}", "Keyboard", (right, left), symbols=not tune_or_words, pedal=True)
        if bass and only != "hands":
            written = [replace(event, key=event.key + 12) for event in bass]
            staff = Staff(("F", "4"), 0, self._by_bar(written))
            yield Part(f"P{number + 1}", "Bassist", (staff,), octave=-1)

    def _by_bar(self, events: Iterable[NoteEvent]) -> dict[int, list[NoteEvent]]:
        """Place of a bar -> what sounds in it; the pickup is -1."""
        found: dict[int, list[NoteEvent]] = {}
        for event in events:
            place = bisect_right(self._starts, event.start_quarters) - 1
            while place < len(self._starts) and (place < 0 or self._starts[place] < event.end_quarters):
                found.setdefault(place, []).append(event)
                place += 1
                if place == 0 and event.end_quarters <= 0:
                    break
        return found

    # --- what stands where ---

    def start(self, place: int) -> Fraction:
        return self._starts[place] if place >= 0 else -self.song.chart.pickup_quarters

    def end(self, place: int) -> Fraction:
        return self.start(place) + self.played[place].bar.quarters if place >= 0 else Fraction(0)

    def tempo(self, place: int) -> int | None:
        """The tempo that begins with a bar."""
        return self._tempos.get(self.start(place))

    def pedal_in(self, place: int) -> list[tuple[Fraction, str]]:
        """The pedal's signs in a bar; one that falls on its end belongs to the next one, if there is one."""
        start, end = self.start(place), self.end(place)
        last = place == len(self.played) - 1
        return [(at, kind) for at, kind in self._pedal if start <= at < end or (last and at == end)]

    def content(self, place: int) -> Hashable:
        """All that is printed in a bar, but for section marks and words: bars that have it alike may be
        written once."""
        start, bar = self.start(place), self.played[place]
        notes = tuple(
            (part.id, staff.number, event.start_quarters - start, event.quarters, event.key, event.way,
             event.part, self._name_of(place, event))
            for part in self.parts for staff in part.staves for event in staff.bars.get(place, ())
        )  # fmt: skip
        symbols = tuple((slot.beat, slot.chord, slot.key) for slot in self.slots.get(place, ()))
        pedal = tuple((at - start, kind) for at, kind in self.pedal_in(place))
        slowing = tuple((at - start, rate) for at, rate in self.slowing if start <= at < self.end(place))
        return notes, symbols, pedal, slowing, bar.bar.meter, bar.bar.tempo

    # --- spelling and fingers ---

    def _spellings(self) -> dict[tuple[int, int], Pitch]:
        spellings: dict[tuple[int, int], Pitch] = {}
        for slot in self.song.slots:
            voicing = self.song.voicing(slot.index)
            if voicing is not None and slot.chord is not None:
                for pitch in (*voicing.left.pitches(slot.chord), *voicing.right.pitches(slot.chord)):
                    spellings[slot.index, pitch.key % 12] = pitch
        return spellings

    def _name_of(self, place: int, event: NoteEvent) -> Pitch:
        if event.part == "melody":
            return self.tune_pitch(place, event.key)
        return self.spelled(event.key, event.slot)

    def spelled(self, key: int, slot: int) -> Pitch:
        """A key in the spelling of its chord, or else of the song's key."""
        own = self.song.slots[slot] if 0 <= slot < len(self.song.slots) else None
        chord = None if own is None else own.chord
        known = self._spelled.get((slot, key % 12))
        if known is not None:
            return plain(Pitch(key, known.name), chord)
        if chord is not None:
            label = chord.label_of(key % 12)
            if label is not None:
                return plain(Pitch(key, chord.root.degree(label)), chord)
        tonality = self.song.key_here if own is None else own.key
        return pitch_for_key(key, tonality.prefers_flats)

    @cached_property
    def _tune_names(self) -> Mapping[tuple[int, int], Pitch]:
        """(place of a bar, key) -> a note of the tune as it is written there."""
        names = {(start, pitch.key): pitch for start, _, pitch in self.song.tune}
        staff = next(part.staves[0] for part in self.parts if part.words)
        return {
            (place, event.key): names[event.start_quarters, event.key]
            for place, row in staff.bars.items()
            for event in row
        }

    def tune_pitch(self, place: int, key: int) -> Pitch:
        """A key of the tune as it is written in a bar."""
        return self._tune_names[place, key]

    def _fingers(self, fingers: Fingers) -> dict[tuple[Fraction, int], int]:
        """(start, key) -> the finger, where a whole grip is struck at the beginning of its chord."""
        found: dict[tuple[Fraction, int], int] = {}
        for slot, row in zip(self.song.slots, fingers, strict=False):
            voicing = self.song.voicing(slot.index)
            if voicing is None:
                continue
            for shape, own in ((voicing.left, row[0]), (voicing.right, row[1])):
                for key, finger in zip(shape.keys, own, strict=False):
                    if finger is not None:
                        found[slot.start_quarters, key] = finger
        return found

    def words_in(self, sheet: Sheet) -> dict[Fraction, list[tuple[int, Syllable]]]:
        """(verse, syllable) by the start of the note that they stand under."""
        start = self.start(sheet.place)
        unit = (self.played[sheet.place].bar.meter if sheet.place >= 0 else self.song.meter).quarters_per_beat
        words: dict[Fraction, list[tuple[int, Syllable]]] = {}
        for verse in self._singing.verses(sheet.place, sheet.rounds):
            for at, syllable in verse.syllables:
                words.setdefault(start + at * unit, []).append((verse.number, syllable))
        return words


def _of_hand(song: Song, events: Iterable[NoteEvent], hand: str) -> Iterator[NoteEvent]:
    """A hand's own notes, and those of its lines."""
    for event in events:
        if event.part == hand or (event.part == "riff" and _plays_line(song, event) == hand):
            yield event


def _plays_line(song: Song, note: NoteEvent) -> str:
    """The hand that plays a note of a line."""
    slot = song.slots[note.slot]
    at = (note.start_quarters - slot.start_quarters) / slot.meter.quarters_per_beat
    row = [riff_note for riff_note in song.line_over(note.slot) if riff_note.key == note.key]
    return min(row, key=lambda riff_note: abs(riff_note.at_beats - at)).hand


def _pedal_signs(row: Iterable[Pedalled]) -> list[tuple[Fraction, str]]:
    """(place, start or stop); where it is changed, both: not everybody reads the sign for that."""
    signs: list[tuple[Fraction, str]] = []
    end: Fraction | None = None  # where the pedal is down until
    for pedalled in row:
        if end is not None and (end != pedalled.start or not (pedalled.changes or pedalled.hold)):
            signs.append((end, "stop"))
            end = None
        if pedalled.hold and end is not None:
            end = pedalled.end
            continue
        for at in pedalled.changes:
            if end is not None:
                signs.append((pedalled.start + at, "stop"))
            signs.append((pedalled.start + at, "start"))
            end = pedalled.end
    if end is not None:
        signs.append((end, "stop"))
    return signs
