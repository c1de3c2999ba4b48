"""How rough two keys sound together, and how muddy low down: the curve of R. Plomp and W. J. M. Levelt (J.
Acoust. Soc. Am. 38, 1965) in the form of W. A. Sethares (J. Acoust. Soc. Am. 94, 1993), for a piano-like
tone. Pair by pair; :mod:`voicing.register` has the same as tables.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache
from itertools import combinations
from math import exp

from yellow_hinge.remembering import for_a_song

#: Sethares' fit of the curve: decays, place of the maximum, and its change with frequency.
DECAYS, MAXIMUM, SLOPE, OFFSET = (3.5, 5.75), 0.24, 0.021, 19.0
#: Partials of the tone and how each is weaker than the one before (Sethares' own example).
PARTIALS, FADE = 6, 0.88
#: From this key (G3) downwards roughness counts as mud, fully two octaves lower (our choice).
MUD_FROM_KEY, MUD_OCTAVES_ST = 55, 24


def frequency(key: int) -> float:
    """In hertz, equal temperament, A4 at 440."""
    return float(440.0 * 2 ** ((key - 69) / 12))


@for_a_song
@lru_cache(maxsize=8192)
def rough(low: int, high: int) -> float:
    """The roughness of two keys."""
    tones = [[frequency(key) * (k + 1) for k in range(PARTIALS)] for key in (low, high)]
    found = 0.0
    for i, tone in enumerate(tones[0]):
        for j, other in enumerate(tones[1]):
            apart = abs(tone - other) * MAXIMUM / (SLOPE * min(tone, other) + OFFSET)
            found += FADE ** (i + j) * (exp(-DECAYS[0] * apart) - exp(-DECAYS[1] * apart))
    return found


def depth(low: int) -> float:
    """How much roughness counts as mud over a lower key: 0 from G3 up, 1 two octaves lower."""
    return max(0.0, min(1.0, (MUD_FROM_KEY - low) / MUD_OCTAVES_ST))


def sounding(keys: Iterable[int]) -> tuple[float, float]:
    """(roughness, mud) of keys that sound at once, in hundredths: the sums over all pairs."""
    whole = muddy = 0.0
    for low, high in combinations(sorted(keys), 2):
        own = 100 * rough(low, high)
        whole += own
        muddy += own * depth(low)
    return whole, muddy
