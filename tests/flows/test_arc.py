"""An arc over a song: levels with textures of their own, voiced in one search, heard as rising."""

from __future__ import annotations

import json
from itertools import pairwise

import pytest

from made import heard_levels, song_of
from yellow_hinge.cli import run
from yellow_hinge.errors import BadInput
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.counts import fits
from yellow_hinge.rhythm.fullness import (
    ARCS,
    LEVELS,
    Texture,
    notes_in,
    shape,
    strokes_a_quarter,
    textures,
    variant,
)
from yellow_hinge.rhythm.patterns import builtin_patterns
from yellow_hinge.rhythm.struck import Struck, strongest
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.edits import choose, settle
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.takes.arc import (
    base_of,
    laid_arc,
    levels_of,
    read_arc,
    without_arc,
)
from yellow_hinge.tasks.takes.desk import rounds_of
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
PATTERNS = builtin_patterns()
CHART = """title: Low Water
key: Bb
meter: {meter}
tempo: 96
form: Verse Bridge Verse Bridge Verse
[Verse]
| Bbmaj7 | Gm7 | Cm7 | F7 |
[Bridge]
| Ebmaj7 | Dm7 | Cm7 F7 | Bb6 |
"""


def song(meter: str = "4/4", school: str = "solo") -> Song:
    return settle(song_of(CHART.format(meter=meter)), school=school).song


@pytest.mark.parametrize("meter", ["4/4", "3/4", "6/8"])
@pytest.mark.parametrize("school", ["solo", "band"])
def test_every_level_is_heard_above_the_one_below(meter: str, school: str) -> None:
    laid = laid_arc(song(meter, school), (1, 2, 3, 4, 5), LIBRARY)
    voiced = voice_song(laid, LIBRARY, Planner(LIBRARY))
    assert voiced.answer.optimal and levels_of(voiced.song) == (1, 2, 3, 4, 5)
    heard = heard_levels(voiced.song)
    assert [one.level for one in heard] == [1, 2, 3, 4, 5]
    for below, above in pairwise(heard):
        assert below.per_quarter < above.per_quarter
        assert below.range_st < above.range_st
        assert below.velocity < above.velocity


def test_all_levels_are_one_search_and_one_route() -> None:
    start = song()
    locked = choose(start, 0, voice_song(start, LIBRARY, Planner(LIBRARY)).song.voicing(0)).song  # type: ignore[arg-type]
    laid = laid_arc(locked, (2, 4, 2, 4, 1), LIBRARY)
    assert levels_of(laid) == (2, 4, 2, 4, 1) and len(laid.takes) == 1 + 3
    words = ("bare", "light", "full")
    assert [take.name for take in laid.takes[1:]] == [f"First take, {one}" for one in words]
    assert all(laid.locked(one.first) for one in rounds_of(laid) if one.section == "Verse")
    voiced = voice_song(laid, LIBRARY, Planner(LIBRARY))
    alone = [
        voice_song(laid_arc(locked, (level,) * 5, LIBRARY), LIBRARY, Planner(LIBRARY)).answer.cost
        for level in (1, 2, 4)
    ]
    assert voiced.answer.optimal and min(alone) > 0
    assert base_of(voiced.song).id == 0 and without_arc(voiced.song) == locked
    again = laid_arc(voiced.song, (3, 3, 3, 3, 3), LIBRARY)
    assert len(again.takes) == 2 and levels_of(again) == (3,) * 5


def test_rounds_at_one_level_differ_to_the_ear() -> None:
    laid = laid_arc(song(), (4, 2, 4, 2, 4), LIBRARY)
    playing, rounds = Playing(laid), rounds_of(laid)
    played = [tuple(playing.pattern(one.first, hand).id for hand in ("left", "right")) for one in rounds]
    assert played[0] == played[4] and played[0] != played[2] and played[1] != played[3]


def test_what_the_player_fixed_stays() -> None:
    laid = laid_arc(song(), (1, 3, 5, 3, 1), LIBRARY, {"left": "stride"})
    playing = Playing(laid)
    assert {playing.pattern(one.first, "left").id for one in rounds_of(laid)} == {"stride"}
    assert len({playing.pattern(one.first, "right").id for one in rounds_of(laid)}) > 1


@pytest.mark.parametrize(
    ("text", "levels"),
    [("1,2,3,4,5", (1, 2, 3, 4, 5)), (" 2 , 2,2,2, 2", (2,) * 5)],
)
def test_an_arc_is_read(text: str, levels: tuple[int, ...]) -> None:
    assert read_arc(text, song()) == levels


def test_rounds_in_a_row_may_share_a_level() -> None:
    twice = song_of("[A] x3\n| C |\n[B]\n| F |\n")
    assert read_arc("2,4", twice) == (2, 2, 2, 4) and read_arc("1,2,3,4", twice) == (1, 2, 3, 4)


@pytest.mark.parametrize("text", ["", "1,2", "1,2,3,4,6", "0,1,1,1,1", "1,2,3,4,5,5", "a,b", "1;2;3;4;5"])
def test_what_is_no_arc_is_said(text: str) -> None:
    with pytest.raises(BadInput) as caught:
        read_arc(text, song())
    assert caught.value.problems[0].place == "--arc" and caught.value.problems[0].remedy


