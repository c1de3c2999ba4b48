"""Names from notes, and Roman numbers both ways."""

from __future__ import annotations

import csv

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from conftest import DATA
from yellow_hinge.errors import BadInput
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.identify import (
    QUALITIES,
    identify,
    over_every_bass,
    over_number,
)
from yellow_hinge.theory.keys import ALL_KEYS, Key, parse_key
from yellow_hinge.theory.pitch import NoteName, Pitch, degree_semitones, read_pitch
from yellow_hinge.theory.roman import parse_roman, print_roman

with (DATA / "symbols.tsv").open(encoding="utf-8") as table:
    SYMBOLS = [row[0] for row in csv.reader(table, delimiter="\t") if not row[0].startswith("#")]


def spelled(pitches: list[Pitch]) -> dict[int, NoteName]:
    return {pitch.key % 12: pitch.name for pitch in pitches}


def names(text: str, most: int = 8) -> list[str]:
    pitches = [p for p in map(read_pitch, text.split()) if p]
    return [str(n.chord) for n in identify([p.key for p in pitches], spelled(pitches), most)]


@pytest.mark.parametrize(
    ("notes", "best"),
    [
        ("C3 E3 G3", "C"), ("C3 Eb3 G3", "Cm"), ("C3 E3 G3 A3", "C6"), ("A2 C4 E4 G4", "Am7"),
        ("D3 F3 A3 C4", "Dm7"), ("F3 A3 C4 E4", "Fmaj7"), ("C3 G3 E4 B4", "Cmaj7"),
        ("E3 G3 C4", "C/E"), ("G3 C4 E4", "C/G"), ("G2 F3 A3 C4", "G9sus"),
        ("C2 Bb3 E4 A4 D5", "C13"), ("B2 D3 F3 Ab3", "Bdim7"), ("C3 E3 G#3", "Caug"),
        ("E3 A3 D4 G4 B4", "Em7(add11)"), ("C3 F3 G3", "Csus"), ("C3 Eb4 G4 Bb4 D5", "Cm9"),
        ("C3 G3", "C5"), ("F#2 A3 C4 E4", "F#m7b5"), ("G2 F4 Ab4 B4", "G7b9"),
        ("C3 Bb3 Eb4 G4 A4", "Cm7(add13)"), ("C2 E3 Bb3 D#4", "C7#9"), ("C3 E4 G4 D5", "Cadd9"),
        ("C3 Eb3 G3 B3", "Cm(maj7)"), ("D2 C4 E4 G4", "D9sus"),
    ],
)  # fmt: skip
def test_the_best_name(notes: str, best: str) -> None:
    assert names(notes)[0] == best


@pytest.mark.parametrize(
    ("left", "right", "best", "never"),
    [
        ("D3 A3 F4", "B4 C#5 E5 A5", "Dm69(maj7)", ""),  # what the left hand holds comes first
        ("D3 G3", "B3 F4", "G7/D", ""),  # an inversion before a name that lacks a tone
        ("F3", "E4 A4 B4", "Fmaj7#11", "B7sus/F"),
        ("C3 G3", "D4 F#4 A4", "D//C5", ""),  # triad over root and fifth
        ("C3 Bb3", "D4 F#4 A4", "D//C7(no3)", ""),  # over a shell
        ("C3 E3 Bb3", "D4 F#4 A4 B4", "D6//C7", ""),
        ("C3 E3 G3", "D4 F#4 A4", "C69(#11)", ""),
        ("C3 G3 D4", "E4 G4 B4", "Cmaj9", ""),
        ("A2 E3", "C4 E4 G4", "Am7", "Fmaj9"),
        ("Eb3 G3 A3 D4", "A4 D5 G5", "Ebmaj7#11", ""),
    ],
)  # fmt: skip
def test_what_the_left_hand_holds_names_the_whole(left: str, right: str, best: str, never: str) -> None:
    pitches = [found for found in map(read_pitch, f"{left} {right}".split()) if found]
    keys = [one.key for one in pitches]
    found = [str(one.chord) for one in identify(keys, spelled(pitches), 3, len(left.split()))]
    assert found[0] == best and never not in found


LOWER = {"triad": (0, 4, 7), "root and fifth": (0, 7), "root, fifth, ninth": (0, 7, 14), "shell": (0, 10)}
UPPER = {
    "": (0, 4, 7),
    "m": (0, 3, 7),
    "7": (0, 4, 7, 10),
    "m7": (0, 3, 7, 10),
    "add9": (0, 2, 4, 7),
    "6": (0, 4, 7, 9),
}


@pytest.mark.parametrize("low", LOWER.values(), ids=LOWER)
@pytest.mark.parametrize("high", UPPER.values(), ids=UPPER)
def test_every_pair_of_chords_has_a_name(low: tuple[int, ...], high: tuple[int, ...]) -> None:
    for root in range(12):
        keys = [*(48 + step for step in low), *(64 + root + step for step in high)]
        found = identify(keys, most=4, left=len(low))
        assert found, keys
        assert any(
            (root + 4) % 12 == one.chord.root.pitch_class or one.chord.root.pitch_class == 0 for one in found
        )


