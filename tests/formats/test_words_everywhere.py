"""Words stay under their notes on every way out and in again, and what is written twice is written alike."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given, note, settings
from hypothesis import strategies as st

from made import charts
from yellow_hinge.formats import abc_in, abc_out, chordpro, musicxml
from yellow_hinge.formats.chart_text import parse_chart, write
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.model import Song
from yellow_hinge.song.words import Singing, plain_text
from yellow_hinge.tasks.files.formats import decode, encode
from yellow_hinge.voicing.recipes import builtin_library

#: A second ending with a first verse alone, a third verse without a round, ties into bars, an empty verse.
QUAY = """title: Quay Song
pickup: 1
melody: A4:1
lyrics:
lyrics: Oh
[Verse] x2
| D | G6:3 A7:1 |1. Bm7 |2. Em9 | A13 |
melody: D5:4~ | D5:2 C#5:2 | D5:2 B4:2 | E5:2 F#5:2 | C#5:4
lyrics: walk | by | wa-ter | light _ | now
lyrics: run | moon- | light |
lyrics: third | | e-lide\u203fit
[Bridge]
| F#m7b5:3 B7b9:1 | E |
lyrics: all of a sud-den and | then
lyrics: se-cond | words
"""


def sung(chart: Chart) -> list[tuple[Fraction, tuple[tuple[Fraction, str, bool, bool], ...]]]:
    """What is sung in each bar as it is played, the verses that belong to it below each other."""
    singing = Singing(chart)
    rows = []
    for index, bar in enumerate(chart.played):
        for verse in singing.verses(index):
            row = [(at, one.text, one.joined, one.held) for at, one in verse.syllables]
            rows.append((bar.start_quarters, tuple(row)))
    rows += [(Fraction(-1), tuple((Fraction(0), one.text, one.joined, one.held) for one in row))
             for row in chart.pickup_words if row]  # fmt: skip
    return rows


def by_abc(chart: Chart) -> tuple[Chart, bytes]:
    data = abc_out.write(chart)
    return abc_in.read(data).chart, data


def by_score(chart: Chart) -> tuple[Chart, bytes]:
    data = musicxml.write(Song(chart))
    return musicxml.read(data).chart, data


@pytest.mark.parametrize("way", [by_abc, by_score])
def test_every_syllable_of_a_song_comes_back(way: object) -> None:
    chart = parse_chart(QUAY)
    again, data = way(chart)  # type: ignore[operator]
    assert sung(again) == sung(chart) and way(again)[1] == data  # type: ignore[operator]
    assert again.pickup_words == chart.pickup_words and len(again.pickup_words) == 2


def told(chart: Chart) -> Chart | None:
    """Charts that a score can hold: with chords, and a pickup only where it has a tune and is shorter than
    the bar behind it (in a score it is a bar otherwise)."""
    there = chart.placed and any(one.written.chord for one in chart.placed)
    if not there or (chart.pickup and not chart.pickup_melody):
        return None
    first = chart.played[0].bar.meter
    return chart if chart.pickup * chart.meter.quarters_per_beat < first.quarters else None


@pytest.mark.long
@given(charts())
@settings(deadline=None, max_examples=30)
@pytest.mark.parametrize("way", [by_abc, by_score])
def test_any_syllable_comes_back(way: object, chart: Chart) -> None:
    if told(chart) is None:
        return
    again, data = way(chart)  # type: ignore[operator]
    note(f"{write(chart).decode()}\n{data.decode()}")
    assert sung(again) == sung(chart)
    assert parse_chart(write(again).decode()).sections == again.sections
    twice, second = way(again)  # type: ignore[operator]
    assert sung(twice) == sung(chart)
    assert way(twice)[1] == second or chart.played[0].bar.alone  # type: ignore[operator]


@given(charts())
@settings(deadline=None, max_examples=30)
def test_chordpro_has_the_words_of_each_round_at_their_chords(chart: Chart) -> None:
    if told(chart) is None or any(
        set("[]{}#") & set(one.text) for bar in chart.played for row in bar.bar.words for one in row
    ):
        return
    data = chordpro.write(chart)
    again = chordpro.read(data).chart
    assert [(one.start_quarters, str(one.written.chord)) for one in again.placed] == [
        (one.start_quarters, str(one.written.chord)) for one in chart.placed
    ]
    second = chordpro.write(again)
    assert chordpro.write(chordpro.read(second).chart) == second


@pytest.mark.long
@given(charts(), st.sampled_from((".yhinge", ".txt", ".abc", ".musicxml")))
@settings(deadline=None, max_examples=40)
def test_whatever_is_opened_is_saved_with_its_words(chart: Chart, suffix: str) -> None:
    if told(chart) is None:
        return
    song = Song(parse_chart(write(chart).decode()))
    again = decode(encode(song, suffix, builtin_library()), suffix, "x").song
    assert sung(again.chart) == sung(chart)


def test_plain_words() -> None:
    row = parse_chart(QUAY).sections[0].bars[0].words[2]
    assert plain_text(row) == "third"
    assert (
        plain_text(parse_chart("| C |\nmelody: C5:1 D5:3\nlyrics: wa-ter\n").sections[0].bars[0].words[0])
        == "water"
    )
