"""A taste as a value, and the library as somebody with that taste sees it."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.motion.priced import priced
from yellow_hinge.tasks.taste.prices import Pair
from yellow_hinge.theory.pitch import read_pitch
from yellow_hinge.voicing.own_prices import OwnPrices
from yellow_hinge.voicing.recipes import Library


class Chosen(Struct, frozen=True):
    """A choice of a player's, in a ``school``. ``id``: the place it was made in, of which only the last
    choice counts; those that are ``struck`` out are kept, and nothing is learnt from them."""

    id: str
    school: str
    pair: Pair
    struck: bool = False

    @property
    def base(self) -> str:
        """What it is struck out with: the place, whichever row it was held against."""
        return self.id.partition("~")[0]

    @property
    def own(self) -> bool:
        """Whether it is one chord that the player chose; the others are whole rows, and chords that they left
        as they were."""
        return self.base == self.id and bool(self.pair.took)

    @property
    def keys(self) -> tuple[int, ...]:
        """What was taken, as MIDI keys."""
        found = (read_pitch(word) for word in self.pair.took.replace(";", " ").split())
        return tuple(sorted({pitch.key for pitch in found if pitch is not None}))


class Sure(Struct, frozen=True):
    """How sure a taste is: ``of`` so many of the player's own choices (hands, where rows were learnt from)
    how many are theirs as the program would have them ``before``, and ``after``, each by what was learnt
    from the others."""

    of: int = 0
    before: int = 0
    after: int = 0


class Taken(Struct, frozen=True):
    """What a song takes from lists: its families of swaps, those of swaps that were given back, and the
    patterns of its hands ("left waltz"), in a ``kind`` of song."""

    id: str
    title: str
    kind: str
    families: tuple[str, ...] = ()
    returned: tuple[str, ...] = ()
    patterns: tuple[str, ...] = ()


class Taste(OwnPrices, frozen=True):
    """A player's prices with how they came about: by price the number of ``choices`` that speak of it; what
    was ``chosen``; and, apart from prices, what ``songs`` take from lists. ``on``: it is learnt from what is
    saved, and new takes begin with it."""

    choices: Mapping[str, int] = field(default_factory=dict)
    chosen: tuple[Chosen, ...] = ()
    songs: tuple[Taken, ...] = ()
    on: bool = True
    sure: Sure = Sure()

    @property
    def counting(self) -> tuple[Chosen, ...]:
        """The choices that are not struck out."""
        return tuple(choice for choice in self.chosen if not choice.struck)

    def struck(self, place: str, out: bool) -> Taste:
        """With the choices of a place struck out, and the whole rows that they are part of, or counted
        again."""
        rows = f"{place.rpartition('/')[0]}/row"
        whole = any(
            choice.struck
            for choice in self.chosen
            if choice.own and choice.base != place and _in_row(choice, rows)
        )
        chosen = tuple(
            replace(choice, struck=out) if choice.base == place
            else replace(choice, struck=out or whole) if choice.base == rows
            else choice
            for choice in self.chosen
        )  # fmt: skip
        return replace(self, chosen=chosen)

    def prices(self, whose: str) -> OwnPrices:
        """What a take remembers of it."""
        return OwnPrices(self.shares, self.shapes, self.school, whose)


def _in_row(choice: Chosen, rows: str) -> bool:
    return choice.base.rpartition("/")[0] == rows.rpartition("/")[0]


def tasted(library: Library, prices: OwnPrices) -> Library:
    """The library with a player's prices in its schools. What is banned stays banned."""
    schools = {name: priced(school, prices) for name, school in library.schools.items()}
    return replace(library, schools=schools)
