"""A taste as a value, and the library as somebody with that taste sees it."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.motion.priced import priced
from yellow_hinge.tasks.taste.prices import Pair
from yellow_hinge.voicing.own_prices import OwnPrices
from yellow_hinge.voicing.recipes import Library


class Chosen(Struct, frozen=True):
    """A choice of a player's, in a ``school``. ``id``: the place it was made in, of which only the last
    choice counts; those that are ``struck`` out are kept, and nothing is learnt from them."""

    id: str
    school: str
    pair: Pair
    struck: bool = False


class Sure(Struct, frozen=True):
    """How sure a taste is: ``of`` so many choices (hands, where rows were learnt from) how many are the
    player's as the program would have them ``before``, and ``after``, each by what was learnt from the
    others."""

    of: int = 0
    before: int = 0
    after: int = 0


class Counted(Struct, frozen=True):
    """How often something was taken, and given back."""

    taken: int = 0
    returned: int = 0


class Taste(OwnPrices, frozen=True):
    """A player's prices with how they came about: by price the number of ``choices`` that speak of it; what
    was ``chosen``; and, apart from prices, by name the ``families`` of swaps and the ``patterns`` (a kind of
    song and a pattern's id). ``on``: it is learnt from what is saved, and new takes begin with it."""

    choices: Mapping[str, int] = field(default_factory=dict)
    chosen: tuple[Chosen, ...] = ()
    families: Mapping[str, Counted] = field(default_factory=dict)
    patterns: Mapping[str, Counted] = field(default_factory=dict)
    on: bool = True
    sure: Sure = Sure()

    @property
    def counting(self) -> tuple[Chosen, ...]:
        """The choices that are not struck out."""
        return tuple(one for one in self.chosen if not one.struck)

    def prices(self, whose: str) -> OwnPrices:
        """What a take remembers of it."""
        return OwnPrices(self.shares, self.shapes, self.school, whose)


def tasted(library: Library, prices: OwnPrices) -> Library:
    """The library with a player's prices in its schools. What is banned stays banned."""
    schools = {name: priced(school, prices) for name, school in library.schools.items()}
    return replace(library, schools=schools)
