"""The small words of ABC: lines that go on, syllables, lengths; and where a reader is in a tune."""

from __future__ import annotations

import re
from collections.abc import Iterator
from fractions import Fraction

from msgspec import Struct, field

from yellow_hinge.formats.lead_sheet import Sung
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName

FIELD = re.compile(r"([A-Za-z+]):(.*)")
NOTHING = "%"  # what is left of a line that was joined to the one before
LENGTH = re.compile(r"([0-9]{0,4})(/+)?([0-9]{0,4})")


class Note(Struct):
    """A note as it is being read; its words come behind the line."""

    sung: Sung
    measure: int
    grace: bool = False


class Now(Struct):
    """What holds where the reader is."""

    key: Key = Key(NoteName(0))
    signature: dict[int, int] = field(default_factory=dict)  # how the key alters each step
    octaves: int = 0  # how far what sounds lies from what is written
    moved: int = 0
    meter: Meter = Meter()
    unit: Fraction | None = None
    tempo: Fraction | None = None
    alters: dict[tuple[int, int], int] = field(default_factory=dict)
    tuplet: list[Fraction] = field(default_factory=list)
    broken: Fraction = Fraction(1)

    @property
    def length(self) -> Fraction:
        """The unit of note lengths in quarters: an eighth, or a sixteenth in short meters."""
        if self.unit is not None:
            return self.unit * 4
        short = Fraction(self.meter.beats, self.meter.unit) < Fraction(3, 4)
        return Fraction(1, 4) if short else Fraction(1, 2)


def uncommented(line: str) -> str:
    """A line without what stands behind %; \\% is no comment."""
    match = re.search(r"(?<!\\)%", line)
    return (line[: match.start()] if match else line).rstrip()


def leads_on(line: str) -> bool:
    """Whether a line ends in a backslash, one that is not meant as a letter."""
    return (len(line) - len(line.rstrip("\\"))) % 2 == 1


def joined(lines: list[str]) -> list[str]:
    """The lines without comments and with those that a backslash leads on to, joined; each keeps its number,
    and what is gone leaves :data:`NOTHING`."""
    found: list[str] = []
    going_on: int | None = None  # the line that goes on
    skipping = False
    for line in lines:
        if line.startswith("%%"):
            skipping = line.startswith(("%%begin",)) or (skipping and not line.startswith("%%end"))
        plain = uncommented(line)
        if skipping or (not plain and line.strip()):
            found.append(NOTHING)
            continue
        field = FIELD.fullmatch(plain.strip())
        goes_on = leads_on(plain)
        if going_on is not None and not field and plain:
            found[going_on] += plain.removesuffix("\\")
            found.append(NOTHING)
            going_on = going_on if goes_on else None
            continue
        found.append(plain.removesuffix("\\") if not field else plain)
        if field:  # a field between a line and the one that it goes on with
            continue
        going_on = len(found) - 1 if goes_on else None
    return found


_SYLLABLE = re.compile(r"(?:[^-_*|\\]|\\.)+-?|[_*|]|-|\\")
#: What has a meaning in a line of words, and is no letter of a syllable without a backslash.
_MEANT = re.compile(r"([-_*|~%\\])")
_PLAIN = re.compile(r"\\([-_*|~%\\])|(~)")


class Piece(Struct, frozen=True):
    """A sign of a line of words: a syllable (``joined`` to the next one), or one of * _ and |."""

    text: str
    joined: bool = False
    sign: bool = False


def pieces(text: str) -> Iterator[Piece]:
    """The signs of a line of words."""
    for word in re.split(r"[ \t]+", text.strip()):
        for match in _SYLLABLE.finditer(word):
            piece = match[0]
            if piece in ("_", "*", "|"):
                yield Piece(piece, sign=True)
            elif piece == "-":
                yield Piece("*", sign=True)  # a hyphen by itself goes on under the next note
            else:
                ends = re.search(r"(?<!\\)(?:\\\\)*-$", piece) is not None
                plain = _PLAIN.sub(lambda m: m[1] or " ", piece[:-1] if ends else piece)
                yield Piece(plain, ends)


def escaped(text: str) -> str:
    """A syllable with its literal signs marked; blanks within it do not part."""
    return re.sub(r"\s", "~", _MEANT.sub(r"\\\1", text))


def read_length(line: str, index: int) -> tuple[Fraction, int]:
    """A length behind a note, in units, and the place behind it."""
    match = LENGTH.match(line, index)
    assert match is not None
    over = int(match[1]) if match[1] else 1
    slashes = match[2] or ""
    under = int(match[3]) if match[3] and slashes else 2 ** min(8, len(slashes))
    end = match.end() if slashes else match.end(1)
    return Fraction(max(1, over) if over else 1, max(1, under)), end
