"""Hands that are kept stay note for note; where they cannot, it is said before."""

from __future__ import annotations

from functools import cache
from itertools import pairwise

import pytest
from msgspec.structs import replace

from made import chord, song_of
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.proposals import Proposal
from yellow_hinge.song.arrangement import Ask
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import choose, new_take, set_lock, vary_with_copy, wish_for_chord
from yellow_hinge.song.grip_edits import Stand, stand_in
from yellow_hinge.song.kept_hands import kept_hand, let_go, let_go_words
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.keys.survey import survey
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.desk import SwapDesk
from yellow_hinge.tasks.swaps.function_board import board, inversions
from yellow_hinge.tasks.swaps.grid import SwapGrid, swap_grid, switches_of
from yellow_hinge.tasks.swaps.held_hand import RUNS, HeldDesk
from yellow_hinge.tasks.swaps.held_through import as_it_is
from yellow_hinge.tasks.swaps.reharmonise import find_swaps
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import Hold

LIBRARY = builtin_library()
ROAD = "key: C\n[A]\n| Am7 | Dm7 | G7 | Cmaj7 | Fmaj7 |\n"
TRITONES = ((0, "Eb7"), (1, "Ab7"), (2, "Db7"))
DESK = SwapDesk(LIBRARY)


@cache
def voiced(school: str = "solo", text: str = ROAD) -> Song:
    return voice_song(song_of(text, school), LIBRARY, Planner(LIBRARY)).song


def rights(song: Song) -> list[tuple[int, ...]]:
    """The right hand of each slot."""
    grips = [song.voicing(slot.index) for slot in song.slots]
    return [() if grip is None else grip.right.keys for grip in grips]


def locked(song: Song, index: int) -> Song:
    return set_lock(song, index, True).song


def own_grip(song: Song, index: int, left: tuple[int, ...], right: tuple[int, ...]) -> Song:
    """A grip of the player's own, locked."""
    slot = song.slots[index]
    assert slot.chord is not None
    return choose(song, index, classify(left, right, slot.chord, slot.key, LIBRARY)).song


def tritones(song: Song, hold: bool) -> SwapGrid:
    planner = Planner(LIBRARY)
    marked = {
        song.slots[slot].at.written: (ChordAt(chord(name), song.slots[slot].beats),)
        for slot, name in TRITONES
    }
    switches = switches_of(song, marked, LIBRARY, planner)
    return swap_grid(song, switches, LIBRARY, planner, hold=hold)


def proposal(song: Song, index: int, rule: str, symbol: str = "") -> Proposal:
    """A proposal for a slot by its rule, or also by its first chord."""
    at = song.slots[index].at.written
    found = (one for one in find_swaps(song) if one.at == at and one.rule == rule)
    return next(one for one in found if not symbol or str(one.chords[0].chord) == symbol)


# --- the grid ----------------------------------------------------------------------------


@pytest.mark.parametrize("school", ["solo", "spread", "band"])
def test_eight_subsets_of_tritone_roots_have_the_same_right_hands(school: str) -> None:
    song = voiced(school)
    grid = tritones(song, hold=True)
    assert grid.held and len(grid.combinations) == 8 and grid.unplayable == 0
    for one in grid.combinations:
        assert rights(one.voiced.song) == rights(song)
        for slot, bass in zip(one.voiced.song.slots, one.bass, strict=True):
            assert slot.chord is not None
            if school != "band":  # there a bassist has the root
                assert bass % 12 == slot.chord.bass_name.pitch_class


def test_right_hands_that_are_not_held_go_where_they_are_best() -> None:
    song = voiced()
    free, held = tritones(song, hold=False), tritones(song, hold=True)
    assert not free.held and all(one.rubs == 0 for one in free.combinations)
    assert any(rights(one.voiced.song) != rights(song) for one in free.combinations)
    for one, other in zip(
        sorted(free.combinations, key=lambda c: c.on), sorted(held.combinations, key=lambda c: c.on),
        strict=True,
    ):  # fmt: skip
        assert one.cost <= other.cost


def test_a_song_that_was_never_voiced_is_voiced_for_the_hands_to_hold() -> None:
    grid = tritones(song_of(ROAD), hold=True)
    assert {tuple(rights(one.voiced.song)) for one in grid.combinations} == {tuple(rights(voiced()))}


def test_by_bass_the_best_is_the_one_whose_bass_moves_least() -> None:
    by_effort = tritones(voiced(), hold=True)
    by_bass = replace(by_effort, by_bass=True)
    for size in range(4):
        rows = by_bass.of_size(size)
        ways = [sum(abs(b - a) for a, b in pairwise(one.bass)) for one in rows]
        assert ways == sorted(ways) == [one.bass_st for one in rows]
        assert [one.cost for one in by_effort.of_size(size)] == sorted(one.cost for one in rows)
    looped = voice_song(song_of(ROAD, loop=True), LIBRARY, Planner(LIBRARY)).song
    one = tritones(looped, hold=True).combinations[0]
    ring = (*one.bass, one.bass[0])
    assert one.bass_st == sum(abs(b - a) for a, b in pairwise(ring))


