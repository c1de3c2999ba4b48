"""A chart as text, in our own layout: four bars to a line."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from msgspec import Struct

from yellow_hinge.formats.chart_text.tokens import LINES, words_text
from yellow_hinge.rhythm.time import beats_text
from yellow_hinge.song.chart import Bar, Chart, LineNote, MelodyNote, Section, Words
from yellow_hinge.theory.chord_symbol import symbol_text

_BARS_A_LINE = 4


def write(chart: Chart, behind: Sequence[str] = ()) -> bytes:
    """The chart as text; what is read from it is the same chart again. ``behind`` is what stands behind each
    written chord, in a bar a line."""
    return ("\n".join(_Writer(chart, behind).lines()) + "\n").encode()


class _Mark(Struct, frozen=True):
    """A bar with what stands before it: the number of the ending that it opens, 0 for none."""

    bar: Bar
    ending: int = 0


class _Writer:
    def __init__(self, chart: Chart, behind: Sequence[str]) -> None:
        self._chart, self._behind = chart, iter(behind)
        self._plain = not behind  # a length says where the next chord begins
        self._bars_a_line = _BARS_A_LINE if self._plain else 1
        self._key, self._meter, self._tempo = chart.key, chart.meter, chart.tempo

    def lines(self) -> Iterator[str]:
        chart = self._chart
        yield f"title: {chart.title}"
        if chart.composer:
            yield f"composer: {chart.composer}"
        yield f"key: {chart.key}"
        yield f"meter: {chart.meter}"
        yield f"tempo: {chart.tempo}"
        if chart.pickup:
            yield f"pickup: {beats_text(chart.pickup)}"
        if chart.numbering != "home":
            yield f"numbers: {chart.numbering}"
        if chart.form:
            yield f"form: {', '.join(chart.form)}"
        if chart.pickup_melody:
            yield f"melody: {_notes_text(chart.pickup_melody)}"
            yield from (f"lyrics: {words_text(words)}" for words in chart.pickup_words)
        for section in chart.sections:
            yield ""
            times = f" x{section.times}" if section.times > 1 else ""
            if section.name or times or section is not chart.sections[0]:
                yield f"[{section.name}]{times}"
            yield from self._section(section)

    def _section(self, section: Section) -> Iterator[str]:
        marks = [_Mark(bar) for bar in section.bars]
        for number, ending in enumerate(section.endings, 1):
            marks += [_Mark(bar, number if place == 0 else 0) for place, bar in enumerate(ending)]
        row: list[_Mark] = []
        for mark in marks:
            headings = list(self._headings(mark.bar))
            if row and (headings or mark.ending or len(row) == self._bars_a_line):
                yield from self._row(row)
                row = []
            yield from headings
            row.append(mark)
        if row:
            yield from self._row(row)

    def _headings(self, bar: Bar) -> Iterator[str]:
        """What changes before a bar."""
        if bar.key != self._key:
            yield f"key: {bar.key}"
            self._key = bar.key
        if bar.meter != self._meter and not bar.alone:
            yield f"meter: {bar.meter}"
            self._meter = bar.meter
        if bar.tempo != self._tempo:
            yield f"tempo: {bar.tempo}"
            self._tempo = bar.tempo

    def _row(self, marks: Sequence[_Mark]) -> Iterator[str]:
        text = ""
        for mark in marks:
            text += f"|{mark.ending}. " if mark.ending else "| "
            text += (f"({mark.bar.meter}) " if mark.bar.alone else "") + self._bar_text(mark.bar) + " "
        yield text + "|"
        bars = [mark.bar for mark in marks]
        if any(bar.melody for bar in bars):
            yield tune_line(bars)
        for name, hand in LINES.items():
            if any(bar.line_of(hand) for bar in bars):
                yield f"{name}:" + pieces_text([_line_text(bar.line_of(hand)) for bar in bars])
        for number in range(max(len(bar.words) for bar in bars)):
            yield "lyrics:" + pieces_text([words_text(_words(bar, number)) for bar in bars])

    def _bar_text(self, bar: Bar) -> str:
        even = len({at.beats for at in bar.chords}) == 1 and (self._plain or len(bar.chords) == 1)
        return " ".join(
            (symbol_text(at.chord)) + ("" if even else f":{beats_text(at.beats)}") + next(self._behind, "")
            for at in bar.chords
        )


def tune_line(bars: Sequence[Bar]) -> str:
    """The line that gives the tune of a row of bars."""
    return "melody:" + pieces_text([_notes_text(bar.melody) for bar in bars])


def _words(bar: Bar, number: int) -> Words:
    return bar.words[number] if number < len(bar.words) else ()


def chords_text(bar: Bar) -> str:
    """The chords of a bar as they are written, with their lengths where these are not all the same."""
    even = len({at.beats for at in bar.chords}) == 1
    return " ".join(symbol_text(at.chord) + ("" if even else f":{beats_text(at.beats)}") for at in bar.chords)


def pieces_text(texts: Sequence[str]) -> str:
    """Pieces with bar lines between them; a first one that is blank has a bar line before it."""
    return (" |" if not texts[0] else "") + " |".join(f" {text}" for text in texts)


def _line_text(notes: Sequence[LineNote]) -> str:
    return " ".join(
        f"{'+'.join(map(str, note.pitches)) or 'r'}:{beats_text(note.beats)}{'~' if note.tied else ''}"
        for note in notes
    )


def _notes_text(notes: Sequence[MelodyNote]) -> str:
    return " ".join(
        f"{'r' if note.pitch is None else note.pitch}:{beats_text(note.beats)}{'~' if note.tied else ''}"
        for note in notes
    )
