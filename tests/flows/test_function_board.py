"""The function board: what may stand over a degree on its way to a goal."""

from __future__ import annotations

from itertools import permutations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from made import song_of
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.function_board import (
    UPPER,
    Board,
    Cell,
    board,
    degrees_of,
    goal_grip,
    goals,
    inversions,
    put,
)
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.pitch import degree_semitones
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
PLANNER = Planner(LIBRARY)
CHART = "title: Weir\nkey: C\n[A]\n| Dm9 | G7 | Cmaj7 | C |\nmelody: | D5:4 | F5:4 | E5:4 | C5:4 |\n"


def solved(text: str = CHART) -> Song:
    return voice_song(song_of(text), LIBRARY, PLANNER).song


def cell(found: Board | None, upper: str) -> Cell:
    assert found is not None
    return next(one for row in found.cells for one in row if str(one.upper) == upper)


def tones(chord: ChordSymbol) -> set[int]:
    return {(chord.root.pitch_class + degree_semitones(label)) % 12 for label in chord.degrees}


def test_a_dominant_on_its_way_home() -> None:
    found = board(solved(), 1)
    assert found is not None and str(found.bass) == "G" and str(found.goal) == "Cmaj7" and found.stays
    assert len(found.cells) == len(UPPER) and all(len(row) == 12 for row in found.cells)
    whole = cell(found, "Bm7b5")
    assert whole.inside and whole.rootless
    assert str(whole.chord) == "G9" and whole.degrees == ("3", "5", "b7", "9")
    assert found.cells[found.best[0]][found.best[1]] == whole
    assert cell(found, "Db").inside and cell(found, "Db").leads  # the triad on the flat fifth slides down
    assert not cell(found, "B").inside and cell(found, "B").leads
    assert not cell(found, "C").inside  # its fourth rubs against the third
    assert not cell(found, "Cm7").rootless


def test_half_steps_lead_into_a_plain_triad_too() -> None:
    song = solved()
    found = board(song, 2, (song.slots[3].chord, True))  # type: ignore[arg-type]
    assert found is not None
    leading = {str(one.upper) for row in found.cells[:2] for one in row if one.leads}
    assert leading == {"Db", "B", "E", "Ab", "Abm", "Fm", "Dbm"}
    assert not cell(found, "C").leads and not cell(found, "Am").leads  # one step, or none: the same chord


@settings(deadline=None, max_examples=40)
@given(
    st.sampled_from(["Dm9", "G7", "C", "Fm6", "Bb7", "E7#9", "Am"]),
    st.sampled_from(["Cmaj7", "F", "Am7", "Eb"]),
)
def test_leading_is_what_trying_every_way_says(own: str, goal: str) -> None:
    wanted = parse_chord(goal)
    assert wanted is not None
    found = board(song_of(f"key: C\n[A]\n| {own} | {goal} |\n"), 0)
    assert found is not None
    there = sorted(tones(wanted))
    for row in found.cells:
        for one in row:
            here = sorted(tones(one.upper))
            ways = [
                [min((b - a) % 12, (a - b) % 12) for a, b in zip(here, way, strict=True)]
                for way in permutations(there, len(here))
            ] if len(here) <= len(there) else []  # fmt: skip
            assert one.leads == any(max(way) <= 1 and sum(way) >= 2 for way in ways)
            assert len(one.degrees) == len(one.upper.degrees)
            if one.rootless:
                assert found.base.root.pitch_class not in tones(one.upper)


def test_the_chord_itself_is_reached_within_its_time() -> None:
    song = solved()
    itself = next(one for one in goals(song, 2) if one == (song.slots[2].chord, False))
    found = board(song, 2, itself)
    assert found is not None and str(found.bass) == "G" and str(found.base) == "G7"  # from a fifth above
    one = inversions(found, cell(found, "Bm7b5"), LIBRARY)[0]
    edit = put(found, cell(found, "Bm7b5"), one.voicing, LIBRARY)
    after = voice_song(edit.song, LIBRARY, PLANNER).song
    assert [str(slot.chord) for slot in after.slots] == ["Dm9", "G7", "G9", "Cmaj7", "C"]
    assert [slot.beats for slot in after.slots][2:4] == [2, 2]
    assert after.voicing(2) == one.voicing and after.voicing(3) == song.voicing(2)
    assert after.locked(2) and after.locked(3)


