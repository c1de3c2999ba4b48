"""The combinations of a few swaps as tiles: a row for each number of swaps, the best at the left."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen, QPolygonF

from yellow_hinge.motion.figures import more_words
from yellow_hinge.tasks.swaps.grid import Combination, SwapGrid
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.theme import color, fitting_font, scaled

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

#: Of a tile: its width at the least and at the most, and its height at the most; of what stands beside them.
_LEAST, _WIDEST, _TALLEST = 104, 176, 92
_LABEL, _MORE, _GAP = 58, 46, 4
#: Seven rows, each with its figure and a little of the bass.
_LEAST_HIGH = 7 * 36


class GridView(Painted):
    """``picked`` carries the combination that was clicked."""

    picked = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._grid: SwapGrid | None = None
        self._chosen: Combination | None = None
        self.setMinimumHeight(scaled(_LEAST_HIGH))
        self.setAccessibleName("Every combination of the swaps")
        self.setToolTip(
            "In a tile the bass around each swap, heavy where it is taken; below what it adds to the effort "
            "without swaps. Strong frame: the best of its size. Dotted frame: notes of the tune clash. Dot: "
            "how the song is now."
        )

    def show_grid(self, grid: SwapGrid | None, chosen: Combination | None) -> None:
        self._grid, self._chosen = grid, chosen
        self.update()

    def _rows(self) -> list[tuple[list[Combination], range]]:
        """The combinations of each size, and which of them have room: around the chosen one."""
        if self._grid is None or not self._grid.combinations:
            return []
        count = max(1, int((self.width() - scaled(_LABEL) - scaled(_MORE)) // scaled(_LEAST)))
        rows = []
        for size in range(len(self._grid.switches) + 1):
            row = self._grid.of_size(size)
            here = next((place for place, one in enumerate(row) if one is self._chosen), 0)
            first = max(0, min(here - count // 2, len(row) - count))
            rows.append((row, range(first, min(len(row), first + count))))
        return rows

    def tiles(self) -> list[tuple[QRectF, Combination]]:
        """Where each combination lies that has room."""
        rows = self._rows()
        if not rows:
            return []
        left, most = scaled(_LABEL), max(1, *(len(seen) for _, seen in rows))
        wide = min(scaled(_WIDEST), (self.width() - left - scaled(_MORE)) / most)
        high = min(scaled(_TALLEST), self.height() / len(rows))
        return [
            (QRectF(left + (place - seen[0]) * wide, size * high, wide - _GAP, high - _GAP), row[place])
            for size, (row, seen) in enumerate(rows)
            for place in seen
        ]

    def paint(self, painter: QPainter, _: QRect) -> None:
        grid = self._grid
        if grid is None:
            return
        plain, tiles = grid.best(0), self.tiles()
        around = [grid.bass_at(combination) for _, combination in tiles]
        notes = [key for row in around for group in row for key in group] or [0]
        bounds, named = (min(notes), max(notes)), set[int]()
        for (box, one), bass in zip(tiles, around, strict=True):
            if one.swaps not in named:
                named.add(one.swaps)
                self._paint_label(painter, box, one.swaps)
            self._paint_tile(painter, box, one, grid.best(one.swaps) is one, one is grid.now)
            self._paint_bass(painter, box, one, bass, bounds)
            more = 0 if plain is None else one.cost - plain.cost
            figure = f"{one.cost / 100:.0f}" if one is plain else more_words(more)
            foot = QRectF(box.x() + 1, box.bottom() - scaled(17), box.width() - 2, scaled(16))
            painter.setPen(color("ink"))
            painter.setFont(fitting_font(figure, 0.9, foot.width(), bold=True))
            painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, figure)
        self._paint_more(painter, tiles)

    def _paint_more(self, painter: QPainter, tiles: list[tuple[QRectF, Combination]]) -> None:
        """How many of a size have no room, beside the others."""
        for size, (row, seen) in enumerate(self._rows()):
            left = len(row) - len(seen)
            boxes = [box for box, one in tiles if one.swaps == size]
            if left and boxes:
                place = QRectF(boxes[-1].right() + 4, boxes[-1].y(), scaled(_MORE) - 6, boxes[-1].height())
                painter.setPen(color("muted"))
                painter.setFont(fitting_font(f"{left} more", 0.8, place.width(), bold=False))
                painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, f"{left} more")

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

    @staticmethod
    def _paint_bass(
        painter: QPainter, box: QRectF, combination: Combination, bass: Sequence[Sequence[int]],
        bounds: tuple[int, int],
    ) -> None:  # fmt: skip
        """The lowest notes around each switch, one beside the other, heavy where it is on."""
        low, high = bounds
        room = box.adjusted(8, 8, -8, -scaled(19))
        share = room.width() / max(1, len(bass))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for place, (group, on) in enumerate(zip(bass, combination.on, strict=True)):
            x, wide = room.x() + place * share, share - 6
            points = [
                QPointF(
                    x + wide * at / max(1, len(group) - 1),
                    room.bottom() - room.height() * (key - low) / max(1, high - low),
                )
                for at, key in enumerate(group)
            ]
            painter.setPen(QPen(color("ink" if on else "muted"), 2.6 if on else 1.1))
            painter.drawPolyline(QPolygonF(points))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, combination in self.tiles():
            if box.contains(event.position()):
                self.picked.emit(combination)
