"""Swaps as switches: every combination against a solve of its own."""

from __future__ import annotations

from itertools import product

import pytest
from msgspec.structs import replace

from made import song_of
from yellow_hinge.errors import BadInput, Cancelled
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import change_swaps
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.describe_song import melody_fits
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.grid import SwapGrid, swap_grid, switches_of
from yellow_hinge.tasks.swaps.reharmonise import accept, find_swaps, trade_curve
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.tension import FitKind
from yellow_hinge.voicing.recipes import builtin_library

pytestmark = pytest.mark.long  # many starts, or many searches

LIBRARY = builtin_library()
TEXT = "key: C\n[A]\n| Cmaj7 | A7 | Dm7 | G7 | Cmaj7 | Fmaj7 | Em7 A7 | Dm7 G7 |\n[End]\n| Cmaj7 |\n"


def marked_of(song: Song, *pairs: tuple[int, str]) -> dict[int, tuple[ChordAt, ...]]:
    """Rows for the chords of slots, each one chord as long as its own."""
    return {
        song.slots[slot].at.written: (ChordAt(parse_chord(name), song.slots[slot].beats),)
        for slot, name in pairs
    }


def grid_of(song: Song, marked: dict[int, tuple[ChordAt, ...]]) -> SwapGrid:
    planner = Planner(LIBRARY)
    return swap_grid(song, switches_of(song, marked, LIBRARY, planner), LIBRARY, planner)


def test_every_combination_is_what_a_solve_of_its_own_gives() -> None:
    song = song_of(TEXT)
    marked = marked_of(song, (1, "Eb7"), (3, "Db7"), (5, "Dm9"))
    grid = grid_of(song, marked)
    assert sorted(one.on for one in grid.combinations) == sorted(product((False, True), repeat=3))
    assert grid.unplayable == 0
    for one in grid.combinations:
        rows = {switch.written: switch.row for switch, on in zip(grid.switches, one.on, strict=True) if on}
        there = change_swaps(song, rows).song if rows else song
        alone = voice_song(there, LIBRARY, Planner(LIBRARY))
        assert one.cost == alone.answer.cost
        assert [str(slot.chord) for slot in one.voiced.song.slots] == [
            str(slot.chord) for slot in there.slots
        ]
        grips = [alone.song.voicing(slot.index) for slot in there.slots]
        assert one.bass == tuple(min(grip.keys) for grip in grips if grip is not None)
        rubs = [fit for fits in melody_fits(there) for fit in fits if fit.fit.kind == FitKind.CLASH]
        assert one.clashes == len(rubs)


def test_the_best_of_each_size_listens_to_the_tune_before_the_effort() -> None:
    song = song_of("key: C\n[A]\n| Dm7 | G7 | C |\nmelody: D5:4 | D5:4 | E5:4\n")
    grid = grid_of(song, marked_of(song, (1, "Dbmaj7"), (2, "Am7")))
    for size in range(3):
        row = grid.of_size(size)
        assert [one.swaps for one in row] == [size] * len(row)
        best = grid.best(size)
        assert best is not None and best.rank == min(one.rank for one in row)
    clean, rubbing = grid.of_size(1)
    assert clean.clashes < rubbing.clashes and clean.on == (False, True)
    assert grid.best(3) is None


def test_taken_in_place_kept_as_a_take_and_what_is_no_switch_stays() -> None:
    song = song_of(TEXT)
    other = marked_of(song, (0, "Em7"))
    song = change_swaps(song, other).song
    marked = marked_of(song, (1, "Eb7"), (3, "Db7"))
    planner = Planner(LIBRARY)
    switches = [one for one in switches_of(song, marked, LIBRARY, planner) if one.written in marked]
    grid = swap_grid(song, switches, LIBRARY, planner)
    assert grid.now is not None and grid.now.on == (False, False)
    both = grid.of_size(2)[0]
    assert grid.edit(both).song.arrangement.swaps == {**other, **marked}
    kept = grid.as_take(both).song
    assert [take.arrangement.swaps for take in kept.takes] == [other, {**other, **marked}]
    assert kept.take.name.endswith("2 swaps")
    back = swap_grid(grid.edit(both).song, switches, LIBRARY, planner)
    assert back.now is not None and back.now.on == (True, True)
    assert back.edit(back.of_size(0)[0]).song.arrangement.swaps == other


