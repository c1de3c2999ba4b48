"""Patterns: what is read, what is refused, and what they strike."""

from __future__ import annotations

from collections import defaultdict
from fractions import Fraction
from itertools import combinations
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.errors import BadInput
from yellow_hinge.rhythm.counts import counts_of, fits, grid_of, groups, in_words, laid, said_at
from yellow_hinge.rhythm.patterns import (
    HANDS,
    WHAT,
    Pattern,
    Stroke,
    builtin_patterns,
    count_text,
    pattern_in,
    pattern_out,
    pattern_text,
    read_count,
    read_patterns,
    read_stroke,
)
from yellow_hinge.rhythm.realise import Grip, Realised, Stretch, joined, realise, struck, untangled
from yellow_hinge.rhythm.time import Meter

TABLE = Path(__file__).parent.parent / "data" / "pattern_events.txt"
GRIP, AFTER = Grip((48, 52, 55, 59), 7), Grip((50, 53, 57, 60), 9)
METERS = [Meter(*map(int, text.split("/"))) for text in
          ("2/4", "3/4", "4/4", "5/4", "6/8", "7/8", "9/8", "12/8", "2/2")]  # fmt: skip
HEAD = 'schema = "yellow-hinge/patterns/1"\n'

every_pattern = pytest.mark.parametrize("pattern", builtin_patterns().values(), ids=list(builtin_patterns()))


def bar(meter: Meter) -> Stretch:
    return Stretch(Fraction(0), Fraction(0), meter.quarters, meter, 0)


def table() -> list[tuple[str, str, str]]:
    rows = [line for line in TABLE.read_text().splitlines() if line and not line.startswith("#")]
    return [(*line.partition(" | ")[0].split(), line.partition(" | ")[2]) for line in rows]  # type: ignore[misc]


def test_the_table_has_thirty_pairs_and_more() -> None:
    assert len({(name, meter) for name, meter, _ in table()}) >= 30


@pytest.mark.parametrize(("name", "meter", "strokes"), table())
def test_what_a_pattern_strikes(name: str, meter: str, strokes: str) -> None:
    wanted: dict[tuple[Fraction, Fraction], set[int]] = {}
    for stroke in strokes.split(","):
        place, *keys = stroke.split()
        start, length = map(Fraction, place.split(":"))
        wanted[start, length] = set(map(int, keys))
    one = realise(
        builtin_patterns()[name], GRIP, AFTER, bar(Meter(*map(int, meter.split("/")))), "left", velocity=64
    )
    found: dict[tuple[Fraction, Fraction], set[int]] = defaultdict(set)
    for note in untangled(one.notes):
        found[note.start_quarters, note.quarters].add(note.key)
    assert dict(found) == wanted


def test_there_are_forty_that_differ_on_one_grip() -> None:
    assert len(builtin_patterns()) >= 40
    for hand in HANDS:
        own = [one for one in builtin_patterns().values() if hand in one.hands]
        assert len(own) >= 40
        for a, b in combinations(own, 2):
            for meter in {*a.meters} & {*b.meters}:
                stretch = bar(Meter(*map(int, meter.split("/"))))
                assert realise(a, GRIP, AFTER, stretch, hand, velocity=64) != realise(
                    b, GRIP, AFTER, stretch, hand, velocity=64
                )


@every_pattern
def test_a_pattern_is_made_for_its_meters(pattern: Pattern) -> None:
    assert pattern.meters and pattern.name[0].isupper()
    for meter in map(str, METERS):
        assert fits(pattern, Meter(*map(int, meter.split("/")))) == (meter in pattern.meters)
    if pattern.counts:
        whole = [Meter(*map(int, meter.split("/"))) for meter in pattern.meters]
        assert all((meter.quarters * pattern.unit / 4) % pattern.counts == 0 for meter in whole)


