"""A part of a score, measure by measure, in sounding pitch: chords, notes, words, and what holds there."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from fractions import Fraction
from xml.etree import ElementTree as ET

from msgspec import Struct

from yellow_hinge import strict
from yellow_hinge.formats.lead_sheet import Lyric, Measure, Sung
from yellow_hinge.formats.musicxml.harmony_in import chords_of
from yellow_hinge.formats.musicxml.parsing import text_of, whole_of
from yellow_hinge.rhythm.time import METER_UNITS, Meter
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import ALL_KEYS, Key, key_from_fifths, plainest_key
from yellow_hinge.theory.pitch import MIDI_KEYS, STEP_LETTERS, STEP_SEMITONES, NoteName, Pitch

#: Divisions of a quarter note, far beyond what any program writes; and what is told apart of them.
MAX_DIVISIONS, FINEST = 100_000, 480
MOST_BEATS = 24
#: Quarters of the notes that a metronome mark counts.
_BEAT_UNITS = {
    "breve": Fraction(8), "whole": Fraction(4), "half": Fraction(2), "quarter": Fraction(1),
    "eighth": Fraction(1, 2), "16th": Fraction(1, 4),
}  # fmt: skip
#: Letters that an instrument's half steps move by, where the file does not say.
_LETTERS = {0: 0, 1: 1, 2: 1, 3: 2, 4: 2, 5: 3, 6: 3, 7: 4, 8: 5, 9: 5, 10: 6, 11: 6}

_TYPES = {**_BEAT_UNITS, "32nd": Fraction(1, 8), "64th": Fraction(1, 16), "128th": Fraction(1, 32)}

Remark = Callable[[str, str, str], None]


class Transposed(Struct, frozen=True):
    """How far a part sounds from what is written: letters (of seven), half steps, and octaves among them."""

    letters: int = 0
    semitones: int = 0

    def name(self, name: NoteName) -> NoteName:
        return name.above(self.letters % 7, self.semitones % 12)

    def pitch(self, pitch: Pitch) -> Pitch | None:
        key = pitch.key + self.semitones
        return Pitch(key, self.name(pitch.name)) if key in MIDI_KEYS else None

    def chord(self, chord: ChordSymbol | None) -> ChordSymbol | None:
        return None if chord is None else chord.transposed(self.letters % 7, self.semitones % 12)

    def key(self, key: Key) -> Key:
        moved = Key(self.name(key.tonic), key.minor)
        return moved if moved in ALL_KEYS else plainest_key(moved.tonic.pitch_class, key.minor)


class PartReader:
    """Walks the measures of one part; positions are in quarters within the measure."""

    def __init__(self, part: ET.Element, remark: Remark) -> None:
        self._part, self._say = part, remark
        self._divisions = 1
        self._key, self._meter = Key(NoteName(0)), Meter()
        self._transposed = Transposed()
        self._number, self._first = "", True
        self._slashes = False  # a stretch that is written in slashes

    def measures(self) -> list[Measure]:
        """Every measure in written order."""
        return [
            self._measure(count, element) for count, element in enumerate(self._part.findall("measure"), 1)
        ]

    def _remark(self, what: str, remedy: str) -> None:
        self._say(self._number, what, remedy)

    def _measure(self, count: int, element: ET.Element) -> Measure:
        number = element.get("number", "")
        self._first = count == 1
        self._number = number if number.isdecimal() else str(count)
        measure = Measure(self._number, element.get("implicit") == "yes" or number[:1].upper() == "X")
        now = end = last = Fraction(0)
        for child in element:
            length = self._length(child)
            if child.tag == "attributes":
                self._attributes(child)
            elif child.tag in ("direction", "sound"):
                self._tempo(child, now, measure)
            elif child.tag == "harmony" and child.get("type") == "alternate":
                self._remark("a chord that may be played instead", "the usual one is taken")
            elif child.tag == "harmony":
                place = max(Fraction(0), now + self._quarters(whole_of(child, "offset", 0)))
                measure.chords += [
                    (place, self._transposed.chord(symbol))
                    for symbol in chords_of(child, self._key, self._remark)
                ]
            elif child.tag == "backup":
                now = max(Fraction(0), now - length)
            elif child.tag == "forward":
                now += length
            elif child.tag == "note" and child.find("grace") is None:
                if child.find("chord") is not None:
                    self._note(child, last, length, measure)
                else:
                    self._note(child, now, length, measure)
                    last, now = now, now + length
            end = max(end, now)
        measure.length, measure.meter, measure.key = end, self._meter, self._transposed.key(self._key)
        return measure

    def _length(self, child: ET.Element) -> Fraction:
        """How long a note, a step back or forth is. Where a note's duration is a rounded one, its value says
        it: a triplet of divisions that three does not divide."""
        duration = max(0, whole_of(child, "duration", 0))
        length = self._quarters(duration)
        if child.tag != "note" or child.find("time-modification") is None or not duration:
            return length
        actual = whole_of(child, "time-modification/actual-notes", 1)
        normal = whole_of(child, "time-modification/normal-notes", 1)
        value = _TYPES.get(text_of(child, "type"))
        if value is None or not 1 <= actual <= 64 or not 1 <= normal <= 64:
            return length
        dots = min(3, len(child.findall("dot")))
        exact = value * (2 - Fraction(1, 2**dots)) * normal / actual
        return exact if exact != length and abs(exact - length) * self._divisions < 1 else length

    def _quarters(self, divisions: int) -> Fraction:
        """A length in quarters; what is finer than any chart writes goes to the nearest that it does."""
        length = Fraction(divisions, self._divisions)
        return length if length.denominator <= FINEST else Fraction(round(length * FINEST), FINEST)

    # --- what holds ---

    def _attributes(self, element: ET.Element) -> None:
        self._divisions = min(MAX_DIVISIONS, max(1, whole_of(element, "divisions", self._divisions)))
        key = next((one for one in element.findall("key") if one.get("number", "1") == "1"), None)
        if key is not None and key.find("fifths") is not None:
            minor = text_of(key, "mode") in ("minor", "aeolian")
            fifths = whole_of(key, "fifths", 0)
            if abs(fifths) > 7:
                self._remark(f"a signature of {fifths} fifths", "C is taken")
                fifths = 0
            self._key = key_from_fifths(fifths, minor)
        if element.find("time/senza-misura") is not None:
            self._remark("music without a meter", f"{self._meter} is kept; look at its bars")
        elif element.find("time/beats") is not None:
            self._take_meter(element)
        slash = element.find("measure-style/slash")
        if slash is not None:
            self._slashes = slash.get("type") == "start"
        moved = element.find("transpose")
        if moved is not None:
            self._transposed = _transposed(moved)

    def _take_meter(self, element: ET.Element) -> None:
        times = element.findall("time/beats")
        units = {text_of(element, "time/beat-type")}
        words = [word for time in times for word in (time.text or "").replace(" ", "").split("+")]
        counts = [strict.decimal(word) for word in words]
        beats = sum(int(count) for count in counts if count is not None)
        unit = whole_of(element, "time/beat-type", 4)
        if None not in counts and 1 <= beats <= MOST_BEATS and unit in METER_UNITS and len(units) == 1:
            self._meter = Meter(beats, unit)
        else:
            self._remark(f"a meter of {'+'.join(words)}/{unit}", f"{self._meter} is kept")

    def _tempo(self, element: ET.Element, now: Fraction, measure: Measure) -> None:
        """A tempo at the beginning, or a mark that is printed later: what only sounds within a bar is a
        slowing, as is a sound by itself behind the first measure."""
        sound = element if element.tag == "sound" else element.find("sound")
        word = None if sound is None else sound.get("tempo")
        said = None if word is None else strict.decimal(word.strip())
        metronome = element.find("direction-type/metronome")
        quarters = Fraction(str(said)) if said else None if metronome is None else _metronome(metronome)
        if not quarters or (element.tag == "sound" and not self._first):
            return
        if now == 0 and measure.tempo is None:
            measure.tempo = quarters
        elif metronome is not None:
            measure.later = quarters

    # --- notes ---

    def _note(self, note: ET.Element, place: Fraction, length: Fraction, measure: Measure) -> None:
        """A note of the top staff; slashes and cues are no tune. Of stacked notes the highest one counts."""
        if text_of(note, "staff", "1") != "1":
            return
        row = measure.voices[text_of(note, "voice", "1")]
        silent = (
            self._slashes or note.find("cue") is not None or text_of(note, "notehead") in ("slash", "slashed")
        )
        pitch = None if silent else self._pitch(note)
        tied = any(tie.get("type") == "start" for tie in note.findall("tie"))
        words = () if silent else tuple(_lyrics(note))
        if note.find("chord") is not None and row and row[-1].place == place:
            sung = row[-1]
            if pitch is None or (sung.pitch is not None and sung.pitch.key >= pitch.key):
                return
            row[-1] = Sung(place, sung.length, pitch, tied, sung.words or words)
        else:
            row.append(Sung(place, length, pitch, tied and pitch is not None, words))

    def _pitch(self, note: ET.Element) -> Pitch | None:
        step, alter = text_of(note, "pitch/step"), _alter(note, "pitch/alter")
        if len(step) != 1 or step not in STEP_LETTERS:
            return None
        name = NoteName(STEP_LETTERS.index(step), alter)
        key = (whole_of(note, "pitch/octave", 4) + 1) * 12 + STEP_SEMITONES[name.step] + alter
        sounding = self._transposed.pitch(Pitch(key, name)) if key in MIDI_KEYS else None
        if sounding is None:
            self._remark("a note beyond the keyboard", "it is left out")
        return sounding


def _alter(element: ET.Element, path: str) -> int:
    """Half steps of an accidental; quarter tones go to the nearer natural note."""
    value = strict.decimal(text_of(element, path, "0"))
    return 0 if value is None else max(-2, min(2, int(value)))


def _transposed(element: ET.Element) -> Transposed:
    semitones = whole_of(element, "chromatic", 0)
    letters = _LETTERS[semitones % 12] + 7 * (semitones // 12)
    if element.find("diatonic") is not None:
        letters = whole_of(element, "diatonic", letters)
    octaves = whole_of(element, "octave-change", 0)
    if abs(semitones) > 48 or abs(octaves) > 4:
        return Transposed()
    return Transposed(letters + 7 * octaves, semitones + 12 * octaves)


def _metronome(element: ET.Element) -> Fraction | None:
    """Quarters a minute of a metronome mark that names a number."""
    unit = _BEAT_UNITS.get(text_of(element, "beat-unit"))
    match = re.search(r"[0-9]+(?:\.[0-9]+)?", text_of(element, "per-minute"))
    if unit is None or match is None or len(match[0]) > 8:
        return None
    dots = len(element.findall("beat-unit-dot"))
    return Fraction(match[0]) * unit * (2 - Fraction(1, 2 ** min(dots, 3)))


def _lyrics(note: ET.Element) -> Iterator[Lyric]:
    """The syllables of a note, each in a verse of its own."""
    taken: set[int] = set()
    for count, lyric in enumerate(note.findall("lyric"), 1):
        number = strict.whole(lyric.get("number", ""))
        texts = [" ".join((element.text or "").split()) for element in lyric.findall("text")]
        syllabics = [element.text for element in lyric.findall("syllabic")]
        joined = bool(syllabics) and syllabics[-1] in ("begin", "middle")
        verse = number if number is not None and 1 <= number <= 20 else count
        while verse in taken:
            verse += 1
        taken.add(verse)
        text = "\u203f".join(filter(None, texts))
        if text or lyric.find("extend") is not None:
            yield Lyric(verse, text, joined, lyric.find("extend") is not None)
