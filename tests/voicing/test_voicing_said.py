"""What a rule for a hand asks and says, and which pairs a filter keeps, each side of every condition."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, get_args

import pytest

from conftest import cases
from constants import numbers_of
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.voicing.filters import kept, read_filters
from yellow_hinge.voicing.hand_rules import HandRule, Kind, Value, fixed_grip, merged
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import HandShape

LIBRARY = builtin_library()
SHAPES = {
    "nothing": HandShape(),
    "bass": HandShape((36,), ("R",), "single-bass"),
    "octave": HandShape((36, 48), ("R", "R"), "octave-bass"),
    "tenth": HandShape((48, 64), ("R", "3"), "tenth"),
    "twelfth": HandShape((48, 60, 67), ("R", "R", "5"), "x"),
    "first": HandShape((52, 55, 60), ("3", "5", "R"), "close-triad"),
    "minor": HandShape((51, 55, 58), ("b3", "5", "b7"), "y"),
    "second": HandShape((54, 60, 64), ("b5", "R", "3"), "z"),
    "third": HandShape((58, 62, 64, 67), ("b7", "9", "3", "5"), "w"),
    "sixth": HandShape((57, 62, 65, 68, 74), ("6", "9", "11", "#5", "b9"), "v"),
}


def value_of(text: str) -> Value:
    numbers = text.split()
    if numbers and all(word.isdigit() for word in numbers):
        keys = tuple(map(int, numbers))
        return keys if len(keys) > 1 else keys[0]
    return None if text == "-" else text.lstrip("=")


def rule(side: str, kind: str, value: str) -> str:
    """The sentence, the recipes it brings, and the shapes that keep to it."""
    made: Any = HandRule(side, kind, value_of(value))  # type: ignore[arg-type]
    allowed = [name for name, shape in SHAPES.items() if shape.keys and made.allows(shape)]
    every = len(allowed) == len(SHAPES) - 1
    said = made.words("Close Triad" if value == "close-triad" else "")
    scope = "alone" if made.of_chords else "the row"
    kept_to = "all" if every else " ".join(allowed) or "none"
    return " | ".join((said, " ".join(made.recipes()) or "-", scope, kept_to))


def pairs(words: str) -> str:
    """Which pairs a filter keeps: left/right."""
    names, shapes = list(SHAPES), list(SHAPES.values())
    mask = kept(read_filters(words, LIBRARY), shapes, shapes)
    rows = []
    for name, row in zip(names, mask, strict=True):
        right = [names[j] for j in row.nonzero()[0]]
        if right:
            rows.append(f"{name}/{'all' if len(right) == len(names) else '+'.join(right)}")
    return " ".join(rows) or "none"


def grip(symbol: str, keys: str) -> str:
    chord = parse_chord(symbol)
    assert chord is not None
    shape = fixed_grip(chord, tuple(map(int, keys.split())))
    return " ".join(shape.degrees) if shape else "no business in it"


def rules_that_hold(wider: str, narrower: str) -> str:
    """Rules as side:kind:value, a minus before those that rest."""

    def read(text: str) -> tuple[HandRule, ...]:
        words = [word.lstrip("-").split(":") for word in text.split() if word != "none"]
        on = [not word.startswith("-") for word in text.split() if word != "none"]
        return tuple(
            HandRule(side, kind, value_of(value), lives)  # type: ignore[arg-type]
            for (side, kind, value), lives in zip(words, on, strict=True)
        )

    held = merged(read(wider), read(narrower))
    return " ".join(f"{one.side}:{one.kind}:{one.value}" for one in held) or "none"


TABLES: dict[str, tuple[Callable[..., str], int]] = {
    "hand_rules": (rule, 3), "filters": (pairs, 1), "fixed": (grip, 2), "merged": (rules_that_hold, 2),
}  # fmt: skip


@pytest.mark.parametrize(("name", "case", "wanted"), cases("voicing", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted


def test_every_kind_of_rule_has_a_row() -> None:
    rows = [case for name, case, _ in cases("voicing", TABLES) if name == "hand_rules"]
    assert {case[1] for case in rows} == set(get_args(Kind))


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("voicing")
    assert {name: now.get(name) for name in decided} == decided != {}
