"""Changing a grip by hand: what goes up comes down again, and nothing appears or vanishes."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.voicing.handling import (
    Keys,
    added,
    by_octaves,
    dropped,
    handed_over,
    inverted,
    moved,
    slid,
    slid_in,
    stepped,
)

_LEFT, _RIGHT = st.sets(st.integers(36, 59), max_size=5), st.sets(st.integers(60, 84), max_size=5)
_GRIPS = st.builds(lambda left, right: Keys(tuple(sorted(left)), tuple(sorted(right))), _LEFT, _RIGHT)
_SIDES = st.sampled_from(["left", "right"])


def _classes(keys: tuple[int, ...]) -> list[int]:
    return sorted(key % 12 for key in keys)


def test_inversions_of_a_triad_go_round() -> None:
    keys = Keys(right=(60, 64, 67))
    rows = []
    for _ in range(3):
        turned = inverted(keys, "right", up=True)
        assert turned is not None
        keys = turned
        rows.append(keys.right)
    assert rows == [(64, 67, 72), (67, 72, 76), (72, 76, 79)]
    back = inverted(keys, "right", up=False)
    assert back is not None
    assert back.right == (67, 72, 76)


def test_an_open_shape_turns_past_its_highest_note() -> None:
    turned = inverted(Keys(left=(36, 43, 52)), "left", up=True)
    assert turned == Keys(left=(43, 52, 60))
    octave = inverted(Keys(left=(36, 48)), "left", up=True)
    assert octave == Keys(left=(48, 60))


@given(_GRIPS, _SIDES, st.booleans())
def test_an_inversion_has_the_same_tones_and_moves_one_end(keys: Keys, side: str, up: bool) -> None:
    turned = inverted(keys, side, up)
    if turned is None:
        return
    before, after = keys.hand(side), turned.hand(side)
    assert _classes(before) == _classes(after)
    assert after[:-1] == before[1:] if up else after[1:] == before[:-1]
    assert turned.hand("left" if side == "right" else "right") == keys.hand(
        "left" if side == "right" else "right"
    )


@given(_GRIPS, _SIDES, st.integers(-3, 3))
def test_octaves_come_back(keys: Keys, side: str, octaves: int) -> None:
    there = by_octaves(keys, side, octaves)
    if there is not None:
        assert by_octaves(there, side, -octaves) == keys


@given(_GRIPS, st.integers(36, 84), st.booleans(), st.sets(st.integers(0, 11), min_size=1))
def test_a_note_steps_to_the_next_free_tone(keys: Keys, key: int, up: bool, tones: set[int]) -> None:
    after = stepped(keys, key, up, frozenset(tones))
    side = keys.side_of(key)
    if side is None:
        assert after is None
        return
    if after is None:
        return
    (to,) = set(after.hand(side)) - set(keys.hand(side))
    assert to % 12 in tones
    assert to > key if up else to < key
    between = range(key + 1, to) if up else range(to + 1, key)
    held = {*keys.left, *keys.right}
    assert not [one for one in between if one % 12 in tones and one not in held]


@given(_GRIPS, st.integers(36, 84))
def test_a_note_goes_over_and_comes_back(keys: Keys, key: int) -> None:
    over = handed_over(keys, key)
    if over is None:
        other = keys.right if key in keys.left else keys.left
        assert keys.side_of(key) is None or len(other) == 5
        return
    assert over.side_of(key) != keys.side_of(key)
    assert {*over.left, *over.right} == {*keys.left, *keys.right}
    assert handed_over(over, key) == keys


@given(_GRIPS, _SIDES, st.integers(36, 84))
def test_what_is_added_can_be_dropped(keys: Keys, side: str, key: int) -> None:
    more = added(keys, side, key)
    if more is None:
        assert keys.side_of(key) is not None or len(keys.hand(side)) == 5
        return
    assert dropped(more, key) == keys
    assert added(more, side, key) is None


@pytest.mark.parametrize(
    "gone",
    [
        lambda: inverted(Keys(left=(40,)), "left", up=True),
        lambda: inverted(Keys(), "right", up=True),
        lambda: by_octaves(Keys(left=(24, 28)), "left", -1),
        lambda: by_octaves(Keys(), "left", 1),
        lambda: moved(Keys((40,), (60,)), 40, 60),
        lambda: moved(Keys((40,), (60,)), 41, 50),
        lambda: added(Keys((40, 41, 42, 43, 44)), "left", 45),
        lambda: added(Keys((40,)), "right", 40),
        lambda: dropped(Keys((40,)), 41),
        lambda: inverted(Keys(right=(100, 104, 108)), "right", up=True),
    ],
)
def test_what_is_no_grip_is_not_made(gone: object) -> None:
    assert callable(gone)
    assert gone() is None


WHITE = frozenset({0, 2, 4, 5, 7, 9, 11})
GRIP = Keys((48, 55), (64, 67, 72))


@pytest.mark.parametrize(
    ("keys", "st", "wanted"),
    [
        (GRIP, 1, Keys((49, 56), (65, 68, 73))), (GRIP, -1, Keys((47, 54), (63, 66, 71))),
        (Keys((), (108,)), 1, None), (Keys((21,), ()), -1, None), (Keys((), (107,)), 1, Keys((), (108,))),
        (Keys((22,), ()), -1, Keys((21,), ())), (Keys(), 1, None),
    ],
)  # fmt: skip
def test_a_grip_slides_as_it_is(keys: Keys, st: int, wanted: Keys | None) -> None:
    assert slid(keys, st) == wanted


@pytest.mark.parametrize(
    ("keys", "tones", "up", "wanted"),
    [
        (GRIP, WHITE, True, Keys((50, 57), (65, 69, 74))), (GRIP, WHITE, False, Keys((47, 53), (62, 65, 71))),
        (GRIP, frozenset({0, 4, 7}), True, Keys((52, 60), (67, 72, 76))),
        (GRIP, frozenset({0, 4, 7}), False, Keys((43, 52), (60, 64, 67))),
        (Keys((), (60, 61)), WHITE, True, None),  # both would go to D
        (Keys((), (61, 64)), WHITE, True, Keys((), (62, 65))),
        (Keys((), (60,)), frozenset({0}), True, Keys((), (72,))),
        (Keys((), (107,)), frozenset({11}), True, None),
        (Keys(), WHITE, True, None),
    ],
)  # fmt: skip
def test_a_grip_slides_along_tones(keys: Keys, tones: frozenset[int], up: bool, wanted: Keys | None) -> None:
    assert slid_in(keys, tones, up) == wanted


def test_a_slide_ends_at_the_ends_of_a_piano() -> None:
    keys = Keys(left=(30, 40), right=(90, 99))
    low, high = slid(keys, -9), slid(keys, 9)
    assert low is not None and low.left[0] == 21 and high is not None and high.right[-1] == 108
    assert slid(keys, -10) is None and slid(keys, 10) is None
