"""The Sheet page: what will be printed, as it will be printed."""

from __future__ import annotations

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, PageRow


def _make(document: Document) -> Page:
    from yellow_hinge.ui.pages.sheet.view import SheetPage  # noqa: PLC0415 - when it is first wanted

    return SheetPage(document)


ROW = PageRow("Sheet", 90, _make)
