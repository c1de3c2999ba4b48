"""Writing a song as MusicXML: the tune with its words, two staves with chord symbols, the bassist."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from typing import Literal
from xml.etree import ElementTree as ET

from yellow_hinge.formats.musicxml.notation import TYPES, Accidentals, voices_of
from yellow_hinge.formats.musicxml.notes_out import StaffWriter
from yellow_hinge.formats.musicxml.parsing import TUNE_FIELD
from yellow_hinge.formats.musicxml.repeats_out import Sheet, sheets_of
from yellow_hinge.formats.musicxml.symbols_out import write_harmony
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.perform import Pedalled
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.chart import Syllable, Words
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.song.tune import melody_events
from yellow_hinge.song.walk import tempo_changes, walk
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import Pitch, name_for_pitch_class

_MIDDLE_C = 60
#: A finger number for each key of the left and the right grip, by slot.
Fingers = Sequence[tuple[Sequence[int | None], Sequence[int | None]]]
Only = Literal["", "lead", "hands"]


@dataclass(frozen=True)
class _Staff:
    """A staff: its clef, its number in the part (0: the only one), and what is played on it by bar."""

    clef: tuple[str, str]
    number: int
    bars: Mapping[int, list[NoteEvent]]


@dataclass(frozen=True)
class _Part:
    id: str
    name: str
    staves: tuple[_Staff, ...]
    symbols: bool = False
    pedal: bool = False
    words: bool = False
    octave: int = 0  # how many octaves it sounds above what is written


class _Score:
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
        self._starts = [one.start_quarters for one in self.played]
        playing = Playing(song)
        events = [*playing.written(), *melody_events(song)]
        bass = [one for one in walk(song, bass_keys) if one.part == "bass"]
        self.divisions = math.lcm(
            64,
            *(value.denominator for one in (*events, *bass) for value in (one.start_quarters, one.quarters)),
            *(slot.quarters.denominator for slot in song.slots),
            song.chart.pickup_quarters.denominator,
        )
        self.parts = tuple(self._parts(events, bass, only))
        self._pedal = _pedal_signs(playing.pedalled())
        self._spelled = self._spellings()
        self.fingers = self._fingers(fingers)
        self.slots: dict[int, list[Slot]] = {}
        for slot in song.slots:
            self.slots.setdefault(slot.bar - 1, []).append(slot)
        per_beat = song.meter.quarters_per_beat
        self._tempos = {start: int(rate / per_beat) for start, rate in song.chart.tempos}
        self.slowing = [one for one in tempo_changes(song) if one not in song.chart.tempos]

    def _parts(self, events: Sequence[NoteEvent], bass: Sequence[NoteEvent], only: Only) -> Iterator[_Part]:
        tune = [one for one in events if one.part == "melody" and only != "hands"]
        if tune or only == "lead":
            staff = _Staff(("G", "2"), 0, self._by_bar(tune))
            yield _Part("P1", "Tune", (staff,), symbols=True, words=bool(tune))
        if only == "lead":
            return
        number = 2 if tune else 1
        right = _Staff(("G", "2"), 1, self._by_bar(_of_hand(events, "right")))
        left = _Staff(("F", "4"), 2, self._by_bar(_of_hand(events, "left")))
        yield _Part(f"P{number}", "Keyboard", (right, left), symbols=not tune, pedal=True)
        if bass and only != "hands":
            written = [replace(one, key=one.key + 12) for one in bass]
            staff = _Staff(("F", "4"), 0, self._by_bar(written))
            yield _Part(f"P{number + 1}", "Bassist", (staff,), octave=-1)

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
        start, one = self.start(place), self.played[place]
        notes = tuple(
            (part.id, staff.number, event.start_quarters - start, event.quarters, event.key, event.way,
             event.part, self._name_of(place, event))
            for part in self.parts for staff in part.staves for event in staff.bars.get(place, ())
        )  # fmt: skip
        symbols = tuple((slot.beat, slot.chord, slot.key) for slot in self.slots.get(place, ()))
        pedal = tuple((at - start, kind) for at, kind in self.pedal_in(place))
        slowing = tuple((at - start, rate) for at, rate in self.slowing if start <= at < self.end(place))
        return notes, symbols, pedal, slowing, one.bar.meter, one.bar.tempo

    # --- spelling and fingers ---

    def _spellings(self) -> dict[tuple[int, int], Pitch]:
        found: dict[tuple[int, int], Pitch] = {}
        for slot in self.song.slots:
            voicing = self.song.voicing(slot.index)
            if voicing is not None and slot.chord is not None:
                for pitch in (*voicing.left.pitches(slot.chord), *voicing.right.pitches(slot.chord)):
                    found[slot.index, pitch.key % 12] = pitch
        return found

    def _name_of(self, place: int, event: NoteEvent) -> Pitch:
        if event.part == "melody":
            return self.tune_pitch(place, event.key)
        return self.spelled(event.key, event.slot)

    def spelled(self, key: int, slot: int) -> Pitch:
        """A key in the spelling of its chord, or else of the song's key."""
        known = self._spelled.get((slot, key % 12))
        if known is not None:
            return Pitch(key, known.name)
        own = self.song.slots[slot] if 0 <= slot < len(self.song.slots) else None
        if own is not None and own.chord is not None:
            label = own.chord.label_of(key % 12)
            if label is not None:
                return Pitch(key, own.chord.root.degree(label))
        tonality = self.song.key_here if own is None else own.key
        return Pitch(key, name_for_pitch_class(key % 12, tonality.prefers_flats))

    @cached_property
    def _tune_names(self) -> Mapping[tuple[int, int], Pitch]:
        """(place of a bar, key) -> a note of the tune as it is written there."""
        names = {(start, pitch.key): pitch for start, _, pitch in self.song.tune}
        staff = next(part.staves[0] for part in self.parts if part.words)
        return {
            (place, one.key): names[one.start_quarters, one.key]
            for place, row in staff.bars.items()
            for one in row
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
        if sheet.place < 0:
            rows: Sequence[Words] = self.song.chart.pickup_words
            own = list(enumerate(rows, 1))
        else:
            rows = self.played[sheet.place].bar.words
            own = [(verse, rows[turn - 1]) for verse, turn in enumerate(sheet.rounds, 1) if turn <= len(rows)]
        start, end = self.start(sheet.place), self.end(sheet.place)
        struck = [at for at, _, _ in self.song.tune if start <= at < end]
        found: dict[Fraction, list[tuple[int, Syllable]]] = {}
        for verse, row in own:
            for at, syllable in zip(struck, row, strict=False):
                found.setdefault(at, []).append((verse, syllable))
        return found


def _of_hand(events: Iterable[NoteEvent], hand: str) -> Iterator[NoteEvent]:
    """A hand's own notes, and riffs on its side of middle C."""
    for one in events:
        riff = one.part == "riff" and (one.key >= _MIDDLE_C) == (hand == "right")
        if one.part == hand or riff:
            yield one


def _pedal_signs(row: Iterable[Pedalled]) -> list[tuple[Fraction, str]]:
    """(place, start or stop); where it is changed, both: not everybody reads the sign for that."""
    found: list[tuple[Fraction, str]] = []
    end: Fraction | None = None  # where the pedal is down until
    for one in row:
        if end is not None and (end != one.start or not (one.changes or one.hold)):
            found.append((end, "stop"))
            end = None
        if one.hold and end is not None:
            end = one.end
            continue
        for at in one.changes:
            if end is not None:
                found.append((one.start + at, "stop"))
            found.append((one.start + at, "start"))
            end = one.end
    if end is not None:
        found.append((end, "stop"))
    return found


# --- the file ------------------------------------------------------------------------------------


def write(
    song: Song,
    bass_keys: tuple[int | None, ...] = (),
    fingers: Fingers = (),
    only: Only = "",
    engraved: bool = False,
) -> bytes:
    """A score: the tune with its words where there is one, what the hands play on two staves with chord
    symbols, fingers and pedal, and the bassist; repeats as repeats where their rounds are alike. Lengths that
    no single note has are tied. ``bass_keys`` and ``fingers`` are by slot; ``only``
    the "lead" (tune, words and symbols) or the "hands". ``engraved``: for an engraver, which prints degrees
    beside the text of a symbol that says them already, and is told where lines begin."""
    score = _Score(song, bass_keys, fingers, only, engraved)
    root = ET.Element("score-partwise", version="4.0")
    _write_head(root, score)
    sheets = sheets_of(song, score.content)
    if song.chart.pickup:
        sheets = [Sheet(-1, (1,)), *sheets]
    for part in score.parts:
        element = ET.SubElement(root, "part", id=part.id)
        _PartWriter(element, part, score, part is score.parts[0]).write(sheets)
    ET.indent(root)
    doctype = (
        '<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE score-partwise PUBLIC '
        '"-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
        '"http://www.musicxml.org/dtds/partwise.dtd">\n'
    )
    body: bytes = ET.tostring(root, encoding="utf-8")
    return doctype.encode() + body + b"\n"


def _write_head(root: ET.Element, score: _Score) -> None:
    chart = score.song.chart
    ET.SubElement(ET.SubElement(root, "work"), "work-title").text = chart.title
    identification = ET.SubElement(root, "identification")
    if chart.composer:
        ET.SubElement(identification, "creator", type="composer").text = chart.composer
    ET.SubElement(ET.SubElement(identification, "encoding"), "software").text = "Yellow Hinge"
    field = ET.SubElement(ET.SubElement(identification, "miscellaneous"), "miscellaneous-field")
    field.set("name", TUNE_FIELD)
    field.text = "P1" if any(part.words for part in score.parts) else "none"
    part_list = ET.SubElement(root, "part-list")
    for part in score.parts:
        head = ET.SubElement(part_list, "score-part", id=part.id)
        ET.SubElement(head, "part-name").text = part.name


class _PartWriter:
    """Writes the measures of one part; the first part also says tempo and sections."""

    def __init__(self, element: ET.Element, part: _Part, score: _Score, leads: bool) -> None:
        self._element, self._part, self._score, self._leads = element, part, score, leads
        self._before: tuple[Key, Meter] | None = None
        self._measure = element
        self._now = Fraction(0)
        self._named: tuple[str, tuple[int, ...]] | None = None
        self._tempo = 0
        self._open: tuple[int, ...] = ()  # the rounds of the ending that is open

    def write(self, sheets: Sequence[Sheet]) -> None:
        number = 0
        for sheet in sheets:
            self._measure = ET.SubElement(self._element, "measure")
            if sheet.place < 0:
                self._measure.set("number", "0")
                self._measure.set("implicit", "yes")
            else:
                number += 1
                self._measure.set("number", str(number))
            self._write_measure(sheet, last=sheet is sheets[-1])

    def _write_measure(self, sheet: Sheet, last: bool) -> None:
        score = self._score
        self._left_line(sheet)
        self._attributes(sheet)
        if self._leads:
            self._directions(sheet)
        self._now = score.start(sheet.place)
        if self._part.symbols:
            for slot in score.slots.get(sheet.place, ()):
                self._go_to(slot.start_quarters)
                write_harmony(self._measure, slot.chord, not score.engraved)
        if self._part.pedal and sheet.place >= 0:
            self._write_pedal(sheet.place)
        for staff in self._part.staves:
            self._staff(staff, sheet)
        self._go_to(score.end(sheet.place))
        self._right_line(sheet, last)

    def _go_to(self, quarters: Fraction) -> None:
        """Go on, or back, within the measure."""
        if quarters != self._now:
            element = ET.SubElement(self._measure, "forward" if quarters > self._now else "backup")
            length = abs(quarters - self._now) * self._score.divisions
            ET.SubElement(element, "duration").text = str(length)
            self._now = quarters

    # --- bar lines ---

    def _left_line(self, sheet: Sheet) -> None:
        if not (sheet.begins or sheet.ending):
            return
        line = ET.SubElement(self._measure, "barline", location="left")
        if sheet.ending:
            numbers = ",".join(map(str, sheet.ending))
            ET.SubElement(line, "ending", number=numbers, type="start")
        if sheet.begins:
            ET.SubElement(line, "repeat", direction="forward")
        self._open = sheet.ending or self._open

    def _right_line(self, sheet: Sheet, last: bool) -> None:
        if not (sheet.ends or sheet.closes or last):
            return
        line = ET.SubElement(self._measure, "barline", location="right")
        if sheet.ends or last:
            ET.SubElement(line, "bar-style").text = "light-heavy"
        if sheet.closes:
            numbers = ",".join(map(str, self._open))
            ET.SubElement(line, "ending", number=numbers, type=sheet.closes)
        if sheet.ends:
            repeat = ET.SubElement(line, "repeat", direction="backward")
            if sheet.ends > 2:
                repeat.set("times", str(sheet.ends))

    # --- what holds ---

    def _attributes(self, sheet: Sheet) -> None:
        """What changes at a bar; at the first one everything."""
        score, first = self._score, self._before is None
        played = score.played[max(0, sheet.place)]
        now = (score.song.key_of(played), played.bar.meter)
        if now == self._before:
            return
        attributes = ET.SubElement(self._measure, "attributes")
        if first:
            ET.SubElement(attributes, "divisions").text = str(score.divisions)
        if self._before is None or now[0] != self._before[0]:
            key = ET.SubElement(attributes, "key")
            ET.SubElement(key, "fifths").text = str(now[0].fifths)
            ET.SubElement(key, "mode").text = "minor" if now[0].minor else "major"
        if self._before is None or now[1] != self._before[1]:
            time = ET.SubElement(attributes, "time")
            ET.SubElement(time, "beats").text = str(now[1].beats)
            ET.SubElement(time, "beat-type").text = str(now[1].unit)
        if first:
            self._write_clefs(attributes)
        self._before = now

    def _write_clefs(self, attributes: ET.Element) -> None:
        if len(self._part.staves) > 1:
            ET.SubElement(attributes, "staves").text = str(len(self._part.staves))
        for staff in self._part.staves:
            clef = ET.SubElement(attributes, "clef")
            if staff.number:
                clef.set("number", str(staff.number))
            ET.SubElement(clef, "sign").text = staff.clef[0]
            ET.SubElement(clef, "line").text = staff.clef[1]
        if self._part.octave:
            transpose = ET.SubElement(attributes, "transpose")
            ET.SubElement(transpose, "diatonic").text = "0"
            ET.SubElement(transpose, "chromatic").text = "0"
            ET.SubElement(transpose, "octave-change").text = str(self._part.octave)

    def _directions(self, sheet: Sheet) -> None:
        score, first = self._score, len(self._element) == 1
        tempo = score.song.tempo if first else score.tempo(sheet.place)
        if tempo is not None and tempo != self._tempo:
            _write_tempo(self._measure, score.song, tempo)
            self._tempo = tempo
        if sheet.place < 0:
            return
        section = self._section(score.played[sheet.place].section.name, sheet)
        if section and score.engraved and len(self._element) > 1 + bool(score.song.chart.pickup):
            self._measure.insert(0, ET.Element("print", {"new-system": "yes"}))
        if section:
            direction = ET.SubElement(self._measure, "direction", placement="above")
            ET.SubElement(ET.SubElement(direction, "direction-type"), "rehearsal").text = section
        _write_slowing(self._measure, score, sheet.place)

    def _section(self, name: str, sheet: Sheet) -> str:
        """The name of a section where it begins, with its round where that is written by itself."""
        now = (name, () if sheet.repeated else sheet.rounds)
        if now == self._named:
            return ""
        self._named = now
        turn = 1 if sheet.repeated else sheet.rounds[0]
        return f"{name} ({turn})" if turn > 1 else name

    def _write_pedal(self, place: int) -> None:
        for at, kind in self._score.pedal_in(place):
            self._go_to(at)
            direction = ET.SubElement(self._measure, "direction", placement="below")
            ET.SubElement(ET.SubElement(direction, "direction-type"), "pedal", type=kind, line="yes")
            ET.SubElement(direction, "staff").text = "2"

    # --- notes ---

    def _staff(self, staff: _Staff, sheet: Sheet) -> None:
        score, place = self._score, sheet.place
        start, end = score.start(place), score.end(place)
        played = score.played[max(0, place)]
        meter = played.bar.meter if place >= 0 else _meter_of(end - start, played.bar.meter)
        voices = voices_of(staff.bars.get(place, []), start, meter)

        def spelled(key: int, slot: int) -> Pitch:
            if self._part.words:
                return score.tune_pitch(place, key)
            own = score.spelled(key + 12 * self._part.octave, slot)
            return Pitch(key, own.name)

        words = score.words_in(sheet) if self._part.words else {}
        fingers = score.fingers if self._part.pedal else {}
        signs = Accidentals(score.song.key_of(played))
        writer = StaffWriter(self._measure, score.divisions, staff.number, spelled, signs, fingers, words)

        def back() -> None:
            self._go_to(start)
            self._now = start + meter.quarters

        writer.write(voices, back)


def _meter_of(quarters: Fraction, meter: Meter) -> Meter:
    """A pickup as a bar of its own."""
    beats = quarters / meter.quarters_per_beat
    unit = meter.unit
    while beats.denominator > 1 and unit < 64:
        beats, unit = beats * 2, unit * 2
    return Meter(max(1, int(beats)), unit)


def _write_tempo(measure: ET.Element, song: Song, tempo: int) -> None:
    direction = ET.SubElement(measure, "direction", placement="above")
    kind = ET.SubElement(ET.SubElement(direction, "direction-type"), "metronome")
    ET.SubElement(kind, "beat-unit").text = TYPES.get(song.meter.quarters_per_beat, "quarter")
    ET.SubElement(kind, "per-minute").text = str(tempo)
    quarters = float(tempo * song.meter.quarters_per_beat)
    ET.SubElement(direction, "sound", tempo=f"{quarters:g}")


def _write_slowing(measure: ET.Element, score: _Score, place: int) -> None:
    """The slowing at the end, with its word where it begins."""
    bar, end = score.start(place), score.end(place)
    for at, rate in score.slowing:
        if bar <= at < end:
            offset = str((at - bar) * score.divisions)
            if at == score.slowing[0][0]:
                direction = ET.SubElement(measure, "direction", placement="above")
                kind = ET.SubElement(direction, "direction-type")
                ET.SubElement(kind, "words").text = "slowing"
                ET.SubElement(direction, "offset").text = offset
            sound = ET.SubElement(measure, "sound", tempo=f"{float(rate):g}")
            ET.SubElement(sound, "offset").text = offset
