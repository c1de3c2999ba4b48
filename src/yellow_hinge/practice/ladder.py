"""The ladder of tempi: slow first, up by small steps, back after slips, stop while it is still clean."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

#: A step up, as a share of the tempo: one that is hardly noticed. Rounds that are clean before it; rounds in
#: a row with a slip before a step back. Our choice, and each can be set.
STEP, CLEAN_ROUNDS, SLIPS = 0.06, 2, 2
#: Shares of slips in a round: up to the first it is clean (one slip in a long stretch), from the second on it
#: is one too many; between them nothing is decided.
_CLEAN, _TOO_MANY = 0.08, 0.25
#: Nothing is practised slower than this share of where a ladder began.
_FLOOR = 0.5

Move = Literal["stay", "up", "back", "top"]


@dataclass
class Ladder:
    """Tempi in beats a minute: from ``start`` to ``goal``. ``tempo`` is the rung at hand, ``clean`` the clean
    rounds on it in a row, ``slipped`` those with a slip; ``reached`` the fastest clean one so far."""

    start: int
    goal: int
    step: float = STEP
    clean_rounds: int = CLEAN_ROUNDS
    slips: int = SLIPS

    def __post_init__(self) -> None:
        self.tempo = min(self.start, self.goal)
        self.clean = self.slipped = 0
        self.reached = 0
        self.moves: list[Move] = []

    @property
    def at_top(self) -> bool:
        """Whether the goal has been played clean as often as it takes."""
        return self.reached >= self.goal

    def fed(self, slips: int, tries: int) -> Move:
        """A round is over, with so many slips in so many changes; what the ladder does."""
        share = slips / max(1, tries)
        if share <= _CLEAN:
            move = self._clean()
        elif share >= _TOO_MANY:
            move = self._slipped()
        else:
            self.clean, move = 0, "stay"
        self.moves.append(move)
        return move

    def _clean(self) -> Move:
        self.clean, self.slipped = self.clean + 1, 0
        if self.clean < self.clean_rounds:
            return "stay"
        self.reached, self.clean = max(self.reached, self.tempo), 0
        if self.tempo >= self.goal:
            return "top"
        self.tempo = min(self.goal, self.tempo + self._one_step())
        return "up"

    def _slipped(self) -> Move:
        self.slipped, self.clean = self.slipped + 1, 0
        if self.slipped < self.slips:
            return "stay"
        self.slipped = 0
        lower = max(round(self.start * _FLOOR), 20, self.tempo - self._one_step())
        if lower >= self.tempo:
            return "stay"
        self.tempo = lower
        return "back"

    def moved_by_hand(self, steps: int) -> None:
        """So many steps faster or slower, up to the goal, because the player wants it."""
        for _ in range(abs(steps)):
            to = self.tempo + self._one_step() * (1 if steps > 0 else -1)
            self.tempo = max(round(self.start * _FLOOR), 20, min(self.goal, to))
        self.clean = self.slipped = 0

    def _one_step(self) -> int:
        return max(1, round(self.tempo * self.step))

    def words(self) -> str:
        """Where it stands: "at 66, round 2 of 2 clean"."""
        return f"at {self.tempo}, {self.clean} of {self.clean_rounds} clean rounds"
