"""Writing a song as MusicXML: two engraved staves with chord symbols."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Iterable, Iterator
from fractions import Fraction
from itertools import groupby
from xml.etree import ElementTree as ET

from yellow_hinge.formats.harmony import write_kind
from yellow_hinge.formats.musicxml.notation import TYPES, Accidentals, Mark, power_below, voices_of
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.perform import Pedalled
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.song.walk import tempo_changes
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import STEP_LETTERS, NoteName, Pitch, name_for_pitch_class

#: Printed accidentals by how many half steps they alter.
_SIGNS = {-2: "flat-flat", -1: "flat", 0: "natural", 1: "sharp", 2: "double-sharp"}
#: MIDI's forte, which the format calls 100.
_USUAL_VELOCITY = 90
_MIDDLE_C = 60
#: The first voice of each staff: rests of the others are not printed.
_FIRST_VOICES = (1, 5)


class _Score:
    """A song with what its hands play, ready to be written bar by bar."""

    def __init__(self, song: Song) -> None:
        self.song = song
        playing = Playing(song)
        events = playing.written()
        self.divisions = math.lcm(
            64,
            *(value.denominator for one in events for value in (one.start_quarters, one.quarters)),
            *(slot.quarters.denominator for slot in song.slots),
        )
        self._hands = {hand: _by_bar(_of_hand(events, hand), song) for hand in ("left", "right")}
        self._pedal = _pedal_signs(playing.pedalled())
        self._spelled: dict[tuple[int, int], Pitch] = {}
        for slot in song.slots:
            voicing = song.voicing(slot.index)
            if voicing is not None and slot.chord is not None:
                for pitch in (*voicing.left.pitches(slot.chord), *voicing.right.pitches(slot.chord)):
                    self._spelled[slot.index, pitch.key % 12] = pitch

    def sounding_in(self, hand: str, bar: Fraction) -> list[NoteEvent]:
        """What a hand plays in the bar that starts at a place."""
        return self._hands[hand].get(bar, [])

    def pedal_in(self, start: Fraction, end: Fraction) -> list[tuple[Fraction, str]]:
        """The pedal's signs in a bar; one that falls on its end belongs to the next one, if there is one."""
        last = end == self.song.chart.length_quarters
        return [(at, kind) for at, kind in self._pedal if start <= at < end or (last and at == end)]

    def pitch(self, key: int, slot: int) -> Pitch:
        """A key in the spelling of its chord, or else of the song's key."""
        known = self._spelled.get((slot, key % 12))
        if known is not None:
            return Pitch(key, known.name)
        own = self.song.slots[slot] if 0 <= slot < len(self.song.slots) else None
        if own is not None and own.chord is not None:
            label = own.chord.label_of(key % 12)
            if label is not None:
                return Pitch(key, own.chord.root.degree(label))
        tonality = self.song.key if own is None else own.key
        return Pitch(key, name_for_pitch_class(key % 12, tonality.prefers_flats))


def _of_hand(events: Iterable[NoteEvent], hand: str) -> Iterator[NoteEvent]:
    """A hand's own notes, and riffs on its side of middle C."""
    for one in events:
        riff = one.part == "riff" and (one.key >= _MIDDLE_C) == (hand == "right")
        if one.part == hand or riff:
            yield one


def _by_bar(events: Iterable[NoteEvent], song: Song) -> dict[Fraction, list[NoteEvent]]:
    """Bar by where it starts -> what sounds in it."""
    starts = [one.start_quarters for one in song.chart.played]
    found: dict[Fraction, list[NoteEvent]] = {}
    for event in events:
        place = max(0, bisect_right(starts, event.start_quarters) - 1)
        while place < len(starts) and (starts[place] < event.end_quarters):
            found.setdefault(starts[place], []).append(event)
            place += 1
    return found


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


