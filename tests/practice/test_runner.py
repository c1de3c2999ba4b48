"""Rounds of a drill from beginning to verdict, with an imagined clock."""

from __future__ import annotations

from datetime import UTC, datetime
from fractions import Fraction
from typing import Literal

import pytest
from msgspec.structs import replace

from made import song_of
from yellow_hinge.motion.plan import Planner
from yellow_hinge.practice.drills import TIMES, Drill
from yellow_hinge.practice.ladder import Ladder
from yellow_hinge.practice.listening import Way
from yellow_hinge.practice.log import Try
from yellow_hinge.practice.runner import Runner
from yellow_hinge.practice.strokes import backing, clicks, demonstration, length_of, strokes_of
from yellow_hinge.practice.words import NOTHING_TO_PLAY
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.tasks.practice.room import piece_of, with_lines
from yellow_hinge.tasks.settings.patterns import with_patterns
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library

from .made import HARD, piece, song

NOON = datetime(2026, 3, 2, 12, tzinfo=UTC)
ONE = Drill("change", 0, ((0, 1),))
CHAIN = Drill("chain", 0, ((0, 3),))


def runner(
    drill: Drill = ONE, way: Way = "time", tempo: int = 60, latency: float = 0.0
) -> tuple[Runner, list[Try]]:
    written: list[Try] = []
    own = piece()
    made = Runner(own, drill, strokes_of(own, drill), length_of(own, drill), Ladder(tempo, 100), way,
                  lambda: NOON, written.extend, count_in=Fraction(4), latency=latency)  # fmt: skip
    return made, written


def play(one: Runner, late: float = 0.0, wrong: dict[int, int] | None = None) -> None:
    """Play the round, some strokes with another note for the top one."""
    for number, stroke in enumerate(one.strokes):
        at = one.began + float(stroke.at) * one.seconds_per_quarter + late
        keys = [*stroke.keys[:-1], (wrong or {}).get(number, stroke.keys[-1])]
        one.tick(at - 0.01)
        for key in keys:
            one.feed(key, 70, at)
        for key in keys:
            one.feed(key, 0, at + 0.3)
    one.tick(one.ends + one.latency + 0.01)


def test_a_change_goes_there_and_back() -> None:
    rows = list(ONE.round(piece()))
    assert [stand for stand, _, _ in rows] == [0, 1] * TIMES
    assert [back for _, _, back in rows] == [False, False] + [True, False] * (TIMES - 1)
    strokes = strokes_of(piece(), ONE)
    assert strokes[0].change == -1 and {one.change for one in strokes[1:]} == {piece().row[0]}
    assert length_of(piece(), ONE) == 4 * TIMES  # two counts for each chord
    assert length_of(piece(), replace(ONE, whole=True)) == 8 * TIMES


def test_a_clean_round_moves_the_ladder_and_is_written() -> None:
    one, written = runner()
    for number in range(2):
        one.begin(100.0 * number)
        assert one.place(100.0 * number) == pytest.approx(-4)
        play(one)
        assert one.over(one.ends + 0.01)
        done = one.finish()
    assert done.words == f"All {TIMES} changes clean." and done.move == "up" and one.ladder.tempo == 64
    assert len(written) == 2 * TIMES and all(t.clean and t.share == 1.2 and t.tempo == 60 for t in written)
    assert {t.change for t in written} == {piece().changes[piece().row[0]].id}


def test_with_the_click_a_round_ends_by_the_clock() -> None:
    """Four fifths of a second a quarter, and what the device needs; who is waited for has no clock."""
    one, _ = runner(tempo=75, latency=0.25)
    one.begin(10.0)
    assert one.ends == pytest.approx(one.began + 3.2 * TIMES) and one.place(one.ends) == 4 * TIMES
    assert not one.over(one.ends + 0.24) and one.over(one.ends + 0.25)
    assert len(one.tick(one.ends + 0.25)) == len(one.strokes)  # what was not played is said
    waits, _ = runner(way="wait", tempo=75)
    waits.begin(10.0)
    assert waits.feed(waits.strokes[0].keys[0], 70, waits.began) == []
    assert waits.tick(waits.ends + 1000) == [] and not waits.over(waits.ends + 1000)


def test_slips_are_counted_where_they_were_made_and_only_forwards() -> None:
    one, written = runner()
    one.begin(0.0)
    play(one, wrong={1: 108, 2: 108})  # one on the way there, one on the way back
    done = one.finish()
    assert done.slips == 1 and done.tries == TIMES and done.words == f"{TIMES - 1} of {TIMES} changes clean."
    assert [t.clean for t in written] == [False] + [True] * (TIMES - 1)
    assert "was missing" in written[0].words or "wanted" in written[0].words or "besides" in written[0].words


def test_late_is_a_slip_and_latency_is_taken_off() -> None:
    one, _ = runner()
    one.begin(0.0)
    play(one, late=0.2)
    assert one.finish().slips == TIMES
    again, _ = runner(latency=0.2)
    again.begin(0.0)
    play(again, late=0.2)
    assert again.finish().slips == 0


def test_what_is_played_while_it_is_counted_in_does_not_count() -> None:
    one, _ = runner()
    one.begin(0.0)
    for key in (60, 61, 62):
        assert one.feed(key, 70, 1.0) == []
    play(one)
    assert one.finish().slips == 0


