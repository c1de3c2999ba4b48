"""Takes in lanes, joints made smooth exactly, a route by chance, two takes chord by chord."""

from __future__ import annotations

from itertools import pairwise, product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from made import song_of
from yellow_hinge.formats import project_file
from yellow_hinge.hands.geometry import span_mm
from yellow_hinge.motion.figures import motion_st
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import (
    Edit,
    choose,
    copy_take,
    drop_take,
    go_to_take,
    lead_back,
    move_take,
    new_take,
    rename_take,
    set_lock,
    take_over,
    vary_round,
)
from yellow_hinge.song.history import History
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.takes.desk import TakeDesk, joints, pair_words, pairs, rounds_of, shuffled
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.register import mud
from yellow_hinge.voicing.shape import HandShape, Voicing

LIBRARY = builtin_library()
CHART = "key: C\n[A] x2\n| C | Am7 | F | G7 |\n[B]\n| Dm7 | G7 | C |\n"


def solved(song: Song) -> Song:
    return voice_song(song, LIBRARY, Planner(LIBRARY)).song


@pytest.fixture(scope="module")
def two() -> Song:
    """A take alone and one for a bassist, which sounds in the second round."""
    song = solved(song_of(CHART))
    song = solved(new_take(song, "Band", school="band", bass="bassist").song)
    song = go_to_take(song, 0).song
    return solved(vary_round(song, "A", 2, 1).song)


def test_rounds_and_joints_are_those_of_the_route(two: Song) -> None:
    rounds = rounds_of(two)
    assert [(one.section, one.turn, one.first, one.last, one.take) for one in rounds] == [
        ("A", 1, 0, 3, 0), ("A", 2, 4, 7, 1), ("B", 1, 8, 10, 0),
    ]  # fmt: skip
    found = joints(two)
    assert [one.slot for one in found] == [4, 8]
    for one in found:
        assert one.motion == motion_st(two.voicing(one.slot - 1), two.voicing(one.slot))
        on = two.take_of(two.slots[one.slot - 1].take).arrangement.voicing(two.slots[one.slot].at)
        stays = one.motion - one.more
        assert on is None or stays == motion_st(two.voicing(one.slot - 1), on)
    assert joints(replace(two, route={})) == []


def test_every_take_is_solved_all_through(two: Song) -> None:
    lanes = TakeDesk(LIBRARY).lanes(two)
    assert [lane.take.name for lane in lanes] == [take.name for take in two.takes]
    for lane in lanes:
        alone = solved(replace(two, current=lane.take.id, route={}))
        assert [v.keys for v in lane.voicings] == [alone.voicing(k).keys for k in range(11)]  # type: ignore[union-attr]
        assert sum(lane.motion) == sum(motion_st(a, b) for a, b in pairwise(lane.voicings))
    locked = choose(two, 0, Voicing(HandShape((20,), ("R",), ""), HandShape())).song
    assert len(TakeDesk(LIBRARY).lanes(locked)) == 2


def test_smoothed_joints_are_the_best_there_are() -> None:
    """Against every pair of voicings at a seam, all else held."""
    song = solved(song_of("key: C\n[A]\n| C | F |\n[B]\n| G7 | C |\n"))
    song = copy_take(song, "Other").song
    far = Voicing(HandShape((36,), ("R",), ""), HandShape((76, 79, 84), ("3", "5", "R"), ""))
    rough = solved(choose(song, 3, far).song)
    rough = go_to_take(vary_round(rough, "B", 1, rough.current).song, 0).song
    planner = Planner(LIBRARY)
    before = voice_song(rough, LIBRARY, planner)
    smooth = TakeDesk(LIBRARY).smooth(before.song)
    after = voice_song(_held(smooth.song, ()), LIBRARY, Planner(LIBRARY)).answer.cost
    [joint] = joints(before.song)
    seam = (joint.slot - 1, joint.slot)
    shapes = [[one.voicing for one in _ranked(before.song, slot)] for slot in seam]
    costs = []
    for pair in product(*(row[:12] for row in shapes)):
        tried = before.song
        for slot, voicing in zip(seam, pair, strict=True):
            tried = choose(tried, slot, voicing).song
        costs.append(voice_song(_held(tried, ()), LIBRARY, planner).answer.cost)
    assert after <= min(costs)
    for slot in range(4):
        assert smooth.song.locked(slot) == before.song.locked(slot)
        if slot not in seam:
            assert smooth.song.voicing(slot) == before.song.voicing(slot)


def _held(song: Song, free: tuple[int, ...]) -> Song:
    """Every chord locked but some."""
    for slot in song.slots:
        if slot.index not in free and not song.locked(slot.index):
            song = set_lock(song, slot.index, True).song
    return song


def _ranked(song: Song, slot: int) -> list:  # type: ignore[type-arg]
    from yellow_hinge.tasks.song.problem import progression

    planner = Planner(LIBRARY)
    planner.solve(progression(song, LIBRARY))
    return planner.alternatives(12)[slot]


