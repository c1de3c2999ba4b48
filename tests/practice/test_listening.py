"""What was played against what was wanted: a table judged by hand, and the three ways of listening."""

from __future__ import annotations

import random
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import song_of
from yellow_hinge.motion.plan import Planner
from yellow_hinge.practice.listening import (
    Listener,
    Played,
    Tolerance,
    Verdict,
    hands_that_slipped,
    judged,
    latency,
)
from yellow_hinge.practice.strokes import Stroke
from yellow_hinge.practice.words import advice, round_words, sentence
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library

from .made import keys, stroke

TABLE = Path(__file__).parents[1] / "data" / "played.tsv"
ROWS = [line.split("\t") for line in TABLE.read_text().splitlines() if line and not line.startswith("#")]


def test_the_table_has_sixty_cases() -> None:
    assert len(ROWS) >= 60 and all(len(row) == 7 for row in ROWS)


def _played(text: str) -> list[Played]:
    found = []
    for word in text.split():
        if word != "-":
            name, _, ms = word.partition("@")
            found.append(Played(keys(name)[0], 1.0 + int(ms or 0) / 1000))
    return found


def _said(verdict: Verdict) -> set[tuple[str, ...]]:
    return {(n.fault, *(str(key) for key in (n.wanted, n.played) if key is not None)) for n in verdict.faults}


@pytest.mark.parametrize("row", ROWS, ids=[" ".join(row[3:]) for row in ROWS])
def test_each_case_is_judged_as_a_player_would(row: list[str]) -> None:
    symbol, left, right, played, kept, faults, timing = row
    verdict = judged(stroke(symbol, left, right), _played(played), keys(kept), 1.0)
    wanted = set()
    for one in () if faults == "-" else faults.split("; "):
        fault, *names = one.split()
        wanted.add((fault, *(str(keys(name)[0]) for name in names)))
    assert _said(verdict) == wanted
    flags = {name for name in ("late", "early", "loose") if getattr(verdict, name)}
    assert flags == (set() if timing == "-" else {timing})
    assert verdict.clean == (faults == "-" and timing == "-")


def test_the_verdict_is_a_sentence() -> None:
    one = stroke("Cm7", "C3 Bb3", "Eb4 G4")

    def said(played: str, kept: str = "-", at: float | None = None) -> str:
        return sentence(judged(one, _played(played), keys(kept), at))

    assert said("E4", "C3 Bb3 G4") == (
        "Right middle finger played E, wanted E♭: a half step too high. The rest stayed: good."
    )
    assert said("C3 Bb3 Eb4 G4") == "Right."
    assert said("C3 Bb3 Eb4 G4", at=1.0) == "Right, and in time."
    assert said("C2 Bb3 Eb4 G4", at=1.0) == (
        "Left little finger played the right C an octave too low. The rest was right and in time."
    )
    assert said(
        "C3 Bb3 Eb4"
    ) == "Right index finger: G was missing. The rest was right." or "G was missing" in said("C3 Bb3 Eb4")
    assert said("C3 Bb3 Eb4 G4 D5") == "D was struck besides. The rest was right."
    assert said("-") == "Nothing was played here."
    assert said("C3@200 Bb3@200 Eb4@200 G4@200", at=1.0) == "200 ms late. The notes were right."
    assert said("C3@-200 Bb3@-200 Eb4@-200 G4@-200", at=1.0) == "200 ms early. The notes were right."
    assert "400 ms apart" in said("C3 Bb3 Eb4 G4@400", at=1.0)
    flat = stroke("Abmaj7", "Ab3 C4", "Eb4 G4")
    assert "finger played G♭, wanted G" in sentence(judged(flat, _played("Ab3 C4 Eb4 Gb4")))
    wild = said("D3 A3 E4 A4 F5 C6")
    assert wild.count("wanted") == 3 and "3 more were wrong." in wild


def test_what_to_try_next_depends_on_what_went_wrong() -> None:
    one = stroke("Cm7", "C3 Bb3", "Eb4 G4", change=0)

    def next_after(played: str, at: float | None = None) -> str:
        return advice([judged(one, _played(played), (), at)], both_hands=True)

    assert next_after("C3 Bb3 Eb4 G4") == ""
    assert next_after("C3 A3 Eb4 G4") == "Try the left hand alone once."
    assert next_after("C3 Bb3 Eb4 A4") == "Try the right hand alone once."
    assert next_after("C3 A3 Eb4 A4") == "Once more, a little slower."
    assert next_after("D3 A3 E4 A4") == "Find the grip without the click first, then once slowly."
    assert "more time" in next_after("C3@200 Bb3@200 Eb4@200 G4@200", 1.0)
    assert "There is time" in next_after("C3@-200 Bb3@-200 Eb4@-200 G4@-200", 1.0)
    assert advice([judged(one, _played("C3 A3 Eb4 G4"))], both_hands=False) == "Once more, a little slower."
    assert hands_that_slipped(judged(one, _played("C3 A3 Eb4 A4"))) == ("left", "right")


