"""Writing a song as MusicXML: the tune with its words, two staves with chord symbols, the bassist."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from xml.etree import ElementTree as ET

from yellow_hinge.formats.musicxml.notes_out import StaffWriter
from yellow_hinge.formats.musicxml.parsing import TUNE_FIELD
from yellow_hinge.formats.musicxml.score_out import Fingers, Only, Part, Score, Staff
from yellow_hinge.formats.musicxml.symbols_out import write_harmony
from yellow_hinge.formats.notation import TYPES, Accidentals, rests, voices_of
from yellow_hinge.formats.repeats_out import Sheet, sheets_of
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.model import Song
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import Pitch


def write(
    song: Song,
    bass_keys: tuple[int | None, ...] = (),
    fingers: Fingers = (),
    only: Only = "",
    engraved: bool = False,
    *,
    written_out: bool = False,
) -> bytes:
    """A score: the tune with its words where there is one, what the hands play on two staves with chord
    symbols, fingers and pedal, and the bassist; repeats as repeats where their rounds are alike. Lengths that
    no single note has are tied. ``bass_keys`` and ``fingers`` are by slot; ``only``
    the "lead" (tune, words and symbols) or the "hands". ``engraved``: for an engraver, which prints degrees
    beside the text of a symbol that says them already, and is told where lines begin. ``written_out``: no
    repeats."""
    score = Score(song, bass_keys, fingers, only, engraved)
    root = ET.Element("score-partwise", version="4.0")
    _write_head(root, score)
    content = (lambda place: place) if written_out else score.content
    sheets = sheets_of(score.played, content, jumps=engraved and not written_out)
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


def _write_head(root: ET.Element, score: Score) -> None:
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

    def __init__(self, element: ET.Element, part: Part, score: Score, leads: bool) -> None:
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
        if self._leads:
            self._signs_behind(sheet)
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
        score = self._score
        # an engraver keeps the tempo and the section apart where they begin with the same bar
        late = score.engraved and bool(score.song.chart.pickup)
        if late and sheet.place < 0:
            return
        first = len(self._element) == 1 + late
        tempo = score.song.tempo if first else score.tempo(sheet.place)
        if tempo is not None and tempo != self._tempo:
            _write_tempo(self._measure, score.song, tempo, first)
            self._tempo = tempo
        if sheet.place < 0:
            return
        for sign, there in (("segno", sheet.segno), ("coda", sheet.coda)):
            if there:
                direction = ET.SubElement(self._measure, "direction", placement="above")
                ET.SubElement(ET.SubElement(direction, "direction-type"), sign)
                ET.SubElement(direction, "sound", {sign: sign})
        section = self._section(score.played[sheet.place].section.name, sheet)
        if section and score.engraved and len(self._element) > 1 + bool(score.song.chart.pickup):
            self._measure.insert(0, ET.Element("print", {"new-system": "yes"}))
        if section:
            direction = ET.SubElement(self._measure, "direction", placement="above")
            ET.SubElement(ET.SubElement(direction, "direction-type"), "rehearsal").text = section
        _write_slowing(self._measure, score, sheet.place)

    def _signs_behind(self, sheet: Sheet) -> None:
        """What is done at the end of a measure, the first time or after a jump."""
        rows: tuple[tuple[bool, str, dict[str, str]], ...] = (
            (sheet.fine, "Fine", {"fine": "yes"}),
            (sheet.to_coda, "To Coda", {"tocoda": "coda"}),
            (
                bool(sheet.jump), sheet.jump,
                {"dacapo": "yes"} if sheet.jump.startswith("D.C.") else {"dalsegno": "segno"},
            ),
        )  # fmt: skip
        for there, words, sound in rows:
            if there:
                direction = ET.SubElement(self._measure, "direction", placement="above")
                ET.SubElement(ET.SubElement(direction, "direction-type"), "words").text = words
                ET.SubElement(direction, "sound", sound)

    def _section(self, name: str, sheet: Sheet) -> str:
        """The name of a section where it begins, with its round where that is written by itself."""
        now = (name, () if sheet.repeated else sheet.rounds)
        if now == self._named:
            return ""
        self._named = now
        turn = sheet.rounds[0]
        return f"{name} ({turn})" if turn > 1 else name

    def _write_pedal(self, place: int) -> None:
        for at, kind in self._score.pedal_in(place):
            self._go_to(at)
            direction = ET.SubElement(self._measure, "direction", placement="below")
            ET.SubElement(ET.SubElement(direction, "direction-type"), "pedal", type=kind, line="yes")
            ET.SubElement(direction, "staff").text = "2"

    # --- notes ---

    def _staff(self, staff: Staff, sheet: Sheet) -> None:
        score, place = self._score, sheet.place
        start, end = score.start(place), score.end(place)
        played = score.played[max(0, place)]
        meter = played.bar.meter if place >= 0 else _meter_of(end - start, played.bar.meter)
        voices = voices_of(staff.bars.get(place, []), start, meter)

        def spelled(key: int, slot: int) -> Pitch:
            if self._part.words:
                return score.tune_pitch(place, key)
            pitch = score.spelled(key + 12 * self._part.octave, slot)
            return Pitch(key, pitch.name)

        words = score.words_in(sheet) if self._part.words else {}
        bare = bool(words) and not staff.bars.get(place)
        if bare:
            voices = [rests(words, start, meter)]
        fingers = score.fingers if self._part.pedal else {}
        signs = Accidentals(score.song.key_of(played))
        writer = StaffWriter(
            self._measure,
            score.divisions,
            staff.number,
            spelled,
            signs,
            fingers=fingers,
            words=words,
            slashes=bare and score.engraved,  # an engraver prints no words under rests
        )

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


def _write_tempo(measure: ET.Element, song: Song, tempo: int, first: bool) -> None:
    """A metronome mark, and the word for uneven eighths where the song begins with them."""
    direction = ET.SubElement(measure, "direction", placement="above")
    if song.arrangement.groove.swing and first:
        ET.SubElement(ET.SubElement(direction, "direction-type"), "words").text = "Swing\u2002"
    kind = ET.SubElement(ET.SubElement(direction, "direction-type"), "metronome")
    ET.SubElement(kind, "beat-unit").text = TYPES.get(song.meter.quarters_per_beat, "quarter")
    ET.SubElement(kind, "per-minute").text = str(tempo)
    quarters = float(tempo * song.meter.quarters_per_beat)
    ET.SubElement(direction, "sound", tempo=f"{quarters:g}")


def _write_slowing(measure: ET.Element, score: Score, place: int) -> None:
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
