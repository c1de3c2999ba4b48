"""A chord over a chord: each hand has one, whole, in every school and at every colour."""

from __future__ import annotations

import pytest

from made import chord, song_of
from yellow_hinge.errors import BadInput
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.plan import Planner
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.numbers import parse_number, print_number
from yellow_hinge.voicing.candidates import candidates
from yellow_hinge.voicing.forms import lower_tones, upper_tones
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.rules import broken
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish

ROW = ("F//Dm", "G//Dm", "A//Dm", "C//Dm", "Bbadd9//C", "D6//G7", "Em7//A7", "Gm//C", "B//Am7", "C//E5")


@pytest.mark.parametrize("school", builtin_library().schools)
@pytest.mark.parametrize("colour", [0, 3])
def test_each_hand_has_its_own_chord_whole(school: str, colour: int, library: Library) -> None:
    song = voice_song(
        song_of(f"| {' | '.join(ROW)} |", school, colour=colour), library, Planner(library)
    ).song
    rights = []
    for slot, symbol in zip(song.slots, ROW, strict=True):
        own, voicing = chord(symbol), song.voicing(slot.index)
        assert voicing is not None and own.upper is not None
        upper = {own.upper.root.degree(label).pitch_class for label in own.upper.degrees}
        lower = {own.root.degree(label).pitch_class for label in chord(symbol.split("//")[1]).degrees}
        assert {key % 12 for key in voicing.right.keys} == upper, (symbol, voicing.right.keys)
        assert {key % 12 for key in voicing.left.keys} <= lower and len(voicing.left.keys) > 1
        if library.schools[school].bass == "self":
            assert voicing.left.keys[0] % 12 == own.root.pitch_class
        rights.append(frozenset(key % 12 for key in voicing.right.keys))
    assert len(set(rights[:4])) == 4


def test_what_the_candidates_are_the_rules_allow(library: Library) -> None:
    for symbol in ROW:
        for school in ("solo", "open", "band"):
            bass = library.schools[school].bass
            asked = Wish(chord(symbol), parse_key("C"), library.schools[school], 1, bass, HandProfile())
            found = candidates(asked, library)
            assert found.legal.any(), (symbol, school)
            for i, j in zip(*map(list, found.legal.nonzero()), strict=True):
                assert not broken(asked, Voicing(found.left[i], found.right[j])), symbol


@pytest.mark.parametrize(
    ("left", "right", "hand"),
    [
        ((50, 53), (60, 65, 69), ""), ((50, 53, 57), (60, 65, 69), ""),
        ((50, 53), (60, 65), "right"), ((50, 53), (60, 64, 65, 69), "right"),
        ((50, 55), (60, 65, 69), "left"),
    ],
)  # fmt: skip
def test_a_hand_that_is_not_its_chord_breaks_a_rule(
    left: tuple[int, ...], right: tuple[int, ...], hand: str, library: Library
) -> None:
    own = chord("F//Dm")
    asked = Wish(own, parse_key("C"), library.schools["open"], 1, "self", HandProfile())
    hands = [HandShape(keys, tuple(own.label_of(k % 12) or "11" for k in keys)) for keys in (left, right)]
    said = [one.words for one in broken(asked, Voicing(*hands)) if one.rule == "polychord"]
    assert [words.split()[1] for words in said] == ([hand] if hand else [])


def test_one_hand_alone_plays_what_it_can_of_both(library: Library) -> None:
    song = voice_song(song_of("| F//Dm | G//Dm |", hands="right"), library, Planner(library)).song
    assert all(song.voicing(index).right.keys for index in range(2))  # type: ignore[union-attr]


def test_large_upper_chords_leave_out_fifth_and_root() -> None:
    assert len(upper_tones(chord("Dm9//G"))) == 4 and 2 not in upper_tones(chord("Dm9//G"))
    assert len(upper_tones(chord("Dm7//G"))) == 4 and lower_tones(chord("Dm7//G")) == {0, 4, 7}


@pytest.mark.parametrize(
    ("number", "key", "symbol"),
    [("1add9//6m", "C", "Cadd9//Am"), ("5//1", "D", "A//D"), ("b7-6//1-7", "F", "Eb6//F7")],
)
def test_polychords_in_numbers(number: str, key: str, symbol: str) -> None:
    assert str(parse_number(number, parse_key(key))) == symbol
    assert parse_number(print_number(chord(symbol), parse_key(key)), parse_key(key)) == chord(symbol)


@pytest.mark.parametrize("text", ["5//", "//1", "5//1//4", "5/7//1", "5//H"])
def test_what_is_no_polychord_is_said(text: str) -> None:
    with pytest.raises(BadInput):
        parse_number(text, parse_key("C"))
