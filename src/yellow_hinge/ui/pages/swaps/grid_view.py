"""The combinations of a few swaps as tiles: a row for each number of swaps, the best at the left."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen, QPolygonF

from yellow_hinge.motion.figures import more_words
from yellow_hinge.tasks.swaps.grid import Combination, SwapGrid
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.theme import color, fitting_font, scaled

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

_LABEL, _WIDEST, _TALLEST, _GAP = 58, 96, 74, 3


class GridView(Painted):
    """``picked`` carries the combination that was clicked."""

    picked = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._grid: SwapGrid | None = None
        self._chosen: Combination | None = None
        self.setMinimumHeight(scaled(180))
        self.setAccessibleName("Every combination of the swaps")
        self.setToolTip(
            "The number is what it adds to the effort without swaps. Strong frame: the best of its size. "
            "Dotted frame: notes of the tune clash. Dot: how the song is now."
        )

    def show_grid(self, grid: SwapGrid | None, chosen: Combination | None) -> None:
        self._grid, self._chosen = grid, chosen
        self.update()

    def tiles(self) -> list[tuple[QRectF, Combination]]:
        """Where each combination lies."""
        if self._grid is None or not self._grid.combinations:
            return []
        sizes = len(self._grid.switches) + 1
        rows = [self._grid.of_size(size) for size in range(sizes)]
        left = scaled(_LABEL)
        wide = min(scaled(_WIDEST), (self.width() - left) / max(1, *(len(row) for row in rows)))
        high = min(scaled(_TALLEST), self.height() / sizes)
        return [
            (QRectF(left + place * wide, size * high, wide - _GAP, high - _GAP), combination)
            for size, row in enumerate(rows)
            for place, combination in enumerate(row)
        ]

    def paint(self, painter: QPainter, _: QRect) -> None:
        grid = self._grid
        if grid is not None:
            plain = grid.best(0)
            notes = [key for combination in grid.combinations for key in combination.bass] or [0]
            bounds, combination = (min(notes), max(notes)), grid.now
            named: set[int] = set()
            for box, one in self.tiles():
                if one.swaps not in named:
                    named.add(one.swaps)
                    self._paint_label(painter, box, one.swaps)
                self._paint_tile(painter, box, one, grid.best(one.swaps) is one, one is combination)
                self._paint_bass(painter, box, one, bounds)
                more = 0 if plain is None else one.cost - plain.cost
                figure = f"{one.cost / 100:.0f}" if one is plain else more_words(more)
                foot = QRectF(box.x() + 1, box.bottom() - scaled(16), box.width() - 2, scaled(15))
                painter.setPen(color("ink"))
                painter.setFont(fitting_font(figure, 0.78, foot.width(), bold=False))
                painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, figure)

    def _paint_label(self, painter: QPainter, box: QRectF, swaps: int) -> None:
        words = "no swaps" if not swaps else "1 swap" if swaps == 1 else f"{swaps} swaps"
        label = QRectF(0, box.y(), scaled(_LABEL) - 6, box.height())
        painter.setPen(color("muted"))
        painter.setFont(fitting_font(words, 0.82, label.width(), bold=False))
        painter.drawText(label, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, words)

    def _paint_tile(
        self, painter: QPainter, box: QRectF, combination: Combination, best: bool, now: bool
    ) -> None:
        style = Qt.PenStyle.DotLine if combination.clashes else Qt.PenStyle.SolidLine
        painter.setPen(QPen(color("ink" if best else "line"), 1.6 if best else 1, style))
        chosen = combination is self._chosen
        painter.setBrush(color("line" if chosen else "raised"))
        painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 4, 4)
        if now:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(color("ink"))
            painter.drawEllipse(QPointF(box.x() + 7, box.y() + 7), 2.6, 2.6)

    def _paint_bass(
        self, painter: QPainter, box: QRectF, combination: Combination, bounds: tuple[int, int]
    ) -> None:
        if len(combination.bass) < 2:
            return
        low, high = bounds
        room = box.adjusted(4, 6, -4, -scaled(17))
        tall = max(1, high - low)
        painter.setPen(QPen(color("ink"), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        last = len(combination.bass) - 1
        painter.drawPolyline(
            QPolygonF(
                [
                    QPointF(
                        room.x() + room.width() * at / last,
                        room.bottom() - room.height() * (key - low) / tall,
                    )
                    for at, key in enumerate(combination.bass)
                ]
            )
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, combination in self.tiles():
            if box.contains(event.position()):
                self.picked.emit(combination)
