"""Riddles: what is right, what is not, and what is said."""

from __future__ import annotations

import random

import pytest

from yellow_hinge.practice.riddles import (
    another_key,
    degrees,
    found_yourself,
    motion_st,
    named,
    numbered,
    repeated,
)
from yellow_hinge.tasks.practice.room import in_key, key_row, nearest, piece_of, pieces_in_keys
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import builtin_library

from .made import held, keys, piece, song, stroke

AM7 = held("Am7", "A2 G3", "C4 E4")


def chord(text: str) -> ChordSymbol:
    found = parse_chord(text)
    assert found is not None
    return found


def test_find_it_yourself_says_how_far_and_what_could_have_stayed() -> None:
    near = held("D7", "D3 F#3", "C4 F#4").voicing

    def found(right: str) -> tuple[bool, str]:
        answer = found_yourself(AM7, chord("D7"), keys("D3 F#3"), keys(right), near)
        return answer.right, answer.words

    assert found("C4 A4") == (False, "You moved 11 half steps; the nearest is 8 half steps away.")
    assert found("C4 F#4") == (True, "You moved 8 half steps; the nearest is 8 half steps away.")
    right, words = found("F#4 C5")
    assert not right and words.endswith("away. The right thumb on C could have stayed.")


@pytest.mark.parametrize(
    ("left", "right", "words"),
    [
        ("D3 A3", "D4 A4", "is missing"),
        ("D3 F3", "C4 F4", "F♯ is missing"),
        ("D3 F#3", "C4 C#4", "1 of your notes rubs"),
        ("-", "-", "not D7"),
    ],
)
def test_what_is_not_the_chord_is_said(left: str, right: str, words: str) -> None:
    answer = found_yourself(AM7, chord("D7"), keys(left), keys(right), AM7.voicing)
    assert not answer.right and words in answer.words


def test_motion_is_that_of_the_hinge() -> None:
    assert motion_st(AM7.voicing, keys("A2 G3"), keys("C4 E4")) == 0
    assert motion_st(AM7.voicing, keys("A2 F#3"), keys("C4 D4")) == 3


def test_names_are_read_as_they_are_typed() -> None:
    assert named(AM7, "A G C E").right and named(AM7, "a, g c4 e4").right
    assert not named(AM7, "A G C").right and "A G C E" in named(AM7, "A G C").words
    wrong = named(AM7, "A H C E")
    assert not wrong.right and "H is no note" in wrong.words
    flat = held("Abm7", "Ab2 Gb3", "Cb4 Eb4")
    assert named(flat, "Ab Gb Cb Eb").words == "Right: A♭ G♭ C♭ E♭."
    other = named(flat, "G# F# B D#")
    assert other.right and "they are called A♭ G♭ C♭ E♭" in other.words
    assert not named(AM7, "").right


def test_degrees_and_numbers() -> None:
    assert (
        degrees(AM7, "R b7 b3 5").right
        and degrees(AM7, "1 ♭7 ♭3 5").right
        and degrees(AM7, "r,b7,b3,5").right
    )
    assert not degrees(AM7, "R 7 b3 5").right and "♭7" in degrees(AM7, "R 7 b3 5").words
    assert numbered("2-9", "2-9").right and numbered("2-9", "29").right and numbered("b7-9", "♭7-9").right
    assert not numbered("2-9", "5-9").right and numbered("b7", "7").words == "It is ♭7."


def test_what_is_heard_may_lie_in_another_octave_and_a_grip_may_not() -> None:
    one = stroke("Am7", "A2 G3", "C4 E4")
    high = keys("A3 G4 C5 E5")
    assert repeated(one, high, by_ear=True).words == "Right, in another octave."
    assert not repeated(one, high).right
    assert repeated(one, one.keys).right and repeated(one, one.keys, by_ear=True).words == "Right."
    slip = repeated(one, keys("A2 G3 C4 F4"), by_ear=True)
    assert not slip.right and "played F, wanted E" in slip.words
    assert not repeated(one, ()).right


def test_keys_do_not_come_again_at_once() -> None:
    chance, done = random.Random(1), list[int]()
    for _ in range(200):
        step = another_key(chance, done)
        assert 1 <= step <= 11 and step not in done[-6:]
        done.append(step)


@pytest.mark.parametrize(("step", "row"), [(5, (0, 5, 10, 3)), (7, (0, 7, 2, 9)), (1, (0, 1, 2, 3))])
def test_all_keys_in_order(step: int, row: tuple[int, ...]) -> None:
    found = key_row(step, random.Random(1))
    assert found[:4] == row and sorted(found) == list(range(12))


def test_all_keys_shuffled() -> None:
    first, second = key_row(0, random.Random(1)), key_row(0, random.Random(2))
    assert first != second and sorted(first) == sorted(second) == list(range(12)) and first[0] == 0


def test_a_song_in_another_key_is_the_same_song_elsewhere() -> None:
    here, there = piece(), piece_of(in_key(song(), 5), builtin_library())
    assert there.id == here.id and there.key != here.key and len(there.row) == len(here.row)
    assert there.changes[0].id.start == here.changes[0].id.start
    for one, other in zip(here.stands, there.stands, strict=True):
        assert {(b - a) % 12 for a, b in zip(one.voicing.keys, other.voicing.keys, strict=True)} <= {5}


def test_further_keys_are_those_that_were_chosen() -> None:
    from msgspec.structs import replace

    wanted = replace(song(), keys_chosen=frozenset({parse_key("G"), parse_key("F"), parse_key("Eb")}))
    found = pieces_in_keys(wanted, builtin_library())
    assert [one.key for one in found] == ["Eb", "G"]  # F is its own
    assert all(one.id == song().own_id for one in found)


def test_the_nearest_grip_is_the_nearest_of_the_legal_ones() -> None:
    from yellow_hinge.tasks.song.problem import wish_for
    from yellow_hinge.voicing.candidates import candidates

    own, library = song(), builtin_library()
    before = piece().stands[0].voicing
    slot = own.slots[1]
    assert slot.chord is not None
    counts = (len(before.left.keys), len(before.right.keys))
    found = nearest(own, library, 1, before, counts)
    assert found is not None
    every = candidates(wish_for(slot.chord, slot.key, own.decided(1), own.hands, library), library)
    least = min(
        motion_st(before, left.keys, right.keys)
        for i, left in enumerate(every.left) for j, right in enumerate(every.right)
        if every.legal[i, j] and (len(left.keys), len(right.keys)) == counts
    )  # fmt: skip
    assert motion_st(before, found.left.keys, found.right.keys) == least
    assert nearest(own, library, 1, before, (5, 5)) is not None  # none has so many: the nearest of all
