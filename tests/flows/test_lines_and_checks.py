"""Proposed lines, riffs and their readings, fingers of a line, and what is said of a rhythm."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from made import song_of
from yellow_hinge.errors import BadInput
from yellow_hinge.hands.fingering import line_fingers
from yellow_hinge.reharm.lead_lines import DENSITIES, KINDS
from yellow_hinge.rhythm.patterns import Pattern, Stroke, builtin_patterns
from yellow_hinge.song.edits import with_voicings
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.song.groove_edits import change_groove, set_riff, set_riffs, set_texture, use_pattern
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import walk
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.rhythm.checks import check_rhythm
from yellow_hinge.tasks.rhythm.line_desk import other_keys, propose_line, read_riff
from yellow_hinge.tasks.rhythm.riff_text import read_riff_text, riff_text
from yellow_hinge.tasks.rhythm.small_notes import leave_small_notes, small_notes, take_small_notes
from yellow_hinge.theory.roughness import sounding
from yellow_hinge.theory.tension import FitKind
from yellow_hinge.voicing.register import mud
from yellow_hinge.voicing.shape import HandShape, Voicing


def voiced(*grips: tuple[tuple[int, ...], tuple[int, ...]], chart: str = "", tempo: int = 100) -> Song:
    """A song of bars of C with these grips, one a bar."""
    bars = chart or "".join("| C " if k % 2 == 0 else "| F " for k in range(len(grips)))
    song = song_of(f"key: C\ntempo: {tempo}\n[A]\n{bars}|\n")
    labels = ("R", "5", "3", "7", "9")
    return with_voicings(
        song,
        [Voicing(HandShape(a, labels[: len(a)], ""), HandShape(b, labels[: len(b)], "")) for a, b in grips],
    )


def kinds(song: Song) -> list[tuple[int, str, str]]:
    return [(one.slot, one.hand, one.kind) for one in check_rhythm(song)]


def played(song: Song, **changes: object) -> Song:
    return set_texture(song, None, "x", changes).song


PLAIN = (((48, 55), (64, 67, 72)), ((41, 53), (65, 69, 72)))


# --- what is said ---


def test_nothing_is_said_of_what_can_be_played() -> None:
    assert check_rhythm(voiced(*PLAIN)) == []
    assert check_rhythm(played(voiced(*PLAIN), left="pulses", right="eighths-up", pedal="chord")) == []


@pytest.mark.parametrize(
    ("pattern", "slow", "fast"),
    [("pulses-eighths", 140, 160), ("pulses", 290, 320), ("sixteenths-up", 170, 190)],
)
def test_what_is_too_fast_is_said_with_a_simpler_way(pattern: str, slow: int, fast: int) -> None:
    assert kinds(played(voiced(*PLAIN, tempo=slow), right=pattern)) == []
    found = check_rhythm(played(voiced(*PLAIN, tempo=fast), right=pattern))
    assert {(one.hand, one.kind) for one in found} == {("right", "fast")}
    assert "strokes a second at this tempo" in found[0].words
    simpler = builtin_patterns()[found[0].simpler]
    assert simpler.level <= builtin_patterns()[pattern].level
    assert kinds(played(voiced(*PLAIN, tempo=fast), right=simpler.id)) == []


def test_a_stretch_is_said_rolled_or_pedalled() -> None:
    wide = voiced(((40, 56), (64,)), ((40, 56), (64,)))
    [first, *_] = check_rhythm(wide)
    assert first.kind == "stretch" and "it is rolled" in first.words
    held = check_rhythm(played(wide, left="bass-held-chords", pedal="none"))[0]
    assert "at once" in held.words and "only with the pedal" in held.words
    assert (
        "leave it to the pedal" in check_rhythm(played(wide, left="bass-held-chords", pedal="chord"))[0].words
    )
    assert [one for one in check_rhythm(played(wide, left="bass-chord")) if one.kind == "stretch"] == []


def test_a_hand_cannot_be_in_two_places() -> None:
    far = voiced(((36, 62), (76,)), ((36, 62), (76,)), tempo=200)
    found = check_rhythm(played(far, left="vamp-octaves"))
    assert [one for one in found if one.kind == "places"] == []
    found = check_rhythm(played(far, left="rocking"))
    assert any(one.kind == "places" and "two places" in one.words for one in found)
    slow = check_rhythm(played(voiced(((36, 62), (76,)), ((36, 62), (76,)), tempo=50), left="rocking"))
    assert not any(one.kind == "places" for one in slow)


def test_a_change_that_is_never_struck_is_said() -> None:
    song = played(voiced(*PLAIN), right="two-and-four")
    assert kinds(song) == []
    top = voiced(PLAIN[0], ((41, 53), (66, 69, 72)))
    found = check_rhythm(played(top, right="waltz-leading"))
    assert found == []
    hidden = check_rhythm(set_texture(voiced(*PLAIN), None, "x", {"right": "mine"}).song)
    assert hidden == []

    only_top = use_pattern(
        voiced(*PLAIN), None, "right", Pattern("m", "Top", (Stroke(Fraction(0), "top"),)), own=True
    )
    [one] = check_rhythm(only_top.song)
    assert (one.slot, one.kind) == (1, "hidden") and "F, A changes here and is never struck" in one.words
    assert one.simpler


def test_a_bass_that_is_struck_an_octave_lower_is_heard() -> None:
    song = voiced(((48, 55, 60), (64,)), ((53, 57, 60), (65,)))
    assert kinds(played(song, left="ballad-wide")) == []
    upper = Pattern("m", "Upper", (Stroke(Fraction(0), "upper"),))
    hidden = check_rhythm(use_pattern(song, None, "left", upper, own=True).song)
    assert [(one.slot, one.kind) for one in hidden] == [(1, "hidden")] and "F changes here" in hidden[0].words


def test_hands_that_meet_while_they_break_are_said() -> None:
    near = voiced(((48, 55), (57, 64)), ((48, 55), (57, 64)))
    assert kinds(near) == []
    found = check_rhythm(played(near, left="one-five-one"))
    assert any(one.kind == "meet" and "left C, right" in one.words for one in found)


def test_the_pedal_is_said_where_it_blurs_or_makes_mud() -> None:
    still = voiced(((48, 55), (64, 67, 72)), ((48, 55), (64, 67, 72)))
    assert kinds(played(still, pedal="hold")) == []
    song = played(voiced(((36, 43), (64,)), ((38, 45), (65,))), pedal="chord")
    assert kinds(song) == []
    held = set_texture(song, song.slots[1].at, "x", {"pedal": "hold"}).song
    found = check_rhythm(held)
    assert [(one.slot, one.kind) for one in found] == [(1, "pedal")] and "mud" in found[0].words


def test_a_few_slots_of_a_long_song_are_looked_at_alone() -> None:
    song = played(demo_song("copper-kite"), right="pulses-sixteenths")
    every = check_rhythm(song)
    some = check_rhythm(song, range(4, 9))
    assert some == [one for one in every if 4 <= one.slot < 9] and some


def test_rough_is_the_half_step_anywhere() -> None:
    assert sounding((84, 85))[0] > sounding((84, 91))[0] >= 0 and mud((84, 85)) == 0 and mud((36, 40)) > 0


# --- lines ---


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("density", DENSITIES)
def test_a_line_stays_in_its_range_and_fills_its_chords(kind: str, density: int) -> None:
    song = demo_song("salt-stairs")
    slots = [slot.index for slot in song.slots if (slot.section, slot.round) == ("Verse", 1)]
    rows = propose_line(song, slots, kind, density, seed=4)
    assert rows == propose_line(song, slots, kind, density, seed=4)
    for index in slots:
        slot, row = song.slots[index], rows[song.slots[index].at]
        assert all(60 <= note.key <= 84 for note in row) or kind == "tune"
        ends = [note.at_beats + note.beats for note in row]
        assert all(a <= b.at_beats for a, b in zip(ends, row[1:], strict=False)) and ends[-1] <= slot.beats
        if kind in ("thirds", "scale"):
            assert len(row) == slot.beats * density and ends[-1] == slot.beats
            first = slot.chord.label_of(row[0].key % 12) if slot.chord else ""
            assert first in ("3", "b3", "7", "b7", "11", "6", "bb7")
            assert not any(a.key == b.key for a, b in pairwise(row))
            assert not {note.key for note in row} & other_keys(song, index, "right")


def test_runs_come_to_their_target_by_step_and_seeds_differ() -> None:
    song = demo_song("lantern-ferry")
    slots = list(range(11))
    rows = [propose_line(song, slots, "scale", 2, seed=seed) for seed in range(1, 7)]
    assert len({str(row) for row in rows}) >= 5
    arrivals = [
        abs(rows[0][song.slots[k].at][-1].key - rows[0][song.slots[k + 1].at][0].key) for k in slots[:-1]
    ]
    assert sum(one <= 2 for one in arrivals) >= 8 and max(arrivals) <= 5
    low = propose_line(song, slots, "thirds", 2, bounds=(60, 84), start=62)
    high = propose_line(song, slots, "thirds", 2, bounds=(60, 84), start=82)
    assert low[song.slots[0].at][0].key < high[song.slots[0].at][0].key


def test_the_tune_is_broken_through_the_chord() -> None:
    song = song_of("key: C\n| C | F |\nmelody: E5:2 G5:2 | A5:4\n")
    song = with_voicings(song, [Voicing(HandShape((48,), ("R",), ""), HandShape((60,), ("R",), ""))] * 2)
    rows = propose_line(song, [0, 1], "tune", 2)
    first = rows[song.slots[0].at]
    assert [(note.at_beats, note.key) for note in first if note.at_beats in (0, 2)] == [(0, 76), (2, 79)]
    assert all(note.key % 12 in (0, 4, 7) for note in first)


def test_no_chord_has_no_line() -> None:
    song = song_of("key: C\n| C | N.C. | G7 |\n")
    rows = propose_line(song, [0, 1, 2], "scale", 1)
    assert rows[song.slots[1].at] == () and rows[song.slots[2].at]


def test_riffs_are_read_note_by_note() -> None:
    song = voiced(*PLAIN)
    right = [RiffNote(Fraction(k), Fraction(1), key) for k, key in enumerate((76, 68, 72))]
    notes = [*right, RiffNote(Fraction(3), Fraction(1), 48, "left")]
    song = set_riff(song, song.slots[0].at, notes).song
    third, wrong, root, low = read_riff(song, 0)
    assert (third.name, third.degree, third.kind, third.target, third.strong) == (
        "E5",
        "3",
        FitKind.CHORD_TONE,
        True,
        True,
    )
    assert wrong.kind == FitKind.CLASH and "rubs" in wrong.words and not wrong.strong
    assert (root.degree, root.target, root.meets) == ("R", False, False)
    assert (low.meets, low.finger) == (False, 1)
    double = set_riff(song, song.slots[0].at, [RiffNote(Fraction(0), Fraction(1), 55)]).song
    assert read_riff(double, 0)[0].meets and "plays this key too" in read_riff(double, 0)[0].words
    rest = song_of("key: C\n| N.C. |\n")
    assert read_riff(set_riff(rest, rest.slots[0].at, notes[:1]).song, 0)[0].degree == ""


def test_several_riffs_at_once() -> None:
    song = voiced(*PLAIN)
    rows = {song.slots[0].at: (RiffNote(Fraction(0), Fraction(1), 76),), song.slots[1].at: ()}
    assert set_riffs(song, rows, "x").song.arrangement.groove.riffs == {
        song.slots[0].at: rows[song.slots[0].at]
    }


ROWS = st.tuples(st.integers(21, 108), st.sampled_from(["1/2", "1", "1/3", "2"]), st.booleans())


@given(st.lists(ROWS, max_size=8), st.booleans())
def test_riffs_are_typed_as_they_are_written(rows: list[tuple[int, str, bool]], flats: bool) -> None:
    notes, at = [], Fraction(0)
    for key, beats, rest in rows:
        at += Fraction(1, 2) if rest else 0
        notes.append(RiffNote(at, Fraction(beats), key))
        at += Fraction(beats)
    assert read_riff_text(riff_text(notes, flats)) == tuple(notes)


@pytest.mark.parametrize("text", ["H4", "C4:0", "C4:", "C4:x", "C99", "C4:99", "r:0"])
def test_what_is_no_riff_is_said(text: str) -> None:
    with pytest.raises(BadInput) as caught:
        read_riff_text(f"E5:1 {text}")
    assert caught.value.problems[0].place == "riff, word 2"


# --- fingers ---


@pytest.mark.parametrize(
    ("keys", "left", "fingers"),
    [
        ((60, 62, 64, 65, 67), False, (1, 2, 3, 4, 5)), ((67, 65, 64, 62, 60), False, (5, 4, 3, 2, 1)),
        ((48, 50, 52, 53, 55), True, (5, 4, 3, 2, 1)), ((60,), False, (1,)), ((), False, ()),
        ((60, 60), False, (1, 1)),
    ],
)  # fmt: skip
def test_fingers_of_a_line(keys: tuple[int, ...], left: bool, fingers: tuple[int, ...]) -> None:
    assert line_fingers(keys, left) == fingers


def test_a_scale_passes_the_thumb() -> None:
    scale = (60, 62, 64, 65, 67, 69, 71, 72)
    fingers = line_fingers(scale, False)
    assert any(a > b == 1 for a, b in pairwise(fingers))
    assert not any(a == b for a, b in pairwise(fingers))
    mirrored = line_fingers(tuple(124 - key for key in scale), True)
    assert len(mirrored) == len(scale)


@settings(max_examples=60)
@given(st.lists(st.integers(55, 79), min_size=1, max_size=5))
def test_fingers_of_a_line_are_the_cheapest(keys: list[int]) -> None:
    from itertools import product

    from yellow_hinge.hands.fingering import _alone, _step_cost

    def cost(fingers: tuple[int, ...]) -> int:
        steps = sum(_step_cost(a, b, y - x, False)
                    for (a, b), (x, y) in zip(pairwise(fingers), pairwise(keys), strict=True))  # fmt: skip
        return steps + sum(map(_alone, fingers, keys))

    best = min(map(cost, product(range(1, 6), repeat=len(keys))))
    assert cost(line_fingers(tuple(keys), False)) == best


# --- small notes ---


def test_all_small_notes_of_a_stretch_and_none() -> None:
    song = demo_song("lantern-ferry")
    slots = [slot.index for slot in song.slots if (slot.section, slot.round) == ("Landing", 1)]
    taken = take_small_notes(song, slots)
    fills = [fill for k in slots for fill in taken.song.ask(k).fills]
    assert fills and taken.label == "Small notes on the way"
    more = len([e for e in walk(taken.song) if e.ornament]) - len([e for e in walk(song) if e.ornament])
    assert more > 0
    assert take_small_notes(taken.song, slots).song == taken.song
    assert leave_small_notes(taken.song, slots).song == song
    assert small_notes(song, len(song.slots) - 1) == []
    assert small_notes(song_of("key: C\n| C | F |\n"), 0) == []


def test_a_passing_bass_replaces_strokes_and_a_lead_in_keeps_off_them() -> None:
    song = voiced(((36,), (64, 67, 72)), ((41,), (65, 69, 72)))
    struck = played(song, left="two-and-four", right="two-and-four")
    notes = [one for one in walk(take_small_notes(struck, [0]).song) if one.slot == 0]
    left = [(one.start_quarters, one.ornament) for one in notes if one.part == "left"]
    assert left == [(Fraction(1), True), (Fraction(3), True)]
    lead = [one.start_quarters for one in notes if one.ornament and one.part == "right"]
    assert lead and not {Fraction(1), Fraction(3)} & set(lead)
    assert change_groove(song, "x").song == song


@pytest.mark.parametrize(("left", "held"), [((36, 48), 0), ((36,), 0), ((36, 55), 1)])
def test_a_passing_octave_holds_nothing(left: tuple[int, ...], held: int) -> None:
    song = voiced((left, (64, 67, 72)), ((41,), (65, 69, 72)))
    after = take_small_notes(song, [0]).song
    walked = [one for one in walk(after) if one.part == "left" and one.ornament]
    assert len(walked) == 2 * (2 if left == (36, 48) else 1)
    others = [one for one in walk(after) if one.part == "left" and not one.ornament and one.slot == 0]
    assert sum(one.end_quarters > walked[0].start_quarters for one in others) == held
