"""MusicXML: lead sheets in, two engraved staves with chord symbols out.

Reading is our own, over defusedxml: the libraries that read scores lose chord degrees
or the place of a mistake, and do not guard against hostile files.
"""

from __future__ import annotations

import io
import math
import zipfile
from fractions import Fraction
from itertools import groupby
from xml.etree import ElementTree as ET

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import chart_text
from yellow_hinge.formats.harmony import Degree, read_kind, write_kind
from yellow_hinge.formats.imported import Imported
from yellow_hinge.rhythm.time import MAX_TEMPO, METER_UNITS, MIN_TEMPO, Meter
from yellow_hinge.song.model import Bar, ChordAt, MelodyNote, Section, Slot, Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key, key_from_fifths
from yellow_hinge.theory.pitch import STEP_LETTERS, STEP_SEMITONES, NoteName, Pitch
from yellow_hinge.voicing.shape import HandShape

#: Limits on hostile input.
MAX_BYTES = 30_000_000
MAX_UNPACKED_BYTES = 60_000_000
MAX_MEASURES = 4_000


# --- reading -------------------------------------------------------------------------


def read(data: bytes, place: str = "score") -> Imported:
    """Read a lead sheet (.musicxml, .xml or .mxl): chords with durations, key, meter, melody.

    The first part with chord symbols is taken. Raises :class:`BadInput` for files that are
    not scores, too large, hostile, or without chords.
    """
    root = _parse(_unpack(data, place), place)
    if root.tag not in ("score-partwise", "score-timewise"):
        raise BadInput(Problem(place, f"the file holds <{root.tag}>, not a score", "open a MusicXML score"))
    if root.tag == "score-timewise":
        raise BadInput(
            Problem(place, "the score is stored by time, not by part", "save it as score-partwise")
        )
    parts = root.findall("part")
    chosen = next((part for part in parts if part.find("measure/harmony") is not None), None)
    if chosen is None:
        raise BadInput(
            Problem(place, "the score has no chord symbols", "add them in the score, or type a chart")
        )
    return _ScoreReader(root, chosen, place).run()


def _unpack(data: bytes, place: str) -> bytes:
    """The score inside a compressed file; other data as it is."""
    if len(data) > MAX_BYTES:
        raise BadInput(
            Problem(place, f"{len(data)} bytes are too large for a lead sheet", "export the lead sheet alone")
        )
    if not data.startswith(b"PK"):
        return data
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            name = _score_name(archive, place)
            if archive.getinfo(name).file_size > MAX_UNPACKED_BYTES:
                raise BadInput(Problem(place, "the packed score is too large", "export the lead sheet alone"))
            return archive.read(name)
    except (zipfile.BadZipFile, KeyError, RuntimeError, NotImplementedError, EOFError, OSError) as error:
        raise BadInput(
            Problem(place, f"the compressed file is damaged ({error})", "export it once more")
        ) from None


def _score_name(archive: zipfile.ZipFile, place: str) -> str:
    container = "META-INF/container.xml"
    if container in archive.namelist() and archive.getinfo(container).file_size < 100_000:
        rootfile = _parse(archive.read(container), place).find(".//{*}rootfile")
        if rootfile is not None and rootfile.get("full-path"):
            return str(rootfile.get("full-path"))
    for name in archive.namelist():
        if name.endswith((".xml", ".musicxml")) and not name.startswith("META-INF"):
            return name
    raise BadInput(Problem(place, "the compressed file holds no score", "export it once more"))


def _parse(data: bytes, place: str) -> ET.Element:
    try:
        root: ET.Element = fromstring(data)
    except ET.ParseError as error:
        line, column = error.position
        raise BadInput(
            Problem(
                f"{place}, line {line}, column {column + 1}", "this is not well-formed XML",
                "export the score once more", line, column + 1,
            )
        ) from None  # fmt: skip
    except DefusedXmlException:
        raise BadInput(
            Problem(
                place,
                "the file defines entities, which a score never needs",
                "do not open files of unknown origin; export it once more",
            )
        ) from None
    except (ValueError, LookupError) as error:
        raise BadInput(Problem(place, f"this is not XML ({error})", "open a MusicXML score")) from None
    return root


def _text(element: ET.Element | None, path: str, default: str = "") -> str:
    found = None if element is None else element.find(path)
    return default if found is None or found.text is None else found.text.strip()


