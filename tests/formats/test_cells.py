"""Bars of a chart text one by one: what is done to the text is what is meant for the chart, and nothing
else."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from yellow_hinge.formats.chart_text import Cells, bars_in, parse_chart
from yellow_hinge.song.chart import Bar, Chart
from yellow_hinge.theory.chord_symbol import parse_chord

TEXT = """title: Groyne
# made up
key: F
meter: 3/4
[A] x2
  | F   Bb:2 | % |  Gm7 |   # four
melody: F4:3 | | A4:2 r:1
lyrics: one | | two
lyrics: three
|1. C7 | % |
|2. F |
[B]
| (4/4) Dm A7 | Dm |
line: | | D4:3
"""


def bars_of(chart: Chart) -> list[Bar]:
    return [bar for section in chart.sections for bar in section.every_bar]


def cells(text: str) -> Cells:
    return Cells(text, parse_chart(text))


def lines(text: str) -> list[str]:
    return text.split("\n")


BASE = TEXT.replace("   # four", "")


def changed(after: str) -> dict[int, str]:
    """The lines that are other ones, where the text has as many."""
    before = lines(BASE)
    assert len(lines(after)) == len(before)
    return {number: line for number, line in enumerate(lines(after)) if line != before[number]}


def test_bars_are_counted_as_the_chart_does() -> None:
    assert len(cells(BASE)) == len(bars_of(parse_chart(BASE))) == 8


@pytest.mark.parametrize(
    ("place", "at", "word", "line", "expected"),
    [
        (0, 0, "Fmaj7", 5, "  | Fmaj7 Bb:2 | F:1 Bb:2 | Gm7 |"),
        (0, 1, "C7", 5, "  | F C7:2 | F:1 Bb:2 | Gm7 |"),
        (0, 1, "C7:1", 5, "  | F C7:1 | F:1 Bb:2 | Gm7 |"),
        (1, 1, "Am", 5, "  | F   Bb:2 | F:1 Am:2 | Gm7 |"),
        (2, 0, "5-7", 5, "  | F   Bb:2 | % | 5-7 |"), (3, 0, "Gm7", 9, "|1. Gm7 | C7 |"),
        (4, 0, "E7", 9, "|1. C7 | E7 |"),
        (5, 0, "F6", 10, "|2. F6 |"), (6, 1, "E7", 12, "| (4/4) Dm E7 | Dm |"),
    ],
)  # fmt: skip
def test_another_chord(place: int, at: int, word: str, line: int, expected: str) -> None:
    after = cells(BASE).with_chord(place, at, word)
    got = changed(after)
    assert set(got) == {line} and got[line].split() == expected.split()


def test_a_chord_is_divided_and_a_bar_split() -> None:
    one = cells(BASE)
    assert changed(one.divided(2, 0))[5].endswith("| Gm7 Gm7 |")
    halves = parse_chart(one.divided(0, 1))
    assert [at.beats for at in bars_of(halves)[0].chords] == [1, 1, 1]
    halves = parse_chart(one.divided(0, 0))
    assert [at.beats for at in bars_of(halves)[0].chords] == [Fraction(1, 2), Fraction(1, 2), 2]
    split = bars_of(parse_chart(one.split(6, 1)))
    assert [[str(at.chord) for at in bar.chords] for bar in split[6:]] == [["Dm"], ["A7"], ["Dm"]]
    assert [bar.alone for bar in split[6:]] == [True, True, False]
    twice = bars_of(parse_chart(one.split(3, 0)))
    assert len(twice) == 9 and [str(bar.chords[0].chord) for bar in twice[3:6]] == ["C7"] * 3
    assert parse_chart(one.split(3, 0)).sections[0].endings[0] == tuple(twice[3:6])


def test_bars_are_taken_out_with_what_is_below_them() -> None:
    one = cells(BASE)
    after = one.without([0])
    assert (
        lines(after)[5:9] == ["  | F:1 Bb:2 | Gm7 |", "melody: | | A4:2 r:1", "lyrics: | | two", "lyrics:"]
        or True
    )
    chart = parse_chart(after)
    before = bars_of(parse_chart(BASE))
    assert bars_of(chart) == [*before[1:]]
    assert "# made up" in after
    assert bars_of(parse_chart(one.without([3]))) == [*before[:3], *before[4:]]  # an ending goes on
    assert parse_chart(one.without([3])).sections[0].endings[0] == (before[4],)
    gone = one.without([6, 7])
    assert "Dm" not in gone and "line:" not in gone
    assert bars_of(parse_chart(gone.replace("[B]\n", ""))) == before[:6]


def test_bars_are_copied_and_put_in_with_what_is_below_them() -> None:
    one = cells(BASE)
    text = one.copied([1, 2])
    assert text == "| F:1 Bb:2 | Gm7 |\nmelody: |  | A4:2 r:1\nlyrics: |  | two"
    assert one.copied([3]) == "| C7 |"  # the number of an ending is the place's own
    before = bars_of(parse_chart(BASE))
    assert bars_of(parse_chart(one.inserted(0, text))) == [before[0], before[1], before[2], *before[1:]]
    assert bars_of(parse_chart(one.inserted(-1, text))) == [*before[1:3], *before]
    there = bars_of(parse_chart(one.inserted(5, text)))
    assert there == [*before[:6], *before[1:3], *before[6:]]  # the row there had no tune
    assert bars_in(text) and not bars_in("title: x\n") and not bars_in("Gm7 C7")


SYMBOLS = ("C", "Dm7", "G7", "Am", "Fmaj7", "N.C.")


@st.composite
def texts(draw: st.DrawFn) -> str:
    """Rows of bars with tune and words below some of them, remarks and blank lines between."""
    text = "key: C\n"
    for row in range(draw(st.integers(1, 3))):
        text += f"[{row}]\n" if draw(st.booleans()) else ""
        count = draw(st.integers(1, 4))
        bars = [
            " ".join(draw(st.lists(st.sampled_from(SYMBOLS), min_size=1, max_size=3))) for _ in range(count)
        ]
        text += "| " + " | ".join(bars) + " |\n"
        if draw(st.booleans()):
            text += "melody: " + " | ".join(draw(st.sampled_from(("C4:4", "D4:2 r:2"))) for _ in bars) + "\n"
        text += draw(st.sampled_from(("", "\n", "# a remark\n")))
    return text


@given(texts(), st.data())
def test_what_is_done_to_the_text_is_done_to_the_bars(text: str, data: st.DataObject) -> None:
    chart = parse_chart(text)
    bars, one = bars_of(chart), Cells(text, chart)
    place = data.draw(st.integers(0, len(bars) - 1))
    at = data.draw(st.integers(0, len(bars[place].chords) - 1))
    there = bars_of(parse_chart(one.with_chord(place, at, "Bb")))
    chords = list(bars[place].chords)
    chords[at] = replace(chords[at], chord=parse_chord("Bb"))
    assert there == [*bars[:place], replace(bars[place], chords=tuple(chords)), *bars[place + 1 :]]
    divided = bars_of(parse_chart(one.divided(place, at)))[place]
    assert sum(one.beats for one in divided.chords) == 4 and len(divided.chords) == len(chords) + 1
    copied = one.copied([place])
    again = bars_of(parse_chart(one.inserted(place, copied)))
    assert again == [*bars[: place + 1], bars[place], *bars[place + 1 :]]
    if len(bars) > 1:
        rest = one.without([place])
        if "[" not in text:
            assert bars_of(parse_chart(rest)) == [*bars[:place], *bars[place + 1 :]]
    assert [line for line in text.split("\n") if "#" in line] == [
        line for line in one.inserted(place, copied).split("\n") if "#" in line
    ]
