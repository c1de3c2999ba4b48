"""ABC notation in and out, held against another reader."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import music21
import pytest
from hypothesis import given, settings

from made import charts
from yellow_hinge.errors import BadInput
from yellow_hinge.formats import abc_in, abc_out
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.chart import Chart, Syllable

HEAD = "X:1\nT:Weir Reel\nC:A. Maker\nM:4/4\nL:1/8\nK:D\n"


def read(body: str, head: str = HEAD) -> Chart:
    return abc_in.read((head + body).encode()).chart


def tune(chart: Chart) -> list[tuple[Fraction, Fraction, str]]:
    return [(start, length, str(pitch)) for start, length, pitch in chart.tune]


def chords(chart: Chart) -> list[tuple[Fraction, str]]:
    return [(one.start_quarters, str(one.written.chord)) for one in chart.placed]


def test_a_tune_with_chords() -> None:
    chart = read('"D"d2 e>f "G"g4 | "A7"(3abc\' ^c2 z2 "D" d2- | d8 |]\n')
    assert (chart.title, chart.composer, str(chart.key), str(chart.meter)) == (
        "Weir Reel", "A. Maker", "D", "4/4",
    )  # fmt: skip
    assert chords(chart)[:4] == [(0, "D"), (2, "G"), (4, "A7"), (7, "D")]
    assert tune(chart) == [
        (0, 1, "D5"), (1, Fraction(3, 4), "E5"), (Fraction(7, 4), Fraction(1, 4), "F#5"), (2, 2, "G5"),
        (4, Fraction(1, 3), "A5"), (Fraction(13, 3), Fraction(1, 3), "B5"),
        (Fraction(14, 3), Fraction(1, 3), "C#6"), (5, 1, "C#5"), (7, 5, "D5"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("body", "wanted"),
    [
        ('|: "D"d8 | "G"g8 :| "A"a8 |', "D G D G A"),
        ('|: "D"d8 |1 "G"g8 :|2 "A"a8 |] "E"e8 |', "D G D A E"),
        ('|: "D"d8 |[1,2 "G"g8 :|[3 "A"a8 |]', "D G D G D A"),
        ('"D"d8 :: "G"g8 :|', "D D G G"),
        ('"D"d8 | "G"g8 !fine! | "A"a8 !D.C.! |', "D G A D G"),
    ],
)
def test_repeats_and_endings(body: str, wanted: str) -> None:
    imported = abc_in.read((HEAD + body + "\n").encode())
    assert [str(one.written.chord) for one in imported.chart.placed] == wanted.split()
    assert imported.problems == ()


@pytest.mark.parametrize(
    ("key", "name", "note"),
    [("G", "G", "F#5"), ("Am", "Am", "F5"), ("Ddor", "C", "F5"), ("Bb", "Bb", "F5"), ("F#m", "F#m", "F#5"),
     ("Amix", "D", "F#5"), ("Eb", "Eb", "F5"), ("none", "C", "F5"), ("C#", "C#", "F#5")],
)  # fmt: skip
def test_keys_and_modes(key: str, name: str, note: str) -> None:
    chart = read('"D"f8 |\n', HEAD.replace("K:D", f"K:{key}"))
    assert str(chart.key) == name and str(chart.tune[0][2]) == note


def test_accidentals_hold_in_their_bar_alone() -> None:
    assert [one[2] for one in tune(read("^g2 g2 =f2 f2 | g4 f4 |\n"))] == [
        "G#5", "G#5", "F5", "F5", "G5", "F#5",
    ]  # fmt: skip


def test_words_go_to_their_notes() -> None:
    chart = read('"D"d4 e4 | f4- f4 | g4 a4 |\nw: walk by | wa- | ter~side now\n')
    rows = [bar.words for section in chart.sections for bar in section.bars]
    assert [[one.text for one in row[0]] if row else [] for row in rows] == [
        ["walk", "by"], ["wa"], ["ter\u00a0side", "now"],
    ]  # fmt: skip


def test_a_pickup_and_changes_within_the_tune() -> None:
    chart = read('A2 | "D"d8 | [M:3/4] "G"g6 | [K:F] "C"c6 |\n')
    assert chart.pickup == 1 and str(chart.pickup_melody[0].pitch) == "A4"
    assert [str(one.bar.meter) for one in chart.played] == ["4/4", "3/4", "3/4"]
    assert str(chart.played[2].bar.key) == "F"


def test_what_is_not_taken_over_is_said() -> None:
    body = '"D9dd"d8 | "G"g8 |\nV:2\nc8 | c8 |\n'
    imported = abc_in.read((HEAD + "V:1\n" + body).encode(), "t.abc")
    words = " ".join(str(one) for one in imported.problems)
    assert "t.abc, line 8, column 2" in words and "another voice" in words
    assert [str(one.written.chord) for one in imported.chart.placed] == ["None", "G"]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no tune"), ("hello there", "no tune"), (HEAD + "d2 {ab", "without an end"),
        (HEAD + '"D d2', "is missing"), (HEAD + "[ce", "without an end"),
        (HEAD.replace("4/4", "9/7") + "d", "no meter"), (HEAD.replace("1/8", "x") + "d", "no length"),
        (HEAD.replace("K:D", "K:?") + "d", "no key"),
    ],
)  # fmt: skip
def test_bad_tunes_are_refused_with_the_place(text: str, words: str) -> None:
    with pytest.raises(BadInput) as caught:
        abc_in.read(text.encode(), "t.abc")
    assert words in str(caught.value) and "t.abc" in caught.value.problems[0].place


@given(charts())
@settings(deadline=None, max_examples=80)
def test_what_we_write_reads_back(chart: Chart) -> None:
    if not chart.placed:
        return
    again = abc_in.read(abc_out.write(chart)).chart
    assert tune(again) == tune(chart)
    kept = dict(chords(again))
    assert {at: kept.get(at, name) for at, name in chords(chart)} == dict(chords(chart))
    assert parse_chart(again.text) == again


def test_another_reader_reads_what_we_write() -> None:
    from music21 import converter, harmony, stream

    chart = parse_chart(
        "title: Weir\nkey: D\nmeter: 3/4\n[A] x2\n| D | G:2 A7:1 |1. D | A |2. D | D |\n"
        "melody: | D5:1 F#5:1 A5:1 | B5:3/2 A5:1/2 C#5:1 | D5:1/3 E5:1/3 F#5:1/3 D5:2 | E5:3 | D5:3 | A4:3\n"
    )
    found = converter.parse(abc_out.write(chart).decode(), format="abc")
    assert isinstance(found, stream.Score)
    found = found.parts[0].expandRepeats()
    notes = [one for one in found.flatten().notes if not isinstance(one, harmony.Harmony)]
    assert [pitch.midi for one in notes for pitch in one.pitches] == [pitch.key for _, _, pitch in chart.tune]
    assert [float(one.quarterLength) for one in notes] == [float(length) for _, length, _ in chart.tune]


@pytest.mark.long
def test_tunes_that_others_ship_are_read_as_they_read_them() -> None:
    """Single tunes in ABC that music21 ships, some seventy of them: nothing is refused, and most sound the
    same note by note. The others it repeats otherwise, or it forgets which accidentals hold."""
    from music21 import converter, harmony, stream

    found = same = 0
    for path in sorted((Path(music21.__file__).parent / "corpus").rglob("*.abc"))[::15]:
        text = path.read_text("utf-8", errors="replace")
        own = abc_in.read(text.encode(), path.name).chart
        if text.count("X:") != 1 or "V:" in text or len(text) > 4000:
            continue
        theirs = converter.parse(text, format="abc")
        assert isinstance(theirs, stream.Score)
        part = theirs.parts[0]
        assert isinstance(part, stream.Part)
        try:
            part = part.expandRepeats()
        except Exception:
            continue
        found += 1
        notes = [max(p.midi for p in one.pitches) for one in part.stripTies().flatten().notes
                 if not isinstance(one, harmony.Harmony) and not one.duration.isGrace]  # fmt: skip
        same += notes == [pitch.key for _, _, pitch in own.tune]
    assert found >= 50 and same / found >= 0.7, (same, found)


def test_a_voice_laid_over_the_last_bar_leaves_the_tune() -> None:
    chart = abc_in.read((HEAD + '"D"d4 f4 | "G"g8 & G8').encode(), "t.abc").chart
    assert [str(pitch) for _, _, pitch in chart.tune] == ["D5", "F#5", "G5"]


@pytest.mark.parametrize("over", ["&", "& G4 z4", "& Z2", "& z8 &"])
def test_words_stand_under_the_tune_below_what_is_laid_over_it(over: str) -> None:
    """The line of notes may end, without a bar line, before the words come."""
    chart = read(f'"D"d4 f4 | "G"g4 a4 {over}\nw: by the wa-ter\n')
    assert [[one.text for one in bar.bar.words[0]] for bar in chart.played] == [["by", "the"], ["wa", "ter"]]
    assert [str(pitch) for _, _, pitch in chart.tune] == ["D5", "F#5", "G5", "A5"]


def test_words_below_belong_to_a_rest_that_follows_at_once() -> None:
    chart = abc_in.read((HEAD + '"_1:soft""D"d4 z4 | "_1:now""G"z8 |').encode(), "t.abc").chart
    assert [row for bar in chart.played for row in bar.bar.words] == [(Syllable("now"),)]
