"""Tastes, wishes and swaps on a song: who goes before whom, and what stays through edits."""

from __future__ import annotations

import json
from fractions import Fraction

import pytest

from yellow_hinge.errors import BadInput
from yellow_hinge.formats import project_file
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.edits import (
    ask_of_chord,
    change_swaps,
    give_back,
    replace_chart,
    taste_of_section,
    with_rule,
    with_voicings,
)
from yellow_hinge.song.model import Ask, ChordAt, Song, Taste
from yellow_hinge.song.walk import melody_over
from yellow_hinge.tasks.problem import places
from yellow_hinge.tasks.voice_song import in_key
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing

CHART = "key: C\nmeter: 4/4\n[Walk] x2\n| C | Am7:2 Dm7:2 |\n[Bridge]\n| F | G7 |\n"


def chord(text: str) -> ChordSymbol:
    found = parse_chord(text)
    assert found is not None
    return found


def two_five(song: Song, place: int) -> Song:
    half = song.written[place].beats / 2
    swap = (ChordAt(chord("Dm9"), half), ChordAt(chord("Db7"), half))
    return change_swaps(song, {**song.swaps, place: swap})


def symbols(song: Song) -> list[str]:
    return [str(slot.chord) for slot in song.slots]


def test_narrower_wishes_go_before_wider_ones(library: Library) -> None:
    song = taste_of_section(parse_chart(CHART), "Walk", Taste(school="band", colour=3))
    song = ask_of_chord(song, 1, Ask(Taste(colour=0)))
    wishes = [place.wish for place in places(song, library)]
    said = [(wish.school.id, wish.colour) for wish in wishes if wish is not None]
    assert said[:3] == [("band", 3), ("band", 0), ("band", 3)]
    assert said[-1][0] == song.settings.school == "solo"
    assert taste_of_section(song, "Walk", Taste()).tastes == {}
    assert ask_of_chord(song, 1, Ask()).asks == ()


def test_a_pedal_note_lies_under_its_section() -> None:
    song = taste_of_section(parse_chart(CHART), "Bridge", Taste(pedal=NoteName(4)))
    assert symbols(song)[-2:] == ["F/G", "G7"]
    assert symbols(song)[0] == "C"


def test_a_swap_splits_its_chord_says_what_was_and_goes_back() -> None:
    song = parse_chart(CHART)
    swapped = two_five(song, 7)
    assert symbols(swapped) == [*symbols(song)[:-1], "Dm9", "Db7"]
    last = swapped.slots[-1]
    assert (last.bar, last.beat, last.beats, str(last.was)) == (6, 3, 2, "G7")
    assert last.start_beats == Fraction(22) and last.written == 7
    assert sum(slot.beats for slot in swapped.slots) == swapped.length_beats
    assert symbols(change_swaps(swapped, {})) == symbols(song)


def test_voicings_of_untouched_chords_stay_through_a_swap_and_its_end() -> None:
    song = parse_chart(CHART)
    marks = [Voicing(HandShape((40 + i,), ("R",)), HandShape((70,), ("5",))) for i in range(len(song.slots))]
    swapped = two_five(with_voicings(song, marks), 3)
    kept = [swapped.voicing(i) for i in range(len(swapped.slots))]
    assert kept[:3] == marks[:3] and kept[3:5] == [None, None] and kept[5:] == marks[4:]


def test_swaps_follow_their_chord_through_a_new_chart_and_another_key() -> None:
    song = two_five(parse_chart(CHART), 7)
    longer = replace_chart(song, parse_chart(CHART.replace("[Bridge]\n|", "[Bridge]\n| Em7 |")))
    assert symbols(longer)[-2:] == ["Dm9", "Db7"]
    gone = replace_chart(song, parse_chart(CHART.replace("G7", "E7")))
    assert gone.swaps == {}
    moved = in_key(song, parse_key("Eb"))
    assert symbols(moved)[-3:] == ["Ab", "Fm9", "Fb7"]


def test_projects_keep_wishes_and_swaps() -> None:
    song = two_five(parse_chart(CHART), 7)
    song = taste_of_section(song, "Walk", Taste("band", 2, "clear", NoteName(4, -1), True))
    held = Ask(Taste(melody="room"), Hold(left=HandShape((48,), ("R",), "x"), top=72, lowest=36))
    song = ask_of_chord(song, 2, held)
    read = project_file.read(project_file.write(song)).song
    assert (read.tastes, read.asks, read.swaps) == (song.tastes, song.asks, song.swaps)


def test_a_swap_that_does_not_fit_is_left_out_with_a_remark() -> None:
    song = two_five(parse_chart(CHART), 7)
    for wrong in ('"written": 70', '"written": -1'):
        data = project_file.write(song).decode().replace('"written": 7', wrong)
        imported = project_file.read(data.encode())
        assert imported.song.swaps == {} and "swap" in imported.problems[0].what
    data = project_file.write(song).decode().replace('"2"', '"3"', 1)
    assert project_file.read(data.encode()).song.swaps == {}


def test_melody_over_chords_by_time() -> None:
    song = parse_chart("meter: 4/4\n| C:2 Am7:2 | G7 |\nmelody: E5:3 F5:0.5 G5:0.5 | D5:4\n")
    over = melody_over(song)
    assert [[(str(n.pitch), n.beats) for n in notes] for notes in over] == [
        [("E5", 2)],
        [("E5", 1), ("F5", Fraction(1, 2)), ("G5", Fraction(1, 2))],
        [("D5", 4)],
    ]
    assert [n.strong for n in over[1]] == [True, False, False]
    assert over[1][1].stepwise


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"tastes": {"Walk": {"colour": 7}}}, "colour must be 0..3"),
        ({"tastes": {"Walk": {"pedal": "H"}}}, "pedal must be a note"),
        ({"tastes": {"Walk": {"melody": "loud"}}}, "melody"),
        ({"asks": [{"fills": [{"hand": "left", "start_key": 1, "end_key": 2, "key": 300,
                               "offset_beats": "1", "beats": "1"}]}]}, "MIDI keys"),
        ({"asks": [{"fills": [{"hand": "left", "start_key": 1, "end_key": 2, "key": 3,
                               "offset_beats": "1/0", "beats": "1"}]}]}, "length in beats"),
        ({"asks": [{"left": {"keys": [60, 50], "degrees": ["R", "3"], "recipe": ""}}]}, "ascending"),
        ({"keys_set": {"0": "H"}}, "not a key"),
        ({"swaps": [{"written": "x", "chords": []}]}, "int"),
    ],
)  # fmt: skip
def test_damaged_wishes_and_swaps_name_the_field(change: dict[str, object], words: str) -> None:
    raw = json.loads(project_file.write(parse_chart(CHART))) | change
    with pytest.raises(BadInput) as trouble:
        project_file.read(json.dumps(raw).encode())
    assert words in str(trouble.value.problems[0])


def test_giving_back_what_is_not_swapped_changes_nothing() -> None:
    song = two_five(parse_chart(CHART), 7)
    assert give_back(song, 0).slots == song.slots
    assert give_back(song, 7).slots == parse_chart(CHART).slots


def test_rules_are_switched_off_once_and_on_again() -> None:
    song = parse_chart(CHART)
    off = with_rule(with_rule(with_rule(song, "pedal", False), "borrowed", False), "pedal", False)
    assert off.settings.rules_off == ("borrowed", "pedal")
    assert with_rule(with_rule(off, "pedal", True), "borrowed", True) == song
