"""The simulated player: learns by playing, forgets by not playing, slips where a change is weak.

Two laws, neither of them what the plan believes. A try today adds to a change's strength, each further one of
the same day less (``DAY_FULL * ln(1 + n / DAY_FULL)`` for n of them: massed practice, N. Cepeda et al.,
Psychological Bulletin 132, 2006). Strength fades by the age of the day it was gained on, as a power of it
(J. Wixted & E. Ebbesen, Psychological Science 2, 1991) or exponentially. The chance of a slip falls with
strength from where it began to a floor:

    power         floor + (start - floor) * (1 + x / need) ** -0.9     (A. Newell & P. Rosenbloom, 1981)
    exponential   floor + (start - floor) * exp(-x / need)             (A. Heathcote et al., 2000)

What a player needs, begins with and ends at differs from change to change by chance (seeded), around what the
change is built like. Slower is easier, as everywhere; a slip teaches half as much as a clean try. The numbers
are our choice: a change of middling difficulty takes some forty tries on several days.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Law = Literal["power", "exponential"]
Floats = NDArray[np.float64]

#: Tries of one day after which a further one adds half.
DAY_FULL = 20.0
#: Tries (as strength) that lower what can be lowered to a half (power) or to 1/e, for an easy change.
_NEED = 12.0
_POWER = 0.9
#: Fading by age in days: as a power, and exponentially (days).
_FADE, _FADE_DAYS = 0.25, 25.0
#: What a doubled tempo adds to the log-odds of a slip.
TEMPO_ODDS = 1.4
#: What a slip teaches, a clean try being 1; what a change's way back teaches of it.
SLIP_TEACHES, BACK_TEACHES = 0.5, 0.4
#: How much players differ from what a change is built like, in log-odds; and how late they strike, s.
_SPREAD = 0.6
_TIMING_S = 0.025
#: A stroke further from its count than this is a slip.
LATE_S = 0.12


@dataclass
class Learner:
    """One player and all changes of the songs. Arrays are (changes,) unless said.

    ``gained`` (days, changes): strength gained on each day. Day 0 is the first.
    """

    law: Law
    start: Floats
    floor: Floats
    need: Floats
    days: int
    rng: np.random.Generator

    def __post_init__(self) -> None:
        self.tries_today = np.zeros(len(self.start))
        self.gained = np.zeros((self.days + 1, len(self.start)))
        self.day = 0
        self._kept = np.zeros(len(self.start))

    @staticmethod
    def made(openings: Sequence[float], law: Law, days: int, seed: int) -> Learner:
        """A player for changes whose log-odds, by how they are built, are ``openings``."""
        rng = np.random.default_rng(seed)
        odds = np.array(openings) + rng.normal(0, _SPREAD, len(openings))
        start = 1 / (1 + np.exp(-odds))
        floor = start * rng.uniform(0.02, 0.12, len(openings))
        need = _NEED * (0.6 + 1.6 * start) * rng.lognormal(0, 0.3, len(openings))
        return Learner(law, start, floor, need, days, rng=rng)

    def fading(self, ages: Floats) -> Floats:
        """How much of what was gained so many days ago is still there."""
        if self.law == "power":
            return np.asarray((1 + ages) ** -_FADE)
        return np.asarray(np.exp(-ages / _FADE_DAYS))

    def next_day(self) -> None:
        """A night passes."""
        self.gained[self.day] = massed(self.tries_today)
        self.day += 1
        self.tries_today[:] = 0
        ages = (self.day - np.arange(self.day)).astype(float)
        self._kept = self.fading(ages) @ self.gained[: self.day]

    def chances(self) -> Floats:
        """The chance of a slip at each change, at the tempo of its song, now."""
        return self.by_strength(self._kept + massed(self.tries_today))

    def by_strength(self, strength: Floats) -> Floats:
        """The chance of a slip for strengths (..., changes)."""
        can = self.start - self.floor
        if self.law == "power":
            return np.asarray(self.floor + can * (1 + strength / self.need) ** -_POWER)
        return np.asarray(self.floor + can * np.exp(-strength / self.need))

    def chance(self, change: int, share: float) -> float:
        """The chance of a slip at one change, at a share of the tempo."""
        tries, floor = float(self.tries_today[change]), float(self.floor[change])
        strength = float(self._kept[change]) + DAY_FULL * math.log1p(tries / DAY_FULL)
        ratio = strength / float(self.need[change])
        left = (1 + ratio) ** -_POWER if self.law == "power" else math.exp(-ratio)
        own = floor + (float(self.start[change]) - floor) * left
        odds = math.log(own / (1 - own)) + TEMPO_ODDS * math.log2(share)
        return 1 / (1 + math.exp(-odds))

    def plays(self, change: int, share: float) -> bool:
        """Play a change once, at a share of the tempo; whether it was clean. It is learnt from."""
        clean = bool(self.rng.random() >= self.chance(change, share)) and abs(self.struck_at()) <= LATE_S
        self.tries_today[change] += 1.0 if clean else SLIP_TEACHES
        return clean

    def came_back(self, change: int) -> None:
        """The change was played the other way round."""
        self.tries_today[change] += BACK_TEACHES

    def struck_at(self) -> float:
        """How late a stroke comes, in seconds (negative: early)."""
        return float(self.rng.normal(0.005, _TIMING_S))


def massed(tries: Floats) -> Floats:
    """The strength that tries of one day give."""
    return np.asarray(DAY_FULL * np.log1p(tries / DAY_FULL))
