"""How melody notes sit on chords, by cases in several keys."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.coverage import identity
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.pitch import read_note_name
from yellow_hinge.theory.tension import FitKind, fit

#: (note, chord, key, kind, words in the reason)
CASES = [
    ("E", "Cmaj7", "C", FitKind.CHORD_TONE, "third"),
    ("D", "Cmaj7", "C", FitKind.TENSION, "ninth"),
    ("F", "Cmaj7", "C", FitKind.CLASH, "half step above"),
    ("F#", "Cmaj7", "G", FitKind.TENSION, "sharp eleventh"),
    ("Eb", "C", "C", FitKind.CLASH, "wrong third"),
    ("E", "Cm7", "Bb", FitKind.CLASH, "wrong third"),
    ("F", "Dm7", "C", FitKind.CHORD_TONE, "minor third"),
    ("G", "Dm7", "C", FitKind.TENSION, "eleventh"),
    ("Eb", "Dm7", "C", FitKind.CLASH, "half step above"),
    ("Ab", "G7", "C", FitKind.TENSION, "flat ninth"),
    ("C", "G7", "C", FitKind.CLASH, "half step above the major third"),
    ("B", "G9sus", "C", FitKind.CLASH, "beside the suspension"),
    ("A", "D/F#", "D", FitKind.CHORD_TONE, "fifth"),
    ("G", "Abmaj9", "Eb", FitKind.CHORD_TONE, "seventh"),
    ("D", "Abmaj9", "Eb", FitKind.TENSION, "sharp eleventh"),
    ("Db", "Abmaj9", "Eb", FitKind.CLASH, "half step above"),
    ("C", "Dm/C", "C", FitKind.CHORD_TONE, "bass"),
    ("A#", "F#7", "B", FitKind.CHORD_TONE, "third"),
    ("Bb", "Cmaj7", "C", FitKind.CLASH, "wrong seventh"),
    ("B", "C7", "F", FitKind.CLASH, "wrong seventh"),
    ("B", "Cm7", "Bb", FitKind.CLASH, "wrong seventh"),
    ("Bb", "C6", "C", FitKind.CLASH, "half step above"),
    ("D", "C7alt", "F", FitKind.CLASH, "altered"),
    ("F", "C7alt", "F", FitKind.CLASH, "altered"),
    ("A", "C7alt", "F", FitKind.CLASH, "altered"),
    ("Eb", "C7alt", "F", FitKind.TENSION, "sharp ninth"),
    ("C", "Cmaj7", "C", FitKind.CHORD_TONE, "it rubs"),
]


@pytest.mark.parametrize(("note", "chord", "key", "kind", "words"), CASES)
def test_cases(note: str, chord: str, key: str, kind: FitKind, words: str) -> None:
    name, symbol = read_note_name(note), parse_chord(chord)
    assert name is not None and symbol is not None
    found = fit(name[0].pitch_class, symbol, parse_key(key))
    assert found.kind == kind and words in found.reason


@given(st.sampled_from(CASES), st.integers(0, 11))
def test_fit_is_the_same_in_every_key(case: tuple[str, str, str, FitKind, str], up: int) -> None:
    note, chord, key, kind, _ = case
    name, symbol, home = read_note_name(note), parse_chord(chord), parse_key(key)
    assert name is not None and symbol is not None
    letters = round(up * 7 / 12) % 7
    moved = Key(home.tonic.above(letters, up), home.minor)
    found = fit((name[0].pitch_class + up) % 12, symbol.transposed(letters, up), moved)
    assert found.kind == kind


def test_only_short_weak_steps_pass() -> None:
    chord = parse_chord("Cmaj7")
    assert chord is not None
    key = parse_key("C")

    def kind(quarters: Fraction, strong: bool, stepwise: bool) -> FitKind:
        return fit(5, chord, key, quarters=quarters, strong=strong, stepwise=stepwise).kind

    half = Fraction(1, 2)
    assert kind(half, False, True) == FitKind.PASSING
    for case in ((Fraction(2), False, True), (half, True, True), (half, False, False)):
        assert kind(*case) == FitKind.CLASH


@pytest.mark.parametrize(
    ("note", "chord", "rubs"),
    [("C", "Cmaj7", True), ("C", "C6", False), ("B", "Cmaj7", False), ("C", "C7", False)],
)
def test_the_root_over_a_major_seventh_rubs_without_clashing(note: str, chord: str, rubs: bool) -> None:
    name, symbol = read_note_name(note), parse_chord(chord)
    assert name is not None and symbol is not None
    assert fit(name[0].pitch_class, symbol, parse_key("C")).rubs is rubs


@pytest.mark.parametrize(
    ("symbol", "groups"),
    [
        ("C", [{"3"}]), ("Cm7", [{"b3"}, {"b7"}]), ("C13", [{"3"}, {"b7"}, {"13"}]),
        ("C11", [{"b7"}, {"11"}]),
        ("C7b5", [{"3"}, {"b7"}, {"b5"}]), ("C6", [{"3"}, {"6"}, {"5"}]), ("C69", [{"3"}, {"9"}, {"6"}]),
        ("Cadd9", [{"3"}, {"9"}, {"5"}]), ("C7sus4", [{"b7"}, {"11"}]), ("C5", [{"5"}]),
        ("D//C7", [{"3"}, {"b7"}, {"9"}, {"#11"}, {"13"}]),
    ],
)  # fmt: skip
def test_what_must_sound_of_a_chord(symbol: str, groups: list[set[str]]) -> None:
    chord = parse_chord(symbol)
    assert chord is not None
    found = [set(group) for group in identity(chord, False)]
    assert sorted(map(sorted, found)) == sorted(map(sorted, groups))
    rooted = [set(group) for group in identity(chord, True)]
    assert sorted(map(sorted, rooted)) == sorted(map(sorted, [*groups, {"R"}]))
