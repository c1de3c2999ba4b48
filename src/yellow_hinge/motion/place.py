"""A problem for the planner, and its answer, as values."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.rhythm.struck import Struck
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish

if TYPE_CHECKING:
    from yellow_hinge.lattice.kernel import Costs


class Place(Struct, frozen=True):
    """One chord of a problem. ``wish`` None is "no chord"; ``lock`` fixes the voicing;
    ``where`` names the place in messages ("bar 3, Dm7")."""

    wish: Wish | None
    lock: Voicing | None = None
    where: str = ""

    def for_rhythm(self, struck: tuple[Struck, Struck]) -> Place:
        """The place with what the rhythm of both hands needs."""
        return self if self.wish is None else replace(self, wish=replace(self.wish, struck=struck))


class Progression(Struct, frozen=True):
    """A problem: chords that are voiced once each, in the order in which they are first played, and
    ``plays``, the places in playing order; every place is in it. With ``loop`` the last one leads
    back to the first."""

    places: tuple[Place, ...]
    plays: tuple[int, ...]
    loop: bool = False

    @staticmethod
    def of(places: Sequence[Place], loop: bool = False) -> Progression:
        """Chords that are played one after the other."""
        return Progression(tuple(places), tuple(range(len(places))), loop)

    @property
    def counts(self) -> tuple[int, ...]:
        """How often each place is played."""
        found = Counter(self.plays)
        return tuple(found[place] for place in range(len(self.places)))

    @property
    def times(self) -> Mapping[tuple[int, int], int]:
        """How often each change is played, by its two places."""
        closing = [self.plays[0]] if self.loop and len(self.plays) > 1 else []
        return Counter(pairwise([*self.plays, *closing]))


class Ranking(Struct, frozen=True, eq=False):
    """All voicings of one place: ``extra`` (L, R) int32 is what each pair of shapes costs the whole song,
    in hundredths of a half step, with all other places at their best again; FORBIDDEN where it is no
    voicing."""

    left: tuple[HandShape, ...]
    right: tuple[HandShape, ...]
    extra: Costs


class Answer(Struct, frozen=True):
    """The row with the least effort. ``voicings``, ``states`` (legal voicings) and ``wishes`` (what
    was wanted, in a borrowed school where the player's own cannot play it; None: no chord) go by
    place; ``plays`` and ``loop`` as in the problem. ``cost`` in hundredths of a half step counts
    everything as often as it is played; ``gap`` by how much a better row might still be cheaper,
    where that is not proven; ``seconds`` spent searching."""

    voicings: tuple[Voicing, ...]
    cost: int
    states: tuple[int, ...]
    seconds: float
    optimal: bool = True
    gap: int = 0
    wishes: tuple[Wish | None, ...] = ()
    loop: bool = False
    plays: tuple[int, ...] = ()

    @property
    def row(self) -> tuple[Voicing, ...]:
        """The voicings in playing order."""
        return tuple(self.voicings[place] for place in self.plays)

    @property
    def row_wishes(self) -> tuple[Wish | None, ...]:
        """The wishes in playing order."""
        return tuple(self.wishes[place] for place in self.plays)


class Alternative(Struct, frozen=True):
    """Another voicing for one place; ``extra`` is what it costs the whole song, in hundredths
    of a half step, with all other places at their best again. Where a round begins again, the chord
    that it comes back to is kept as it is."""

    voicing: Voicing
    extra: int
