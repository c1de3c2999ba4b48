"""Words of theory: what they mean, and their notes in a chord, checked against what books say of them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.glossary import WORDS, found_in

BY_NAME = {word.name: word for word in WORDS}


def notes(name: str, chord: str) -> str:
    return " ".join(map(str, BY_NAME[name].in_chord(parse_chord(chord))))


@pytest.mark.parametrize(
    ("word", "chord", "expected"),
    [
        ("guide tones", "Dm7", "F3 C4"), ("guide tones", "G7", "B3 F4"), ("guide tones", "C6", "E4 A4"),
        ("guide tones", "C", ""), ("guide tones", "G7sus4", "C4 F4"), ("guide tones", "C5", ""),
        ("rootless", "Dm7", "F3 A3 C4 E4"), ("rootless", "G7b9", "B3 D4 F4 Ab4"), ("rootless", "C", "E4 G4"),
        ("rootless", "Bm7b5", "D4 F4 A4"), ("rootless", "G7alt", "B3 F4 Ab4"),
        ("rootless", "Cmaj9", "E4 G4 B4 D5"),
        ("shell", "Dm7", "D2 F3 C4"), ("shell", "F", "F2 A3"),
        ("close position", "Dm9", "D4 F4 A4 C5"), ("close position", "F", "F3 A3 C4"),
        ("drop 2", "Cmaj7", "G3 C4 E4 B4"), ("drop 3", "Cmaj7", "E3 C4 G4 B4"), ("drop 2", "C", ""),
        ("drop 3", "C", ""),
        ("spread", "Dm7", "D2 A2 C3 F3"), ("spread", "C", "C2 G2 E3"), ("spread", "G7alt", "G2 F3 B3"),
        ("inversion", "Dm7", "F3 A3 C4 D4"), ("inversion", "C", "E4 G4 C5"),
        ("slash chord", "C", "E2 C4 E4 G4"), ("slash chord", "C/G", "G2 C4 E4 G4"),
        ("slash chord", "C5", "G2 C4 G4"),
        ("tensions", "G13", "G2 A3 E4"), ("tensions", "G7", ""), ("tensions", "G7b9", "G2 Ab3"),
        ("altered", "G7", "G2 B3 F4 Ab4 Eb5"), ("altered", "Gm7", ""),
        ("suspended", "C", "C4 F4 G4"), ("doubling", "C", "C4 E4 G4 C5"),
        ("tritone substitution", "G7", "Db2 F3 Cb4"), ("tritone substitution", "Gmaj7", ""),
        ("half-diminished", "Bm7b5", "B3 D4 F4 A4"), ("half-diminished", "Bm7", ""),
        ("cadence", "C", ""),
    ],
)  # fmt: skip
def test_its_notes_in_a_chord(word: str, chord: str, expected: str) -> None:
    assert notes(word, chord) == expected


ROOTS = ["C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"]
QUALITIES = (
    "",
    *[
        "m",
        "7",
        "m7",
        "maj7",
        "6",
        "m6",
        "9",
        "13",
        "m7b5",
        "dim7",
        "7b9",
        "7alt",
        "sus4",
        "7sus4",
        "+",
        "5",
        "maj7#11",
        "69",
        "m11",
        "/E",
    ],
)


@given(st.sampled_from(ROOTS), st.sampled_from(QUALITIES))
def test_notes_go_upwards_where_hands_play(root: str, quality: str) -> None:
    chord = parse_chord(root + quality)
    for one in WORDS:
        pitches = one.in_chord(chord)
        keys = [pitch.key for pitch in pitches]
        assert keys == sorted(set(keys)) and all(36 <= key <= 84 for key in keys)
        assert all(pitch.key % 12 == pitch.name.pitch_class for pitch in pitches)


def test_a_rest_has_no_notes_and_words_are_said_once() -> None:
    assert all(word.in_chord(None) == () for word in WORDS)
    assert BY_NAME["drop 2"].explained(None) == BY_NAME["drop 2"].said
    assert BY_NAME["shell"].explained(parse_chord("Dm7")).endswith("In Dm7: D F C.")
    assert len(BY_NAME) == len(WORDS) and all(word.said.endswith(".") for word in WORDS)


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("rootless, other inversion", ["rootless", "inversion"]), ("Drop 2, spread", ["drop 2", "spread"]),
        ("Close", []), ("a close triad", ["close position"]), ("tritone root", ["tritone substitution"]),
        ("shells", ["shell"]), ("bombshell", []), ("muddy below", ["mud"]), ("nothing", []),
        ("Guide-tone line", ["guide tones"]),
    ],
)  # fmt: skip
def test_words_are_found_where_they_begin(text: str, names: list[str]) -> None:
    assert [word.name for word in found_in(text)] == names