def test_inversions_lie_in_the_hand_and_the_nearest_is_first() -> None:
    song = solved()
    found = board(song, 1)
    assert found is not None
    ways = inversions(found, cell(found, "Bm7b5"), LIBRARY)
    moves = [one.from_st + one.to_st for one in ways]
    assert len(ways) == 4 and moves == sorted(moves)
    assert len({one.voicing.right.keys[0] % 12 for one in ways}) == 4
    for one in ways:
        right = one.voicing.right.keys
        assert right[-1] - right[0] < 12 and one.voicing.left.keys[0] % 12 == 7
        assert one.voicing.left.keys[-1] < right[0] and song.hands.can_reach(song.hands.right, right)
    edit = put(found, cell(found, "Bm7b5"), ways[0].voicing, LIBRARY)
    assert str(edit.song.slots[1].chord) == "G9" and edit.song.locked(1) and edit.label == "G9 to Cmaj7"


def test_a_small_hand_gets_what_it_reaches() -> None:
    song = solved()
    found = board(replace(song, hands=song.hands.with_reach(5, 5)), 1)
    assert found is not None
    assert inversions(found, cell(found, "Bm7b5"), LIBRARY) == []
    assert inversions(found, cell(found, "Bdim"), LIBRARY)


def test_with_a_bassist_the_left_hand_leaves_the_bass() -> None:
    song = song_of(CHART)
    take = song.takes[0]
    band = replace(song, takes=(replace(take, arrangement=replace(take.arrangement, bass="bassist")),))
    band = voice_song(band, LIBRARY, PLANNER).song
    found = board(band, 1)
    assert found is not None
    assert all(not one.voicing.left.keys for one in inversions(found, cell(found, "Bm7b5"), LIBRARY))


def test_another_goal_is_played_next_to_where_the_hands_are() -> None:
    song = solved()
    away = next(one for one in goals(song, 1) if str(one[0]) == "Am7")
    found = board(song, 1, away)
    assert found is not None and str(found.bass) == "E" and str(found.base) == "E7"
    grip = goal_grip(found, LIBRARY)
    assert grip is not None and {key % 12 for key in grip.right.keys} == {9, 0, 4, 7}


def test_no_chord_has_no_board_and_degrees_are_twelve() -> None:
    assert board(song_of("key: C\n[A]\n| N.C. | C |\n"), 0) is None
    found = board(solved(), 0)
    assert found is not None
    degrees = degrees_of(found)
    assert [one.number for one in degrees][:3] == ["1", "b2", "2"]
    assert len({one.name.pitch_class for one in degrees}) == 12


def test_degrees_say_which_job_their_chord_has() -> None:
    song = song_of("key: C\n[A]\n| Dm7 | G7 | C |\n")
    found = board(song, 1)
    assert found is not None
    jobs = {one.number: one.job for one in degrees_of(found)}
    assert jobs["5"] == "pull" and jobs["b2"] == "pull"  # both fall into C
    assert (
        jobs["4"] == "away"
        and jobs["1"] == "home"
        and set(jobs.values()) <= {"home", "away", "pull", "colour"}
    )


@pytest.mark.parametrize(("upper", "clashes"), [("Gm", True), ("Em", False)])
def test_the_tune_has_a_word(upper: str, clashes: bool) -> None:
    chart = "key: C\n[A]\n| G7 | C |\nmelody: | B4:4 | C5:4 |\n" if upper == "Gm" else CHART
    found = board(solved(chart), 0 if upper == "Gm" else 2)
    assert (cell(found, upper).clashes > 0) == clashes
