"""The Swaps page: other chords for a place, weighed by ear, melody, bass and motion."""

from __future__ import annotations

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, PageRow


def _make(document: Document) -> Page:
    from yellow_hinge.ui.pages.swaps.view import SwapsPage  # noqa: PLC0415 - when it is first wanted

    return SwapsPage(document)


ROW = PageRow("Swaps", 40, _make)
