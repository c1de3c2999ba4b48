"""The pedal by itself: where it goes down, is changed, and stays up."""

from __future__ import annotations

from fractions import Fraction

import pytest

from made import song_of
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.perform import Pedalled, pedalling
from yellow_hinge.song.edits import with_voicings
from yellow_hinge.song.groove_edits import mark_pedal, set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.song.pedal import blurs, computed
from yellow_hinge.song.playing import Playing
from yellow_hinge.voicing.shape import HandShape, Voicing

BAR = Fraction(4)


def notes(*row: tuple[float, int], lasts: float = 1) -> list[NoteEvent]:
    return [NoteEvent(Fraction(at), key, Fraction(lasts), 64, "left", 0) for at, key in row]


@pytest.mark.parametrize(
    ("keys", "blurred"),
    [
        ({36, 43, 52}, False), ({60, 61}, True), ({60, 73}, True), ({60, 72}, False), ({60, 62}, False),
        ({59, 61}, True),  # a whole step growls below C4
        ({48, 51}, False), ({47, 50}, True),  # a minor third below C3
        ({34, 41}, False), ({33, 40}, True),  # a fifth below Bb1
    ],
)  # fmt: skip
def test_what_blurs(keys: set[int], blurred: bool) -> None:
    assert blurs(keys) is blurred
    assert not blurs(keys, keys)  # what is chosen together is as it was chosen


def test_what_is_together_in_two_different_rows_is_not_together() -> None:
    assert blurs({47, 50}, {47, 60}, {50, 60}) and not blurs({47, 50}, {47}, {47, 50})


@pytest.mark.parametrize(
    ("row", "changes", "until"),
    [
        ([], (), None),
        ([(0, 36), (1, 55), (2, 60)], (0,), None),
        ([(1, 36), (2, 55)], (1,), None),
        ([(0, 36), (2, 37)], (0, 2), None),  # a half step is not held on
        ([(0, 36), (1, 37), (2, 38), (3, 39)], (0, 1, 2, 3), None),
        ([(0, 60), (0.5, 61), (1, 62), (1.5, 63), (2, 64), (2.5, 65)], (0,), 0.5),  # the feet do not dance
    ],
)  # fmt: skip
def test_where_it_is_changed(
    row: list[tuple[float, int]], changes: tuple[int, ...], until: float | None
) -> None:
    quarters, lasts = (BAR, 1.0) if len(row) < 6 else (Fraction(3), 0.5)
    held = computed(notes(*row, lasts=lasts), {36}, Fraction(0), quarters)
    assert held.changes == tuple(map(Fraction, changes))
    assert held.until == (None if until is None else Fraction(until))


def test_fingers_that_hold_on_are_held_over_a_change() -> None:
    bass = NoteEvent(Fraction(0), 36, BAR, 64, "left", 0)
    lead = notes((2, 60), (3, 61))
    assert computed([bass, *lead], {36}, Fraction(0), BAR).changes == (0, 3)
    crushed = [NoteEvent(Fraction(2), 62, Fraction(1, 8), 60, "right", 0, "grace", ornament=True)]
    assert computed([bass, *notes((2, 64)), *crushed], {36, 64}, Fraction(0), BAR).changes == (0, 2)
    at_once = [NoteEvent(Fraction(0), 35, Fraction(1, 8), 60, "left", 0, "grace", ornament=True)]
    assert computed([bass, *at_once, *notes((2, 48))], {36, 48}, Fraction(0), BAR).changes == (0,)


def song(grip: tuple[int, ...] = (48, 55, 60), chart: str = "| C | F | C | C |", **texture: object) -> Song:
    made = song_of(f"key: C\ntempo: 100\n[A]\n{chart}\n")
    labels = ("R", "5", "3", "7")
    grips = [Voicing(HandShape(grip, labels[: len(grip)], ""), HandShape((72, 76), ("R", "3"), ""))]
    made = with_voicings(made, grips * len(made.columns))
    return set_texture(made, None, "x", texture).song if texture else made


@pytest.mark.parametrize(
    ("left", "right", "pedalled"),
    [
        ("held", "held", True),
        ("waltz", "held", True),
        ("off-beats", "held", False),
        ("held", "off-beats", False),
        ("swing-four", "held", False),
        ("ballad-core", "held", True),
    ],
)
def test_dry_patterns_have_none(left: str, right: str, pedalled: bool) -> None:
    row = Playing(song(left=left, right=right)).pedalled()
    assert [bool(one.changes) for one in row] == [pedalled] * 4


def test_a_hand_that_cannot_hold_what_it_plays_has_the_pedal_even_so() -> None:
    wide = song((36, 55, 64), left="off-beats", right="held")
    assert all(one.changes for one in Playing(wide).pedalled())


def test_the_same_chord_again_is_held_on_under_long_patterns_alone() -> None:
    assert [one.hold for one in Playing(song()).pedalled()] == [False, False, False, True]
    assert not any(one.hold for one in Playing(song(left="bass-chord", right="held")).pedalled())
    parts = song_of("key: C\n[A]\n| C |\n[B]\n| C |\n")
    parts = with_voicings(parts, [Voicing(HandShape((48,), ("R",), ""), HandShape((64,), ("3",), ""))] * 2)
    assert not any(one.hold for one in Playing(parts).pedalled())


def test_the_player_overrides_it_chord_by_chord() -> None:
    made = song()
    at = made.slots[1].at
    none = mark_pedal(made, at, ()).song
    assert [bool(one.changes) for one in Playing(none).pedalled()] == [True, False, True, True]
    twice = mark_pedal(made, at, (Fraction(0), Fraction(2))).song
    assert Playing(twice).pedalled()[1].changes == (0, 2)
    said = Playing(twice).pedal_said()
    assert [one.changes for one in said] == [(), (0, 2), (), ()]  # a score shows what was said alone
    assert not any(one.changes for one in Playing(song(pedal="none")).pedalled())


def test_up_before_the_end_and_held_on() -> None:
    def ms(_: Fraction) -> float:
        return 1100.0  # the gap is a tenth of a quarter

    row = [
        Pedalled(Fraction(0), BAR, 0, (Fraction(0),)),
        Pedalled(BAR, BAR, 1, (Fraction(0),), hold=True),
        Pedalled(2 * BAR, BAR, 2, (Fraction(0), Fraction(2)), hold=True, until=Fraction(3)),
        Pedalled(3 * BAR, BAR, 3, (Fraction(0),)),
    ]
    moves = [(float(one.start_quarters), one.down) for one in pedalling(row, ms)]
    tenth = 0.1
    assert moves == [
        (pytest.approx(tenth, abs=0.01), True), (10, False), (pytest.approx(10 + tenth, abs=0.01), True),
        (11, False), (pytest.approx(12 + tenth, abs=0.01), True), (16, False),
    ]  # fmt: skip
