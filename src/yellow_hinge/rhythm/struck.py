"""What the rhythm of a hand needs of its grips."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

#: Half steps by which a left hand over a bassist lies higher, and by which a grip does whose bass is struck
#: an octave below it.
_OVER_BASSIST_ST, BELOW_ST = 7, 8


class Struck(Struct, frozen=True):
    """What the rhythm of a hand needs of its grip: at least so many notes, at most so many (0: as many as
    there are), whether its bass is struck an octave ``below`` the grip, between which keys its bass lies (0:
    as it comes); a left hand over a bassist lies a fifth higher."""

    least: int = 1
    most: int = 0
    below: bool = False
    floor: int = 0
    ceiling: int = 0

    def off(self, notes: int) -> int:
        """How many notes a grip of so many has too few or too many."""
        return max(0, self.least - notes) + (max(0, notes - self.most) if self.most else 0)

    def off_st(self, low: int, over_bassist: bool) -> int:
        """How many half steps the lowest key of a left hand lies outside of where it is wanted."""
        lifted = _OVER_BASSIST_ST * over_bassist
        high = self.ceiling + lifted + BELOW_ST * self.below
        too_high = max(0, low - high) if self.ceiling else 0
        return (max(0, self.floor + lifted - low) if self.floor else 0) + too_high


AS_IT_IS = Struck()


def strongest(row: Sequence[Struck]) -> Struck:
    """What grips need that are played in several ways: the most notes of all; the bass goes below, or lies
    within limits, where it always does."""
    most, floors, ceilings = (
        [getattr(struck, name) for struck in row] for name in ("most", "floor", "ceiling")
    )
    return Struck(
        max(struck.least for struck in row), 0 if 0 in most else max(most), all(one.below for one in row),
        min(floors), 0 if 0 in ceilings else max(ceilings),
    )  # fmt: skip
