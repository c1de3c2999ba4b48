"""The Keys page: the song in twelve keys beside each other."""

from __future__ import annotations

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, PageRow


def _make(document: Document) -> Page:
    from yellow_hinge.ui.pages.keys.view import KeysPage  # noqa: PLC0415 - when it is first wanted

    return KeysPage(document)


ROW = PageRow("Keys", 60, _make)
