"""Spelling, keys and plain numbers."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.errors import BadInput
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import ALL_KEYS, Key, key_from_fifths, parse_key
from yellow_hinge.theory.numbers import parse_number, print_number
from yellow_hinge.theory.pitch import DEGREES, NoteName, Pitch, read_note_name, read_pitch
from yellow_hinge.theory.tension import extra_degrees


@pytest.mark.parametrize(
    ("root", "degree", "name"),
    [
        ("B", "3", "D#"), ("Gb", "b7", "Fb"), ("A", "3", "C#"), ("F#", "7", "E#"),
        ("Db", "b3", "Fb"), ("C", "bb7", "Bbb"), ("E", "#9", "F##"), ("Bb", "#11", "E"),
        ("F", "11", "Bb"), ("Ab", "b13", "Fb"),
    ],
)  # fmt: skip
def test_true_spelling(root: str, degree: str, name: str) -> None:
    found = read_note_name(root)
    assert found is not None
    assert str(found[0].degree(degree)) == name


@given(st.integers(0, 6), st.integers(-1, 1), st.sampled_from(sorted(DEGREES)))
def test_degree_has_its_letter_and_its_sound(step: int, alter: int, label: str) -> None:
    root = NoteName(step, alter)
    note = root.degree(label)
    letters, semitones = DEGREES[label]
    assert note.step == (step + letters) % 7
    assert (note.pitch_class - root.pitch_class) % 12 == semitones
    assert note.simple.pitch_class == note.pitch_class


@given(st.integers(0, 127), st.booleans())
def test_pitch_prints_and_reads_back(key: int, flats: bool) -> None:
    from yellow_hinge.theory.pitch import name_for_pitch_class

    pitch = Pitch(key, name_for_pitch_class(key % 12, flats))
    assert read_pitch(str(pitch)) == pitch


def test_octave_follows_the_letter() -> None:
    assert str(Pitch(60, NoteName(6, 1))) == "B#3"
    assert str(Pitch(59, NoteName(0, -1))) == "Cb4"


@pytest.mark.parametrize("text", ["C", "c4x", "H4", "C#", "G#12", "Cbbb4"])
def test_what_is_no_pitch(text: str) -> None:
    assert read_pitch(text) is None


def test_signatures_against_the_circle_of_fifths() -> None:
    sharps = ["C", "G", "D", "A", "E", "B", "F#", "C#"]
    flats = ["C", "F", "Bb", "Eb", "Ab", "Db", "Gb", "Cb"]
    for count, (sharp, flat) in enumerate(zip(sharps, flats, strict=True)):
        assert parse_key(sharp).fifths == count
        assert parse_key(flat).fifths == -count
    assert parse_key("F#m").fifths == 3
    assert parse_key("C minor").fifths == -3


def test_every_signature_has_both_modes() -> None:
    assert len({(key.fifths, key.minor) for key in ALL_KEYS}) == 30
    assert key_from_fifths(-3, True) == parse_key("Cm")


@pytest.mark.parametrize("text", ["H", "", "G# major", "A#", "C##", "Am7"])
def test_bad_keys_say_what_would_be_right(text: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_key(text)
    assert caught.value.problems[0].remedy


@pytest.mark.parametrize(
    ("number", "key", "symbol"),
    [
        ("1", "A", "A"), ("6m7", "A", "F#m7"), ("2-9", "A", "B9"), ("5-13", "A", "E13"),
        ("b7-9", "A", "G9"), ("4/5", "A", "D/E"), ("1add9", "A", "Aadd9"), ("6m9", "Eb", "Cm9"),
        ("3m11", "A", "C#m11"), ("5-9sus", "A", "E9sus"), ("#4m7b5", "C", "F#m7b5"),
        ("16/9", "C", "C69"), ("b3", "Am", "C"), ("1m/b3", "Am", "Am/C"),
    ],
)  # fmt: skip
def test_plain_numbers(number: str, key: str, symbol: str) -> None:
    assert parse_number(number, parse_key(key)) == parse_chord(symbol)


def test_relative_major_numbering_makes_home_six() -> None:
    key = parse_key("Am")
    chord = parse_chord("Am7")
    assert chord is not None
    assert print_number(chord, key, relative_major=True) == "6m7"
    assert print_number(chord, key) == "1m7"
    assert parse_number("6m7", key, relative_major=True) == chord


@given(
    st.sampled_from(ALL_KEYS),
    st.sampled_from(["", "m7", "7", "maj9", "m7b5", "9sus", "7(b9,#5)", "69", "dim7", "13"]),
    st.integers(0, 11),
    st.booleans(),
)
def test_numbers_round_trip_in_every_key(key: Key, quality: str, place: int, relative: bool) -> None:
    root = key.tonic.above(place * 7 // 12, place)
    chord = parse_chord(f"C{quality}")
    assert chord is not None
    chord = chord.transposed(root.step, root.pitch_class)
    text = print_number(chord, key, relative_major=relative)
    assert parse_number(text, key, relative_major=relative) == chord


@pytest.mark.parametrize("text", ["8", "2-", "1foo", "4/9x", "m7"])
def test_bad_numbers_complain(text: str) -> None:
    with pytest.raises(BadInput):
        parse_number(text, parse_key("C"))


@pytest.mark.parametrize(
    ("symbol", "key", "colour", "extras"),
    [
        ("Dm7", "C", 2, {"9", "11"}),
        ("Em7", "C", 3, {"11"}),
        ("Cmaj7", "C", 3, {"9", "13"}),
        ("Fmaj7", "C", 2, {"9", "13"}),
        ("Fmaj7", "C", 3, {"9", "13", "#11"}),
        ("F", "C", 2, {"9", "6"}),
        ("E", "Am", 3, set()),
        ("Ab", "C", 1, {"9"}),
        ("G7", "C", 2, {"9", "13"}),
        ("E7", "Am", 2, {"b9", "b13"}),
        ("G7", "C", 1, {"9"}),
        ("G7", "C", 2, {"9", "13"}),
        ("E7", "C", 1, set()),
        ("E7", "C", 2, {"b9", "b13"}),
        ("Bm7b5", "C", 1, {"11"}),
        ("C", "C", 0, set()),
        ("G7b9", "C", 1, set()),
    ],
)
def test_tensions_by_key_and_colour(symbol: str, key: str, colour: int, extras: set[str]) -> None:
    chord = parse_chord(symbol)
    assert chord is not None
    assert extra_degrees(chord, parse_key(key), colour) == extras


def test_colour_only_ever_adds() -> None:
    for key in (None, parse_key("C"), parse_key("Am")):
        for symbol in ("Dm7", "G7", "Cmaj7", "C", "Am", "Bm7b5", "Bdim7", "G7sus", "Caug", "C6"):
            chord = parse_chord(symbol)
            assert chord is not None
            steps = [extra_degrees(chord, key, colour) for colour in range(4)]
            assert steps[0] == frozenset()
            assert all(less <= more for less, more in itertools.pairwise(steps))
            assert chord.kind
