"""A page of somebody's grips as a song, and a song as such a page (docs/grips-text.md).

It is chart text in which each chord has its notes behind it: ``| Dm7:2: D3 C4 ; F4 A4  G7:2: G2 F3 ; B3 |``.
Without bar lines each line is a bar, but for chords with a length, which fill bars.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from difflib import SequenceMatcher
from fractions import Fraction
from itertools import pairwise

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import chart_text
from yellow_hinge.formats.chart_text.tokens import (
    BAR_METER,
    ENDING,
    METER,
    SECTION,
    fraction,
    header,
    row_kind,
    segments,
)
from yellow_hinge.formats.project_file import Opened
from yellow_hinge.rhythm.time import Meter, beats_text
from yellow_hinge.song.arrangement import Choice
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import Bar, Chart, ChordAt
from yellow_hinge.song.edits import Edit, with_arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips.names import read_note
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.identify import identify
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.numbers import looks_like_number, parse_number
from yellow_hinge.theory.pitch import NoteName, read_pitch
from yellow_hinge.theory.pretty import counted
from yellow_hinge.theory.roman import looks_like_roman, parse_roman
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

#: Limits on what is read.
MOST_LINES, MOST_NOTES = 5000, 5
SUFFIX = ".grips"
_FOUR_FOUR = Meter(4, 4)
#: What begins a chord: its symbol, its length where that is said, and the first of its notes.
_HEAD = re.compile(r"([^:]*):(?:([0-9]+(?:[./][0-9]+)?)(?::|$))?(.*)")
#: Numbers up to this are lengths, beyond it MIDI keys: a piano begins at 21.
_LEAST_KEY = 20
_NO_CHORD = ("N.C.", "NC", "N.C")


class Grip(Struct, frozen=True):
    """A chord with the keys that a player holds for it, and the names they were given."""

    chord: ChordSymbol
    left: tuple[int, ...]
    right: tuple[int, ...]
    spelled: tuple[tuple[int, NoteName], ...] = ()


class _Cell(Struct, frozen=True):
    """A chord as it stands: its symbol in the chart's words, its length if it is said, its grip."""

    symbol: str
    beats: Fraction | None = None
    grip: Grip | None = None

    @property
    def text(self) -> str:
        return self.symbol if self.beats is None else f"{self.symbol}:{beats_text(self.beats)}"


class Page(Struct, frozen=True):
    """What was read: a chart, and for each of its written chords the grip that stands there."""

    chart: Chart
    grips: tuple[Grip | None, ...]


# --- reading -----------------------------------------------------------------------------


def looks_like(text: str) -> bool:
    """Whether some line has a chord with notes for both hands."""
    for line in text.split("\n"):
        if header(line) or row_kind(line) or line.lstrip().startswith("#"):
            continue
        head, semicolon, _ = line.partition(";")
        words = head.replace("|", " ").replace(":", " ").replace(",", " ").split()
        if semicolon and (":" in head or words) and all(_is_note(word) for word in words[-1:]):
            return True
        if not semicolon and ":" in line and len(words) > 2 and all(_is_note(word) for word in words[1:]):
            return True
    return False


def _is_note(word: str) -> bool:
    return read_pitch(word) is not None or (
        word.isascii() and word.isdigit() and _LEAST_KEY < int(word[:4]) < 128
    )


def read_page(text: str, place: str = "grips", key: Key | None = None) -> Page:
    """A page of grips; ``key`` is what numbers are read in where the text has no ``key:``. Raises
    :class:`BadInput` with every bad line."""
    reader, lines = _Reader(place, key), chart_text.cleaned(text).split("\n")
    if len(lines) > MOST_LINES:
        raise BadInput(Problem(place, f"{len(lines)} lines are too many for a page of grips", "split it"))
    for number, line in enumerate(lines, 1):
        reader.line(number, line)
    return reader.page()


def read_grips(text: str, key: Key | None, place: str = "grips") -> list[Grip]:
    """The grips of a page one after the other. Raises :class:`BadInput` with every bad line."""
    return [grip for grip in read_page(text, place, key).grips if grip is not None]


