"""A school as somebody with prices of their own has it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

from msgspec.structs import replace

from yellow_hinge.motion.counts import NOTE_PRICES, price_of
from yellow_hinge.motion.weights import PRICES
from yellow_hinge.voicing.own_prices import OwnPrices, by_shares
from yellow_hinge.voicing.recipes import Notes, Row, School

#: The lists of recipes of a school.
LISTS = ("left_self", "left_bassist", "right")
#: The dearest that a number of notes may be, in hundredths of a half step.
_MOST_PRICE = 10_000


def priced(school: School, prices: OwnPrices) -> School:
    """The school with the player's prices, where they speak of it. What is banned stays banned."""
    return _made(_Same(school), _Same(prices)) if prices.of(school.id) else school


class _Same:
    """A value that is looked up by what it is, not by what is in it: schools and prices have dictionaries."""

    def __init__(self, value: School | OwnPrices) -> None:
        self.value = value

    def __hash__(self) -> int:
        return id(self.value)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.value is self.value


@lru_cache(maxsize=64)
def _made(own_school: _Same, own_prices: _Same) -> School:
    school, prices = own_school.value, own_prices.value
    assert isinstance(school, School) and isinstance(prices, OwnPrices)
    weights = dict(school.weights)
    for name, share in prices.shares.items():
        if name in PRICES:
            weights[name] = _priced(price_of(school, name), share)
    rows = {row: _row(school, row, prices) for row in Notes.__struct_fields__}
    lists = {name: ordered(getattr(school, name), name.partition("_")[0], prices.shapes) for name in LISTS}
    return replace(school, weights=weights, notes=Notes(**rows), **lists)


def ordered(recipes: Sequence[str], side: str, shapes: Mapping[str, int]) -> tuple[str, ...]:
    """A hand's recipes by how often they were taken."""
    return by_shares(recipes, lambda recipe: shapes.get(f"{side} {recipe}", 0))


def _row(school: School, row: str, prices: OwnPrices) -> Row:
    own = list(getattr(school.notes, row))
    for count in range(len(own)):
        name = f"{row}_{count}"
        assert name in NOTE_PRICES
        own[count] = min(_MOST_PRICE, _priced(own[count], prices.shares.get(name, 1.0)))
    return tuple(own)


def _priced(ours: int, share: float) -> int:
    """A share of a price; what costs something does not become free."""
    return max(1, round(ours * share)) if ours else 0
