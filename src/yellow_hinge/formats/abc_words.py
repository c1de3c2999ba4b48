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
    sharps: int = 0
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


def joined(lines: list[str]) -> list[str]:
    """The lines with those that a backslash leads on to, joined; each keeps its number."""
    found: list[str] = []
    going_on = False
    for line in lines:
        plain = line.split("%", 1)[0].rstrip() if "%" in line else line.rstrip()
        field = FIELD.fullmatch(plain.strip())
        if going_on and not field:
            at = next(place for place in range(len(found) - 1, -1, -1) if found[place] != NOTHING)
            found[at] += plain.removesuffix("\\")
            found.append(NOTHING)
        else:
            found.append(plain.removesuffix("\\") if not field else plain)
        going_on = plain.endswith("\\") and (not field or going_on)
    return found


def syllables(text: str) -> Iterator[str]:
    """The signs of a line of words: syllables (a hyphen behind those that are joined), * _ and |."""
    for word in text.replace("\\-", "\u2011").split():
        for piece in re.findall(r"[^-_*|]+-?|[_*|]|-", word):
            if piece == "-":
                continue
            yield piece


def read_length(line: str, index: int) -> tuple[Fraction, int]:
    """A length behind a note, in units, and the place behind it."""
    match = LENGTH.match(line, index)
    assert match is not None
    over = int(match[1]) if match[1] else 1
    slashes = match[2] or ""
    under = int(match[3]) if match[3] and slashes else 2 ** min(8, len(slashes))
    end = match.end() if slashes else match.end(1)
    return Fraction(max(1, over) if over else 1, max(1, under)), end
