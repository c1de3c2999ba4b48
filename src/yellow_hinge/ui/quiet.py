"""Lists and scrolled areas whose keys belong to the page, so that they do what they do everywhere."""

from __future__ import annotations

from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QListView, QScrollArea


class QuietList(QListView):
    """A list without keys of its own."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()


class QuietScroll(QScrollArea):
    """A scrolled area without keys of its own."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()
