"""The library of recipes with the player's own file, where there is one."""

from __future__ import annotations

from pathlib import Path

from yellow_hinge.tasks.settings.own_files import decoded, keep_text, own_path, own_text
from yellow_hinge.voicing.own_shapes import recipe_text
from yellow_hinge.voicing.recipes import (
    RECIPES_SCHEMA,
    Library,
    Recipe,
    builtin_library,
    with_own_recipes,
)


def own_recipes_path() -> Path:
    """Where a player's recipes lie: ``recipes.toml`` in the configuration folder."""
    return own_path("recipes.toml")


def load_library(own: Path | None = None) -> Library:
    """What ships, and the player's recipes behind it.

    Raises :class:`BadInput` with every problem of the player's file, and
    :class:`FileTrouble` when it is there and cannot be read.
    """
    path = own or own_recipes_path()
    text = own_text(path)
    return builtin_library() if text is None else with_own_recipes(builtin_library(), text, str(path))


def read_own_recipes(data: bytes, place: str, library: Library) -> Library:
    """A library with the recipes of a file behind its own. Raises :class:`BadInput`."""
    return with_own_recipes(library, decoded(data, place), place)


def keep_recipe(recipe: Recipe, own: Path | None = None) -> Library:
    """Write a recipe behind those in the player's file, which stays as it is otherwise; give the library
    with it. Raises as :func:`load_library`, and :class:`FileTrouble` when it cannot be written; the file
    is untouched then."""
    path = own or own_recipes_path()
    before = own_text(path) or f'schema = "{RECIPES_SCHEMA}"\n'
    after = before.rstrip("\n") + "\n\n" + recipe_text(recipe)
    library = with_own_recipes(builtin_library(), after, str(path))
    keep_text(path, after)
    return library
