"""Which syllables stand where, bar by bar and round by round."""

from __future__ import annotations

from fractions import Fraction

import pytest

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.chart import Chart, ChordAt, Syllable
from yellow_hinge.song.words import Singing, plain_text, seated, spread, under_chords, without_empty

THREE = "[A]{times}\n| C | D |\nmelody: C5:4 | D5:4\nlyrics: a | b\nlyrics: c | d\nlyrics: e | f\n"
ENDINGS = "[A]\n| C |1. D |2. E |\nmelody: C5:4 | D5:4 | E5:4\nlyrics: a | b | c\nlyrics: d | | {second}\n"


def verses(chart: Chart, index: int, rounds: tuple[int, ...] = ()) -> list[tuple[int, str]]:
    found = Singing(chart).verses(index, rounds)
    return [(verse.number, " ".join(one.text or "_" for _, one in verse.syllables)) for verse in found]


@pytest.mark.parametrize(
    ("text", "index", "rounds", "wanted"),
    [
        (THREE.format(times=""), 0, (), [(1, "a"), (2, "c"), (3, "e")]),  # no repeat: below each other
        (THREE.format(times=" x2"), 0, (1,), [(1, "a")]),
        (THREE.format(times=" x2"), 2, (2,), [(1, "c"), (2, "e")]),  # a third one in the last round
        (THREE.format(times=" x2"), 0, (1, 2), [(1, "a"), (2, "c"), (3, "e")]),
        (THREE.format(times=" x4"), 6, (), [(1, "e")]),  # a round without one of its own has the one before
        (THREE.format(times=" x4"), 4, (3, 4), [(1, "e")]),
        (THREE.format(times=" x4"), 2, (2, 3), [(1, "c"), (2, "e")]),
        (ENDINGS.format(second=""), 3, (), [(1, "c")]),  # a second ending's first verse
        (ENDINGS.format(second="x"), 3, (), [(1, "c"), (2, "x")]),
        (ENDINGS.format(second=""), 1, (), [(1, "b")]),
        (ENDINGS.format(second=""), 2, (), [(1, "d")]),
    ],
)
def test_verses_of_a_bar(
    text: str, index: int, rounds: tuple[int, ...], wanted: list[tuple[int, str]]
) -> None:
    assert verses(parse_chart(text), index, rounds) == wanted


def test_what_is_sung_under_a_chord() -> None:
    chart = parse_chart("| C G |\nmelody: C5:1 D5:1 E5:1 F5:1\nlyrics: wa-ter run-ning\n")
    singing = Singing(chart)
    assert singing.text(0, Fraction(0), Fraction(2)) == "water"
    assert (
        singing.text(0, Fraction(0), Fraction(1)) == "wa-"
        and singing.text(0, Fraction(2), Fraction(4)) == "running"
    )
    assert singing.text(0, Fraction(4), Fraction(8)) == ""
    assert Singing(parse_chart("| C |")).text(0, Fraction(0), Fraction(4)) == ""


def test_places_are_those_of_notes_that_are_struck_or_of_chords() -> None:
    singing = Singing(parse_chart("| C | F G |\nmelody: C5:1 r:1 C5:2\n"))
    assert singing.places(0) == (0, 2) and singing.places(1) == (0, 2)
    tied = Singing(parse_chart("| C | C |\nmelody: C5:4~ | C5:1 D5:3\n"))
    assert tied.places(1) == (1,) and tied.joined == {0: False, 1: True}
    pickup = Singing(parse_chart("pickup: 2\nmelody: C5:1 D5:1\n| C |\n"))
    assert pickup.places(-1) == (0, 1)


def held() -> Syllable:
    return Syllable(held=True)


def test_rows_are_seated_spread_and_gathered() -> None:
    one, two = Syllable("one"), Syllable("two", joined=True)
    chords = (ChordAt(None, Fraction(2)), ChordAt(None, Fraction(2)))
    assert seated((one, held(), held()), (), joined=False) == (one,)
    assert spread((one,), chords) == (one,) and spread((), chords) == ()
    assert spread((one, two, one), chords) == (one, Syllable("twoone"))
    assert under_chords({Fraction(1): two, Fraction(2): one}, chords) == (two, one)
    assert under_chords({Fraction(3): one}, chords) == (held(), one)
    assert under_chords({Fraction(0): one, Fraction(1): one}, chords) == (Syllable("one\u00a0one"),)
    assert without_empty([(), (one,), ()]) == ((), (one,)) and without_empty([()]) == ()
    assert plain_text((two, one, held(), one)) == "twoone one"
