"""The library of recipes with the player's own file, where there is one."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_config_path

from yellow_hinge.errors import BadInput, FileTrouble, Problem
from yellow_hinge.formats.files import read_if_there, write_atomically
from yellow_hinge.voicing.own_shapes import recipe_text
from yellow_hinge.voicing.recipes import (
    RECIPES_SCHEMA,
    Library,
    Recipe,
    builtin_library,
    with_own_recipes,
)

MAX_BYTES = 1_000_000


def own_recipes_path() -> Path:
    """Where a player's recipes lie: ``recipes.toml`` in the configuration folder."""
    return user_config_path("yellow-hinge") / "recipes.toml"


def load_library(own: Path | None = None) -> Library:
    """What ships, and the player's recipes behind it.

    Raises :class:`BadInput` with every problem of the player's file, and
    :class:`FileTrouble` when it is there and cannot be read.
    """
    path = own or own_recipes_path()
    data = read_if_there(path, MAX_BYTES)
    if data is None:
        return builtin_library()
    return read_own_recipes(data, str(path), builtin_library())


def read_own_recipes(data: bytes, place: str, library: Library) -> Library:
    """A library with the recipes of a file behind its own. Raises :class:`BadInput`."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        where = f"{place}, byte {error.start + 1}"
        raise BadInput(Problem(where, "this is not a text file", "save it as UTF-8 text")) from None
    return with_own_recipes(library, text, place)


def keep_recipe(recipe: Recipe, own: Path | None = None) -> Library:
    """Write a recipe behind those in the player's file, which stays as it is otherwise; give the library
    with it. Raises as :func:`load_library`, and :class:`FileTrouble` when it cannot be written; the file
    is untouched then."""
    path = own or own_recipes_path()
    before = read_if_there(path, MAX_BYTES) or f'schema = "{RECIPES_SCHEMA}"\n'.encode()
    after = before.rstrip(b"\n") + b"\n\n" + recipe_text(recipe).encode()
    library = read_own_recipes(after, str(path), builtin_library())
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        what = f"the folder could not be made ({error.strerror})"
        raise FileTrouble(Problem(str(path.parent), what, "allow writing there")) from None
    write_atomically(path, after)
    return library
