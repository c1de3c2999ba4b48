"""Charts: reading, all errors at once with their places, writing, transposing in place."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from made import charts, song_of, symbols
from yellow_hinge.errors import BadInput
from yellow_hinge.formats.chart_text import MAX_BARS, decode, parse_chart, read, transpose_text, write
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.chart import Chart, Syllable, move_between
from yellow_hinge.theory.keys import ALL_KEYS, Key, parse_key

pytestmark = pytest.mark.long


def bare(chart: Chart) -> Chart:
    """What a chart says, whatever its text looks like."""
    return replace(chart, text="", ids=())


def bars_of(chart: Chart) -> list[str]:
    """The chords of every bar as it is played."""
    return [" ".join(str(at.chord or "N.C.") for at in played.bar.chords) for played in chart.played]


def test_reads_the_example(ferry: str) -> None:
    song = song_of(ferry)
    assert (song.title, str(song.key), str(song.meter), song.tempo) == ("Lantern Ferry", "A", "3/4", 84)
    assert symbols(song)[:6] == ["Aadd9", "C#m11", "Dmaj9", "E9sus", "F#m7", "F#m7"]
    assert symbols(song)[6:] == ["Bm7", "E7", "Amaj7"] * 2
    assert [slot.beats for slot in song.slots[2:4]] == [2, 1]
    assert song.slots[3].beat == 3 and song.slots[3].start_quarters == 8
    assert [slot.beats for slot in song.slots[6:8]] == [Fraction(3, 2)] * 2
    assert [(slot.bar, slot.round) for slot in song.slots[-3:]] == [(8, 2), (8, 2), (9, 2)]
    assert [str(note.pitch) for note in song.chart.sections[0].bars[2].melody] == ["F#5", "E5"]
    assert song.section_starts == {0: "Verse", 6: "End", 9: "End (2)"}


FULL = r"""title: Lantern Ferry
composer: A. Maker
key: A
meter: 3/4
tempo: 84
pickup: 1
form: Verse Chorus Verse, Chorus Landing
[Verse]
melody: E4:1
lyrics: The
| Aadd9 | C#m11 | Dmaj9:2 E9sus:1 |1. F#m7 | % |2. F#m7 | (2/4) E7 |
melody: C#5:2 B4:1 | E5:3~ | E5:3 |  | A4:3 | B4:3 | B4:1~ B4
lyrics: Lan-tern | light _ | |
lyrics: Sec\-o-nd | round\-about
[Chorus]
meter: 4/4
key: Bb
| 1 | 2m7:3 5:1 | (7/8) Bb | % |
| A | % | V7/ii | N.C. |
tempo: 120
[Landing]
key: A
meter: 12/8
| 1add9 | (5/4) D:2 E:3 |
lyrics: la | la _
"""


def test_reads_all_that_a_chart_can_say() -> None:
    chart = parse_chart(FULL)
    assert (chart.composer, chart.pickup, chart.form) == (
        "A. Maker", 1, ("Verse", "Chorus", "Verse", "Chorus", "Landing"),
    )  # fmt: skip
    assert bars_of(chart)[:5] == ["Aadd9", "C#m11", "Dmaj9 E9sus", "F#m7", "F#m7"]
    assert bars_of(chart)[5:13] == ["Bb", "Cm7 F", "Bb", "Bb", "A", "A", "G7", "N.C."]
    assert bars_of(chart)[13:18] == ["Aadd9", "C#m11", "Dmaj9 E9sus", "F#m7", "E7"]  # the second ending
    meters = [str(played.bar.meter) for played in chart.played]
    assert meters[5:11] == ["4/4", "4/4", "7/8", "7/8", "4/4", "4/4"]  # % keeps its length
    assert [played.bar.tempo for played in chart.played][-3:] == [84, 120, 120]
    assert str(chart.played[5].bar.key) == "Bb" and str(chart.played[-1].bar.key) == "A"
    tune = [(float(start), float(length), str(pitch)) for start, length, pitch in chart.tune]
    assert tune[:4] == [(-1, 1, "E4"), (0, 2, "C#5"), (2, 1, "B4"), (3, 6, "E5")]  # tied over the bar line
    verse = chart.sections[0]
    assert verse.bars[0].words[1] == (Syllable("Sec-o", joined=True), Syllable("nd"))
    assert verse.bars[1].words == ((Syllable("light"),), (Syllable("round-about"),))
    assert chart.pickup_words == ((Syllable("The"),),)


@pytest.mark.parametrize(
    ("below", "wanted"),
    [
        (
            "melody: C5:1~ C5:1 D5:2\nlyrics: full _ of _",
            "full of",
        ),  # a sign for the tied note, one past the end
        ("melody: C5:1~ C5:1 D5:2\nlyrics: full of", "full of"),
        ("melody: C5:1~ C5:1 D5:2\nlyrics: full _", "full _"),  # D holds it
        ("melody: C5:1~ C5:1 D5:1 E5:1\nlyrics: full _ of", "full _ of"),  # as many as notes are struck
        ("melody: C5:1 C5:1 D5:2\nlyrics: _ _ of", "_ _ of"),
        ("melody: C5:1 C5:1 D5:2\nlyrics: a _ _ _ _", "a _ _"),
        ("lyrics: one two three", "one\u00a0two\u00a0three"),  # without a tune several words to a chord
        ("lyrics: un-bro-ken line", "unbroken\u00a0line"),
        ("melody: C5:1 D5:3\nlyrics: over\u3000the", "over the"),  # a blank of another kind parts too
        ("melody: C5:1 D5:3\nlyrics: over\u00a0the sea", "over\u00a0the sea"),  # this one does not
        ("melody: C5:1 D5:3\nlyrics: \u00a0 \x1f sea\u00a0", "sea"),  # blanks alone are no syllable
    ],
)
def test_a_syllable_stands_under_a_note_that_is_struck(below: str, wanted: str) -> None:
    chart = parse_chart(f"| C |\n{below}\n")
    assert " ".join(one.text or "_" for one in chart.sections[0].bars[0].words[0]) == wanted
    assert parse_chart(write(chart).decode()).sections == chart.sections


def test_words_without_a_tune_are_shared_by_the_length_of_chords() -> None:
    row = parse_chart("| C:3 G:1 |\nlyrics: one two three four five\n").sections[0].bars[0].words[0]
    assert [one.text for one in row] == ["one\u00a0two\u00a0three\u00a0four", "five"]


def test_a_tie_into_a_bar_takes_no_syllable() -> None:
    text = "| C | G |\nmelody: C5:4~ | C5:2 D5:2\nlyrics: a | {}\n"
    assert parse_chart(text.format("b")).sections[0].bars[1].words == ((Syllable("b"),),)
    assert parse_chart(text.format("_ b")).sections[0].bars[1].words == ((Syllable("b"),),)
    with pytest.raises(BadInput) as caught:
        parse_chart(text.format("b c"))
    assert "2 syllables for 1 notes" in str(caught.value)


def test_an_empty_verse_keeps_its_place() -> None:
    text = "pickup: 1\nmelody: A4:1\nlyrics:\nlyrics: oh\n| C |\nmelody: C5:4\nlyrics:\nlyrics: la\n"
    chart = parse_chart(text)
    assert chart.pickup_words == ((), (Syllable("oh"),)) == (*chart.pickup_words,)
    assert chart.sections[0].bars[0].words == ((), (Syllable("la"),))
    assert parse_chart(write(chart).decode()).pickup_words == chart.pickup_words


def test_endings_are_taken_in_turn() -> None:
    ends = "[A]{}\n| C |1. D |2. E | F |\n[B]\n| G |\n"
    assert bars_of(parse_chart(ends.format(""))) == ["C", "D", "C", "E", "F", "G"]
    assert bars_of(parse_chart(ends.format(" x3"))) == ["C", "D", "C", "E", "F", "C", "D", "G"]
    across = parse_chart("form: A B A\n" + ends.format(""))
    assert bars_of(across) == ["C", "D", "G", "C", "E", "F"]
    assert [played.round for played in across.played] == [1, 1, 1, 2, 2, 2]
    all_n = parse_chart("form: A B A\n" + ends.format(" x2"))
    assert bars_of(all_n) == ["C", "D", "C", "E", "F", "G", "C", "D", "C", "E", "F"]
    over_lines = parse_chart("[A]\n| C |1. D |\n| D7 |\n|2. E |\n")
    assert bars_of(over_lines) == ["C", "D", "D7", "C", "E"]


def test_the_form_takes_the_longest_name() -> None:
    chart = parse_chart("form: Verse Two, Verse Two Verse\n[Verse]\n| C |\n[Verse Two]\n| D |\n[Two]\n| E |")
    assert chart.form == ("Verse Two", "Verse Two", "Verse")
    assert bars_of(chart) == ["D", "D", "C"]


def test_an_eighth_stays_an_eighth() -> None:
    chart = parse_chart("meter: 6/8\ntempo: 120\n| C | (3/4) D:2 E:1 |\nmeter: 2/2\n| F | G:0.5 A:1.5 |\n")
    starts = [slot.start_quarters for slot in song_of(chart.text).slots]
    assert starts == [0, 3, 5, 6, 10, 11]
    assert chart.tempos == ((0, 60),)  # 120 eighths a minute, for the whole song
    assert Meter(6, 8) == chart.meter


def test_numbers_and_symbols_are_the_same_song(ferry: str) -> None:
    numbers = ferry.replace(
        "| Aadd9 | C#m11 | Dmaj9:2 E9sus:1 | F#m7 |", "| 1add9 | 3m11 | 4maj9:2 5-9sus:1 | 6m7 |"
    )
    assert bare(parse_chart(numbers)) == bare(parse_chart(ferry))


def test_numbers_count_from_the_key() -> None:
    assert symbols(song_of("| 1 |\nkey: E\n| 1 |")) == ["C", "E"]
    assert symbols(song_of("key: D\n| 1 | 5-7 |")) == ["D", "A7"]


def test_relative_numbers() -> None:
    assert symbols(song_of("key: Am\nnumbers: relative\n| 6m7 | 1 |")) == ["Am7", "C"]


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
        ("[V] x99\n| C |", 1, 2, "x99"),
        ("key: H\n| C |", 1, 6, "not a key"),
        ("meter: 5/5\n| C |", 1, 8, "not a meter"),
        ("tempo: fast\n| C |", 1, 8, "not a tempo"),
        ("author: me\n| C |", 1, 1, "not a heading"),
        ("numbers: odd\n| C |", 1, 10, "no numbering"),
        ("| C |\nmelody: Z9:4", 2, 9, "not a melody note"),
        ("| C |\nmelody: C5:3", 2, 9, "does not add up"),
        ("| C |\nmelody: C5:4 | D5:4", 2, 16, "more bars"),
        ("| C |\nmelody: C5\nmelody: D5", 3, 1, "a melody already"),
        ("melody: C5:1\n| C |", 1, 1, "pickup"),
        ("pickup: 1\nmelody: C5:2\n| C |", 2, 9, "pickup does not add up"),
        ("pickup: 1\nmelody: C5:1 | D5:1\n| C |", 2, 1, "more than one bar"),
        ("pickup: 0\n| C |", 1, 9, "no length of a pickup"),
        ("pickup: 17\n| C |", 1, 9, "no length of a pickup"),
        ("| C |\nmelody: C5:4~", 2, 9, "no note follows"),
        ("| C | D |\nmelody: C5:4~ | D5:4", 2, 9, "another pitch"),
        ("| C |\nmelody: C5:1~ D5:3", 2, 9, "another pitch"),
        ("| C |\nmelody: r:1~ D5:3", 2, 9, "a rest cannot be tied"),
        ("| C |\nmelody: C5:1~ C5:3\nlyrics: a b", 3, 9, "2 syllables for 1 notes"),
        ("| C |\nlyrics: a | b", 2, 13, "more bars"),
        ("lyrics: a\n| C |", 1, 1, "no bars above"),
        ("|1. C |3. D |", 1, 8, "the next one is 2"),
        ("form: A B\n[A]\n| C |", 1, 9, "no section"),
        ("[A]\n| C |\n[A]\n| G |", 3, 2, "already"),
        ("| (9/7) C |", 1, 3, "not a meter"),
        ("| C | (2/4) % |", 1, 13, "with its length"),
        ("meter: 25/4\n| C |", 1, 8, "not a meter"),
        ("tempo: 19\n| C |", 1, 8, "20 to 400"),
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
    assert len(parse_chart("| C | F | G7 | Am |\n" * 125).written) == 500
    with pytest.raises(BadInput) as caught:
        parse_chart("[A] x16\n" + "| C | F |\n" * 200)
    assert "more than" in str(caught.value)
    with pytest.raises(BadInput) as caught:
        parse_chart("| C |\n" * (MAX_BARS + 1))
    assert f"more than {MAX_BARS} bars" in str(caught.value)
    with pytest.raises(BadInput) as caught:
        parse_chart("form: " + "A " * 401 + "\n[A]\n| C |")
    assert "more than 400 entries" in str(caught.value)


@settings(max_examples=150)
@given(charts())
def test_writing_and_reading_back(chart: Chart) -> None:
    text = write(chart).decode()
    assert bare(parse_chart(text)) == chart
    assert write(parse_chart(text)).decode() == text


def test_what_is_written_again_is_what_was_read() -> None:
    chart = parse_chart(FULL)
    assert bare(parse_chart(write(chart).decode())) == bare(chart)


def test_byte_order_mark_is_no_error() -> None:
    assert decode("| C |".encode("utf-8-sig")) == "| C |"


@settings(max_examples=30)
@given(st.sampled_from(ALL_KEYS))
def test_transposing_text_and_values_gives_the_same(key: Key) -> None:
    move = move_between(parse_key("A"), key)
    moved = transpose_text(FULL, move)
    assert bare(parse_chart(moved)) == bare(parse_chart(FULL).moved(move))
    first, other = parse_chart(FULL).tune[0][2], parse_chart(moved).tune[0][2]
    assert abs(other.key - first.key) <= 6


def test_transposing_keeps_layout_numbers_and_comments() -> None:
    text = (
        "# stays | C |\nkey: A\n[V]\n|  Aadd9:2  E7/G#:2 |1. 6m7 | (2/4) N.C. | % |\n"
        "melody: C#5:3~ C#5 | r:4\n"
    )
    moved = transpose_text(text, move_between(parse_key("A"), parse_key("C")))
    assert moved == (
        "# stays | C |\nkey: C\n[V]\n|  Cadd9:2  G7/B:2 |1. 6m7 | (2/4) N.C. | % |\nmelody: E5:3~ E5 | r:4\n"
    )


def test_transposing_adds_a_missing_key_line() -> None:
    move = move_between(parse_key("C"), parse_key("Eb"))
    assert transpose_text("| C | G7 |", move) == "key: Eb\n| Eb | Bb7 |"


@settings(max_examples=300)
@given(st.text(alphabet="ABC|:[]%#127m~_- x.()/r\\\nmelodyfrickups", max_size=70))
def test_any_text_reads_or_complains(text: str) -> None:
    try:
        assert parse_chart(text).written
    except BadInput as error:
        lines = text.splitlines() or [""]
        for problem in error.problems:
            assert 1 <= problem.line <= len(lines)
            assert problem.remedy


@pytest.mark.parametrize(
    ("row", "moved"),
    [
        ("| C | F#7 |", "| D | G#7 |"), ("| (3/4) C:2 G7:1 | % |", "| (3/4) D:2 A7:1 | % |"),
        ("|1. C | G7 |", "|1. D | A7 |"), ("|2. (2/4) C |", "|2. (2/4) D |"), ("| 1maj7 | 5-7 | N.C. |",
         "| 1maj7 | 5-7 | N.C. |"), ("| IVmaj7 | C/E:3 r |", None), ("| (3/4)C | C |", "| (3/4)D | D |"),
        ("| C//G7 | Cm7b5 |", "| D//A7 | Dm7b5 |"),
    ],
)  # fmt: skip
def test_chords_of_a_row_are_moved_and_nothing_else(row: str, moved: str | None) -> None:
    """What is no chord stays as it is typed: meters, endings, repeats, numbers, silence."""
    move = move_between(parse_key("C"), parse_key("D"))
    text = f"key: C\n{row}\n"
    if moved is None:
        with pytest.raises(BadInput):
            transpose_text(text, move)
    else:
        assert transpose_text(text, move) == f"key: D\n{moved}\n"
