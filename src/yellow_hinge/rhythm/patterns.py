"""Patterns: what a hand strikes on which count, as rows of ``data/patterns.toml``, checked when loaded.

A pattern knows counts and places in a grip, never notes: :mod:`rhythm.realise` makes notes of it.
"""

import re
from collections.abc import Iterable, Mapping
from fractions import Fraction
from functools import lru_cache
from importlib.resources import files
from typing import Any, Literal

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge import strict
from yellow_hinge.toml_rows import read_rows, row_text

PATTERNS_SCHEMA = "yellow-hinge/patterns/1"
Hand = Literal["left", "right"]
HANDS: tuple[Hand, ...] = ("left", "right")
#: What a stroke may strike, in words.
WHAT: dict[str, str] = {
    "all": "the whole grip", "bottom": "the bottom", "top": "the top", "upper": "all but the bottom",
    "lower": "all but the top", "inner": "the inner notes", "outer": "bottom and top",
    "b2": "the second from the bottom", "b3": "the third from the bottom", "b4": "the fourth from the bottom",
    "t2": "the second from the top", "t3": "the third from the top",
    "t4": "the fourth from the top", "octave": "the octave above the bottom",
    "below": "the octave below the bottom", "octaves": "the bottom in octaves",
    "fifth": "the fifth", "next": "the next chord, early", "lead": "a step below the next bottom",
}  # fmt: skip
#: The same as one says it aloud, on the count.
SAY: dict[str, str] = {
    "all": "chord", "bottom": "bass", "top": "top", "upper": "chord", "lower": "low", "inner": "inside",
    "outer": "outside", "b2": "second", "b3": "third", "b4": "fourth", "t2": "next", "t3": "then",
    "t4": "last", "octave": "octave", "below": "deep bass", "octaves": "octave bass",
    "fifth": "fifth", "next": "early", "lead": "lead",
}  # fmt: skip
TOUCHES = {"": 0, "hard": 14, "soft": -14}
WAYS = ("", "rolled", "tremolo", "half-below", "step-below")
#: How many notes a grip needs so that a stroke strikes what it says: two above the bottom, one inside, and as
#: many as it names; a broken grip of three is walked back for its fourth.
NOTES_FOR = {
    "upper": 3, "lower": 3, "inner": 3, "outer": 2, "b2": 2, "t2": 2, "b3": 3, "t3": 3, "b4": 3, "t4": 3,
}  # fmt: skip
Pedalling = Literal["harmony", "long", "dry"]
MOST_NEEDED = 5
WAY_WORDS: dict[str, str] = {
    "": "plainly", "rolled": "rolled from the bottom", "tremolo": "shaken",
    "half-below": "with a crushed half step below", "step-below": "slid into from the key's step below",
}  # fmt: skip
#: The lengths of a pattern, a stroke and a name that are taken.
MOST_COUNTS, MOST_STROKES, MOST_NAME = 16, 64, 60
HELD = "held"
_COUNT = re.compile(r"([0-9]{1,2})(&|e|a|\+[0-9/.]{1,9})?")
_PARTS = {"&": Fraction(1, 2), "e": Fraction(1, 4), "a": Fraction(3, 4)}
_ID = re.compile(r"[a-z0-9][a-z0-9-]{0,40}")
_METER = re.compile(r"[0-9]{1,2}/(1|2|4|8|16)")


class Stroke(Struct, frozen=True):
    """One stroke of a pattern: when (counts from its beginning, from 0), how long (counts; None: up to the
    hand's next stroke), what of the grip, with which touch (a key of :data:`TOUCHES`), how (one of
    :data:`WAYS`), ``short`` (lifted early) or ``tied`` (on into the next chord)."""

    at: Fraction
    what: str = "all"
    counts: Fraction | None = None
    touch: str = ""
    way: str = ""
    short: bool = False
    tied: bool = False

    def __str__(self) -> str:
        words = [count_text(self.at), self.what]
        if self.counts is not None:
            words += ["for", _plain(self.counts)]
        words += [word for word in (self.touch, self.way) if word]
        words += ["short"] * self.short + ["tied"] * self.tied
        return " ".join(words)


def _plain(counts: Fraction) -> str:
    whole, rest = divmod(counts, 1)
    return str(counts) if not (whole and rest) else f"{whole}+{rest}"


