"""A computed number for mud: the roughness of a piano-like tone by the curve of R. Plomp and W. J. M. Levelt
(J. Acoust. Soc. Am. 38, 1965) in the form of W. A. Sethares (J. Acoust. Soc. Am. 94, 1993), counted the more
the lower the notes lie. What lies too low by the books is in :mod:`voicing.limits`.
"""

from __future__ import annotations

from functools import lru_cache
from itertools import combinations

import numpy as np
import numpy.typing as npt

from yellow_hinge.theory.roughness import (
    DECAYS,
    FADE,
    MAXIMUM,
    MUD_FROM_KEY,
    MUD_OCTAVES_ST,
    OFFSET,
    PARTIALS,
    SLOPE,
)


@lru_cache(maxsize=1)
def mud_table() -> npt.NDArray[np.int64]:
    """(128, 128): mud of two keys sounding together, in hundredths; [lower, higher]; 0 for
    lower >= higher. A low close third is about 100."""
    depth = np.clip((MUD_FROM_KEY - np.arange(128)) / MUD_OCTAVES_ST, 0, 1)
    return np.asarray(np.rint(100 * np.triu(_rough_table() * depth[:, None], k=1)), dtype=np.int64)


@lru_cache(maxsize=1)
def _rough_table() -> npt.NDArray[np.float64]:
    """(128, 128): roughness of two keys sounding together, [one, other], the same both ways."""
    keys = np.arange(128)
    partials = np.arange(1, PARTIALS + 1)
    frequency = 440.0 * 2 ** ((keys - 69) / 12)
    tones = frequency[:, None] * partials[None, :]
    loudness = FADE ** (partials - 1)
    rough = np.zeros((128, 128))
    for i, strong in enumerate(loudness):
        for j, weak in enumerate(loudness):
            low = np.minimum(tones[:, None, i], tones[None, :, j])
            apart = np.abs(tones[:, None, i] - tones[None, :, j]) * MAXIMUM / (SLOPE * low + OFFSET)
            rough += strong * weak * (np.exp(-DECAYS[0] * apart) - np.exp(-DECAYS[1] * apart))
    return rough


def mud(keys: tuple[int, ...]) -> int:
    """How muddy an ascending shape is, in hundredths: the sum over all its pairs."""
    table = mud_table()
    return int(sum(table[low, high] for low, high in combinations(keys, 2)))
