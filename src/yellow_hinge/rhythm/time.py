"""Meter, tempo and how chords share a bar. Beats are exact fractions."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from fractions import Fraction
from functools import lru_cache

from msgspec import Struct

from yellow_hinge.remembering import for_a_song

#: Limits of what a chart may say; beyond them it is a slip of the pen.
MIN_TEMPO, MAX_TEMPO = 20, 400
METER_UNITS = (1, 2, 4, 8, 16)


class Meter(Struct, frozen=True):
    """``beats`` per bar, of which each is one ``unit``-th note."""

    beats: int = 4
    unit: int = 4

    def __str__(self) -> str:
        return f"{self.beats}/{self.unit}"

    @property
    def quarters_per_beat(self) -> Fraction:
        return _quarters(1, self.unit)

    @property
    def quarters(self) -> Fraction:
        """How long a bar lasts."""
        return _quarters(self.beats, self.unit)


@for_a_song
@lru_cache(maxsize=256)
def _quarters(beats: int, unit: int) -> Fraction:
    """Fractions are slow to make, and every bar asks."""
    return Fraction(4 * beats, unit)


class TempoMap:
    """How quarters pass in seconds: ``changes`` are (start in quarters, quarters a minute), in time
    order, the first one at or before everything."""

    def __init__(self, changes: Sequence[tuple[Fraction, Fraction]]) -> None:
        self._starts = [float(start) for start, _ in changes]
        self._rates = [60.0 / float(rate) for _, rate in changes]
        self._seconds = [0.0]
        for place in range(1, len(changes)):
            passed = (self._starts[place] - self._starts[place - 1]) * self._rates[place - 1]
            self._seconds.append(self._seconds[-1] + passed)

    def seconds(self, quarters: float) -> float:
        """When a place sounds, in seconds from the first change."""
        place = max(0, bisect_right(self._starts, quarters) - 1)
        return self._seconds[place] + (quarters - self._starts[place]) * self._rates[place]

    def quarters(self, seconds: float) -> float:
        """The place that sounds at a time: the other way round."""
        place = max(0, bisect_right(self._seconds, seconds) - 1)
        return self._starts[place] + (seconds - self._seconds[place]) / self._rates[place]


@for_a_song
@lru_cache(maxsize=4096)
def share(total: Fraction, given: tuple[Fraction | None, ...]) -> tuple[Fraction, ...]:
    """Fill in the lengths that were not given by sharing what is left evenly.

    Raises ValueError (with a plain sentence) when the lengths do not add up to ``total``.
    """
    known = sum((beats for beats in given if beats is not None), Fraction(0))
    open_places = sum(1 for beats in given if beats is None)
    rest = total - known
    if rest < 0 or (open_places and rest == 0) or (not open_places and rest != 0):
        raise ValueError(f"{beats_text(known)} of {beats_text(total)} beats are given")
    return tuple(rest / open_places if beats is None else beats for beats in given)


def beats_text(beats: Fraction) -> str:
    """As a player writes it: 2, 1.5, 4/3."""
    if beats.denominator == 1:
        return str(beats.numerator)
    return f"{float(beats):g}" if beats.denominator in (2, 4, 8) else f"{beats.numerator}/{beats.denominator}"
