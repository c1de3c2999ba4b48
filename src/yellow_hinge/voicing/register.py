"""Low-interval limits: how low a close interval may lie before it turns to mud.

The values are those commonly printed in arranging textbooks, rounded to our choice
where books differ by a tone.
"""

from __future__ import annotations

from itertools import pairwise

#: Interval in semitones -> lowest MIDI key of its lower note. Wider ones have no limit.
LOWEST_KEY = {
    1: 52,  # E3
    2: 51,  # Eb3
    3: 48,  # C3
    4: 46,  # Bb2
    5: 46,  # Bb2
    6: 46,  # Bb2
    7: 34,  # Bb1
    8: 43,  # G2
    9: 41,  # F2
    10: 41,  # F2
    11: 41,  # F2
    13: 40,  # E2
    14: 39,  # Eb2
    15: 36,  # C2
    16: 34,  # Bb1
}


def too_low(low_key: int, high_key: int) -> bool:
    """Whether this interval is muddy where it lies."""
    return low_key < LOWEST_KEY.get(high_key - low_key, 0)


def muddy(keys: tuple[int, ...]) -> bool:
    """Whether any two neighbours of an ascending shape lie too low for their interval."""
    return any(too_low(low, high) for low, high in pairwise(keys))
