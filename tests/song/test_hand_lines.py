"""Lines of one hand: rows of the chart, what they do to the grips, how they sound, how they come back."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import song_of
from yellow_hinge.errors import BadInput
from yellow_hinge.formats import chart_text
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.formats.chart_text.transpose import transpose_text
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.patterns import Hand
from yellow_hinge.song.chart import move_between
from yellow_hinge.song.edits import change_key, settle
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.song.groove_edits import set_riff, set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.song.walk import perform
from yellow_hinge.tasks.rhythm.line_desk import read_riff
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
CHART = """key: F
meter: 4/4
[A] x2
| Gm7 | C7 Dm7 | Fmaj7 | N.C. |
line: D5+F5:1/2 Eb5:1/2 r:1 Bb4:2~ | Bb4:1 G4:1 A4:2 | r:3 F5:1 | E5:4
line left: | | | r:2 C3:2 |
"""


def song(chart: str = CHART) -> Song:
    return song_of(chart)


def voiced(chart: str = CHART) -> Song:
    return voice_song(song(chart), LIBRARY, Planner(LIBRARY)).song


def keys_of(made: Song, hand: Hand) -> list[tuple[Fraction, Fraction, tuple[int, ...]]]:
    return [(one.start_quarters, one.quarters, one.keys) for one in made.chart.line(hand)]


def test_a_line_is_read_with_ties_over_bars() -> None:
    half = Fraction(1, 2)
    assert keys_of(song(), "right")[:6] == [
        (0, half, (74, 77)), (half, half, (75,)), (2, 3, (70,)), (5, 1, (67,)), (6, 2, (69,)), (11, 1, (77,)),
    ]  # fmt: skip
    assert keys_of(song(), "right")[7] == (16, half, (74, 77))  # the second round
    assert keys_of(song(), "left") == [(10, 2, (48,)), (26, 2, (48,))]


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("line: D5:3", "3 of 4 beats are given"), ("line: H5:4", "is no note of a line"),
        ("line: D5+:4", "is no note of a line"), ("line: C5+D5+E5+F5+G5+A5:4", "is no note of a line"),
        ("line: D5+D5:4", "is no note of a line"), ("line: D5:2~ E5:2", "tied to something else"),
        ("line: D5:4~", "tied to something else"), ("line: D5:2~ r:2", "tied to something else"),
        ("line: D5:4 | D5:4", "more bars than the row above"),
        ("line: D5:4\nline: D5:4", "a line of the right hand already"),
        ("line left: D3:4\nline left: D3:4", "a line of the left hand already"),
    ],
)  # fmt: skip
def test_a_bad_line_is_said_with_its_place(line: str, said: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_chart(f"[A]\n| C |\n{line}\n")
    assert any(said in problem.what for problem in caught.value.problems)
    assert all(problem.line >= 3 and problem.remedy for problem in caught.value.problems)


def test_a_line_needs_bars_above_it_and_may_have_five_notes() -> None:
    with pytest.raises(BadInput):
        parse_chart("line: C5:4\n| C |\n")
    assert parse_chart("| C |\nline: C4+E4+G4+B4+D5:4\n").line("right")[0].keys == (60, 64, 67, 71, 74)
    assert not parse_chart("| C |\nline: D5:4\n| % |\n").sections[0].bars[1].line


words = st.sampled_from(["C5", "Eb5", "F#4", "r", "C4+E4", "G3+Bb3+D4"])
rows = st.lists(st.lists(words, min_size=1, max_size=4), min_size=1, max_size=4)


@given(rows, rows)
def test_what_is_written_is_read_again_and_comes_back_from_another_key(
    right: list[list[str]], left: list[list[str]]
) -> None:
    def row(head: str, bars: list[list[str]]) -> str:
        return f"{head}: " + " | ".join(" ".join(bar) for bar in bars)

    text = "key: C\n| C | F | G | C |\n" + row("line", right) + "\n" + row("line left", left) + "\n"
    chart = parse_chart(text)
    again = parse_chart(chart_text.write(chart).decode())
    for hand in ("right", "left"):
        assert again.line(hand) == chart.line(hand)
    there, back = move_between(parse_key("C"), parse_key("Eb")), move_between(parse_key("Eb"), parse_key("C"))
    moved = parse_chart(transpose_text(text, there))
    assert [[key - 3 for key in one.keys] for one in moved.line("right")] == [
        list(one.keys) for one in chart.line("right")
    ]
    home = parse_chart(transpose_text(transpose_text(text, there), back))
    assert home.line("left") == chart.line("left")


# --- the other hand has the chords ---


def test_the_hand_with_the_line_rests_from_chords() -> None:
    made = song()
    assert [sorted(made.in_line(slot.index)) for slot in made.slots[:5]] == [
        ["right"], ["right"], ["right"], [], ["right"],
    ]  # fmt: skip
    wishes = [place.wish for place in progression(made, LIBRARY).places]
    assert [None if wish is None else wish.hands for wish in wishes] == ["left", "left", "left", "both", None]
    solved = voiced()
    for slot in solved.slots:
        voicing = solved.voicing(slot.index)
        if slot.chord is not None and voicing is not None:
            assert bool(voicing.right.keys) == ("right" not in solved.in_line(slot.index))
            assert voicing.left.keys


@pytest.mark.parametrize(
    ("line", "busy"),
    [
        ("C5:4", True), ("r:1 C5:3", True), ("r:5/4 C5:11/4", False), ("r:2 C5:2", False),
        ("C5:1/2 r:7/2", True), ("r:4", False), ("r:1 C5:1 r:1 C5:1", False),
    ],
)  # fmt: skip
def test_a_line_that_leaves_time_for_the_chord_leaves_the_chord(line: str, busy: bool) -> None:
    made = song(f"| C |\nline: {line}\n")
    assert made.in_line(0) == (frozenset({"right"}) if busy else frozenset())


def test_what_a_chord_or_the_song_says_of_hands_goes_before() -> None:
    made = settle(song(), hands="right").song
    assert {place.wish.hands for place in progression(made, LIBRARY).places if place.wish} == {"right"}
    both = song("| C |\nline: C5:4\nline left: C3:4\n")
    assert progression(both, LIBRARY).places[0].wish is None  # both hands have a line: nobody has the chord


def test_a_chord_is_let_go_when_its_hand_begins_a_line() -> None:
    made = voiced("key: C\n| C | F |\nline: r:2 C6:2\nline left: | | r:3 C3:1\n")
    playing = Playing(made)
    right = [one for one in playing.of_slot(0, "right") if one.part == "right"]
    assert right and all(one.end_quarters <= 4 and one.key < 84 for one in right)
    reach = made.hands.right.reach_mm
    assert reach and all(one.end_quarters == 2 or 84 - one.key <= 12 for one in right)
    left = playing.of_slot(1, "left")
    assert left and all(one.end_quarters == 7 for one in left)
    assert [one.end_quarters for one in playing.of_slot(1, "right")] == [8] * len(playing.of_slot(1, "right"))


def test_a_line_of_the_take_goes_before_the_charts() -> None:
    made = song()
    own = (RiffNote(Fraction(0), Fraction(4), 60),)
    changed = set_riff(made, made.slots[0].at, own).song
    assert changed.line_over(0) == own and changed.line_over(1) == made.line_over(1)
    assert [note.key for note in made.line_over(0)] == [74, 77, 75, 70]


def test_a_line_goes_with_the_key() -> None:
    made = change_key(song(), parse_key("G")).song
    assert [note.key for note in made.line_over(0)] == [76, 79, 77, 72]


def test_a_line_sounds_once_and_harder_than_the_chords() -> None:
    heard = [one for one in perform(voiced()).notes if one.part == "riff"]
    assert [(float(one.start_quarters), one.key) for one in heard[:3]] == [(0, 74), (0, 77), (0.5, 75)]
    assert all(one.ornament for one in heard)
    assert len({(one.start_quarters, one.key) for one in heard}) == len(heard)


def test_the_tune_is_played_by_a_hand_that_rests() -> None:
    made = settle(song("key: C\n| C | F |\nmelody: E5:4 | C5:4\n"), hands="left").song
    made = voice_song(set_texture(made, None, "x", {"tune": True}).song, LIBRARY, Planner(LIBRARY)).song
    assert not any(made.voicing(k).right.keys for k in (0, 1))  # type: ignore[union-attr]
    right = [(one.start_quarters, one.key) for one in perform(made, melody=True).notes if one.part == "right"]
    assert right == [(0, 76), (4, 72)]


# --- degrees and reasons ---


def said(line: str, index: int = 0, chart: str = "| C | Am7 |") -> list[str]:
    made = song(f"key: C\n{chart}\nline: {line}\n")
    return [one.words for one in read_riff(made, index)]


@pytest.mark.parametrize(
    ("line", "place", "words"),
    [
        ("E5:4 | C5:4", 0, "E5, 3, there 5"), ("E5:3 B4:1 | C5:4", 1, "B4, 7, a step from the next b3"),
        ("E5:1 D5:1 C5:2 | r:4", 1, "a whole step into C5"), ("E5:4 | r:4", 0, "a target on a strong count"),
        ("G5:4 | r:4", 0, "a chord tone on a strong count"), ("r:1 G5:3 | r:4", 0, "a chord tone on the way"),
        ("r:1 A5:3 | r:4", 0, "a note of the scale on the way"),
        ("D5:4 | r:4", 0, "colour on a strong count"),
    ],
)  # fmt: skip
def test_every_note_says_what_it_is_and_why(line: str, place: int, words: str) -> None:
    assert words in said(line)[place]


@pytest.mark.parametrize(
    ("line", "rubs"),
    [
        ("E5:3 D#5:1 | E5:4", False),  # weak, short, and by step into the next chord
        ("E5:3 D#5:1 | G5:4", False),  # it came by step
        ("G5:3 D#5:1 | G5:4", True), ("D#5:4 | E5:4", True), ("r:1 D#5:3 | E5:4", True),
    ],
)  # fmt: skip
def test_the_wrong_third_is_not_said_of_an_approach(line: str, rubs: bool) -> None:
    assert any("rubs" in words for words in said(line)) is rubs
