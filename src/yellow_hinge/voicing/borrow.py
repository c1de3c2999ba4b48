"""Another school's shapes for a chord that a school cannot play with these hands."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec
from msgspec.structs import replace

from yellow_hinge.voicing.recipes import Library, School
from yellow_hinge.voicing.wish import Wish

_MARK = "+"


def borrowed(wish: Wish, library: Library) -> Iterator[Wish]:
    """The same wish in every other school, the loose ones last; prices of motion stay those of
    the player's own school."""
    others = [school for school in library.schools.values() if school.id != wish.school.id]
    for other in sorted(others, key=lambda school: school.loose):
        lent = msgspec.structs.replace(
            other, id=f"{wish.school.id}{_MARK}{other.id}", weights=wish.school.weights
        )
        yield replace(wish, school=lent)


def lender(school: School, library: Library) -> School | None:
    """The school that a borrowed school's shapes come from; None for one that is not borrowed."""
    return library.schools.get(school.id.partition(_MARK)[2])
