"""Reading chart text. All errors of a chart are found in one reading, each with line and column."""

from __future__ import annotations

import re
from collections.abc import Sequence
from fractions import Fraction
from functools import partial

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.chart_text.complaints import MOST_WORDS, Complaints, Place
from yellow_hinge.formats.chart_text.form import read_form
from yellow_hinge.formats.chart_text.headings import Headings, read_meter, unknown_line
from yellow_hinge.formats.chart_text.tokens import (
    BAR_METER,
    ENDING,
    LINES,
    SECTION,
    Segment,
    header,
    row_kind,
    segments,
)
from yellow_hinge.formats.chart_text.tune import PICKUP, TuneReader, words_of
from yellow_hinge.formats.imported import Imported
from yellow_hinge.rhythm.patterns import Hand
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.chart import Bar, Chart, ChordAt, MelodyNote, Section, Words
from yellow_hinge.song.words import Singing, ends_tied, seated, spread, struck_at, with_words, without_empty
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.numbers import looks_like_number, parse_number
from yellow_hinge.theory.roman import looks_like_roman, parse_roman

#: Limits on hostile input.
MAX_BYTES = 1_000_000
MAX_BARS = 4_000
MAX_TIMES = 16
MOST_VERSES = 1_000
MAX_ENDINGS = 9

_BARS_FIRST = "write the bars first, the tune and the words in rows below them"
_NO_BARS = "write chords between bar lines: | C | G7 |"


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
    text = decode(data, place)
    plain = cleaned(text)
    remark = Problem(place, "line ends of another kind were made plain", "nothing needs to be done")
    chart = parse_chart(plain)
    names = dict.fromkeys(section.name for section in chart.sections if _TIMES_IN.search(section.name))
    remarks = [
        Problem(place, f"[{name}] is a name, and played once", "write the times behind it: [Chorus] x2")
        for name in names
    ]
    return Imported(chart, (*(() if _plain_ends(text) == plain else (remark,)), *remarks))


#: Times in a section's name, where others write them.
_TIMES_IN = re.compile(r"\s[x\u00d7][0-9]+\s*$|\s[0-9]+[x\u00d7]\s*$", re.IGNORECASE)
#: What other systems and word processors end lines with.
_LINE_ENDS = re.compile("\r\n|[\r\v\f\x1c-\x1e\x85\u2028\u2029]")


def cleaned(text: str) -> str:
    """Text without what no chart can hold: line ends become plain ones, halves of characters a sign."""
    return strict.whole_text(_LINE_ENDS.sub("\n", text))[0].replace("\0", "\ufffd")


def _plain_ends(text: str) -> str:
    """What is no remark: the line ends of other systems."""
    return text.replace("\r\n", "\n").replace("\r", "\n")


def parse_chart(text: str) -> Chart:
    """Read chart text, :func:`cleaned`. Raises :class:`BadInput` with every problem, in the order of
    the text."""
    reader = _Reader(cleaned(text))
    chart = reader.run()
    problems = reader.complaints.found
    if problems or chart is None:
        raise BadInput(sorted(problems, key=lambda problem: (problem.line, problem.column)))
    return chart


class _Open(Struct):
    """A section as it grows: indices of its bars, and of those of each ending."""

    name: str
    times: int
    body: list[int] = field(default_factory=list)
    endings: list[list[int]] = field(default_factory=list)

    @property
    def here(self) -> list[int]:
        return self.endings[-1] if self.endings else self.body

    def before(self, index: int) -> int | None:
        """The bar before one of its bars: for an ending's first one the body's last."""
        for bars in (self.body, *self.endings):
            if index in bars:
                place = bars.index(index)
                if place:
                    return bars[place - 1]
                return self.body[-1] if self.body and bars is not self.body else None
        return None

    def closed(self, bars: Sequence[Bar]) -> Section:
        endings = tuple(tuple(bars[i] for i in ending) for ending in self.endings)
        return Section(self.name, tuple(bars[i] for i in self.body), self.times, endings)


class _Row(Struct):
    """A row of bars (or the pickup, where there are no bars yet) with what stands below it."""

    bars: list[int] = field(default_factory=list)
    has_melody: bool = False
    lines: list[Hand] = field(default_factory=list)
    lyrics: int = 0


