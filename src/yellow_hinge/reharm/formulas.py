"""Formulas: runs of chords in numbers that work in every key, as rows of ``data/formulas.toml``, checked when
loaded; and the places of a row of chords where one fits.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from fractions import Fraction
from functools import lru_cache
from importlib.resources import files
from typing import Any

import msgspec
from msgspec import Struct

from yellow_hinge import strict
from yellow_hinge.errors import BadInput
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.rhythm.patterns import (
    HANDS,
    MOST_STROKES,
    Hand,
    Pattern,
    PatternIn,
    pattern_text,
)
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.numbers import parse_number
from yellow_hinge.theory.spelling import moved
from yellow_hinge.toml_rows import read_rows, row_text

FORMULAS_SCHEMA = "yellow-hinge/formulas/1"
_MAJOR, _MINOR = parse_key("C"), parse_key("Am")
_ID = re.compile(r"[a-z0-9][a-z0-9-]{0,40}")
_MOST_CHORDS, _MOST_BEATS = 32, 64
#: Notes lie at most so many half steps from the home note: the keyboard is not longer.
_MOST_ST = 72
_STEPS = re.compile(r"-?[0-9]{1,2}")


class FormulaChord(Struct, frozen=True):
    """A chord of a formula: its number from the home note, and its length in beats."""

    number: str
    beats: Fraction


class Line(Struct, frozen=True):
    """A note of a line over a chord: when (beats after its beginning), how long (beats), half steps from the
    home note, and the hand."""

    at_beats: Fraction
    beats: Fraction
    st: int
    hand: Hand


class Played(Struct, frozen=True):
    """How a chord of a formula is played. ``left`` and ``right`` are the grip in half steps from the home
    note (:func:`home_key`), the lowest first; then the ids of the patterns ("": held), the pedal and the
    touch, small notes on the way to the next chord, whose keys are half steps from the home note too, and
    the notes of a line."""

    left: tuple[int, ...] = ()
    right: tuple[int, ...] = ()
    left_pattern: str = ""
    right_pattern: str = ""
    pedal: str = ""
    touch: int = 0
    small: tuple[Fill, ...] = ()
    line: tuple[Line, ...] = ()


def home_key(key: Key) -> int:
    """The home note nearest to middle C, as a MIDI key."""
    return 60 + (key.tonic.pitch_class + 6) % 12 - 6


class Formula(Struct, frozen=True):
    """A run of chords in numbers, in a major or a minor key, and why it works. A player's own says how each
    chord is ``played`` (as many as chords, or none), and has those ``patterns`` for it that do not ship."""

    id: str
    name: str
    family: str
    chords: tuple[FormulaChord, ...]
    why: str
    minor: bool = False
    played: tuple[Played, ...] = ()
    patterns: tuple[Pattern, ...] = ()

    @property
    def beats(self) -> Fraction:
        """How long it lasts."""
        return sum((chord.beats for chord in self.chords), Fraction(0))

    def in_key(self, key: Key) -> tuple[ChordSymbol, ...]:
        """Its chords in a key, by their numbers."""
        return tuple(parse_number(chord.number, key) for chord in self.chords)

    def as_read(self, key: Key) -> tuple[ChordSymbol, ...]:
        """Its chords in a key as players read them."""
        return tuple(moved(symbol, 0, 0, key) for symbol in self.in_key(key))


class PlayedIn(msgspec.Struct, forbid_unknown_fields=True):
    """How a chord of a formula is played. ``small`` notes are "HAND START END NOTE AFTER BEATS", notes of a
    ``line`` "HAND NOTE AFTER BEATS"."""

    left: list[int] = []
    right: list[int] = []
    left_pattern: str = ""
    right_pattern: str = ""
    pedal: str = ""
    touch: int = 0
    small: list[str] = []
    line: list[str] = []

    def __post_init__(self) -> None:
        for keys in (self.left, self.right):
            if keys != sorted(set(keys)) or not all(-_MOST_ST <= key <= _MOST_ST for key in keys):
                raise ValueError(
                    f"a grip is different notes from the lowest up, within {_MOST_ST} half steps"
                )
        if len(self.small) > MOST_STROKES or len(self.line) > MOST_STROKES:
            raise ValueError(f"at most {MOST_STROKES} notes")
        if not -2 <= self.touch <= 2:
            raise ValueError(f"touch must be -2..2, not {self.touch}")
        self.read()

    def read(self) -> Played:
        """As the program uses it. Raises ``ValueError``."""
        small = [_note(text, 3) for text in self.small]
        line = [_note(text, 1) for text in self.line]
        return Played(
            tuple(self.left), tuple(self.right), self.left_pattern, right_pattern=self.right_pattern,
            pedal=self.pedal,
            touch=self.touch,
            small=tuple(Fill(hand, st[0], st[1], st[2], at, beats=beats) for hand, st, at, beats in small),
            line=tuple(Line(at, beats, st[0], hand) for hand, st, at, beats in line),
        )  # fmt: skip


def _note(text: str, count: int) -> tuple[Hand, list[int], Fraction, Fraction]:
    """Hand, so many notes (half steps), when and how long."""
    words = text.split()
    if len(words) == count + 3 and words[0] in HANDS and all(map(_STEPS.fullmatch, words[1:-2])):
        at, beats = map(strict.length, words[-2:])
        if at is not None and beats:
            return words[0], [int(word) for word in words[1:-2]], at, beats
    notes = " ".join(["NOTE"] * count)
    raise ValueError(f"{text!r}: write HAND {notes} AFTER BEATS, notes in half steps from the home note")


class FormulaIn(msgspec.Struct, forbid_unknown_fields=True):
    """One row of a file of formulas."""

    id: str
    name: str
    family: str
    chords: list[str]
    why: str
    minor: bool = False
    played: list[PlayedIn] = []
    pattern: list[PatternIn] = []

    def __post_init__(self) -> None:
        if len(self.played) not in (0, len(self.chords)):
            raise ValueError("it says of every chord how it is played, or of none")
        if not _ID.fullmatch(self.id):
            raise ValueError(f"id {self.id!r}: small letters, digits and hyphens, at most 41")
        if not 1 <= len(self.chords) <= _MOST_CHORDS:
            raise ValueError(f"a formula has 1 to {_MOST_CHORDS} chords")
        if not self.name.strip() or not self.why.strip():
            raise ValueError("a formula has a name and a reason")
        self.read()

    def read(self) -> tuple[FormulaChord, ...]:
        """Its chords. Raises ``ValueError`` for one that is none."""
        chords = []
        for text in self.chords:
            number, _, length = text.partition(" ")
            beats = strict.length(length.strip())
            if not beats or beats > _MOST_BEATS:
                raise ValueError(f"{text!r}: write a number and its beats, as '2m9 4'")
            try:
                parse_number(number, _MINOR if self.minor else _MAJOR)
            except BadInput as error:
                raise ValueError(f"{text!r}: {error.problems[0].what}") from None
            chords.append(FormulaChord(number, beats))
        return tuple(chords)


def read_formulas(text: str, place: str) -> dict[str, Formula]:
    """The formulas of a file by id. Raises :class:`BadInput` with every bad row."""
    return read_rows(text, place, "formula", FORMULAS_SCHEMA, _formula)


def _formula(raw: dict[str, Any], _: object) -> Formula:
    formula_in = msgspec.convert(raw, FormulaIn)
    return Formula(
        formula_in.id,
        formula_in.name.strip(),
        formula_in.family,
        chords=formula_in.read(),
        why=formula_in.why.strip(),
        minor=formula_in.minor,
        played=tuple(each.read() for each in formula_in.played),
        patterns=tuple(each.pattern for each in formula_in.pattern),
    )


def formula_text(formula: Formula) -> str:
    """A formula as rows of such a file."""
    chords = [f"{chord.number} {chord.beats}" for chord in formula.chords]
    head = {"id": formula.id, "name": formula.name, "family": formula.family, "minor": formula.minor,
            "chords": chords,
            "why": formula.why}  # fmt: skip
    rows = [row_text("formula", head)]
    rows += [row_text("formula.played", _played_out(each)) for each in formula.played]
    rows += [pattern_text(each, "formula.pattern") for each in formula.patterns]
    return "".join(rows)


def _played_out(played: Played) -> dict[str, Any]:
    plain = {"left": played.left, "right": played.right, "left_pattern": played.left_pattern,
             "right_pattern": played.right_pattern, "pedal": played.pedal, "touch": played.touch}  # fmt: skip
    small = [
        f"{note.hand} {note.start_key} {note.end_key} {note.key} {note.offset_beats} {note.beats}"
        for note in played.small
    ]
    line = [f"{note.hand} {note.st} {note.at_beats} {note.beats}" for note in played.line]
    return {name: value for name, value in {**plain, "small": small, "line": line}.items() if value}


@lru_cache(maxsize=1)
def builtin_formulas() -> Mapping[str, Formula]:
    """The formulas that ship, by id."""
    text = (files("yellow_hinge.reharm") / "data" / "formulas.toml").read_text("utf-8")
    return read_formulas(text, "formulas.toml")


# --- where one fits ---


class SpotOf(Struct, frozen=True):
    """A chord of a song as it is looked through for a formula: how long it lasts, its local key, and whether
    it may be replaced."""

    chord: ChordSymbol | None
    beats: Fraction
    key: Key
    free: bool = True


class Place(Struct, frozen=True):
    """Where a formula fits: from which chord on, how many it stands for, its chords there with their beats,
    and how much longer (above 1) or shorter it becomes."""

    first: int
    count: int
    chords: tuple[tuple[ChordSymbol, Fraction], ...]
    stretched: Fraction


def places(row: Sequence[SpotOf], formula: Formula) -> list[Place]:
    """Every run of a row for which the formula can stand: it ends on the same function (root and kind) as the
    run does, and lasts as long, or half or twice as long. A run that is the formula already is left out,
    unless the formula brings grips."""
    places = []
    for first in range(len(row)):
        if row[first].key.minor != formula.minor:
            continue
        chords = formula.in_key(row[first].key)
        total = Fraction(0)
        for last in range(first, len(row)):
            spot_of = row[last]
            if not spot_of.free or spot_of.key != row[first].key:
                break
            total += spot_of.beats
            stretched = total / formula.beats
            if stretched > 2:
                break
            if stretched in (Fraction(1, 2), 1, 2) and _same_goal(spot_of.chord, chords[-1]):
                run = tuple(zip(chords, (each.beats * stretched for each in formula.chords), strict=True))
                if formula.played or [spot_of.chord for spot_of in row[first : last + 1]] != list(chords):
                    places.append(Place(first, last - first + 1, run, stretched))
    return places


def _same_goal(there: ChordSymbol | None, goal: ChordSymbol) -> bool:
    """Whether two chords do the same: on one root, and of one kind."""
    if there is None or there.root.pitch_class != goal.root.pitch_class:
        return False
    return there.kind == goal.kind
