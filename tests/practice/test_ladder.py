"""Slow first, up by small steps, back after slips."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.practice.ladder import Ladder


def test_two_clean_rounds_are_a_step_up() -> None:
    one = Ladder(60, 100)
    assert one.fed(0, 4) == "stay" and one.tempo == 60
    assert one.fed(0, 4) == "up" and one.tempo == 64 and one.reached == 60
    assert "at 64" in one.words()


def test_a_slip_between_clean_rounds_begins_the_count_anew() -> None:
    one = Ladder(60, 100)
    one.fed(0, 4)
    assert one.fed(1, 4) == "stay" and one.fed(0, 4) == "stay" and one.tempo == 60


def test_two_rounds_with_slips_are_a_step_back_and_no_further_than_half() -> None:
    one = Ladder(60, 100)
    for _ in range(4):
        one.fed(0, 4)
    top = one.tempo
    assert one.fed(2, 4) == "stay" and one.fed(3, 4) == "back" and one.tempo < top
    for _ in range(100):
        one.fed(4, 4)
    assert one.tempo == 30


def test_one_slip_in_a_long_round_is_neither() -> None:
    one = Ladder(60, 100)
    assert [one.fed(2, 16) for _ in range(8)] == ["stay"] * 8 and one.tempo == 60
    assert one.fed(1, 16) == "stay" and one.fed(1, 16) == "up"  # one in sixteen is clean enough


def test_the_top_is_the_goal() -> None:
    one = Ladder(98, 100)
    one.fed(0, 1)
    assert one.fed(0, 1) == "up" and one.tempo == 100 and not one.at_top
    one.fed(0, 1)
    assert one.fed(0, 1) == "top" and one.at_top and one.tempo == 100


@given(st.integers(20, 200), st.integers(0, 200), st.lists(st.integers(0, 4), max_size=80))
def test_it_never_leaves_its_bounds(start: int, more: int, rounds: list[int]) -> None:
    one = Ladder(start, start + more)
    for slips in rounds:
        before = one.tempo
        move = one.fed(slips, 4)
        assert min(20, start) <= one.tempo <= start + more and one.tempo >= start // 2
        assert (one.tempo > before) == (move == "up") and (one.tempo < before) == (move == "back")
        assert one.reached <= start + more


def test_by_hand() -> None:
    one = Ladder(60, 70)
    one.moved_by_hand(1)
    assert one.tempo == 64
    one.moved_by_hand(9)
    assert one.tempo == 70
    one.moved_by_hand(-40)
    assert one.tempo == 30