def _whole(element: ET.Element | None, path: str, default: int) -> int:
    try:
        return int(float(_text(element, path, str(default))))
    except ValueError:
        return default


class _ScoreReader:
    """Walks the measures of one part; positions are in quarters within the measure."""

    def __init__(self, root: ET.Element, part: ET.Element, place: str) -> None:
        self.part, self.place = part, place
        self.problems: list[Problem] = []
        self.title = _text(root, "work/work-title") or _text(root, "movement-title")
        self.key, self.meter, self.tempo = Key(NoteName(0)), Meter(), 100
        self.divisions = 1
        self.last_chord: ChordSymbol | None = None
        self.any_chord = False

    def run(self) -> Imported:
        measures = self.part.findall("measure")
        if len(measures) > MAX_MEASURES:
            raise BadInput(Problem(self.place, f"{len(measures)} bars are too many", "split the score"))
        sections: list[tuple[str, list[Bar]]] = []
        first_meter: Meter | None = None
        for number, measure in enumerate(measures, 1):
            chords, tune = self._measure(number, measure)
            first_meter = first_meter or self.meter
            if self.meter != first_meter:
                self._remark(
                    number, f"the meter changes to {self.meter}", "one meter per song is kept; split it"
                )
                self.meter = first_meter
            mark = _text(measure, ".//rehearsal")
            if mark or not sections:
                sections.append((mark, []))
            sections[-1][1].append(self._bar(number, chords, tune))
        if not self.any_chord:
            raise BadInput(
                [
                    *self.problems,
                    Problem(self.place, "no chord symbol could be read", "write the chords in a chart"),
                ]
            )
        song = Song(
            self.title, self.key, first_meter or Meter(), self.tempo,
            tuple(Section(name, tuple(bars)) for name, bars in sections),
        )  # fmt: skip
        return Imported(_with_chart(song), tuple(self.problems))

    def _remark(self, number: int, what: str, remedy: str) -> None:
        self.problems.append(Problem(f"{self.place}, bar {number}", what, remedy))

    def _measure(
        self, number: int, measure: ET.Element
    ) -> tuple[list[tuple[Fraction, ChordSymbol | None]], list[tuple[Fraction, Fraction, Pitch | None]]]:
        """Chords (place, chord) and melody notes (place, length, pitch)."""
        now = Fraction(0)
        voice: str | None = None
        chords: list[tuple[Fraction, ChordSymbol | None]] = []
        tune: list[tuple[Fraction, Fraction, Pitch | None]] = []
        for child in measure:
            length = Fraction(max(0, _whole(child, "duration", 0)), self.divisions)
            if child.tag == "attributes":
                self._attributes(number, child)
            elif child.tag in ("direction", "sound"):
                self._tempo(child)
            elif child.tag == "harmony":
                place = now + Fraction(_whole(child, "offset", 0), self.divisions)
                self._harmony(number, child, max(Fraction(0), place), chords)
            elif child.tag == "backup":
                now = max(Fraction(0), now - length)
            elif child.tag == "forward":
                now += length
            elif child.tag == "note" and child.find("grace") is None:
                voice = voice if voice is not None else _text(child, "voice", "1")
                if child.find("chord") is not None:
                    self._stacked(number, child, tune)
                    continue
                if _text(child, "voice", "1") == voice and _text(child, "staff", "1") == "1":
                    tune.append((now, length, self._pitch(number, child)))
                now += length
        return chords, tune

    def _stacked(
        self, number: int, note: ET.Element, tune: list[tuple[Fraction, Fraction, Pitch | None]]
    ) -> None:
        """Of stacked notes the highest one is the melody."""
        pitch = self._pitch(number, note)
        if (
            tune
            and pitch
            and tune[-1][2]
            and pitch.key > tune[-1][2].key
            and _text(note, "staff", "1") == "1"
        ):
            tune[-1] = (*tune[-1][:2], pitch)

    def _attributes(self, number: int, element: ET.Element) -> None:
        self.divisions = max(1, _whole(element, "divisions", self.divisions))
        if element.find("key/fifths") is not None:
            minor = _text(element, "key/mode") == "minor"
            fifths = _whole(element, "key/fifths", 0)
            if abs(fifths) > 7:
                self._remark(number, f"a signature of {fifths} fifths", "C is taken")
                fifths = 0
            if number == 1:
                self.key = key_from_fifths(fifths, minor)
            elif key_from_fifths(fifths, minor) != self.key:
                self._remark(number, "the key signature changes", "the first key is kept for the numbers")
        if element.find("time/beats") is not None:
            beats, unit = _whole(element, "time/beats", 4), _whole(element, "time/beat-type", 4)
            if 1 <= beats <= 24 and unit in METER_UNITS:
                self.meter = Meter(beats, unit)
            else:
                self._remark(number, f"a meter of {beats}/{unit}", f"{self.meter} is kept")

    def _tempo(self, element: ET.Element) -> None:
        sound = element if element.tag == "sound" else element.find("sound")
        word = None if sound is None else sound.get("tempo")
        if word:
            try:
                quarters = float(word)
            except ValueError:
                return
            beats = round(quarters / float(self.meter.quarters_per_beat))
            self.tempo = min(MAX_TEMPO, max(MIN_TEMPO, beats))

    def _harmony(
        self,
        number: int,
        element: ET.Element,
        place: Fraction,
        chords: list[tuple[Fraction, ChordSymbol | None]],
    ) -> None:
        kind = _text(element, "kind")
        if kind == "none":
            chords.append((place, None))
            return
        root = self._name(element, "root/root-step", "root/root-alter")
        if root is None:
            self._remark(number, "a chord without a root (a function or number)", "write it as a symbol")
            return
        degrees = [
            Degree(_whole(d, "degree-value", 0), _whole(d, "degree-alter", 0), _text(d, "degree-type", "add"))
            for d in element.findall("degree")
        ]
        try:
            chord = read_kind(kind, degrees, root, self._name(element, "bass/bass-step", "bass/bass-alter"))
        except ValueError as error:
            self._remark(number, f"a chord on {root}: {error}", "write it in the chart")
            return
        self.any_chord = True
        chords.append((place, chord))

    @staticmethod
    def _name(element: ET.Element, step_path: str, alter_path: str) -> NoteName | None:
        step = _text(element, step_path)
        alter = _whole(element, alter_path, 0)
        return (
            NoteName(STEP_LETTERS.index(step), alter)
            if len(step) == 1 and step in STEP_LETTERS and abs(alter) <= 2
            else None
        )

    def _pitch(self, number: int, note: ET.Element) -> Pitch | None:
        name = self._name(note, "pitch/step", "pitch/alter")
        if name is None:
            return None
        key = (_whole(note, "pitch/octave", 4) + 1) * 12 + STEP_SEMITONES[name.step] + name.alter
        if 0 <= key <= 127:
            return Pitch(key, name)
        self._remark(number, "a note beyond the keyboard", "it is left out")
        return None

    def _bar(
        self,
        number: int,
        chords: list[tuple[Fraction, ChordSymbol | None]],
        tune: list[tuple[Fraction, Fraction, Pitch | None]],
    ) -> Bar:
        """Chords last until the next one; a bar without chords goes on with the one before."""
        per_beat = self.meter.quarters_per_beat
        total = Fraction(self.meter.beats)
        starts: dict[Fraction, ChordSymbol | None] = {}
        for place, chord in sorted(chords, key=lambda item: item[0]):
            if place / per_beat < total:
                starts[place / per_beat] = chord
            else:
                self._remark(number, f"the chord {chord} stands behind the bar", "it is left out")
        if Fraction(0) not in starts:
            starts[Fraction(0)] = self.last_chord
        places = sorted(starts)
        ends = [*places[1:], total]
        self.last_chord = starts[places[-1]]
        return Bar(
            tuple(ChordAt(starts[start], end - start) for start, end in zip(places, ends, strict=True)),
            _tune(tune, per_beat, total),
        )