def count_text(at: Fraction) -> str:
    """A place as it is counted: 1, 2&, 3e, 4+1/3."""
    whole, part = divmod(at, 1)
    sign = next((sign for sign, value in _PARTS.items() if value == part), None)
    return f"{int(whole) + 1}{sign if sign else f'+{part}' if part else ''}"


def read_count(text: str) -> Fraction | None:
    """The other way round; None for what is no count."""
    match = _COUNT.fullmatch(text)
    if match is None or int(match[1]) < 1:
        return None
    sign = match[2] or ""
    part = _PARTS.get(sign, Fraction(0)) if not sign.startswith("+") else strict.length(sign[1:])
    return None if part is None or part >= 1 else int(match[1]) - 1 + part


def read_stroke(text: str) -> Stroke:
    """A stroke as it stands in the file. Raises ``ValueError`` with what is wrong."""
    words = text.split()
    at = read_count(words[0]) if words else None
    if at is None:
        raise ValueError(f"{text!r} does not begin with a count such as 1, 2& or 3+1/3")
    if len(words) < 2 or words[1] not in WHAT:
        raise ValueError(f"{text!r} does not say what is struck: {', '.join(WHAT)}")
    stroke = Stroke(at, words[1])
    rest = words[2:]
    if rest[:1] == ["for"]:
        counts = _length(rest[1]) if len(rest) > 1 else None
        if counts is None or not 0 < counts <= MOST_COUNTS:
            raise ValueError(f"{text!r}: a length is a number of counts above 0, as for 1+1/2")
        stroke, rest = replace(stroke, counts=counts), rest[2:]
    for word in rest:
        stroke = _with_word(stroke, word, text)
    return stroke


def _length(text: str) -> Fraction | None:
    whole, plus, part = text.partition("+")
    lengths = [strict.length(one) for one in ((whole, part) if plus else (whole,))]
    known = [length for length in lengths if length is not None]
    return sum(known, Fraction(0)) if len(known) == len(lengths) else None


def _with_word(stroke: Stroke, word: str, text: str) -> Stroke:
    if word in TOUCHES:
        return replace(stroke, touch=word)
    if word in WAYS:
        return replace(stroke, way=word)
    if word == "short":
        return replace(stroke, short=True)
    if word == "tied":
        return replace(stroke, tied=True)
    raise ValueError(f"{text!r}: {word!r} is none of for, {', '.join(w for w in (*TOUCHES, *WAYS) if w)}, "
                     "short, tied")  # fmt: skip


class Pattern(Struct, frozen=True):
    """A pattern of one hand. ``counts`` is how long it lasts, in notes of ``unit`` (4: quarters; 0: as long
    as the chord); ``meters`` are those it was made for, ``level`` 1 (simple) to 3 (full), ``feel`` how it is
    usually played. ``short`` is for chords of at most half its length, ``ending`` for the last chord, and
    ``fill`` for the last count of a section; empty: the strokes themselves. ``needs`` is how many notes the
    grip of its hand should have, ``pedal`` one of "harmony", "long",
    "dry"."""

    id: str
    name: str
    strokes: tuple[Stroke, ...]
    family: str = "mine"
    hands: tuple[Hand, ...] = HANDS
    meters: tuple[str, ...] = ()
    unit: int = 4
    counts: int = 4
    level: int = 2
    feel: Literal["straight", "swing"] = "straight"
    short: tuple[Stroke, ...] = ()
    ending: tuple[Stroke, ...] = ()
    fill: tuple[Stroke, ...] = ()
    needs: int = 1
    pedal: Pedalling = "harmony"

    @property
    def bass_below(self) -> bool:
        """Whether its first stroke goes an octave below the grip."""
        return bool(self.strokes) and self.strokes[0].what in ("below", "octaves")


def notes_for(strokes: Iterable[Stroke]) -> int:
    """How many notes a grip needs for these strokes to strike what they say."""
    return max((NOTES_FOR.get(stroke.what, 1) for stroke in strokes), default=1)


