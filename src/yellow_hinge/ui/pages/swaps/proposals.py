"""The list of proposals: each with its figure, its reason and the melody's verdict."""

from __future__ import annotations

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from yellow_hinge.ui.pages.swaps.state import Line
from yellow_hinge.ui.theme import color, font, scaled

_Index = QModelIndex | QPersistentModelIndex


class ProposalsModel(QAbstractListModel):
    """The lines of the chosen chord."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: list[Line] = []

    def take(self, lines: list[Line]) -> None:
        self.beginResetModel()
        self.lines = lines
        self.endResetModel()

    def rowCount(self, _: _Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return len(self.lines)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        line = self.lines[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return " ".join(filter(None, (line.title, line.figure, line.melody, line.detail)))
        if role == Qt.ItemDataRole.ToolTipRole and line.proposal is not None:
            return f"{line.detail}\nThe figure: what it adds to the effort of the song, in half steps."
        return None

    def flags(self, index: _Index) -> Qt.ItemFlag:
        if self.lines[index.row()].proposal is None:
            return Qt.ItemFlag.ItemIsEnabled
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable


class ProposalDelegate(QStyledItemDelegate):
    """Draws a proposal with its figure, reason, group and the melody's verdict, or how many more."""

    def __init__(self, model: ProposalsModel) -> None:
        super().__init__()
        self._model = model

    def sizeHint(self, _: QStyleOptionViewItem, index: _Index) -> QSize:
        return QSize(200, scaled(28 if self._model.lines[index.row()].proposal is None else 60))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        line = self._model.lines[index.row()]
        rect = QRectF(option.rect).adjusted(3, 2, -3, -2)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if line.proposal is None:
            painter.setFont(font(0.95, bold=True))
            painter.setPen(color("muted"))
            painter.drawText(rect.adjusted(4, 4, 0, 0), Qt.AlignmentFlag.AlignVCenter, line.title)
        else:
            self._paint_proposal(painter, rect, line, bool(option.state & QStyle.StateFlag.State_Selected))
        painter.restore()

    def _paint_proposal(self, painter: QPainter, rect: QRectF, line: Line, selected: bool) -> None:
        clash = line.proposal is not None and not line.proposal.safe
        painter.setBrush(color("surface"))
        painter.setPen(QPen(color("ink" if selected else "line"), 2 if selected else 1))
        painter.drawRoundedRect(rect, 5, 5)
        inner = rect.adjusted(9, 5, -9, -5)
        top = QRectF(inner.x(), inner.y(), inner.width(), scaled(20))
        painter.setPen(color("ink"))
        painter.setFont(font(1.08, bold=True))
        painter.drawText(top, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, line.title)
        painter.drawText(top, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, line.figure)
        painter.setFont(font(0.85, bold=clash))
        painter.setPen(color("wrong" if clash else "muted"))
        middle = top.adjusted(0, 0, -scaled(44), 0)
        painter.drawText(middle, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, line.melody)
        painter.setFont(font(0.88))
        painter.setPen(color("muted"))
        bottom = QRectF(inner.x(), inner.bottom() - scaled(19), inner.width(), scaled(19))
        words = painter.fontMetrics().elidedText(
            line.detail, Qt.TextElideMode.ElideRight, int(bottom.width())
        )
        painter.drawText(bottom, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)
