"""A held hand over other basses, ladders and walks, against plain arithmetic on keys."""

from __future__ import annotations

from fractions import Fraction
from functools import cache
from itertools import pairwise

import pytest
from msgspec.structs import replace

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.effort import added_up, row_terms
from yellow_hinge.song.edits import choose, give_back
from yellow_hinge.song.grip_edits import Stand, stand_in
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips.own_grip import called
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.swaps.colour_ladder import FORMS, Ladder, LadderDesk, laid
from yellow_hinge.tasks.swaps.held_hand import RUNS, HeldDesk, HeldHand, Run
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.tension import FitKind
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import Voicing

LIBRARY = builtin_library()
HELD, LADDERS = HeldDesk(LIBRARY), LadderDesk(LIBRARY)
CHART = """key: C
[A]
| C | Am F | Am | G |
melody: | E5:4 | A5:4 | C5:4 | B4:4 |
"""


def chord(text: str) -> ChordSymbol:
    found = parse_chord(text)
    assert found is not None
    return found


def voiced(song: Song, grips: dict[int, tuple[tuple[int, ...], tuple[int, ...]]]) -> Song:
    for index, (left, right) in grips.items():
        own = song.slots[index].chord
        assert own is not None
        voicing = classify(left, right, own, parse_key("C"), LIBRARY)
        song = choose(song, index, voicing).song
    return song


@cache
def song() -> Song:
    return voiced(
        Song(parse_chart(CHART)),
        {0: ((48,), (64, 67, 72)), 1: ((45,), (64, 69, 72)), 2: ((41,), (65, 69, 72)),
         3: ((45,), (64, 69, 72)), 4: ((43,), (62, 67, 71))},
    )  # fmt: skip


def looked(index: int, run: Run) -> HeldHand:
    found = HELD.look(song(), index, run)
    assert found is not None
    return found


def test_twelve_basses_under_the_hand_that_is_held() -> None:
    one = looked(1, RUNS[0])
    basses = one.spots[0].basses
    assert one.right == (64, 69, 72) and (one.before, one.after) == (48, 41)
    assert sorted(bass.key % 12 for bass in basses) == list(range(12))
    assert [bass.key for bass in basses] == sorted((bass.key for bass in basses), reverse=True)
    for bass in basses:
        assert bass.voicing.right.keys == (64, 69, 72) and bass.voicing.left.keys == (bass.key,)
        assert bass.key < 64 and bass.chord.bass_name.pitch_class == bass.key % 12
    by_class = {bass.key % 12: str(bass.chord) for bass in basses}
    assert by_class[9] == "Am" and by_class[5] == "Fmaj7" and by_class[2] == "D7sus2"
    assert by_class[0] in ("C6", "Am/C") and by_class[7] == "Am7/G"


def test_steps_are_those_between_the_keys() -> None:
    one = looked(1, RUNS[0])
    for place, bass in enumerate(one.spots[0].basses):
        assert one.steps((place,), 0) == (bass.key - 48, 41 - bass.key)
    run = looked(1, Run(1, 2))
    keys = [bass.key for bass in run.line((2, 5))]
    assert run.steps((2, 5), 0)[1] == keys[1] - keys[0] == run.steps((2, 5), 1)[0]


def test_the_tune_is_judged_over_each_name() -> None:
    clashing = {bass.key % 12 for bass in looked(3, RUNS[0]).spots[0].basses if bass.clashes}
    for bass in looked(3, RUNS[0]).spots[0].basses:
        assert bass.notes and all(one.chord == bass.chord for one in bass.notes)
        assert bool(bass.clashes) == any(one.fit.kind == FitKind.CLASH for one in bass.notes)
        assert bass.melody.startswith("clashes" if bass.clashes else "fits")
    assert 9 not in clashing and 5 not in clashing  # C over Am and F: chord tones


def test_the_effort_is_what_the_stretch_costs_more() -> None:
    one = looked(1, RUNS[0])
    wishes = [progression(song(), LIBRARY).places[column].wish for column in song().column_of]
    voicings = [song().voicing(k) or Voicing() for k in range(5)]

    def cost(third: Voicing, symbol: ChordSymbol) -> int:
        assert wishes[1] is not None
        own = [wishes[0], replace(wishes[1], chord=symbol), wishes[2]]
        parts = row_terms(own, [voicings[0], third, voicings[2]], loop=False)
        return added_up([term for part in parts for group in part for term in group]).cost

    now = cost(voicings[1], chord("Am"))
    for place, bass in enumerate(one.spots[0].basses):
        assert HELD.more(one, (place,)) == cost(bass.voicing, bass.chord) - now == one.singles[0][place]
    assert one.singles[0][one.now[0]] == 0  # what sounds there is the same hand over the same bass


