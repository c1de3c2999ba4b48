"""A page of a sheet on the screen, painted by the same hand that prints it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRect, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen

from yellow_hinge.sheet.page import Page
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.pages.sheet.state import SheetState
from yellow_hinge.ui.sheet_painter import UNITS_MM, PagePainter
from yellow_hinge.ui.theme import color, font

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

_AROUND = 12
#: Pixels of a millimetre at a zoom of 1: as on a screen of 96 dots to an inch.
PIXELS_MM = 96 / 25.4


class PaperView(Painted):
    """The chosen page; ``room`` is how much of it can be seen at once."""

    def __init__(self, state: SheetState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.state = state
        self.room = QSize(400, 500)
        self.said = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The page as it will print")

    @property
    def zoom(self) -> float:
        """The zoom that is shown: the chosen one, or the one at which the whole page is seen."""
        page = self._page
        if self.state.zoom is not None or page is None:
            return self.state.zoom or 1.0
        wide = (self.room.width() - 2 * _AROUND) / (page.width * PIXELS_MM)
        high = (self.room.height() - 2 * _AROUND) / (page.height * PIXELS_MM)
        return max(0.1, min(wide, high))

    @property
    def _page(self) -> Page | None:
        sheet = self.state.sheet
        return None if sheet is None else sheet.pages[min(self.state.page, len(sheet.pages) - 1)]

    def grow(self) -> None:
        """As large as the page is now."""
        page = self._page
        if page is None:
            self.setMinimumSize(200, 200)
        else:
            dots = self.zoom * PIXELS_MM
            self.setMinimumSize(
                round(page.width * dots) + 2 * _AROUND, round(page.height * dots) + 2 * _AROUND
            )
        self.update()

    def paint(self, painter: QPainter, _: QRect) -> None:
        page = self._page
        if page is None:
            painter.setPen(color("muted"))
            painter.setFont(font())
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.said)
            return
        dots = self.zoom * PIXELS_MM
        wide, high = page.width * dots, page.height * dots
        x, y = max(_AROUND, (self.width() - wide) / 2), max(_AROUND, (self.height() - high) / 2)
        painter.setPen(QPen(color("line"), 1))
        painter.setBrush(Qt.GlobalColor.white)
        painter.drawRect(QRectF(x, y, wide, high))
        painter.translate(x, y)
        painter.scale(dots / UNITS_MM, dots / UNITS_MM)
        PagePainter(self.state.options.plain).paint(painter, page)