@every_pattern
def test_every_named_count_is_struck_in_its_own_meters(pattern: Pattern) -> None:
    for text in pattern.meters:
        meter = Meter(*map(int, text.split("/")))
        found = {
            note.start_quarters
            for note in realise(pattern, GRIP, AFTER, bar(meter), "left", velocity=64).notes
        }
        for stroke in pattern.strokes:
            assert stroke.at * 4 / pattern.unit in found


@every_pattern
def test_a_pattern_comes_back_from_its_text(pattern: Pattern) -> None:
    assert pattern_in(pattern_out(pattern)) == pattern
    assert read_patterns(HEAD + pattern_text(pattern), "x") == {pattern.id: pattern}


grips = st.lists(st.integers(30, 90), min_size=0, max_size=5, unique=True).map(
    lambda keys: Grip(tuple(sorted(keys)), 7)
)


@st.composite
def stretches(draw: st.DrawFn) -> Stretch:
    meter = draw(st.sampled_from(METERS))
    unit = meter.quarters_per_beat
    first = draw(st.integers(0, meter.beats - 1))
    beats = draw(st.integers(1, meter.beats - first))
    half = draw(st.sampled_from((Fraction(0), unit / 2)))
    return Stretch(Fraction(8), first * unit, beats * unit - half, meter, 3)


@given(st.sampled_from(list(builtin_patterns().values())), grips, grips, stretches(),
       st.sampled_from(("", "ending", "fill")))  # fmt: skip
def test_whatever_is_played_is_sensible(
    pattern: Pattern, grip: Grip, after: Grip, stretch: Stretch, form: str
) -> None:
    one = realise(pattern, grip, after, stretch, "left", velocity=64, form=form)  # type: ignore[arg-type]
    assert bool(one.notes) == bool(grip.keys)
    for note in one.notes:
        assert stretch.start <= note.start_quarters < stretch.end
        assert note.quarters > 0 and note.end_quarters <= stretch.end
        assert (note.key in grip.keys) or note.ornament
        assert 1 <= note.velocity <= 127 and note.slot == 3 and 0 <= note.key <= 127
    clear = untangled(one.notes)
    for a, b in combinations(clear, 2):
        assert a.key != b.key or a.end_quarters <= b.start_quarters or b.end_quarters <= a.start_quarters or (
            {a.way, b.way} == {"grace", ""}
        )  # fmt: skip


@given(st.integers(1, 40), st.integers(1, 16))
def test_cells_fill_a_row_of_counts(length: int, cell: int) -> None:
    sizes = groups(length, cell)
    assert sum(sizes) == length and all(1 <= size <= cell for size in sizes)


@pytest.mark.parametrize("meter", METERS)
def test_counts_fill_the_bar(meter: Meter) -> None:
    assert sum(counts_of(meter)) == meter.quarters


def test_five_are_three_and_two_and_seven_two_two_three() -> None:
    assert groups(5, 4) == [3, 2] and groups(7, 2) == [2, 2, 2, 1] and groups(4, 4) == [4]
    assert counts_of(Meter(7, 8)) == (1, 1, Fraction(3, 2))
    assert counts_of(Meter(6, 8)) == (Fraction(3, 2),) * 2 and counts_of(Meter(3, 8)) == (Fraction(3, 2),)


def test_a_short_chord_has_the_short_form() -> None:
    pattern, meter = builtin_patterns()["bass-chord-octave-chord"], Meter(4, 4)
    half = laid(pattern, meter, Fraction(2), Fraction(2))
    assert [(str(one.at), one.what) for one in half] == [("0", "bottom"), ("1", "upper")]
    three = laid(pattern, meter, Fraction(1), Fraction(3))
    assert [one.what for one in three] == ["bottom", "upper", "below"]
    one = laid(pattern, meter, Fraction(7, 2), Fraction(1, 2))
    assert [(one.at, one.what) for one in one] == [(0, "bottom")]


def test_an_off_beat_pattern_strikes_a_chord_that_is_too_short_for_it() -> None:
    pattern = builtin_patterns()["off-beats"]
    [stroke] = laid(pattern, Meter(4, 4), Fraction(0), Fraction(1, 2))
    assert (stroke.at, stroke.what) == (0, "all")