class _Reader:
    """Makes chart text of a page, line by line, and keeps the grips apart."""

    def __init__(self, place: str, key: Key | None) -> None:
        self._place = place
        self._key, self._said_key = key, False
        self._meter = _FOUR_FOUR
        self._lines: list[str] = []
        self._bars: list[list[_Cell]] = []  # of each bar written, for % and for the grips
        self._open: list[_Cell] = []  # chords with lengths that do not fill a bar yet
        self._problems: list[Problem] = []

    def line(self, number: int, line: str) -> None:
        """Read one line."""
        said = header(line)
        if said or row_kind(line) or SECTION.fullmatch(line) or not line.strip() or line.lstrip()[0] == "#":
            closing = self._closed() if line.strip() and line.lstrip()[0] != "#" else ""
            if closing:
                self._lines[-1] += closing
            self._lines.append(line)
            if said:
                self._heading(*said)
            return
        try:
            self._lines.append(self._barred(line) if "|" in line else self._plain(line))
        except BadInput as error:
            self._lines.append("")
            self._problems += [
                replace(problem, place=f"{self._place}: line {number}: {problem.place}", line=number)
                for problem in error.problems
            ]

    def page(self) -> Page:
        """What was read. Raises :class:`BadInput`."""
        closing = self._closed()
        if closing:
            self._lines[-1] += closing
        if self._problems:
            raise BadInput(self._problems[:100])
        if not any(cell.grip for bar in self._bars for cell in bar):
            raise BadInput(Problem(self._place, "there are no grips", "write one a line: Dm7: D3 C4 ; F4 A4"))
        key = [f"key: {self._key}"] if self._key is not None and not self._said_key else []
        try:
            chart = chart_text.parse_chart("\n".join([*key, *self._lines]) + "\n")
        except BadInput as error:
            lines = ((problem, max(1, problem.line - len(key))) for problem in error.problems)
            raise BadInput(
                replace(problem, place=f"{self._place}: line {line}", line=line, column=0)
                for problem, line in lines
            ) from None
        return Page(chart, tuple(cell.grip for bar in self._bars for cell in bar))

    def _heading(self, name: str, value: str) -> None:
        if name == "key":
            try:
                self._key, self._said_key = parse_key(value.strip()), True
            except BadInput:
                return  # the chart's reader says so
        if name == "meter" and (match := METER.fullmatch(value.strip())):
            self._meter = Meter(int(match[1]), int(match[2]))

    # --- bars ---

    def _barred(self, line: str) -> str:
        """A line with bar lines."""
        closed = self._closed()
        for segment in segments(line, 0):
            text, head = segment.text, "| "
            ending = ENDING.match(text)
            if ending:
                text, head = text[ending.end() :], f"|{ending[1]}. "
            match = BAR_METER.match(text)
            if match:
                text, head = text[match.end() :], f"{head}{match[0].strip()} "
            if text.strip() == "%" and self._bars:
                self._bars.append(self._bars[-1])
                closed += f"{head}% "
                continue
            cells = self._cells(text)
            self._bars.append(cells)
            closed += head + " ".join(cell.text for cell in cells) + " "
        return f"{closed}|"

    def _plain(self, line: str) -> str:
        """A line without bar lines: each chord a bar, chords with lengths as many as fill one."""
        found = ""
        for cell in self._cells(line):
            if cell.beats is None:
                found += self._closed()
                self._open = [cell]
                found += self._closed()
                continue
            self._open.append(cell)
            if sum(one.beats or 0 for one in self._open) >= self._meter.beats:
                found += self._closed()
        return found + ("|" if found else "")

    def _closed(self) -> str:
        """The bar that is open, as chart text: with a meter of its own where it does not add up."""
        cells, self._open = self._open, []
        if not cells:
            return ""
        self._bars.append(cells)
        length = sum((cell.beats or 0 for cell in cells), Fraction(0))
        own = ""
        if length not in (0, self._meter.beats):
            finer = length.denominator
            own = f"({length.numerator}/{self._meter.unit * finer}) "
            cells = [replace(cell, beats=(cell.beats or 0) * finer) for cell in cells]
        return f"| {own}{' '.join(cell.text for cell in cells)} "

    # --- chords ---

    def _cells(self, text: str) -> list[_Cell]:
        """The chords of a bar, or of a line without bar lines."""
        words = text.replace(";", " ; ").replace(",", " ").split()
        groups: list[list[str]] = []
        for word in words:
            if ":" in word or word in _NO_CHORD or not groups or not self._belongs(groups[-1], word):
                groups.append([])
            groups[-1].append(word)
        whole = list(self._joined(groups))
        for bare, notes in pairwise(whole):
            if len(bare) == 1 and ":" not in bare[0] and ":" not in notes[0] and ";" in notes:
                raise _no_colon(bare[0])
        cells = [self._cell(group) for group in whole]
        if not cells:
            raise BadInput(Problem(text.strip() or "bar", "there is no chord", "write N.C. for no chord"))
        return cells

    @staticmethod
    def _belongs(group: Sequence[str], word: str) -> bool:
        """Whether a word goes on with the grip before it."""
        return ":" in group[0] or word == ";" or ";" in group or (_is_note(group[0]) and _is_note(word))

    @staticmethod
    def _joined(groups: Sequence[list[str]]) -> Iterator[list[str]]:
        """Words that look like notes and have no semicolon are chords, where nothing says that they are a
        grip: C6 is one."""
        for group in groups:
            keys = any(word.isdigit() for word in group)
            if ":" in group[0] or ";" in group or len(group) != 2 or keys:
                yield group
            else:
                yield from ([word] for word in group)

    def _cell(self, words: list[str]) -> _Cell:
        head = _HEAD.fullmatch(words[0])
        if head is None:
            if len(words) == 1 and not words[0].isdigit():
                return self._bare(words[0])
            if not _is_note(words[0]) and words[0] != ";":
                raise _no_colon(" ".join(words))
            return self._nameless(words, None)
        symbol, beats_word, first = head[1], head[2], head[3]
        beats = fraction(beats_word) if beats_word else None
        if beats_word and (beats is None or (words[0].count(":") == 1 and beats > _LEAST_KEY)):
            first, beats = beats_word, None  # C:48 is a grip of one key
        notes = [first, *words[1:]] if first else words[1:]
        if not symbol:
            return self._nameless(notes, beats)
        if symbol in _NO_CHORD or not notes:
            if notes:
                raise BadInput(Problem(symbol, "no chord has no grip", "leave its notes out"))
            if beats is None and symbol not in _NO_CHORD:
                raise _no_notes(symbol)
            return _Cell(symbol, beats)
        chord = read_symbol(symbol, self._key)
        if chord is None:
            raise BadInput(Problem(symbol, "no chord has no grip", "leave this line out"))
        return _Cell(symbol, beats, _grip(chord, notes, symbol))

    def _bare(self, word: str) -> _Cell:
        """A chord without a grip."""
        if word not in _NO_CHORD:
            read_symbol(word, self._key)
        return _Cell(word)

    def _nameless(self, notes: Sequence[str], beats: Fraction | None) -> _Cell:
        """A grip that is named from its notes."""
        place = " ".join(notes)[:40]
        (left, right), spelled = _hands(notes, place)
        keys = sorted({*left, *right})
        names = {key % 12: name for key, name in spelled}
        heard = identify(keys, names, most=1, left=len(left) if left and right else None)
        if not heard:
            raise BadInput(
                Problem(place, "these notes have no name", "write the chord before them: C: 48 52")
            )
        return _Cell(str(heard[0].chord), beats, Grip(heard[0].chord, left, right, spelled))


