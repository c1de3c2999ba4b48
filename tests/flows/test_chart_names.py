"""A name goes into the chart where it belongs, and nowhere else."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.formats.chart_text import write as written_text
from yellow_hinge.song.edits import choose
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.chart_names import name_in_chart
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape, Voicing

TEXT = """# mine, with a remark
title: Reed Light
key: F
[Verse] x2
|  F   |Dm7:3 G7:1|%|1. Gm7 C7 |2. Gm7 C9  |
melody: F4:4 | A4:4 | A4:4 | r:4
lyrics: C7 | C7 | G7 | _
"""


@pytest.mark.parametrize(
    ("slot", "symbol", "before", "after"),
    [
        (0, "F6", "|  F   |", "|  F6   |"),
        (5, "Gm9", "|1. Gm7 C7 |", "|1. Gm9 C7 |"),
        (6, "Bb/C", "|1. Gm7 C7 |", "|1. Gm7 Bb/C |"),
    ],
)
def test_one_word_of_the_text_changes(
    slot: int, symbol: str, before: str, after: str, library: Library
) -> None:
    chord = parse_chord(symbol)
    assert chord is not None
    song = Song(parse_chart(TEXT))
    named = name_in_chart(song, slot, chord, library).song
    assert named.chart.text == TEXT.replace(before, after)
    assert named.slots[slot].chord == chord
    others = [k for k in range(len(song.slots)) if song.slots[k].at != song.slots[slot].at]
    assert [named.slots[k].chord for k in others] == [song.slots[k].chord for k in others]


def test_in_a_repeated_bar_the_text_is_written_anew(library: Library) -> None:
    chord = parse_chord("Dm9")
    assert chord is not None
    song = Song(parse_chart(TEXT))
    named = name_in_chart(song, 3, chord, library).song
    assert named.slots[3].chord == chord and named.slots[1].chord == song.slots[1].chord
    again = parse_chart(written_text(named.chart).decode())
    assert replace(again, text="", ids=()) == replace(named.chart, text="", ids=())


def test_what_was_decided_stays_with_the_chord(library: Library) -> None:
    chord = parse_chord("G9")
    assert chord is not None
    grip = Voicing(HandShape((43,), ("R",)), HandShape((65, 69), ("b7", "9")))
    song = choose(Song(parse_chart(TEXT)), 2, grip).song
    edit = name_in_chart(song, 2, chord, library)
    kept = edit.song.voicing(2)
    assert edit.song.locked(2) and kept is not None and kept.keys == grip.keys and not edit.lost
    assert kept.degrees == ("R", "b7", "9")
    assert edit.label == "Call it G9"
