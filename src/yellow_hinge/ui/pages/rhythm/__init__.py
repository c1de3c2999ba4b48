"""The Rhythm page: the counting strip, patterns, feel and lines."""

from __future__ import annotations

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, PageRow


def _make(document: Document) -> Page:
    from yellow_hinge.ui.pages.rhythm.view import RhythmPage  # noqa: PLC0415 - when it is first wanted

    return RhythmPage(document)


ROW = PageRow("Rhythm", 70, _make)
