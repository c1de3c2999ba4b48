"""The joint search against trying every set of swaps, each solved by the plain planner."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise, product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yellow_hinge.errors import BadInput, Cancelled
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.plan import Place, Planner
from yellow_hinge.reharm.joint import JointSearch, Option
from yellow_hinge.song.edits import change_settings, choose, give_back, with_rule
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.problem import places
from yellow_hinge.tasks.reharmonise import (
    accept,
    chords_of,
    closings,
    explain_swaps,
    find_swaps,
    point_with,
    trade_curve,
    turning_point,
)
from yellow_hinge.tasks.voice_song import voice_song
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.tension import base_kind
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.wish import Wish

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
@settings(max_examples=25, deadline=None)
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
        cost = planner.solve([one for option in chosen for one in option.places]).cost
        cost += sum(option.price for option in chosen)
        best[swaps] = min(cost, best.get(swaps, cost))
    assert {n: answer.cost for n, answer in curve.items()} == {n: c for n, c in best.items() if n <= most}
    for answer in curve.values():
        taken = [options[k][option] for k, option in enumerate(answer.options)]
        row = [one for option in taken for one in option.places]
        voicings = [voicing for part in answer.voicings for voicing in part]
        assert sum(option.swap for option in taken) == answer.swaps
        locked = [replace(p, lock=v) if p.wish else p for p, v in zip(row, voicings, strict=True)]
        assert Planner(LIBRARY).solve(locked).cost == answer.cost - answer.price
        assert answer.price == sum(option.price for option in taken)
        assert not any(twins(one, other) for one, other in pairwise(taken))


def twins(before: Option, after: Option) -> bool:
    """Whether a swap says what its neighbour says, root and kind; what the chart repeats may stay."""
    one, other = before.places[-1].wish, after.places[0].wish
    if one is None or other is None or (before.own_last and after.own_first):
        return False
    same_root = one.chord.root.pitch_class == other.chord.root.pitch_class
    return same_root and base_kind(one.chord) == base_kind(other.chord)


CHART = "key: C\n| C | A7:2 Dm7:2 | G7 | C |\nmelody: E5:4 | C#5:2 F5:2 | D5:4 | C5:4\n"


def small_song() -> Song:
    song = parse_chart(CHART)
    return change_settings(song, replace(song.settings, school="guide", bass="bassist", profile=SMALL))


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
        assert len(changed.swaps) == point.swaps
        assert sum(slot.beats for slot in changed.slots) == song.length_beats
        again = voice_song(replace(changed, choices=()), library, Planner(library))
        assert again.answer.cost == point.cost
        assert len(explain_swaps(song, changed, find_swaps(song))) == point.swaps


def test_what_clashes_is_never_chosen_and_locked_chords_stay(library: Library) -> None:
    song = small_song()
    found = find_swaps(song)
    assert any(not one.safe for one in found)
    solved = voice_song(song, library, Planner(library)).song
    voicing = solved.voicing(3)
    assert voicing is not None
    song = replace(choose(solved, 3, voicing, True), untouched=frozenset({0}))
    for point in trade_curve(song, library, Planner(library), 4)[1:]:
        swaps = point.voiced.song.swaps
        assert not {0, 3} & set(swaps)
        for at, row in swaps.items():
            proposal = next(one for one in found if one.at == at and chords_of(one) == row)
            assert proposal.safe


def test_the_song_keeps_its_endings_and_gets_no_twins(library: Library) -> None:
    chart = "key: C\n[Verse]\n| C | G | Am | F |\n[Chorus] x2\n| F | G | C | C |\n"
    song = parse_chart(chart)
    assert closings(song) == {3, 7, 11}
    for point in trade_curve(song, library, Planner(library), 6):
        changed = point.voiced.song
        assert not closings(song) & set(changed.swaps)
        for one, other in pairwise(changed.slots):
            assert one.chord and other.chord
            alike = one.chord.root.pitch_class == other.chord.root.pitch_class
            if alike and base_kind(one.chord) == base_kind(other.chord):
                assert (one.was, other.was) == (None, None) and one.chord == other.chord


def test_swaps_in_a_loop_count_the_way_back(library: Library) -> None:
    song = parse_chart("key: C\n| C | Am | Dm7 | G7 |")
    song = change_settings(song, replace(song.settings, loop=True))
    for point in trade_curve(song, library, Planner(library), 2):
        again = voice_song(point.voiced.song, library, Planner(library), loop=True)
        assert again.answer.cost == point.cost and again.answer.loop
        assert again.effort.cost == point.cost


def test_swaps_are_accepted_and_given_back() -> None:
    song = small_song()
    proposal = next(one for one in find_swaps(song) if one.rule == "backdoor" and len(one.chords) == 2)
    swapped = accept(song, proposal)
    assert [str(slot.chord) for slot in swapped.slots if slot.written == proposal.at] == [
        str(timed.chord) for timed in proposal.chords
    ]
    assert give_back(swapped, proposal.at).slots == song.slots
    again = next(one for one in find_swaps(swapped) if one.at == proposal.at and one.part == 1)
    twice = accept(swapped, again)
    parts = [str(slot.chord) for slot in twice.slots if slot.written == proposal.at]
    assert parts == [str(proposal.chords[0].chord), *(str(timed.chord) for timed in again.chords)]
    assert sum(slot.beats for slot in twice.slots) == song.length_beats
    off = with_rule(song, "backdoor", False)
    assert "backdoor" not in {one.rule for one in find_swaps(off)}
    assert with_rule(off, "backdoor", True) == song


def test_cancelling_and_empty_songs(library: Library) -> None:
    with pytest.raises(Cancelled):
        trade_curve(small_song(), library, Planner(library), 2, lambda _: False)
    with pytest.raises(BadInput):
        find_swaps(parse_chart("title: Nothing yet\n| N.C. |\n").__class__())
    nothing = parse_chart("| N.C. | N.C. |")
    assert find_swaps(nothing) == []
    assert [point.swaps for point in trade_curve(nothing, library, Planner(library), 2)] == [0]


@pytest.mark.parametrize("key", ["C#", "Cb", "A#m", "Abm"])
def test_keys_of_seven_signs(key: str, library: Library) -> None:
    song = parse_chart(f"key: {key}\n| 1 | 6m7:2 2m7:2 | 5-7 | 1 |")
    found = find_swaps(song)
    assert len(found) > 12
    new = [timed.chord for one in found for timed in one.chords if timed.chord != song.written[one.at].chord]
    assert all(abs(chord.root.alter) <= 1 for chord in new)
    assert places(song, library)


def test_songs_of_too_many_shapes_for_one_table_have_the_same_answer(
    library: Library, monkeypatch: pytest.MonkeyPatch
) -> None:
    from yellow_hinge.reharm import joint

    song = small_song()
    plain = trade_curve(song, library, Planner(library), 3)
    monkeypatch.setattr(joint, "_ONE_TABLE", 0)
    for one, other in zip(plain, trade_curve(song, library, Planner(library), 3), strict=True):
        assert (one.cost, one.voiced.answer.voicings) == (other.cost, other.voiced.answer.voicings)
        assert one.voiced.song.swaps == other.voiced.song.swaps