def write(song: Song) -> bytes:
    """A two-staff piano score of what the hands play: right hand above, left hand below, chord symbols and
    pedal, repeats written out. Lengths that no single note has are tied."""
    score = ET.Element("score-partwise", version="4.0")
    ET.SubElement(ET.SubElement(score, "work"), "work-title").text = song.title
    if song.chart.composer:
        identification = ET.SubElement(score, "identification")
        ET.SubElement(identification, "creator", type="composer").text = song.chart.composer
    part_list = ET.SubElement(score, "part-list")
    head = ET.SubElement(part_list, "score-part", id="P1")
    ET.SubElement(head, "part-name").text = "Keyboard"
    part = ET.SubElement(score, "part", id="P1")
    written = _Score(song)
    before: tuple[Key, Meter] | None = None
    per_beat = song.meter.quarters_per_beat
    tempos = {start: int(rate / per_beat) for start, rate in song.chart.tempos}
    slowing = [one for one in tempo_changes(song) if one not in song.chart.tempos]
    for number, slots in enumerate(_bars(song), 1):
        measure = ET.SubElement(part, "measure", number=str(number))
        now = (slots[0].key, slots[0].meter)
        if now != before:
            _write_attributes(measure, now, before, written.divisions)
        before = now
        tempo = tempos.get(slots[0].start_quarters)
        if tempo is not None or number == 1:
            _write_tempo(measure, song, song.tempo if tempo is None else tempo)
        section = song.section_starts.get(slots[0].index)
        if section:
            direction = ET.SubElement(measure, "direction", placement="above")
            ET.SubElement(ET.SubElement(direction, "direction-type"), "rehearsal").text = section
        _write_slowing(measure, slowing, slots, written.divisions)
        _write_hands(measure, written, slots)
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
    ET.SubElement(kind, "beat-unit").text = TYPES.get(song.meter.quarters_per_beat, "quarter")
    ET.SubElement(kind, "per-minute").text = str(tempo)
    quarters = float(tempo * song.meter.quarters_per_beat)
    ET.SubElement(direction, "sound", tempo=f"{quarters:g}")


def _write_slowing(
    measure: ET.Element, slowing: list[tuple[Fraction, Fraction]], slots: list[Slot], divisions: int
) -> None:
    """The slowing at the end, with its word where it begins."""
    bar, end = slots[0].start_quarters, slots[0].start_quarters + slots[0].meter.quarters
    for at, rate in slowing:
        if bar <= at < end:
            if at == slowing[0][0]:
                direction = ET.SubElement(measure, "direction", placement="above")
                kind = ET.SubElement(direction, "direction-type")
                ET.SubElement(kind, "words").text = "slowing"
                ET.SubElement(direction, "offset").text = str((at - bar) * divisions)
            sound = ET.SubElement(measure, "sound", tempo=f"{float(rate):g}")
            ET.SubElement(sound, "offset").text = str((at - bar) * divisions)


def _write_hands(measure: ET.Element, score: _Score, slots: list[Slot]) -> None:
    """Symbols and pedal at their places, then each voice of each hand from the bar's beginning."""
    bar = slots[0].start_quarters
    now = bar
    for slot in slots:
        _move(measure, slot.start_quarters - now, score.divisions)
        now = slot.start_quarters
        _write_harmony(measure, slot.chord)
    for at, kind in score.pedal_in(bar, bar + slots[0].meter.quarters):
        _move(measure, at - now, score.divisions)
        now = at
        direction = ET.SubElement(measure, "direction", placement="below")
        ET.SubElement(ET.SubElement(direction, "direction-type"), "pedal", type=kind, line="yes")
        ET.SubElement(direction, "staff").text = "2"
    for staff, hand in enumerate(("right", "left"), 1):
        signs = Accidentals(slots[0].key)
        voices = voices_of(score.sounding_in(hand, bar), bar, slots[0].meter)
        sorted_signs = _signs(voices, score, signs)
        for number, voice in enumerate(voices):
            _move(measure, bar - now, score.divisions)
            for mark in voice:
                _write_mark(measure, mark, score, (staff, number + 1 + 4 * (staff - 1)), sorted_signs)
            now = bar + slots[0].meter.quarters
    _move(measure, bar + slots[0].meter.quarters - now, score.divisions)


def _move(measure: ET.Element, quarters: Fraction, divisions: int) -> None:
    """Go on, or back, within a measure."""
    if quarters:
        element = ET.SubElement(measure, "forward" if quarters > 0 else "backup")
        ET.SubElement(element, "duration").text = str(abs(quarters) * divisions)


Signs = dict[tuple[Fraction, int], int | None]


