"""Which of two names a root takes: by what the chord prepares, then by the key, then the usual one."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import chord
from yellow_hinge.theory.keys import ALL_KEYS, Key, parse_key
from yellow_hinge.theory.pitch import Pitch, read_pitch
from yellow_hinge.theory.spelling import by_function, in_row, moved, plain, scale_names, usual

#: chords in some spelling; the key; what follows; as they are read
ROWS = [
    ("Abm7b5 Db7b9", "A", "F#m", "G#m7b5 C#7b9"), ("D#7", "D", "D", "Eb7"), ("D#7", "G", "Ab", "Eb7"),
    ("D#7", "E", "G#m", "D#7"), ("F##9", "B", "D", "G9"), ("G#9", "C", "G", "Ab9"),
    ("G#9", "C", "", "Ab9"), ("G#7", "C", "A7", "Ab7"), ("Db7", "C", "Dm7", "C#7"),
    ("Dbdim7", "C", "Dm7", "C#dim7"), ("C#dim7", "C", "C", "Dbdim7"), ("C#dim7", "Eb", "F", "Dbdim7"),
    ("Dbdim7", "C", "G7", "C#dim7"), ("D#dim7", "C", "Dm7", "Ebdim7"), ("Ebdim7", "C", "Em", "D#dim7"),
    ("G#dim7", "C", "C", "Abdim7"), ("Gbdim7", "C", "", "F#dim7"), ("Gb7", "G", "Bm", "F#7"),
    ("A#7", "F", "F", "Bb7"), ("Cb7", "Eb", "Bb", "B7"), ("Fb", "Ab", "Eb", "E"),
    ("Gbm11", "E", "", "F#m11"), ("D#maj7", "C", "", "Ebmaj7"), ("A#", "C", "", "Bb"),
    ("Gb", "C", "", "F#"), ("C#m7", "Db", "", "Dbm7"), ("B", "Gb", "", "Cb"),
    ("G#m7", "C", "Am7", "G#m7"),
]  # fmt: skip


@pytest.mark.parametrize("case", ROWS, ids=lambda case: f"{case[0]} to {case[2] or 'nothing'} in {case[1]}")
def test_a_root_is_spelled_by_what_it_prepares(case: tuple[str, str, str, str]) -> None:
    row, key, after, wanted = case
    found = in_row([chord(one) for one in row.split()], parse_key(key), chord(after) if after else None)
    assert " ".join(map(str, found)) == wanted


def test_what_was_written_stays_unless_nobody_reads_it() -> None:
    key = parse_key("C")
    for written, wanted in (("D#7", "D#7"), ("A##7", "B7")):
        own = chord(written)
        (found,) = in_row([own], key, chord("D"), own.root)
        assert str(found) == wanted


@given(
    st.integers(0, 11),
    st.sampled_from(["", "m", "7", "m7", "m7b5", "dim7", "m11", "maj9", "7b9"]),
    st.sampled_from(ALL_KEYS),
)
def test_no_name_has_double_signs(step: int, quality: str, key: Key) -> None:
    own = chord(f"C{quality}").transposed(
        *((0, 0), (1, 1), (1, 2), (2, 3), (2, 4), (3, 5), (3, 6), (4, 7), (5, 8), (5, 9), (6, 10), (6, 11))[
            step
        ]
    )
    for after in (None, chord("C"), chord("F#m"), chord("Eb7")):
        found = by_function(own, key, after)
        assert abs(found.root.alter) < 2 and found.root.pitch_class == own.root.pitch_class
        assert str(found.root) not in ("Fb", "E#", "B#") or found.root in scale_names(key)
        assert usual(found) == found


def test_a_moved_chord_is_read_at_sight() -> None:
    assert str(moved(chord("C7"), 1, 1, parse_key("Db"))) == "Db7"
    assert str(moved(chord("B7/D#"), 0, 1, parse_key("C"))) == "C7/E"  # not B#7
    assert str(moved(chord("B7/D#"), 0, 1, parse_key("C#"))) == "B#7/D##"  # but there
    assert str(moved(chord("E"), 0, -1, parse_key("C"))) == "Eb"


@pytest.mark.parametrize(
    ("note", "symbol", "engraved"),
    [
        ("F##4", "E7#9", "G4"),
        ("F#4", "E7#9", "F#4"),
        ("Bbb3", "Cdim7", "A3"),
        ("F##4", "", "G4"),
        ("F##4", "F##m", "F##4"),
        ("Abb4", "Abbm7b5", "Abb4"),
    ],
)
def test_notes_are_engraved_without_double_signs(note: str, symbol: str, engraved: str) -> None:
    pitch = read_pitch(note)
    assert pitch is not None
    assert str(plain(pitch, chord(symbol) if symbol else None)) == engraved


def test_three_signs_are_never_engraved() -> None:
    assert str(plain(Pitch(61, chord("Abbm7b5").root.degree("b5")), chord("Abbm7b5"))) == "Db4"
    assert str(plain(Pitch(61, chord("Ebm").root.degree("b3")), chord("Ebm"))) != "Db4"