def _no_colon(place: str) -> BadInput:
    return BadInput(Problem(place[:40], "there is no colon", "write the chord, a colon, and the notes"))


def _no_notes(place: str) -> BadInput:
    return BadInput(Problem(place or "grip", "there are no notes", "write notes as C#3 or 49"))


def _grip(chord: ChordSymbol, notes: Sequence[str], place: str) -> Grip:
    (left, right), spelled = _hands(notes, place)
    return Grip(chord, left, right, spelled)


def _hands(
    notes: Sequence[str], place: str
) -> tuple[tuple[tuple[int, ...], tuple[int, ...]], tuple[tuple[int, NoteName], ...]]:
    left, _, right = " ".join(notes).partition(";")
    found = read_hands(left, right, place)
    if not any(found[0]):
        raise _no_notes(place)
    return found


def read_hands(
    left: str, right: str, place: str
) -> tuple[tuple[tuple[int, ...], tuple[int, ...]], tuple[tuple[int, NoteName], ...]]:
    """The keys of both hands, and the names that were written for them. Raises :class:`BadInput`."""
    hands = [_read_hand(words, place) for words in (left, right)]
    spelled = tuple((k, name) for hand in hands for k, name in hand if name is not None)
    lows, highs = (tuple(sorted({k for k, _ in hand})) for hand in hands)
    return (lows, highs), spelled


def _read_hand(words: str, symbol: str) -> list[tuple[int, NoteName | None]]:
    notes = [read_note(word, symbol) for word in words.replace(",", " ").replace(";", " ; ").split()]
    if len({key for key, _ in notes}) > MOST_NOTES:
        raise BadInput(Problem(symbol, f"{len(notes)} notes in one hand", f"a hand has {MOST_NOTES} fingers"))
    return notes


def read_symbol(text: str, key: Key | None) -> ChordSymbol | None:
    """A chord symbol, or a number or Roman numeral where a key is given."""
    if key is not None and looks_like_number(text):
        return parse_number(text, key, place=text)
    if key is not None and looks_like_roman(text):
        return parse_roman(text, key, place=text)
    return parse_chord(text, place=text)


# --- as a song, and back -----------------------------------------------------------------


