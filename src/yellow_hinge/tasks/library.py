"""The library of recipes with the player's own file, where there is one."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_config_path

from yellow_hinge.formats.files import read_if_there, shown
from yellow_hinge.voicing.recipes import Library, builtin_library, with_own_recipes

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
    return with_own_recipes(builtin_library(), data.decode("utf-8", "replace"), shown(path))
