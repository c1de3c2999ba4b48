"""Mud: against its own definition at a few places, and as the ear has it."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.voicing.limits import LOWEST_KEY, muddy, too_low
from yellow_hinge.voicing.register import mud, mud_table


def plain_roughness(low: int, high: int) -> float:
    """Sethares' formula, written out once more without arrays."""
    total = 0.0
    for i in range(1, 7):
        for j in range(1, 7):
            a, b = (440 * 2 ** ((key - 69) / 12) * n for key, n in ((low, i), (high, j)))
            s = 0.24 / (0.021 * min(a, b) + 19)
            x = s * abs(a - b)
            total += 0.88 ** (i - 1) * 0.88 ** (j - 1) * (math.exp(-3.5 * x) - math.exp(-5.75 * x))
    return total


@pytest.mark.parametrize(("low", "high"), [(30, 33), (31, 35), (40, 43), (36, 43), (45, 60), (50, 51)])
def test_the_table_is_the_formula(low: int, high: int) -> None:
    depth = min(1.0, max(0.0, (55 - low) / 24))
    assert mud_table()[low, high] == round(100 * plain_roughness(low, high) * depth)


@given(st.integers(29, 42), st.sampled_from([3, 4, 5]))
def test_the_same_interval_is_muddier_further_down(low: int, interval: int) -> None:
    assert mud((low, low + interval)) > mud((low + 12, low + 12 + interval))


def test_open_shapes_are_clearer_than_close_ones() -> None:
    assert mud((36, 40, 43)) > mud((36, 43, 52)) > mud((60, 64, 67)) == 0
    assert mud((36, 40)) > mud((36, 43)) > mud((36, 48))


def test_limits_hold_for_neighbours() -> None:
    for interval, lowest in LOWEST_KEY.items():
        assert too_low(lowest - 1, lowest - 1 + interval) and not too_low(lowest, lowest + interval)
    assert muddy((40, 44, 60)) and not muddy((36, 48, 60))
