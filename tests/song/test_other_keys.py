"""Takes that sound in another key than the song, and takes that stay in step."""

from __future__ import annotations

from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from made import held, song_of
from yellow_hinge.formats import midi, project_file
from yellow_hinge.song.arrangement import Choice
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import ChordAt, nearest_st
from yellow_hinge.song.edits import (
    Edit,
    change_key,
    change_swaps,
    choose,
    copy_take,
    drop_take,
    go_to_take,
    rename_take,
    set_local_key,
    settle,
    take_in_key,
    take_over,
    vary_round,
)
from yellow_hinge.song.model import Song
from yellow_hinge.song.pairs import in_step, new_twin, part
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import ALL_KEYS, parse_key

TUNED = """title: Tide Table
key: C
[A] x2
| C | F | G7 | C |
melody: | C5:4 | A4:2 G4:2 | B4:4 | C5:4~ |
[B]
| Am | Dm7 |
melody: | C5:4 | F4:4 |
"""


def up(song: Song, key: str) -> Song:
    return take_in_key(song, change_key(song, parse_key(key)).song).song


def test_a_take_in_another_key_moves_chords_and_tune_where_it_sounds() -> None:
    song = song_of(TUNED)
    both = up(song, "Db")
    assert both.key == song.key and both.chart == song.chart
    assert both.take.name == "First take in D♭ major" and str(both.key_here) == "Db"
    assert [str(slot.chord) for slot in both.slots[:3]] == ["Db", "Gb", "Ab7"]
    assert {str(slot.key) for slot in both.slots} == {"Db"}
    assert [pitch.key for _, _, pitch in both.tune] == [pitch.key + 1 for _, _, pitch in song.tune]
    last = vary_round(go_to_take(both, 0).song, "A", 2, 1).song
    assert [str(slot.chord) for slot in last.slots] == [
        "C", "F", "G7", "C", "Db", "Gb", "Ab7", "Db", "Am", "Dm7",
    ]  # fmt: skip
    moved = [b[2].key - a[2].key for a, b in zip(song.tune, last.tune, strict=True)]
    starts = [start for start, _, _ in song.tune]
    assert [step == 1 for step in moved] == [16 <= start < 32 for start in starts]
    assert last.number_of(last.slots[4].chord, last.slots[4].key) == "1"  # type: ignore[arg-type]
    assert drop_take(last, 1).song.slots == song.slots


def test_its_swaps_are_in_the_key_it_sounds_in() -> None:
    song = up(song_of(TUNED), "D")
    fourth = song.chart.written[1].id
    swap = (ChordAt(parse_chord("Em7"), Fraction(2)), ChordAt(parse_chord("A7"), Fraction(2)))
    swapped = change_swaps(song, {fourth: swap}).song
    assert [str(slot.chord) for slot in swapped.slots[:4]] == ["D", "Em7", "A7", "A7"]
    assert str(swapped.slots[1].was) == "G"
    back = change_swaps(choose(swapped, 1, held(40)).song, {fourth: ()}).song
    assert back.slots == song.slots
    again = change_key(swapped, parse_key("Eb")).song  # two half steps above: F
    assert [str(slot.chord) for slot in again.slots[:4]] == ["F", "Gm7", "C7", "C7"]
    assert change_key(again, parse_key("C")).song.slots == swapped.slots


def test_taking_over_from_it_comes_into_the_key_of_the_one_that_is_worked_on() -> None:
    song = song_of(TUNED)
    other = choose(up(song, "Db"), 1, held(41)).song
    fourth = song.chart.written[1].id
    taken = take_over(go_to_take(other, 0).song, 1, frozenset({fourth})).song
    grip = taken.arrangement.voicing(At(fourth))
    assert grip is not None and taken.arrangement.shift_st == 0
    assert grip.left.keys == (40,) and grip.right.keys == tuple(key - 1 for key in held(41).right.keys)


def test_midi_says_the_key_where_it_changes() -> None:
    song = vary_round(go_to_take(up(song_of(TUNED), "Db"), 0).song, "A", 2, 1).song
    keys = [(float(at) / midi.TICKS_PER_QUARTER, str(key)) for at, key in midi._keys(song)]
    assert keys == [(0, "C"), (16, "Db"), (32, "C")]


