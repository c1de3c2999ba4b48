"""A song from elsewhere may name schools that this library does not have."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TypeVar

from msgspec.structs import replace

from yellow_hinge.errors import Problem
from yellow_hinge.song.arrangement import Arrangement, Ask, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.model import Song
from yellow_hinge.voicing.recipes import Library

_Name = TypeVar("_Name")


def with_known_schools(song: Song, library: Library, place: str) -> tuple[Song, tuple[Problem, ...]]:
    """The song with a school that is there in place of each that is not, and what to say of it."""
    missing = sorted({name for take in song.takes for name in _named(take.arrangement)} - {*library.schools})
    if not missing:
        return song, ()
    takes = tuple(replace(take, arrangement=_known(take.arrangement, library)) for take in song.takes)
    first = next(iter(library.schools.values()))
    problems = tuple(
        Problem(place, f"there is no school {name!r} here", f"{first.name} is taken; choose another on Song")
        for name in missing
    )
    return replace(song, takes=takes), problems


def _named(arrangement: Arrangement) -> Iterable[str]:
    tastes = (*arrangement.tastes.values(), *(ask.taste for ask in arrangement.asks.values()))
    return (arrangement.school, *(taste.school for taste in tastes if taste.school is not None))


def _known(arrangement: Arrangement, library: Library) -> Arrangement:
    school = arrangement.school if arrangement.school in library.schools else next(iter(library.schools))
    asks: dict[At, Ask] = {}
    for at, ask in arrangement.asks.items():
        own = replace(ask, taste=_taste(ask.taste, library))
        if own != Ask():
            asks[at] = own
    return replace(arrangement, school=school, tastes=_tastes(arrangement.tastes, library), asks=asks)


def _tastes(tastes: Mapping[_Name, Taste], library: Library) -> dict[_Name, Taste]:
    known = {name: _taste(taste, library) for name, taste in tastes.items()}
    return {name: taste for name, taste in known.items() if taste != Taste()}


def _taste(taste: Taste, library: Library) -> Taste:
    return taste if taste.school in (None, *library.schools) else replace(taste, school=None)