def test_the_switches_are_the_marked_ones_then_the_takes_own_then_the_best() -> None:
    song = song_of(TEXT)
    planner = Planner(LIBRARY)
    best = trade_curve(song, LIBRARY, planner, 6)[-1].voiced.song.arrangement.swaps
    found = switches_of(song, {}, LIBRARY, planner)
    assert {one.written: one.row for one in found} == best and 2 <= len(found) <= 6
    own = marked_of(song, (3, "Db7"), (8, "Bbm7"))
    swapped = change_swaps(song, own).song
    assert [one.written for one in switches_of(swapped, {}, LIBRARY, planner)] == list(own)
    marked = marked_of(song, (1, "Eb7"))
    assert {one.written for one in switches_of(swapped, marked, LIBRARY, planner)} == {*own, *marked}
    assert len(switches_of(song, marked, LIBRARY, planner)) == 1
    words = [one.words for one in switches_of(song, marked, LIBRARY, planner)]
    assert words == ["bar 2: E♭7 for A7"]


def test_more_than_six_are_cut_and_one_that_is_gone_is_no_switch() -> None:
    song = song_of(TEXT)
    many = marked_of(song, *((slot, "Dm7") for slot in range(8)))
    assert len(switches_of(song, many, LIBRARY, Planner(LIBRARY))) == 6
    gone = {9999: many[song.slots[0].at.written], **marked_of(song, (1, "Eb7"))}
    assert len(switches_of(song, gone, LIBRARY, Planner(LIBRARY))) == 1


def test_a_swap_of_a_swap_is_marked_as_it_would_stand() -> None:
    song = song_of(TEXT)
    first = next(one for one in find_swaps(song) if len(one.chords) > 1)
    song = accept(song, first).song
    second = next(one for one in find_swaps(song) if one.at == first.at and one.part == 1)
    there = accept(song, second).song.arrangement.swaps[first.at]
    grid = grid_of(song, {first.at: there})
    assert grid.combinations[-1].voiced.song.arrangement.swaps[first.at] == there


def test_it_can_be_stopped_and_a_song_without_chords_is_refused() -> None:
    song = song_of(TEXT)
    marked = marked_of(song, (1, "Eb7"), (3, "Db7"))
    planner = Planner(LIBRARY)
    switches = switches_of(song, marked, LIBRARY, planner)
    with pytest.raises(Cancelled):
        swap_grid(song, switches, LIBRARY, planner, lambda share: share < 0.5)
    with pytest.raises(BadInput):
        swap_grid(Song(), (), LIBRARY, planner)


def test_what_these_hands_cannot_play_is_counted_and_left_out() -> None:
    """No tone of F sharp lies under either hand: with the swap there is nothing to play."""
    song = song_of("key: Dm\n[A]\n| Dm | Dm | Dm |\n")
    left = replace(song.hands.left, lowest_key=50, highest_key=53)
    right = replace(song.hands.right, lowest_key=55, highest_key=57)
    song = replace(song, hands=replace(song.hands, left=left, right=right))
    grid = grid_of(song, marked_of(song, (1, "F#")))
    assert [one.on for one in grid.combinations] == [(False,)] and grid.unplayable == 1


def test_the_bass_around_each_switch_is_what_the_song_has_there() -> None:
    """From the chord before to the one behind, in the first round; at the ends there is no neighbour."""
    song = song_of("key: C\n[A] x2\n| Cmaj7 | A7 | Dm7 | G7 |\n[End]\n| Cmaj7 |\n")
    two = (
        ChordAt(parse_chord("Em7"), song.slots[1].beats / 2),
        ChordAt(parse_chord("A7"), song.slots[1].beats / 2),
    )
    marked = {
        **marked_of(song, (0, "C6")), song.slots[1].at.written: two, **marked_of(song, (8, "C6")),
    }  # fmt: skip
    grid = grid_of(song, marked)
    assert [switch.bar for switch in grid.switches] == [1, 2, 9]
    for one in grid.combinations:
        first, middle, last = grid.bass_at(one)
        shift = one.on[1]  # two chords in place of one
        assert first == one.bass[0:2] and middle == one.bass[0 : 4 if shift else 3]
        assert last == one.bass[-2:] and len(one.bass) == 9 + 2 * shift