def test_a_shuffle_is_the_same_for_the_same_number_and_keeps_rounds(two: Song) -> None:
    lanes = TakeDesk(LIBRARY).lanes(two)
    routes = [shuffled(two, lanes, seed).song.route for seed in range(1, 9)]
    assert routes == [shuffled(two, lanes, seed).song.route for seed in range(1, 9)]
    for route in routes:
        assert route["A", 1] != route["A", 2]  # what comes again sounds otherwise
    kept = [shuffled(two, lanes, seed, frozenset({1})).song.route for seed in range(1, 9)]
    assert {route["A", 2] for route in kept} == {1} and {route["A", 1] for route in kept} == {0}
    assert shuffled(two, (), 1).song.route == two.route


def test_two_takes_chord_by_chord(two: Song) -> None:
    one, other = TakeDesk(LIBRARY).lanes(two)
    rows = pairs(one, other)
    assert [row.symbols[0] for row in rows] == ["C", "Am7", "F", "G7", "Dm7", "G7", "C"]
    for row in rows:
        assert row.grips[0] == one.voicings[row.slot] and row.grips[1] == other.voicings[row.slot]
        grips = [grip and (grip.left.keys, grip.right.keys) for grip in row.grips]
        assert row.differ == (grips[0] != grips[1])
    same = pairs(one, one)
    assert not any(row.differ or row.new for row in same)
    words = pair_words(one, other)
    assert words.startswith("Band against First take: ") and "of 7 chords differ" in words
    assert "as many half steps" in pair_words(one, one)


def test_chords_are_taken_over_from_another_take(two: Song) -> None:
    ids = frozenset({two.slots[1].at.written})
    after = take_over(two, 1, ids)
    mine = after.song.take_of(0).arrangement
    assert mine.voicing(two.slots[1].at) == two.take_of(1).arrangement.voicing(two.slots[1].at)
    assert mine.voicing(two.slots[2].at) == two.take_of(0).arrangement.voicing(two.slots[2].at)
    assert mine.asks[two.slots[1].at].taste.school == "band" and after.label == "From Band"
    assert [take.id for take in after.song.takes] == [0, 1]


OPS = ("copy", "drop", "rename", "route", "work", "move", "new", "undo", "redo", "save")


def edited(op: str, song: Song, take: int, step: int) -> Edit:
    if op == "copy":
        return copy_take(song, "Copy")
    if op == "drop":
        return drop_take(song, take)
    if op == "rename":
        return rename_take(song, take, "Name")
    if op == "route":
        return vary_round(song, "A", 2, take)
    if op == "work":
        return go_to_take(song, take)
    return move_take(song, take, step) if op == "move" else new_take(song, "New", school="band")


@settings(max_examples=60)
@given(st.lists(st.tuples(st.sampled_from(OPS), st.integers(0, 5), st.integers(-2, 2)), max_size=14))
def test_in_any_order_no_take_is_lost(ops: list[tuple[str, int, int]]) -> None:
    """Undo brings back what was deleted; files keep all; the current take and the route are always there."""
    history = History(lead_back(song_of(CHART), False).song)
    seen: list[Song] = [history.song]
    for op, number, step in ops:
        song = history.song
        take = song.takes[number % len(song.takes)].id
        if op == "undo":
            history.undo()
        elif op == "redo":
            history.redo()
        elif op == "save":
            assert project_file.read(project_file.write(song)).song == song
        else:
            edit = edited(op, song, take, step)
            if edit.song != song:
                history.push(edit)
                seen.append(history.song)
        now = history.song
        ids = [one.id for one in now.takes]
        assert len(set(ids)) == len(ids) >= 1 and now.current in ids and set(now.route.values()) <= set(ids)
        assert len({one.name for one in now.takes}) == len(now.takes)
        if op == "move":
            assert sorted(ids) == sorted(one.id for one in song.takes)
    while history.undo():
        assert history.song in seen
    assert history.song == seen[0]


def test_a_take_of_another_school_keeps_what_is_locked() -> None:
    song = demo_song("copper-kite")
    locked = set_lock(song, 2, True).song
    made = new_take(locked, "Alone", school="solo", bass="self").song
    assert made.take.name == "Alone" and made.arrangement.school == "solo"
    assert set(made.arrangement.choices) == {locked.slots[2].at}


def test_each_grip_of_a_pair_is_measured_by_itself(two: Song) -> None:
    """The first take has a low close third on C, the other an open one, a ninth wide."""
    one, other = TakeDesk(LIBRARY).lanes(two)
    low = Voicing(HandShape((40, 43), ("3", "5"), ""), HandShape((60, 64), ("R", "3"), ""))
    wide = Voicing(HandShape((48, 62), ("R", "9"), ""), HandShape((67, 76), ("5", "3"), ""))
    one = replace(one, voicings=(low, *one.voicings[1:]), motion=(5, *one.motion[1:]))
    other = replace(other, voicings=(wide, *other.voicings[1:]), motion=(9, *other.motion[1:]))
    row, back = pairs(one, other)[0], pairs(other, one)[0]
    assert row.grips == (low, wide) and back.grips == (wide, low)
    assert row.mud == (mud((40, 43, 60, 64)), mud((48, 62, 67, 76))) == back.mud[::-1]
    assert row.mud[0] > row.mud[1]
    assert row.stretch_mm == pytest.approx((span_mm(60, 64), span_mm(48, 62))) == back.stretch_mm[::-1]
    assert row.motion == (5, 9) == back.motion[::-1]
