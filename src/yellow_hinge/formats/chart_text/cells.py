"""Bars of a chart text one by one: changed, put in, taken out, copied, with everything else left as it is
typed.

A cell is what stands between two bar lines, with its pieces of the rows below (tune, words, lines of a hand).
Bars count from 0 in the order of the text, as :attr:`Chart.written` has them.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.formats.chart_text.tokens import (
    BAR_METER,
    ENDING,
    TOKEN,
    header,
    row_kind,
    segments,
)
from yellow_hinge.formats.chart_text.writer import chords_text, pieces_text
from yellow_hinge.rhythm.time import beats_text
from yellow_hinge.song.chart import Chart

#: A row below bars: its kind, and which one of that kind it is (words may have several).
Below = tuple[str, int]


class Cell(Struct, frozen=True):
    """A bar as it is typed, without the blanks around it, and its pieces of the rows below."""

    text: str
    below: dict[Below, str] = field(default_factory=dict)

    @property
    def opening(self) -> str:
        """What stands before its chords: the number of an ending, a meter of its own."""
        ending = ENDING.match(self.text)
        after = ending.end() if ending else 0
        meter = BAR_METER.match(self.text[after:])
        return self.text[: after + (meter.end() if meter else 0)]

    @property
    def chords(self) -> str:
        return self.text[len(self.opening) :].strip()

    def with_chords(self, chords: str) -> Cell:
        """Other chords behind the same opening."""
        return replace(self, text=f"{self.opening.rstrip()} {chords}".strip())


class _Row(Struct):
    """A line of bars: its number from 0, its cells, and the lines of the rows below it."""

    line: int
    cells: list[Cell]
    below: dict[Below, int]

    @property
    def bars(self) -> str:
        return f"|{'|'.join(_padded(cell.text) for cell in self.cells)}|"

    @property
    def kinds(self) -> Iterable[Below]:
        """The rows below, those that only a cell knows of behind the others."""
        return dict.fromkeys([*self.below, *(kind for cell in self.cells for kind in cell.below)])

    def pieces(self, kind: Below) -> list[str]:
        return [cell.below.get(kind, "") for cell in self.cells]

    def line_of(self, kind: Below) -> str:
        return f"{kind[0]}:{pieces_text(self.pieces(kind))}".rstrip()


def _padded(text: str) -> str:
    """Endings stand at the bar line, everything else has blanks around it."""
    return f"{text} " if ENDING.match(text) else f" {text} "


def _rows(text: str) -> list[_Row]:
    rows: list[_Row] = []
    for number, line in enumerate(text.split("\n")):
        if not line.strip() or line.lstrip().startswith("#") or header(line):
            continue
        kind = row_kind(line)
        if kind is None and "|" in line:
            found = [Cell(segment.text.strip()) for segment in segments(line, 0)]
            rows.append(_Row(number, found, {}))
        elif kind is not None and rows:
            _take_below(rows[-1], number, line, kind)
    return rows


def _take_below(row: _Row, number: int, line: str, kind: str) -> None:
    key = kind, sum(one == kind for one, _ in row.below)
    row.below[key] = number
    pieces = segments(line, line.index(":") + 1, escapes=kind == "lyrics")
    for place, piece in enumerate(pieces):
        if place < len(row.cells):
            cell = row.cells[place]
            row.cells[place] = replace(cell, below={**cell.below, key: piece.text.strip()})


def _written(text: str, before: Sequence[_Row], after: Sequence[_Row]) -> str:
    """The text with other cells in its rows; what did not change stays as it is typed."""
    lines: list[str | None] = list(text.split("\n"))
    behind: dict[int, list[str]] = {}
    for old, new in zip(before, after, strict=True):
        if old.cells == new.cells:
            continue
        line = lines[old.line] or ""
        lines[old.line] = line[: len(line) - len(line.lstrip())] + new.bars if new.cells else None
        for kind, number in old.below.items():
            if new.pieces(kind) != old.pieces(kind):
                lines[number] = new.line_of(kind) if any(new.pieces(kind)) else None
        more = [new.line_of(kind) for kind in new.kinds if kind not in old.below and any(new.pieces(kind))]
        behind[max(old.line, *old.below.values(), 0)] = more
    whole = ((one, behind.get(number, ())) for number, one in enumerate(lines))
    return "\n".join(words for one, more in whole for words in (one, *more) if words is not None)


class Cells:
    """The bars of a text that reads as a chart, in their order."""

    def __init__(self, text: str, chart: Chart) -> None:
        self._text = text
        self._rows = _rows(text)
        self._places = [(row, k) for row, found in enumerate(self._rows) for k in range(len(found.cells))]
        self._bars = [bar for section in chart.sections for bar in section.every_bar]

    def __len__(self) -> int:
        return len(self._places)

    def cell(self, place: int) -> Cell:
        """A bar with its own chords, also where it was typed as a repeat of the one before."""
        row, k = self._places[place]
        found = self._rows[row].cells[k]
        return found.with_chords(chords_text(self._bars[place])) if found.chords == "%" else found

    def with_chord(self, place: int, at: int, word: str) -> str:
        """Another chord in a bar, from 0; it lasts as long as the one before."""
        tokens = self._tokens(place)
        beats = tokens[at].partition(":")[1:]
        tokens[at] = word if ":" in word else word + "".join(beats)
        return self._with({place: [self.cell(place).with_chords(" ".join(tokens))]})

    def divided(self, place: int, at: int) -> str:
        """A chord of a bar twice, each half as long."""
        tokens, bar = self._tokens(place), self._bars[place]
        words = [token.partition(":")[0] for token in tokens]
        beats = [chord.beats for chord in bar.chords]
        words[at : at + 1], beats[at : at + 1] = [words[at]] * 2, [beats[at] / 2] * 2
        return self._with({place: [self.cell(place).with_chords(_shared(words, beats))]})

    def split(self, place: int, at: int) -> str:
        """A bar as two: the chords from one on in the second. Where that is the first one its chords come
        twice. Its rows below stay with the first."""
        cell, tokens, bar = self.cell(place), self._tokens(place), self._bars[place]
        words = [token.partition(":")[0] for token in tokens]
        beats = [chord.beats for chord in bar.chords]
        cut = at or len(words)
        whole = sum(beats, Fraction(0))
        parts = [(words[:cut], beats[:cut]), (words[cut:], beats[cut:])] if at else [(words, beats)] * 2
        scaled = [_shared(own, [one * whole / sum(long, Fraction(0)) for one in long]) for own, long in parts]
        second = Cell(cell.opening[len(_ending(cell.text)) :].strip())
        return self._with({place: [cell.with_chords(scaled[0]), second.with_chords(scaled[1])]})

    def copied(self, places: Iterable[int]) -> str:
        """Bars as a line of chart text, with the rows below them."""
        cells = [self.cell(place) for place in places]
        plain = [replace(cell, text=cell.text[len(_ending(cell.text)) :].strip()) for cell in cells]
        row = _Row(0, plain, {})
        return "\n".join((row.bars, *map(row.line_of, row.kinds)))

    def inserted(self, behind: int, text: str) -> str:
        """Bars of another text behind a bar (-1: before the first); its rows below come along."""
        new = [cell for row in _rows(text) for cell in row.cells]
        if behind < 0:
            return self._with({0: [*new, self.cell(0)]})
        return self._with({behind: [self.cell(behind), *new]})

    def without(self, places: Iterable[int]) -> str:
        """The text without some bars. An ending that goes on begins with its next bar."""
        gone = set(places)
        changed: dict[int, list[Cell]] = {place: [] for place in gone}
        for place in sorted(gone):
            ending = _ending(self.cell(place).text)
            heir = place + 1
            while heir in gone and not _ending(self.cell(heir).text):
                heir += 1
            if ending and heir < len(self) and not _ending(self.cell(heir).text):
                cell = self.cell(heir)
                changed[heir] = [replace(cell, text=f"{ending.strip()} {cell.text}")]
        return self._with(changed)

    def _tokens(self, place: int) -> list[str]:
        return TOKEN.findall(self.cell(place).chords)

    def _with(self, changed: dict[int, list[Cell]]) -> str:
        """The text with other cells in some places; a repeat of a bar that changes says its own chords."""
        after = [_Row(row.line, [], dict(row.below)) for row in self._rows]
        for place, (row, k) in enumerate(self._places):
            repeats = self._rows[row].cells[k].chords == "%"
            own = self.cell(place) if repeats and place - 1 in changed else self._rows[row].cells[k]
            after[row].cells += changed.get(place, [own])
        return _written(self._text, self._rows, after)


def _ending(text: str) -> str:
    match = ENDING.match(text)
    return match[0] if match else ""


def _shared(words: Sequence[str], beats: Sequence[Fraction]) -> str:
    """Chords of a bar with their lengths, where these are not all the same."""
    if len(set(beats)) == 1:
        return " ".join(words)
    return " ".join(f"{word}:{beats_text(one)}" for word, one in zip(words, beats, strict=True))


def bars_in(text: str) -> bool:
    """Whether a text has any bars to put in."""
    return any(row.cells for row in _rows(text))