GRIP = st.sets(st.integers(30, 90), min_size=1, max_size=9)


@given(GRIP, GRIP)
def test_every_key_is_accounted_for_once(wanted: set[int], struck: set[int]) -> None:
    one = Stroke(stroke("C", "C3", "E4").at, stroke("C", "C3", "E4").quarters, (), tuple(sorted(wanted)),
                 stroke("C", "C3", "E4").held, 0)  # fmt: skip
    verdict = judged(one, [Played(key, 0.0) for key in struck])
    assert sorted(n.wanted for n in verdict.notes if n.wanted is not None) == sorted(wanted)
    assert sorted(n.played for n in verdict.notes if n.played is not None) == sorted(struck)
    assert verdict.clean == (wanted == struck)
    for note in verdict.notes:
        if note.fault == "octave":
            assert note.wanted is not None and note.played is not None
            assert (note.wanted - note.played) % 12 == 0 != note.wanted - note.played
        assert (note.fault == "missing") == (note.played is None)
        assert (note.fault == "extra") == (note.wanted is None)


# --- listening ----------------------------------------------------------------------------------

ROW = (
    stroke("Cm7", "C3 Bb3", "Eb4 G4", 0),
    stroke("F7", "F2 A3", "Eb4 G4", 4, change=0, stand=1),
    stroke("Bbmaj7", "Bb2 A3", "D4 F4", 8, change=1, stand=2),
)


def _feed(listener: Listener, text: str, at: float, up: bool = True) -> list[Verdict]:
    found = []
    for key in keys(text):
        found += listener.feed(key, 80, at)
    if up:
        for key in keys(text):
            found += listener.feed(key, 0, at + 0.1)
    return found


def test_waiting_goes_on_only_with_the_right_notes() -> None:
    listener = Listener(ROW, "wait")
    assert _feed(listener, "C3 Bb3", 0.0, up=False) == []
    assert listener.place == 0 and listener.hint is None
    assert _feed(listener, "E4", 1.0) == []
    hint = listener.hint
    assert hint is not None and ("wrong", "63", "64") in _said(hint)
    verdicts = _feed(listener, "Eb4 G4", 60.0, up=False)
    assert len(verdicts) == 1 and not verdicts[0].clean and listener.place == 1
    assert _said(verdicts[0]) == {("extra", "64")}  # it was put right in the end, and it was a slip
    for key in keys("C3 Bb3"):
        listener.feed(key, 0, 61.0)
    second = _feed(listener, "F2 A3", 62.0, up=False)  # the right hand has never let go
    assert len(second) == 1 and second[0].clean and second[0].kept == keys("Eb4 G4")


def test_waiting_does_not_take_the_old_grip_for_a_new_stroke() -> None:
    again = (ROW[0], ROW[0])
    listener = Listener(again, "wait")
    assert len(_feed(listener, "C3 Bb3 Eb4 G4", 0.0, up=False)) == 1
    assert listener.place == 1
    for key in keys("C3 Bb3 Eb4 G4"):
        assert listener.feed(key, 0, 1.0) == []
    assert len(_feed(listener, "C3 Bb3 Eb4 G4", 2.0)) == 1 and listener.over


def test_waiting_for_a_note_that_is_let_go() -> None:
    thinner = (stroke("Cm7", "C3 Bb3", "Eb4 G4"), stroke("Cm", "C3", "Eb4 G4", 4))
    listener = Listener(thinner, "wait")
    _feed(listener, "C3 Bb3 Eb4 G4", 0.0, up=False)
    assert listener.feed(keys("Bb3")[0], 0, 1.0)[0].clean and listener.over


def test_with_the_click_each_note_belongs_to_its_count() -> None:
    listener = Listener(ROW, "time", 0.25, start=10.0)
    assert _feed(listener, "C3 Bb3 Eb4 G4", 10.02) == []
    assert _feed(listener, "F2 A3 Eb4 G4", 11.05)[0].clean
    found = listener.tick(11.9)
    assert len(found) == 1 and found[0].clean and found[0].off_s == pytest.approx(0.05)
    last = _feed(listener, "Bb2 A3 D4 Gb4", 12.2)
    assert last == [] and not listener.over
    end = listener.rest()
    assert listener.over and _said(end[0]) == {("wrong", "65", "66")} and end[0].late


def test_with_the_click_nothing_played_is_said_of_each_stroke() -> None:
    listener = Listener(ROW, "time", 0.25)
    silent = listener.tick(5.0)
    assert [sentence(one) for one in silent] == ["Nothing was played here."] * 3


def test_the_next_grip_struck_too_early_is_early_and_not_extra() -> None:
    listener = Listener(ROW[:2], "time", 0.25)
    _feed(listener, "C3 Bb3 Eb4 G4", 0.0)
    found = [*_feed(listener, "F2 A3 Eb4 G4", 0.6), *listener.rest()]
    assert found[0].clean and found[1].early and not found[1].faults


