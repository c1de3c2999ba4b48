"""A grip that is kept: for one chord, for all alike, as a take."""

from __future__ import annotations

import pytest

from made import WALK, held, song_of
from yellow_hinge.song.grip_edits import alike, change_grip, keep, keep_as_take, keeping, on_root
from yellow_hinge.voicing.shape import HandShape, Voicing

CHART = "key: C\n| Dm7 | G7 | Em7 | Dm7/G | Dmaj7 | Am7 | N.C. |"
GRIP = Voicing(HandShape((38, 48), ("R", "b7")), HandShape((65, 69, 76), ("b3", "5", "9")))


def test_alike_is_the_same_chord_on_any_root_and_nothing_else() -> None:
    song = song_of(CHART)
    assert alike(song, 0) == (0, 2, 5)
    assert alike(song, 2) == (2, 0, 5)
    assert alike(song, 3) == (3,)  # over another bass
    assert alike(song, 6) == ()


def test_all_alike_get_the_grip_on_their_root_where_the_hands_have_it() -> None:
    song = song_of(CHART)
    after = keep(song, 0, GRIP, "kind")
    found = {k: after.song.voicing(k) for k in range(7) if after.song.locked(k)}
    assert found.keys() == {0, 2, 5} and found[0] == GRIP and not after.lost
    assert found[2] is not None and found[2].keys == tuple(key + 2 for key in GRIP.keys)
    assert found[5] is not None and found[5].degrees == GRIP.degrees
    assert found[5].left.keys[0] % 12 == 9 and {key - held for key, held in zip(
        found[5].keys, GRIP.keys, strict=True)} == {-5}  # fmt: skip
    assert after.label == "Grip for every m7"


def test_where_the_keyboard_ends_the_grip_takes_another_octave() -> None:
    song = song_of("| D | F# | Ab |")
    chords = [slot.chord for slot in song.slots]
    assert None not in chords
    low = Voicing(HandShape((2,), ("R",)), HandShape((6,), ("3",)))
    moved = on_root(low, chords[0], chords[1], song.hands)  # type: ignore[arg-type]
    assert moved is not None and min(moved.keys) >= 0 and moved.keys[0] % 12 == 6


def test_what_lies_out_of_reach_elsewhere_is_named() -> None:
    wide = Voicing(HandShape((36, 52), ("R", "3")), HandShape((67,), ("5",)))  # a tenth on white keys
    after = keep(song_of("| C | Eb | B |"), 0, wide, "kind")
    assert [remark for remark in after.remarks if "out of reach for the left hand" in remark]
    assert all(after.song.locked(k) for k in range(3))


def test_a_take_of_its_own_leaves_the_first_as_it_is() -> None:
    song = song_of(CHART)
    after = keep_as_take(song, 0, GRIP, "My grip").song
    assert [take.name for take in after.takes] == ["First take", "My grip"] and after.take.name == "My grip"
    assert after.voicing(0) == GRIP and after.locked(0)
    assert after.takes[0] == song.takes[0]


def test_a_change_is_said_in_its_label() -> None:
    edit = change_grip(song_of(CHART), 0, held(38), "Next inversion")
    assert edit.label == "Next inversion, Dm7" and edit.song.locked(0)


@pytest.mark.parametrize(
    ("where", "places"),
    [("round", {1}), ("chord", {1, 6}), ("same", {1, 6, 12}), ("kind", {1, 2, 6, 7, 12})],
)
def test_a_grip_is_kept_where_it_says_and_nowhere_else(where: str, places: set[int]) -> None:
    """Am7 in two rounds, and once more at the end; Dm7 beside it."""
    song = song_of(WALK.replace("| E7 | Am | C |", "| E7 | C | Am7 |"))
    assert [str(song.slots[k].chord) for k in (1, 6, 12)] == ["Am7"] * 3
    grip = Voicing(HandShape((45, 55), ("R", "b7")), HandShape((60, 64), ("b3", "5")))
    said = keeping(song, 1, grip, where)  # type: ignore[arg-type]
    after = keep(song, 1, grip, where).song  # type: ignore[arg-type]
    assert {slot.index for slot in after.slots if after.locked(slot.index)} == places
    assert after.voicing(1) == grip and len(after.takes) == (2 if where == "round" else 1)
    assert set(said.slots) == places


def test_grips_of_ones_own_give_way_and_are_counted() -> None:
    song = song_of("| Dm7 | Dm7 | Em7 | Dm7 | G |")
    song = change_grip(change_grip(song, 1, held(38), "own").song, 2, held(40), "own").song
    song = change_grip(song, 3, GRIP, "the same").song
    same, kind = keeping(song, 0, GRIP, "same"), keeping(song, 0, GRIP, "kind")
    assert (same.slots, same.replaced) == ((0, 1, 3), 1) and (kind.slots, kind.replaced) == ((0, 1, 2, 3), 2)
    assert keeping(song, 0, GRIP, "chord").replaced == 0
    after = keep(song, 0, GRIP, "same").song
    assert [after.voicing(k) == GRIP for k in range(4)] == [True, True, False, True]
    assert after.voicing(2) == held(40) and not after.locked(4)


def test_another_octave_or_bass_is_not_the_same_chord() -> None:
    song = song_of("| Dm7 | Dm7/G | D7 | Dm7 |")
    after = keep(song, 0, GRIP, "same").song
    assert [after.locked(k) for k in range(4)] == [True, False, False, True]
    assert after.voicing(3) == GRIP
