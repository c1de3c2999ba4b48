"""The chart as it is played: bars, rounds, tune, tempo, and another key."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from made import charts, chord, marked, song_of
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.chart import Chart, MelodyNote, move_between, nearest_st
from yellow_hinge.song.model import Song
from yellow_hinge.song.words import ends_tied, struck_at
from yellow_hinge.theory.keys import ALL_KEYS, Key, parse_key
from yellow_hinge.theory.pitch import read_pitch


@pytest.mark.long
@settings(max_examples=60)
@given(charts())
def test_what_is_played_adds_up(chart: Chart) -> None:
    now = Fraction(0)
    written = [bar for section in chart.sections for bar in section.every_bar]
    for number, played in enumerate(chart.played, 1):
        assert (played.number, played.start_quarters) == (number, now)
        assert played.bar is written[played.place]
        assert played.first == sum(len(bar.chords) for bar in written[: played.place])
        assert sum(at.beats for at in played.bar.chords) == played.bar.meter.beats
        now += played.bar.quarters
    assert chart.length_quarters == now
    assert chart.bars_played == len(chart.played)
    assert [one.index for one in chart.written] == list(range(len(chart.written)))


@settings(max_examples=60)
@given(charts())
def test_slots_stand_where_their_bars_do(chart: Chart) -> None:
    song = Song(chart)
    for slot in song.slots:
        played = chart.played[slot.bar - 1]
        start = played.start_quarters + (slot.beat - 1) * played.bar.meter.quarters_per_beat
        assert (slot.start_quarters, slot.quarters) == (start, slot.beats * slot.meter.quarters_per_beat)
        assert (slot.section, slot.round) == (played.section.name, played.round)
        assert chart.by_id[slot.at.written].chord == slot.chord
    starts = [slot.start_quarters for slot in song.slots]
    assert starts == sorted(starts)
    columns = [{song.slots[index].at for index in column} for column in song.columns]
    assert all(len(ats) == 1 for ats in columns)
    assert len({at for ats in columns for at in ats}) == len(columns)


@settings(max_examples=60)
@given(charts(), st.sampled_from(ALL_KEYS))
def test_another_key_moves_every_pitch_and_nothing_else(chart: Chart, key: Key) -> None:
    move = move_between(chart.key, key)
    moved = chart.moved(move)
    step = key.tonic.pitch_class - chart.key.tonic.pitch_class
    for one, other in zip(chart.written, moved.written, strict=True):
        assert (one.id, one.beats, one.meter) == (other.id, other.beats, other.meter)
        assert (one.chord is None) == (other.chord is None)
        if one.chord is not None and other.chord is not None:
            assert (other.chord.root.pitch_class - one.chord.root.pitch_class - step) % 12 == 0
            assert one.chord.degrees == other.chord.degrees
    for (start, length, pitch), (again, lasts, there) in zip(chart.tune, moved.tune, strict=True):
        assert (start, length) == (again, lasts) and there.key - pitch.key == move.tune_st
    assert -6 <= move.tune_st <= 5
    assert moved.text == ""


def test_a_key_that_nobody_writes_is_spelled_plainly() -> None:
    move = move_between(parse_key("C"), parse_key("F#"))
    assert str(move.key(parse_key("C"))) == "F#"
    assert str(move.key(parse_key("E"))) == "Bb"
    within = move.within(parse_key("E"))
    assert str(within.name(parse_key("B").tonic)) == "F"


def test_the_nearer_way() -> None:
    assert [nearest_st(step) for step in (0, 5, 6, 7, 11, -1, -6, -7)] == [0, 5, -6, -5, -1, -1, -6, 5]


def test_ends_of_the_keyboard_turn_the_tune_back() -> None:
    move = move_between(parse_key("C"), parse_key("F"))
    top, low = read_pitch("G9"), read_pitch("C-1")
    assert top is not None and low is not None
    assert [one.key if one else None for one in (move.pitch(top), move.pitch(None))] == [127 + 5 - 12, None]
    down = replace(move, tune_st=-3)
    turned = down.pitch(low)
    assert turned is not None and turned.key == 9


def test_tied_notes_are_one_note_over_bars_and_endings_and_words_stand_under_the_first() -> None:
    chart = parse_chart(
        "[A] x2\n| C | F |1. G |2. A |\n"
        "melody: r:3 E5~ | E5:1~ E5:3~ | E5:4 | E5:1 r:3\nlyrics: a | _ | _ | _\n"
    )
    tune = [(int(start), int(length)) for start, length, _ in chart.tune]
    assert tune == [(3, 9), (15, 6)]


def test_a_rest_or_another_pitch_ends_a_tie() -> None:
    notes = (MelodyNote(read_pitch("C5"), Fraction(1), tied=True), MelodyNote(None, Fraction(3)))
    assert struck_at(notes, joined=False) == (0,) and not ends_tied(notes)
    assert ends_tied(notes[:1]) and not ends_tied(())
    again = (notes[0], notes[0], MelodyNote(read_pitch("C5"), Fraction(2)))
    assert struck_at(again, joined=False) == (0,) and struck_at(again, joined=True) == ()
    assert struck_at((MelodyNote(None, Fraction(1)), *again), joined=True) == (1,)


def test_tempo_counts_the_first_meter_all_the_way() -> None:
    chart = parse_chart("meter: 6/8\ntempo: 120\n| C |\nmeter: 4/4\n| D |\ntempo: 60\n| E | F |\n")
    assert chart.tempos == ((0, 60), (7, 30))
    pickup = parse_chart("pickup: 2\nmeter: 2/2\ntempo: 50\nmelody: C5:2\n| C |\n")
    assert pickup.tempos == ((-4, 100),)
    assert pickup.pickup_quarters == 4 and pickup.tune[0][:2] == (-4, 4)


def test_section_rounds_go_on_counting_through_the_form() -> None:
    song = song_of("form: A B A\n[A] x2\n| C |\n[B]\n| D |\n")
    assert [(slot.section, slot.round) for slot in song.slots] == [
        ("A", 1), ("A", 2), ("B", 1), ("A", 3), ("A", 4),
    ]  # fmt: skip
    assert song.columns == ((0, 1, 3, 4), (2,)) and song.column_of == (0, 0, 1, 0, 0)
    assert song.section_starts == {0: "A", 1: "A (2)", 2: "B", 3: "A (3)", 4: "A (4)"}


def test_a_section_that_the_form_leaves_out_is_written_and_not_played() -> None:
    song = song_of("form: B\n[A]\n| C |\n[B]\n| D | E |\n")
    assert len(song.chart.written) == 3 and len(song.slots) == 2
    assert sorted(song.firsts) == [1, 2] and song.firsts[1].place == 0
    assert marked(song).solved and not song.solved


def test_numbers_count_from_the_key_that_holds() -> None:
    song = song_of("key: C\nnumbers: roman\n| Dm7 |\nkey: D\n| Dm7 |\n")
    assert [song.number_of(slot.chord, slot.key) for slot in song.slots if slot.chord] == ["ii7", "i7"]
    assert song.number_of(chord("Dm7")) == "ii7"


def test_ids_that_only_count_are_left_out() -> None:
    chart = parse_chart("| C | D |")
    assert replace(chart, ids=(0, 1)) == chart
    other = replace(chart, ids=(4, 1))
    assert [one.id for one in other.written] == [4, 1] and other != chart
    assert other.by_id[4].chord == chart.written[0].chord


@pytest.mark.parametrize(("meter", "quarters"), [((3, 4), 3), ((6, 8), 3), ((2, 2), 4)])
def test_bars_last_as_their_meter_says(meter: tuple[int, int], quarters: int) -> None:
    chart = parse_chart(f"meter: {meter[0]}/{meter[1]}\n| C |")
    assert chart.played[0].bar.quarters == quarters and chart.meter == Meter(*meter)
