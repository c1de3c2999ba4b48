"""The library that commands work with."""

from __future__ import annotations

from yellow_hinge.cli.streams import say
from yellow_hinge.errors import FileTrouble
from yellow_hinge.tasks.settings.library import load_library
from yellow_hinge.voicing.recipes import Library, builtin_library


def own_library() -> Library:
    """Recipes of one's own too, where they can be read; else it is said, and what ships is used."""
    try:
        return load_library()
    except FileTrouble as error:
        say("\n".join(str(problem) for problem in error.problems))
        return builtin_library()
