"""Symbols against the table, printing and reading again, and errors with their place."""

from __future__ import annotations

import csv

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from conftest import DATA
from yellow_hinge.errors import BadInput
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.pitch import NoteName

with (DATA / "symbols.tsv").open(encoding="utf-8") as table:
    ROWS = [row for row in csv.reader(table, delimiter="\t") if not row[0].startswith("#")]

roots = st.builds(NoteName, st.integers(0, 6), st.integers(-1, 1))


@pytest.mark.parametrize(("symbol", "degrees"), ROWS)
def test_symbol_names_its_degrees(symbol: str, degrees: str) -> None:
    chord = parse_chord(symbol)
    assert chord is not None
    assert " ".join(chord.degrees) == degrees


@pytest.mark.parametrize("symbol", [row[0] for row in ROWS])
def test_parse_print_parse_is_the_same_chord(symbol: str) -> None:
    chord = parse_chord(symbol)
    assert parse_chord(str(chord)) == chord


@given(st.sampled_from([row[0] for row in ROWS if "/" not in row[0]]), roots, roots)
def test_round_trip_on_every_root_and_bass(symbol: str, root: NoteName, bass: NoteName) -> None:
    chord = parse_chord(f"{root}{symbol[1:]}/{bass}")
    assert chord is not None
    assert chord.root == root
    assert chord.bass_name == bass
    assert parse_chord(str(chord)) == chord


@given(st.sampled_from([row[0] for row in ROWS]), st.integers(0, 6), st.integers(0, 11))
def test_transposing_keeps_the_degrees(symbol: str, letters: int, semitones: int) -> None:
    chord = parse_chord(symbol)
    assert chord is not None
    moved = chord.transposed(letters, semitones)
    assume(abs(moved.root.alter) <= 2)
    assert moved.degrees == chord.degrees
    assert moved.root.pitch_class == (chord.root.pitch_class + semitones) % 12


@given(
    third=st.sampled_from(["3", "b3"]),
    fifth=st.sampled_from(["5", "b5", "#5"]),
    seventh=st.sampled_from(["", "7", "b7"]),
    sixth=st.booleans(),
    extension=st.sampled_from([7, 9, 11, 13]),
    alters=st.frozensets(st.sampled_from(["b9", "#9", "#11", "b13"])),
    adds=st.frozensets(st.sampled_from(["9", "11"])),
)
def test_any_chord_made_of_parts_prints_and_reads_back(
    third: str, fifth: str, seventh: str, sixth: bool, extension: int,
    alters: frozenset[str], adds: frozenset[str],
) -> None:  # fmt: skip
    assume(not (sixth and seventh))
    assume(not (sixth and fifth != "5"))
    assume(seventh or not alters)
    chord = ChordSymbol(
        NoteName(0), third, fifth, seventh, extension if seventh else 0, sixth,
        alters=alters, adds=adds if not seventh else frozenset(),
    )  # fmt: skip
    again = parse_chord(str(chord))
    assert again is not None
    assert again.degrees == chord.degrees


@pytest.mark.parametrize("text", ["N.C.", "NC"])
def test_no_chord(text: str) -> None:
    assert parse_chord(text) is None


@pytest.mark.parametrize(
    ("text", "column", "near"),
    [
        ("H7", 1, "note letter"),
        ("Cfoo", 2, "did you mean"),
        ("C/Q", 3, "after the slash"),
        ("C7b3", 3, "did you mean C7b9"),
        ("Cmaj77", 6, "did you mean Cmaj7"),
        ("C7(b9", 3, "did you mean C7b9"),
        ("Dm7//X", 1, "note letter"),
        ("", 1, "note letter"),
    ],
)
def test_nonsense_names_the_position_and_a_remedy(text: str, column: int, near: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_chord(text)
    (problem,) = caught.value.problems
    assert problem.column == column
    assert near in problem.remedy


def test_pretty_uses_real_signs() -> None:
    half, dim, altered = parse_chord("Bbm7b5/Ab"), parse_chord("F#dim7"), parse_chord("Ab7(b9,#11)")
    assert half is not None and dim is not None and altered is not None
    assert (half.pretty, dim.pretty, altered.pretty) == ("B♭ø7/A♭", "F♯°7", "A♭7(♭9,♯11)")


@given(st.text(max_size=12))
def test_any_text_reads_or_complains(text: str) -> None:
    try:
        parse_chord(text)
    except BadInput as error:
        assert all(problem.remedy for problem in error.problems)
