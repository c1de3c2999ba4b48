"""A taste as a value, and the library as somebody with that taste sees it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.motion.counts import NOTE_PRICES, price_of
from yellow_hinge.motion.weights import PRICES
from yellow_hinge.voicing.recipes import Library, Notes, Row, School

#: The lists of recipes of a school.
LISTS = ("left_self", "left_bassist", "right")
_FALL, _PRIOR = 0.85, 12
#: The dearest that a number of notes may be, in hundredths of a half step.
_MOST_PRICE = 10_000


class Taste(Struct, frozen=True):
    """What a player's prices are as shares of ours, by the names of :data:`motion.counts.NAMES`; of how many
    ``choices`` each was learnt. ``shapes``: how often each hand took a recipe ("left root-fifth"), which
    orders the lists of schools. ``school``: for that one alone; empty: for all."""

    shares: Mapping[str, float] = field(default_factory=dict)
    choices: Mapping[str, int] = field(default_factory=dict)
    shapes: Mapping[str, int] = field(default_factory=dict)
    school: str = ""

    def of(self, school: School) -> bool:
        """Whether it speaks of a school, or of one that borrows for it."""
        return not self.school or school.id.partition("+")[0] == self.school


def tasted(library: Library, taste: Taste) -> Library:
    """The library with the player's prices in its schools. What is banned stays banned."""
    schools = {
        name: _with_prices(school, taste) if taste.of(school) else school
        for name, school in library.schools.items()
    }
    return replace(library, schools=schools)


def _with_prices(school: School, taste: Taste) -> School:
    weights = dict(school.weights)
    for name, share in taste.shares.items():
        if name in PRICES:
            weights[name] = _priced(price_of(school, name), share)
    rows = {row: _row(school, row, taste) for row in Notes.__struct_fields__}
    lists = {name: ordered(getattr(school, name), name.partition("_")[0], taste.shapes) for name in LISTS}
    return replace(school, weights=weights, notes=Notes(**rows), **lists)


def ordered(recipes: Sequence[str], side: str, shapes: Mapping[str, int]) -> tuple[str, ...]:
    """A hand's recipes by how often they were taken, with our order as what is thought before: shares that
    fall by :data:`_FALL` from place to place count as much as :data:`_PRIOR` grips (the mean of a Dirichlet
    prior and what was counted)."""
    before = [_FALL**place for place in range(len(recipes))]
    whole = sum(before) or 1.0
    held = {
        recipe: _PRIOR * share / whole + shapes.get(f"{side} {recipe}", 0)
        for recipe, share in zip(recipes, before, strict=True)
    }
    return tuple(sorted(recipes, key=lambda recipe: -held[recipe]))


def _row(school: School, row: str, taste: Taste) -> Row:
    prices = list(getattr(school.notes, row))
    for count in range(len(prices)):
        name = f"{row}_{count}"
        assert name in NOTE_PRICES
        prices[count] = min(_MOST_PRICE, _priced(prices[count], taste.shares.get(name, 1.0)))
    return tuple(prices)


def _priced(ours: int, share: float) -> int:
    """A share of a price; what costs something does not become free."""
    return max(1, round(ours * share)) if ours else 0
