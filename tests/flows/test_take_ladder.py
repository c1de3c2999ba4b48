"""From plain to rich: what each step is made of, keeps, brings and costs."""

from __future__ import annotations

from itertools import pairwise

import pytest
from msgspec.structs import replace

from made import song_of
from yellow_hinge.errors import BadInput, Cancelled, NoSolution
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import change_swaps, choose, settle, with_arrangement
from yellow_hinge.song.groove_edits import set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.takes.ladder import SHELLS, LadderStep, keep_step, ladder
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import Voicing

pytestmark = pytest.mark.long  # many starts, or many searches

LIBRARY = builtin_library()
TEXT = "key: C\n[A] x2\n| Cmaj7 | A7 | Dm7 | G7 |\n[B]\n| Fmaj7 | Fm6 | Cmaj7/E | A7 | Dm7 G7 | C6 |\n"


def grips(step: LadderStep) -> list[tuple[tuple[int, ...], tuple[int, ...]]]:
    return [(one.left.keys, one.right.keys) for one in step.rows if one is not None]


def named(steps: list[LadderStep], name: str) -> LadderStep:
    return next(one for one in steps if one.name == name)


def test_the_levels_are_what_they_are_called() -> None:
    steps = ladder(song_of(TEXT), LIBRARY)
    assert [one.name for one in steps[:4]] == [
        "Single bass and triads", "Shells", "Sevenths", "Spread with ninths",
    ]  # fmt: skip
    assert steps[-1].name == "Rhythm"
    plain, shells, sevenths, spread = steps[:4]
    assert {str(slot.chord) for slot in plain.voiced.song.slots} == {"C", "A", "Dm", "G", "F", "Fm", "C/E"}
    assert all(len(left) == 1 and len(right) == 3 for left, right in grips(plain))
    assert all(len(left) <= 2 and len(right) <= 2 for left, right in grips(shells))
    for step in (shells, sevenths, spread):
        assert [slot.chord for slot in step.voiced.song.slots] == [slot.chord for slot in song_of(TEXT).slots]
    for slot, grip in zip(sevenths.voiced.song.slots, sevenths.rows, strict=True):
        assert grip is not None and slot.chord is not None
        assert len(grip.right.keys) >= 3 and set(slot.chord.degrees) - {"R", "5"} <= {*grip.degrees}
    assert all(left[-1] - left[0] >= 7 for left, _ in grips(spread))
    assert grips(steps[-1]) == grips(steps[-2])
    assert steps[-1].new == steps[-1].changed == 0


def test_with_a_bassist_the_last_level_has_no_root() -> None:
    song = settle(song_of("key: C\n[A]\n| Dm7 | G7 | Cmaj7 | A7 |\n"), bass="bassist").song
    step = named(ladder(song, LIBRARY), "Rootless with ninths")
    for slot, grip in zip(step.voiced.song.slots, step.rows, strict=True):
        assert slot.chord is not None and grip is not None
        assert slot.chord.root.pitch_class not in {key % 12 for key in grip.left.keys}
    rich = [one for one in step.rows if one is not None and {"9", "b9", "#9", "13", "b13"} & {*one.degrees}]
    assert len(rich) >= 2


def test_a_level_is_the_best_of_all_that_keep_what_is_shared() -> None:
    """Every way to hold or to exchange the chords of a small song, solved one by one."""
    song = song_of("key: C\n[A]\n| C | F | G | C |\n")
    steps = ladder(song, LIBRARY)
    for before, after in pairwise(steps[:4]):
        kept = [a == b for a, b in zip(grips(before), grips(after), strict=True)]
        if any(kept):
            assert after.changed == kept.count(False)
    shells = named(steps, "Shells")
    derived = replace(LIBRARY, schools={**LIBRARY.schools, "ladder-shells": SHELLS.of(LIBRARY)})
    base = with_arrangement(
        song, song.current, replace(song.arrangement, school="ladder-shells", colour=0, bass="self")
    )
    alone = voice_song(base, derived, Planner(derived))
    assert shells.effort >= alone.answer.cost  # what it keeps can only cost
    shared = [k for k, (a, b) in enumerate(zip(grips(steps[0]), grips(shells), strict=True)) if a == b]
    held = base
    for slot in shared:
        grip = shells.rows[slot]
        assert grip is not None
        held = choose(held, slot, grip).song
    assert voice_song(held, derived, Planner(derived)).answer.cost == shells.effort


