"""Patterns of one's own: written out, and strokes put into them and taken out."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.rhythm.own import (
    restruck,
    rungs_at,
    with_rungs,
    with_what,
    written_out,
)
from yellow_hinge.rhythm.patterns import WHAT, Pattern, Stroke, builtin_patterns, pattern_in, pattern_out
from yellow_hinge.rhythm.realise import Grip, Stretch, realise
from yellow_hinge.rhythm.rungs import rungs_of, what_strikes
from yellow_hinge.rhythm.time import Meter

GRIP, AFTER = Grip((48, 52, 55, 59), 7), Grip((50, 53, 57, 60), 9)
METERS = [
    Meter(*map(int, text.split("/"))) for text in ("2/4", "3/4", "4/4", "5/4", "6/8", "7/8", "12/8", "2/2")
]


@given(st.sampled_from(list(builtin_patterns().values())), st.sampled_from(METERS))
def test_written_out_it_is_played_as_it_was(pattern: Pattern, meter: Meter) -> None:
    out = written_out(pattern, meter, "mine", "Mine")
    bar = Stretch(Fraction(0), Fraction(0), meter.quarters, meter)
    assert realise(out, GRIP, AFTER, bar, "left", velocity=64) == realise(
        pattern, GRIP, AFTER, bar, "left", velocity=64
    )
    assert pattern_in(pattern_out(out)) == out and out.meters == (str(meter),) and out.family == "mine"


@given(st.integers(1, 5), st.sets(st.integers(0, 4), min_size=1))
def test_any_rungs_are_struck_by_their_words(size: int, chosen: set[int]) -> None:
    rungs = frozenset(rung for rung in chosen if rung < size)
    if rungs:
        found = frozenset(rung for what in what_strikes(rungs, size) for rung in rungs_of(what, size))
        assert found == rungs


@given(st.sampled_from(sorted(WHAT)), st.integers(0, 5))
def test_rungs_lie_in_the_grip(what: str, size: int) -> None:
    rungs = rungs_of(what, size)
    assert all(0 <= rung < size for rung in rungs)
    outside = what in ("octave", "below", "fifth", "next", "lead")
    assert bool(rungs) == (size > 0 and not outside)


def test_rungs_and_strokes_come_and_go() -> None:
    held = written_out(builtin_patterns()["held"], Meter(4, 4), "mine", "Mine")
    two = with_what(held, Fraction(2), "top")
    assert [str(one) for one in two.strokes] == ["1 all for 4", "3 top"]
    both = with_rungs(two, Fraction(2), frozenset({0, 3}), 4)
    assert [str(one) for one in both.strokes] == ["1 all for 4", "3 outer"]
    odd = with_rungs(restruck(both, Fraction(2), touch="hard"), Fraction(2), frozenset({1, 2}), 4)
    assert [str(one) for one in odd.strokes] == ["1 all for 4", "3 b2 hard", "3 b3 hard"]
    assert rungs_at(odd, Fraction(2), 4) == {1, 2} and rungs_at(odd, Fraction(1), 4) == frozenset()
    bare = with_what(odd, Fraction(2), None)
    assert [str(one) for one in bare.strokes] == ["1 all for 4"]
    assert with_what(bare, Fraction(0), None) == bare  # the last stroke stays
    octave = with_what(held, Fraction(1), "octave")
    more = with_rungs(octave, Fraction(1), frozenset({0}), 4)
    assert [one.what for one in more.strokes] == ["all", "bottom", "octave"]


@pytest.mark.parametrize("at", [Fraction(0), Fraction(5, 2), Fraction(1, 3)])
def test_a_stroke_may_be_anywhere(at: Fraction) -> None:
    pattern = Pattern("mine", "Mine", (Stroke(Fraction(1)),))
    assert at in {one.at for one in with_what(pattern, at, "all").strokes}


def test_written_out_the_short_form_the_ending_and_the_fill_stay() -> None:
    """In the counts of the meter: eighths where it counts eighths."""
    strokes = (Stroke(Fraction(0)), Stroke(Fraction(1), "top", Fraction(1)))
    full = Pattern("full", "Full", strokes, short=strokes[:1], ending=strokes[1:], fill=strokes)
    same = written_out(full, Meter(4, 4), "mine", "Mine")
    assert (same.short, same.ending, same.fill) == (full.short, full.ending, full.fill)
    eighths = written_out(full, Meter(12, 8), "mine", "Mine")
    assert (len(eighths.short), len(eighths.ending), len(eighths.fill)) == (1, 1, 2)
    assert (eighths.ending[0].at, eighths.ending[0].counts) == (2, 2)
