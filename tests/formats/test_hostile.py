"""Input that nobody means well with: every case that was ever found, and a short run of the fuzzer."""

from __future__ import annotations

import io
import json
import re
import resource
import zipfile
from collections.abc import Callable
from fractions import Fraction
from functools import partial

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge import strict
from yellow_hinge.errors import MOST_PROBLEMS, BadInput, Problem, YellowHingeError
from yellow_hinge.formats import chart_text, musicxml, project_file, text_in
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.text_kinds import Kind, kind_of
from yellow_hinge.hands.profile import parse_reach
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.formats import encode
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.grips.page import read_grips
from yellow_hinge.tasks.settings.library import read_own_recipes
from yellow_hinge.tasks.settings.profiles import read_profiles
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.roman import parse_roman
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
SCORE = musicxml.write(demo_song("lantern-ferry")).decode()
PROJECT = json.loads(project_file.write(Song(parse_chart("title: T\n| C | F |"))))


def refused(action: Callable[[], object]) -> tuple[Problem, ...]:
    """The problems of what must be refused, in few words."""
    with pytest.raises(YellowHingeError) as caught:
        action()
    problems = caught.value.problems
    assert 1 <= len(problems) <= MOST_PROBLEMS
    for one in problems:
        assert one.place and one.what and one.remedy and len(str(one)) <= 500
        str(one).encode()
    return problems


@pytest.mark.parametrize(
    "text",
    [
        "| C:1e9999999 |",
        "| C:" + "9" * 5000 + " |",
        "| C:1/0 |",
        "| C:\u0662 |",
        "| C:1_0 |",
        "| " + "x" * 80_000 + " |",
        "| " + "x " * 40_000 + "|",
        "| " + "| ".join(f"x{n} " for n in range(20_000)) + "|",
        "form: Vers\x1f\n[Verse]\n| C |",
        "| " + "C//" * 1500 + "C |",
        "| " + "V/" * 1500 + "V |",
        "key: C\n| " + "V7/" * 1500 + "ii |",
        "tempo: \u00b2\n| C |",
        "tempo: 1e3\n| C |",
        "tempo: " + "9" * 5000 + "\n| C |",
        "meter: \u0663/\u0664\n| C |",
        "[A] x" + "9" * 5000 + "\n| C |",
        "pickup: inf\n| C |",
        "| C |\nmelody: C" + "9" * 5000 + ":4",
        "| C |\nmelody: C5:1e9",
        "| C(((((((((((( |",
        "| " + "C" * 70 + " |",
        "form: " + "A " * 100_000 + "\n[A]\n| C |",
        "[A] x16\n" + "| C " * 3000 + "|",
        "\ud800",
        "| \ud800 |",
        "key: " + "b" * 100_000 + "\n| C |",
        "[" * 50_000,
        "| C |\nlyrics: " + "la " * 50_000,
    ],
    ids=lambda text: ascii(text[:20]),
)
def test_charts(text: str) -> None:
    refused(lambda: parse_chart(text))


def test_other_line_ends_are_made_plain_and_said() -> None:
    found = chart_text.read("title: T\u2028| C |\x0b| F |\r\n| G |\r| Am |".encode())
    assert [str(bar.bar.chords[0].chord) for bar in found.chart.played] == ["C", "F", "G", "Am"]
    assert "line ends" in found.problems[0].what
    assert chart_text.read(b"| C |\r\n| F |\r\n").problems == ()
    assert parse_chart("title: a\u2028| C |\n# \ud800").text == "title: a\n| C |\n# \ufffd"


def test_a_later_section_without_a_name_stays_one() -> None:
    chart = parse_chart("[Verse]\n| C |\n[]\n| F |")
    again = parse_chart(chart_text.write(chart).decode())
    assert [section.name for section in again.sections] == ["Verse", ""] and again.sections == chart.sections


@pytest.mark.parametrize("text", ["V/V/V/V", "V/" * 1500, "VV", "IV" * 4000])
def test_roman_numbers(text: str) -> None:
    refused(lambda: parse_roman(text, parse_key("C")))