def _tune(
    notes: list[tuple[Fraction, Fraction, Pitch | None]], per_beat: Fraction, total: Fraction
) -> tuple[MelodyNote, ...]:
    """Melody notes in beats, filled up with rests to a whole bar; empty when nothing sounds."""
    if not any(pitch for _, _, pitch in notes):
        return ()
    now = Fraction(0)
    melody: list[MelodyNote] = []
    for place, length, pitch in notes:
        start, end = place / per_beat, min((place + length) / per_beat, total)
        if start > now:
            melody.append(MelodyNote(None, start - now))
        if end > max(start, now):
            melody.append(MelodyNote(pitch, end - max(start, now)))
            now = end
    if now < total:
        melody.append(MelodyNote(None, total - now))
    return tuple(melody)


def _with_chart(song: Song) -> Song:
    """The song read again from its own chart text, so that text and bars agree."""
    return chart_text.parse_chart(chart_text.write(song).decode())


# --- writing -------------------------------------------------------------------------

_TYPES = {
    Fraction(4): "whole", Fraction(2): "half", Fraction(1): "quarter", Fraction(1, 2): "eighth",
    Fraction(1, 4): "16th", Fraction(1, 8): "32nd", Fraction(1, 16): "64th",
}  # fmt: skip


def write(song: Song) -> bytes:
    """A two-staff piano score: right hand above, left hand below, chord symbols, repeats
    written out. Lengths that no single note has are tied."""
    score = ET.Element("score-partwise", version="4.0")
    ET.SubElement(ET.SubElement(score, "work"), "work-title").text = song.title
    part_list = ET.SubElement(score, "part-list")
    head = ET.SubElement(part_list, "score-part", id="P1")
    ET.SubElement(head, "part-name").text = "Keyboard"
    part = ET.SubElement(score, "part", id="P1")
    divisions = _divisions(song)
    for number, slots in enumerate(_bars(song), 1):
        measure = ET.SubElement(part, "measure", number=str(number))
        if number == 1:
            _write_attributes(measure, song, divisions)
        section = song.section_starts.get(slots[0].index)
        if section:
            direction = ET.SubElement(measure, "direction", placement="above")
            ET.SubElement(ET.SubElement(direction, "direction-type"), "rehearsal").text = section
        _write_hands(measure, song, slots, divisions)
    ET.indent(score)
    doctype = (
        '<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE score-partwise PUBLIC '
        '"-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
        '"http://www.musicxml.org/dtds/partwise.dtd">\n'
    )
    body: bytes = ET.tostring(score, encoding="utf-8")
    return doctype.encode() + body + b"\n"


