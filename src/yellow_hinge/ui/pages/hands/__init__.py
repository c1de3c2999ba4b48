"""The Hands page: reach found by trying, notes at once, register, keyboard size."""

from __future__ import annotations

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, PageRow


def _make(document: Document) -> Page:
    from yellow_hinge.ui.pages.hands.view import HandsPage  # noqa: PLC0415 - when it is first wanted

    return HandsPage(document)


ROW = PageRow("Hands", 20, _make)
