"""Note names in the reader's way: letters, with H, or do re mi."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import Naming, NoteName, Pitch, as_letters, as_named, name_as, read_pitch

WAYS: tuple[Naming, ...] = ("letters", "h", "solfege")
pitches = st.builds(
    lambda step, alter, octave: f"{'CDEFGAB'[step]}{'b' * -alter}{'#' * alter}{octave}",
    st.integers(0, 6), st.integers(-2, 2), st.integers(0, 8),
)  # fmt: skip


@pytest.fixture(autouse=True)
def letters_again() -> Iterator[None]:
    yield
    name_as("letters")


@pytest.mark.parametrize(
    ("way", "names"),
    [
        ("letters", "B B♭ F♯ A♭ C♭"), ("h", "H B F♯ A♭ C♭"), ("solfege", "Si Si♭ Fa♯ La♭ Do♭"),
    ],
)  # fmt: skip
def test_names_for_eyes(way: Naming, names: str) -> None:
    name_as(way)
    notes = NoteName(6), NoteName(6, -1), NoteName(3, 1), NoteName(5, -1), NoteName(0, -1)
    assert " ".join(note.pretty for note in notes) == names
    assert [str(note) for note in notes] == ["B", "Bb", "F#", "Ab", "Cb"]  # what is kept never changes


def test_chords_keys_and_pitches_follow() -> None:
    chord = parse_chord("Bbm7/Ab")
    assert chord is not None
    name_as("solfege")
    assert chord.pretty == "Si♭m7/La♭" and parse_key("Bb").pretty == "Si♭ major"
    assert Pitch(66, NoteName(3, 1)).pretty == "Fa♯4" and str(chord) == "Bbm7/Ab"
    name_as("h")
    assert chord.pretty == "Bm7/A♭" and parse_key("Bm").pretty == "H minor"


@pytest.mark.parametrize(
    ("way", "typed", "letters"),
    [
        ("letters", "D3 B3 ; H4", "D3 B3 ; H4"),
        ("h", "D3 H3 ; B4 B♭4 Fis", "D3 B3 ; Bb4 B♭4 Fis"),
        ("h", "h3 b7 root position", "B3 b7 root position"),
        ("solfege", "re3 Sol♯3 ; si♭4 La", "D3 G♯3 ; B♭4 A"),
        ("solfege", "fab3 mi:1/2 r:1 double 3 on top", "Fb3 E:1/2 r:1 double 3 on top"),
    ],
)
def test_what_is_typed_is_read_in_the_same_way(way: Naming, typed: str, letters: str) -> None:
    name_as(way)
    assert as_letters(typed) == letters


@pytest.mark.parametrize("way", WAYS)
@given(st.lists(pitches, min_size=1, max_size=6))
def test_there_and_back_is_the_same_note(way: Naming, notes: list[str]) -> None:
    name_as(way)
    wanted = [read_pitch(note) for note in notes]
    again = as_letters(as_named(" ".join(notes))).split()
    assert [read_pitch(note) for note in again] == wanted
    shown = [pitch.pretty for pitch in wanted if pitch is not None]
    assert [read_pitch(note) for note in as_letters(" ".join(shown)).split()] == [p for p in wanted if p]