def _signs(voices: list[list[Mark]], score: _Score, signs: Accidentals) -> Signs:
    """The accidental of each note of a staff, in the order in which they are read."""
    found: Signs = {}
    every = sorted((mark for voice in voices for mark in voice), key=lambda mark: mark.start)
    for mark in every:
        for key in (*mark.graces, *mark.keys):
            pitch = score.pitch(key, mark.slot)
            if (mark.start, key) not in found:
                sign = signs.sign(pitch.name, pitch.octave)
                tied = mark.tie_in and key in mark.keys
                found[mark.start, key] = None if tied else sign
    return found


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


def _write_mark(measure: ET.Element, mark: Mark, score: _Score, where: tuple[int, int], signs: Signs) -> None:
    """One chord, note or rest of a voice; ``where`` is its staff and voice."""
    for grace in mark.graces:
        note = ET.SubElement(measure, "note")
        ET.SubElement(note, "grace", slash="yes")
        _write_pitch(note, score.pitch(grace, mark.slot))
        ET.SubElement(note, "voice").text = str(where[1])
        ET.SubElement(note, "type").text = "eighth"
        _write_sign(note, signs.get((mark.start, grace)))
        ET.SubElement(note, "staff").text = str(where[0])
    row: tuple[int | None, ...] = mark.keys or (None,)
    for number, key in enumerate(row):
        _write_note(measure, mark, key, number, score, where, signs)


def _write_note(
    measure: ET.Element, mark: Mark, key: int | None, number: int, score: _Score, where: tuple[int, int],
    signs: Signs,
) -> None:  # fmt: skip
    note = ET.SubElement(measure, "note")
    if key is None and where[1] not in _FIRST_VOICES:
        note.set("print-object", "no")
    if key is not None:
        note.set("dynamics", f"{mark.velocity / _USUAL_VELOCITY * 100:.0f}")
    if number:
        ET.SubElement(note, "chord")
    if key is None:
        ET.SubElement(note, "rest")
    else:
        _write_pitch(note, score.pitch(key, mark.slot))
    ET.SubElement(note, "duration").text = str(mark.quarters * score.divisions)
    ties = [kind for kind, there in (("stop", mark.tie_in), ("start", mark.tie_out)) if there]
    for tie in ties:
        ET.SubElement(note, "tie", type=tie)
    ET.SubElement(note, "voice").text = str(where[1])
    ET.SubElement(note, "type").text = mark.type
    for _ in range(mark.dots):
        ET.SubElement(note, "dot")
    _write_sign(note, None if key is None else signs.get((mark.start, key)))
    if mark.tuplet > 1:
        modification = ET.SubElement(note, "time-modification")
        ET.SubElement(modification, "actual-notes").text = str(mark.tuplet)
        ET.SubElement(modification, "normal-notes").text = str(power_below(mark.tuplet))
    ET.SubElement(note, "staff").text = str(where[0])
    if not number:
        for level, beam in enumerate(mark.beams, 1):
            ET.SubElement(note, "beam", number=str(level)).text = beam
    _write_notations(note, mark, ties, number)


def _write_sign(note: ET.Element, alter: int | None) -> None:
    if alter is not None:
        ET.SubElement(note, "accidental").text = _SIGNS[alter]


def _write_notations(note: ET.Element, mark: Mark, ties: list[str], number: int) -> None:
    notations = ET.Element("notations")
    for tie in ties:
        ET.SubElement(notations, "tied", type=tie)
    if mark.bracket and not number:
        ET.SubElement(notations, "tuplet", type=mark.bracket)
    if mark.way == "tremolo":
        ornaments = ET.SubElement(notations, "ornaments")
        ET.SubElement(ornaments, "tremolo", type="single").text = "3"
    if mark.way == "rolled" and not mark.tie_in:
        ET.SubElement(notations, "arpeggiate")
    if len(notations):
        note.append(notations)


def _write_pitch(note: ET.Element, pitch: Pitch) -> None:
    element = ET.SubElement(note, "pitch")
    ET.SubElement(element, "step").text = STEP_LETTERS[pitch.name.step]
    if pitch.name.alter:
        ET.SubElement(element, "alter").text = str(pitch.name.alter)
    ET.SubElement(element, "octave").text = str(pitch.octave)
