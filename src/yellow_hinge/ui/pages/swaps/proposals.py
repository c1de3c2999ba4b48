"""The list of proposals: each with its figure, its reason and the melody's verdict."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from yellow_hinge.ui.cards import Cards, Index, framed, write
from yellow_hinge.ui.pages.swaps.state import Line
from yellow_hinge.ui.theme import font, scaled


class Proposals(Cards):
    """The lines of the chosen chord; the last may say how many more there are."""

    lines: Sequence[Line]

    def words(self, line: Line) -> str:
        return " ".join(filter(None, (line.title, line.figure, line.melody, line.detail)))

    def tip(self, line: Line) -> str | None:
        if line.proposal is None:
            return None
        return f"{line.detail}\nThe figure: what it adds to the effort of the song, in half steps."

    def height(self, line: Line) -> float:
        return scaled(28 if line.proposal is None else self.high)

    def flags(self, index: Index) -> Qt.ItemFlag:
        if self.lines[index.row()].proposal is None:
            return Qt.ItemFlag.ItemIsEnabled
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable

    def draw(self, painter: QPainter, box: QRectF, line: Line, chosen: bool) -> None:
        if line.proposal is None:
            write(painter, box.adjusted(7, 6, -3, -2), line.title, "muted", font(0.95, bold=True))
            return
        clash = not line.proposal.safe
        inner = framed(painter, box, chosen, room=2).adjusted(0, 1, 0, -1)
        top = QRectF(inner.x(), inner.y(), inner.width(), scaled(20))
        write(painter, top, line.title, "ink", font(1.08, bold=True))
        write(painter, top, line.figure, "ink", font(1.08, bold=True), right=True)
        middle = top.adjusted(0, 0, -scaled(44), 0)
        ink = "wrong" if clash else "muted"
        write(painter, middle, line.melody, ink, font(0.85, bold=clash), right=True)
        bottom = QRectF(inner.x(), inner.bottom() - scaled(19), inner.width(), scaled(19))
        write(painter, bottom, line.detail, "muted", font(0.88))
