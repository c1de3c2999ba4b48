"""The Practise page: what to drill today, and the hands at it."""

from __future__ import annotations

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, PageRow


def _make(document: Document) -> Page:
    from yellow_hinge.ui.pages.practise.view import PractisePage  # noqa: PLC0415 - when it is first wanted

    return PractisePage(document)


ROW = PageRow("Practise", 80, _make)
