"""Reading lead sheets from MusicXML.

It is our own, over defusedxml: the libraries that read scores lose chord degrees
or the place of a mistake, and do not guard against hostile files.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import chain, count
from typing import Any
from xml.etree import ElementTree as ET

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import DefusedXMLParser

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import chart_text
from yellow_hinge.formats.harmony import Degree, read_kind
from yellow_hinge.formats.imported import Imported
from yellow_hinge.rhythm.time import MAX_TEMPO, METER_UNITS, MIN_TEMPO, Meter
from yellow_hinge.song.chart import Bar, Chart, ChordAt, MelodyNote, Section
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key, key_from_fifths
from yellow_hinge.theory.pitch import STEP_LETTERS, STEP_SEMITONES, NoteName, Pitch

#: Limits on hostile input.
MAX_BYTES = MAX_UNPACKED_BYTES = 12_000_000
MAX_MEASURES = 4_000
MAX_ELEMENTS, MAX_DEPTH = 200_000, 60
#: Members of a packed score, and how many times its size a member may unpack to.
MAX_MEMBERS, MAX_RATIO = 400, 200
#: Divisions of a quarter note, far beyond what any program writes; and what is told apart of them.
MAX_DIVISIONS, FINEST = 100_000, 480
#: Bytes from one > to the next: an element with hundreds of thousands of attributes takes seconds.
MAX_RUN = 100_000
#: Signs of a title or a name that are kept.
MAX_SIGNS = 200


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
            if len(archive.infolist()) > MAX_MEMBERS:
                what = f"{len(archive.infolist())} files are packed in it"
                raise BadInput(Problem(place, what, "export the lead sheet alone"))
            return _member(archive, _score_name(archive, place), place)
    except BadInput:
        raise
    except Exception as error:  # what a damaged archive makes the library raise has no end
        what = f"the compressed file is damaged ({type(error).__name__}: {error})"
        raise BadInput(Problem(place, what, "export it once more")) from None


def _member(archive: zipfile.ZipFile, name: str, place: str) -> bytes:
    """A packed file, never unpacked beyond the limits, whatever the archive says of its size."""
    info = archive.getinfo(name)
    most = min(MAX_UNPACKED_BYTES, MAX_RATIO * max(info.compress_size, 1000))
    with archive.open(info) as member:
        data = member.read(most + 1)
    if len(data) > most:
        raise BadInput(Problem(place, "the packed score is too large", "export the lead sheet alone"))
    return data


def _score_name(archive: zipfile.ZipFile, place: str) -> str:
    container = "META-INF/container.xml"
    if container in archive.namelist():
        rootfile = _parse(_member(archive, container, place), place).find(".//{*}rootfile")
        if rootfile is not None and rootfile.get("full-path") in archive.namelist():
            return str(rootfile.get("full-path"))
    for name in archive.namelist():
        if name.endswith((".xml", ".musicxml")) and not name.startswith("META-INF"):
            return name
    raise BadInput(Problem(place, "the compressed file holds no score", "export it once more"))


class _TooMuch(Exception):
    """The file has more in it than any score."""


class _Builder(ET.TreeBuilder):
    """Builds the tree as long as it stays a sensible one."""

    def __init__(self) -> None:
        super().__init__()
        self._depth = self._count = 0

    def start(self, tag: str, attrs: Any) -> ET.Element:
        self._depth, self._count = self._depth + 1, self._count + 1 + len(attrs)
        if self._depth > MAX_DEPTH or self._count > MAX_ELEMENTS:
            raise _TooMuch
        return super().start(tag, attrs)

    def end(self, tag: str) -> ET.Element:
        self._depth -= 1
        return super().end(tag)


def _parse(data: bytes, place: str) -> ET.Element:
    if max(map(len, data.split(b">"))) > MAX_RUN:
        raise BadInput(
            Problem(place, f"an element is longer than {MAX_RUN:,} bytes", "export the score once more")
        )
    try:
        parser = DefusedXMLParser(target=_Builder())
        parser.feed(data)
        root: ET.Element = parser.close()
    except _TooMuch:
        what = f"it has more than {MAX_ELEMENTS:,} elements, or they are nested more than {MAX_DEPTH} deep"
        raise BadInput(Problem(place, what, "export the lead sheet alone")) from None
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
    return default if found is None or found.text is None else " ".join(found.text.split())


def _whole(element: ET.Element | None, path: str, default: int) -> int:
    value = strict.decimal(_text(element, path))
    return default if value is None else int(value)


#: A note of the tune: its place and length in quarters, its pitch, and whether it goes on.
_Sung = tuple[Fraction, Fraction, Pitch | None, bool]


class _ScoreReader:
    """Walks the measures of one part; positions are in quarters within the measure."""

    def __init__(self, root: ET.Element, part: ET.Element, place: str) -> None:
        self.part, self.place = part, place
        self.problems: list[Problem] = []
        self.title = (_text(root, "work/work-title") or _text(root, "movement-title"))[:MAX_SIGNS]
        self.composer = _text(root, "identification/creator[@type='composer']")[:MAX_SIGNS]
        self.key, self.meter, self.tempo = Key(NoteName(0)), Meter(), 100
        self.unit = Fraction(1)  # quarters of the beat that the tempo counts
        self.start = (self.key, self.meter, self.tempo)
        self.divisions = 1
        self.last_chord: ChordSymbol | None = None
        self.any_chord = False

    def run(self) -> Imported:
        measures = self.part.findall("measure")
        if len(measures) > MAX_MEASURES:
            raise BadInput(Problem(self.place, f"{len(measures)} bars are too many", "split the score"))
        sections: list[tuple[str, list[Bar]]] = []
        pickup: tuple[MelodyNote, ...] = ()
        for number, measure in enumerate(measures, 1):
            chords, tune = self._measure(number, measure)
            if number == 1:
                self.start = (self.key, self.meter, self.tempo)
                pickup = self._pickup(measure, chords, tune) if len(measures) > 1 else ()
                if pickup:
                    continue
            mark = _text(measure, ".//rehearsal")
            if mark or not sections:
                sections.append((_own_name(mark, [name for name, _ in sections]), []))
            sections[-1][1].append(self._bar(number, chords, tune))
        if not self.any_chord:
            raise BadInput(
                [
                    *self.problems,
                    Problem(self.place, "no chord symbol could be read", "write the chords in a chart"),
                ]
            )
        key, meter, tempo = self.start
        chart = Chart(
            self.title, self.composer, key, meter, tempo,
            sum((note.beats for note in pickup), Fraction(0)), pickup,
            sections=tuple(Section(name, bars) for name, bars in _with_ties(sections)),
        )  # fmt: skip
        return Imported(_with_text(chart), tuple(self.problems))

    def _pickup(
        self, measure: ET.Element, chords: Sequence[object], tune: list[_Sung]
    ) -> tuple[MelodyNote, ...]:
        """The tune before the first bar, where the first measure counts as none."""
        if measure.get("implicit") != "yes" or chords or not tune:
            return ()
        per_beat = self.meter.quarters_per_beat
        length = max(place + lasts for place, lasts, _, _ in tune) / per_beat
        notes = _tune(tune, per_beat, length) if length < self.meter.beats else ()
        return tuple(replace(note, tied=note.tied and note is not notes[-1]) for note in notes)

    def _remark(self, number: int, what: str, remedy: str) -> None:
        self.problems.append(Problem(f"{self.place}, bar {number}", what, remedy))

    def _measure(
        self, number: int, measure: ET.Element
    ) -> tuple[list[tuple[Fraction, ChordSymbol | None]], list[_Sung]]:
        """Chords (place, chord) and melody notes (place, length, pitch)."""
        now = Fraction(0)
        voice: str | None = None
        chords: list[tuple[Fraction, ChordSymbol | None]] = []
        tune: list[_Sung] = []
        for child in measure:
            length = self._quarters(max(0, _whole(child, "duration", 0)))
            if child.tag == "attributes":
                self._attributes(number, child)
            elif child.tag in ("direction", "sound"):
                self._tempo(child)
            elif child.tag == "harmony":
                place = now + self._quarters(_whole(child, "offset", 0))
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
                    tune.append((now, length, self._pitch(number, child), _goes_on(child)))
                now += length
        return chords, tune

    def _quarters(self, divisions: int) -> Fraction:
        """A length in quarters; what is finer than any chart writes goes to the nearest that it does."""
        length = Fraction(divisions, self.divisions)
        return length if length.denominator <= FINEST else Fraction(round(length * FINEST), FINEST)

    def _stacked(self, number: int, note: ET.Element, tune: list[_Sung]) -> None:
        """Of stacked notes the highest one is the melody."""
        pitch = self._pitch(number, note)
        if (
            tune
            and pitch
            and tune[-1][2]
            and pitch.key > tune[-1][2].key
            and _text(note, "staff", "1") == "1"
        ):
            tune[-1] = (*tune[-1][:2], pitch, _goes_on(note))

    def _attributes(self, number: int, element: ET.Element) -> None:
        self.divisions = min(MAX_DIVISIONS, max(1, _whole(element, "divisions", self.divisions)))
        if element.find("key/fifths") is not None:
            minor = _text(element, "key/mode") == "minor"
            fifths = _whole(element, "key/fifths", 0)
            if abs(fifths) > 7:
                self._remark(number, f"a signature of {fifths} fifths", "C is taken")
                fifths = 0
            self.key = key_from_fifths(fifths, minor)
        if element.find("time/beats") is not None:
            beats, unit = _whole(element, "time/beats", 4), _whole(element, "time/beat-type", 4)
            if 1 <= beats <= 24 and unit in METER_UNITS:
                self.meter = Meter(beats, unit)
                if number == 1:
                    self.unit = self.meter.quarters_per_beat
            else:
                self._remark(number, f"a meter of {beats}/{unit}", f"{self.meter} is kept")

    def _tempo(self, element: ET.Element) -> None:
        sound = element if element.tag == "sound" else element.find("sound")
        word = None if sound is None else sound.get("tempo")
        quarters = None if word is None else strict.decimal(word.strip())
        if quarters is not None:
            self.tempo = min(MAX_TEMPO, max(MIN_TEMPO, round(quarters / float(self.unit))))

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
        tune: list[_Sung],
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
            self.meter, self.key, self.tempo, melody=_tune(tune, per_beat, total),
        )  # fmt: skip


def _tune(notes: list[_Sung], per_beat: Fraction, total: Fraction) -> tuple[MelodyNote, ...]:
    """Melody notes in beats, filled up with rests to a whole bar; empty when nothing sounds."""
    if not any(pitch for _, _, pitch, _ in notes):
        return ()
    now = Fraction(0)
    melody: list[MelodyNote] = []
    for place, length, pitch, tied in notes:
        start, end = min(place / per_beat, total), min((place + length) / per_beat, total)
        if start > now:
            melody.append(MelodyNote(None, start - now))
        if end > max(start, now):
            melody.append(MelodyNote(pitch, end - max(start, now), tied))
            now = end
    if now < total:
        melody.append(MelodyNote(None, total - now))
    return tuple(melody)


def _goes_on(note: ET.Element) -> bool:
    return any(tie.get("type") == "start" for tie in note.findall("tie"))


def _own_name(mark: str, taken: Sequence[str]) -> str:
    """A section name from a rehearsal mark: one that no other section has."""
    name = " ".join(mark.replace("[", "(").replace("]", ")").split())[:60]
    numbered = (f"{name} {n}".strip() for n in count(2))
    return next(one for one in chain([name], numbered) if one not in taken)


def _with_ties(sections: Sequence[tuple[str, list[Bar]]]) -> list[tuple[str, tuple[Bar, ...]]]:
    """The sections with those ties only that lead to the same pitch."""
    after: MelodyNote | None = None
    found: list[tuple[str, tuple[Bar, ...]]] = []
    for name, bars in reversed(sections):
        row: list[Bar] = []
        for bar in reversed(bars):
            notes: list[MelodyNote] = []
            for note in reversed(bar.melody):
                tied = note.tied and after is not None and note.pitch is not None and _same(note, after)
                after = replace(note, tied=tied)
                notes.insert(0, after)
            after = after if bar.melody else None
            row.insert(0, replace(bar, melody=tuple(notes)))
        found.insert(0, (name, tuple(row)))
    return found


def _same(one: MelodyNote, other: MelodyNote) -> bool:
    return one.pitch is not None and other.pitch is not None and one.pitch.key == other.pitch.key


def _with_text(chart: Chart) -> Chart:
    """The chart read again from its own text, so that text and bars agree."""
    return chart_text.parse_chart(chart_text.write(chart).decode())
