"""The Takes page: versions of the song in lanes, and the route through them."""

from __future__ import annotations

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, PageRow


def _make(document: Document) -> Page:
    from yellow_hinge.ui.pages.takes.view import TakesPage  # noqa: PLC0415 - when it is first wanted

    return TakesPage(document)


ROW = PageRow("Takes", 50, _make)