@pytest.mark.parametrize("run", [run for run in RUNS if run.chords * run.counts > 1])
def test_descents_walk_down_by_steps(run: Run) -> None:
    one = looked(1, run)
    assert len(one.spots) == (run.counts if run.chords == 1 else run.chords)
    for line in one.descents:
        keys = [bass.key for bass in one.line(line.places)]
        assert all(low - high in (-1, -2) for high, low in pairwise(keys))
        assert keys[0] in (one.spots[0].now, 48, 47, 46)
        assert line.more == HELD.more(one, line.places)
    clashes = [sum(bool(bass.clashes) for bass in one.line(line.places)) for line in one.descents]
    assert clashes == sorted(clashes)


def test_no_hand_no_line() -> None:
    bare = Song(parse_chart("| C | NC | G |\n"))
    assert HELD.look(bare, 0, RUNS[0]) is None
    only_left = voiced(bare, {0: ((48, 52, 55), ())})
    assert HELD.look(only_left, 0, RUNS[0]) is None
    both = voiced(bare, {0: ((48,), (64, 67))})
    assert HELD.look(both, 0, Run(2)) is None  # a "no chord" lies in it
    assert HELD.look(both, 0, RUNS[0]) is not None


def test_a_line_stands_in_the_song_and_is_given_back() -> None:
    one = looked(1, Run(1, 2))
    row = one.line((2, 4))
    stands = [Stand(bass.chord, spot.beats, bass.voicing) for bass, spot in zip(row, one.spots, strict=True)]
    after = stand_in(song(), {1: stands}, "Line").song
    assert [str(slot.chord) for slot in after.slots][1:3] == [str(bass.chord) for bass in row]
    assert [after.voicing(k) for k in (1, 2)] == [bass.voicing for bass in row]
    assert after.locked(1) and after.locked(2)
    assert [after.voicing(k) for k in (0, 3, 4, 5)] == [song().voicing(k) for k in (0, 2, 3, 4)]
    assert after.chart == song().chart
    back = give_back(after, song().slots[1].at.written).song
    assert [slot.chord for slot in back.slots] == [slot.chord for slot in song().slots]


def test_stands_keep_what_an_earlier_swap_put_beside_them() -> None:
    first = looked(3, Run(1, 2))
    pair = [Stand(bass.chord, spot.beats, bass.voicing)
            for bass, spot in zip(first.line((1, 3)), first.spots, strict=True)]  # fmt: skip
    two = stand_in(song(), {3: pair}, "Line").song
    voicing = two.voicing(4)
    assert voicing is not None
    half = [
        Stand(chord("Dm7"), Fraction(1), pair[0].voicing),
        Stand(chord("G7"), Fraction(1), pair[1].voicing),
    ]
    three = stand_in(two, {3: half}, "Again").song
    assert [str(slot.chord) for slot in three.slots][3:6] == ["Dm7", "G7", str(pair[1].chord)]
    assert three.voicing(5) == voicing
    plain = stand_in(song(), {3: [Stand(chord("Am"), song().slots[3].beats, pair[0].voicing)]}, "Grip").song
    assert not plain.arrangement.swaps and plain.voicing(3) == pair[0].voicing and plain.locked(3)


# --- ladders -------------------------------------------------------------------------------


def ladder(index: int, form: str = FORMS[0], voice: int = -1) -> Ladder:
    found = LADDERS.look(song(), index, form, voice)
    assert found is not None
    return found


def test_one_voice_moves_and_the_others_stay() -> None:
    for voice in range(4):
        one = ladder(1, voice=voice)
        assert one.voices == (45, 64, 69, 72) and one.voice == voice
        rest = {key for number, key in enumerate(one.voices) if number != voice}
        assert [rung.step for rung in one.rungs] == list(range(one.rungs[0].step, one.rungs[-1].step + 1))
        for rung in one.rungs:
            assert (
                set(rung.voicing.keys) == rest | {one.voices[voice] + rung.step}
                and len(rung.voicing.keys) == 4
            )
            assert sorted(rung.voicing.keys)[voice] == rung.key  # it never passes another voice
        assert one.rungs[one.start].voicing.keys == (45, 64, 69, 72)


