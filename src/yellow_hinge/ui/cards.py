"""Lists whose rows are painted: what a row says, how high it is and how it looks, said in one place."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from PySide6 import QtWidgets
from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QFont, QPainter, QPen
from PySide6.QtWidgets import QListView, QStyledItemDelegate

from yellow_hinge.ui.read_words import explained
from yellow_hinge.ui.theme import color, cut, scaled
from yellow_hinge.ui.words import plain

if TYPE_CHECKING:
    from PySide6.QtWidgets import QStyleOptionViewItem  # made known to Python when something is painted

Index = QModelIndex | QPersistentModelIndex


class Cards(QAbstractListModel):
    """``lines`` are the rows. A kind of list says of a line its words, its tip, its height and how it is
    drawn in its box."""

    high = 60.0  #: of a row, with text of the usual size

    def __init__(self) -> None:
        super().__init__()
        self.lines: Sequence[Any] = ()

    def take(self, lines: Sequence[Any]) -> None:
        """Show other lines."""
        self.beginResetModel()
        self.lines = lines
        self.endResetModel()

    def say_anew(self) -> None:
        """The same lines, which may say something else now."""
        if self.lines:
            self.dataChanged.emit(self.index(0), self.index(len(self.lines) - 1))

    def words(self, line: Any) -> str:
        """A line for those who do not see it."""
        raise NotImplementedError

    def tip(self, line: Any) -> str | None:
        """What is said where one points."""

    def height(self, line: Any) -> float:
        """How high a row is, in pixels."""
        del line
        return scaled(self.high)

    def draw(self, painter: QPainter, box: QRectF, line: Any, chosen: bool) -> None:
        """Draw a line."""
        raise NotImplementedError

    def rowCount(self, _: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return len(self.lines)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return self.words(self.lines[index.row()])
        if role != Qt.ItemDataRole.ToolTipRole:
            return None
        line = self.lines[index.row()]
        return plain("\n".join(filter(None, (self.tip(line), explained(self.words(line)))))) or None

    def show_in(self, view: QListView, name: str) -> None:
        """Let a list show them."""
        view.setModel(self)
        view.setItemDelegate(_Painter(self, view))
        view.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        view.setAccessibleName(name)


class _Painter(QStyledItemDelegate):
    def __init__(self, cards: Cards, view: QListView) -> None:
        super().__init__(view)
        self._cards = cards

    def sizeHint(self, _: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(200, round(self._cards.height(self._cards.lines[index.row()])))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = bool(option.state & QtWidgets.QStyle.StateFlag.State_Selected)
        self._cards.draw(painter, QRectF(option.rect), self._cards.lines[index.row()], chosen)
        painter.restore()


def framed(painter: QPainter, box: QRectF, chosen: bool, room: float = 3) -> QRectF:
    """A frame for a line, heavier where it is chosen, and what is inside it."""
    frame = box.adjusted(3, room, -3, -room)
    painter.setBrush(color("surface"))
    painter.setPen(QPen(color("ink" if chosen else "line"), 2 if chosen else 1))
    painter.drawRoundedRect(frame, 5, 5)
    return frame.adjusted(9, 4, -9, -4)


def write(painter: QPainter, box: QRectF, words: str, ink: str, face: QFont, *, right: bool = False) -> None:
    """Words in a line, cut where there is no room for them."""
    painter.setPen(color(ink))
    painter.setFont(face)
    side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
    painter.drawText(box, side | Qt.AlignmentFlag.AlignVCenter, cut(painter, words, box.width()))
