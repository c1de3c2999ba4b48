"""What hands can reach, how it strains them and which fingers take it, held against tables."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from msgspec.structs import replace

from conftest import cases
from constants import numbers_of
from yellow_hinge.hands.fingering import finger_progression, fingerings, line_fingers
from yellow_hinge.hands.profile import (
    LARGEST_REACH,
    SMALLEST_REACH,
    Hand,
    HandProfile,
    parse_reach,
    reach_phrase,
    strain_words,
)

ROLLING = HandProfile().with_reach(9, 8)
ROLLING = replace(ROLLING, left=replace(ROLLING.left, possible_mm=235.0))


def keys_of(text: str) -> tuple[int, ...]:
    return tuple(map(int, text.split()))


def reach(text: str) -> str:
    """Strain of both hands, what is out of reach (also rolled) in tenths of a millimetre, rolled or not."""
    keys, left, right = keys_of(text), ROLLING.left, ROLLING.right
    rolled = replace(ROLLING, roll=True)
    numbers = (
        ROLLING.strain(left, keys), ROLLING.strain(right, keys), round(10 * ROLLING.excess_mm(left, keys)),
        round(10 * ROLLING.roll_excess_mm(left, keys)), round(10 * rolled.excess_mm(right, keys)),
        ROLLING.rolls(left, keys), rolled.can_reach(left, keys), ROLLING.can_reach(left, keys),
    )  # fmt: skip
    return " ".join(map(str, numbers))


def fingers(text: str) -> str:
    """The three best fingerings of each hand, and how many there are."""
    rows = (fingerings(keys_of(text), left) for left in (True, False))
    best = ("  ".join(f"{cost}:{''.join(map(str, row))}" for cost, row in found[:3]) for found in rows)
    return " | ".join((*best, str(len(fingerings(keys_of(text), True)))))


def lines(text: str) -> str:
    """One note after the other, and chords after each other, in both hands."""
    chords = tuple(map(keys_of, text.split(";")))
    told = []
    for left in (True, False):
        alone = all(len(chord) == 1 for chord in chords)
        told.append("".join(map(str, line_fingers(tuple(c[0] for c in chords), left))) if alone else "-")
        told.append(" ".join("".join(map(str, row)) for row in finger_progression(chords, left)))
    return " | ".join(told)


TABLES: dict[str, tuple[Callable[..., str], int]] = {
    "reach": (reach, 1), "fingers": (fingers, 1), "lines": (lines, 1),
}  # fmt: skip


@pytest.mark.parametrize(("name", "case", "wanted"), cases("hands", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted


@pytest.mark.parametrize(
    ("strain", "words"),
    [(0, "easy"), (60, "easy"), (61, "open"), (80, "open"), (81, "wide"), (95, "wide"), (96, "at the limit"),
     (100, "at the limit"), (101, "beyond easy reach"), (400, "beyond easy reach")],
)  # fmt: skip
def test_a_strain_in_words_on_both_sides_of_every_limit(strain: int, words: str) -> None:
    assert strain_words(strain) == words


@pytest.mark.parametrize(
    ("reach_number", "words"),
    [(2, "a second"), (8, "an octave"), (9, "a ninth"), (11, "an eleventh"), (13, "a thirteenth"),
     (1, "a second"), (0, "a second"), (14, "a thirteenth"), (40, "a thirteenth")],
)  # fmt: skip
def test_a_reach_in_words_is_the_nearest_that_has_any(reach_number: int, words: str) -> None:
    assert reach_phrase(reach_number) == words and (SMALLEST_REACH, LARGEST_REACH) == (2, 13)


def test_a_reach_is_counted_to_the_nearest_interval() -> None:
    for number in range(SMALLEST_REACH, LARGEST_REACH + 1):
        hand = HandProfile().with_reach(number, 8).left
        assert hand.reach == number
        assert replace(hand, reach_mm=hand.reach_mm + 11).reach == number
        assert replace(hand, reach_mm=hand.reach_mm + 12.5).reach == number + 1
        assert parse_reach(f"{number}th,8")[0] == number


def test_the_usual_hands_are_a_decision() -> None:
    left, right = HandProfile().left, HandProfile().right
    assert left == Hand(188.0, 4, 28, 67, 40, 60) and right == Hand(164.5, 5, 50, 88, 60, 76)
    wider = HandProfile(replace(left, possible_mm=200.0), replace(right, possible_mm=190.0))
    again = wider.with_reach(10, 9)
    assert again.left.possible_mm is None and again.right.possible_mm is None  # found anew with the reach
    assert (wider.left.widest_mm, left.widest_mm) == (200.0, 188.0)
    assert replace(left, possible_mm=100.0).widest_mm == 188.0


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("hands")
    assert {name: now.get(name) for name in decided} == decided != {}