def _bars(song: Song) -> list[list[Slot]]:
    """The slots of each bar in playing order."""
    return [list(slots) for _, slots in groupby(song.slots, key=lambda slot: slot.bar)]


def _divisions(song: Song) -> int:
    """Divisions of a quarter that make every length whole."""
    per_beat = song.meter.quarters_per_beat
    return math.lcm(64, *((slot.beats * per_beat).denominator for slot in song.slots))


def _write_attributes(measure: ET.Element, song: Song, divisions: int) -> None:
    attributes = ET.SubElement(measure, "attributes")
    ET.SubElement(attributes, "divisions").text = str(divisions)
    key = ET.SubElement(attributes, "key")
    ET.SubElement(key, "fifths").text = str(song.key.fifths)
    ET.SubElement(key, "mode").text = "minor" if song.key.minor else "major"
    time = ET.SubElement(attributes, "time")
    ET.SubElement(time, "beats").text = str(song.meter.beats)
    ET.SubElement(time, "beat-type").text = str(song.meter.unit)
    ET.SubElement(attributes, "staves").text = "2"
    for number, sign, line in (("1", "G", "2"), ("2", "F", "4")):
        clef = ET.SubElement(attributes, "clef", number=number)
        ET.SubElement(clef, "sign").text = sign
        ET.SubElement(clef, "line").text = line
    direction = ET.SubElement(measure, "direction", placement="above")
    kind = ET.SubElement(ET.SubElement(direction, "direction-type"), "metronome")
    ET.SubElement(kind, "beat-unit").text = _TYPES.get(song.meter.quarters_per_beat, "quarter")
    ET.SubElement(kind, "per-minute").text = str(song.tempo)
    quarters = float(song.tempo * song.meter.quarters_per_beat)
    ET.SubElement(direction, "sound", tempo=f"{quarters:g}")


def _write_hands(measure: ET.Element, song: Song, slots: list[Slot], divisions: int) -> None:
    per_beat = song.meter.quarters_per_beat
    for slot in slots:
        _write_harmony(measure, slot.chord)
        _write_stroke(measure, song, slot, "right", divisions)
    backup = ET.SubElement(measure, "backup")
    total = sum((slot.beats for slot in slots), Fraction(0)) * per_beat * divisions
    ET.SubElement(backup, "duration").text = str(total)
    for slot in slots:
        _write_stroke(measure, song, slot, "left", divisions)


