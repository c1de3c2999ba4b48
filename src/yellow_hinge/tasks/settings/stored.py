"""What the program stores and where, and how to forget all of it."""

from __future__ import annotations

import shutil
from pathlib import Path

from platformdirs import user_config_path, user_data_path, user_state_path

from yellow_hinge.errors import FileTrouble, Problem

_NAME = "yellow-hinge"


def stored() -> dict[Path, str]:
    """Every folder that the program writes in by itself, and what is in it. Songs lie where the player saves
    them."""
    return {
        user_config_path(_NAME): "own recipes, patterns, formulas, styles, hands, tastes, keys and looks",
        user_data_path(_NAME): "the practice log and the songs on the shelf",
        user_state_path(_NAME): "copies of what is unsaved, the last files, mistakes of the program",
    }


def forget_everything() -> None:
    """Delete all of it, for good. Raises :class:`FileTrouble` with what could not be deleted; the rest is
    gone."""
    problems: list[Problem] = []

    def left(_: object, path: object, trouble: tuple[type[BaseException], BaseException, object]) -> None:
        error = trouble[1]
        if not isinstance(error, FileNotFoundError):
            what = f"it could not be deleted ({getattr(error, 'strerror', None) or error})"
            problems.append(Problem(str(path), what, "delete it by hand"))

    for folder in stored():
        shutil.rmtree(folder, onerror=left)
    if problems:
        raise FileTrouble(problems)