def read_song(data: bytes, place: str, library: Library) -> Opened:
    """A file of grips as a song with its grips locked. Raises :class:`BadInput`."""
    page = read_page(chart_text.decode(data, place), place)
    return Opened(locked(Song(page.chart), page, library))


def locked(song: Song, page: Page, library: Library) -> Song:
    """The page's own song with all of its grips locked."""
    return _locked(song, dict(enumerate(page.grips)), library)


def _locked(song: Song, grips: Mapping[int, Grip | None], library: Library) -> Song:
    """The song with grips locked in its written chords, by their number in the text."""
    keys, choices = local_keys(song), dict(song.arrangement.choices)
    number = {written.id: k for k, written in enumerate(song.chart.written)}
    for slot in song.plain_slots:
        grip, at = grips.get(number[slot.at.written]), At(slot.at.written)
        if grip is not None and slot.chord is not None:
            voicing = classify(grip.left, grip.right, slot.chord, keys[slot.place], library)
            choices[at] = Choice(voicing, locked=True, own=True)
    return with_arrangement(song, song.current, replace(song.arrangement, choices=choices))


def laid_over(song: Song, page: Page, library: Library) -> Edit:
    """The page's grips locked in the chords of a song, matched by order and sound; what has no place, and
    which chords stay as they are, is said."""
    written = [one.chord for one in song.chart.written]
    theirs = [(grip.chord, grip) for grip in page.grips if grip is not None]
    mine = [_sound(chord) for chord in written]
    pairs = SequenceMatcher(None, [_sound(chord) for chord, _ in theirs], mine, autojunk=False)
    places = {block.b + k: block.a + k for block in pairs.get_matching_blocks() for k in range(block.size)}
    laid = {number: theirs[place][1] for number, place in places.items()}
    used = frozenset(places.values())
    lost = tuple(f"the grip of {chord.pretty}" for k, (chord, _) in enumerate(theirs) if k not in used)
    bare = sum(chord is not None for chord in written) - len(laid)
    remarks = (f"{counted(bare, 'chord')} of the song had no grip on the page",) if bare else ()
    return Edit(_locked(song, laid, library), f"Paste {counted(len(laid), 'grip')}", None, lost, remarks)


def _sound(chord: ChordSymbol | None) -> tuple[object, ...]:
    """What makes two symbols the same chord, however they are spelled."""
    if chord is None:
        return ()
    return (chord.root.pitch_class, chord.bass_name.pitch_class, chord.degrees)


def write(song: Song) -> bytes:
    """The chords with their grips, a bar a line, as the take that is worked on has them. Reading it gives
    the chords and grips again. Raises :class:`BadInput` for a song without any."""
    if not any(slot.chord for slot in song.slots):
        raise BadInput(Problem("grips", "there are no chords to hold", "write a chart with chords first"))
    arrangement = song.arrangement
    chart = _with_swaps(song)
    held: list[Voicing | None] = []
    for written in song.chart.written:
        parts = range(1, 1 + len(arrangement.swaps[written.id])) if written.id in arrangement.swaps else [0]
        choices = (arrangement.choices.get(At(written.id, part)) for part in parts)
        held += [None if choice is None else choice.voicing for choice in choices]
    chords = [one.chord for one in chart.written]
    notes = [_notes(chord, grip) for chord, grip in zip(chords, held, strict=True)]
    return chart_text.write(chart, notes)


def _notes(chord: ChordSymbol | None, grip: Voicing | None) -> str:
    return "" if chord is None or grip is None or not grip.keys else f": {grip_text(chord, grip)}"


def grip_text(chord: ChordSymbol, grip: Voicing) -> str:
    """The notes of a grip as a page has them: the left hand's before the semicolon."""
    left, right = (" ".join(map(str, hand.pitches(chord))) for hand in (grip.left, grip.right))
    return f"{left} ; {right}".strip()


def _with_swaps(song: Song) -> Chart:
    """The chart with what stands for its chords."""
    swaps, ids = song.arrangement.swaps, iter([written.id for written in song.chart.written])

    def changed(bars: Iterable[Bar]) -> tuple[Bar, ...]:
        found = []
        for bar in bars:
            chords: list[ChordAt] = []
            for at in bar.chords:
                chords += swaps.get(next(ids), (at,))
            words = bar.words if bar.melody or len(chords) == len(bar.chords) else ()
            found.append(replace(bar, chords=tuple(chords), words=words))
        return tuple(found)

    sections = []
    for section in song.chart.sections:
        bars = changed(section.bars)
        sections.append(replace(section, bars=bars, endings=tuple(map(changed, section.endings))))
    return replace(song.chart, sections=tuple(sections), ids=(), text="")