def test_the_bass_decides() -> None:
    """One four-note grip: its names over different basses."""
    grip = "F3 A3 C4 E4"
    assert names(grip)[0] == "Fmaj7"
    assert names(f"D3 {grip}")[0] == "Dm9"
    assert names(f"B2 {grip}")[0] in ("Bm7b5(add11)", "Bm11b5", "Fmaj7/B")
    assert "Fmaj7/G" in names(f"G2 {grip}") and names(f"G2 {grip}")[0] == "G13sus"
    every = over_every_bass([65, 69, 72, 76])
    assert len(every) == 12 and all(every.values())


def test_rootless_grips_are_named_too() -> None:
    assert "Dm9" in names("F3 A3 C4 E4") and "G13sus" in names("F3 A3 C4 E4")


def test_number_over_number() -> None:
    chord = parse_chord("G/A")
    assert chord is not None
    assert over_number(chord, parse_key("C")) == "5 over 6"
    poly = parse_chord("D//C7")
    assert poly is not None
    assert over_number(poly, parse_key("C")) == "2 over 1"


@given(st.lists(st.integers(30, 90), min_size=1, max_size=7, unique=True))
def test_every_name_sounds_the_notes(keys: list[int]) -> None:
    found = identify(keys)
    assert [n.score for n in found] == sorted((n.score for n in found), reverse=True)
    for name in found:
        chord = name.chord
        tones = {(chord.root.pitch_class + degree_semitones(d)) % 12 for d in chord.degrees}
        tones.add(chord.bass_name.pitch_class)
        if not chord.alt:
            assert {key % 12 for key in keys} <= tones
        assert name.reading


@given(st.sampled_from(QUALITIES), st.integers(0, 11), st.data())
def test_a_chord_is_found_under_its_own_name(quality: str, root: int, data: st.DataObject) -> None:
    chord = parse_chord(f"C{quality}")
    assert chord is not None
    assume(not chord.alt)
    low = 36 + root
    upper = [low + degree_semitones(d) + 12 * data.draw(st.integers(1, 2)) for d in chord.degrees if d != "R"]
    found = identify([low, *upper], most=40)
    own = {frozenset(n.chord.degrees) for n in found if n.chord.root.pitch_class == root and not n.chord.bass}
    sounding = frozenset(degree_semitones(d) for d in chord.degrees)
    assert any(frozenset(degree_semitones(d) for d in degrees) == sounding for degrees in own)


def test_a_single_note() -> None:
    assert names("C3") == ["C"]


@pytest.mark.parametrize(
    ("number", "key", "symbol"),
    [
        ("ii7", "C", "Dm7"), ("V7", "C", "G7"), ("Imaj7", "C", "Cmaj7"), ("bVII9", "C", "Bb9"),
        ("iv6", "C", "Fm6"), ("V7/ii", "C", "A7"), ("viio7", "C", "Bdim7"), ("viiø7", "C", "Bm7b5"),
        ("I+", "C", "Caug"), ("IV/5", "C", "F/G"), ("V7sus4", "C", "G7sus"), ("V7/V", "A", "B7"),
        ("#ivø7", "G", "C#m7b5"), ("iiø7", "Am", "Bm7b5"), ("V7", "Am", "E7"), ("i", "Am", "Am"),
        ("VI", "Am", "F"), ("bVI", "Am", "F"), ("III", "Am", "C"), ("VII7", "Am", "G7"),
        ("viio7", "Am", "G#dim7"), ("V7/iv", "Am", "A7"), ("iiø7/ii", "C", "Em7b5"), ("I6/9", "C", "C69"),
        ("V7/VI", "Am", "C7"), ("imaj7", "Cm", "Cm(maj7)"),
    ],
)  # fmt: skip
def test_roman_numbers(number: str, key: str, symbol: str) -> None:
    assert parse_roman(number, parse_key(key)) == parse_chord(symbol)


@given(st.sampled_from(ALL_KEYS), st.sampled_from([s for s in SYMBOLS if "/" not in s]), st.integers(0, 11))
def test_roman_round_trip(key: Key, symbol: str, place: int) -> None:
    root = key.tonic.above(place * 7 // 12, place)
    chord = parse_chord(symbol)
    assert chord is not None
    chord = chord.transposed(root.step, root.pitch_class)
    again = parse_roman(print_roman(chord, key), key)
    assert again.degrees == chord.degrees and again.root == chord.root


@pytest.mark.parametrize("text", ["VIIII", "X", "Vfoo", "II7/", "V7/IX", "ii7b9(", ""])
def test_bad_roman_numbers_complain(text: str) -> None:
    with pytest.raises(BadInput):
        parse_roman(text, parse_key("C"))
