"""Meter, tempo and how chords share a bar. Beats are exact fractions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

#: Limits of what a chart may say; beyond them it is a slip of the pen.
MIN_TEMPO, MAX_TEMPO = 20, 400
METER_UNITS = (1, 2, 4, 8, 16)


@dataclass(frozen=True, slots=True)
class Meter:
    """``beats`` per bar, of which each is one ``unit``-th note."""

    beats: int = 4
    unit: int = 4

    def __str__(self) -> str:
        return f"{self.beats}/{self.unit}"

    @property
    def quarters_per_beat(self) -> Fraction:
        return Fraction(4, self.unit)


def seconds_per_beat(tempo: float) -> float:
    """Length of a beat at ``tempo`` beats a minute."""
    return 60.0 / tempo


def share(total: Fraction, given: Sequence[Fraction | None]) -> list[Fraction]:
    """Fill in the lengths that were not given by sharing what is left evenly.

    Raises ValueError (with a plain sentence) when the lengths do not add up to ``total``.
    """
    known = sum((beats for beats in given if beats is not None), Fraction(0))
    open_places = sum(1 for beats in given if beats is None)
    rest = total - known
    if rest < 0 or (open_places and rest == 0) or (not open_places and rest != 0):
        raise ValueError(f"{beats_text(known)} of {beats_text(total)} beats are given")
    return [rest / open_places if beats is None else beats for beats in given]


def beats_text(beats: Fraction) -> str:
    """As a player writes it: 2, 1.5, 4/3."""
    if beats.denominator == 1:
        return str(beats.numerator)
    return f"{float(beats):g}" if beats.denominator in (2, 4, 8) else f"{beats.numerator}/{beats.denominator}"
