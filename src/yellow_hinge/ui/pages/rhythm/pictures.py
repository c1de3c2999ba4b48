"""The list of patterns, each with its picture."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from yellow_hinge.rhythm.counts import fits
from yellow_hinge.rhythm.patterns import Pattern
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.ui.pages.rhythm.rungs import paint_picture
from yellow_hinge.ui.pages.rhythm.state import LEVELS
from yellow_hinge.ui.theme import color, font, scaled

_Index = QModelIndex | QPersistentModelIndex
_PICTURE = 64


class PatternsModel(QAbstractListModel):
    """The patterns for a hand in a meter."""

    def __init__(self) -> None:
        super().__init__()
        self.patterns: Sequence[Pattern] = []
        self.meter, self.side, self.now = Meter(), "right", ""

    def take(self, patterns: Sequence[Pattern], meter: Meter, side: str, now: str) -> None:
        """Show other patterns, or another one in use."""
        same = list(patterns) == list(self.patterns) and (meter, side) == (self.meter, self.side)
        if same and now == self.now:
            return
        if not same:
            self.beginResetModel()
        self.patterns, self.meter, self.side, self.now = patterns, meter, side, now
        if same:
            self.dataChanged.emit(self.index(0), self.index(max(0, len(patterns) - 1)))
        else:
            self.endResetModel()

    def rowCount(self, _: _Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return len(self.patterns)

    def words(self, pattern: Pattern) -> str:
        """What stands beside its name."""
        fitted = "" if fits(pattern, self.meter) else f"fitted to {self.meter}"
        mine = "mine" if pattern.family == "mine" else LEVELS[pattern.level]
        return ", ".join(part for part in ("in use" if pattern.id == self.now else "", mine, fitted) if part)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        pattern = self.patterns[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{pattern.name}: {self.words(pattern)}"
        if role == Qt.ItemDataRole.ToolTipRole:
            made = ", ".join(pattern.meters) or "any meter"
            said = f"{pattern.name} ({pattern.family}). Made for {made}; elsewhere it is fitted."
            return f"{said}\n{self.words(pattern)}"
        return None


class PatternDelegate(QStyledItemDelegate):
    """Draws a pattern: name, what it is like, and a bar of it in rungs."""

    def __init__(self, model: PatternsModel) -> None:
        super().__init__()
        self._model = model

    def sizeHint(self, _: QStyleOptionViewItem, __: _Index) -> QSize:
        return QSize(200, scaled(40) + _PICTURE + 10)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        pattern = self._model.patterns[index.row()]
        rect = QRectF(option.rect).adjusted(3, 3, -3, -3)
        selected = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(color("surface"))
        painter.setPen(QPen(color("ink" if selected else "line"), 2 if selected else 1))
        painter.drawRoundedRect(rect, 5, 5)
        inner = rect.adjusted(9, 4, -9, -4)
        self._paint_words(painter, inner, pattern)
        area = QRectF(inner.x(), inner.bottom() - _PICTURE, inner.width(), _PICTURE)
        paint_picture(painter, area, pattern, self._model.meter, self._model.side)
        painter.restore()

    def _paint_words(self, painter: QPainter, inner: QRectF, pattern: Pattern) -> None:
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        words = self._model.words(pattern)
        painter.setFont(font(0.82))
        painter.setPen(color("muted"))
        below = QRectF(inner.x(), inner.y() + scaled(16), inner.width(), scaled(15))
        painter.drawText(below, left, words)
        painter.setFont(font(0.95, bold=pattern.id == self._model.now))
        painter.setPen(color("ink"))
        top = QRectF(inner.x(), inner.y(), inner.width(), scaled(17))
        name = painter.fontMetrics().elidedText(pattern.name, Qt.TextElideMode.ElideRight, int(top.width()))
        painter.drawText(top, left, name)
