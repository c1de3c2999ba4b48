"""The small pieces of chart text: headings, what stands between bar lines, lengths, words."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from fractions import Fraction

from msgspec import Struct

from yellow_hinge import strict
from yellow_hinge.rhythm.patterns import Hand
from yellow_hinge.song.chart import Syllable
from yellow_hinge.song.words import WITHIN

HEADERS = ("title", "composer", "key", "meter", "tempo", "pickup", "form", "numbers")
ROWS = ("melody", "lyrics", "line", "line left")
#: Rows of what a hand plays in place of its chords, and whose they are.
LINES: Mapping[str, Hand] = {"line": "right", "line left": "left"}

HEADER = re.compile(r"\s*([A-Za-z]+(?: [Ll]eft)?)\s*:(.*)")
SECTION = re.compile(r"\s*\[([^\]]*)\]\s*(?:[x×]\s*([0-9]+))?\s*")
TOKEN = re.compile(r"[^\s|]+")
METER = re.compile(r"([0-9]{1,2})\s*/\s*([0-9]{1,2})")
#: A bar's own meter, and the opening of an ending, at the start of a bar.
BAR_METER = re.compile(r"\s*\(\s*([0-9]{1,2})\s*/\s*([0-9]{1,2})\s*\)")
ENDING = re.compile(r"\s*([0-9]{1,2})\.(?=\s|\(|$)")
#: Longest length, and the finest part of a beat: enough for any tuplet that is written.
_LONGEST, _FINEST = 64, 960
_ESCAPED = "-_|\\"


def header(line: str) -> tuple[str, str] | None:
    """(name in small letters, value) of a heading, None for other lines."""
    match = HEADER.fullmatch(line)
    return (match[1].lower(), match[2]) if match and match[1].lower() in HEADERS else None


def row_kind(line: str) -> str | None:
    """One of :data:`ROWS` for such a row."""
    match = HEADER.fullmatch(line)
    return match[1].lower() if match and match[1].lower() in ROWS else None


def fraction(word: str) -> Fraction | None:
    """A length in beats: 2, 1.5, 4/3. None for anything else."""
    value = strict.length(word)
    fits = value is not None and 0 < value <= _LONGEST and value.denominator <= _FINEST
    return value if fits else None


class Segment(Struct, frozen=True):
    """What stands between two bar lines: from which index of the line, and the text."""

    start: int
    text: str

    @property
    def blank(self) -> bool:
        return not self.text.strip()

    @property
    def column(self) -> int:
        """Where its text begins, from 1."""
        return self.start + len(self.text) - len(self.text.lstrip()) + 1


def segments(line: str, after: int, escapes: bool = False) -> Iterator[Segment]:
    """What stands between bar lines; outer blanks and || are no bars. With ``escapes`` a bar line
    behind a backslash is none."""
    pieces: list[Segment] = []
    begin, index = after, after
    while index <= len(line):
        if escapes and line[index : index + 1] == "\\":
            index += 2
            continue
        if index == len(line) or line[index] == "|":
            pieces.append(Segment(begin, line[begin:index]))
            begin = index + 1
        index += 1
    if begin < len(line):
        pieces.append(Segment(begin, line[begin:]))
    last = len(pieces) - 1
    for place, piece in enumerate(pieces):
        outer = place in (0, last) and piece.blank
        if piece.text and not outer:
            yield piece


# --- words -------------------------------------------------------------------------------


def read_words(text: str) -> tuple[Syllable, ...]:
    """The syllables of one bar."""
    syllables: list[Syllable] = []
    letters: list[str] = []

    def close(joined: bool) -> None:
        text = "".join(letters).strip()
        letters.clear()
        if text:
            syllables.append(Syllable(text, joined))
        elif joined and syllables and not syllables[-1].held:
            syllables[-1] = Syllable(syllables[-1].text, True)

    index = 0
    while index < len(text):
        letter = text[index]
        if letter == "\\" and text[index + 1 : index + 2] in tuple(_ESCAPED):
            letters.append(text[index + 1])
            index += 1
        elif letter.isspace() and letter != WITHIN:
            close(False)
        elif letter == "-":
            close(True)
        elif letter == "_":
            close(False)
            syllables.append(Syllable(held=True))
        else:
            letters.append(letter)
        index += 1
    close(False)
    return tuple(syllables)


def words_text(words: tuple[Syllable, ...]) -> str:
    """The syllables of one bar as they are written."""
    text = ""
    for syllable in words:
        glued = text.endswith("-") and not text.endswith("\\-") and not syllable.held
        text += ("" if glued or not text else " ") + ("_" if syllable.held else escaped(syllable.text))
        text += "-" if syllable.joined else ""
    return text


def escaped(text: str) -> str:
    """A syllable with its literal signs marked; blanks within it do not break."""
    plain = re.sub(r"\s", WITHIN, text)
    return re.sub(r"([-_|\\])", r"\\\1", plain)
