"""Swing, rolls, crushed notes, shaken chords, the pedal and the drums."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.rhythm.band import CRASH, DRUMS, KICK, DrumBar, drums
from yellow_hinge.rhythm.events import NoteEvent, Way
from yellow_hinge.rhythm.perform import BarAt, Feel, Pedalled, pedalling, performed
from yellow_hinge.rhythm.realise import untangled
from yellow_hinge.rhythm.time import Meter

COMMON = [BarAt(Fraction(4 * k), Meter(4, 4)) for k in range(4)]


def quarter(_: Fraction) -> float:
    return 500.0  # 120 a minute


PLAIN = Feel()
WAYS: tuple[Way, ...] = ("", "rolled", "grace", "tremolo")


def note(start: str | float | Fraction, key: int = 60, quarters: str | float | Fraction = 1, way: Way = "",
         ornament: bool = False) -> NoteEvent:  # fmt: skip
    return NoteEvent(Fraction(start), key, Fraction(quarters), 64, "left", 0, way, ornament)


def play(events: list[NoteEvent], feel: Feel = PLAIN, bars: list[BarAt] = COMMON) -> list[NoteEvent]:
    return performed(events, bars, feel, quarter, lambda _: Fraction(0))


def test_plain_notes_stay_as_they_are() -> None:
    events = [note(0), note("3/2", 62, "1/2"), note("7/4", 65, "1/4")]
    assert play(events) == events


def test_swing_moves_what_lies_between_counts() -> None:
    eighths = [note(Fraction(k, 2), 60 + k, "1/2") for k in range(4)]
    swung = play(eighths, Feel(100, by_tempo=False))
    assert [one.start_quarters for one in swung] == [0, Fraction(2, 3), 1, Fraction(5, 3)]
    assert [one.end_quarters for one in swung] == [Fraction(2, 3), 1, Fraction(5, 3), 2]
    half = play(eighths, Feel(50, by_tempo=False))
    assert half[1].start_quarters == Fraction(7, 12)


def test_swing_grows_less_with_the_tempo_and_is_none_in_six() -> None:
    def first(ms: float) -> Fraction:
        return Feel(100).first_share(ms)

    assert first(500) == Fraction(2, 3) and first(200) == Fraction(1, 2) and first(1000) == Fraction(2, 3)
    assert Fraction(1, 2) < first(300) < Fraction(2, 3)
    six = [BarAt(Fraction(0), Meter(6, 8))]
    eighths = [note(Fraction(k, 2), 60 + k, "1/2") for k in range(6)]
    assert play(eighths, Feel(100), six) == eighths


def test_a_roll_goes_upwards_in_milliseconds() -> None:
    events = [note(0, key, way="rolled") for key in (48, 55, 64)]
    rolled = play(events, Feel(roll_ms=50))
    assert [one.key for one in rolled] == [48, 55, 64]
    assert [float(one.start_quarters) for one in rolled] == pytest.approx([0, 0.1, 0.2], abs=0.001)
    assert {one.end_quarters for one in rolled} == {1} and {one.way for one in rolled} == {""}


def test_a_roll_of_a_very_short_chord_stays_inside_it() -> None:
    rolled = play([note(0, key, "1/16", way="rolled") for key in (48, 55, 64, 67)], Feel(roll_ms=100))
    assert all(one.quarters > 0 and one.end_quarters == Fraction(1, 16) for one in rolled)


def test_a_crushed_note_comes_before_its_stroke_but_never_before_its_chord() -> None:
    early = play([note(2, 64), note(2, 63, "1/8", way="grace", ornament=True)])
    assert [one.key for one in early] == [63, 64] and early[1] == note(2, 64)
    assert 0.05 < float(2 - early[0].start_quarters) < 0.2 and early[0].end_quarters == 2
    first = play([note(0, 64), note(0, 63, "1/8", way="grace")])
    assert first[0].start_quarters == 0 and first[1].start_quarters == first[0].end_quarters > 0


def test_a_shaken_chord_changes_hands_of_notes_in_time() -> None:
    shaken = play([note(0, key, 2, way="tremolo") for key in (48, 52, 55)])
    assert {one.key for one in shaken} == {48, 52, 55}
    assert max(one.end_quarters for one in shaken) == 2
    for key in (48, 52):
        own = [one for one in shaken if one.key == key]
        assert 5 <= len(own) <= 12
        assert all(a.end_quarters <= b.start_quarters for a, b in pairwise(own))


@given(st.lists(st.tuples(st.integers(0, 31), st.integers(1, 8), st.integers(50, 54),
                          st.sampled_from(WAYS)), max_size=12),
       st.integers(0, 100))  # fmt: skip
def test_no_key_sounds_twice_at_once(rows: list[tuple[int, int, int, Way]], swing: int) -> None:
    events = [note(Fraction(at, 4), key, Fraction(length, 4), way=way) for at, length, key, way in rows]
    sounding = play(untangled(events), Feel(swing))
    for key in range(48, 56):
        own = sorted(one for one in sounding if one.key == key)
        assert all(a.end_quarters <= b.start_quarters for a, b in pairwise(own))
    assert all(one.quarters > 0 for one in sounding)


# --- pedal ---


def chord(start: int, *changes: object, hold: bool = False) -> Pedalled:
    return Pedalled(Fraction(start), Fraction(4), start // 4, tuple(map(Fraction, changes)), hold)  # type: ignore[arg-type]


def moves(row: list[Pedalled]) -> list[tuple[float, bool]]:
    return [(round(float(one.start_quarters), 2), one.down) for one in pedalling(row, quarter)]


def test_the_pedal_goes_up_with_the_stroke_and_down_after_it() -> None:
    assert moves([chord(0, 0), chord(4, 0)]) == [(0.22, True), (4, False), (4.22, True), (8, False)]
    assert moves([chord(0, 0, 2)]) == [(0.22, True), (2, False), (2.22, True), (4, False)]


def test_a_held_pedal_stays_and_a_rest_lets_it_up() -> None:
    assert moves([chord(0, 0), chord(4, 0, hold=True), chord(8)]) == [(0.22, True), (8, False)]
    assert moves([chord(0), chord(4)]) == []
    assert moves([chord(0, 0, hold=True)]) == [(0.22, True), (4, False)]
    assert moves([chord(0, 0), chord(8, 0)]) == [(0.22, True), (4, False), (8.22, True), (12, False)]


@given(st.lists(st.tuples(st.lists(st.integers(0, 15), max_size=4, unique=True), st.booleans()), max_size=8))
def test_the_pedal_moves_in_pairs(rows: list[tuple[list[int], bool]]) -> None:
    row = [chord(4 * k, *(Fraction(at, 4) for at in sorted(places)), hold=hold)
           for k, (places, hold) in enumerate(rows)]  # fmt: skip
    found = pedalling(row, quarter)
    assert [one.down for one in found] == [True, False] * (len(found) // 2)
    assert all(a.start_quarters <= b.start_quarters for a, b in pairwise(found))


# --- drums ---


@pytest.mark.parametrize("kind", [kind for kind in DRUMS if kind])
@pytest.mark.parametrize("meter", ["2/4", "3/4", "4/4", "5/4", "6/8", "7/8", "12/8", "2/2"])
def test_drums_stay_in_their_bar_and_mark_its_beginning(kind: str, meter: str) -> None:
    one = Meter(*map(int, meter.split("/")))
    events = list(drums([DrumBar(Fraction(8), one, first=True, last=True)], kind, swing=True))
    assert all(8 <= event.start_quarters < 8 + one.quarters and event.part == "drums" for event in events)
    assert {KICK, CRASH} <= {event.key for event in events if event.start_quarters == 8}
    assert len(events) > one.quarters
    middle = list(drums([DrumBar(Fraction(8), one)], kind, swing=True))
    assert CRASH not in {event.key for event in middle} and len(middle) == len(events) - 3
