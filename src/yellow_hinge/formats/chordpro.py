"""ChordPro: words with chords in brackets, and grids of bars; in and out."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from fractions import Fraction

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.chart_text import cleaned, decode
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.song_lines import Lines, Sung
from yellow_hinge.song.chart import Bar, Chart, PlayedBar, Syllable, struck
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord, symbol_text

_DIRECTIVE = re.compile(r"\{\s*([A-Za-z_-]+)\s*(?::\s*(.*?)\s*|\s+(.*?)\s*)?\}\s*")
_SHORT = {"t": "title", "st": "subtitle", "c": "comment", "ci": "comment", "cb": "comment",
          "soc": "start_of_chorus", "eoc": "end_of_chorus", "sov": "start_of_verse", "eov": "end_of_verse",
          "sob": "start_of_bridge",
          "eob": "end_of_bridge", "sog": "start_of_grid", "eog": "end_of_grid", "sot": "start_of_tab",
          "eot": "end_of_tab"}  # fmt: skip
_CHORD = re.compile(r"\[([^\[\]]*)\]")
_BARS_A_LINE = 4


def read(data: bytes, place: str = "song") -> Imported:
    """Read a song. Chords that cannot be read are no chord and said with their place; what ChordPro has for
    guitars and for print alone is left out. Raises :class:`BadInput` where there are no chords."""
    return _Reader(cleaned(decode(data, place)), place).run()


class _Reader:
    def __init__(self, text: str, place: str) -> None:
        self._lines, self._place = text.split("\n"), place
        self._found = Lines()
        self._grid = self._skips = False

    def run(self) -> Imported:
        for number, line in enumerate(self._lines, 1):
            plain = line.strip()
            if plain.startswith("#"):
                continue
            match = _DIRECTIVE.fullmatch(plain)
            if match:
                name = match[1].lower()
                self._directive(_SHORT.get(name, name), (match[2] or match[3] or "").strip(), number)
            elif plain and not self._skips:
                if self._grid:
                    self._bars(plain, number)
                else:
                    self._sung(line, number)
        return self._found.imported(self._place)

    def _directive(self, name: str, value: str, line: int) -> None:
        lines = self._found
        value = value.removeprefix('label="').rstrip('"') if value.startswith("label=") else value
        if name == "title":
            lines.title = lines.title or value
        elif name in ("artist", "composer"):
            lines.composer = lines.composer or value
        elif name in ("key", "time", "tempo", "capo"):
            lines.holds(name, value, f"{self._place}, line {line}", line)
        elif name in ("start_of_tab", "start_of_abc", "start_of_ly", "start_of_svg", "start_of_textblock"):
            self._skips = True
            self._say(line, f"{name[9:]} is not read", "it is left out")
        elif name == "start_of_grid":
            self._grid = True
            if value and not re.fullmatch(r"[0-9x+]+", value):
                lines.begin(value)
        elif name.startswith("start_of_"):
            lines.begin(value or name[9:].capitalize())
        elif name.startswith("end_of_"):
            self._grid = self._skips = False
        elif name == "chorus" and not lines.repeat(value or "chorus"):
            self._say(line, "there is no chorus before", "it is left out")

    def _say(self, line: int, what: str, remedy: str, column: int = 0) -> None:
        where = f"{self._place}, line {line}" + (f", column {column}" if column else "")
        self._found.problems.append(Problem(where, what, remedy, line, column))

    def _chord(self, text: str, line: int, column: int) -> ChordSymbol | None:
        plain = text.strip()
        plain = plain[1:-1] if plain.startswith("(") and plain.endswith(")") else plain
        try:
            return parse_chord(plain)
        except BadInput as error:
            self._say(line, error.problems[0].what, "no chord is taken; write it in the chart", column)
            return None

    # --- words with chords ---

    def _sung(self, line: str, number: int) -> None:
        """Words from one chord to the next; what stands before the first goes with it. [|] is a bar line."""
        pieces = list(_CHORD.finditer(line))
        row = self._found.row
        if not pieces:
            return  # words alone: nobody can say where they are sung
        ahead = " ".join(line[: pieces[0].start()].split())
        barred = any(piece[1].strip() == "|" for piece in pieces)
        opens: bool | None = True if barred else None
        for place, piece in enumerate(pieces):
            end = pieces[place + 1].start() if place + 1 < len(pieces) else len(line)
            words = " ".join(line[piece.end() : end].split())
            name = piece[1].strip()
            if name.startswith("*") or not name:
                continue  # a remark for the eye
            if name == "|":
                opens, ahead = True, f"{ahead} {words}".strip()
                continue
            text = f"{ahead} {words}".strip()
            row.append(Sung(self._chord(name, number, piece.start() + 2), text, None, opens))
            ahead = ""
            opens = False if barred else None

    # --- grids ---

    def _bars(self, line: str, number: int) -> None:
        """Bars with a cell for each beat: a chord, a point where it goes on, % for the bar before."""
        first = line.find("|")
        if first < 0:
            return
        before: list[Sung] = []
        for text, column in _cells(line, first):
            words = text.split()
            if words == ["%"]:
                self._found.row.extend(before)
                continue
            bar = self._bar(words, number, column)
            if bar:
                self._found.row.extend(bar)
                before = bar

    def _bar(self, words: Sequence[str], line: int, column: int) -> list[Sung]:
        cells: list[tuple[ChordSymbol | None, int]] = []
        for word in words:
            if word in (".", "/") and cells:
                cells[-1] = (cells[-1][0], cells[-1][1] + 1)
            elif word not in (".", "/"):
                cells += [(self._chord(one, line, column), 1) for one in word.split("~")]
        count = sum(own for _, own in cells)
        beats = self._found.meter.beats
        return [
            Sung(chord, "", Fraction(own * beats, count), not place)
            for place, (chord, own) in enumerate(cells)
        ]


def _cells(line: str, first: int) -> Iterator[tuple[str, int]]:
    """What stands between bar lines, with its column; labels outside are none."""
    for match in re.finditer(r"\|[|:.]*([^|]*)", line[first:]):
        text = match[1].replace(":", " ")
        last = first + match.end() == len(line) and "|" not in line[first + match.start(1) :]
        if text.strip() and not last:
            yield text, first + match.start(1) + 1


# --- writing -------------------------------------------------------------------------------------


def write(chart: Chart) -> bytes:
    """Words with chords over them where there are words, else grids; a section that comes again is written
    again only where its words are others."""
    lines = [f"{{title: {chart.title or 'Untitled'}}}"]
    if chart.composer:
        lines.append(f"{{composer: {chart.composer}}}")
    lines += [f"{{key: {chart.key}}}", f"{{time: {chart.meter}}}", f"{{tempo: {chart.tempo}}}"]
    rounds: dict[tuple[str, int], list[PlayedBar]] = {}
    for bar in chart.played:
        rounds.setdefault((bar.section.name, bar.round), []).append(bar)
    for (name, turn), bars in rounds.items():
        sung = any(_row(bar) for bar in bars)
        title = f"{name or 'Song'}{f' {turn}' if turn > 1 else ''}"
        lines.append("")
        if sung:
            lines += [f"{{start_of_verse: {title}}}", *_sung_lines(bars), "{end_of_verse}"]
        else:
            lines += [f"{{start_of_grid: {title}}}", *_grid_lines(bars), "{end_of_grid}"]
    return ("\n".join(lines) + "\n").encode()


def _row(bar: PlayedBar) -> Sequence[Syllable]:
    rows = bar.bar.words
    return rows[bar.round - 1] if bar.round <= len(rows) else ()


def _sung_lines(bars: Sequence[PlayedBar]) -> Iterator[str]:
    for first in range(0, len(bars), _BARS_A_LINE):
        yield "".join(f"[|]{_sung_bar(bar)}" for bar in bars[first : first + _BARS_A_LINE]).rstrip()


def _sung_bar(bar: PlayedBar) -> str:
    """The chords of a bar, each before the syllables that are sung while it lasts."""
    places = _places(bar.bar)
    syllables = list(zip(places, _row(bar), strict=False))
    text, now = "", Fraction(0)
    for at in bar.bar.chords:
        end = now + at.beats
        text += f"[{symbol_text(at.chord)}]"
        for place, syllable in syllables:
            if now <= place < end and not syllable.held and syllable.text.strip():
                text += syllable.text.replace("\u00a0", " ") + ("" if syllable.joined else " ")
        text = text if text.endswith((" ", "]")) else f"{text}-"
        now = end
    return text if text.endswith(" ") else f"{text} "


def _places(bar: Bar) -> list[Fraction]:
    """Where the syllables of a bar are sung, in beats: on its notes, or on its chords."""
    places, now, tied = [], Fraction(0), False
    if bar.melody and struck(bar.melody):
        for note in bar.melody:
            if note.pitch is not None and not tied:
                places.append(now)
            tied = note.tied
            now += note.beats
        return places
    for at in bar.chords:
        places.append(now)
        now += at.beats
    return places


def _grid_lines(bars: Sequence[PlayedBar]) -> Iterator[str]:
    for first in range(0, len(bars), _BARS_A_LINE):
        row = bars[first : first + _BARS_A_LINE]
        yield "| " + " | ".join(_grid_bar(bar.bar) for bar in row) + " |"


def _grid_bar(bar: Bar) -> str:
    """A cell for each part of the bar that all its chords are made of."""
    lengths = [at.beats for at in bar.chords]
    part = min([Fraction(1), *lengths])
    while any((length / part).denominator > 1 for length in lengths):
        part /= 2 if part.denominator < 64 else part.denominator + 1
        if part.denominator > 128:
            break
    cells = []
    for at in bar.chords:
        cells.append(symbol_text(at.chord))
        cells += ["."] * (int(at.beats / part) - 1)
    return " ".join(cells)
