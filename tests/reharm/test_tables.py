"""The tables behind swaps and lines: against what they are made from, and in full."""

from __future__ import annotations

from fractions import Fraction

import pytest

from conftest import table
from made import chord
from yellow_hinge.reharm.lines import _PASSAGES, SCALES
from yellow_hinge.reharm.proposals import chords_for_note
from yellow_hinge.reharm.regions import _plain_cost, function_of, pulls
from yellow_hinge.reharm.rules import RULES, Place
from yellow_hinge.theory.keys import ALL_KEYS, parse_key
from yellow_hinge.theory.pitch import read_note_name
from yellow_hinge.theory.tension import FitKind
from yellow_hinge.voicing.forms import UPPER_CHORDS


@pytest.mark.parametrize("case", list(table("drafts.tsv")), ids=lambda case: " ".join(case[:3]))
def test_every_draft_of_a_rule_and_nothing_else(case: list[str]) -> None:
    rule, row, beats, home, wanted = case
    before, here, after = (None if word == "-" else chord(word) for word in row.split())
    assert here is not None
    found = RULES[rule].find(Place(here, Fraction(beats), before, after, parse_key(home)))
    drafts = [" ".join(f"{one.chord}:{one.beats}" for one in draft.chords) for draft in found]
    assert drafts == [one for one in wanted.split(" | ") if one]
    assert all(sum(one.beats for one in draft.chords) == Fraction(beats) for draft in found)


@pytest.mark.parametrize("case", list(table("functions.tsv")), ids=lambda case: " ".join(case[:2]))
def test_what_a_chord_does_in_a_key(case: list[str]) -> None:
    home, symbol, name, far = case
    key, one = parse_key(home), chord(symbol)
    assert function_of(one, None, key).name == name
    assert _plain_cost(one, key) == int(far)


def test_the_sevenths_of_a_key_are_at_home_in_it() -> None:
    for key, row in (
        ("C", "Cmaj7 Dm7 Em7 Fmaj7 G7 Am7 Bm7b5"),
        ("Am", "Am7 Bm7b5 Cmaj7 Dm7 E7 Fmaj7 G#dim7"),
    ):
        assert [_plain_cost(chord(word), parse_key(key)) for word in row.split()] == [0] * 7
    assert _plain_cost(chord("Gmaj7"), parse_key("C")) == 6  # its F sharp is of another key
    assert _plain_cost(chord("Gsus"), parse_key("C")) == 0 < _plain_cost(chord("F#sus"), parse_key("C"))


@pytest.mark.parametrize(
    ("symbol", "after", "key", "words"),
    [
        ("C", "-", "C", "rests in C major"),
        ("Dm7", "G7", "C", "leads away from C"),
        ("G7", "-", "C", "pulls back to C"),
        ("Ab7", "G7", "C", "leads a half step down to G"),
        ("A7", "Dm7", "C", "leads a fifth down to D"),
        ("C#dim7", "Dm7", "C", "leads a half step up to D"),
        ("Ebdim7", "Dm7", "C", "leads a half step down to D"),
        ("Ebmaj7", "-", "C", "is no chord of C major"),
        ("C7", "F7", "C", "rests in C major"),  # as in the blues
        ("C7", "Fmaj7", "C", "leads a fifth down to F"),
        ("F7", "C7", "C", "leads away from C"),
    ],
)
def test_functions_in_words(symbol: str, after: str, key: str, words: str) -> None:
    behind = None if after == "-" else chord(after)
    assert function_of(chord(symbol), behind, parse_key(key)).words.startswith(words)


def test_what_pulls() -> None:
    for symbol, after, wanted in (
        ("G7", None, True), ("G9sus", None, True), ("G", "C", True), ("G", "Cm7", True), ("G", "Am", False),
        ("G", None, False), ("G", "C7", False), ("G6", "C", False), ("Gadd9", "C", False),
        ("Gmaj7", "C", False), ("Gm", "C", False), ("Gm7", "C", False),
    ):  # fmt: skip
        assert pulls(chord(symbol), None if after is None else chord(after)) is wanted, (symbol, after)


# --- scales ------------------------------------------------------------------------------


def modes(steps: str) -> list[tuple[int, ...]]:
    """A scale by its steps in half steps, from each of its notes on."""
    sizes = [int(step) for step in steps]
    found = []
    for start in range(len(sizes)):
        turned = sizes[start:] + sizes[:start]
        found.append(tuple(sum(turned[:count]) for count in range(len(turned))))
    return found


def test_scales_are_the_modes_of_their_parents() -> None:
    major, melodic, harmonic = modes("2212221"), modes("2122221"), modes("2122131")
    wanted = {
        "major": major[0], "dorian": major[1], "phrygian": major[2], "lydian": major[3],
        "mixolydian": major[4], "natural minor": major[5], "locrian": major[6],
        "melodic minor": melodic[0], "lydian augmented": melodic[2], "lydian dominant": melodic[3],
        "locrian with natural 2": melodic[5], "altered": melodic[6],
        "harmonic minor": harmonic[0], "phrygian dominant": harmonic[4],
        "whole-half diminished": modes("21212121")[0], "half-whole diminished": modes("12121212")[0],
        "whole tone": modes("222222")[0], "chromatic": tuple(range(12)),
    }  # fmt: skip
    assert wanted == SCALES


def test_scales_for_a_passage() -> None:
    pentatonic = modes("22323")
    assert {name: (up, steps) for name, up, steps in _PASSAGES} == {
        "major pentatonic": (0, pentatonic[0]),
        "minor pentatonic": (9, pentatonic[4]),
        "blues scale": (9, tuple(sorted((*pentatonic[4], 6)))),
        "major": (0, modes("2212221")[0]),
        "natural minor": (9, modes("2212221")[5]),
    }


def test_upper_chords_are_the_chords_that_symbols_name() -> None:
    def shape(symbol: str) -> tuple[int, ...]:
        one = chord(symbol)
        return tuple(sorted((one.root.degree(label).pitch_class) for label in one.degrees))

    assert {*UPPER_CHORDS["triads"]} == {shape(one) for one in ("C", "Cm", "Cdim", "Caug")}
    sevenths = ["Cmaj7", "C7", "Cm7", "Cm7b5", "Cdim7", "Cm(maj7)", "Cmaj7#5", "C7#5"]
    assert {*UPPER_CHORDS["sevenths"]} == {*map(shape, sevenths), (0, 3, 6, 11)}
    assert all(len(set(shapes)) == len(shapes) for shapes in UPPER_CHORDS.values())


def test_chords_for_a_note_in_every_key_hold_it() -> None:
    for key in ALL_KEYS:
        for word in ("C", "F#", "Bb"):
            name = read_note_name(word)
            assert name is not None
            for one, how in chords_for_note(name[0], key):
                tones = {one.root.degree(label).pitch_class for label in one.degrees}
                assert (name[0].pitch_class in tones) == (how.kind == FitKind.CHORD_TONE)
                assert how.kind in (FitKind.CHORD_TONE, FitKind.TENSION)
                assert abs(one.root.alter) <= 1


def test_chords_for_a_note_are_spelled_from_the_key() -> None:
    name = read_note_name("G")
    assert name is not None
    roots = {str(one.root) for one, _ in chords_for_note(name[0], parse_key("C"))}
    assert roots <= {"C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"}
    assert len(roots) >= 11
