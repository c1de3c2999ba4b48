"""The joint search against trying every set of swaps, each solved by the plain planner."""

from __future__ import annotations

from itertools import pairwise, product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from made import song_of
from yellow_hinge.errors import BadInput, Cancelled
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.place import Place, Progression
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.joint import JointSearch, Option
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.edits import (
    choose,
    copy_take,
    give_back,
    keep_as_it_is,
    set_lock,
    switch_rule,
    vary_with_copy,
)
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.reharmonise import (
    accept,
    chords_of,
    explain_swaps,
    find_swaps,
    identity_of,
    point_with,
    trade_curve,
    turning_point,
)
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.wish import Wish

pytestmark = pytest.mark.long

LIBRARY = builtin_library()
SMALL = replace(
    HandProfile(),
    left=replace(HandProfile().left, lowest_key=45, highest_key=62),
    right=replace(HandProfile().right, lowest_key=59, highest_key=74),
)


def place(symbol: str) -> Place:
    if symbol == "-":
        return Place(None)
    chord = parse_chord(symbol)
    assert chord is not None
    school = LIBRARY.schools["guide"]
    return Place(Wish(chord, parse_key("C"), school, 1, "bassist", SMALL), None, symbol)


rows = st.sampled_from(
    ["Cmaj7", "C6", "Am9", "Dm7", "G7", "Db7", "Am7", "Dm7 G7", "Abm7 Db7", "Em7 A7 Dm7", "-"]
)
slots_of = st.lists(st.lists(rows, min_size=1, max_size=3, unique=True), min_size=1, max_size=4)


@given(slots_of, st.integers(0, 3))
@settings(max_examples=25)
def test_the_trade_curve_is_the_best_of_all_sets(slots: list[list[str]], most: int) -> None:
    options = [
        [
            Option(tuple(map(place, row.split())), index > 0, 30 * index, index == 0, index == 0)
            for index, row in enumerate(slot)
        ]
        for slot in slots
    ]
    planner = Planner(LIBRARY)
    curve = {answer.swaps: answer for answer in JointSearch(planner, options).solve(most)}
    best: dict[int, int] = {}
    for chosen in product(*options):
        if any(twins(one, other) for one, other in pairwise(chosen)):
            continue
        swaps = sum(option.swap for option in chosen)
        cost = planner.solve(Progression.of([one for option in chosen for one in option.places])).cost
        cost += sum(option.price for option in chosen)
        best[swaps] = min(cost, best.get(swaps, cost))
    assert {n: answer.cost for n, answer in curve.items()} == {n: c for n, c in best.items() if n <= most}
    for answer in curve.values():
        taken = [options[k][option] for k, option in enumerate(answer.options)]
        row = [one for option in taken for one in option.places]
        voicings = [voicing for part in answer.voicings for voicing in part]
        assert sum(option.swap for option in taken) == answer.swaps
        locked = [replace(p, lock=v) if p.wish else p for p, v in zip(row, voicings, strict=True)]
        assert Planner(LIBRARY).solve(Progression.of(locked)).cost == answer.cost - answer.price
        assert answer.price == sum(option.price for option in taken)
        assert not any(twins(one, other) for one, other in pairwise(taken))


def twins(before: Option, after: Option) -> bool:
    """Whether a swap says what its neighbour says, root and kind; what the chart repeats may stay."""
    one, other = before.places[-1].wish, after.places[0].wish
    if one is None or other is None or (before.own_last and after.own_first):
        return False
    same_root = one.chord.root.pitch_class == other.chord.root.pitch_class
    return same_root and one.chord.kind == other.chord.kind


CHART = "key: C\n| C | A7:2 Dm7:2 | G7 | C |\nmelody: E5:4 | C#5:2 F5:2 | D5:4 | C5:4\n"


def small_song() -> Song:
    return replace(song_of(CHART, "guide", bass="bassist"), hands=SMALL)


