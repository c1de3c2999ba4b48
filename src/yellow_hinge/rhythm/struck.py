"""What the rhythm of a hand needs of its grips."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct


class Struck(Struct, frozen=True):
    """What the rhythm of a hand needs of its grip: at least so many notes, at most so many (0: as many as
    there are), and whether its bass is struck an octave ``below`` the grip."""

    least: int = 1
    most: int = 0
    below: bool = False

    def off(self, notes: int) -> int:
        """How many notes a grip of so many has too few or too many."""
        return max(0, self.least - notes) + (max(0, notes - self.most) if self.most else 0)


AS_IT_IS = Struck()


def strongest(row: Sequence[Struck]) -> Struck:
    """What grips need that are played in several ways: the most notes of all; the bass goes below where it
    always does."""
    most = [one.most for one in row]
    return Struck(max(one.least for one in row), 0 if 0 in most else max(most), all(one.below for one in row))