def test_a_combination_taken_keeps_its_hands_when_it_is_searched_again() -> None:
    grid = tritones(voiced(), hold=True)
    every = grid.of_size(3)[0]
    for edit in (grid.edit(every), grid.as_take(every)):
        again = voice_song(edit.song, LIBRARY, Planner(LIBRARY)).song
        assert rights(again) == rights(voiced()) and "right hands held" in edit.label
    assert "held" not in tritones(voiced(), hold=False).edit(every).label
    taken = grid.as_take(every).song
    assert len(taken.takes) == 2 and taken.takes[0] == voiced().takes[0]
    assert taken.take.name.endswith("3 swaps, right hands held")


def test_notes_that_rub_against_a_swap_are_counted_and_held_all_the_same() -> None:
    song = own_grip(voiced(), 2, (43,), (60, 65, 69))  # C over D flat 7: its major seventh
    song = set_lock(song, 2, False).song
    on = next(one for one in tritones(song, hold=True).combinations if one.on == (False, False, True))
    assert on.rubs == 1 and rights(on.voiced.song)[2] == (60, 65, 69)


# --- swaps -------------------------------------------------------------------------------


def test_a_kept_right_hand_stays_under_a_swap_that_does_not_clash_with_it() -> None:
    song = own_grip(voiced(), 2, (43, 53), (59, 64, 69))
    after = DESK.weigh(song, proposal(song, 2, "tritone", "Db7")).song
    assert rights(after)[2] == (59, 64, 69) and kept_hand(after, 2, "right") is not None
    said = let_go(song, after)
    assert len(said) == 1 and said[0].startswith("bar 3: the left hand you kept, G2 F3, becomes D")
    free = set_lock(song, 2, False).song
    assert let_go(free, DESK.weigh(free, proposal(free, 2, "tritone", "Db7")).song) == ()


def test_a_kept_right_hand_that_clashes_goes_and_that_is_said() -> None:
    song = own_grip(voiced(), 2, (43, 53), (60, 65, 69))
    after = DESK.weigh(song, proposal(song, 2, "tritone", "Db7")).song
    assert rights(after)[2] != (60, 65, 69) and kept_hand(after, 2, "right") is None
    assert [words for words in let_go(song, after) if "right hand you kept, C4 F4 A4, becomes" in words]
    assert let_go_words(song, after).startswith(" Bar 3: the ") and let_go_words(song, after).endswith(".")


@pytest.mark.parametrize("kept", [False, True])
def test_another_bass_under_the_same_hand_adds_and_drops_nothing(kept: bool) -> None:
    song = voiced("solo", "key: C\n[A]\n| Bm7b5 | Dm7 | C | Em7 | F | Em7 | C | Dm7 | C |\n")
    song = locked(song, 1) if kept else song
    every = [one for one in find_swaps(song) if one.rule == "other-bass"]
    assert len(every) > 2
    for one in every:
        index = next(slot.index for slot in song.slots if slot.at.written == one.at)
        assert rights(DESK.weigh(song, one).song)[index] == rights(song)[index]


def test_the_hand_stays_over_a_walking_bass() -> None:
    song = voiced("solo", "key: C\n[A]\n| C | F | C |\n")
    after = DESK.weigh(song, proposal(song, 0, "walking-bass")).song
    row = rights(after)
    assert row[0] == row[1] == row[2] == rights(song)[0] and len(after.slots) == 5


def test_other_swaps_leave_a_hand_that_nobody_kept_free() -> None:
    song = voiced()
    after = DESK.weigh(song, proposal(song, 2, "tritone", "Db7")).song
    assert after.arrangement.asks == {}


# --- the board, and a hand over other chords ---------------------------------------------


def test_the_board_has_the_kept_hand_first_where_it_plays_the_upper_chord() -> None:
    song = own_grip(voiced(), 3, (48, 55), (67, 71, 76))  # E minor over C
    found = board(song, 3)
    assert found is not None
    cell = next(one for row in found.cells for one in row if str(one.upper) == "Em")
    first, *others = inversions(found, cell, LIBRARY)
    assert first.voicing.right.keys == (67, 71, 76) and first.voicing.left.keys == (48, 55)
    assert first.from_st > 0 and len(others) == 3
    other = next(one for row in found.cells for one in row if str(one.upper) == "G")
    assert all(one.voicing.right.keys != (67, 71, 76) for one in inversions(found, other, LIBRARY))
    free = board(set_lock(song, 3, False).song, 3)
    assert free is not None and len(inversions(free, cell, LIBRARY)) == 3
    assert inversions(free, cell, LIBRARY)[0].voicing.left.keys == (48,)