class _Reader:
    def __init__(self, text: str) -> None:
        self.text = text
        self.complaints = Complaints()
        self.headings = Headings(self.complaints)
        self.tune = TuneReader(self.complaints)
        self.start: tuple[Key, Meter, int] | None = None
        self.sections: list[_Open] = []
        self.bars: list[Bar] = []
        self.row = _Row()
        self.pickup_notes: tuple[MelodyNote, ...] = ()
        self.pickup_words: tuple[Words, ...] = ()
        self.sung: dict[int, list[tuple[int, Segment]]] = {}  # bar -> where its words stand

    def run(self) -> Chart | None:
        lines = self.text.split("\n")
        if not lines[-1]:
            del lines[-1]
        for number, line in enumerate(lines, 1):
            self.headings.read_for_song(number, line)
        for number, line in enumerate(lines, 1):
            self._line(number, line)
            if self.complaints.enough:
                return None
            if len(self.bars) > MAX_BARS:
                self.complaints.add(Place(number, 1), f"more than {MAX_BARS} bars", "split the chart")
                return None
        if not self.complaints.found and not self.bars:
            self.complaints.add(Place(max(1, len(lines)), 1), "the chart has no bars", _NO_BARS)
        return None if self.complaints.found else self._chart()

    def _chart(self) -> Chart | None:
        """The chart, once its form and its ties hold."""
        said = self.headings
        sections = tuple(one.closed(self.bars) for one in self.sections if one.body or one.endings)
        form: tuple[str, ...] = ()
        if said.form is not None:
            form = read_form(self.complaints, *said.form, [section.name for section in sections])
        chart = Chart(
            said.title, said.composer, *(self.start or said.now), pickup=said.pickup or Fraction(0),
            pickup_melody=self.pickup_notes, pickup_words=self.pickup_words, sections=sections, form=form,
            numbering=said.numbering, text=self.text,
        )  # fmt: skip
        if chart.bars_played > MAX_BARS:
            what = f"{chart.bars_played} bars with all repeats are more than {MAX_BARS}"
            self.complaints.add(said.form[1] if said.form else Place(1, 1), what, "play less of it")
        if self.complaints.found:
            return None
        self.tune.check_over_bars(chart)
        return self._seated(chart)

    def _seated(self, chart: Chart) -> Chart:
        """The chart with each syllable at its note: what a tie leads on to is known once the form is."""
        if not self.sung:
            return chart
        joined = Singing(chart).joined
        rows: dict[int, tuple[Words, ...]] = {}
        for index, places in self.sung.items():
            bar, tied = self.bars[index], joined.get(index, False)
            if bar.melody:
                words = tuple(seated(row, bar.melody, tied) for row in bar.words)
                most = len(struck_at(bar.melody, tied))
                for number, segment in places:  # a tie may take the first note
                    words_of(self.complaints, number, segment, most, "notes")
            else:
                words = tuple(spread(row, bar.chords) for row in bar.words)
            if words != bar.words:
                rows[index] = without_empty(words)
        return with_words(chart, rows) if rows else chart

    # --- lines ---

    def _line(self, number: int, line: str) -> None:
        if not line.strip() or line.lstrip().startswith("#"):
            return
        heading, kind, section = header(line), row_kind(line), SECTION.fullmatch(line)
        if heading:
            self.headings.read(number, line, *heading)
        elif kind == "melody":
            self._melody(number, line)
        elif kind == "lyrics":
            self._lyrics(number, line)
        elif kind is not None:
            self._hand_line(number, line, LINES[kind])
        elif section:
            self._section(number, section)
        elif "|" in line:
            self._bars(number, line)
        else:
            unknown_line(self.complaints, number, line)

    def _section(self, number: int, match: re.Match[str]) -> None:
        name, times = match[1].strip(), int((match[2] or "1")[:4])
        place = Place(number, match.start(1) + 1, max(1, len(name)))
        if not 1 <= times <= MAX_TIMES:
            self.complaints.add(place, f"x{times}", f"repeat 1 to {MAX_TIMES} times")
            times = 1
        if any(name == section.name for section in self.sections):
            what = f"there is a section {name!r} already" if name else "one section has no name already"
            self.complaints.add(place, what, "give it another name, or play it again with form:")
        self.sections.append(_Open(name, times))

    def _open_section(self) -> _Open:
        if not self.sections:
            self.sections.append(_Open("", 1))
        return self.sections[-1]

    # --- bars ---

    def _bars(self, number: int, line: str) -> None:
        section = self._open_section()
        self.row = _Row()
        if self.start is None:
            self.start = self.headings.now
        for segment in segments(line, 0):
            if self.complaints.enough or len(self.bars) > MAX_BARS:
                return  # a line may be as long as a file
            inner = self._ending(number, section, segment)
            if inner.blank:
                self._empty(number, inner)
            else:
                section.here.append(len(self.bars))
                self.row.bars.append(len(self.bars))
                self.bars.append(self._bar(number, inner))

    def _empty(self, number: int, segment: Segment) -> None:
        place = Place(number, segment.start + 1)
        self.complaints.add(place, "an empty bar", "write N.C. for no chord, % to repeat")

    def _ending(self, number: int, section: _Open, segment: Segment) -> Segment:
        """Open an ending where the bar says so; give what is left of the bar."""
        match = ENDING.match(segment.text)
        if match is None:
            return segment
        wanted = len(section.endings) + 1
        if int(match[1]) != wanted or wanted > MAX_ENDINGS:
            self.complaints.add(
                Place(number, segment.column, len(match[1]) + 1),
                f"ending {match[1]} comes here",
                f"endings are numbered in turn: the next one is {wanted}"
                if wanted <= MAX_ENDINGS
                else f"at most {MAX_ENDINGS} endings are read",
            )
        section.endings.append([])
        return Segment(segment.start + match.end(), segment.text[match.end() :])

    def _bar(self, number: int, segment: Segment) -> Bar:
        match = BAR_METER.match(segment.text)
        meter = self.headings.meter
        if match is not None:
            read_in = read_meter(match)
            if read_in is None:
                place = Place(number, segment.column, len(match[0].strip()))
                self.complaints.add(place, f"{match[0].strip()} is not a meter", "write (2/4)")
            meter = read_in or meter
            segment = Segment(segment.start + match.end(), segment.text[match.end() :])
        if segment.text.strip() == "%":
            return self._again(number, segment, match is not None)
        chords = self._chords(number, segment, meter)
        return Bar(chords, meter, self.headings.key, self.headings.tempo, match is not None)

    def _again(self, number: int, segment: Segment, measured: bool) -> Bar:
        """The bar before once more, with its length, its tune excluded."""
        place, said = Place(number, segment.column), self.headings
        if not self.bars:
            self.complaints.add(place, "% has no bar before it", "write the chords")
            return Bar((), said.meter, said.key, said.tempo)
        before = self.bars[-1]
        if measured:
            what = "% repeats the bar before with its length"
            self.complaints.add(place, what, "leave the meter out, or write the chords")
        alone = before.meter != said.meter
        bare = replace(before, melody=(), words=(), line=(), left_line=())
        return replace(bare, key=said.key, tempo=said.tempo, alone=alone)

    def _chords(self, number: int, segment: Segment, meter: Meter) -> tuple[ChordAt, ...]:
        tokens = self.complaints.tokens(number, segment)
        chords: list[ChordSymbol | None] = []
        for token in tokens:
            self.complaints.attempt(token.place, partial(self._append_chord, chords, token.word))
        if not tokens:
            self._empty(number, segment)
            return ()
        what = f"bar does not add up in {meter}"
        shared = self.complaints.shared(number, segment, tokens, Fraction(meter.beats), what)
        if len(chords) != len(shared):
            return ()
        return tuple(ChordAt(chord, beats) for chord, beats in zip(chords, shared, strict=True))

    def _append_chord(self, chords: list[ChordSymbol | None], text: str) -> None:
        said = self.headings
        if looks_like_number(text):
            chords.append(parse_number(text, said.key, relative_major=said.numbering == "relative"))
        elif looks_like_roman(text):
            chords.append(parse_roman(text, said.key))
        else:
            chords.append(parse_chord(text))

    # --- the rows below ---

    def _melody(self, number: int, line: str) -> None:
        pieces = list(segments(line, line.index(":") + 1))
        whole = Place(number, 1, len(line))
        if not self.bars:
            self._pickup_melody(number, whole, pieces)
        elif self.row.has_melody:
            what = "the bars above have a melody already"
            self.complaints.add(whole, what, "write each melody below its own row of bars")
        else:
            self.row.has_melody = True
            for index, segment in self._below(number, pieces, "the melody has"):
                meter = self.bars[index].meter
                what = f"bar of the melody does not add up in {meter}"
                notes = self.tune.notes(number, segment, Fraction(meter.beats), index, what)
                self.bars[index] = replace(self.bars[index], melody=notes)

    def _hand_line(self, number: int, line: str, hand: Hand) -> None:
        """What a hand plays in place of its chords."""
        whole = Place(number, 1, len(line))
        if not self.bars:
            self.complaints.add(whole, "this line has no bars above it", _BARS_FIRST)
            return
        if hand in self.row.lines:
            what = f"the bars above have a line of the {hand} hand already"
            self.complaints.add(whole, what, "write each line below its own row of bars")
            return
        self.row.lines.append(hand)
        for index, segment in self._below(number, list(segments(line, line.index(":") + 1)), "the line has"):
            meter = self.bars[index].meter
            what = f"bar of the line does not add up in {meter}"
            notes = self.tune.line(number, segment, Fraction(meter.beats), (index, hand), what)
            own = {"line": notes} if hand == "right" else {"left_line": notes}
            self.bars[index] = replace(self.bars[index], **own)

    def _below(self, number: int, pieces: Sequence[Segment], what: str) -> list[tuple[int, Segment]]:
        """Which bar each piece of a row stands under."""
        bars = self.row.bars
        if len(pieces) > len(bars):
            place = Place(number, pieces[len(bars)].column)
            self.complaints.add(
                place, f"{what} more bars than the row above", "write the bars of the row first"
            )
        return list(zip(bars, pieces, strict=False))

    def _pickup_melody(self, number: int, whole: Place, pieces: Sequence[Segment]) -> None:
        pickup = self.headings.pickup
        if pickup is None:
            what = "a melody before the first bar is a pickup, and how long it is is not said"
            self.complaints.add(whole, what, "write pickup: and its beats at the top, or the bars first")
        elif self.pickup_notes or len(pieces) > 1:
            self.complaints.add(whole, "the pickup has more than one bar", _BARS_FIRST)
        elif pieces:
            what = "pickup does not add up"
            self.pickup_notes = self.tune.notes(number, pieces[0], pickup, PICKUP, what)

    def _lyrics(self, number: int, line: str) -> None:
        pieces = list(segments(line, line.index(":") + 1, escapes=True))
        turn = self.row.lyrics
        self.row.lyrics += 1
        if turn >= MOST_VERSES:
            what = f"more than {MOST_VERSES:,} rows of words below one row of bars"
            self.complaints.add(
                Place(number, 1, len(line)), what, "write further rounds as a section of their own"
            )
            return
        if not self.bars:
            self._pickup_lyrics(number, Place(number, 1, len(line)), pieces)
            return
        for index, segment in self._below(number, pieces, "the words have"):
            bar = self.bars[index]
            # without a tune several words may stand under a chord
            most = self._struck(index) if bar.melody else MOST_WORDS
            words = words_of(self.complaints, number, segment, most, "notes" if bar.melody else "chords")
            if words:
                self.sung.setdefault(index, []).append((number, segment))
                rows = (*bar.words, *((),) * (turn - len(bar.words)), words)
                self.bars[index] = replace(bar, words=rows)

    def _struck(self, index: int) -> int:
        """How many notes of a bar begin in it."""
        before = self.sections[-1].before(index)
        tied = before is not None and ends_tied(self.bars[before].melody)
        return len(struck_at(self.bars[index].melody, tied))

    def _pickup_lyrics(self, number: int, whole: Place, pieces: Sequence[Segment]) -> None:
        if not self.pickup_notes or len(pieces) > 1:
            self.complaints.add(whole, "these words have no bars above them", _BARS_FIRST)
        elif pieces:
            most = len(struck_at(self.pickup_notes, joined=False))
            words = seated(
                words_of(self.complaints, number, pieces[0], most, "notes"), self.pickup_notes, joined=False
            )
            empty = ((),) * (self.row.lyrics - 1 - len(self.pickup_words))  # a verse that begins later
            self.pickup_words = (*self.pickup_words, *empty, words)
