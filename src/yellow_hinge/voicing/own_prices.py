"""What a player's prices are beside the program's own, as a take remembers them; and lists in the order in
which a player takes things from them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TypeVar

from msgspec import Struct, field

Thing = TypeVar("Thing")


#: Prices stay between a quarter and four times ours.
LEAST_SHARE, MOST_SHARE = 0.25, 4.0


class OwnPrices(Struct, frozen=True):
    """What a player's prices are as ``shares`` of ours, by the names of :data:`motion.counts.NAMES`;
    ``shapes``: how often each hand took a recipe ("left root-fifth"), which orders the lists of schools.
    ``school``: for that one alone; empty: for all. ``whose``: the player's name."""

    shares: Mapping[str, float] = field(default_factory=dict)
    shapes: Mapping[str, int] = field(default_factory=dict)
    school: str = ""
    whose: str = ""

    def of(self, school: str) -> bool:
        """Whether they speak of a school, by its id, or of one that borrows for it."""
        return not self.school or school.partition("+")[0] == self.school


#: With nothing counted, a list's shares fall so from place to place, and weigh as much as so many choices.
_FALL, _PRIOR = 0.85, 12


def by_shares(
    things: Sequence[Thing], taken: Callable[[Thing], int], returned: Callable[[Thing], int] = lambda _: 0
) -> tuple[Thing, ...]:
    """Things by how often they were taken, with the order in which they come as what is thought before (the
    mean of a Dirichlet prior and what was counted); those that were given back count by the share that was
    kept. None is left out."""
    before = [_FALL**place for place in range(len(things))]
    whole = sum(before) or 1.0
    held = []
    for thing, share in zip(things, before, strict=True):
        count = taken(thing)
        kept = (1 + count) / (1 + count + returned(thing))
        held.append((_PRIOR * share / whole + count) * kept)
    order = sorted(range(len(held)), key=lambda place: -held[place])
    return tuple(things[place] for place in order)
