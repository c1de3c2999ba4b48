"""Millimetres, reach and fingerings."""

from __future__ import annotations

import math
from itertools import combinations, pairwise, product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yellow_hinge.errors import BadInput
from yellow_hinge.hands.fingering import (
    CHANGE_COST,
    finger_progression,
    fingerings,
)
from yellow_hinge.hands.geometry import is_black, key_centre_mm, span_mm, white_interval_mm
from yellow_hinge.hands.profile import HandProfile, parse_reach, reach_words


def test_octaves_and_white_steps() -> None:
    for key in range(12, 100):
        assert span_mm(key, key + 12) == pytest.approx(164.5)
    whites = [key for key in range(60, 85) if not is_black(key)]
    steps = [key_centre_mm(b) - key_centre_mm(a) for a, b in pairwise(whites)]
    assert all(step == pytest.approx(23.5) for step in steps)


def test_black_keys_lie_between_their_neighbours_and_50_mm_deeper() -> None:
    for key in range(60, 72):
        if is_black(key):
            assert key_centre_mm(key - 1) < key_centre_mm(key) < key_centre_mm(key + 1)
            sideways = key_centre_mm(key) - key_centre_mm(key - 1)
            assert span_mm(key - 1, key) == pytest.approx(math.hypot(sideways, 50))


def test_a_tenth_is_not_the_same_from_every_key() -> None:
    profile = HandProfile().with_reach(10, 10)
    assert profile.can_reach(profile.left, (48, 64))  # C to E
    assert profile.can_reach(profile.left, (50, 65))  # D to F
    assert not profile.can_reach(profile.left, (46, 62))  # Bb to D: black to white, and wide
    assert not profile.can_reach(profile.left, (49, 65))  # C# to F


def test_narrow_keys_bring_wide_shapes_into_reach() -> None:
    standard = HandProfile().with_reach(8, 8)
    narrow = HandProfile(standard.left, standard.right, octave_mm=140.0)
    assert not standard.can_reach(standard.left, (48, 62))
    assert narrow.can_reach(narrow.left, (48, 62))


@given(st.integers(2, 13), st.integers(2, 13))
def test_reach_reads_in_every_way_of_writing(left: int, right: int) -> None:
    assert parse_reach(f"{left}th,{right}") == (left, right)
    assert parse_reach(f"{reach_words(left)},{reach_words(right)}") == (left, right)
    profile = HandProfile().with_reach(left, right)
    assert (profile.left.reach, profile.right.reach) == (left, right)
    assert profile.left.reach_mm == pytest.approx(white_interval_mm(left))


@pytest.mark.parametrize("text", ["", "1,2", "14th", "a,b", "8,8,8", "-3"])
def test_bad_reach_complains(text: str) -> None:
    with pytest.raises(BadInput):
        parse_reach(text)


chords = st.lists(st.integers(48, 62), min_size=1, max_size=5, unique=True).map(
    lambda keys: tuple(sorted(keys))
)


@given(chords, st.booleans())
def test_fingers_ascend_and_every_choice_is_ranked(keys: tuple[int, ...], left: bool) -> None:
    ranked = fingerings(keys, left)
    assert len(ranked) == math.comb(5, len(keys))
    assert list(ranked) == sorted(ranked)
    for _, fingers in ranked:
        assert list(fingers) == sorted(fingers, reverse=left)


@settings(max_examples=40)
@given(st.lists(chords, min_size=1, max_size=4), st.booleans())
def test_progression_against_brute_force(row: list[tuple[int, ...]], left: bool) -> None:
    def cost(choice: tuple[tuple[int, tuple[int, ...]], ...]) -> int:
        total = sum(own for own, _ in choice)
        for (keys, (_, before)), (next_keys, (_, after)) in zip(
            zip(row, choice, strict=True), list(zip(row, choice, strict=True))[1:], strict=False
        ):
            held = dict(zip(next_keys, after, strict=True))
            pairs = zip(keys, before, strict=True)
            total += CHANGE_COST * sum(held.get(key, finger) != finger for key, finger in pairs)
        return total

    best = min(cost(choice) for choice in product(*(fingerings(keys, left) for keys in row)))
    chosen = finger_progression(tuple(row), left)
    own = tuple(
        next(pair for pair in fingerings(keys, left) if pair[1] == fingers)
        for keys, fingers in zip(row, chosen, strict=True)
    )
    assert cost(own) == best


def test_common_fingerings_of_plain_chords() -> None:
    assert fingerings((60, 64, 67), left=False)[0][1] == (1, 3, 5)
    assert fingerings((48, 52, 55), left=True)[0][1] == (5, 3, 1)
    assert fingerings((60, 72), left=False)[0][1] == (1, 5)
    assert finger_progression((), left=True) == ()
    assert len(list(combinations(range(5), 3))) == len(fingerings((60, 64, 67), left=False))
