"""The low register: limits for close intervals, and a computed number for mud.

The limits are those commonly printed in arranging textbooks, rounded to our choice where
books differ by a tone. Mud is the roughness of a piano-like tone by the curve of R. Plomp
and W. J. M. Levelt (J. Acoust. Soc. Am. 38, 1965) in the form of W. A. Sethares (J. Acoust.
Soc. Am. 94, 1993), counted the more the lower the notes lie.
"""

from __future__ import annotations

from functools import lru_cache
from itertools import combinations, pairwise

import numpy as np
import numpy.typing as npt

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


#: Sethares' fit of the curve: decays, place of the maximum, and its change with frequency.
_DECAYS, _MAXIMUM, _SLOPE, _OFFSET = (3.5, 5.75), 0.24, 0.021, 19.0
#: Partials of the tone and how each is weaker than the one before (Sethares' own example).
_PARTIALS, _FADE = 6, 0.88
#: From this key (G3) downwards roughness counts as mud, fully two octaves lower (our choice).
MUD_FROM_KEY, _MUD_OCTAVES_ST = 55, 24


@lru_cache(maxsize=1)
def mud_table() -> npt.NDArray[np.int64]:
    """(128, 128): mud of two keys sounding together, in hundredths; [lower, higher]; 0 for
    lower >= higher. A low close third is about 100."""
    depth = np.clip((MUD_FROM_KEY - np.arange(128)) / _MUD_OCTAVES_ST, 0, 1)
    return np.asarray(np.rint(100 * np.triu(_rough_table() * depth[:, None], k=1)), dtype=np.int64)


@lru_cache(maxsize=1)
def _rough_table() -> npt.NDArray[np.float64]:
    """(128, 128): roughness of two keys sounding together, [one, other], the same both ways."""
    keys = np.arange(128)
    partials = np.arange(1, _PARTIALS + 1)
    frequency = 440.0 * 2 ** ((keys - 69) / 12)
    tones = frequency[:, None] * partials[None, :]
    loudness = _FADE ** (partials - 1)
    rough = np.zeros((128, 128))
    for i, strong in enumerate(loudness):
        for j, weak in enumerate(loudness):
            low = np.minimum(tones[:, None, i], tones[None, :, j])
            apart = np.abs(tones[:, None, i] - tones[None, :, j]) * _MAXIMUM / (_SLOPE * low + _OFFSET)
            rough += strong * weak * (np.exp(-_DECAYS[0] * apart) - np.exp(-_DECAYS[1] * apart))
    return rough


def roughness(keys: tuple[int, ...]) -> int:
    """How rough keys sound together anywhere on the keyboard, in hundredths: the sum over all pairs."""
    table = _rough_table()
    return round(100 * sum(float(table[low, high]) for low, high in combinations(keys, 2)))


def mud(keys: tuple[int, ...]) -> int:
    """How muddy an ascending shape is, in hundredths: the sum over all its pairs."""
    table = mud_table()
    return int(sum(table[low, high] for low, high in combinations(keys, 2)))
