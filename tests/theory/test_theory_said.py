"""What the theory says of chords, notes and grips, held against tables: each line is a decision."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from conftest import cases
from constants import numbers_of
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.coverage import contradictions, identity, identity_when_full, undoubled
from yellow_hinge.theory.identify import identify, over_every_bass, over_number
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.numbers import parse_number, print_number
from yellow_hinge.theory.pitch import name_for_pitch_class
from yellow_hinge.theory.polychord import polychords
from yellow_hinge.theory.roman import print_roman
from yellow_hinge.theory.roughness import depth, sounding
from yellow_hinge.theory.spelling import by_function, moved, slashed, usual
from yellow_hinge.theory.tension import any_label, extra_degrees, fit, kinds, leads_to_minor


def chord_of(symbol: str) -> ChordSymbol:
    found = parse_chord(symbol)
    assert found is not None
    return found


def sets(groups: object) -> str:
    return ",".join(sorted("/".join(sorted(group)) for group in groups))  # type: ignore[attr-defined]


def needed(symbol: str) -> str:
    """What a voicing must have: with the root, without it, with the fifth; when it is full."""
    chord = chord_of(symbol)
    ways = (identity(chord, True), identity(chord, False), identity(chord, False, True))
    return " | ".join(sets(way) for way in (*ways, identity_when_full(chord)))


def nature(symbol: str, key: str) -> str:
    """Kinds, what is not doubled, what contradicts it, what colour may add."""
    chord, home = chord_of(symbol), parse_key(key)
    colours = " ".join(
        f"{colour}:{','.join(sorted(extra_degrees(chord, home, colour)))}" for colour in range(4)
    )
    minor = ",".join(sorted(extra_degrees(chord, home, 3, True)))
    against = ",".join(map("-".join, contradictions(chord)))
    kept = ",".join(sorted(undoubled(chord, home)))
    return f"{','.join(sorted(kinds(chord)))} | {kept} | {against} | {colours} m:{minor}"


def numbered(symbol: str, key: str) -> str:
    """As a degree, a Roman numeral, over a bass; and spelled by function, a step up, and on every bass."""
    chord, home, goal = chord_of(symbol), parse_key(key), chord_of("Gm7")
    basses = [slashed(chord, name_for_pitch_class(place), home) for place in range(12)]
    texts = (
        print_number(chord, home), print_number(chord, home, relative_major=True), print_roman(chord, home),
        over_number(chord, home), usual(chord), by_function(chord, home, goal),
        by_function(chord, home, None), moved(chord, 1, 1, home), leads_to_minor(chord, goal),
        " ".join(str(one).rpartition("/")[2] for one in basses),
        parse_number(print_number(chord, home), home) == chord,
    )  # fmt: skip
    return " | ".join(map(str, texts))


def fits(symbol: str, key: str) -> str:
    """How each of the twelve notes sits on a chord: long, short and strong, short, weak and by step."""
    chord, home = chord_of(symbol), parse_key(key)
    rows = []
    for place in range(12):
        found = [
            fit(place, chord, home), fit(place, chord, home, quarters=1),
            fit(place, chord, home, quarters=1, strong=False, stepwise=True),
        ]  # fmt: skip
        rows.append(f"{any_label(chord, place)}:{''.join(one.kind.value[0] for one in found)}")
    return " ".join(rows)


def grip(notes: str) -> str:
    """What a grip is called, over every bass too, and how rough and muddy it is."""
    keys = [int(key) for key in notes.split()]
    names = " ".join(f"{name.chord}:{name.score}" for name in identify(keys, most=5))
    split = " ".join(str(name.chord) for name in identify(keys, most=3, left=len(keys) // 2))
    basses = " ".join(str(row[0].chord) if row else "-" for row in over_every_bass(keys, most=1).values())
    poly = " ".join(str(chord) for chord, _ in polychords(keys, {}))
    rough, mud = sounding(keys)
    return f"{names} | {split} | {basses} | {poly} | {rough:.1f} {mud:.1f} {depth(keys[0]):.2f}"


TABLES: dict[str, tuple[Callable[..., str], int]] = {
    "needed": (needed, 1), "nature": (nature, 2), "numbered": (numbered, 2), "fits": (fits, 2),
    "grips": (grip, 1),
}  # fmt: skip


@pytest.mark.parametrize(("name", "case", "wanted"), cases("theory", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("theory")
    assert {name: now.get(name) for name in decided} == decided != {}
