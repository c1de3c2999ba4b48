"""A line to type in on the workbench."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QLineEdit

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent


class EntryField(QLineEdit):
    """Escape leads back to the leaves, Return takes what was typed; neither reaches the page."""

    kept = Signal()
    left = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.kept.emit()
        else:
            super().keyPressEvent(event)
