"""A tune that was played in: on the grid, in the bars, in the text."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.rhythm.played_in import Played, TuneNote, on_grid
from yellow_hinge.rhythm.time import TempoMap
from yellow_hinge.song.edits import choose
from yellow_hinge.song.model import Song
from yellow_hinge.song.tune_edits import with_tune
from yellow_hinge.song.walk import clicks, count_in_before
from yellow_hinge.tasks.song.tune_in import play_in
from yellow_hinge.voicing.shape import HandShape, Voicing

F = Fraction
CHART = """# my own remark
title: Slip Way
key: F
[Slip]
| F | Dm7 |
melody: C5:4 | D5:4
| Gm7 | C7 |
lyrics: la
[Hold]
| Bbmaj7:3 C7 | F |
"""
GRIDS = st.sampled_from([F(1), F(1, 2), F(1, 3), F(1, 4)])
_times = st.floats(0, 20, allow_nan=False, width=32)


@given(st.lists(st.tuples(st.integers(40, 90), _times, _times), max_size=12), GRIDS)
def test_what_is_played_lies_on_the_grid_one_note_at_a_time(
    raw: list[tuple[int, float, float]], grid: Fraction
) -> None:
    played = [Played(key, min(a, b), max(a, b)) for key, a, b in raw]
    notes = on_grid(played, grid)
    assert all(note.start % grid == 0 and note.end % grid == 0 and note.end > note.start for note in notes)
    assert all(one.end <= other.start for one, other in pairwise(notes))
    assert {note.key for note in notes} <= {one.key for one in played}
    for one in played:  # nothing that was struck is gone, unless a higher note began with it
        near = [note for note in notes if abs(float(note.start) - one.start) <= float(grid) / 2 + 1e-6]
        assert near and max(note.key for note in near) >= one.key


def tune(chart_notes: tuple[tuple[Fraction, Fraction, object], ...]) -> list[tuple[Fraction, Fraction, int]]:
    return [(start, start + length, pitch.key) for start, length, pitch in chart_notes]  # type: ignore[attr-defined]


@given(
    st.lists(st.tuples(st.integers(55, 80), st.integers(1, 12)), min_size=1, max_size=14), st.integers(0, 3)
)
def test_the_chart_sounds_what_was_played(steps: list[tuple[int, int]], first_bar: int) -> None:
    chart = parse_chart("meter: 3/4\n[A]\n| C | F | G7 | C |\n| C | F | G7 | C |\n[B]\n| C | F | G7 | C |\n")
    at, notes = F(3 * first_bar), []
    for key, eighths in steps:
        notes.append(TuneNote(at, at + F(eighths, 2), key))
        at += F(eighths, 2)
    end = min(at, chart.length_quarters)
    after = with_tune(chart, notes, F(3 * first_bar), end)
    wanted = [(n.start, min(n.end, chart.length_quarters), n.key) for n in notes if n.start < end]
    assert tune(after.tune) == wanted
    assert after.placed == with_tune(after, [], F(0), F(0)).placed and after.written == chart.written


def test_bars_of_the_stretch_change_and_no_others() -> None:
    chart = parse_chart(CHART)
    after = with_tune(chart, [TuneNote(F(5), F(7), 69)], F(4), F(8))
    assert [str(note.pitch) for note in after.sections[0].bars[0].melody] == ["C5"]
    assert [(str(note.pitch), note.beats) for note in after.sections[0].bars[1].melody] == [
        ("None", 1), ("A4", 2), ("None", 1),
    ]  # fmt: skip
    silent = with_tune(chart, [], F(0), F(8))
    assert not any(bar.melody for bar in silent.sections[0].bars)


def test_a_section_that_comes_again_has_what_was_played_first() -> None:
    chart = parse_chart("[A] x2\n| C | F |\n")
    after = with_tune(chart, [TuneNote(F(0), F(4), 60), TuneNote(F(8), F(12), 72)], F(0), F(16))
    assert [pitch.key for _, _, pitch in after.tune] == [60, 60]
    over = with_tune(chart, [TuneNote(F(6), F(10), 64)], F(0), F(16))  # back to the first bar: cut, not tied
    assert not any(note.tied for bar in over.sections[0].bars for note in bar.melody)


def test_the_rest_of_the_text_stays_as_it_was_typed() -> None:
    song = Song(parse_chart(CHART))
    grip = Voicing(HandShape((41,), ("R",)), HandShape((57, 60), ("3", "5")))
    song = choose(song, 0, grip).song
    notes = [TuneNote(F(8), F(10), 70), TuneNote(F(10), F(13), 67)]
    edit = play_in(song, notes, F(8), F(16), "tune 1", since=song)
    assert edit.lost == () and edit.song.voicing(0) == grip and edit.song.locked(0)
    text = edit.song.chart.text
    assert "# my own remark" in text and "lyrics: la" in text and "melody: C5:4 | D5:4" in text
    assert text.splitlines()[7] == "melody: Bb4:2 G4:2~ | G4:1 r:3"
    assert parse_chart(text).tune == edit.song.chart.tune
    gone = play_in(song, [], F(0), F(8), "tune 2", since=song)
    assert "melody" not in gone.song.chart.text and "# my own remark" in gone.song.chart.text
    again = play_in(edit.song, notes[:1], F(8), F(16), "tune 1", since=song)
    assert [pitch.key for _, _, pitch in again.song.tune] == [72, 74, 70]


def test_text_that_cannot_be_kept_is_written_out() -> None:
    song = Song(parse_chart("| C | % |\n"))
    edit = play_in(song, [TuneNote(F(4), F(8), 64)], F(0), F(8), "tune", since=song)
    assert [pitch.key for _, _, pitch in edit.song.tune] == [64]


@pytest.mark.parametrize("seconds", [0.0, 0.4, 1.9, 7.3, 30.0])
def test_times_lead_back_to_places(seconds: float) -> None:
    tempo = TempoMap(((F(-1), F(100)), (F(4), F(60)), (F(9), F(140))))
    assert tempo.seconds(tempo.quarters(seconds)) == pytest.approx(seconds)


def test_a_bar_is_counted_in() -> None:
    song = Song(parse_chart("meter: 3/4\n| C | F |\n"))
    start, row = count_in_before(song, F(3))
    assert start == 0 and [event.start_quarters for event in row] == [0, 1, 2]
    assert [event.key for event in row] == [event.key for event in list(clicks(song))[:3]]
