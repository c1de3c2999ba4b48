"""ChordPro and chords over words, in and out."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yellow_hinge.errors import BadInput
from yellow_hinge.formats import chordpro, over_words
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.formats.text_kinds import kind_of
from yellow_hinge.song.chart import Chart
from yellow_hinge.tasks.files.formats import decode, encode
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.voicing.recipes import builtin_library

SONG = """{title: Quay Light}
{artist: A. Maker}
{key: G}
{time: 3/4}
{tempo: 92}
# a remark
{start_of_verse: Verse 1}
The [G]lamp is [D7]lit, the [Em]boat comes [C]in
[*soft]and [G]all is [D7sus]well
{end_of_verse}
{soc}
[C]Row, [G]row
{eoc}
{start_of_verse}
[Am7]So [D7]long
{end_of_verse}
{chorus}
{sot}
e|--0--|
{eot}
"""


def played(chart: Chart) -> list[str]:
    return [str(one.written.chord) for one in chart.placed]


def words(chart: Chart) -> list[str]:
    return [
        one.text.replace("\u00a0", " ") for bar in chart.played for row in bar.bar.words[:1] for one in row
    ]


def test_a_song_with_words() -> None:
    imported = chordpro.read(SONG.encode(), "s.pro")
    chart = imported.chart
    assert (chart.title, chart.composer, str(chart.key), str(chart.meter), chart.tempo) == (
        "Quay Light", "A. Maker", "G", "3/4", 92,
    )  # fmt: skip
    assert played(chart) == ["G", "D7", "Em", "C", "G", "D7sus", "C", "G", "Am7", "D7", "C", "G"]
    assert (
        words(chart)[:5] == ["The lamp is", "lit, the", "boat comes", "in", "all is"]
        or "and" in words(chart)[4]
    )
    assert chart.form == ("Verse 1", "Chorus", "Verse", "Chorus")
    said = " ".join(str(one) for one in imported.problems)
    assert "tab is not read" in said and "no lengths" in said
    assert parse_chart(chart.text) == chart


def test_grids_say_the_lengths() -> None:
    text = "{time: 4/4}\n{key: C}\n{sog}\nA | C . . . | F . G . | % |\n| Am . F~G . ||\n{eog}\n"
    imported = chordpro.read(text.encode())
    bars = [[(str(at.chord), at.beats) for at in one.bar.chords] for one in imported.chart.played]
    assert bars[:3] == [[("C", 4)], [("F", 2), ("G", 2)], [("F", 2), ("G", 2)]]
    assert [name for name, _ in bars[3]] == ["Am", "F", "G"] and imported.problems == ()


@pytest.mark.parametrize(
    ("text", "place", "what"),
    [
        ("[C]a [Hq]b\n", "line 1, column 7", "Hq"), ("{key: Q}\n[C]a\n", "line 1", "key 'Q'"),
        ("{time: 9/7}\n[C]a\n", "line 1", "time"), ("{capo: 3}\n[C]a\n", "line 1", "capo"),
        ("{chorus}\n[C]a\n", "line 1", "no chorus"),
    ],
)  # fmt: skip
def test_what_is_not_taken_over_is_said(text: str, place: str, what: str) -> None:
    imported = chordpro.read(text.encode(), "s.pro")
    assert any(place in one.place and what in one.what for one in imported.problems)


@pytest.mark.parametrize("text", ["", "words alone\n", "{title: x}\n{key: C}\n"])
def test_without_chords_it_is_refused(text: str) -> None:
    for module in (chordpro, over_words):
        with pytest.raises(BadInput) as caught:
            module.read(text.encode())
        assert "no chords" in str(caught.value)


@pytest.mark.parametrize("name", DEMO_SONGS)
def test_our_songs_come_back_with_their_chords(name: str) -> None:
    chart = demo_song(name).chart
    again = chordpro.read(chordpro.write(chart)).chart
    assert played(again) == played(chart) and str(again.key) == str(chart.key)
    if not any(bar.bar.words for bar in chart.played):
        starts = [one.start_quarters for one in chart.placed]
        assert [one.start_quarters for one in again.placed] == starts
    else:
        assert [one.number for one in again.played] == [one.number for one in chart.played]


OVER = """Quay Light
by: A. Maker
Key: G

[Verse 1]
   G           D7
