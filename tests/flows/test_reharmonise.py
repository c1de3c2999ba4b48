"""Swaps on whole songs: the demos, songs without a tune, odd bars, tastes and seven signs."""

from __future__ import annotations

from collections import Counter

import pytest

from made import song_of
from yellow_hinge.errors import BadInput
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.rules import RULES
from yellow_hinge.song.arrangement import Taste
from yellow_hinge.song.edits import wish_for_section
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.song.session import Session, betterments
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.reharmonise import accept, find_swaps, trade_curve
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

pytestmark = pytest.mark.long


@pytest.mark.parametrize("name", DEMO_SONGS)
def test_each_demo_song_has_a_dozen_proposals_that_fit_its_melody(name: str) -> None:
    song = demo_song(name)
    safe = [one for one in find_swaps(song) if one.safe]
    assert len(safe) >= 12 and len({one.rule for one in safe}) >= 6
    assert len({one.at for one in safe}) > len(song.chart.written) // 2
    for one in safe[:: max(1, len(safe) // 10)]:
        swapped = accept(song, one).song
        assert sum(slot.quarters for slot in swapped.slots) == song.chart.length_quarters
        within = (slot for slot in song.slots if slot.at.written == one.at)
        rounds = sum(not one.rounds or (slot.section, slot.round) in one.rounds for slot in within)
        more = len(one.every_chord) - 1 - len(one.then)
        assert len(swapped.slots) == len(song.slots) + rounds * more


def test_every_rule_finds_something_somewhere() -> None:
    found: Counter[str] = Counter()
    for name in DEMO_SONGS:
        found.update(one.rule for one in find_swaps(demo_song(name)))
    extra = song_of("key: C\n| C | F | C | Em7 | F | C | G7 | C | C | Dm7 | Em7 | Dm7 | C | F | G | Am |")
    found.update(one.rule for one in find_swaps(extra))
    assert set(found) == set(RULES)


def test_bars_that_do_not_add_up_are_said_before_anything_is_swapped() -> None:
    with pytest.raises(BadInput) as trouble:
        parse_chart("meter: 4/4\n| C:3 G7:3 | F |")
    assert "beats" in trouble.value.problems[0].what


def test_a_song_s_taste_holds_for_its_swaps(library: Library) -> None:
    song = wish_for_section(song_of("key: C\n[A]\n| Dm7 | G7 | C |"), "A", Taste(school="guide")).song
    curve = trade_curve(song, library, Planner(library), 1)
    swapped = curve[-1].voiced.song
    assert len(swapped.arrangement.swaps) == 1
    assert {place.wish.school.id for place in progression(swapped, library).places if place.wish} == {"guide"}


def test_better_changes_are_the_best_that_are_listed(library: Library) -> None:
    song = demo_song("lantern-ferry")
    solved = Session(library)(song, 12)
    assert solved.voiced is not None
    voiced = solved.voiced.song
    row = [voiced.voicing(slot.index) or Voicing() for slot in voiced.slots]

    def motion(before: Voicing, after: Voicing) -> int:
        return sum(hand_motion(before.hand(s).keys, after.hand(s).keys).motion_st for s in ("left", "right"))

    for index, better in enumerate(solved.betterments):
        now = motion(row[index], row[index + 1])
        others = [motion(one.voicing, row[index + 1]) for one in solved.alternatives[index]]
        others += [motion(row[index], one.voicing) for one in solved.alternatives[index + 1]]
        least = min(others, default=now)
        assert (better is not None) == (now - least >= 3)
        if better is not None:
            assert better.saved_st == now - least and better.at in (index, index + 1)
    assert betterments(voiced, [[] for _ in row]) == (None,) * (len(row) - 1)


def test_a_melody_that_wants_room_gets_it(library: Library) -> None:
    chart = "key: C\n| Cmaj7 | Am7 | Dm7 | G7 |\nmelody: B4:4 | C5:4 | A4:4 | B4:4\n"
    free, room = song_of(chart), song_of(chart, melody="room")

    def near(song: Song) -> int:
        voiced = voice_song(song, library, Planner(library))
        tune = (71, 72, 69, 71)
        return sum(
            abs(key - note) <= 4
            for note, voicing in zip(tune, voiced.answer.voicings, strict=True)
            for key in voicing.keys
        )

    assert near(room) < near(free)
