"""What a song is by, case by case; and joint swaps on songs that have all of it."""

from __future__ import annotations

from fractions import Fraction
from functools import cache
from itertools import pairwise

import pytest

from made import chord, song_of
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.appetite import APPETITES, Appetite
from yellow_hinge.reharm.identity import Heard, fixed, lines, tones
from yellow_hinge.reharm.proposals import sounds
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.swaps.reharmonise import (
    TradePoint,
    find_swaps,
    identity_of,
    trade_curve,
    wanted,
)
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import builtin_library

pytestmark = pytest.mark.long  # many starts, or many searches

LIBRARY = builtin_library()


def heard(row: str, key: str = "C", stretches: str = "") -> list[Heard]:
    """Chords, a bar each where nothing is said (``Dm7:2`` is half a bar), in one stretch or by digits."""
    found, at = [], Fraction(0)
    for place, word in enumerate(row.split()):
        symbol, _, beats = word.partition(":")
        length = Fraction(beats or 4)
        stretch = int(stretches[place]) if stretches else 0
        one = None if symbol == "-" else chord(symbol)
        found.append(Heard(one, int(at // 4) + 1, stretch, length, parse_key(key), length >= 4))
        at += length
    return found


@pytest.mark.parametrize(
    ("row", "stretches", "stays"),
    [
        ("Am F G Em Dm", "", {0, 3, 4}),  # the ends of the song, and its first phrase
        ("Am F G Em", "", {0, 3}),
        ("Am F:2 G:2 Em Dm G7 Am", "", {0, 4, 6}),  # the fourth bar, whatever lies before it
        ("Am F G Em Dm G7 Am", "0001111", {0, 2, 3, 6}),  # the ends of stretches; phrases begin with them
        ("Am F G Am F G Em Dm G7", "", {0, 1, 2, 3, 4, 5, 7, 8}),  # three chords that come twice
        ("Am F Am F Dm G7 C Em Dm", "", {0, 1, 2, 3, 7, 8}),
        ("Am F Am:2 F:2 Dm G7 C Em Dm", "", {0, 4, 8}),  # other lengths are no loop
        ("Am Am Am F Dm G7 C Em", "", {0, 3, 7}),  # one chord is no loop
        ("Dm C/G F/G G7 Em Am Dm C", "", {0, 1, 2, 3, 7}),  # a pedal point
        ("Dm C/G F/G Em F Am Dm C", "", {0, 3, 7}),  # two chords are none
        ("C C C F Dm G7 Em Am", "", {0, 1, 2, 3, 7}),  # home in whole bars at the beginning
        ("C C:2 C:2 F Dm G7 Em Am", "", {0, 4, 7}),
        ("F C C F Dm G7 Em Am", "", {0, 3, 7}),
        ("- F C G Dm", "", {0, 3, 4}),
        ("", "", set()),
    ],
)
def test_chords_that_stay(row: str, stretches: str, stays: set[int]) -> None:
    assert fixed(heard(row, stretches=stretches)) == stays


@pytest.mark.parametrize(
    ("row", "walked"),
    [
        ("Am Am(maj7) Am7", [{9}, {8}, {7}]),
        ("C Caug C6", [{7}, {8}, {9}]),
        ("C F G", [set(), set(), set()]),
        ("Am Am/G# Am/G", [{9}, {8}, {7}]),
        ("C - C7", [set(), set(), set()]),
        ("Em7 A7 Dm7 G7", [{2}, {1}, {0}, {11}]),
        ("Am Am(maj7)", [set(), set()]),
    ],
)
def test_notes_of_lines_that_walk_by_half_steps(row: str, walked: list[set[int]]) -> None:
    assert list(lines(heard(row))) == walked


def test_the_bass_sounds_too() -> None:
    assert tones(chord("C/D")) == {0, 2, 4, 7} and tones(None) == frozenset()


SONGS = (
    "key: C\n[A]\n| C | Am7 | Dm7 | G7 | Em7 | A7 | Dm7 G7 | C |\n"
    "[B]\n| F | Fm6 | Em7 | A7 | Dm7 | D7 | G7 | C |\n",
    "key: Am\n[A]\n| Am | Am(maj7) | Am7 | D7 | Fmaj7 | Bm7b5 | E7 | Am |\n",
    "key: F\n[A]\n| F | F | Gm7 | C7 | Bb/C | F/C | C7 | F |\n[B]\n| Dm | Bb | F | C | Dm | Bb | F | C |\n",
    "key: Eb\n[A] x2\n| Ebmaj7 | Cm7 | Fm7 | Bb7 | Gm7 | C7 | Fm7 Bb7 | Ebmaj7 |\n",
)  # fmt: skip


@cache
def curve(number: int, appetite: Appetite) -> tuple[Song, list[TradePoint]]:
    song = song_of(SONGS[number], "guide", bass="bassist")
    return song, trade_curve(song, LIBRARY, Planner(LIBRARY), 4, appetite=appetite)


@pytest.mark.long
@pytest.mark.parametrize("number", range(len(SONGS)))
def test_joint_swaps_leave_the_song_itself(number: int) -> None:
    song, points = curve(number, "fits")
    identity = identity_of(song)
    for point in points:
        after = point.voiced.song
        for written, row in after.arrangement.swaps.items():
            assert written not in identity.stays
            for note in identity.lines.get(written, ()):
                assert any(note in tones(one.chord) for one in row)
        for one, other in pairwise(after.slots):
            assert one.chord is not None and other.chord is not None
            if one.was is not None or other.was is not None:
                assert sounds(one.chord) != sounds(other.chord)
        assert after.slots[0].chord == song.slots[0].chord and after.slots[-1].chord == song.slots[-1].chord


def test_an_appetite_says_what_may_be_touched() -> None:
    found = [one for one in find_swaps(song_of(SONGS[0])) if one.joint]
    kinds = {one: [each for each in found if wanted(each, one)] for one in APPETITES}
    assert set(kinds["dominants"]) < set(kinds["borrow"]) < set(kinds["fits"])
    assert kinds["fits"] == kinds["anything"] == found
    assert {"tritone", "backdoor"} <= {one.rule for one in kinds["dominants"]}
    assert not {"relative", "borrowed"} & {one.rule for one in kinds["dominants"] if not one.of_dominant}
    song, points = curve(0, "dominants")
    for written in points[-1].voiced.song.arrangement.swaps:
        own = song.chart.by_id[written].chord
        assert own is not None and own.seventh == "b7" and own.third == "3"
    assert len(points) > 2


@pytest.mark.long
def test_whoever_asks_for_anything_gets_beginnings_and_ends_too() -> None:
    song, points = curve(0, "anything")
    stays = identity_of(song).stays
    assert any(stays & set(point.voiced.song.arrangement.swaps) for point in points)
    for number in (0, 3):
        kept = curve(number, "fits")[1]
        assert kept[-1].swaps >= 2 and kept[0].swaps == 0