@pytest.mark.long
@pytest.mark.parametrize("most", [1, 2, 5])
def test_a_step_brings_no_more_new_grips_than_wanted(most: int) -> None:
    song = song_of(TEXT)
    whole, steps = ladder(song, LIBRARY), ladder(song, LIBRARY, most)
    known = set(grips(steps[0]))
    for step in steps[1:]:
        new = {*grips(step)} - known
        assert step.new == len(new)
        assert len(new) <= most
        known |= new
    names = {one.name.partition(",")[0] for one in steps}
    assert {one for one in names if "swap" not in one} == {
        one.name for one in whole if "swap" not in one.name
    }
    for one in whole[:4]:
        last = [step for step in steps if step.name.partition(",")[0] == one.name][-1]
        assert (grips(last), last.effort) == (grips(one), one.effort)
    for step in steps:
        seen: dict[object, object] = {}
        for slot, grip in zip(step.voiced.song.slots, step.rows, strict=True):
            assert seen.setdefault(slot.at, grip) == grip  # all rounds of a chord alike


def test_changed_chords_are_counted_and_every_part_keeps_the_rest() -> None:
    steps = ladder(song_of(TEXT), LIBRARY, 3)
    for before, after in pairwise(steps):
        if "swap" in after.name or len(before.rows) != len(after.rows):
            continue
        columns = after.voiced.song.columns
        other = [col for col in columns if grips(before)[col[0]] != grips(after)[col[0]]]
        assert after.changed == len(other)


def test_swaps_only_touch_what_they_swap() -> None:
    steps = ladder(song_of(TEXT), LIBRARY)
    step = next((one for one in steps if "swap" in one.name), None)
    assert step is not None
    before = steps[steps.index(step) - 1]
    assert step.effort < before.effort
    swapped = {*step.voiced.song.arrangement.swaps}
    old = {(s.at.written, s.round): g for s, g in zip(before.voiced.song.slots, before.rows, strict=True)}
    new = {(s.at.written, s.round): g for s, g in zip(step.voiced.song.slots, step.rows, strict=True)}
    for place, grip in old.items():
        if place[0] not in swapped:
            assert _keys(new[place]) == _keys(grip)


def _keys(grip: Voicing | None) -> object:
    return None if grip is None else (grip.left.keys, grip.right.keys)


def test_a_locked_chord_and_a_rhythm_of_ones_own_stay() -> None:
    song = song_of(TEXT)
    voiced = voice_song(song, LIBRARY, Planner(LIBRARY)).song
    grip = voiced.voicing(1)
    assert grip is not None
    song = set_texture(choose(voiced, 1, grip).song, None, "Pulses", {"left": "pulses"}).song
    steps = ladder(song, LIBRARY)
    assert all(_keys(step.rows[1]) == _keys(grip) for step in steps)
    assert all(step.voiced.song.slots[1].chord == song.slots[1].chord for step in steps)
    assert "Rhythm" not in [step.name for step in steps]
    assert all(step.voiced.song.arrangement.groove == song.arrangement.groove for step in steps)


@pytest.mark.long
def test_a_step_is_kept_as_a_take_that_stays_as_it_was_heard() -> None:
    song = change_swaps(song_of(TEXT), {}).song
    for step in ladder(song, LIBRARY, 4):
        kept = keep_step(song, step).song
        assert len(kept.takes) == 2 and kept.take.name == step.name
        assert kept.takes[0] == song.takes[0]
        assert kept.arrangement.school in LIBRARY.schools
        again = voice_song(kept, LIBRARY, Planner(LIBRARY)).song
        assert [_keys(again.voicing(k)) for k in range(len(again.slots))] == [_keys(one) for one in step.rows]


def test_what_cannot_be_is_said() -> None:
    song = song_of(TEXT)
    with pytest.raises(BadInput, match="at least one"):
        ladder(song, LIBRARY, 0)
    with pytest.raises(BadInput, match="no chords"):
        ladder(Song(), LIBRARY)
    with pytest.raises(Cancelled):
        ladder(song, LIBRARY, progress=lambda share: share < 0.5)
    left = replace(song.hands.left, lowest_key=28, highest_key=28)
    right = replace(song.hands.right, lowest_key=88, highest_key=88)
    with pytest.raises(NoSolution):
        ladder(replace(song, hands=replace(song.hands, left=left, right=right)), LIBRARY)


@pytest.mark.parametrize("quality", ["7", "m7", "7b5", "m7b5", "maj9", "13", "6", "m69"])
def test_a_triad_is_what_is_left_of_a_chord(quality: str) -> None:
    full = parse_chord(f"E{quality}")
    assert full is not None
    assert full.triad.degrees == tuple(one for one in full.degrees if one in ("R", "3", "b3", "5", "b5"))
    assert parse_chord(str(full.triad)) == full.triad


def test_a_triad_keeps_its_suspension_and_its_bass() -> None:
    full = parse_chord("G13sus/D")
    assert full is not None and str(full.triad) == "Gsus/D"
