"""The pages, each a folder with a row of its own (``ROW``), ``words.md`` for F1, and what it shows."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from yellow_hinge.ui.page import PageRow


def _row(folder: str) -> PageRow:
    row: PageRow = import_module(f"{__name__}.{folder}").ROW
    return row


#: In the order of the rail.
PAGES = tuple(sorted((_row(found.name) for found in iter_modules(__path__)), key=lambda row: row.order))
