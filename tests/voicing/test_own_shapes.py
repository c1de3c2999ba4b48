"""A grip becomes a recipe that makes it again, in every key."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from yellow_hinge.errors import BadInput
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import name_for_pitch_class
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.own_shapes import recipe_of, recipe_text
from yellow_hinge.voicing.recipes import RECIPES_SCHEMA, Library, with_own_recipes
from yellow_hinge.voicing.shape import HandShape

_GRIPS = [
    ("left", "C7", (48, 58, 64, 69)),  # root, seventh, tenth, thirteenth
    ("right", "Dm7", (60, 64, 65, 69)),
    ("right", "Gsus", (60, 62, 67)),
    ("left", "F", (41, 53, 60)),
    ("right", "Bb13", (56, 62, 67, 72)),
    ("left", "Am", (45, 60)),
]


def _chord(symbol: str) -> ChordSymbol:
    chord = parse_chord(symbol)
    assert chord is not None
    return chord


def _shape(side: str, symbol: str, keys: tuple[int, ...], library: Library) -> HandShape:
    nothing: tuple[int, ...] = ()
    left, right = (keys, nothing) if side == "left" else (nothing, keys)
    return classify(left, right, _chord(symbol), parse_key("C"), library).hand(side)


@pytest.mark.parametrize(("side", "symbol", "keys"), _GRIPS)
def test_a_grip_is_made_again_by_its_recipe(
    side: str, symbol: str, keys: tuple[int, ...], library: Library
) -> None:
    shape = _shape(side, symbol, keys, library)
    recipe = recipe_of(shape, side, _chord(symbol), "my own", library)
    only = Library({}, {})
    own = with_own_recipes(only, f'schema = "{RECIPES_SCHEMA}"\n{recipe_text(recipe)}', "own.toml")
    assert own.recipes[recipe.id] == recipe
    for step in range(12):
        root = name_for_pitch_class(_chord(symbol).root.pitch_class + step, flats=True)
        there = replace(_chord(symbol), root=root)
        key = parse_key(str(name_for_pitch_class(step, flats=True)))
        moved = tuple(one + step for one in keys)
        nothing: tuple[int, ...] = ()
        left, right = (moved, nothing) if side == "left" else (nothing, moved)
        assert classify(left, right, there, key, own).hand(side).recipe == recipe.id


def test_names_get_ids_of_their_own(library: Library) -> None:
    shape = _shape("left", "C7", (36, 46, 52), library)
    first = recipe_of(shape, "left", _chord("C7"), "Tea  deck ♭", library)
    assert (first.id, first.name) == ("own-tea-deck", "Tea deck ♭")
    more = Library({**library.recipes, first.id: first}, library.schools)
    assert recipe_of(shape, "left", _chord("C7"), "tea deck", more).id == "own-tea-deck-2"
    assert recipe_of(shape, "left", _chord("C7"), "♭♭", library).id == "own-shape"


@pytest.mark.parametrize("name", ["", "   ", "x" * 41])
def test_a_shape_wants_a_name(name: str, library: Library) -> None:
    with pytest.raises(BadInput, match="is no name for a shape"):
        recipe_of(_shape("left", "C7", (36, 46), library), "left", _chord("C7"), name, library)


def test_doubled_and_wide_shapes_are_not_turned(library: Library) -> None:
    for keys, turns in (((36, 43, 48), "none"), ((36, 52), "none"), ((36, 43, 52), "all")):
        recipe = recipe_of(_shape("left", "C", keys, library), "left", _chord("C"), "n", library)
        assert recipe.inversions == turns
