"""The chart as text. What is typed belongs to the document at once, and there is one undo for all."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QMimeData, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence, QTextCursor
from PySide6.QtWidgets import QPlainTextEdit

from yellow_hinge.tasks.song.drafts import alike

_UNDO = (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo)


class ChartEditor(QPlainTextEdit):
    """``edited`` carries the text whenever a player changed it."""

    edited = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setTabChangesFocus(True)
        self.setUndoRedoEnabled(False)  # the document's undo knows the text too
        self.setAccessibleName("Chart text")
        self.setPlaceholderText("| C | Am7 | Dm7 | G7 |")
        self._filling = False
        self.textChanged.connect(self._changed)

    def _changed(self) -> None:
        if not self._filling:
            self.edited.emit(self.toPlainText())

    def show_text(self, text: str) -> None:
        """Show this text; only what differs is replaced, so that the caret stays where it was, or
        goes to what changed."""
        shown = self.toPlainText()
        if shown == text:
            return
        start = alike(shown, text)
        end = alike(shown[start:][::-1], text[start:][::-1])
        cursor = QTextCursor(self.document())
        cursor.setPosition(_units(shown[:start]))
        cursor.setPosition(_units(shown[: len(shown) - end]), QTextCursor.MoveMode.KeepAnchor)
        self._filling = True
        cursor.insertText(text[start : len(text) - end])
        self._filling = False
        if self.textCursor().hasSelection():
            self.setTextCursor(cursor)

    def canInsertFromMimeData(self, source: QMimeData) -> bool:
        """A file is not text: the window opens it when it is let go here."""
        if any(url.isLocalFile() for url in source.urls()):
            return False
        return super().canInsertFromMimeData(source)

    def event(self, event: QEvent) -> bool:
        """Undo and redo are the window's."""
        undo = isinstance(event, QKeyEvent) and any(event.matches(key) for key in _UNDO)
        if undo and event.type() == QEvent.Type.ShortcutOverride:
            event.ignore()
            return False
        return super().event(event)


def _units(text: str) -> int:
    """The length as Qt counts it, in UTF-16."""
    return len(text.encode("utf-16-le", "surrogatepass")) // 2
