"""The library that commands work with."""

from __future__ import annotations

import argparse
from pathlib import Path

from yellow_hinge.cli.streams import say
from yellow_hinge.errors import FileTrouble
from yellow_hinge.tasks.settings.library import load_library
from yellow_hinge.voicing.recipes import Library, builtin_library


def library_of(options: argparse.Namespace) -> Library:
    """The library as whoever has the taste of the options sees it."""
    library = own_library()
    if getattr(options, "taste", None) is None:
        return library
    from yellow_hinge.tasks.taste.kept import open_taste  # noqa: PLC0415 - only where it is asked for
    from yellow_hinge.tasks.taste.taste import tasted  # noqa: PLC0415

    return tasted(library, open_taste(Path(options.taste)))


def own_library() -> Library:
    """Recipes of one's own too, where they can be read; else it is said, and what ships is used."""
    try:
        return load_library()
    except FileTrouble as error:
        say("\n".join(str(problem) for problem in error.problems))
        return builtin_library()