def test_two_functions_deep_is_still_read() -> None:
    assert str(parse_roman("V7/ii", parse_key("C"))) == "A7"
    assert str(parse_roman("V7/V/3", parse_key("C"))) == "D7"


@pytest.mark.parametrize("text", ["9" * 5000, "9" * 5000 + ",9", "\u0669", "1e1", "", ","])
def test_reaches(text: str) -> None:
    refused(lambda: parse_reach(text))


@pytest.mark.parametrize(
    "text", ["Am/maj7", "C//C//C", "C(b9", "Cb" + "b" * 4000, "C" + "7" * 4000, "\0", "\ud800"]
)
def test_symbols(text: str) -> None:
    refused(lambda: parse_chord(text))


# --- scores ---


def scored(old: str, new: str) -> bytes:
    assert old in SCORE
    return SCORE.replace(old, new).encode()


DIVISIONS = re.search(r"<divisions>\d+</divisions>", SCORE)


@pytest.mark.parametrize("number", ["1e999", "nan", "-5", "9" * 400, "\u0664", "0", ""])
def test_numbers_in_scores_that_are_none_are_gone_around(number: str) -> None:
    assert DIVISIONS is not None
    for data in (
        scored(DIVISIONS[0], f"<divisions>{number}</divisions>"),
        re.sub(r'tempo="[^"]*"', f'tempo="{number}"', SCORE).encode(),
        re.sub(r"<octave>\d</octave>", f"<octave>{number}</octave>", SCORE).encode(),
        re.sub(r"<fifths>[^<]*</fifths>", f"<fifths>{number}</fifths>", SCORE).encode(),
        re.sub(r"<duration>\d*</duration>", f"<duration>{number}</duration>", SCORE).encode(),
    ):
        chart = musicxml.read(data).chart
        assert chart.played and 20 <= chart.tempo <= 400


