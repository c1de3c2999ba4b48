"""How sure a change is: a running estimate, moved by every try, that fades when nothing is played.

The chance of a slip at a tempo is ``chance(theta + TEMPO * log2(tempo / goal))``. Every try moves theta by
``K(n) * (slip - expected)``: the Elo rating as it is used for learners, with an uncertainty that shrinks with
the number of tries n (R. Pelánek, "Applications of the Elo rating system in adaptive educational systems",
Computers & Education 98, 2016). Between days theta goes back towards its opening value by what is forgotten,
``1 - R``, where R is the retrievability of the FSRS memory model (:mod:`schedule`; J. Ye et al., "A
stochastic shortest path algorithm for optimizing spaced repetition scheduling", KDD 2022).
"""

from __future__ import annotations

import math
from datetime import datetime

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.practice.build import chance
from yellow_hinge.practice.schedule import Memory, recall, reviewed

#: How much harder a doubled tempo makes a change, in log-odds: our choice, from the usual advice that a
#: passage that fails at tempo is clean at half of it.
TEMPO = 1.6
#: How far the first try and the hundredth move the estimate, in log-odds.
_FIRST_K, _LAST_K, _SHRINK = 0.9, 0.12, 0.08
#: What is not known of a change that nobody tried, in log-odds: how far players differ from what it is built
#: like. Our choice.
DOUBT = 1.0


class Sureness(Struct, frozen=True):
    """What is known of one change: ``opening`` and ``theta`` are log-odds of a slip at the goal tempo, the
    second at the ``last`` try; ``tries`` and ``slips`` in all, ``day_tries`` and ``day_slips`` on the day of
    the last one; ``best`` is the fastest clean tempo as a share of the goal; ``memory`` its place in the
    schedule as of the day before."""

    opening: float
    theta: float
    tries: int = 0
    slips: int = 0
    day_tries: int = 0
    day_slips: int = 0
    best: float = 0.0
    last: datetime | None = None
    memory: Memory | None = None

    def recalled(self, moment: datetime) -> float:
        """How much is still there, 0..1; 1 on the day of the last try."""
        if self.last is None or moment.date() <= self.last.date():
            return 1.0
        memory = reviewed(self.memory, self.day_slips / max(1, self.day_tries), self.last)
        return recall(memory, moment)

    def now(self, moment: datetime) -> float:
        """Log-odds of a slip at the goal tempo at a moment; what was never sure is not forgotten."""
        gained = self.opening - self.theta
        return self.theta + max(0.0, gained) * (1 - self.recalled(moment))

    def slip(self, moment: datetime, share: float = 1.0) -> float:
        """The chance of a slip, 0..1, at a share of the goal tempo."""
        return chance(self.now(moment) + TEMPO * math.log2(max(0.05, share)))

    def cautious(self, moment: datetime) -> float:
        """The chance of a slip as it may well be: the less it was tried, the worse it is taken to be, so that
        nothing is left untried because it looks easy."""
        return chance(self.now(moment) + DOUBT / math.sqrt(1 + self.tries / 2))

    def tried(self, clean: bool, share: float, moment: datetime, weight: float = 1.0) -> Sureness:
        """After one more try at a share of the goal tempo; it counts by its ``weight``."""
        sureness = self._today(moment)
        expected = chance(sureness.theta + TEMPO * math.log2(max(0.05, share)))
        step = weight * max(_LAST_K, _FIRST_K / (1 + _SHRINK * sureness.tries))
        slip = 0 if clean else 1
        return replace(
            sureness, theta=sureness.theta + step * (slip - expected), tries=sureness.tries + 1,
            slips=sureness.slips + slip,
            day_tries=sureness.day_tries + 1, day_slips=sureness.day_slips + slip,
            best=max(sureness.best, share) if clean else sureness.best,
            last=max(sureness.last or moment, moment),  # a clock may go back
        )  # fmt: skip

    def _today(self, moment: datetime) -> Sureness:
        """As it is before the first try of another day: faded, the day before reviewed."""
        if self.last is None or moment.date() <= self.last.date():
            return self
        memory = reviewed(self.memory, self.day_slips / max(1, self.day_tries), self.last)
        return replace(self, theta=self.now(moment), memory=memory, day_tries=0, day_slips=0)

    def due(self, moment: datetime) -> bool:
        """Whether the schedule asks for it again."""
        if self.last is None or moment.date() <= self.last.date():
            return False
        memory = reviewed(self.memory, self.day_slips / max(1, self.day_tries), self.last)
        return memory.due.date() <= moment.date()

    def days_since(self, moment: datetime) -> int | None:
        """Whole days since the last try; None where there was none. Further west it may be a day earlier."""
        return None if self.last is None else max(0, (moment.date() - self.last.date()).days)


def begun(opening: float) -> Sureness:
    """A change that nobody has played yet."""
    return Sureness(opening, opening)


def moved_in(opening: float, sureness: Sureness, moment: datetime) -> Sureness:
    """A change that is sure in another key or take: half of what was gained there is believed here."""
    gained = max(0.0, sureness.opening - sureness.now(moment))
    return Sureness(opening, opening - gained / 2)