The lamp is lit,  the boat
Em         C
comes in
Chorus:
C    G
Row, row
"""


def test_chords_over_words() -> None:
    kinds = [one.kind for one in over_words.understand(OVER)]
    assert kinds == ["words", "heading", "heading", "blank", "section", "chords", "words", "chords", "words",
                     "section", "chords", "words", "blank"]  # fmt: skip
    chart = over_words.read(OVER.encode()).chart
    assert (chart.title, chart.composer, str(chart.key)) == ("Quay Light", "A. Maker", "G")
    assert played(chart) == ["G", "D7", "Em", "C", "C", "G"]
    assert words(chart)[:2] == ["The lamp is", "lit, the boat"]
    assert [section.name for section in chart.sections] == ["Verse 1", "Chorus"]


def test_plain_rows_bar_lines_and_numbers() -> None:
    chart = over_words.read(b"C | F G | C\n").chart
    assert [[str(at.chord) for at in one.bar.chords] for one in chart.played] == [["C"], ["F", "G"], ["C"]]
    assert played(over_words.read(b"Key: D\n1 4 5-7 1\n").chart) == ["D", "G", "A7", "D"]
    assert over_words.looks_like("C  F  G\n") and not over_words.looks_like("| C | F |\n")
    assert not over_words.looks_like("A day by the sea\nI am\n")


@pytest.mark.parametrize("line", ["A boat came by", "Be still", "I am a man", "Go down", "Add a little"])
def test_words_are_no_chords(line: str) -> None:
    assert over_words.understand(line)[0].kind == "words"


@given(st.text(max_size=200))
@settings(max_examples=200, deadline=None)
def test_any_text_is_read_or_refused(text: str) -> None:
    for module in (chordpro, over_words):
        try:
            chart = module.read(text.encode("utf-8", "surrogatepass")).chart
        except BadInput as error:
            assert error.problems[0].what
            continue
        assert parse_chart(chart.text) == chart


@pytest.mark.parametrize(
    ("row", "key"),
    [
        ("C  F", "C"), ("Am F C G", "C"), ("Dm7 G7 Cmaj7", "C"), ("G D Em C", "G"), ("F#m B7 E", "E"),
        ("Am Dm E7 Am", "Am"), ("Cm Fm G7", "Cm"), ("Bb Eb F7 Bb", "Bb"),
    ],
)  # fmt: skip
def test_a_key_that_is_not_said_is_guessed_and_said(row: str, key: str) -> None:
    imported = over_words.read(f"{row}\n".encode())
    assert str(imported.chart.key) == key
    assert any(one.what == "it says no key" for one in imported.problems)
    said = over_words.read(f"Key: D\n{row}\n".encode())
    assert str(said.chart.key) == "D" and not any("no key" in one.what for one in said.problems)


@pytest.mark.parametrize(
    ("text", "kind"),
    [
        ("X:1\nK:C\nc", "abc"), ("X:1\nc", "chart"), ("{t: A}\n[C]a", "chordpro"),
        ("The [C]boat", "chordpro"),
        ("| C | F |", "chart"), ("| C | F |\nlyrics: a", "chart"), ("| C | F |\nthe words", "words"),
        ("meter: 3/4\n| C | F |\nthe words", "chart"), ("C  F\nla la", "words"), ("title: x\n| C |", "chart"),
        ("| C | Hq |", "chart"), ("", "chart"), ("hello there", "chart"), ("1 4 5", "words"),
        ("title: x\n[A]\n| C | F |\n# a remark\n| G |", "chart"),
        ("| C | F |\n# a remark\nthe words", "chart"),
    ],
)  # fmt: skip
def test_the_kind_of_a_text_is_judged_by_its_content(text: str, kind: str) -> None:
    assert kind_of(text) == kind


@pytest.mark.parametrize(
    ("data", "letters"),
    [
        ("title: Café\n| C |\n".encode("latin-1"), "Latin-1"),
        ("title: Café\n| C |\n".encode("utf-16"), "UTF-16"),
        ("title: Café\n| C |\n".encode("utf-16-le"), "UTF-16"),
        ("title: Café\n| C |\n".encode("utf-16-be"), "UTF-16"),
        ("title: Café\n| C |\n".encode(), ""), ("\ufefftitle: Café\n| C |\n".encode(), ""),
    ],
)  # fmt: skip
@pytest.mark.parametrize("suffix", ["", ".txt", ".chart"])
def test_letters_of_other_kinds_are_read_with_a_remark(data: bytes, letters: str, suffix: str) -> None:
    opened = decode(data, suffix, "x")
    assert opened.song.title == "Café"
    assert [one.what for one in opened.problems] == ([f"its letters are in {letters}"] if letters else [])


@pytest.mark.parametrize(
    ("data", "what"),
    [
        (b"\x1f\x8b\x08\0", "gzip"), (b"RIFF\0\0\0\0RMID", "RIFF"), (b"%PDF-1.7", "PDF"),
        (b"\x89PNG\r\n", "picture"),
        (b"\x00\x01\x02 no text", "not a text"), (b"title: a\xff\x00\x01", "not a text"),
    ],
)  # fmt: skip
def test_files_of_other_kinds_are_named(data: bytes, what: str) -> None:
    with pytest.raises(BadInput) as caught:
        decode(data, ".txt", "x")
    assert what in str(caught.value)


def test_a_file_without_a_name_is_read_for_what_it_is() -> None:
    song = demo_song("lantern-ferry")
    library = builtin_library()
    for suffix in (".mid", ".musicxml", ".mxl", ".abc", ".cho", ".txt", ".yhinge"):
        assert decode(encode(song, suffix, library), "", "-").song.slots, suffix
