"""Where the keys lie, in millimetres.

Standard keyboard: seven white keys to an octave of 164.5 mm, as DIN 8996 and most
makers have it. Black keys: the three whites C-E share their back with two blacks and
the four whites F-B with three, in equal parts (the usual division); a finger plays a
black key 50 mm deeper than a white one.
"""

from __future__ import annotations

import math
from functools import lru_cache

from yellow_hinge.remembering import for_a_song

STANDARD_OCTAVE_MM = 164.5
BLACK_DEPTH_MM = 50.0
_WHITE = STANDARD_OCTAVE_MM / 7
_CDE, _FGAB = 3 * _WHITE / 5, 4 * _WHITE / 7
#: Centre of each key from the left edge of its C, standard width; index = pitch class.
_CENTRES = (
    0.5 * _WHITE, 1.5 * _CDE, 1.5 * _WHITE, 3.5 * _CDE, 2.5 * _WHITE,
    3.5 * _WHITE, 3 * _WHITE + 1.5 * _FGAB, 4.5 * _WHITE, 3 * _WHITE + 3.5 * _FGAB,
    5.5 * _WHITE, 3 * _WHITE + 5.5 * _FGAB, 6.5 * _WHITE,
)  # fmt: skip
_BLACK = frozenset({1, 3, 6, 8, 10})


def is_black(key: int) -> bool:
    """Whether a MIDI key is a black one."""
    return key % 12 in _BLACK


def key_centre_mm(key: int, octave_mm: float = STANDARD_OCTAVE_MM) -> float:
    """Distance of the key's centre line from the left edge of MIDI key 0."""
    return (key // 12 * STANDARD_OCTAVE_MM + _CENTRES[key % 12]) * octave_mm / STANDARD_OCTAVE_MM


@for_a_song
@lru_cache(maxsize=4096)
def span_mm(low_key: int, high_key: int, octave_mm: float = STANDARD_OCTAVE_MM) -> float:
    """How far a hand opens from one key to the other: sideways and in depth together."""
    sideways = key_centre_mm(high_key, octave_mm) - key_centre_mm(low_key, octave_mm)
    deep = BLACK_DEPTH_MM if is_black(low_key) != is_black(high_key) else 0.0
    return math.hypot(sideways, deep)


def white_interval_mm(number: int, octave_mm: float = STANDARD_OCTAVE_MM) -> float:
    """Width of an interval on white keys: 8 is an octave, 10 a tenth (C to E)."""
    return (number - 1) * octave_mm / 7