def test_on_the_command_line(tmp_path: object, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "a.txt"  # type: ignore[operator]
    path.write_text(CHART.format(meter="4/4"))
    velocity = []
    for level in (1, 5):
        assert run(["events", str(path), "--arc", ",".join([str(level)] * 5), "--json"]) == 0
        notes = json.loads(capsys.readouterr().out)["events"]
        velocity.append((len(notes), sum(one["velocity"] for one in notes) / len(notes)))
    assert velocity[0][0] * 3 < velocity[1][0] and velocity[0][1] + 20 < velocity[1][1]
    assert run(["voice", str(path), "--arc", "1,2", "--json"]) == 2
    assert "5 sections" in capsys.readouterr().err


# --- the textures ---


METERS = [Meter(4, 4), Meter(3, 4), Meter(6, 8), Meter(5, 4), Meter(7, 8), Meter(2, 4)]


@pytest.mark.parametrize("meter", METERS)
def test_textures_rise(meter: Meter) -> None:
    found = textures((1, 3, 5, 2, 4), meter, 100, False, PATTERNS)
    rates = [found[level].per_quarter for level in sorted(found)]
    if str(meter) in ("4/4", "3/4", "6/8"):
        assert all(below * 1.2 <= above for below, above in pairwise(rates))
    for one in found.values():
        for hand, pattern in (("left", one.left), ("right", one.right)):
            assert (hand in pattern.hands and fits(pattern, meter)) or pattern.id == "held"
            assert not any(stroke.way for stroke in pattern.strokes)


def test_fast_songs_have_calm_textures() -> None:
    for tempo in (60, 300, 380):
        found = textures((5,), Meter(4, 4), tempo, False, PATTERNS)[5]
        rates = [float(strokes_a_quarter(one, Meter(4, 4))) for one in (found.left, found.right)]
        assert max(rates) * tempo / 60 <= 5


def test_swung_patterns_are_for_songs_that_swing() -> None:
    for level in LEVELS:
        even = textures((level,), Meter(4, 4), 120, False, PATTERNS)[level]
        assert {even.left.feel, even.right.feel} == {"straight"}


@pytest.mark.parametrize(
    ("kind", "levels"),
    [
        ("flat", (3, 3, 3, 3)), ("rising", (1, 2, 4, 5)), ("wave", (1, 4, 4, 1)), ("quiet", (3, 4, 4, 1)),
        ("verse", (2, 4, 3, 5)),
    ],
)  # fmt: skip
def test_arcs_that_ship(kind: str, levels: tuple[int, ...]) -> None:
    assert kind in ARCS and shape(kind, ("Verse", "Chorus", "Verse", "Chorus")) == levels
    assert shape(kind, ("Song",))[0] in LEVELS


def test_a_variant_is_of_the_same_family_and_as_full() -> None:
    for pattern in PATTERNS.values():
        for hand in pattern.hands:
            meter = Meter(*map(int, pattern.meters[0].split("/")))
            other = variant(pattern, hand, meter, PATTERNS)
            assert other.family == pattern.family and hand in other.hands
            assert abs(notes_in(other, meter, 3) - notes_in(pattern, meter, 3)) <= 1


@pytest.mark.parametrize(
    ("level", "hand", "pattern", "struck"),
    [
        (1, "left", "held", Struck(1, 1, floor=47)), (1, "right", "held", Struck(2, 2)),
        (2, "left", "waltz", Struck(3, 3, floor=43)), (5, "left", "held", Struck(3, 4, ceiling=41)),
        (5, "left", "gospel-octave-chord", Struck(3, 4, below=True, ceiling=41)),
        (4, "right", "held", Struck(3, 4)),
    ],
)  # fmt: skip
def test_what_a_level_asks_of_a_hand(level: int, hand: str, pattern: str, struck: Struck) -> None:
    assert LEVELS[level].struck(hand, PATTERNS[pattern]) == struck  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("struck", "low", "over", "off"),
    [
        (Struck(), 20, False, 0), (Struck(floor=47), 47, False, 0), (Struck(floor=47), 46, False, 1),
        (Struck(floor=47), 53, True, 1), (Struck(floor=47), 54, True, 0), (Struck(ceiling=41), 41, False, 0),
        (Struck(ceiling=41), 43, False, 2), (Struck(ceiling=41), 48, True, 0),
        (Struck(ceiling=41), 49, True, 1),
        (Struck(below=True, ceiling=41), 49, False, 0), (Struck(below=True, ceiling=41), 50, False, 1),
    ],
)  # fmt: skip
def test_how_far_a_bass_is_off(struck: Struck, low: int, over: bool, off: int) -> None:
    assert struck.off_st(low, over) == off


@pytest.mark.parametrize(
    ("struck", "notes", "off"),
    [(Struck(3), 2, 1), (Struck(3), 3, 0), (Struck(3), 5, 0), (Struck(1, 2), 2, 0), (Struck(1, 2), 4, 2)],
)
def test_how_many_notes_are_off(struck: Struck, notes: int, off: int) -> None:
    assert struck.off(notes) == off


def test_grips_for_several_rhythms_serve_the_one_that_needs_most() -> None:
    assert strongest([Struck(1, 2), Struck(3, 3)]) == Struck(3, 3)
    assert strongest([Struck(1, 0), Struck(3, 3)]) == Struck(3, 0)
    assert strongest([Struck(below=True), Struck()]) == Struck() != strongest([Struck(below=True)])
    assert strongest([Struck(floor=47), Struck(floor=43)]) == Struck(floor=43)
    assert strongest([Struck(ceiling=41), Struck()]) == Struck()
    assert strongest([Struck(ceiling=41), Struck(ceiling=46)]) == Struck(ceiling=46)


def test_a_texture_says_how_hard_it_is() -> None:
    soft = Texture(PATTERNS["held"], PATTERNS["waltz-lifted"], 1.0)
    assert soft.touch(3) < Texture(PATTERNS["held"], PATTERNS["held"], 1.0).touch(3) == LEVELS[3].touch
