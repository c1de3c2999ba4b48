"""The notes of a staff as note elements."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from xml.etree import ElementTree as ET

from yellow_hinge.formats.notation import Accidentals, Mark, power_below
from yellow_hinge.song.chart import Syllable
from yellow_hinge.theory.pitch import STEP_LETTERS, Pitch

#: Printed accidentals by how many half steps they alter.
_SIGNS = {-2: "flat-flat", -1: "flat", 0: "natural", 1: "sharp", 2: "double-sharp"}
#: MIDI's forte, which the format calls 100.
_USUAL_VELOCITY = 90

#: A key and the slot it is played in, in its spelling.
Spelled = Callable[[int, int], Pitch]
Signs = dict[tuple[Fraction, int], int | None]


class StaffWriter:
    """Writes the voices of one staff of a measure. ``fingers`` are numbers by (start, key), ``words`` rows of
    (verse, syllable) by the start of a note. ``slashes`` stand where rests would."""

    def __init__(
        self,
        measure: ET.Element,
        divisions: int,
        staff: int,
        spelled: Spelled,
        signs: Accidentals,
        *,
        fingers: Mapping[tuple[Fraction, int], int],
        words: Mapping[Fraction, Sequence[tuple[int, Syllable]]],
        slashes: bool = False,
    ) -> None:
        self._measure, self._divisions, self._staff = measure, divisions, staff
        self._spelled, self._accidentals = spelled, signs
        self._fingers, self._words, self._slashes = fingers, words, slashes
        self._signs: Signs = {}

    def write(self, voices: Sequence[Sequence[Mark]], back: Callable[[], None]) -> None:
        """All voices; ``back`` goes to the beginning of the measure before each."""
        self._signs = self._signs_of(voices)
        for number, voice in enumerate(voices):
            back()
            for mark in voice:
                self._mark(mark, max(1, self._staff) * 4 - 3 + number)

    def _signs_of(self, voices: Sequence[Sequence[Mark]]) -> Signs:
        """The accidental of each note of the staff, in the order in which they are read."""
        signs: Signs = {}
        every = sorted((mark for voice in voices for mark in voice), key=lambda mark: mark.start)
        for mark in every:
            for key in (*mark.graces, *mark.keys):
                pitch = self._spelled(key, mark.slot)
                if (mark.start, key) not in signs:
                    sign = self._accidentals.sign(pitch.name, pitch.octave)
                    tied = mark.tie_in and key in mark.keys
                    signs[mark.start, key] = None if tied else sign
        return signs

    def _mark(self, mark: Mark, voice: int) -> None:
        """One chord, note or rest of a voice."""
        for grace in mark.graces:
            note = ET.SubElement(self._measure, "note")
            ET.SubElement(note, "grace", slash="yes")
            _write_pitch(note, self._spelled(grace, mark.slot))
            ET.SubElement(note, "voice").text = str(voice)
            ET.SubElement(note, "type").text = "eighth"
            _write_sign(note, self._signs.get((mark.start, grace)))
            self._write_staff(note)
        row: tuple[int | None, ...] = mark.keys or (None,)
        for place, key in enumerate(row):
            self._note(mark, key, place, voice)

    def _note(self, mark: Mark, key: int | None, place: int, voice: int) -> None:
        note = ET.SubElement(self._measure, "note")
        if key is not None:
            note.set("dynamics", f"{mark.velocity / _USUAL_VELOCITY * 100:.0f}")
        if place:
            ET.SubElement(note, "chord")
        self._write_head(note, key, mark.slot)
        ET.SubElement(note, "duration").text = str(mark.quarters * self._divisions)
        ties = [kind for kind, there in (("stop", mark.tie_in), ("start", mark.tie_out)) if there]
        for tie in ties:
            ET.SubElement(note, "tie", type=tie)
        ET.SubElement(note, "voice").text = str(voice)
        ET.SubElement(note, "type").text = mark.type
        for _ in range(mark.dots):
            ET.SubElement(note, "dot")
        _write_sign(note, None if key is None else self._signs.get((mark.start, key)))
        if mark.tuplet > 1:
            modification = ET.SubElement(note, "time-modification")
            ET.SubElement(modification, "actual-notes").text = str(mark.tuplet)
            ET.SubElement(modification, "normal-notes").text = str(power_below(mark.tuplet))
        if key is None and self._slashes:
            ET.SubElement(note, "stem").text = "none"
            ET.SubElement(note, "notehead").text = "slash"
        self._write_staff(note)
        if not place:
            for level, beam in enumerate(mark.beams, 1):
                ET.SubElement(note, "beam", number=str(level)).text = beam
        finger = None if key is None or mark.tie_in else self._fingers.get((mark.start, key))
        _write_notations(note, mark, ties, place, finger)
        if not place and not mark.tie_in:
            for verse, syllable in self._words.get(mark.start, ()):
                _write_lyric(note, verse, syllable)

    def _write_head(self, note: ET.Element, key: int | None, slot: int) -> None:
        """What sounds: a pitch, a rest, or a slash in its place."""
        if key is not None:
            _write_pitch(note, self._spelled(key, slot))
        elif self._slashes:
            unpitched = ET.SubElement(note, "unpitched")
            ET.SubElement(unpitched, "display-step").text = "B"
            ET.SubElement(unpitched, "display-octave").text = "4"
        else:
            ET.SubElement(note, "rest")

    def _write_staff(self, note: ET.Element) -> None:
        if self._staff:
            ET.SubElement(note, "staff").text = str(self._staff)


def _write_sign(note: ET.Element, alter: int | None) -> None:
    if alter is not None:
        ET.SubElement(note, "accidental").text = _SIGNS[alter]


def _write_notations(note: ET.Element, mark: Mark, ties: list[str], place: int, finger: int | None) -> None:
    notations = ET.Element("notations")
    for tie in ties:
        ET.SubElement(notations, "tied", type=tie)
    if mark.bracket and not place:
        ET.SubElement(notations, "tuplet", type=mark.bracket)
    if mark.way == "tremolo":
        ornaments = ET.SubElement(notations, "ornaments")
        ET.SubElement(ornaments, "tremolo", type="single").text = "3"
    if finger is not None:
        ET.SubElement(ET.SubElement(notations, "technical"), "fingering").text = str(finger)
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


def _write_lyric(note: ET.Element, verse: int, syllable: Syllable) -> None:
    lyric = ET.SubElement(note, "lyric", number=str(verse))
    if syllable.held:
        ET.SubElement(lyric, "extend")
        return
    ET.SubElement(lyric, "syllabic").text = "begin" if syllable.joined else "single"
    ET.SubElement(lyric, "text").text = syllable.text
