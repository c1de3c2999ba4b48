"""Charts: reading, all errors at once with their places, writing, transposing in place."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yellow_hinge.errors import BadInput
from yellow_hinge.formats.chart_text import decode, parse_chart, read, transpose_text, write
from yellow_hinge.song.model import Song
from yellow_hinge.theory.keys import ALL_KEYS, parse_key


def symbols(song: Song) -> list[str]:
    return [str(slot.chord or "N.C.") for slot in song.slots]


def test_reads_the_example(ferry: str) -> None:
    song = parse_chart(ferry)
    assert (song.title, str(song.key), str(song.meter), song.tempo) == ("Lantern Ferry", "A", "3/4", 84)
    assert symbols(song)[:6] == ["Aadd9", "C#m11", "Dmaj9", "E9sus", "F#m7", "F#m7"]
    assert symbols(song)[6:] == ["Bm7", "E7", "Amaj7"] * 2
    assert [slot.beats for slot in song.slots[2:4]] == [2, 1]
    assert song.slots[3].beat == 3 and song.slots[3].start_beats == 8
    assert [slot.beats for slot in song.slots[6:8]] == [Fraction(3, 2)] * 2
    assert [(slot.bar, slot.round) for slot in song.slots[-3:]] == [(8, 2), (8, 2), (9, 2)]
    assert [str(note.pitch) for note in song.sections[0].bars[2].melody] == ["F#5", "E5"]
    assert song.section_starts == {0: "Verse", 6: "End", 9: "End (2)"}


def test_numbers_and_symbols_are_the_same_song(ferry: str) -> None:
    numbers = ferry.replace(
        "| Aadd9 | C#m11 | Dmaj9:2 E9sus:1 | F#m7 |", "| 1add9 | 3m11 | 4maj9:2 5-9sus:1 | 6m7 |"
    )
    assert parse_chart(numbers).slots == parse_chart(ferry).slots


def test_key_line_may_come_last() -> None:
    assert symbols(parse_chart("| 1 | 5-7 |\nkey: D")) == ["D", "A7"]


def test_relative_numbers() -> None:
    assert symbols(parse_chart("key: Am\nnumbers: relative\n| 6m7 | 1 |")) == ["Am7", "C"]


@pytest.mark.parametrize(
    ("text", "line", "column", "words"),
    [
        ("", 1, 1, "no bars"),
        ("title: x\n", 1, 1, "no bars"),
        ("| C | Hm |", 1, 7, "note letter"),
        ("| C | Cfoo |", 1, 8, "cannot read"),
        ("meter: 3/4\n| C:2 D:2 |", 2, 3, "does not add up in 3/4"),
        ("| C:x |", 1, 5, "not a length"),
        ("| C:0 |", 1, 5, "not a length"),
        ("| % |", 1, 3, "no bar before"),
        ("| C |   | D |", 1, 6, "empty bar"),
        ("C D E", 1, 1, "outside bar lines"),
        ("[Verse", 1, 1, "section heading"),
        ("[V] x99\n| C |", 1, 6, "x99"),
        ("key: H\n| C |", 1, 5, "not a key"),
        ("meter: 5/5\n| C |", 1, 7, "not a meter"),
        ("tempo: fast\n| C |", 1, 7, "not a tempo"),
        ("author: me\n| C |", 1, 1, "not a heading"),
        ("numbers: odd\n| C |", 1, 9, "no numbering"),
        ("| C |\nmelody: Z9:4", 2, 9, "not a melody note"),
        ("| C |\nmelody: C5:3", 2, 9, "does not add up"),
        ("| C |\nmelody: C5:4 | D5:4", 2, 15, "more bars"),
        ("| 1foo |", 1, 4, "cannot read"),
    ],
)
def test_errors_have_line_column_and_remedy(text: str, line: int, column: int, words: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_chart(text)
    problem = caught.value.problems[0]
    assert (problem.line, problem.column) == (line, column)
    assert words in problem.what + problem.remedy
    assert problem.remedy and f"line {line}" in problem.place


def test_all_errors_come_at_once_in_order() -> None:
    with pytest.raises(BadInput) as caught:
        parse_chart("key: Q\n| C | Hx |\n| D:9 |\nfoo\nmelody: C5:4 | X:4")
    places = [(problem.line, problem.column) for problem in caught.value.problems]
    assert places == sorted(places)
    assert {line for line, _ in places} == {1, 2, 3, 4, 5}


@pytest.mark.parametrize("data", [b"\x00\x01\x02| C |", b"\xff\xfe\x00C", b"| C |" * 300_000])
def test_binary_and_oversized_files_are_refused(data: bytes) -> None:
    with pytest.raises(BadInput):
        read(data)


def test_five_hundred_chords_and_too_many_bars() -> None:
    song = parse_chart("| C | F | G7 | Am |\n" * 125)
    assert len(song.slots) == 500
    with pytest.raises(BadInput) as caught:
        parse_chart("[A] x16\n" + "| C | F |\n" * 200)
    assert "more than" in str(caught.value)


def test_writing_and_reading_back(ferry: str) -> None:
    song = parse_chart(ferry)
    again = parse_chart(write(song).decode())
    assert again.slots == song.slots
    assert next(s.bars for s in again.sections)[:3] == song.sections[0].bars[:3]


def test_byte_order_mark_is_no_error() -> None:
    assert decode("| C |".encode("utf-8-sig")) == "| C |"


@settings(max_examples=30)
@given(st.sampled_from(ALL_KEYS))
def test_transposing_keeps_layout_numbers_and_comments(key: object) -> None:
    text = "# stays | C |\nkey: A\n[V]\n|  Aadd9:2  E7/G#:2 | 6m7 | N.C. | % |\nmelody: C#5:4 | r:4\n"
    moved = transpose_text(text, key)  # type: ignore[arg-type]
    assert moved.splitlines()[0] == "# stays | C |"
    before, after = parse_chart(text), parse_chart(moved)
    assert [song_number(before, i) for i in range(5)] == [song_number(after, i) for i in range(5)]
    first, other = before.sections[0].bars[0].melody[0].pitch, after.sections[0].bars[0].melody[0].pitch
    assert first and other and abs(other.key - first.key) <= 6


def song_number(song: Song, index: int) -> str:
    chord = song.slots[index].chord
    return "N.C." if chord is None else song.number_of(chord)


def test_transposing_adds_a_missing_key_line() -> None:
    assert transpose_text("| C | G7 |", parse_key("Eb")) == "key: Eb\n| Eb | Bb7 |"


@given(st.text(alphabet="ABC|:[]%#12m7x \nmelody", max_size=60))
def test_any_text_reads_or_complains(text: str) -> None:
    try:
        assert parse_chart(text).slots
    except BadInput as error:
        assert all(problem.line >= 1 for problem in error.problems)
