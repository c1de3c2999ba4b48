"""Chart text, the plainest way in. The format is described in docs/chart-text.md.

All errors of a chart are found in one reading, each with line and column.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import partial

from yellow_hinge.errors import BadInput, Problem, YellowHingeError
from yellow_hinge.formats.imported import Imported
from yellow_hinge.rhythm.time import MAX_TEMPO, METER_UNITS, MIN_TEMPO, Meter, beats_text, share
from yellow_hinge.song.model import Bar, ChordAt, MelodyNote, Numbering, Section, Settings, Song
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.numbers import looks_like_number, parse_number
from yellow_hinge.theory.pitch import Pitch, read_pitch
from yellow_hinge.theory.roman import looks_like_roman, parse_roman

#: Limits on hostile input.
MAX_BYTES = 1_000_000
MAX_BARS = 4_000
MAX_TIMES = 16

HEADERS = ("title", "key", "meter", "tempo", "numbers")
_HEADER = re.compile(r"\s*([A-Za-z]+)\s*:(.*)")
_SECTION = re.compile(r"\s*\[([^\]]*)\]\s*(?:[x×]\s*(\d+))?\s*")
_TOKEN = re.compile(r"[^\s|]+")
_METER = re.compile(r"\s*(\d{1,2})\s*/\s*(\d{1,2})\s*")
_NUMBERINGS: dict[str, Numbering] = {"home": "home", "relative": "relative", "roman": "roman"}


def decode(data: bytes, place: str = "chart") -> str:
    """The text of a chart file. Raises :class:`BadInput` for binary and oversized data."""
    if len(data) > MAX_BYTES:
        raise BadInput(Problem(place, f"{len(data)} bytes are too long for a chart", "split it"))
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = "\0"
    if "\0" in text:
        raise BadInput(
            Problem(place, "this is not a text file", "open a chart text, MusicXML or project file")
        )
    return text


def read(data: bytes, place: str = "chart") -> Imported:
    """Read a chart file. Raises :class:`BadInput` with every problem found."""
    return Imported(parse_chart(decode(data, place)))


def parse_chart(text: str) -> Song:
    """Read chart text. Raises :class:`BadInput` with every problem, in the order of the text."""
    reader = _Reader(text)
    reader.run()
    if reader.problems:
        raise BadInput(sorted(reader.problems, key=lambda problem: (problem.line, problem.column)))
    return reader.song()


@dataclass
class _OpenSection:
    name: str
    times: int
    bars: list[Bar]
    tune_bars: int = 0

    def close(self) -> Section:
        return Section(self.name, tuple(self.bars), self.times)


class _Reader:
    def __init__(self, text: str) -> None:
        self.text = text
        self.problems: list[Problem] = []
        self.title, self.tempo = "", 100
        self.key, self.meter = parse_key("C"), Meter()
        self.numbering: Numbering = "home"
        self.sections: list[_OpenSection] = []
        self.bar_count = 0

    def complain(self, line: int, column: int, what: str, remedy: str, length: int = 1) -> None:
        place = f"line {line}, column {column}"
        self.problems.append(Problem(place, what, remedy, line, column, length))

    def run(self) -> None:
        lines = self.text.splitlines()
        for number, line in enumerate(lines, 1):  # key and meter count wherever they stand
            header = _header(line)
            if header:
                self._header(number, line, *header)
        for number, line in enumerate(lines, 1):
            self._line(number, line)
            if self.bar_count > MAX_BARS:
                self.complain(number, 1, f"more than {MAX_BARS} bars", "split the chart")
                return
        if not self.problems and not any(section.bars for section in self.sections):
            self.complain(
                max(1, len(lines)), 1, "the chart has no bars", "write chords between bar lines: | C | G7 |"
            )

    def song(self) -> Song:
        sections = tuple(section.close() for section in self.sections if section.bars)
        settings = Settings(numbering=self.numbering)
        return Song(self.title, self.key, self.meter, self.tempo, sections, settings, chart=self.text)

    # --- lines ---

    def _header(self, number: int, line: str, name: str, value: str) -> None:
        column = line.index(":") + 2
        word = value.strip()
        if name == "title":
            self.title = word
        elif name == "key":
            self._try(number, column, len(value), lambda: setattr(self, "key", parse_key(word)))
        elif name == "meter":
            self._meter(number, column, word)
        elif name == "numbers":
            if word in _NUMBERINGS:
                self.numbering = _NUMBERINGS[word]
            else:
                self.complain(number, column, f"{word!r} is no numbering", "write home, relative or roman")
        elif word.isdigit() and MIN_TEMPO <= int(word) <= MAX_TEMPO:
            self.tempo = int(word)
        else:
            self.complain(
                number, column, f"{word!r} is not a tempo",
                f"write beats a minute, {MIN_TEMPO} to {MAX_TEMPO}", len(value),
            )  # fmt: skip

    def _meter(self, number: int, column: int, word: str) -> None:
        match = _METER.fullmatch(word)
        if match and 1 <= int(match[1]) <= 24 and int(match[2]) in METER_UNITS:
            self.meter = Meter(int(match[1]), int(match[2]))
        else:
            self.complain(number, column, f"{word!r} is not a meter", "write 3/4, 4/4, 6/8", len(word))

    def _try(self, line: int, column: int, length: int, action: Callable[[], object]) -> None:
        try:
            action()
        except YellowHingeError as error:
            for problem in error.problems:
                at = column + max(0, problem.column - 1)
                self.complain(line, at, problem.what, problem.remedy, problem.length or length)

    def _line(self, number: int, line: str) -> None:
        if not line.strip() or line.lstrip().startswith("#") or _header(line):
            return
        section = _SECTION.fullmatch(line)
        if section:
            self._section(number, section)
        elif line.lstrip().lower().startswith("melody:"):
            self._melody(number, line, line.index(":") + 1)
        elif "|" in line:
            self._bars(number, line)
        else:
            self._unknown(number, line)

    def _unknown(self, number: int, line: str) -> None:
        column = len(line) - len(line.lstrip()) + 1
        header = _HEADER.fullmatch(line)
        if line.lstrip().startswith("["):
            self.complain(
                number, column, "the section heading is not complete", "write [Verse] or [Verse] x2"
            )
        elif header:
            self.complain(
                number, column, f"{header[1]!r} is not a heading of a chart",
                f"use {', '.join(HEADERS)} or melody", len(header[1]),
            )  # fmt: skip
        else:
            self.complain(
                number, column, f"{line.strip()[:24]!r} is outside bar lines",
                "write chords between bar lines: | C | G7 |", len(line.strip()),
            )  # fmt: skip

    def _section(self, number: int, match: re.Match[str]) -> None:
        times = int(match[2] or 1)
        if not 1 <= times <= MAX_TIMES:
            self.complain(number, match.start(2) + 1, f"x{times}", f"repeat 1 to {MAX_TIMES} times")
            times = 1
        self.sections.append(_OpenSection(match[1].strip(), times, []))

    def _open_section(self) -> _OpenSection:
        if not self.sections:
            self.sections.append(_OpenSection("", 1, []))
        return self.sections[-1]

    # --- bars ---

    def _bars(self, number: int, line: str) -> None:
        section = self._open_section()
        for start, segment in _segments(line, 0):
            if not segment.strip():
                self.complain(number, start + 1, "an empty bar", "write N.C. for no chord, % to repeat")
                continue
            self.bar_count += section.times
            if segment.strip() == "%":
                if section.bars:
                    section.bars.append(replace(section.bars[-1], melody=()))
                else:
                    column = start + segment.index("%") + 1
                    self.complain(number, column, "% has no bar before it", "write the chords")
                continue
            section.bars.append(Bar(self._bar(number, start, segment)))

    def _bar(self, number: int, start: int, segment: str) -> tuple[ChordAt, ...]:
        chords: list[ChordSymbol | None] = []
        lengths: list[Fraction | None] = []
        for column, symbol, beats in self._tokens(number, start, segment):
            self._try(number, column, len(symbol), partial(self._append_chord, chords, symbol))
            lengths.append(beats)
        shared = self._share(number, start, segment, lengths)
        if shared is None or len(chords) != len(shared):
            return ()
        return tuple(ChordAt(chord, beats) for chord, beats in zip(chords, shared, strict=True))

    def _append_chord(self, chords: list[ChordSymbol | None], text: str) -> None:
        if looks_like_number(text):
            relative = self.numbering == "relative"
            chords.append(parse_number(text, self.key, relative_major=relative))
        elif looks_like_roman(text):
            chords.append(parse_roman(text, self.key))
        else:
            chords.append(parse_chord(text))

    def _tokens(self, number: int, start: int, segment: str) -> Iterator[tuple[int, str, Fraction | None]]:
        for match in _TOKEN.finditer(segment):
            symbol, colon, beats_word = match[0].partition(":")
            column = start + match.start() + 1
            beats = _fraction(beats_word)
            if colon and beats is None:
                at = column + len(symbol) + 1
                self.complain(
                    number, at, f"{beats_word!r} is not a length", "write beats: 2, 1.5 or 3/2",
                    max(1, len(beats_word)),
                )  # fmt: skip
            yield column, symbol, beats

    def _share(
        self, number: int, start: int, segment: str, lengths: list[Fraction | None]
    ) -> list[Fraction] | None:
        try:
            return share(Fraction(self.meter.beats), lengths)
        except ValueError as error:
            column = start + len(segment) - len(segment.lstrip()) + 1
            self.complain(
                number, column, f"this bar does not add up in {self.meter}: {error}",
                f"make it {self.meter.beats} beats", len(segment.strip()),
            )  # fmt: skip
            return None

    def _melody(self, number: int, line: str, after: int) -> None:
        section = self._open_section()
        for start, segment in _segments(line, after):
            if section.tune_bars >= len(section.bars):
                self.complain(
                    number, start + 1, "the melody has more bars than the chords above it",
                    "write the bars of the section first",
                )  # fmt: skip
                return
            notes: list[Pitch | None] = []
            lengths: list[Fraction | None] = []
            for column, word, beats in self._tokens(number, start, segment):
                pitch = read_pitch(word)
                if pitch is None and word not in ("r", "R"):
                    self.complain(
                        number, column, f"{word!r} is not a melody note",
                        "write note and octave, as C#5:2, or r:1 for a rest", len(word),
                    )  # fmt: skip
                notes.append(pitch)
                lengths.append(beats)
            shared = self._share(number, start, segment, lengths) if notes else []
            if shared:
                tune = tuple(MelodyNote(p, b) for p, b in zip(notes, shared, strict=True))
                bar = section.bars[section.tune_bars]
                section.bars[section.tune_bars] = replace(bar, melody=tune)
            section.tune_bars += 1


def _header(line: str) -> tuple[str, str] | None:
    match = _HEADER.fullmatch(line)
    return (match[1].lower(), match[2]) if match and match[1].lower() in HEADERS else None


def _fraction(word: str) -> Fraction | None:
    try:
        value = Fraction(word)
    except (ValueError, ZeroDivisionError):
        return None
    return value if 0 < value <= 64 and value.denominator <= 96 else None


def _segments(line: str, after: int) -> Iterator[tuple[int, str]]:
    """(start index, text) of what stands between bar lines; outer blanks and || are no bars."""
    pieces: list[tuple[int, str]] = []
    index = after
    for piece in line[after:].split("|"):
        pieces.append((index, piece))
        index += len(piece) + 1
    last = len(pieces) - 1
    for place, (start, piece) in enumerate(pieces):
        outer = place in (0, last) and not piece.strip()
        if piece and not outer:
            yield start, piece


# --- writing -------------------------------------------------------------------------


def write(song: Song) -> bytes:
    """The song as chart text, in our own layout (four bars to a line)."""
    lines = [
        f"title: {song.title}", f"key: {song.key}", f"meter: {song.meter}", f"tempo: {song.tempo}",
    ]  # fmt: skip
    if song.settings.numbering != "home":
        lines.append(f"numbers: {song.settings.numbering}")
    for section in song.sections:
        lines.append("")
        times = f" x{section.times}" if section.times > 1 else ""
        if section.name or times:
            lines.append(f"[{section.name}]{times}")
        lines += _section_lines(section)
    return ("\n".join(lines) + "\n").encode()


def _section_lines(section: Section) -> Iterator[str]:
    for first in range(0, len(section.bars), 4):
        bars = section.bars[first : first + 4]
        yield "| " + " | ".join(_bar_text(bar) for bar in bars) + " |"
        if any(bar.melody for bar in bars):
            yield "melody: " + " | ".join(_melody_text(bar) for bar in bars)


def _bar_text(bar: Bar) -> str:
    even = len({at.beats for at in bar.chords}) == 1
    return " ".join(
        ("N.C." if at.chord is None else str(at.chord)) + ("" if even else f":{beats_text(at.beats)}")
        for at in bar.chords
    )


def _melody_text(bar: Bar) -> str:
    if not bar.melody:
        total = sum((at.beats for at in bar.chords), Fraction(0))
        return f"r:{beats_text(total)}"
    return " ".join(
        f"{'r' if note.pitch is None else note.pitch}:{beats_text(note.beats)}" for note in bar.melody
    )


# --- transposing in place ------------------------------------------------------------


def transpose_text(text: str, new_key: Key) -> str:
    """The same chart in another key, its layout and comments untouched.

    Symbols and melody move; numbers stay as they are, since they follow the key line.
    The text must be a valid chart.
    """
    song = parse_chart(text)
    letters = (new_key.tonic.step - song.key.tonic.step) % 7
    semitones = (new_key.tonic.pitch_class - song.key.tonic.pitch_class) % 12
    melody_st = (semitones + 5) % 12 - 5
    lines, has_key = [], False
    for line in text.splitlines(keepends=True):
        header = _header(line.rstrip("\r\n"))
        body = line.rstrip("\r\n")
        ending = line[len(body) :]
        if header and header[0] == "key":
            body, has_key = f"{body[: body.index(':') + 1]} {new_key}", True
        elif body.lstrip().lower().startswith("melody:"):
            body = _replace_tokens(
                body, lambda word: _moved_note(word, letters, melody_st), body.index(":") + 1
            )
        elif "|" in body and not header and not body.lstrip().startswith("#"):
            body = _replace_tokens(body, lambda word: _moved_chord(word, letters, semitones), 0)
        lines.append(body + ending)
    return ("" if has_key else f"key: {new_key}\n") + "".join(lines)


def _replace_tokens(line: str, change: Callable[[str], str], after: int) -> str:
    def swap(match: re.Match[str]) -> str:
        word, colon, beats = match[0].partition(":")
        return f"{change(word)}{colon}{beats}"

    return line[:after] + _TOKEN.sub(swap, line[after:])


def _moved_chord(word: str, letters: int, semitones: int) -> str:
    if word == "%" or looks_like_number(word) or looks_like_roman(word):
        return word
    chord = parse_chord(word)
    return word if chord is None else str(chord.transposed(letters, semitones))


def _moved_note(word: str, letters: int, semitones: int) -> str:
    pitch = read_pitch(word)
    if pitch is None:
        return word
    return str(Pitch(pitch.key + semitones, pitch.name.above(letters, semitones % 12)))
