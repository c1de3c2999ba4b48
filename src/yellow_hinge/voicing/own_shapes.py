"""A shape of the player's own as a recipe: its degrees as roles, so that it is there in every key, on
every chord that has those roles, and in every inversion."""

from __future__ import annotations

import re
from itertools import pairwise

import msgspec

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.tension import kinds
from yellow_hinge.voicing.recipes import Library, Recipe
from yellow_hinge.voicing.shape import HandShape

MOST_NAME = 40
#: Degree -> the role that it plays; a suspension stands for the third.
_ROLES = {
    "R": "R", "b9": "9", "9": "9", "#9": "9", "b3": "3", "3": "3", "11": "11", "#11": "11",
    "b5": "5", "5": "5", "#5": "5", "b13": "13", "13": "13", "6": "6", "bb7": "7", "b7": "7", "7": "7",
}  # fmt: skip
#: What kind of chord a shape is for: one of these tags of the chord that it was found on.
_KINDS = ("major", "minor", "dominant", "half-diminished", "diminished", "augmented", "suspended", "power")


def recipe_of(
    shape: HandShape, side: str, chord: ChordSymbol, name: str, library: Library, *, turned: bool = True
) -> Recipe:
    """The recipe that makes this shape, for chords of the same kind; ``turned``: in every inversion.

    Raises :class:`BadInput` for a name that is empty or too long, and for a shape with a note that is
    no tone of the chord.
    """
    name = " ".join(name.split())
    if not 0 < len(name) <= MOST_NAME:
        what = f"{name[:MOST_NAME]!r} is no name for a shape"
        raise BadInput(Problem("name", what, f"write 1 to {MOST_NAME} letters"))
    slots = []
    for place, (key, label) in enumerate(zip(shape.keys, shape.degrees, strict=True)):
        role = _role(label, chord)
        if role is None:
            what = f"{chord.pretty} gives the {label} no part to play"
            raise BadInput(Problem("shape", what, "keep it for this chord, or leave that note out"))
        octaves = (key - shape.keys[place - 1] - 1) // 12 if place else 0
        slots.append(role + "'" * octaves)
    return Recipe(
        id=_free_id(name, library),
        name=name,
        hands=(side,),  # type: ignore[arg-type] # "left" or "right"
        source="the player's own",
        slots=tuple(slots),
        inversions="all" if turned and _turns(shape) else "none",
        kinds=tuple(tag for tag in _KINDS if tag in kinds(chord))[:1],
        doubles=len(set(shape.degrees)) < len(shape.degrees),
    )


def _role(label: str, chord: ChordSymbol) -> str | None:
    if label in chord.sus:
        return "3"
    return _ROLES.get(label)


def _turns(shape: HandShape) -> bool:
    """Whether other inversions of it are shapes of their own: not of doubled or spread-out ones."""
    close = all(high - low <= 12 for low, high in pairwise(shape.keys))
    return close and len(set(shape.degrees)) == len(shape.degrees) > 1


def _free_id(name: str, library: Library) -> str:
    base = "own-" + (re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "shape")
    numbered = (base if number == 1 else f"{base}-{number}" for number in range(1, len(library.recipes) + 2))
    return next(one for one in numbered if one not in library.recipes)


def recipe_text(recipe: Recipe) -> str:
    """The recipe as a row of a player's recipe file."""
    lines = ["[[recipe]]"]
    for field in ("id", "name", "hands", "slots", "inversions", "kinds", "doubles", "source"):
        value = getattr(recipe, field)
        words = list(value) if isinstance(value, tuple) else value
        lines.append(f"{field} = {msgspec.json.encode(words).decode()}")
    return "\n".join(lines) + "\n"