def packed(score: bytes, *others: tuple[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in others:
            archive.writestr(name, data)
        archive.writestr("score.musicxml", score)
    return out.getvalue()


@pytest.mark.long
@pytest.mark.parametrize(
    "data",
    [
        b"<score-partwise>" + b"<a/>" * 2_500_000 + b"</score-partwise>",
        b"<a>" * 200_000,
        b"<score-partwise " + b" ".join(b'a%d="1"' % n for n in range(700_000)) + b"/>",
        packed(b"\0" * 11_000_000),
        packed(b"<a/>", *((f"{n}.xml", b"") for n in range(3000))),
        packed(b"<a/>", ("META-INF/container.xml", b"<container>" + b" " * 5_000_000)),
        b"PK" + bytes(range(256)) * 40,
        b"<!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;</a>",
        b"\xff\xfe<\x00",
    ],
    ids=["elements", "depth", "attributes", "zeros", "members", "container", "bytes", "entity", "bom"],
)
def test_scores_that_are_none(data: bytes) -> None:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    refused(lambda: musicxml.read(data))
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 300_000  # KB


def test_every_flipped_byte_of_a_packed_score_is_borne() -> None:
    data = bytearray(packed(SCORE.encode()))
    for place in range(0, len(data), max(1, len(data) // 400)):
        for flip in (1, 128):
            data[place] ^= flip
            try:
                musicxml.read(bytes(data))
            except BadInput as error:
                assert len(str(error.problems[0])) <= 500
            data[place] ^= flip


# --- projects, hands, recipes ---


def project(**changes: object) -> bytes:
    return json.dumps({**PROJECT, **changes}).encode("utf-8", "surrogatepass")


def take(**changes: object) -> bytes:
    return project(takes=[{**PROJECT["takes"][0], **changes}])


HAND = PROJECT["hands"]["left"]
FILL = {"hand": "left", "start_key": 1, "end_key": 2, "key": 3, "offset_beats": "1", "beats": "1"}


@pytest.mark.parametrize(
    "data",
    [
        b"[" * 100_000,
        b'{"a":' * 100_000,
        b"[[[[",
        b"nan",
        b'{"schema": NaN}',
        b'{"a": 1e999}',
        b"9" * 5000,
        b"\xff",
        project(schema="yellow-hinge/project/\u0662"),
        project(schema="yellow-hinge/project/" + "9" * 5000),
        project(hands={**PROJECT["hands"], "left": {**HAND, "reach_mm": 400}}),
        project(hands={**PROJECT["hands"], "left": {**HAND, "home_low": 10**9}}),
        project(takes=[]),
        project(takes=5),
        project(ids=[0, 0]),
        project(lift_st=10**17),
        project(chart=5),
        take(colour=9),
        take(levels={"mud": 9}),
        take(choices=[1]),
        take(swaps={"0": 5}),
        take(id="0"),
        take(asks={"0": {"fills": [{**FILL, "offset_beats": "1e9"}]}}),
    ],
    ids=lambda data: ascii(data[:24]),
)
def test_projects(data: bytes) -> None:
    refused(lambda: project_file.read(data))


def test_half_characters_are_replaced_with_a_remark_and_can_be_saved() -> None:
    opened = project_file.read(project(chart="title: \ud800\n| C |", newer={"\ud800": ["\udfff"]}))
    assert "3 half characters" in opened.problems[0].what
    again = project_file.read(project_file.write(opened.song))
    assert again.song == opened.song and again.problems == ()
    assert again.song.title == "\ufffd" and again.song.unknown == {"newer": {"\ufffd": ["\ufffd"]}}
    for suffix in (".txt", ".musicxml"):
        encode(opened.song, suffix, LIBRARY)


def test_what_is_nested_too_deep_is_said_and_what_is_not_is_kept() -> None:
    deep: object = "x"
    for _ in range(50):
        deep = [deep]
    assert project_file.read(project(newer=deep)).song.unknown == {"newer": deep}
    for _ in range(50):
        deep = [deep]
    assert "nested" in refused(lambda: project_file.read(project(newer=deep)))[0].what


@pytest.mark.parametrize(
    "text",
    [
        "[" * 5000,
        "a = " + "[" * 5000,
        "recipe = 5",
        "recipe = [5]",
        "recipe = []\nrecipe = 5",
        "x = 1e",
        "[[recipe]]",
        'schema = "yellow-hinge/recipes/1"\n[[recipe]]\nid = 5',
        "a = " + "9" * 5000,
        "\0",
    ],
)
def test_recipes(text: str) -> None:
    refused(lambda: read_own_recipes(text.encode(), "own.toml", LIBRARY))


@pytest.mark.parametrize(
    "data", [b"[" * 9999, b"{}", b'{"schema": "x", "profiles": {}}', b"\xff", b'{"profiles": 5}']
)
def test_kept_hands(data: bytes) -> None:
    refused(lambda: read_profiles(data, "hands.json"))


# --- budgets ---


def _abc(body: str) -> bytes:
    return f"X:1\nM:4/4\nL:1/64\nK:C\n{body}\n".encode()


def _text(kind: Kind, data: bytes) -> Imported:
    return text_in.read(kind, data, "song")


def _grips(data: bytes) -> object:
    return read_grips(data.decode(), parse_key("C"))


def _kind(data: bytes) -> Kind:
    return kind_of(data.decode())


@pytest.mark.parametrize(
    ("read", "of", "most", "what"),
    [
        (partial(_text, "abc"), lambda n: _abc("A" * n), 20_000, "20000 notes"),
        (partial(_text, "abc"), lambda n: _abc("A" + "z" * (n - 1)), 20_000, "20000 notes"),
        (partial(_text, "abc"), lambda n: _abc("A" + '"C"' * (n - 1)), 20_000, "20000 notes"),
        (partial(_text, "chart"), lambda n: b"| C |\n" + b"lyrics: la\n" * n, 1_000, "1,000 rows of words"),
        (partial(_text, "chordpro"), lambda n: b"[C]la " * n, 2_000, "2000 chords"),
        (partial(_text, "words"), lambda n: b"C\n" * n, 2_000, "2000 chords"),
        (_kind, lambda n: b"\n" * (n - 1), 10_000, "10,000 lines"),
        (_kind, lambda n: b" " * n, 300_000, "300,000 signs"),
        (_grips, lambda n: b"C: C3 ; E4 G4" + b"\n" * (n - 1), 5_000, "5001 lines"),
    ],
)
def test_each_reader_has_a_budget_and_says_so(
    read: Callable[[bytes], object], of: Callable[[int], bytes], most: int, what: str
) -> None:
    read(of(most))
    assert any(what in problem.what for problem in refused(lambda: read(of(most + 1))))


def test_a_long_chart_is_read_whatever_its_lines() -> None:
    """A bar, its tune and its words each on a line: bars are what is counted."""
    lines = ("| C |\nmelody: C5:4\nlyrics: la\n" * 3_999).encode()
    assert _kind(lines) == "chart" and _text("chart", lines).chart.bars_played == 3_999


def test_verses_of_a_line_beyond_the_fortieth_are_left_out_and_said() -> None:
    body = '"C"A64|\n' + "\n".join(f"w: v{number}" for number in range(1, 42))
    kept = _text("abc", _abc(body.rpartition("\n")[0]))
    assert "v40" in kept.chart.text and not kept.problems
    more = _text("abc", _abc(body))
    assert "v40" in more.chart.text and "v41" not in more.chart.text
    assert [problem.what for problem in more.problems] == ["more than 40 verses"]


def test_sections_of_a_name_are_told_apart_up_to_a_thousand() -> None:
    """Each that comes without chords is one that was there."""
    song = "{soc}\n[C]la [G]le\n{eoc}\n" + "{chorus}\n" * 1_000
    assert "1000 sections" in refused(lambda: _text("chordpro", song.encode()))[0].what
    verses = _text("words", b"".join(b"[Verse]\nC  G\nla le\n" for _ in range(3))).chart
    assert [section.name for section in verses.sections] == ["Verse", "Verse 2", "Verse 3"]


# --- numbers and messages ---


@given(st.text(max_size=30) | st.from_regex(r"-?[0-9./eE_+]{1,14}", fullmatch=True))
def test_strict_numbers_are_those_of_a_pen(text: str) -> None:
    for value in (strict.whole(text), strict.decimal(text), strict.length(text)):
        if value is not None:
            assert re.fullmatch(r"-?[0-9]*\.?[0-9]*(/[0-9]+)?", text) and any(sign.isdigit() for sign in text)
            assert abs(Fraction(value) - Fraction(text.rstrip("."))) < Fraction(1, 10**6)


def test_strict_numbers_by_example() -> None:
    assert [strict.whole(text) for text in ("12", "-3", "007", "", "1.0", "1e3", "9" * 10)] == [
        12, -3, 7, None, None, None, None,
    ]  # fmt: skip
    assert [strict.decimal(text) for text in ("1.5", "-.5", "2.", ".", "1e3", "nan")] == [
        1.5, -0.5, 2.0, None, None, None,
    ]  # fmt: skip
    assert [strict.length(text) for text in ("4/3", "1.5", "1/0", "-1", "1.5/2", "3/00")] == [
        Fraction(4, 3), Fraction(3, 2), None, None, None, None,
    ]  # fmt: skip


@given(st.text(), st.text(), st.text())
def test_messages_are_short_and_can_be_shown(place: str, what: str, remedy: str) -> None:
    said = str(Problem(place * 9, what * 9, remedy * 9))
    assert len(said) <= 500 and "\n" not in said and said.isprintable()
    said.encode()


def test_of_many_problems_the_first_are_said_and_the_rest_counted() -> None:
    error = BadInput(Problem(str(n), "x", "y") for n in range(1234))
    assert len(error.problems) == MOST_PROBLEMS and error.problems[98].place == "98"
    assert "1,135 more" in error.problems[-1].what
