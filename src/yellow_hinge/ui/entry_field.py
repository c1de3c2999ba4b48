"""A line to type in on a page."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QMetaMethod, Qt, Signal
from PySide6.QtWidgets import QLineEdit

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent


class EntryField(QLineEdit):
    """Return takes what was typed and does nothing else on the page; Escape leads back, where there is a way
    back from this field."""

    kept = Signal()
    left = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.kept.emit()
        elif event.key() == Qt.Key.Key_Escape and self.isSignalConnected(QMetaMethod.fromSignal(self.left)):
            self.left.emit()
        else:
            super().keyPressEvent(event)
