"""Meters, tempo and shared bars."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.rhythm.time import Meter, TempoMap, beats_text, share


def test_a_beat_is_the_lower_number_of_the_meter() -> None:
    assert [Meter(beats, unit).quarters_per_beat for beats, unit in ((4, 4), (6, 8), (2, 2), (3, 16))] == [
        1, Fraction(1, 2), 2, Fraction(1, 4),
    ]  # fmt: skip
    assert str(Meter(6, 8)) == "6/8"


def test_seconds_pass_as_the_tempo_says() -> None:
    tempo = TempoMap(
        [(Fraction(-1), Fraction(60)), (Fraction(4), Fraction(120)), (Fraction(6), Fraction(30))]
    )
    assert [tempo.seconds(place) for place in (-1, 0, 4, 5, 6, 7)] == [0, 1, 5, 5.5, 6, 8]
    assert tempo.seconds(-2) == -1  # before the first change goes on as it does
    assert [tempo.quarters(second) for second in (0, 1, 5, 5.5, 6, 8, -1)] == [-1, 0, 4, 5, 6, 7, -2]


@given(st.lists(st.integers(1, 16), min_size=1, max_size=6), st.lists(st.booleans(), min_size=6, max_size=6))
def test_what_is_not_given_is_shared(lengths: list[int], given_ones: list[bool]) -> None:
    total = Fraction(sum(lengths))
    parts = [Fraction(n) if known else None for n, known in zip(lengths, given_ones, strict=False)]
    shared = share(total, tuple(parts))
    assert sum(shared) == total
    assert all(a is None or a == b for a, b in zip(parts, shared, strict=True))
    assert len({b for a, b in zip(parts, shared, strict=True) if a is None}) <= 1


@pytest.mark.parametrize(("total", "parts"), [(4, [5]), (4, [4, None]), (4, [1, 2]), (3, [None, 4])])
def test_what_does_not_add_up_is_said(total: int, parts: list[int | None]) -> None:
    with pytest.raises(ValueError, match=f"of {total} beats are given"):
        share(Fraction(total), tuple(None if part is None else Fraction(part) for part in parts))


def test_lengths_as_a_player_writes_them() -> None:
    assert [beats_text(Fraction(*pair)) for pair in ((2, 1), (3, 2), (4, 3), (1, 8), (1, 5))] == [
        "2", "1.5", "4/3", "0.125", "1/5",
    ]  # fmt: skip