def test_an_early_chord_is_tied_into_its_own() -> None:
    pattern = builtin_patterns()["pushed"]
    row = [
        realise(pattern, GRIP, AFTER, bar(Meter(4, 4)), "right", velocity=64),
        realise(
            pattern,
            AFTER,
            None,
            Stretch(Fraction(4), Fraction(0), Fraction(4), Meter(4, 4), 1),
            "right",
            velocity=64,
        ),
    ]
    notes = joined(row)
    early = [note for note in notes if note.start_quarters == Fraction(7, 2)]
    assert {(note.key, note.quarters) for note in early} == {(key, Fraction(5, 2)) for key in AFTER.keys}
    assert all(note.ornament for note in early)
    assert not [note for note in notes if note.start_quarters == 4]
    alone = joined([row[0], Realised(())])
    assert max(note.end_quarters for note in alone) == 4  # nothing to be tied to


@pytest.mark.parametrize(
    ("what", "keys", "wanted"),
    [
        ("upper", (48,), (48,)), ("inner", (48, 60), (60,)), ("inner", (48, 52, 60), (52,)),
        ("b4", (48, 52, 55), (52,)), ("t3", (48, 52), (52,)), ("t4", (48, 52, 55), (52,)),
        ("b3", (48,), (48,)), ("outer", (48,), (48,)),
        ("octave", (48, 52), (60,)), ("below", (48, 52), (36,)), ("below", (40, 52), (52,)),
        ("octaves", (45, 52), (33, 45)), ("fifth", (52, 59), (55,)), ("next", (48,), (50, 53, 57, 60)),
        ("lead", (48,), (49,)), ("lead", (55,), (51,)), ("octave", (120,), (120,)), ("all", (), ()),
    ],
)  # fmt: skip
def test_what_is_struck(what: str, keys: tuple[int, ...], wanted: tuple[int, ...]) -> None:
    assert struck(what, Grip(keys, 7), AFTER) == wanted


def test_a_chord_without_a_fifth_and_the_last_chord() -> None:
    assert struck("fifth", Grip((48, 52)), None) == (48,)
    assert struck("next", GRIP, None) == GRIP.keys and struck("lead", GRIP, None) == (47,)


@given(st.fractions(0, 15, max_denominator=12))
def test_counts_are_written_and_read(at: Fraction) -> None:
    assert read_count(count_text(at)) == at


@pytest.mark.parametrize("text", ["", "0", "x", "1x", "1+", "1+1", "1+3/2", "&", "-1", "1.5", "1e1"])
def test_what_is_no_count(text: str) -> None:
    assert read_count(text) is None


@pytest.mark.parametrize(
    "text",
    ["1 all", "2& top for 1/2 soft", "3+1/3 b2 for 1+1/2 hard rolled short", "1a next tied",
     "4 top half-below"],
)  # fmt: skip
def test_strokes_are_written_as_they_are_read(text: str) -> None:
    assert str(read_stroke(text)) == text


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "does not begin with a count"), ("all 1", "does not begin"), ("1", "does not say what"),
        ("1 everything", "does not say what"), ("1 all for", "a length is"), ("1 all for 0", "a length is"),
        ("1 all for 99", "a length is"), ("1 all loud", "'loud' is none of"),
    ],
)  # fmt: skip
def test_strokes_that_make_no_sense_are_said(text: str, words: str) -> None:
    with pytest.raises(ValueError, match=words):
        read_stroke(text)


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ('id = "Big"\nname = "x"\nstrokes = ["1 all"]', "small letters"),
        ('id = "a"\nname = " "\nstrokes = ["1 all"]', "1 to 60 signs"),
        ('id = "a"\nname = "x"\nstrokes = []', "must not be empty"),
        ('id = "a"\nname = "x"\nstrokes = ["5 all"]', "lies behind the 4 counts"),
        ('id = "a"\nname = "x"\ncounts = 17\nstrokes = ["1 all"]', "0..16"),
        ('id = "a"\nname = "x"\nmeters = ["4/5"]\nstrokes = ["1 all"]', "no meter"),
        ('id = "a"\nname = "x"\nhands = []\nstrokes = ["1 all"]', "left, right"),
        ('id = "a"\nname = "x"\nunit = 3\nstrokes = ["1 all"]', "unit"),
        ('id = "a"\nname = "x"\nmore = 1\nstrokes = ["1 all"]', "more"),
        ('name = "x"\nstrokes = ["1 all"]', "id"),
    ],
)  # fmt: skip
def test_bad_rows_are_said_with_their_place(row: str, words: str) -> None:
    with pytest.raises(BadInput) as caught:
        read_patterns(
            f"{HEAD}[[pattern]]\n{row}\n[[pattern]]\nid='b'\nname='y'\nstrokes=['1 nothing']", "mine.toml"
        )
    places = [problem.place for problem in caught.value.problems]
    named = row.split('"')[1] if row.startswith("id") else "no id"
    assert places == [f"mine.toml: pattern 1 ({named})", "mine.toml: pattern 2 (b)"]
    assert words in caught.value.problems[0].what


