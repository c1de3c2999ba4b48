"""The tune in the right hand over what it keeps of its chord, against a count of fingers and keys."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from made import song_of
from yellow_hinge.hands.geometry import span_mm
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.song.edits import change_hands, with_voicings
from yellow_hinge.song.groove_edits import set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.song.under_tune import Fingers, LeftOut, Over, octave_words, tune_octaves, under_tune
from yellow_hinge.song.walk import perform, walk
from yellow_hinge.tasks.rhythm.checks import check_rhythm
from yellow_hinge.voicing.shape import HandShape, Voicing

OCTAVE_MM = 164.5
#: A hand that takes a ninth, five notes.
NINTH = Fingers(span_mm(60, 74, OCTAVE_MM), OCTAVE_MM, 5)


def stroke(key: int, start: Fraction | int = 0, quarters: Fraction | int = 4) -> NoteEvent:
    return NoteEvent(Fraction(start), key, Fraction(quarters), 68, "right", 0)


def tune(*notes: tuple[int, Fraction | int, Fraction | int]) -> list[NoteEvent]:
    return [NoteEvent(Fraction(start), key, Fraction(lasts), 80, "melody") for key, start, lasts in notes]


def kept(
    strokes: list[NoteEvent], notes: list[NoteEvent], fingers: Fingers = NINTH
) -> list[tuple[int, Fraction]]:
    return [(one.key, one.quarters) for one in under_tune(strokes, notes, fingers).kept]


CHORD = [stroke(key) for key in (62, 67, 70, 74)]


@pytest.mark.parametrize(
    ("notes", "stays", "goes"),
    [
        # above everything and within a ninth of its lowest note: all of it
        (tune((76, 0, 4)), [(62, 4), (67, 4), (70, 4), (74, 4)], []),
        # a ninth above the lowest key but one, a half step farther than the hand takes from the lowest
        (tune((77, 0, 4)), [(67, 4), (70, 4), (74, 4)], [(62, 0, "reach", False)]),
        # one of its own notes: the tune strikes that, and nothing is missing
        (tune((74, 0, 4)), [(62, 4), (67, 4), (70, 4)], []),
        # below the top: what lies above it cannot be held
        (tune((72, 0, 4)), [(62, 4), (67, 4), (70, 4)], [(74, 0, "above", False)]),
        # later below it: let go there
        (tune((76, 0, 2), (72, 2, 2)), [(62, 4), (67, 4), (70, 4), (74, 2)], [(74, 2, "above", True)]),
        # later out of reach: let go there, and not struck again
        (tune((76, 0, 2), (79, 2, 2)), [(62, 2), (67, 4), (70, 4), (74, 4)], [(62, 2, "reach", True)]),
        # comes to a key that is held: the tune strikes it anew
        (tune((76, 0, 2), (74, 2, 2)), [(62, 4), (67, 4), (70, 4), (74, 2)], []),
        # a rest in the tune
        (tune((76, 0, 1)), [(62, 4), (67, 4), (70, 4), (74, 4)], []),
        ([], [(62, 4), (67, 4), (70, 4), (74, 4)], []),
    ],
)
def test_what_is_kept_under_the_tune(
    notes: list[NoteEvent], stays: list[tuple[int, int]], goes: list[tuple[int, int, str, bool]]
) -> None:
    found = under_tune(CHORD, notes, NINTH)
    assert [(one.key, one.quarters) for one in found.kept] == stays
    assert [(one.key, one.at, one.why, one.struck) for one in found.left_out] == goes


def test_of_too_many_notes_a_doubled_one_goes_first_and_else_the_nearest_to_the_tune() -> None:
    wide = replace(NINTH, reach_mm=300.0)
    five = [stroke(key) for key in (60, 64, 67, 71, 74)]
    assert kept(five, tune((76, 0, 4)), wide) == [(60, 4), (67, 4), (71, 4), (74, 4)]  # E with the tune's E
    assert kept(five, tune((77, 0, 4)), wide) == [(60, 4), (64, 4), (67, 4), (71, 4)]
    assert kept(five[:4], tune((77, 0, 4)), wide) == [(60, 4), (64, 4), (67, 4), (71, 4)]
    gone = under_tune(five, tune((77, 0, 4)), wide).left_out
    assert gone == (LeftOut(74, Fraction(0), "fingers", False),)


def test_strokes_come_where_the_pattern_has_them() -> None:
    again = [stroke(64, at, 1) for at in range(4)]
    assert kept(again, tune((67, 0, 1), (62, 1, 1), (67, 2, 2))) == [(64, 1), (64, 1), (64, 1)]


@given(
    st.lists(st.integers(55, 84), min_size=1, max_size=5, unique=True),
    st.lists(st.tuples(st.integers(55, 90), st.integers(1, 3)), min_size=1, max_size=4),
)
def test_a_hand_never_holds_what_it_cannot_and_nothing_goes_unsaid(
    chord: list[int], notes: list[tuple[int, int]]
) -> None:
    strokes = [stroke(key) for key in sorted(chord)]
    row, at = [], 0
    for key, lasts in notes:
        row.append((key, at, lasts))
        at += lasts
    sung, keys = tune(*row), {key for key, _ in notes}
    found = under_tune(strokes, sung, NINTH)
    for when in range(4):
        held = [one.key for one in found.kept if one.start_quarters <= when < one.end_quarters]
        over = [one.key for one in sung if one.start_quarters <= when < one.end_quarters]
        if over:
            every = sorted({*held, *over})
            assert all(key < over[0] for key in held) and len(every) <= 5
            assert span_mm(every[0], every[-1], OCTAVE_MM) <= NINTH.reach_mm + 0.5
            more = [key for key in chord if key < over[0] and key not in held and key not in keys]
            for key in more:  # every one that is not held is said, with its reason
                assert key in {one.key for one in found.left_out}
    silent = {key for key in chord if key not in {one.key for one in found.kept}}
    assert silent <= {one.key for one in found.left_out} | {one.key for one in sung}


# --- octaves -----------------------------------------------------------------------------


def test_the_tune_moves_to_where_most_of_the_chords_are_held() -> None:
    hand = song_of("| C |").hands.right
    grip = (64, 67, 72)
    assert tune_octaves([Over(grip, (76,))], hand, OCTAVE_MM) == 0
    assert tune_octaves([Over(grip, (88,))], hand, OCTAVE_MM) == -1
    assert tune_octaves([Over(grip, (64,))], hand, OCTAVE_MM) == 1
    assert tune_octaves([Over(grip, (52,))], hand, OCTAVE_MM) == 2
    # one note of four chords is no reason to move a tune
    assert tune_octaves([Over(grip, (76, 76, 74, 71))], hand, OCTAVE_MM) == 0
    assert tune_octaves([], hand, OCTAVE_MM) == 0
    assert tune_octaves([Over((), (64,))], hand, OCTAVE_MM) == 0


def test_octaves_in_words() -> None:
    words = {n: octave_words(n) for n in (-2, -1, 0, 1, 2)}
    assert words == {
        -2: "2 octaves lower", -1: "an octave lower", 0: "as written", 1: "an octave higher",
        2: "2 octaves higher",
    }  # fmt: skip


# --- in a song ---------------------------------------------------------------------------

TEXT = "key: C\n[Quay]\n| C | C |\nmelody: E5:4 | D5:4\n[Pier]\n| C | N.C. |\nmelody: E6:4 | G5:4\n"


def playing(text: str = TEXT, right: tuple[int, ...] = (64, 67, 72), **texture: object) -> Song:
    song = song_of(text)
    voicing = Voicing(HandShape((48,), ("R",), ""), HandShape(right, ("3", "5", "R")[: len(right)], ""))
    song = with_voicings(song, [voicing] * len(song.columns))
    song = set_texture(song, None, "x", {"tune": True, **texture}).song
    return change_hands(
        song, replace(song.hands, right=replace(song.hands.right, reach_mm=NINTH.reach_mm))
    ).song


def right(song: Song, slot: int) -> list[int]:
    return sorted(one.key for one in walk(song) if one.part == "right" and one.slot == slot)


def words(song: Song) -> list[tuple[int, str]]:
    return [(one.slot, one.words) for one in check_rhythm(song) if one.kind in ("tune", "octave")]


def test_all_that_can_be_held_is_struck_and_the_rest_is_said() -> None:
    song = playing()
    assert right(song, 0) == [64, 67, 72, 76] and right(song, 1) == [64, 67, 72, 74]
    assert right(song, 2) == [88] and right(song, 3) == [79]  # and the tune where there is no chord
    assert words(song) == [
        (2, f"Right hand: {name} is left out: out of reach under the tune") for name in ("E4", "G4", "C5")
    ]
    assert [one.kind for one in check_rhythm(playing("| C |\nmelody: E5:4\n"))] == []


def test_a_section_has_an_octave_of_its_own_and_it_is_said_once() -> None:
    song = set_texture(playing(), ("Pier", 0), "x", {"tune_octave": -1}).song
    assert right(song, 2) == [64, 67, 72, 76] and right(song, 3) == [67]
    assert words(song) == [(2, "The tune is played an octave lower from here, over its chords")]
    back = set_texture(song, ("Pier", 0), "x", {"tune_octave": 0}).song
    assert right(back, 2) == [88]
    high = playing("key: C\n| C | C |\nmelody: E6:4 | D6:4\n")
    assert right(high, 0) == [64, 67, 72, 76]
    assert words(high) == [(0, "The tune is played an octave lower from here, over its chords")]
    assert Playing(high).tune_octaves(1) == -1


def test_a_note_that_is_let_go_is_said_with_its_beat() -> None:
    song = playing("key: C\n| C |\nmelody: E5:2 A4:2\n")
    assert words(song) == [(0, "Right hand: C5 is let go on beat 3: the tune lies below it")]
    [low] = [one for one in walk(song) if one.key == 72]
    assert low.quarters == 2


def test_the_tune_sounds_once_wherever_it_is_played() -> None:
    song = set_texture(playing(tune=None), ("Pier", 0), "x", {"tune": True, "tune_octave": 0}).song
    heard = perform(song, melody=True).notes
    assert [one.key for one in heard if one.part == "melody"] == [76, 74]
    assert [one.key for one in heard if one.part == "right" and one.slot >= 2] == [88, 79]
    alone = perform(playing("key: C\npickup: 1\nmelody: G4:1\n| C |\nmelody: E5:4\n"), melody=True).notes
    assert [one.key for one in alone if one.part == "melody"] == [67]  # before the first chord
