"""Formulas: what is read, what they are in any key, and where they fit."""

from __future__ import annotations

import json
from fractions import Fraction

import pytest

from made import song_of
from yellow_hinge.cli import run
from yellow_hinge.errors import BadInput
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.formulas import Formula, FormulaChord, builtin_formulas, read_formulas
from yellow_hinge.song.edits import give_back, keep_as_it_is
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.swaps.formula_desk import fittings, weigh
from yellow_hinge.theory.keys import ALL_KEYS, parse_key
from yellow_hinge.theory.numbers import print_number
from yellow_hinge.voicing.recipes import builtin_library

HEAD = 'schema = "yellow-hinge/formulas/1"\n'
ROW = '[[formula]]\nid = "a"\nname = "A"\nfamily = "f"\nwhy = "w"\n'
every_formula = pytest.mark.parametrize("formula", builtin_formulas().values(), ids=list(builtin_formulas()))


def test_forty_distinct_ones_ship() -> None:
    rows = {(one.minor, one.chords) for one in builtin_formulas().values()}
    assert len(rows) == len(builtin_formulas()) >= 40
    families = {one.family for one in builtin_formulas().values()}
    assert {
        "turnarounds",
        "roads",
        "backdoors",
        "walks",
        "line cliches",
        "amens",
        "endings",
        "vamps",
    } <= families


@every_formula
def test_a_formula_is_the_same_in_all_keys(formula: Formula) -> None:
    for key in ALL_KEYS:
        if key.minor == formula.minor:
            numbers = [print_number(one, key) for one in formula.in_key(key)]
            home = [print_number(one, parse_key("Am" if formula.minor else "C"))
                    for one in formula.in_key(parse_key("Am" if formula.minor else "C"))]  # fmt: skip
            assert numbers == home
    assert formula.why.endswith(".") and formula.beats % 4 == 0


def test_the_command_line_lists_them(capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["formulas", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)["formulas"]
    assert len(rows) == len(builtin_formulas())
    assert {"id", "name", "family", "numbers", "beats", "why", "minor"} == set(rows[0])
    assert run(["formulas"]) == 0 and "two-five-one" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("rest", "words"),
    [
        ("chords = []", "1 to 32 chords"), ('chords = ["2m9"]', "a number and its beats"),
        ('chords = ["9q 4"]', "9q 4"), ('chords = ["1 0"]', "a number and its beats"),
        ('chords = ["1 4"]\nmore = 1', "more"),
    ],
)  # fmt: skip
def test_bad_rows_are_said(rest: str, words: str) -> None:
    with pytest.raises(BadInput) as caught:
        read_formulas(HEAD + ROW + rest, "mine.toml")
    assert (
        caught.value.problems[0].place == "mine.toml: formula 1 (a)"
        and words in caught.value.problems[0].what
    )


@pytest.mark.parametrize(
    "text", ["", "x", "schema = 1", HEAD + "formula = 1", HEAD + (ROW + 'chords = ["1 4"]\n') * 2]
)
def test_files_that_are_none_are_refused(text: str) -> None:
    with pytest.raises(BadInput):
        read_formulas(text, "mine.toml")


def test_a_formula_fits_where_its_goal_is() -> None:
    song = song_of("key: C\n[A]\n| C | Am7 | Dm7 | G7 | C | C |\n")
    cadence = Formula("x", "x", "x", (FormulaChord("2m9", Fraction(4)), FormulaChord("b2-9", Fraction(4)),
                                      FormulaChord("1maj9", Fraction(4))), "x")  # fmt: skip
    every = fittings(song, cadence)
    assert [(one.bar, len(one.written)) for one in every] == [
        (1, 6),
        (3, 3),
        (4, 3),
    ]  # slowly, and where it ends
    found = every[1:]
    there = found[0].edit(song, builtin_library()).song
    assert [str(slot.chord) for slot in there.slots] == ["C", "Am7", "Dm9", "Db9", "Cmaj9", "C"]
    back = there
    for written in found[0].written:
        back = give_back(back, written).song
    assert back.slots == song.slots
    assert fittings(there, cadence)[1].rows == found[0].rows  # by what is written
    kept = keep_as_it_is(song, song.slots[3].at.written, True).song
    assert fittings(kept, cadence) == []
    assert fittings(song_of("key: Am\n| Am | Bm7b5 | E7 | Am |\n"), cadence) == []


def test_twice_as_fast_and_shared_out_over_bars() -> None:
    song = song_of("key: C\n[A]\n| C | F | C | G7 |\n")
    amen = builtin_formulas()["amen-walk"]
    assert all(
        sum(one.beats for one in row) == 4 for fit in fittings(song, amen) for row in fit.rows.values()
    )
    walk = fittings(song, builtin_formulas()["walk-up-to-four"])
    assert walk and [str(one.chord) for one in walk[0].rows[song.slots[0].at.written]] == ["Cadd9", "C/E"]


def test_what_the_tune_says_and_what_it_costs() -> None:
    text = "key: C\n[A]\n| Dm7 | G7 | C |\nmelody: D5:4 | {} | E5:4\n"
    good, bad = (song_of(text.format(note)) for note in ("F5:4", "C5:4"))
    flat_two = builtin_formulas()["two-flat-two-one"]
    assert fittings(good, flat_two)[0].clashes == 0
    assert fittings(bad, flat_two)[0].clashes >= 1
    library = builtin_library()
    [cost] = weigh(good, fittings(good, flat_two)[:1], library, Planner(library))
    assert cost is not None and abs(cost) < 5000


def test_every_formula_leaves_bars_whole() -> None:
    for name in ("lantern-ferry", "copper-kite", "salt-stairs"):
        song = demo_song(name)
        for formula in builtin_formulas().values():
            for one in fittings(song, formula):
                assert len(one.edit(song, builtin_library()).song.chart.written) == len(song.chart.written)
                for written, row in one.rows.items():
                    assert sum(each.beats for each in row) == song.chart.by_id[written].beats
