"""The list of other voicings: small keyboards, notes, cost and shapes in words."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6 import QtWidgets
from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QStyledItemDelegate

from yellow_hinge.ui.keyboard import paint_keys, white_bounds
from yellow_hinge.ui.keyboard_values import KeyMark
from yellow_hinge.ui.pages.hinges.state import AlternativeLine
from yellow_hinge.ui.theme import color, font, scaled

_LINE_HEIGHT = 74
_Index = QModelIndex | QPersistentModelIndex

if TYPE_CHECKING:
    from PySide6.QtWidgets import QStyleOptionViewItem  # made known to Python when something is painted


class AlternativesModel(QAbstractListModel):
    """The ranked voicings of the chosen leaf; of many the lines are made when they are seen."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: Sequence[AlternativeLine] = []
        self.keys = (36, 84)

    def take(self, lines: list[AlternativeLine]) -> None:
        """Show other lines; the same voicings keep the place that is chosen in the list."""
        same = len(lines) == len(self.lines)
        if same and all(
            alternative_line.voicing == other.voicing
            for alternative_line, other in zip(lines, self.lines, strict=True)
        ):
            self.lines = lines
            if lines:
                self.dataChanged.emit(self.index(0), self.index(len(lines) - 1))
            return
        self.beginResetModel()
        self.lines = lines
        keys = [key for line in lines for key in line.voicing.keys]
        self.keys = white_bounds(min(keys), max(keys)) if keys else (36, 84)
        self.endResetModel()

    def take_many(self, lines: Sequence[AlternativeLine], keys: tuple[int, int]) -> None:
        """Show other lines, of voicings that lie between these keys."""
        self.beginResetModel()
        self.lines, self.keys = lines, white_bounds(*keys)
        self.endResetModel()

    def refresh_lines(self) -> None:
        """The same voicings, said anew."""
        if self.lines:
            self.dataChanged.emit(self.index(0), self.index(len(self.lines) - 1))

    def rowCount(self, _: _Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return len(self.lines)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        line = self.lines[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{line.notes}: {line.cost}. {line.reason}"
        if role == Qt.ItemDataRole.ToolTipRole:
            return (
                f"{line.reason}\nEffort of the whole song, in half steps, with every other "
                f"chord at its best again: {line.cost}. T tries it, L locks it."
            )
        return None


class AlternativeDelegate(QStyledItemDelegate):
    """Draws a line: small keyboard, notes, cost, and the shapes in words."""

    def __init__(self, model: AlternativesModel) -> None:
        super().__init__()
        self._model = model

    def sizeHint(self, _: QStyleOptionViewItem, __: _Index) -> QSize:
        return QSize(200, scaled(_LINE_HEIGHT))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        line = self._model.lines[index.row()]
        rect = QRectF(option.rect).adjusted(3, 3, -3, -3)
        selected = bool(option.state & QtWidgets.QStyle.StateFlag.State_Selected)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(color("surface"))
        painter.setPen(QPen(color("ink" if selected else "line"), 2 if selected else 1))
        painter.drawRoundedRect(rect, 5, 5)
        marks = {
            key: KeyMark(side)
            for side, shape in (("left", line.voicing.left), ("right", line.voicing.right))
            for key in shape.keys
        }
        paint_keys(
            painter,
            QRectF(rect.x() + 8, rect.y() + scaled(25), rect.width() - 16, scaled(22)),
            self._model.keys,
            marks,
        )
        inner = rect.adjusted(8, 4, -8, -4)
        painter.setPen(color("ink"))
        painter.setFont(font(0.98, bold=True))
        top = QRectF(inner.x(), inner.y(), inner.width(), scaled(18))
        notes = painter.fontMetrics().elidedText(
            line.notes, Qt.TextElideMode.ElideRight, int(inner.width() - scaled(76))
        )
        painter.drawText(top, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, notes)
        painter.drawText(top, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, line.cost)
        painter.setFont(font(0.82))
        painter.setPen(color("muted"))
        words = ("in use: " if line.current else "") + line.reason
        bottom = QRectF(inner.x(), inner.bottom() - scaled(16), inner.width(), scaled(17))
        words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(bottom.width()))
        painter.drawText(bottom, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)
        painter.restore()
