"""Lines and phrases in practice, and that the hand that is not drilled is free."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import pytest
from hypothesis import given
from hypothesis import strategies as st

from practice.made import piece
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.practice.drills import Drill, kind_of
from yellow_hinge.practice.listening import Listener, Played, Verdict, Way, judged
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.plan import Shelf, Wishes, plan, what_words
from yellow_hinge.practice.portions import LITTLE_S, MUCH_S, WEAK, WEAKEST, drills_of, weak
from yellow_hinge.practice.simulate import FIRST_DAY
from yellow_hinge.practice.strokes import Stroke, strokes_of
from yellow_hinge.practice.sureness import begun
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.practice.room import piece_of
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library

LINE = """title: Rope Walk
key: F
[A]
| Gm7 | C7 | Fmaj7 | Dm7 | Gm7 | C7 | Fmaj7 | Dm7 |
line: D5+F5:1/2 Eb5:1/2 D5:1 Bb4:2 | E5:1 G5:1 Bb5:2~ | Bb5:1 A5:3 | r:4 | D5:4 | E5:4 | r:4 | A5:4 |
"""


@cache
def with_line() -> Piece:
    library = builtin_library()
    return piece_of(voice_song(Song(parse_chart(LINE)), library, Planner(library)).song, library)


def drill(hands: str, first: int = 0, last: int = 3, kind: str = "phrase") -> Drill:
    return Drill(kind, 0, ((first, last),), hands)  # type: ignore[arg-type]


# --- phrases ---


def test_phrases_are_four_bars() -> None:
    assert with_line().phrases == ((0, 3), (4, 7))
    longer = "[A]\n" + "| C " * 6 + "|\n[B]\n" + "| C " * 5 + "|\n[C]\n| C | F |\n"
    library = builtin_library()
    made = piece_of(voice_song(Song(parse_chart(longer)), library, Planner(library)).song, library)
    assert made.phrases == ((0, 3), (4, 5), (6, 10), (11, 12))


def test_what_a_stretch_is_called() -> None:
    made = piece(LINE.replace("line:", "# line:"))
    half = "[A]\n" + "| C F " * 8 + "|\n"
    library = builtin_library()
    longer = piece_of(voice_song(Song(parse_chart(half)), library, Planner(library)).song, library)
    assert longer.phrases == ((0, 7), (8, 15))
    kinds = [kind_of(longer, *span) for span in ((0, 1), (0, 4), (0, 7), (0, 8), (0, 15))]
    assert kinds == ["change", "chain", "phrase", "section", "song"]
    assert kind_of(made, 0, 3) == "chain"  # four bars of one chord each are a chain
    assert "phrase" in {one.kind for one in drills_of(longer, 0)}
    assert what_words(longer, Drill("phrase", 0, ((8, 15),))) == "Untitled, the phrase in bars 5 to 8"


# --- lines ---


def test_a_hand_with_a_line_has_something_to_play() -> None:
    made = with_line()
    assert not any(made.stands[k].voicing.right.keys for k in (0, 1, 2)) and drill("both").has_line(made)
    assert drill("both").sides(made) == ("left", "right") and not drill("both", 3, 3).has_line(made)
    assert made.stands[0].plays("right") and made.stands[0].plays("left")


@pytest.mark.parametrize(
    ("hands", "count", "left", "right"),
    [("both", 11, True, True), ("right", 9, False, True), ("left", 4, True, False)],
)
def test_right_alone_left_alone_together(hands: str, count: int, left: bool, right: bool) -> None:
    strokes = strokes_of(with_line(), drill(hands))
    assert len([one for one in strokes if one.stand < 3 or hands != "right"]) >= count - 3
    assert any(one.left for one in strokes) is left and any(one.right for one in strokes) is right
    places = [one.at for one in strokes]
    assert places == sorted(places)
    assert {one.free for one in strokes} == {{"both": "", "left": "right", "right": "left"}[hands]}


def test_a_line_is_fingered_and_lasts_as_written() -> None:
    strokes = strokes_of(with_line(), drill("right", 0, 1))
    assert [(float(one.at), float(one.quarters), one.right) for one in strokes[:5]] == [
        (0, 0.5, (74, 77)), (0.5, 0.5, (75,)), (1, 1, (74,)), (2, 2, (70,)), (4, 1, (76,)),
    ]  # fmt: skip
    for one in strokes:
        assert all(1 <= (one.finger(key) or 0) <= 5 for key in one.right)
        assert "finger" in one.who(one.right[0]) or "thumb" in one.who(one.right[0])


def test_the_plan_takes_a_line_hand_by_hand() -> None:
    made = with_line()
    sure = [begun(0.5) for _ in made.changes]
    blocks = [one for one in plan(Shelf([made], sure, FIRST_DAY), Wishes(30.0)) if one.drill]
    lined = [one for one in blocks if one.drill and one.drill.has_line(made)]
    assert {one.hands for one in lined} >= {"left", "right", "both"}
    bare = piece(LINE.replace("line:", "# line:"))
    blocks = list(plan(Shelf([bare], [begun(0.5) for _ in bare.changes], FIRST_DAY), Wishes(30.0)))
    assert {one.hands for one in blocks} <= {"both", "none"}


@pytest.mark.parametrize(
    ("seconds", "power"),
    [
        (0, WEAK), (LITTLE_S, WEAK), (MUCH_S, WEAKEST), (60, WEAKEST),
        ((LITTLE_S + MUCH_S) / 2, (WEAK + WEAKEST) / 2),
    ],
)  # fmt: skip
def test_the_weakest_count_more_where_there_is_time(seconds: float, power: float) -> None:
    assert weak(seconds) == pytest.approx(power)


# --- the other hand is free ---


def stroke(hands: str) -> Stroke:
    return strokes_of(piece(), Drill("chain", 0, ((0, 2),), hands))[0]  # type: ignore[arg-type]


@pytest.mark.parametrize("hands", ["left", "right"])
def test_what_the_other_hand_plays_is_no_fault(hands: str) -> None:
    one = stroke(hands)
    others = [Played(key, 0.4) for key in (30, 50, 75, 90) if key not in one.keys]
    own = [Played(key, 0.01) for key in one.keys]
    assert judged(one, [*own, *others], at=0.0).clean
    missing = judged(one, [*own[1:], *others], at=0.0)
    assert not missing.clean and len(missing.faults) == 1
    both = stroke("both")
    extra = [Played(30, 0.0), *(Played(key, 0.0) for key in both.keys)]
    assert [note.fault for note in judged(both, extra, at=0.0).faults] == ["extra"]


others = st.lists(
    st.tuples(st.floats(0, 4), st.integers(0, 40), st.floats(0.05, 0.5)), min_size=1, max_size=25
)


def heard(hands: str, way: Way, more: Sequence[tuple[float, int, float]]) -> tuple[list[Verdict], int]:
    """A chain played as it should be by one hand, at half a second a quarter, with keys of the other hand."""
    strokes = strokes_of(piece(), Drill("chain", 0, ((0, 2),), hands))  # type: ignore[arg-type]
    every = {key for one in strokes for key in one.keys}
    events: list[tuple[float, int, int]] = []
    for one in strokes:
        at = float(one.at) / 2
        events += [(at, key, 80) for key in one.keys]
        events += [(at + float(one.quarters) / 2 - 0.02, key, 0) for key in one.keys]
    for at, step, lasts in more:
        key = max(every) + 1 + step if hands == "left" else min(every) - 1 - step
        events += [(at, key, 70), (at + lasts, key, 0)]
    listener = Listener(strokes, way, 0.5)
    found: list[Verdict] = []
    for at, key, velocity in sorted(events):
        found += listener.feed(key, velocity, at)
    return [*found, *listener.tick(20.0), *listener.rest()], len(strokes)


@pytest.mark.parametrize("hands", ["left", "right"])
@pytest.mark.parametrize("way", ["wait", "time", "free"])
@given(others)
def test_one_hand_is_heard_through_the_other(
    hands: str, way: Way, more: list[tuple[float, int, float]]
) -> None:
    verdicts, count = heard(hands, way, more)
    assert len(verdicts) == count and all(one.clean for one in verdicts)


@pytest.mark.parametrize("way", ["wait", "time", "free"])
def test_a_slip_of_the_drilled_hand_is_still_a_slip(way: Way) -> None:
    strokes = strokes_of(piece(), Drill("chain", 0, ((0, 2),), "right"))
    listener, found = Listener(strokes, way, 0.5), []
    for one in strokes:
        for key in one.keys:
            wrong = key + 1 if key == one.keys[-1] and one is strokes[1] else key
            found += listener.feed(wrong, 80, float(one.at) / 2)
        if way == "wait" and one is strokes[1]:
            assert listener.hint is not None and listener.hint.faults
            found += listener.feed(one.keys[-1], 80, float(one.at) / 2 + 0.1)
        for key in sorted(listener.down):
            found += listener.feed(key, 0, float(one.at + one.quarters) / 2 - 0.02)
    found += [*listener.tick(20.0), *listener.rest()]
    slips = [not one.clean for one in found]
    assert slips == ([False] * 3 if way == "wait" else [False, True, False])