@given(st.sampled_from([key for key in ALL_KEYS if not key.minor]))
@settings(max_examples=20, deadline=None)
def test_files_keep_it_and_it_is_the_same_music(key: object) -> None:
    song = song_of(TUNED)
    moved = change_key(song, key).song  # type: ignore[arg-type]
    both = take_in_key(song, moved).song
    assert project_file.read(project_file.write(both)).song == both
    here, there = ([slot.chord for slot in one.slots if slot.chord is not None] for one in (both, moved))
    assert [(one.root.pitch_class, one.quality) for one in here] == [
        (one.root.pitch_class, one.quality) for one in there
    ]
    step = nearest_st(both.key_here.tonic.pitch_class - song.key.tonic.pitch_class)
    assert [b.key - a.key for (_, _, a), (_, _, b) in zip(song.tune, both.tune, strict=True)] == [
        step for _ in song.tune
    ]


# --- in step -----------------------------------------------------------------------------


def pair() -> Song:
    return new_twin(song_of(TUNED), "With a bassist", "bassist").song


def applied(song: Song, edit: Edit) -> Song:
    """As every page applies an edit."""
    return in_step(song, edit.song)


def test_what_is_decided_in_one_holds_in_its_twin_but_bass_and_grips() -> None:
    song = pair()
    assert song.current == 1 and [take.twin for take in song.takes] == [1, 0]
    fourth = song.chart.written[1].id
    swap = {fourth: (ChordAt(parse_chord("Dm7"), Fraction(4)),)}
    after = applied(song, change_swaps(song, swap))
    after = applied(after, set_local_key(after, fourth, parse_key("F")))
    after = applied(after, settle(after, loop=True, colour=2))
    one, other = (take.arrangement for take in after.takes)
    assert one.swaps == other.swaps == swap and one.keys_set == other.keys_set != {}
    assert one.loop and other.loop and one.colour == other.colour == 2
    assert (one.bass, other.bass) == (None, "bassist")
    gripped = applied(after, choose(after, 0, held(40)))
    assert gripped.takes[0] == after.takes[0] and gripped.takes[1] != after.takes[1]


def test_a_locked_grip_of_the_twin_goes_with_its_chord() -> None:
    song = pair()
    first, fourth = song.chart.written[0].id, song.chart.written[1].id
    song = go_to_take(choose(choose(go_to_take(song, 0).song, 0, held(48)).song, 1, held(41)).song, 1).song
    after = applied(song, change_swaps(song, {fourth: (ChordAt(parse_chord("Dm7"), Fraction(4)),)}))
    here = go_to_take(after, 0).song
    assert here.arrangement.choices[At(first)] == Choice(held(48), True, True)
    assert here.voicing(1) is None  # another chord is there now
    back = go_to_take(applied(after, change_swaps(after, {fourth: ()})), 0).song
    assert back.voicing(1) == held(41)


def test_each_goes_its_own_way_when_told_so_and_when_one_is_gone() -> None:
    song = pair()
    apart = part(song, 0).song
    assert [take.twin for take in apart.takes] == [None, None]
    after = applied(apart, settle(apart, loop=True))
    assert not after.takes[0].arrangement.loop and after.takes[1].arrangement.loop
    alone = applied(song, drop_take(song, 1))
    assert [take.twin for take in alone.takes] == [None]


def test_a_third_one_takes_the_place_of_the_second() -> None:
    song = new_twin(pair(), "Alone again", "self").song
    assert [(take.id, take.twin) for take in song.takes] == [(0, None), (1, 2), (2, 1)]
    copied = applied(song, copy_take(song))
    assert copied.take.twin is None and copied.take_of(2).twin == 1


def changed(song: Song, name: str, written: int) -> Edit:
    """One of the edits by its name."""
    match name:
        case "swap":
            return change_swaps(song, {written: (ChordAt(parse_chord("Bb7"), Fraction(4)),)})
        case "back":
            return change_swaps(song, {written: ()})
        case "loop":
            return settle(song, loop=not song.arrangement.loop)
        case "grip":
            return choose(song, 0, held(40))
        case "go":
            return go_to_take(song, 1 - song.current)
        case "key":
            return change_key(song, parse_key("Eb"))
        case "rename":
            return rename_take(song, song.current, "Other")
        case _:
            return vary_round(song, "A", 2, 0)


@given(
    st.lists(st.sampled_from(["swap", "back", "loop", "grip", "go", "key", "rename", "route"]), max_size=8)
)
@settings(max_examples=60, deadline=None)
def test_a_pair_is_in_step_after_any_edits(names: list[str]) -> None:
    song = pair()
    for count, name in enumerate(names):
        song = applied(song, changed(song, name, song.chart.written[count % 3].id))
        one, other = (replace(take.arrangement, bass=None, choices={}) for take in song.takes)
        assert one == other
        assert [take.twin for take in song.takes] == [1, 0]
    assert project_file.read(project_file.write(song)).song.takes == song.takes