def test_a_hand_held_over_a_kept_one_says_what_goes() -> None:
    song = own_grip(voiced(), 1, (50, 57), (60, 65, 69))
    looked = HeldDesk(LIBRARY).look(song, 0, RUNS[4])
    assert looked is not None and len(looked.spots) == 2

    line = looked.line(looked.now)
    rows = {spot.index: [Stand(one.chord, spot.beats, one.voicing)]
            for spot, one in zip(looked.spots, line, strict=True)}  # fmt: skip
    said = let_go(song, stand_in(song, rows, "line").song)
    assert [words for words in said if words.startswith("bar 2: the right hand you kept, C4 F4 A4, becomes")]


# --- as it is, keys, takes ---------------------------------------------------------------


@pytest.mark.parametrize(("side", "goes"), [("left", True), ("right", False)])
def test_a_hand_as_it_is_stays_whatever_the_school_says(side: str, goes: bool) -> None:
    song = set_lock(own_grip(voiced(), 2, (43, 48), (61, 66)), 2, False).song
    voicing = song.voicing(2)
    assert voicing is not None
    edit = as_it_is(song, 2, Ask(hold=replace(Hold(), **{side: voicing.hand(side)})), LIBRARY)
    after = voice_song(edit.song, LIBRARY, Planner(LIBRARY)).song.voicing(2)
    assert after is not None and after.hand(side).keys == voicing.hand(side).keys
    assert edit.song.locked(2) is not goes
    assert [words for words in edit.remarks if "whole grip" in words] == list(edit.remarks)
    assert bool(edit.remarks) is not goes


def test_a_hand_of_the_schools_own_is_held_and_the_other_one_free() -> None:
    song = voiced()
    voicing = song.voicing(2)
    assert voicing is not None
    edit = as_it_is(song, 2, Ask(hold=Hold(right=voicing.right)), LIBRARY)
    assert not edit.song.locked(2) and edit.remarks == () and edit.song.ask(2).hold.right == voicing.right
    resting = wish_for_chord(song, 2, replace(song.ask(2), taste=replace(song.ask(2).taste, hands="rest")))
    held = as_it_is(resting.song, 2, replace(resting.song.ask(2), hold=Hold(right=voicing.right)), LIBRARY)
    assert held.remarks == ()


def test_kept_grips_are_carried_into_every_key_note_for_note() -> None:
    song = own_grip(own_grip(voiced(), 0, (45, 52), (60, 67, 71)), 2, (43, 48), (61, 66))
    for one in survey(song, LIBRARY):
        grips = [(one.voiced.song.voicing(k), song.voicing(k)) for k in (0, 2)]
        for there, here in grips:
            assert there is not None and here is not None
            for side in ("left", "right"):
                steps = {a - b for a, b in zip(there.hand(side).keys, here.hand(side).keys, strict=True)}
                assert len(steps) == 1 and steps.pop() % 12 == (one.key.tonic.pitch_class) % 12


def test_a_new_take_has_the_kept_grips() -> None:
    song = own_grip(voiced(), 2, (43, 48), (61, 66))
    take = new_take(song, "Other", school="spread").song
    after = voice_song(take, LIBRARY, Planner(LIBRARY)).song
    assert after.voicing(2) == song.voicing(2) and after.voicing(1) != song.voicing(1)


def test_of_many_hands_that_go_the_first_few_are_said() -> None:
    song = locked(locked(voiced(), 0), 1)
    after = own_grip(own_grip(song, 0, (33,), (76, 79, 84)), 1, (38,), (77, 81, 84))
    said = let_go(song, after)
    assert len(said) == 4 and said[-1] == "and 1 more"
    assert let_go(song, own_grip(song, 0, (33,), (76, 79, 84))) == said[:2]
    assert let_go(song, song) == () and let_go_words(song, song) == ""


def test_hands_of_a_take_that_is_not_worked_on_are_let_be() -> None:
    """What sounds in a round by another take is not touched by a swap in this one."""
    song = voiced("solo", "key: C\n[A] x2\n| Am7 | Dm7 | G7 | Cmaj7 |\n")
    varied = vary_with_copy(locked(song, 2), "A", 2).song
    varied = voice_song(varied, LIBRARY, Planner(LIBRARY)).song
    after = DESK.weigh(varied, proposal(varied, 2, "tritone", "Db7")).song
    other = next(take for take in after.takes if take.id != after.current)
    assert other.arrangement == varied.take_of(other.id).arrangement


def test_a_hand_that_goes_in_one_round_is_said_for_that_round_and_once_for_all() -> None:
    song = locked(voiced("solo", "key: C\n[A] x2\n| Am7 | Dm7 | G7 | Cmaj7 |\n"), 2)
    every = let_go(song, own_grip(song, 2, (31,), (76, 79, 84)))
    assert len(every) == 2 and all(words.startswith("bar 3: ") for words in every)
    varied = vary_with_copy(song, "A", 2).song
    second = let_go(song, own_grip(varied, 6, (31,), (76, 79, 84)))
    assert len(second) == 2 and all(words.startswith("bar 7: ") for words in second)
