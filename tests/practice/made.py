"""Pieces and grips for the tests of this room."""

from __future__ import annotations

from fractions import Fraction
from functools import cache

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.describe import held_row
from yellow_hinge.motion.hinge import Held
from yellow_hinge.motion.plan import Planner
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.strokes import Stroke
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.practice.room import piece_of
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.pitch import read_pitch
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import HandShape, Voicing

CHART = """title: Tar Barrel
key: F
tempo: 100
[Haul]
| Fmaj7 | D7b9 | Gm9 | C13 | Am7 | D7 | Gm7 C7 | Fmaj7 |
[Rest]
| Bbmaj7 | Bbm6 | Am7 | Abdim7 | Gm7 | C7 | F6 | F6 |
"""
HARD = """title: Iron Ladder
key: Db
tempo: 150
[Rung]
| Dbmaj7 | G13 | Gbmaj9 | C7b9 | Fm9 | E7 | A13 | Abm9 |
"""
EASY = """title: Flat Water
key: C
tempo: 60
[Drift]
| C | Am | F | G | C | F | G | C |
"""


@cache
def song(text: str = CHART) -> Song:
    library = builtin_library()
    return voice_song(Song(parse_chart(text)), library, Planner(library)).song


@cache
def piece(text: str = CHART) -> Piece:
    return piece_of(song(text), builtin_library())


def keys(text: str) -> tuple[int, ...]:
    found = [read_pitch(word) for word in text.split() if word != "-"]
    assert all(found), text
    return tuple(one.key for one in found if one is not None)


def held(symbol: str, left: str, right: str) -> Held:
    chord = parse_chord(symbol)
    assert chord is not None
    shapes = [
        HandShape(row, tuple(chord.label_of(key % 12) or "R" for key in row))
        for row in (keys(left), keys(right))
    ]
    return held_row([chord], [Voicing(*shapes)])[0]


def stroke(symbol: str, left: str, right: str, at: int = 0, change: int = -1, stand: int = 0) -> Stroke:
    return Stroke(
        Fraction(at), Fraction(1), keys(left), keys(right), held(symbol, left, right), stand, change
    )
