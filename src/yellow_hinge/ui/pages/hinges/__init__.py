"""The Hinges page: leaves, hinges, keyboard and alternatives."""

from __future__ import annotations

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, PageRow


def _make(document: Document) -> Page:
    from yellow_hinge.ui.pages.hinges.view import HingesPage  # noqa: PLC0415 - when it is first wanted

    return HingesPage(document)


ROW = PageRow("Hinges", 30, _make, opens=True)