def _write_harmony(measure: ET.Element, chord: ChordSymbol | None) -> None:
    harmony = ET.SubElement(measure, "harmony")
    if chord is None:
        ET.SubElement(ET.SubElement(harmony, "root"), "root-step", text="").text = "C"
        ET.SubElement(harmony, "kind", text="N.C.").text = "none"
        ET.SubElement(harmony, "staff").text = "1"
        return
    _write_name(ET.SubElement(harmony, "root"), "root", chord.root)
    kind, degrees = write_kind(chord)
    ET.SubElement(harmony, "kind", text=chord.quality).text = kind
    if chord.bass is not None:
        _write_name(ET.SubElement(harmony, "bass"), "bass", chord.bass)
    for degree in degrees:
        element = ET.SubElement(harmony, "degree")
        ET.SubElement(element, "degree-value").text = str(degree.value)
        ET.SubElement(element, "degree-alter").text = str(degree.alter)
        ET.SubElement(element, "degree-type").text = degree.action
    ET.SubElement(harmony, "staff").text = "1"


def _write_name(parent: ET.Element, prefix: str, name: NoteName) -> None:
    ET.SubElement(parent, f"{prefix}-step").text = STEP_LETTERS[name.step]
    if name.alter:
        ET.SubElement(parent, f"{prefix}-alter").text = str(name.alter)


def _write_stroke(measure: ET.Element, song: Song, slot: Slot, hand: str, divisions: int) -> None:
    """One chord of one hand, or a rest, tied over as many notes as its length needs."""
    voicing = song.voicing(slot.index)
    shape = (
        HandShape()
        if voicing is None or slot.chord is None
        else (voicing.right if hand == "right" else voicing.left)
    )
    pitches = () if slot.chord is None else shape.pitches(slot.chord)
    pieces = _pieces(slot.beats * song.meter.quarters_per_beat)
    for index, (length, kind, dots, tuplet) in enumerate(pieces):
        for stacked, pitch in enumerate(pitches or (None,)):
            note = ET.SubElement(measure, "note")
            if stacked:
                ET.SubElement(note, "chord")
            if pitch is None:
                ET.SubElement(note, "rest")
            else:
                _write_pitch(note, pitch)
            ET.SubElement(note, "duration").text = str(length * divisions)
            ties = (
                []
                if pitch is None
                else [
                    kind_
                    for kind_, there in (("stop", index > 0), ("start", index < len(pieces) - 1))
                    if there
                ]
            )
            for tie in ties:
                ET.SubElement(note, "tie", type=tie)
            ET.SubElement(note, "voice").text = "1" if hand == "right" else "2"
            ET.SubElement(note, "type").text = kind
            for _ in range(dots):
                ET.SubElement(note, "dot")
            if tuplet > 1:
                modification = ET.SubElement(note, "time-modification")
                ET.SubElement(modification, "actual-notes").text = str(tuplet)
                ET.SubElement(modification, "normal-notes").text = str(_power_below(tuplet))
            ET.SubElement(note, "staff").text = "1" if hand == "right" else "2"
            if ties:
                notations = ET.SubElement(note, "notations")
                for tie in ties:
                    ET.SubElement(notations, "tied", type=tie)


def _write_pitch(note: ET.Element, pitch: Pitch) -> None:
    element = ET.SubElement(note, "pitch")
    ET.SubElement(element, "step").text = STEP_LETTERS[pitch.name.step]
    if pitch.name.alter:
        ET.SubElement(element, "alter").text = str(pitch.name.alter)
    ET.SubElement(element, "octave").text = str(pitch.octave)


def _power_below(number: int) -> int:
    """The largest power of two below an odd number: 3 in the time of 2, 5 of 4, 7 of 4."""
    return 1 << (number.bit_length() - 1)


def _pieces(quarters: Fraction) -> list[tuple[Fraction, str, int, int]]:
    """A length as note values: (quarters, type, dots, tuplet), longest first."""
    tuplet = quarters.denominator
    while tuplet % 2 == 0:
        tuplet //= 2
    scale = Fraction(tuplet, _power_below(tuplet)) if tuplet > 1 else Fraction(1)
    rest = quarters * scale
    pieces = []
    while rest > 0:
        for value, kind in _TYPES.items():
            if value * Fraction(3, 2) <= rest:
                pieces.append((value * Fraction(3, 2) / scale, kind, 1, tuplet))
                rest -= value * Fraction(3, 2)
                break
            if value <= rest:
                pieces.append((value / scale, kind, 0, tuplet))
                rest -= value
                break
        else:
            break  # shorter than a 64th: below what is written
    return pieces
