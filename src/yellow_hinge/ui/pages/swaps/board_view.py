"""The function board as a drawing: a row for each kind of upper chord, a column for each root."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRect, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen

from yellow_hinge.tasks.swaps.function_board import UPPER, Board, Cell
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.theme import color, cut, fitting_font, scaled

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

_LABEL, _HEAD, _GAP = 112, 24, 3
#: Height of a cell from which its arrows stand below.
_TWO_LINES = 40
_ROOTS = ("root", "♭9", "9", "♭3", "3", "4", "♭5", "5", "♭6", "6", "♭7", "7")


class BoardView(Painted):
    """``picked`` carries row and column of a click."""

    picked = Signal(int, int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._board: Board | None = None
        self._at = (0, 0)
        self.setAccessibleName("Upper chords over the bass")
        self.setToolTip(
            "Strong frame: the chord's third and seventh without its root. Arrow to the right: every tone is "
            "at most a half step from the goal; to the left: from the chord before. Dotted frame: a note of "
            "the tune clashes. A dot: no reason to play it here."
        )

    def fit_text(self) -> None:
        self.setMinimumHeight(scaled(260))

    def show_board(self, board: Board | None, at: tuple[int, int]) -> None:
        self._board, self._at = board, at
        self.update()

    def box(self, row: int, column: int) -> QRectF:
        """Where a cell lies."""
        left, head = scaled(_LABEL), scaled(_HEAD)
        wide, high = (self.width() - left) / 12, (self.height() - head) / len(UPPER)
        return QRectF(left + column * wide, head + row * high, wide - _GAP, high - _GAP)

    def paint(self, painter: QPainter, _: QRect) -> None:
        if self._board is not None:
            for column, words in enumerate(_ROOTS):
                box = self.box(0, column)
                self._write(painter, QRectF(box.x(), 0, box.width(), scaled(_HEAD)), words, "muted")
            for row, words in enumerate(UPPER.values()):
                box = self.box(row, 0)
                label = QRectF(0, box.y(), scaled(_LABEL) - 6, box.height())
                self._write(painter, label, words, "muted", Qt.AlignmentFlag.AlignRight)
                for column, cell in enumerate(self._board.cells[row]):
                    self._paint_cell(painter, self.box(row, column), cell, (row, column) == self._at)

    def _write(
        self,
        painter: QPainter,
        box: QRectF,
        words: str,
        ink: str,
        side: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignHCenter,
    ) -> None:
        painter.setPen(color(ink))
        painter.setFont(fitting_font(words, 0.85, box.width() - 4, bold=False))
        painter.drawText(box, side | Qt.AlignmentFlag.AlignVCenter, cut(painter, words, box.width()))

    def _paint_cell(self, painter: QPainter, box: QRectF, cell: Cell, chosen: bool) -> None:
        if not cell.useful and not chosen:
            self._write(painter, box, "·", "muted")
            return
        style = Qt.PenStyle.DotLine if cell.clashes else Qt.PenStyle.SolidLine
        strong = cell.rootless and cell.inside
        painter.setPen(QPen(color("ink" if strong or chosen else "line"), 2 if strong else 1, style))
        painter.setBrush(color("line" if chosen else "raised"))
        painter.drawRoundedRect(box, 4, 4)
        ink = "ink" if cell.inside else "muted"
        if box.height() < scaled(_TWO_LINES):  # no room for a second line
            arrows = ("← " if cell.comes else "", " →" if cell.leads else "")
            self._write(painter, box, cell.upper.pretty.join(arrows), ink)
            return
        above = box.adjusted(0, 0, 0, -scaled(11) if cell.comes or cell.leads else 0)
        self._write(painter, above, cell.upper.pretty, ink)
        foot = QRectF(box.x() + 3, box.bottom() - scaled(14), box.width() - 6, scaled(14))
        for there, arrow, side in (
            (cell.comes, "←", Qt.AlignmentFlag.AlignLeft), (cell.leads, "→", Qt.AlignmentFlag.AlignRight),
        ):  # fmt: skip
            if there:
                self._write(painter, foot, arrow, "muted", side)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for row in range(len(UPPER)):
            for column in range(12):
                if self._board is not None and self.box(row, column).contains(event.position()):
                    self.picked.emit(row, column)