def test_no_swaps_is_the_plain_answer_and_each_point_has_its_number(library: Library) -> None:
    song, planner = small_song(), Planner(library)
    curve = trade_curve(song, library, planner, 4)
    assert curve[0].cost == voice_song(song, library, planner).answer.cost
    assert [point.swaps for point in curve] == list(range(len(curve)))
    assert min(point.cost for point in curve) < curve[0].cost
    assert point_with(curve, 2).swaps == 2 and point_with(curve, 99).swaps == curve[-1].swaps
    turn = turning_point(curve)
    costs = [point.cost for point in curve]
    assert costs[: turn + 1] == sorted(costs[: turn + 1], reverse=True)
    assert turn == len(curve) - 1 or costs[turn + 1] > costs[turn]
    for point in curve:
        changed = point.voiced.song
        assert len(changed.arrangement.swaps) == point.swaps
        assert sum(slot.quarters for slot in changed.slots) == song.chart.length_quarters
        again = voice_song(unvoiced(changed), library, Planner(library))
        assert again.answer.cost == point.cost
        assert len(explain_swaps(song, changed, find_swaps(song))) == point.swaps


def unvoiced(song: Song) -> Song:
    """Without any voicing."""
    return replace(
        song, takes=tuple(replace(t, arrangement=replace(t.arrangement, choices={})) for t in song.takes)
    )


def test_what_clashes_is_never_chosen_and_locked_chords_stay(library: Library) -> None:
    song = small_song()
    found = find_swaps(song)
    assert any(not one.safe for one in found)
    solved = voice_song(song, library, Planner(library)).song
    voicing = solved.voicing(3)
    assert voicing is not None
    song = keep_as_it_is(choose(solved, 3, voicing, True).song, 0, True).song
    for point in trade_curve(song, library, Planner(library), 4)[1:]:
        swaps = point.voiced.song.arrangement.swaps
        assert not {0, 3} & set(swaps)
        for at, row in swaps.items():
            proposal = next(one for one in found if one.at == at and chords_of(one) == row)
            assert proposal.safe


def test_the_song_keeps_its_endings_and_gets_no_twins(library: Library) -> None:
    chart = "key: C\n[Verse]\n| C | G | Am | F |\n[Chorus] x2\n| F | G | C | C |\n"
    song = song_of(chart)
    stays = identity_of(song).stays
    assert stays == {0, 3, 4, 5, 6, 7}  # the chorus is a loop of four chords
    for point in trade_curve(song, library, Planner(library), 6):
        changed = point.voiced.song
        assert not stays & set(changed.arrangement.swaps)
        assert len(changed.arrangement.swaps) == point.swaps
        for one, other in pairwise(changed.slots):
            assert one.chord and other.chord
            alike = one.chord.root.pitch_class == other.chord.root.pitch_class
            if alike and one.chord.kind == other.chord.kind:
                assert (one.was, other.was) == (None, None) and one.chord == other.chord


def test_swaps_in_a_loop_count_the_way_back(library: Library) -> None:
    song = song_of("key: C\n| C | Am | Dm7 | G7 |", loop=True)
    for point in trade_curve(song, library, Planner(library), 2):
        again = voice_song(point.voiced.song, library, Planner(library))
        assert again.answer.cost == point.cost and again.answer.loop
        assert again.effort.cost == point.cost


def test_swaps_are_accepted_and_given_back() -> None:
    song = small_song()
    proposal = next(one for one in find_swaps(song) if one.rule == "backdoor" and len(one.chords) == 2)
    swapped = accept(song, proposal).song
    assert [str(slot.chord) for slot in swapped.slots if slot.at.written == proposal.at] == [
        str(timed.chord) for timed in proposal.chords
    ]
    assert give_back(swapped, proposal.at).song.slots == song.slots
    again = next(one for one in find_swaps(swapped) if one.at == proposal.at and one.part == 2)
    twice = accept(swapped, again).song
    parts = [str(slot.chord) for slot in twice.slots if slot.at.written == proposal.at]
    assert parts == [str(proposal.chords[0].chord), *(str(timed.chord) for timed in again.chords)]
    assert sum(slot.quarters for slot in twice.slots) == song.chart.length_quarters
    off = switch_rule(song, "backdoor", False).song
    assert "backdoor" not in {one.rule for one in find_swaps(off)}
    assert switch_rule(off, "backdoor", True).song == song


