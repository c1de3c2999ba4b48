"""The low register: limits for close intervals.

They are those commonly printed in arranging textbooks, rounded to our choice where books differ by a tone.
"""

from __future__ import annotations

from itertools import pairwise

#: Interval in semitones -> lowest MIDI key of its lower note. Wider ones have no limit.
LOWEST_KEY = {
    1: 52,  # E3
    2: 51,  # Eb3
    3: 48,  # C3
    4: 47,  # B2
    5: 46,  # Bb2
    6: 46,  # Bb2
    7: 34,  # Bb1
    8: 40,  # E2
    9: 41,  # F2
    10: 41,  # F2
    11: 41,  # F2
    13: 40,  # E2
    14: 39,  # Eb2
    15: 36,  # C2
    16: 34,  # Bb1
}
#: What nobody plays at all: the outermost limits, by which open search goes. Between these and the
#: usual ones a shape is dear. Players' own grips lie above them.
BANNED_KEY = {
    3: 47,  # B2
    4: 47,  # B2
    5: 43,  # G2
    6: 43,  # G2
    7: 31,  # G1
    8: 38,  # D2
    9: 39,  # Eb2
    10: 37,  # C#2
    11: 39,  # Eb2
}
#: Below these keys (C4 and E4) no second is the lowest interval of a hand: it growls.
LOWEST_SECOND = {"left": 60, "right": 64}
#: Below this key (C4) none is the lowest interval of a grip.
LOWEST_SECOND_KEY = LOWEST_SECOND["left"]


def least_key(interval_st: int) -> int:
    """The lowest key on which an interval may stand."""
    return LOWEST_KEY.get(interval_st, 0)


def banned_key(interval_st: int) -> int:
    """The lowest key on which an interval may stand in open search."""
    return BANNED_KEY.get(interval_st, 0)


def too_low(low_key: int, high_key: int) -> bool:
    """Whether this interval is muddy where it lies."""
    return low_key < least_key(high_key - low_key)


def depth_st(keys: tuple[int, ...]) -> int:
    """Semitones by which the neighbours of an ascending shape lie below their usual limits, added
    up; 0 for a clear shape."""
    return sum(max(0, least_key(high - low) - low) for low, high in pairwise(keys))


def second_at_bottom(keys: tuple[int, ...], lowest: int = LOWEST_SECOND_KEY) -> bool:
    """Whether the lowest interval of an ascending grip is a second below the key ``lowest``."""
    return len(keys) > 1 and keys[1] - keys[0] <= 2 and keys[0] < lowest


def muddy(keys: tuple[int, ...]) -> bool:
    """Whether any two neighbours of an ascending shape lie too low for their interval."""
    return any(too_low(low, high) for low, high in pairwise(keys))
