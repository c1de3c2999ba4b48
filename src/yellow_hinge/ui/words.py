"""Words that may take several lines, wherever they stand."""

from __future__ import annotations

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QLabel


class Words(QLabel):
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

    def _fit(self) -> None:
        self.setMinimumHeight(max(0, self.heightForWidth(self.width())))