@pytest.mark.parametrize("text", ["", "x = 1", "schema = 'other'", "a = [", HEAD + "pattern = 3"])
def test_files_that_are_none_are_refused(text: str) -> None:
    with pytest.raises(BadInput):
        read_patterns(text, "mine.toml")


def test_one_id_twice_is_refused() -> None:
    row = pattern_text(Pattern("a", "A", (Stroke(Fraction(0)),)))
    with pytest.raises(BadInput, match="taken"):
        read_patterns(HEAD + row + row, "mine.toml")


@given(st.text(max_size=60))
def test_any_name_stays_whole_in_a_file(name: str) -> None:
    pattern = Pattern("a", name, (Stroke(Fraction(0)),))
    try:
        again = read_patterns(HEAD + pattern_text(pattern), "x")["a"]
    except BadInput as error:
        assert not 1 <= len("".join(s if s.isprintable() else " " for s in name).strip()) <= 60, error
    else:
        assert again.name == "".join(s if s.isprintable() else " " for s in name).strip()


def test_everything_that_can_be_struck_has_words() -> None:
    named = {stroke.what for one in builtin_patterns().values() for stroke in one.strokes}
    assert named <= set(WHAT) and len(named) >= 15


@pytest.mark.parametrize(
    ("meter", "places", "said"),
    [
        ("4/4", (0, 2), "1 & 2 & 3 & 4 &"), ("3/4", ("1/4",), "1 e & a 2 e & a 3 e & a"),
        ("2/4", ("1/3",), "1 trip let 2 trip let"), ("6/8", (0,), "1 2 3 4 5 6"),
        ("6/8", ("1/4",), "1 & 2 & 3 & 4 & 5 & 6 &"), ("2/2", (1,), "1 & 2 &"), ("7/8", (), "1 2 3 4 5 6 7"),
    ],
)  # fmt: skip
def test_what_one_says_over_a_bar(meter: str, places: tuple[int | str, ...], said: str) -> None:
    one = Meter(*map(int, meter.split("/")))
    step = grid_of(map(Fraction, places), one)
    row = [said_at(k * step, one) for k in range(int(one.quarters / step))]
    assert " ".join(word for word in row if word) == said


@pytest.mark.parametrize(
    ("meter", "places", "said"),
    [
        ("3/4", (0, 1, 2), "every count"), ("4/4", (0, 2), "1, 3"), ("2/4", ("1/2", "3/2"), "every &"),
        ("4/4", tuple(f"{k}/2" for k in range(8)), "every count and every &"), ("4/4", ("3/2",), "2&"),
        ("6/8", (0, "3/2"), "1, 4"), ("4/4", (), "nothing"), ("4/4", ("1/4", "1/3"), "1e, 1trip"),
    ],
)  # fmt: skip
def test_places_in_words(meter: str, places: tuple[int | str, ...], said: str) -> None:
    assert in_words(map(Fraction, places), Meter(*map(int, meter.split("/")))) == said