def test_a_chain_tries_each_of_its_changes_once() -> None:
    one, written = runner(CHAIN)
    one.begin(0.0)
    play(one, wrong={2: 108})
    done = one.finish()
    assert (done.slips, done.tries) == (1, 3) and [t.clean for t in written] == [True, False, True]
    assert len({t.change for t in written}) == 3


def test_who_waits_sets_the_tempo_alone() -> None:
    one, written = runner(CHAIN, "wait")
    one.begin(0.0)
    for number, stroke in enumerate(one.strokes):
        for key in stroke.keys:
            one.feed(key, 70, 5.0 + 4.0 * number)  # four quarters in four seconds
        for key in stroke.keys:
            one.feed(key, 0, 6.0 + 4.0 * number)
    assert one.over(0.0)
    done = one.finish()
    assert (
        done.slips == 0
        and done.move == "stay"
        and [t.share for t in written] == pytest.approx([0.6] * 3, abs=0.01)
    )


def test_nothing_listens_and_the_player_says_it() -> None:
    one, written = runner(CHAIN)
    one.begin(0.0)
    assert one.mark(True).words == "Marked clean." and len(written) == 3 and all(t.clean for t in written)
    one.begin(0.0)
    assert one.mark(False).slips == 1 and len(written) == 3  # which of the three it was, nobody knows
    single, more = runner(ONE)
    single.begin(0.0)
    single.mark(False)
    assert [t.clean for t in more] == [False]
    assert not one.running


def test_a_round_that_is_left_writes_nothing() -> None:
    one, written = runner()
    one.begin(0.0)
    one.feed(60, 70, 5.0)
    one.stop()
    assert written == [] and not one.running and one.tick(99.0) == [] and not one.over(99.0)


def test_one_hand_alone_wants_its_own_keys() -> None:
    both = strokes_of(piece(), CHAIN)
    for side in ("left", "right"):
        alone = strokes_of(piece(), Drill("chain", 0, ((0, 3),), side))
        assert [getattr(one, side) for one in alone] == [getattr(one, side) for one in both]
        assert all(not getattr(one, "right" if side == "left" else "left") for one in alone)


def test_as_the_take_plays_it() -> None:
    patterned = with_patterns(song(), "bass-chord", "pulses")
    written = strokes_of(piece(), CHAIN, patterned, "written")
    blocks = strokes_of(piece(), CHAIN)
    assert len(written) > len(blocks) and [one.at for one in written] == sorted(one.at for one in written)
    assert sum(one.change >= 0 for one in written) == 3
    for one in written:
        assert set(one.keys) <= set(range(21, 109))


def test_a_line_over_the_left_hand() -> None:
    lined = with_lines(song(), range(4))
    strokes = strokes_of(piece(), CHAIN, lined, "line")
    lefts = [one.left for one in strokes if one.left]
    assert lefts == [stand.voicing.left.keys for stand in piece().stands[:4]]
    assert all(len(one.right) <= 1 for one in strokes) and sum(len(one.right) for one in strokes) >= 8
    assert sum(one.change >= 0 for one in strokes) == 3
    assert with_lines(lined, range(4)) is lined  # a line that is there stays
    alone = strokes_of(piece(), Drill("chain", 0, ((0, 3),), "left"), lined, "line")
    assert [one.left for one in alone] == lefts and not any(one.right for one in alone)


def test_the_program_plays_bass_and_click() -> None:
    events = backing(piece(), CHAIN, bass=True, click=True)
    assert sum(one.part == "bass" for one in events) == 4 and sum(one.part == "click" for one in events) == 16
    assert backing(piece(), CHAIN, bass=False, click=False) == []
    roots = [one.key % 12 for one in events if one.part == "bass"]
    assert roots == [5, 2, 7, 0]
    row = clicks(Fraction(0), Fraction(3), Meter(6, 8))
    assert len(row) == 6 and row[0].key != row[1].key == row[2].key
    heard = demonstration(strokes_of(piece(HARD), CHAIN))
    assert {one.part for one in heard} == {"left", "right"}


@pytest.mark.parametrize("way", ["time", "wait", "free"])
@pytest.mark.parametrize("alone", ["left", "right"])
def test_a_take_of_one_hand_is_drilled_with_that_hand(alone: Literal["left", "right"], way: Way) -> None:
    """Also where the drill is for the hand that rests: nothing is wanted, nothing fails, and it is said."""
    library = builtin_library()
    text = "key: F\n[A]\n| Fmaj7 | D7b9 | N.C. | Gm9 |\n"
    one_handed = voice_song(song_of(text, hands=alone), library, Planner(library)).song
    own = piece_of(one_handed, library)
    for hands in ("left", "right", "both"):
        for drill in (Drill("change", 0, ((0, 1),), hands), Drill("chain", 0, ((0, 3),), hands)):
            assert drill.sides(own) == (alone,)
            strokes = strokes_of(own, drill)
            made = Runner(
                own, drill, strokes, length_of(own, drill), Ladder(60, 100), way, lambda: NOON, list
            )
            made.begin(0.0)
            for at in range(80):
                made.tick(float(at))
                made.feed(30, 70, at + 0.1)
                made.feed(30, 0, at + 0.2)
            done = made.finish()
            rests = hands not in (alone, "both")
            assert bool(strokes) is not rests and (done.words == NOTHING_TO_PLAY) is rests
            assert "alone" not in done.advice
            assert bool(demonstration(strokes)) is not rests
    assert Drill("change", 0, ((2, 2),)).sides(own) == ()
    assert ONE.sides(piece()) == ("left", "right")
