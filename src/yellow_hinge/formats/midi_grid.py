"""Where the beats of played notes are, which meter fits them, and which key."""

from __future__ import annotations

import cmath
import math
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from fractions import Fraction

from yellow_hinge.theory.keys import Key, plainest_key

#: How well eighths fit: the length of the mean of all starts as points of a circle, 1 on the grid, 0
#: anywhere.
_FITS, _IS_FOUND = 0.45, 0.6
_SLOWEST, _FASTEST, _USUAL = 50, 200, 95
#: Starts from which on something can be said.
_LEAST = 12
#: Starts that are looked at: by then an error of the rate is seen.
_MOST = 2_000
#: How stable each degree of a major and of a minor key was judged (Krumhansl and Kessler 1982).
_MAJOR = (6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88)
_MINOR = (6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17)
#: What a grid of triplets costs against one of sixteenths, in quarters a note.
_TRIPLET = 0.03


def fit(starts: Sequence[float], per_eighth: float) -> float:
    """How well starts lie on a grid, whatever its phase, 0..1."""
    if not starts:
        return 1.0
    return abs(sum(cmath.exp(2j * math.pi * at / per_eighth) for at in starts)) / len(starts)


def beats_found(starts: Sequence[float]) -> tuple[float, float] | None:
    """(seconds a quarter, seconds at which one begins) where starts, in seconds, lie on no grid of the file
    but on one of their own."""
    if len(starts) < _LEAST:
        return None
    starts = sorted(starts)[:_MOST]
    usual = starts[: 4 * _LEAST]  # a beginning first: over a whole piece near rates part too soon
    rates = [rate / 4 for rate in range(4 * _SLOWEST, 4 * _FASTEST)]
    _, rate = max((fit(usual, 30 / rate) - abs(math.log2(rate / _USUAL)) / 20, rate) for rate in rates)
    for span, step in ((0.5, 0.02), (0.04, 0.002)):
        near = [rate + step * count for count in range(-round(span / step), round(span / step) + 1)]
        best, rate = max((fit(starts, 30 / own), own) for own in near)
    if best < _IS_FOUND:
        return None
    quarter = 60 / rate
    angle = cmath.phase(sum(cmath.exp(2j * math.pi * at / (quarter / 2)) for at in starts))
    phase = angle / (2 * math.pi) * quarter / 2
    first = min(starts)
    return quarter, phase + round((first - phase) / (quarter / 2)) * quarter / 2


def off_grid(starts: Sequence[float]) -> bool:
    """Whether starts, in quarters, were played without the file's beats."""
    return (
        len(starts) >= _LEAST
        and fit(starts, 0.5) < _FITS
        and fit(starts, 1 / 3) < _FITS
        and fit(starts, 0.25) < _FITS
    )


def snapper(starts: Iterable[Fraction]) -> Callable[[Fraction], Fraction]:
    """What takes a place, in quarters, to the grid: sixteenths, or triplets in the beats whose notes are
    nearer to them."""
    beats: dict[int, list[float]] = {}
    for at in starts:
        beats.setdefault(math.floor(at + Fraction(1, 8)), []).append(float(at))
    triplets = set()
    for beat, row in beats.items():
        plain = sum(abs(at * 4 - round(at * 4)) / 4 for at in row)
        third = sum(abs(at * 3 - round(at * 3)) / 3 + _TRIPLET for at in row)
        if third < plain:
            triplets.add(beat)

    def snapped(at: Fraction) -> Fraction:
        beat = math.floor(at + Fraction(1, 8))
        parts = 3 if beat in triplets else 4
        return Fraction(round(at * parts), parts)

    return snapped


def key_of(lasting: Counter[int], last: int | None) -> Key:
    """The key that fits how long each of the twelve notes sounds; ``last`` is the class of the last bass."""
    whole = sum(lasting.values()) or 1
    best: tuple[float, Key] | None = None
    for minor, profile in ((False, _MAJOR), (True, _MINOR)):
        mean = sum(profile) / 12
        size = math.sqrt(sum((own - mean) ** 2 for own in profile))
        for tonic in range(12):
            mark = (
                sum(lasting[(tonic + step) % 12] / whole * (profile[step] - mean) for step in range(12))
                / size
            )
            mark += 0.03 * (last == tonic)
            if best is None or mark > best[0]:
                best = (mark, plainest_key(tonic, minor))
    assert best is not None
    return best[1]