def test_rungs_are_named() -> None:
    names = {rung.step: str(rung.chord) for rung in ladder(1).rungs}
    assert names[0] == "Am" and names[1] == "A" and names[2] == "Asus" and names[-1] == "Asus2"
    moving_fifth = {rung.step: str(rung.chord) for rung in ladder(1, voice=1).rungs}
    assert moving_fifth[1] == "Fmaj7/A" or "F" in moving_fifth[1]
    assert moving_fifth[2].startswith(("F#m7b5", "F#dim", "Am6"))


def test_reach_is_that_of_the_hand() -> None:
    rungs = ladder(1).rungs
    worth = [("easy", "wide", "out").index(rung.reach) for rung in rungs if rung.step >= 0]
    assert worth == sorted(worth) and worth[0] == 0
    small = replace(song(), hands=replace(song().hands, right=replace(song().hands.right, reach_mm=120.0)))
    narrow = LADDERS.look(small, 1)
    assert narrow is not None and narrow.rungs[-1].reach == "out"


@pytest.mark.parametrize("form", FORMS)
def test_forms_keep_the_notes(form: str) -> None:
    voicing = song().voicing(1)
    assert voicing is not None
    keys = laid(voicing, form, song())
    row = sorted((*keys.left, *keys.right))
    assert {key % 12 for key in row} == {key % 12 for key in voicing.keys} and row[0] == 45
    if form == "close":
        assert row[-1] - row[1] < 12
    if form == "spread":
        assert row[-1] - row[1] > 12 - 1


def test_marked_rungs_share_the_chord() -> None:
    one = ladder(0)
    stands = one.stands([one.start, one.start + 1, one.start + 2])
    assert sum(stand.beats for stand in stands) == song().slots[0].beats
    after = stand_in(song(), {0: stands}, "Walk").song
    assert len(after.slots) == len(song().slots) + 2


def test_walks_fill_the_counts() -> None:
    walks = LADDERS.walks(song(), 0)
    assert [walk.words.split()[0] for walk in walks] == ["through", "an", "the"]
    for walk in walks:
        [(index, row)] = walk.rows
        assert index == 0 and sum(one.beats for one in row) == 4 and len(row) == 4
        assert row[0].voicing == song().voicing(0)
        assert len({one.voicing.keys for one in row}) > 1
        for one in row:
            hand = song().hands
            assert hand.can_reach(hand.left, one.voicing.left.keys)
    climb = [one.voicing.right.keys for one in walks[0].rows[0][1]]
    assert climb[:2] == [(64, 67, 72), (67, 72, 76)] and {key % 12 for key in climb[1]} == {0, 4, 7}
    assert all(one.chord == chord("C") for one in walks[0].rows[0][1])


def test_a_repeated_chord_is_walked_through_as_one() -> None:
    same = ((48,), (64, 67, 72))
    twice = voiced(Song(parse_chart("| C | C | F |\n")), {0: same, 1: same, 2: ((41,), (65, 69, 72))})
    rows = LADDERS.walks(twice, 0)[0].rows
    assert [index for index, _ in rows] == [0, 1] and sum(len(row) for _, row in rows) == 8
    assert LADDERS.walks(Song(parse_chart("| C |\n")), 0) == ()


def test_names_have_the_bass_that_sounds() -> None:
    key = parse_key("A")
    assert called((66, 69, 73, 76), chord("F#m7"), key)[0] == chord("F#m7")
    over_e = called((52, 69, 73, 76), chord("F#m7"), key)[0]
    assert over_e.bass_name.pitch_class == 4
    below, _ = called((58, 65, 74), chord("Cm9"), parse_key("Eb"), below=0)
    assert below.root.pitch_class == 0


@pytest.mark.parametrize("side", ["left", "right"])
@pytest.mark.parametrize("form", FORMS)
def test_a_hand_alone_has_ladders_and_walks(side: str, form: str) -> None:
    """The middle voice of a tenth goes from the fifth up to the seventh; the hand climbs through its
    inversions whichever it is."""
    keys = ((48, 55, 64), ()) if side == "left" else ((), (60, 64, 67, 72))
    alone = voiced(Song(parse_chart("| C |\n")), {0: keys})
    middle = LADDERS.look(alone, 0, form, 1)
    assert middle is not None and middle.rungs[middle.start].step == 0
    if form == FORMS[0] and side == "left":
        names = [str(rung.chord) for rung in middle.rungs if 0 <= rung.step <= 4]
        assert names == ["C", "Caug", "Am/C", "C7", "Cmaj7"]
    walks = LADDERS.walks(alone, 0)
    assert walks and all(len(stands) == 4 for walk in walks for _, stands in walk.rows)