def test_cancelling_and_empty_songs(library: Library) -> None:
    with pytest.raises(Cancelled):
        trade_curve(small_song(), library, Planner(library), 2, lambda _: False)
    with pytest.raises(BadInput):
        find_swaps(Song())
    nothing = song_of("| N.C. | N.C. |")
    assert find_swaps(nothing) == []
    assert [point.swaps for point in trade_curve(nothing, library, Planner(library), 2)] == [0]


@pytest.mark.parametrize("key", ["C#", "Cb", "A#m", "Abm"])
def test_keys_of_seven_signs(key: str, library: Library) -> None:
    song = song_of(f"key: {key}\n| 1 | 6m7:2 2m7:2 | 5-7 | 1 |")
    found = find_swaps(song)
    assert len(found) > 12
    own = {one.id: one.chord for one in song.chart.written}
    new = [timed.chord for one in found for timed in one.chords if timed.chord != own[one.at]]
    assert all(abs(chord.root.alter) <= 1 for chord in new)
    assert progression(song, library).places


def test_songs_of_too_many_shapes_for_one_table_have_the_same_answer(
    library: Library, monkeypatch: pytest.MonkeyPatch
) -> None:
    from yellow_hinge.reharm import joint

    song = small_song()
    plain = trade_curve(song, library, Planner(library), 3)
    monkeypatch.setattr(joint, "_ONE_TABLE", 0)
    for one, other in zip(plain, trade_curve(song, library, Planner(library), 3), strict=True):
        assert (one.cost, one.voiced.answer.voicings) == (other.cost, other.voiced.answer.voicings)
        assert one.voiced.song.arrangement.swaps == other.voiced.song.arrangement.swaps


def test_a_swap_holds_in_every_round(library: Library) -> None:
    """What is proposed fits the tune of each round; a kept, locked or other take's round stays."""
    once = song_of("[A] x2\n| C | A7 | Dm7 | G7 |\n[B]\n| C |\n")
    tune = song_of("pickup: 1\n" + once.chart.text + "melody: C5:4\n")
    assert {one.at for one in find_swaps(tune)} <= {0, 1, 2, 3, 4}
    curve = trade_curve(once, library, Planner(library), 2)
    for point in curve[1:]:
        changed = point.voiced.song
        assert len(changed.arrangement.swaps) == point.swaps
        rounds = [[str(s.chord) for s in changed.slots if (s.section, s.round) == ("A", n)] for n in (1, 2)]
        assert rounds[0] == rounds[1]
        assert voice_song(unvoiced(changed), library, Planner(library)).answer.cost == point.cost
    varied = vary_with_copy(once, "A", 2).song
    found = find_swaps(varied)
    proposal = next(one for one in found if one.at == 1)
    after = accept(varied, proposal).song
    assert [t.arrangement.swaps != {} for t in after.takes] == [True, False]
    other = copy_take(varied, "x").song  # another take is worked on: the swap is made there
    assert [t.arrangement.swaps != {} for t in accept(other, proposal).song.takes] == [False, False, True]


def test_the_verdict_of_a_swap_is_that_of_its_worst_round() -> None:
    """The second ending's tune clashes with what the first one's would bear."""
    song = song_of("[A] x2\n| C | G7 |1. C |2. Am |\nmelody: E5:4 | F5:4 | E5:4 | A5:4\n")
    once = song_of("| C | G7 | C |\nmelody: E5:4 | F5:4 | E5:4\n")
    plain = {(one.rule, one.chords): one.clash for one in find_swaps(once) if one.at == 1}
    for one in find_swaps(song):
        if one.at == 1 and (one.rule, one.chords) in plain:
            assert one.clash >= plain[one.rule, one.chords]


def test_locked_chords_are_proposed_for_but_never_chosen_by_the_search(library: Library) -> None:
    song = voice_song(small_song(), library, Planner(library)).song
    locked = set_lock(song, 1, True).song
    assert {one.at for one in find_swaps(locked)} == {one.at for one in find_swaps(song)}
    for point in trade_curve(locked, library, Planner(library), 3):
        assert 1 not in point.voiced.song.arrangement.swaps
        assert point.voiced.song.voicing(1) == song.voicing(1)
    assert Arrangement().swaps == {}
