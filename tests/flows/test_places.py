"""Two places beside each other: what differs in notes, rhythm and fingers."""

from __future__ import annotations

from fractions import Fraction

import pytest

from made import song_of
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import choose
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.song.groove_edits import set_riff, set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.takes.places import Place, bar_of, compare, round_of
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import HandShape, Voicing

LIBRARY = builtin_library()
BASS = HandShape((48,), ("R",), "single-bass")
GRIP = Voicing(BASS, HandShape((60, 64, 67), ("R", "3", "5"), "close-triad"))
MOVED = Voicing(BASS, HandShape((64, 67, 72), ("3", "5", "R"), "close-triad"))


def song(chart: str = "[A]\n| C | F | C | C Am |\n[B] x3\n| C | F |\n") -> Song:
    made = song_of(chart)
    made = voice_song(made, LIBRARY, Planner(LIBRARY)).song
    for slot in made.slots:
        if str(slot.chord) == "C":
            made = choose(made, slot.index, GRIP).song
    return made


def said(made: Song, one: int, other: int, whole: bool = False) -> str:
    place = round_of if whole else bar_of
    return compare(made, row(made, LIBRARY).held, place(made, one), place(made, other)).words


def test_the_same_bar_again() -> None:
    made = song()
    assert said(made, 0, 2) == "Bar 3 is bar 1 again, note for note."
    assert said(made, 7, 9, whole=True) == "B, round 3 is B, round 2 again, note for note."
    assert "B, round 2 is B, round 1 but for the first beat: other fingers" in said(made, 5, 7, whole=True)


def test_places_are_whole() -> None:
    made = song()
    assert bar_of(made, 4) == Place((3, 4), "bar 4") and bar_of(made, 3) == bar_of(made, 4)
    assert round_of(made, 7) == Place((7, 8), "B, round 2")


def test_a_bar_but_for_one_beat() -> None:
    made = set_texture(song(), None, "x", {"left": "pulses", "right": "pulses"}).song
    slot = made.slots[2]
    made = set_riff(made, slot.at, (RiffNote(Fraction(3), Fraction(1), 84, "right"),)).song
    assert said(made, 0, 2) == "Bar 3 is bar 1 but for the fourth beat: other notes and fingers."
    two = (RiffNote(Fraction(2), Fraction(1), 84, "right"), RiffNote(Fraction(3), Fraction(1), 84, "right"))
    made = set_riff(made, slot.at, two).song
    assert said(made, 0, 2).startswith("Bar 3 is bar 1 but for the third and the fourth beat: other ")


@pytest.mark.parametrize(
    ("change", "aspects"),
    [
        (lambda one: choose(one, 2, MOVED).song, "in notes and fingers"),
        (lambda one: set_texture(one, one.slots[2].at, "x", {"right": "stop"}).song, "in rhythm"),
        (lambda one: set_texture(one, one.slots[2].at, "x", {"right": "pulses"}).song, "in rhythm and"),
    ],
)  # fmt: skip
def test_what_differs_is_named(change, aspects: str) -> None:  # type: ignore[no-untyped-def]
    words = said(change(song()), 0, 2)
    assert "rhythm" not in aspects or "rhythm" in words
    assert aspects.removeprefix("in ") in words


def test_chords_that_differ_are_told_one_by_one() -> None:
    made = choose(song(), 2, MOVED).song
    found = compare(made, row(made, LIBRARY).held, bar_of(made, 0), bar_of(made, 2))
    assert found.differ == ((0, 2),) and found.details == ("right hand E4 G4 C5 for C4 E4 G4",)
    other = compare(made, row(made, LIBRARY).held, bar_of(made, 0), bar_of(made, 1))
    assert other.details[0].startswith("F for C; ")
    longer = compare(made, row(made, LIBRARY).held, bar_of(made, 0), round_of(made, 5))
    assert "differs from bar 1" in longer.words and "of 8." in longer.words