def test_a_key_too_many_behind_the_last_grip_is_extra() -> None:
    listener = Listener(ROW[:1], "time", 0.25)
    _feed(listener, "C3 Bb3 Eb4 G4", 0.0)
    found = [*_feed(listener, "C6", 0.1), *listener.rest()]
    assert [(one.fault, one.played) for one in found[0].faults] == [("extra", 84)] and len(found) == 1


def test_playing_freely_may_leave_out_and_repeat() -> None:
    listener = Listener(ROW, "free")
    first = [*_feed(listener, "C3 Bb3 Eb4 G4", 0.0), *listener.tick(0.5)]
    assert len(first) == 1 and first[0].clean
    third = [*_feed(listener, "Bb2 A3 D4 F4", 3.0), *listener.tick(4.0)]
    assert len(third) == 1 and third[0].stroke is ROW[2] and third[0].clean
    assert listener.over and listener.rest() == []


def test_a_rolled_chord_is_one_stroke() -> None:
    for way in ("wait", "time", "free"):
        listener = Listener(ROW[:1], way, 1.0)
        found = []
        for number, key in enumerate(keys("C3 Bb3 Eb4 G4")):
            found += listener.feed(key, 80, 0.02 + 0.07 * number)
        found += listener.rest() if way == "time" else listener.tick(2.0)
        assert len(found) == 1 and not found[0].faults and not found[0].loose, way


def test_three_hundred_notes_a_second_are_heard() -> None:
    rng = random.Random(4)
    for way in ("wait", "time", "free"):
        listener = Listener(ROW * 40, way, 0.02)
        heard = []
        for number in range(3000):
            heard += listener.feed(rng.randrange(21, 109), 60, number / 300)
        assert way == "wait" or listener.over
        assert way != "time" or len(heard) == 120
        assert len(listener._played) <= 100  # rubbish is not hoarded
    waiting = Listener(ROW, "wait")
    for number in range(3000):
        waiting.feed(rng.randrange(21, 35), 60, number / 300)
    assert _feed(waiting, "C3 Bb3 Eb4 G4", 11.0)[0].stroke is ROW[0]


def test_latency_is_the_median_of_enough_even_strokes() -> None:
    clicks = [k * 0.6 for k in range(12)]
    assert latency(clicks, [at + 0.045 for at in clicks]) == pytest.approx(0.045)
    assert latency(clicks, [at + (0.3 if k == 3 else 0.045) for k, at in enumerate(clicks)]) == pytest.approx(
        0.045
    )
    assert latency(clicks, [at + 0.05 for at in clicks[:7]]) is None
    assert latency(clicks, [at + 0.05 for at in clicks[:8]]) == pytest.approx(0.05)
    rng = random.Random(2)
    assert latency(clicks, [at + rng.uniform(-0.25, 0.25) for at in clicks]) is None
    assert latency([], [1.0]) is None


def test_tolerances_are_the_players() -> None:
    one, late = ROW[0], [Played(key, 0.2) for key in keys("C3 Bb3 Eb4 G4")]
    assert judged(one, late, (), 0.0).late and not judged(one, late, (), 0.0, Tolerance(late=0.25)).late


def test_a_round_in_a_line() -> None:
    right = judged(ROW[1], [Played(key, 0.0) for key in ROW[1].keys])
    assert round_words([right]) == "Clean."
    assert round_words([right, judged(ROW[2], [])]) == "1 of 2 changes clean."


@pytest.mark.parametrize(
    ("chord", "key", "name"),
    [("C", 61, "C♯"), ("C", 66, "F♯"), ("Gm", 61, "D♭"), ("Gm", 66, "G♭"), ("D", 61, "C♯"),
     ("C", 79, "G"), ("Gm", 70, "B♭")],
)  # fmt: skip
def test_a_strange_key_is_spelled_as_its_chord_is(chord: str, key: int, name: str) -> None:
    """With flats where the chord has any, else with sharps."""
    song = voice_song(song_of(f"| {chord} |\n"), builtin_library(), Planner(builtin_library())).song
    held = row(song, builtin_library()).held[0]
    stroke = Stroke(Fraction(0), Fraction(4), held.voicing.left.keys, held.voicing.right.keys, held, 0)
    assert stroke.name(key) == name


def test_after_the_last_stroke_keys_are_held_and_let_go_without_a_verdict() -> None:
    listener = Listener(ROW[:1], "wait")
    _feed(listener, "C3 Bb3 Eb4 G4", 0.0, up=False)
    assert listener.over and listener.stroke is None
    assert listener.feed(72, 70, 1.0) == [] and 72 in listener.down
    assert listener.feed(72, 0, 2.0) == [] and listener.down == set(keys("C3 Bb3 Eb4 G4"))
