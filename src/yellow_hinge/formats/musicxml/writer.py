"""Writing a song as MusicXML: two engraved staves with chord symbols."""

from __future__ import annotations

import math
from fractions import Fraction
from itertools import groupby
from xml.etree import ElementTree as ET

from yellow_hinge.formats.harmony import write_kind
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import STEP_LETTERS, NoteName, Pitch
from yellow_hinge.voicing.shape import HandShape

_TYPES = {
    Fraction(4): "whole", Fraction(2): "half", Fraction(1): "quarter", Fraction(1, 2): "eighth",
    Fraction(1, 4): "16th", Fraction(1, 8): "32nd", Fraction(1, 16): "64th",
}  # fmt: skip


def write(song: Song) -> bytes:
    """A two-staff piano score: right hand above, left hand below, chord symbols, repeats
    written out. Lengths that no single note has are tied."""
    score = ET.Element("score-partwise", version="4.0")
    ET.SubElement(ET.SubElement(score, "work"), "work-title").text = song.title
    if song.chart.composer:
        identification = ET.SubElement(score, "identification")
        ET.SubElement(identification, "creator", type="composer").text = song.chart.composer
    part_list = ET.SubElement(score, "part-list")
    head = ET.SubElement(part_list, "score-part", id="P1")
    ET.SubElement(head, "part-name").text = "Keyboard"
    part = ET.SubElement(score, "part", id="P1")
    divisions = _divisions(song)
    before: tuple[Key, Meter] | None = None
    per_beat = song.meter.quarters_per_beat
    tempos = {start: int(rate / per_beat) for start, rate in song.chart.tempos}
    for number, slots in enumerate(_bars(song), 1):
        measure = ET.SubElement(part, "measure", number=str(number))
        now = (slots[0].key, slots[0].meter)
        if now != before:
            _write_attributes(measure, now, before, divisions)
        before = now
        tempo = tempos.get(slots[0].start_quarters)
        if tempo is not None or number == 1:
            _write_tempo(measure, song, song.tempo if tempo is None else tempo)
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
    return math.lcm(64, *(slot.quarters.denominator for slot in song.slots))


def _write_attributes(
    measure: ET.Element, now: tuple[Key, Meter], before: tuple[Key, Meter] | None, divisions: int
) -> None:
    """What changes at a bar; at the first one everything."""
    attributes = ET.SubElement(measure, "attributes")
    if before is None:
        ET.SubElement(attributes, "divisions").text = str(divisions)
    if before is None or now[0] != before[0]:
        key = ET.SubElement(attributes, "key")
        ET.SubElement(key, "fifths").text = str(now[0].fifths)
        ET.SubElement(key, "mode").text = "minor" if now[0].minor else "major"
    if before is None or now[1] != before[1]:
        time = ET.SubElement(attributes, "time")
        ET.SubElement(time, "beats").text = str(now[1].beats)
        ET.SubElement(time, "beat-type").text = str(now[1].unit)
    if before is None:
        ET.SubElement(attributes, "staves").text = "2"
        for number, sign, line in (("1", "G", "2"), ("2", "F", "4")):
            clef = ET.SubElement(attributes, "clef", number=number)
            ET.SubElement(clef, "sign").text = sign
            ET.SubElement(clef, "line").text = line


def _write_tempo(measure: ET.Element, song: Song, tempo: int) -> None:
    direction = ET.SubElement(measure, "direction", placement="above")
    kind = ET.SubElement(ET.SubElement(direction, "direction-type"), "metronome")
    ET.SubElement(kind, "beat-unit").text = _TYPES.get(song.meter.quarters_per_beat, "quarter")
    ET.SubElement(kind, "per-minute").text = str(tempo)
    quarters = float(tempo * song.meter.quarters_per_beat)
    ET.SubElement(direction, "sound", tempo=f"{quarters:g}")


def _write_hands(measure: ET.Element, song: Song, slots: list[Slot], divisions: int) -> None:
    for slot in slots:
        _write_harmony(measure, slot.chord)
        _write_stroke(measure, song, slot, "right", divisions)
    backup = ET.SubElement(measure, "backup")
    total = sum((slot.quarters for slot in slots), Fraction(0)) * divisions
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
    pieces = _pieces(slot.quarters)
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
