"""ChordPro: words with chords in brackets, and grids of bars; in and out."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from fractions import Fraction
from itertools import groupby
from math import gcd, lcm

from msgspec import Struct, field

from yellow_hinge.errors import BadInput
from yellow_hinge.formats.chart_text import cleaned, decode
from yellow_hinge.formats.chart_text.tokens import fraction
from yellow_hinge.formats.form_in import MOST_TIMES, Signs, played_order
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.over_words import section_of
from yellow_hinge.formats.song_lines import MOST_BARS, Lines, german
from yellow_hinge.rhythm.time import Meter, beats_text
from yellow_hinge.song.chart import Bar, Chart, Move, PlayedBar, Syllable
from yellow_hinge.song.words import Singing
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord, symbol_text
from yellow_hinge.theory.keys import Key, plainest_key

_DIRECTIVE = re.compile(r"\{\s*([A-Za-z_-]+)\s*(?::\s*(.*?)\s*|\s+(.*?)\s*)?\}\s*")
_SHORT = {"t": "title", "st": "subtitle", "c": "comment", "ci": "comment", "cb": "comment", "k": "key",
          "soc": "start_of_chorus", "eoc": "end_of_chorus", "sov": "start_of_verse", "eov": "end_of_verse",
          "sob": "start_of_bridge",
          "eob": "end_of_bridge", "sog": "start_of_grid", "eog": "end_of_grid", "sot": "start_of_tab",
          "eot": "end_of_tab", "ns": "new_song"}  # fmt: skip
_NOT_READ = ("tab", "abc", "ly", "svg", "textblock")
_LABEL = re.compile(r"""label\s*=\s*(["'])(.*?)\1""")
_SHAPE = re.compile(r"""(?:shape\s*=\s*(["'])?)?[0-9x+]+\1?""")
_CHORD = re.compile(r"\[([^\[\]]*)\]")
_META = re.compile(r"(key|time|tempo|capo|title|composer|artist)\b\s*:?\s*(.*)", re.I)
_MODE = re.compile(r"\s*(?:major|maj|dur)\s*$", re.I)
#: What we write behind a chord that lasts otherwise than its neighbours: an annotation, which is no chord.
_LASTS = re.compile(r"\*:([0-9./]+)")
_BARS_A_LINE = 4


def read(data: bytes, place: str = "song", german: bool | None = None) -> Imported:
    """Read a song. Chords that cannot be read are no chord and said with their place; what ChordPro has for
    guitars and for print alone is left out. ``german``: whether B is B flat; None: judged. Raises
    :class:`BadInput` where there are no chords."""
    return _Reader(cleaned(decode(data, place)).split("\n"), place, german).run()


class _GridBar(Struct):
    """A bar of a grid with what it says of repeats."""

    cells: list[tuple[ChordSymbol | None, int]]
    line: int
    held: tuple[Key | None, Meter, int]
    signs: Signs = field(default_factory=Signs)


class _Piece(Struct):
    """A chord of a line of words: its name, the text behind it, its length where it is said, whether a bar
    begins with it, and its column."""

    name: str
    text: str
    beats: Fraction | None
    opens: bool | None
    column: int


class _Reader:
    def __init__(self, lines: Sequence[str], place: str, german: bool | None) -> None:
        self._text = lines
        self.lines = Lines(place)
        self._grid: list[_GridBar] | None = None
        self._skips = False
        self._chorus = ""
        self._moved = 0
        names = [match[1].strip() for line in lines for match in _CHORD.finditer(line)]
        self._german = self.lines.judge_names(names, german)

    def run(self) -> Imported:
        for number, line in enumerate(self._text, 1):
            plain = line.strip()
            if plain.startswith("#"):
                continue
            match = _DIRECTIVE.fullmatch(plain)
            if match:
                name = match[1].lower()
                self._directive(_SHORT.get(name, name), (match[2] or match[3] or "").strip(), number)
            elif plain and not self._skips:
                if self._grid is not None:
                    self._grid_line(plain, number)
                else:
                    self._sung(line, number)
        self._end_grid()
        return self.lines.imported()

    def _directive(self, name: str, value: str, line: int) -> None:
        lines = self.lines
        label = _LABEL.search(value)
        value = label[2] if label else value
        if name == "meta":
            match = _META.fullmatch(value)
            name, value = (match[1].lower(), match[2]) if match else ("", "")
        if name == "title":
            lines.title = lines.title or value
        elif name in ("artist", "composer"):
            lines.composer = value if name == "composer" or not lines.composer else lines.composer
        elif name in ("key", "time", "tempo", "capo"):
            self._holds(name, value, line)
        elif name == "transpose":
            self._transpose(value, line)
        elif name == "chorus":
            if not lines.repeat(self._chorus or value or "chorus"):
                lines.say(line, "there is no chorus before", "it is left out")
        elif name == "comment":
            section = section_of(value)
            if section is not None:
                lines.begin(*section)
        else:
            self._environment(name, value, label is not None, line)

    def _holds(self, name: str, value: str, line: int) -> None:
        if name == "key":
            value = _MODE.sub("", german(value) if self._german else value)
        self.lines.holds(name, value, line)
        if name == "key" and self._moved and self.lines.key is not None:
            self.lines.key = _moved_key(self.lines.key, self._moved)

    def _transpose(self, value: str, line: int) -> None:
        """Chords sound higher or lower from here on, and the key with them."""
        match = re.fullmatch(r"([+-]?[0-9]{1,2})[sf]?", value or "0")
        if match is None or abs(int(match[1])) > 12:
            self.lines.say(line, f"transpose {value!r} cannot be read", "it is left out")
            return
        by = int(match[1]) - self._moved
        self._moved = int(match[1])
        if self.lines.key is not None:
            self.lines.key = _moved_key(self.lines.key, by)

    def _environment(self, name: str, value: str, labelled: bool, line: int) -> None:
        lines = self.lines
        if name.startswith("start_of_") and name[9:] in _NOT_READ:
            self._skips = True
            lines.say(line, f"{name[9:]} is not read", "it is left out")
        elif name == "start_of_grid":
            self._end_grid()
            self._grid = []
            if value and (labelled or not _SHAPE.fullmatch(value)):
                lines.begin(value)
        elif name.startswith("start_of_"):
            lines.begin(value or name[9:].replace("_", " ").capitalize())
        elif name.startswith("end_of_"):
            self._skips = False
            self._end_grid()
            if name[7:] in _NOT_READ:
                return
            before = lines.parts[-1] if lines.parts else None
            lines.close()
            if name == "end_of_chorus" and before is not None and before.row:
                self._chorus = before.name

    def _chord(self, text: str, line: int, column: int) -> ChordSymbol | None:
        plain = text.strip()
        plain = plain[1:-1] if plain.startswith("(") and plain.endswith(")") else plain
        try:
            chord = parse_chord(german(plain) if self._german else plain)
        except BadInput as error:
            self.lines.say(line, error.problems[0].what, "no chord is taken; write it in the chart", column)
            return None
        if not self._moved:
            return chord
        key = self.lines.key or plainest_key(self._moved, minor=False)
        return Move(_moved_key(key, -self._moved), key, 0, usual=True).chord(chord)

    # --- words with chords ---

    def _sung(self, line: str, number: int) -> None:
        """Words from one chord to the next; what stands before the first goes with the chord before, or with
        the first where there is none. [|] is a bar line."""
        if not any(not match[1].strip().startswith("*") for match in _CHORD.finditer(line)):
            words = " ".join(_CHORD.sub("", line).split())
            section = section_of(words)
            if section is not None:
                self.lines.begin(*section)
            elif words:
                self.lines.add_words(words)
            return
        barred = any(match[1].strip() == "|" for match in _CHORD.finditer(line))
        pieces: list[_Piece] = []
        opens: bool | None = True if barred else None
        ahead, at = "", 0
        for match in _CHORD.finditer(line):
            text, name = line[at : match.start()], match[1].strip()
            at = match.end()
            if pieces:
                pieces[-1].text += text
            else:
                ahead += text
            lasts = _LASTS.fullmatch(name)
            if name == "|":
                opens = True
            elif lasts and pieces:
                pieces[-1].beats = fraction(lasts[1])
            elif name and not name.startswith("*"):
                pieces.append(_Piece(name, "", None, opens, match.start() + 2))
                opens = False if barred else None
        if not pieces:
            return
        pieces[-1].text += line[at:]
        pieces[0].text = f"{ahead.rstrip()} {pieces[0].text}" if ahead.strip() else pieces[0].text
        for piece, after in zip(pieces, [*pieces[1:], None], strict=True):
            text = piece.text
            joined = (
                after is not None
                and bool(text.strip() and after.text)
                and not (text[-1].isspace() or after.text[0].isspace())
            )
            words = " ".join(text.split())
            self.lines.add(
                self._chord(piece.name, number, piece.column), words.rstrip("-") if joined else words, number,
                beats=piece.beats, opens=piece.opens, joined=joined,
            )  # fmt: skip

    # --- grids ---

    def _grid_line(self, line: str, number: int) -> None:
        """Bars with a cell for each beat: a chord, a point where it goes on, % for the bar before; repeats
        and endings at the bar lines. What stands before the first line and behind the last is a label."""
        grid, opened = self._grid, Signs()
        cells: list[str] = []
        assert grid is not None
        started, column = False, 1
        for match in re.finditer(r":?\|+[:.]?|[^\s|:]+", line):
            word = match[0]
            if "|" not in word:
                if started and not cells and re.fullmatch(r"[0-9](?:,[0-9])*\.?", word):
                    opened.ending = frozenset(int(digit) for digit in re.findall(r"[0-9]", word))
                elif started:
                    column = column if cells else match.start() + 1
                    cells.append(word)
                continue
            if cells:
                grid += self._bars_of(cells, number, column, opened)
                cells, opened = [], Signs()
            if word.startswith(":") and grid:
                grid[-1].signs.ends = 2
            opened.begins |= word.endswith(":")
            started = True
        times = re.fullmatch(r"x([0-9]{1,2})|([0-9]{1,2})x", cells[0]) if cells else None
        if times and grid and grid[-1].signs.ends:
            grid[-1].signs.ends = max(1, min(MOST_TIMES, int(times[1] or times[2])))

    def _bars_of(self, words: Sequence[str], line: int, column: int, opened: Signs) -> list[_GridBar]:
        grid = self._grid
        assert grid is not None
        if words in (["%"], ["%%"]) and grid:
            count = len(words[0])
            bars = [_GridBar(bar.cells, line, self.lines.held) for bar in grid[-count:]]
        else:
            bars = [_GridBar(self._cells(words, line, column), line, self.lines.held)]
        bars[0].signs = opened
        return bars

    def _cells(self, words: Sequence[str], line: int, column: int) -> list[tuple[ChordSymbol | None, int]]:
        cells: list[tuple[ChordSymbol | None, int]] = []
        for word in words:
            if word in (".", "/") and cells:
                cells[-1] = (cells[-1][0], cells[-1][1] + 1)
            elif word not in (".", "/"):
                cells += [(self._chord(own, line, column), 1) for own in word.split("~") if own]
        return cells or [(None, 1)]

    def _end_grid(self) -> None:
        """The bars of the grid as they are played."""
        grid, self._grid = self._grid, None
        if not grid:
            return
        order = played_order([bar.signs for bar in grid], MOST_BARS, lambda *_: None)
        after = self.lines.held
        for at in order:
            bar = grid[at]
            self.lines.held = bar.held
            count, beats = sum(own for _, own in bar.cells), self.lines.meter.beats
            for place, (chord, own) in enumerate(bar.cells):
                self.lines.add(chord, "", bar.line, beats=Fraction(own * beats, count), opens=not place)
        self.lines.held = after


def _moved_key(key: Key, semitones: int) -> Key:
    return plainest_key(key.tonic.pitch_class + semitones, key.minor)


# --- writing -------------------------------------------------------------------------------------


def write(chart: Chart) -> bytes:
    """Words with chords over them where there are words, else grids; every round by itself, since its words
    are its own. Verses beyond the rounds are comments."""
    lines = [f"{{title: {_plain(chart.title) or 'Untitled'}}}"]
    if chart.composer:
        lines.append(f"{{composer: {_plain(chart.composer)}}}")
    lines += [f"{{key: {chart.key}}}", f"{{time: {chart.meter}}}", f"{{tempo: {chart.tempo}}}"]
    writer = _Writer(chart)
    for (name, turn), group in groupby(
        enumerate(chart.played), key=lambda item: (item[1].section.name, item[1].round)
    ):
        lines += ["", *writer.section(name, turn, list(group))]
    return ("\n".join(lines) + "\n").encode()


def _plain(text: str) -> str:
    return " ".join(text.replace("{", "(").replace("}", ")").split())


class _Writer:
    def __init__(self, chart: Chart) -> None:
        self._singing = Singing(chart)
        self._chart = chart
        self._now: tuple[Key, Meter, int] = (chart.key, chart.meter, chart.tempo)

    def section(self, name: str, turn: int, bars: Sequence[tuple[int, PlayedBar]]) -> Iterator[str]:
        """The bars of a round, with what changes before them."""
        sung = any(self._singing.verses(index) for index, _ in bars) or (
            bars[0][0] == 0 and any(self._chart.pickup_words)
        )
        kind = "verse" if sung else "grid"
        yield f"{{start_of_{kind}: {_plain(name) or 'Song'}{f' {turn}' if turn > 1 else ''}}}"
        row: list[str] = []
        for index, played in bars:
            changes = list(self._changes(played.bar))
            if row and (changes or len(row) == _BARS_A_LINE):
                yield _joined(row, sung)
                row = []
            yield from changes
            row.append(self._sung_bar(index, played.bar) if sung else _grid_bar(played.bar))
        yield _joined(row, sung)
        yield f"{{end_of_{kind}}}"
        for number in range(1, max((len(self._singing.verses(index)) for index, _ in bars), default=0)):
            texts = (self._singing.verses(index)[number:] for index, _ in bars)
            words = (
                " ".join(one.text for _, one in verse[0].syllables if one.text) for verse in texts if verse
            )
            yield f"{{comment: {_plain(' '.join(words))}}}"

    def _changes(self, bar: Bar) -> Iterator[str]:
        now = (bar.key, bar.meter, bar.tempo)
        for name, own, before in zip(("key", "time", "tempo"), now, self._now, strict=True):
            if own != before:
                yield f"{{{name}: {own}}}"
        self._now = now

    def _sung_bar(self, index: int, bar: Bar) -> str:
        """The chords of a bar, each before the syllables that are sung while it lasts."""
        verses = self._singing.verses(index)[:1]
        syllables = list(verses[0].syllables) if verses else []
        if index == 0 and any(self._chart.pickup_words):
            first = next(row for row in self._chart.pickup_words if row)
            syllables = [*((Fraction(0), one) for one in first), *syllables]
        even = len({at.beats for at in bar.chords}) == 1
        text, now = "", Fraction(0)
        for at in bar.chords:
            end = now + at.beats
            text += f"[{symbol_text(at.chord)}]" + ("" if even else f"[*:{beats_text(at.beats)}]")
            text += _run([one for place, one in syllables if now <= place < end])
            now = end
        return text


def _run(syllables: Sequence[Syllable]) -> str:
    """Syllables as words; one that goes on under the next chord touches it."""
    text = ""
    for syllable in syllables:
        if not syllable.held:
            text += syllable.text.replace("\u00a0", " ") + ("" if syllable.joined else " ")
    return text or " "


def _joined(row: Sequence[str], sung: bool) -> str:
    """Some bars as a line."""
    return "".join(f"[|]{bar}" for bar in row).rstrip() if sung else f"| {' | '.join(row)} |"


def _grid_bar(bar: Bar) -> str:
    """A cell for each beat, or for the longest part that all its chords are made of."""
    lengths = [at.beats for at in bar.chords]
    under = lcm(*(length.denominator for length in lengths))
    part = Fraction(gcd(*(int(length * under) for length in lengths)), under)
    part = Fraction(1) if part.denominator == 1 else part
    cells = []
    for at in bar.chords:
        cells.append(symbol_text(at.chord))
        cells += ["."] * (int(at.beats / part) - 1)
    return " ".join(cells)
