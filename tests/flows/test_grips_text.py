"""A page of somebody's grips is a song, and a song is such a page."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import assume, given, settings
from msgspec.structs import replace

from made import charts, song_of
from yellow_hinge.cli import run
from yellow_hinge.errors import BadInput
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.edits import with_arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.formats import encode
from yellow_hinge.tasks.files.opening import open_song
from yellow_hinge.tasks.files.pasted import recognise
from yellow_hinge.tasks.grips.page import MOST_LINES, laid_over, looks_like, read_page, read_song, write
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import Library, builtin_library

PAGE = """title: Tar Page
key: Eb
# what I was shown
[Verse] x2
| Ebmaj9: Eb3 Bb3 ; G4 D5 F5 | Cm9:2: C3 G3 ; Eb4 Bb4 D5  F13:2: F3 Eb4 ; A4 D5 |
Fm9: F3 C4 ; Ab4 Eb5 G5
Bb13:2: Bb2 Ab3 ; D4 G4 C5
Bb7b9:2: Bb2 Ab3 ; D4 F4 B4
[Tag]
1maj9: 51 58 ; 67 74
N.C.
| (2/4) Abmaj7/Bb: Bb2 ; Eb4 G4 C5 | % |
"""


def chords(text: str) -> list[tuple[str, str]]:
    return [(str(one.chord), str(one.beats)) for one in read_page(text).chart.written]


def held(song: Song) -> list[tuple[tuple[int, ...], tuple[int, ...]]]:
    found = [song.voicing(index) for index in range(len(song.slots))]
    return [((), ()) if one is None else (one.left.keys, one.right.keys) for one in found]


def test_a_page_is_a_song_with_its_grips_locked(library: Library) -> None:
    song = read_song(PAGE.encode(), "page.grips", library).song
    assert [section.name for section in song.chart.sections] == ["Verse", "Tag"] and song.title == "Tar Page"
    assert [str(slot.chord) for slot in song.slots[:6]] == ["Ebmaj9", "Cm9", "F13", "Fm9", "Bb13", "Bb7b9"]
    assert [slot.bar for slot in song.slots[:6]] == [1, 2, 2, 3, 4, 4]
    assert str(song.slots[12].chord) == "Ebmaj9" and song.slots[13].chord is None
    assert all(song.locked(slot.index) for slot in song.slots if slot.chord)
    assert held(song)[1] == ((48, 55), (63, 70, 74)) == held(song)[7]
    assert held(song)[-1] == held(song)[-2] == ((46,), (63, 67, 72)) and song.slots[-1].meter.beats == 2


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("Dm7: D3 C4 ; F4 A4\nG7: G2 F3 ; B3", [("Dm7", "4"), ("G7", "4")]),
        ("Dm7:2: D3 ; F4\nG7:2: G2 ; B3\nC: C3 ; E4", [("Dm7", "2"), ("G7", "2"), ("C", "4")]),
        ("Dm7:2: D3 ; F4 G7:2: G2 ; B3", [("Dm7", "2"), ("G7", "2")]),
        ("Dm7:1.5: D3 ; F4\nG7:2.5: G2 ; B3", [("Dm7", "3/2"), ("G7", "5/2")]),
        ("Dm7:3: D3 ; F4\nG7: G2 ; B3", [("Dm7", "3"), ("G7", "4")]),  # a bar of its own length
        ("Dm7:6: D3 ; F4", [("Dm7", "6")]),
        ("meter: 3/4\nDm7:2: D3 ; F4\nG7:1: G2 ; B3", [("Dm7", "2"), ("G7", "1")]),
        ("| Dm7: D3 ; F4 G7: G2 ; B3 |", [("Dm7", "2"), ("G7", "2")]),
        ("| Dm7:3: D3;F4 G7:1:G2;B3 |", [("Dm7", "3"), ("G7", "1")]),
        ("| Dm7 | G7: G2 ; B3 |", [("Dm7", "4"), ("G7", "4")]),  # one without a grip
        ("| C6 A7 | G7: G2 ; B3 |", [("C6", "2"), ("A7", "2"), ("G7", "4")]),
        ("C:48 55 ; 64", [("C", "4")]),
        ("C: C3,G3;E4", [("C", "4")]),
        ("C: C3 G3 E4", [("C", "4")]),
        ("C3 G3 ; E4 Bb4", [("C7", "4")]),  # named from its notes
        (": C3 G3 ; Eb4 Bb4", [("Cm7", "4")]),
        ("key: D\n2m7: E3 D4 ; G4\nV7: A2 ; G4 C#5", [("Em7", "4"), ("A7", "4")]),
        ("N.C.\nC: C3 ; E4", [("None", "4"), ("C", "4")]),
        ("N.C.:2\nC:2: C3 ; E4", [("None", "2"), ("C", "2")]),
    ],
)
def test_the_ways_to_write_it(text: str, wanted: list[tuple[str, str]]) -> None:
    assert chords(text) == wanted and looks_like(text)


@pytest.mark.parametrize(
    ("text", "line", "words"),
    [
        ("C: C3 ; E4\nDm7 D3 ; F4", 2, "there is no colon"),
        ("C: C3 ; E4\nH: D3", 2, "note letter"),
        ("C: C3 X4 ; E4", 1, "'X4' is no note"),
        ("C: C3 ; E4\n\nG: G2 ;;  B3", 3, "is no note"),
        ("C: C3 ; E4\n| |", 2, "there is no chord"),
        ("C: C3 ; E4\n| G:3: G2 ; B3 | D: D3 |", 2, "does not add up"),
        ("| C | G |", 0, "there are no grips"),
        ("C: C3 ; E4\nmelody: C4:4 | D4:4", 2, "more bars than the row above"),
        ("C: ;", 1, "there are no notes"),
        ("C: C3 D3 E3 F3 G3 A3", 1, "6 notes in one hand"),
        ("C: C3 ; E4\nG2 F3 ; B3 E4 F#4", 2, "these notes have no name: write the chord before them"),
    ],
)
def test_what_cannot_be_read_is_said_with_its_line(text: str, line: int, words: str) -> None:
    with pytest.raises(BadInput) as trouble:
        read_page(text, "page.grips")
    problem = trouble.value.problems[0]
    assert words in str(problem) and problem.line == line and problem.place.startswith("page.grips")


@pytest.mark.parametrize(
    "text",
    [
        "| C | G7 |\nmelody: C4:4 | B3:4\n", "title: A; B\nkey: C\n| C | G |", "[C]Hello [G7]there; you",
        "X: 1\nK: C\n\"C\"C D E F |", "C   G7\nhow now; brown", "# C: C3 ; E4\n| C |",
    ],
)  # fmt: skip
def test_other_texts_are_no_pages_of_grips(text: str) -> None:
    assert not looks_like(text) and recognise(text).page is None


def test_a_song_without_a_chord_has_no_page_of_grips(library: Library) -> None:
    """A tune over bars of no chord: it would be a file that nobody can open."""
    for text, there in (("| N.C. | N.C. |", False), ("| N.C. | C |", True)):
        song = song_of(text)
        if there:
            encode(song, ".grips", library)
        else:
            with pytest.raises(BadInput, match="no chords to hold"):
                encode(song, ".grips", library)


@pytest.mark.long
@given(charts())
@settings(max_examples=30)
def test_what_is_written_is_read_again(chart: Chart) -> None:
    """Chords, lengths, form, tune, words and every grip."""
    library, song = builtin_library(), Song(chart)
    assume(any(slot.chord for slot in song.slots))
    voiced = voice_song(song, library, Planner(library)).song
    first = read_song(write(voiced), "x.grips", library).song
    assert [(s.chord, s.beats, s.bar) for s in first.slots] == [
        (s.chord, s.beats, s.bar) for s in voiced.slots
    ]
    assert replace(first.chart, text="", ids=()) == replace(chart, text="", ids=())
    assert write(first) == write(read_song(write(first), "x.grips", library).song)
    for slot in voiced.slots:
        grip = voiced.voicing(slot.index)
        if slot.chord is not None and grip is not None and slot.take == voiced.current:
            mine = first.voicing(slot.index)
            assert mine is not None and (mine.left.keys, mine.right.keys) == (grip.left.keys, grip.right.keys)


def test_grips_are_laid_over_a_chart_by_order_and_symbol(library: Library) -> None:
    song = song_of("| C | Am7 | Dm7 | G7 | C |")
    page = read_page("C: C3 G3 ; E4\nDm7: D3 C4 ; F4 A4\nEb: Eb3 ; G4\nC: C3 ; E4 G4")
    edit = laid_over(song, page, library)
    locked = [edit.song.locked(index) for index in range(5)]
    assert locked == [True, False, True, False, True] and edit.lost == ("the grip of E♭",)
    assert edit.label == "Paste 3 grips" and edit.song.chart is song.chart
    assert edit.remarks == ("2 chords of the song had no grip on the page",)
    assert held(edit.song)[4] == ((48,), (64, 67))
    enharmonic = laid_over(song_of("| Gb7 |"), read_page("F#7: F#2 ; A#3 E4"), library)
    assert enharmonic.song.locked(0) and not enharmonic.lost and not enharmonic.remarks
    assert enharmonic.label == "Paste 1 grip"
    twice = laid_over(song_of("| C |"), read_page("| C: C3 ; E4 | % |"), library)
    assert twice.lost == ("the grip of C",)  # the second one, though it is the same


def test_lines_are_counted_without_the_key_that_was_given() -> None:
    with pytest.raises(BadInput) as trouble:
        read_page("C: C3 ; E4\n| G:3: G2 ; B3 | D: D3 |", "x", parse_key("D"))
    assert trouble.value.problems[0].line == 2 and "line 2" in trouble.value.problems[0].place


@pytest.mark.parametrize(("lines", "whole"), [(MOST_LINES, True), (MOST_LINES + 1, False)])
def test_no_line_is_left_out_unsaid(lines: int, whole: bool) -> None:
    text = "C: C3 ; E4\n" + "\n" * (lines - 2)
    assert len(text.split("\n")) == lines
    if whole:
        assert read_page(text).grips
    else:
        with pytest.raises(BadInput, match="too many"):
            read_page(text)


def test_what_is_locked_stays_whatever_is_asked(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    rows, out = tmp_path / "rows.grips", tmp_path / "out.yhinge"
    rows.write_text(
        "key: C\nDm7: D3 C4 ; F4 A4 D5\nG7: G2 F3 ; B3 G4\nCmaj7: C3 B3 ; E4 G4\nA7: A2 G3 ; C#4 E4\n"
    )
    assert run(["convert", str(rows), str(out)]) == 0
    wanted = held(open_song(rows).song)
    assert held(open_song(out).song) == wanted
    for options in ([], ["--takes", "2"], ["--loop"], ["--swaps", "2"], ["--school", "band"]):
        capsys.readouterr()
        assert run(["voice", str(out), *options, "--json"]) == 0
        row = json.loads(capsys.readouterr().out)["chords"]
        assert [(tuple(one["lh"]["midi"]), tuple(one["rh"]["midi"])) for one in row] == wanted, options


def test_every_way_in_knows_the_suffix(tmp_path: Path, library: Library) -> None:
    text = "C: C3 G3 ; E4\nG7: G2 F3 ; B3\n"
    for name in ("rows.grips", "rows.txt", "rows"):
        path = tmp_path / name
        path.write_text(text)
        assert all(open_song(path).song.locked(index) for index in range(2))
    song = open_song(tmp_path / "rows.grips").song
    again = tmp_path / "again.grips"
    again.write_bytes(encode(song, ".grips", library))
    assert held(open_song(again).song) == held(song)


def test_a_swap_is_written_as_what_stands_there(library: Library) -> None:
    song = song_of("| C | G7 |")
    swapped = replace(song.arrangement, swaps={1: (*song.chart.sections[0].bars[0].chords,)})
    song = voice_song(with_arrangement(song, 0, swapped), library, Planner(library)).song
    page = read_page(write(song).decode())
    assert [str(one.chord) for one in page.chart.written] == ["C", "C"] and None not in page.grips
    assert At(1, 1) in song.arrangement.choices and page.chart.written[1].beats == Fraction(4)
