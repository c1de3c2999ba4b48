"""The Song page: chart, key, hands and school."""

from __future__ import annotations

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, PageRow


def _make(document: Document) -> Page:
    from yellow_hinge.ui.pages.song.view import SongPage  # noqa: PLC0415 - when it is first wanted

    return SongPage(document)


ROW = PageRow("Song", 10, _make)
