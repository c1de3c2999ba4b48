"""How often a row pays each price: effort taken apart, for whoever looks for other prices.

Effort is a sum of prices times counts. Instead of saying every count a second time, the reasons of
:mod:`motion.explain` are asked with prices that are powers of a large number: each count is then a digit of
the sum, exact and in one walk.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from fractions import Fraction

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.motion.explain import Term, explain_change, explain_voicing
from yellow_hinge.motion.weights import PRICES, weights_of
from yellow_hinge.voicing.recipes import School
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish

#: Counts are so many parts of a whole: prices are divided by 100, and by the colour.
_WHOLE = 30_000
#: Larger than any count of one chord or change, in parts.
_BASE = 10**18
_ROWS = ("left_self", "left_bassist", "right")
#: The price of a number of notes in a hand, by the school's row and the number.
NOTE_PRICES = tuple(f"{row}_{count}" for row in _ROWS for count in range(6))
#: Everything that effort can be paid for, in the order of digits.
NAMES = (*(name for name in PRICES if name != "notes"), *NOTE_PRICES)
_CODES = {name: _WHOLE * _BASE**place for place, name in enumerate(NAMES)}


class _CodedNotes(Struct, frozen=True):
    """Stands in for a school's rows of wanted notes."""

    def of(self, side: str, bass: str) -> tuple[int, ...]:
        row = "right" if side == "right" else f"left_{bass}"
        return tuple(_CODES[f"{row}_{count}"] for count in range(6))


_PRICES = {name: code for name, code in _CODES.items() if name in PRICES} | {"notes": 100}


def _coded(wish: Wish) -> Wish:
    school = replace(wish.school, weights=_PRICES, notes=_CodedNotes())
    return replace(wish, school=school)


def _decoded(terms: Sequence[Term]) -> Iterator[tuple[str, Fraction]]:
    whole = sum(term.cost for term in terms)
    for name in NAMES:
        whole, digit = divmod(whole, _BASE)
        if digit:
            yield name, Fraction(digit, _WHOLE)


def voicing_counts(wish: Wish, voicing: Voicing) -> Mapping[str, Fraction]:
    """How often a voicing pays each price by itself."""
    return dict(_decoded(explain_voicing(_coded(wish), voicing)))


def change_counts(before_wish: Wish, wish: Wish, before: Voicing, after: Voicing) -> Mapping[str, Fraction]:
    """How often a change pays each price."""
    return dict(_decoded(explain_change(_coded(before_wish), _coded(wish), before, after)))


def price_of(school: School, name: str) -> int:
    """A school's price of a name in :data:`NAMES`, in hundredths of a half step."""
    if name in PRICES:
        found: int = getattr(weights_of(school), name)
        return found
    row, _, count = name.rpartition("_")
    prices: tuple[int, ...] = getattr(school.notes, row)
    return prices[int(count)] * weights_of(school).notes // 100


def paid(counts: Mapping[str, Fraction], school: School) -> dict[str, Fraction]:
    """What some counts cost in a school, by the name of the price, in hundredths of a half step. Effort is
    the same, with each reason rounded down."""
    return {name: count * price_of(school, name) for name, count in counts.items()}
