"""Words that may take several lines, wherever they stand."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QLabel, QSizePolicy

from yellow_hinge.ui.read_words import explained


def plain(words: str) -> str:
    """Words for a tooltip or a question, which Qt takes for mark-up where they look like it."""
    return f"<qt>{escape(words).replace(chr(10), '<br>')}</qt>" if "<" in words else words


class Label(QLabel):
    """Words that explain themselves: those of theory are the tooltip, unless there is another one."""

    def __init__(self, words: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)  # a title with < in it is no mark-up
        self._own = ""
        self.setText(words)

    def setToolTip(self, tip: str) -> None:
        self._own = tip
        super().setToolTip(plain(tip))

    def setText(self, words: str) -> None:
        super().setText(words)
        if not self._own:
            super().setToolTip(explained(words))


class Words(Label):
    """Quiet words that may take several lines. They are as tall as they need at the width they have: a
    layout that is short of room would cut them off."""

    def __init__(self, words: str = "") -> None:
        super().__init__(words)
        self.setObjectName("quiet")
        self.setWordWrap(True)

    def setText(self, words: str) -> None:
        super().setText(words)
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() in (QEvent.Type.StyleChange, QEvent.Type.FontChange):
            self._fit()

    def _fit(self) -> None:
        self.setMinimumHeight(0)  # a label never needs less than it must have
        self.setMinimumHeight(max(0, self.heightForWidth(self.width())))


#: How much of a title is seen at the least.
_TITLE_LETTERS = 12


class OneLine(QLabel):
    """Words in one line that are cut where there is no room: then all of them are the tooltip. ``kind``
    is how they are dressed: "quiet", "title"."""

    def __init__(self, kind: str = "quiet") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setObjectName(kind)
        if kind == "quiet":
            self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def setText(self, words: str) -> None:
        super().setText(words)
        self.setToolTip(plain(words))

    def minimumSizeHint(self) -> QSize:
        needed = super().minimumSizeHint()
        least = 0 if self.objectName() == "quiet" else _TITLE_LETTERS * self.fontMetrics().averageCharWidth()
        return QSize(min(least, needed.width()), needed.height())

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        words = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter), words)
        painter.end()