class PatternIn(msgspec.Struct, forbid_unknown_fields=True):
    """One row of a file of patterns."""

    id: str
    name: str
    strokes: list[str]
    family: str = "mine"
    hands: tuple[Hand, ...] = HANDS
    meters: list[str] = []
    unit: Literal[4, 8] = 4
    counts: int = 4
    level: Literal[1, 2, 3] = 2
    feel: Literal["straight", "swing"] = "straight"
    short: list[str] = []
    ending: list[str] = []
    fill: list[str] = []
    needs: int | None = None
    pedal: Pedalling = "harmony"

    def __post_init__(self) -> None:
        if not _ID.fullmatch(self.id):
            raise ValueError(f"id {self.id!r}: small letters, digits and hyphens, at most 41")
        if not 1 <= len(self.name.strip()) <= MOST_NAME:
            raise ValueError(f"name must have 1 to {MOST_NAME} signs")
        if not 0 <= self.counts <= MOST_COUNTS:
            raise ValueError(f"counts must be 0..{MOST_COUNTS}, not {self.counts}")
        if not self.hands or len(set(self.hands)) < len(self.hands):
            raise ValueError("hands must name left, right, or both")
        for meter in self.meters:
            if not _METER.fullmatch(meter):
                raise ValueError(f"{meter!r} is no meter")
        if not self.strokes:
            raise ValueError("strokes must not be empty")
        if self.needs is not None and not 1 <= self.needs <= MOST_NEEDED:
            raise ValueError(f"needs must be 1..{MOST_NEEDED} notes, not {self.needs}")
        self._check_strokes()

    def _check_strokes(self) -> None:
        for row in (self.strokes, self.short, self.ending, self.fill):
            if len(row) > MOST_STROKES:
                raise ValueError(f"at most {MOST_STROKES} strokes")
            for stroke in map(read_stroke, row):
                if stroke.at >= max(1, self.counts):
                    raise ValueError(f"{str(stroke)!r} lies behind the {self.counts} counts of the pattern")

    @property
    def pattern(self) -> Pattern:
        """As the program uses it."""
        rows = (self.strokes, self.short, self.ending, self.fill)
        strokes, short, ending, fill = (_row(map(read_stroke, row)) for row in rows)
        return Pattern(
            self.id, self.name.strip(), strokes, family=self.family, hands=self.hands,
            meters=tuple(self.meters), unit=self.unit,
            counts=self.counts, level=self.level, feel=self.feel, short=short, ending=ending, fill=fill,
            needs=notes_for(strokes) if self.needs is None else self.needs, pedal=self.pedal,
        )  # fmt: skip


def _row(strokes: Any) -> tuple[Stroke, ...]:
    return tuple(sorted(strokes, key=lambda stroke: stroke.at))


def pattern_out(pattern: Pattern) -> dict[str, Any]:
    """A pattern as a row of a file; what has its usual value is left out."""
    plain = {
        "id": pattern.id, "name": pattern.name, "family": pattern.family, "hands": list(pattern.hands),
        "meters": list(pattern.meters), "unit": pattern.unit, "counts": pattern.counts,
        "level": pattern.level, "feel": pattern.feel, "pedal": pattern.pedal,
    }  # fmt: skip
    rows = {name: [str(s) for s in getattr(pattern, name)] for name in ("strokes", "short", "ending", "fill")}
    if pattern.needs != notes_for(pattern.strokes):
        plain["needs"] = pattern.needs
    return plain | {name: row for name, row in rows.items() if row}


def pattern_in(row: Mapping[str, Any]) -> Pattern:
    """A pattern from a row of a file. Raises ``ValueError`` with what is wrong."""
    try:
        return msgspec.convert(dict(row), PatternIn).pattern
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None


Patterns = Mapping[str, Pattern]


def read_patterns(text: str, place: str) -> dict[str, Pattern]:
    """The patterns of a file by id. Raises :class:`BadInput` with every bad row."""
    return read_rows(text, place, "pattern", PATTERNS_SCHEMA, lambda raw, _: pattern_in(raw))


@lru_cache(maxsize=1)
def builtin_patterns() -> Patterns:
    """The patterns that ship, by id."""
    text = (files("yellow_hinge.rhythm") / "data" / "patterns.toml").read_text("utf-8")
    return read_patterns(text, "patterns.toml")


def pattern_text(pattern: Pattern, table: str = "pattern") -> str:
    """A pattern as a row of a TOML file."""
    return row_text(table, pattern_out(pattern))
