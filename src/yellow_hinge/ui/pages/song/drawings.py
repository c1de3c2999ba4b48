"""What the decisions on top of the Song page look like: who has the bass, how much colour, how far a hand
reaches."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from yellow_hinge.ui.drawn_choice import DrawnChoice, bar
from yellow_hinge.ui.theme import color

#: Of a chord in the pictures of colour: notes as written, then one more a step; the last is altered.
_WRITTEN = 3
_KEY_WIDE = 11.0


def draw_bass(painter: QPainter, box: QRectF, who: str | None) -> None:
    """A left hand over a lowest note, which is its own or stands apart."""
    high = box.height() / 4
    for row in range(2):
        bar(painter, QRectF(box.x(), box.y() + row * high, box.width(), high - 2), "left", who is None)
    lowest = QRectF(box.x(), box.bottom() - high, box.width(), high - 1)
    if who == "self":
        bar(painter, lowest.translated(0, 1 - high), "left")
    else:
        bar(painter, lowest, "muted", who is None)


def draw_colour(painter: QPainter, box: QRectF, colour: int | None) -> None:
    """The notes of a chord, one more from step to step; the topmost bent where it is altered."""
    count = _WRITTEN + (1 if colour is None else colour)
    high = box.height() / (_WRITTEN + 3)
    for note in range(count):
        row = QRectF(box.x(), box.bottom() - (note + 1) * high, box.width(), high - 1.5)
        added = note >= _WRITTEN
        if added and colour == 3 and note == count - 1:
            row = row.adjusted(box.width() / 3, 0, box.width() / 6, 0)
        bar(painter, row, "muted" if added else "ink", colour is None)


class ReachChoice(DrawnChoice):
    """White keys from C on: those within the hand's reach are in its colour. ``rows`` begin at a third."""

    def __init__(self, name: str, tip: str, side: str) -> None:
        super().__init__(name, lambda *_: None, tip, _KEY_WIDE, above=True)
        self._side = side

    @property
    def _lead(self) -> int:
        """White keys before the first that can be chosen."""
        return self.rows[0][1] - 1 if self.rows else 0

    @property
    def _pictures_wide(self) -> float:
        return (len(self.rows) + self._lead) * _KEY_WIDE

    def box_of(self, place: int) -> QRectF:
        return super().box_of(place + self._lead).adjusted(-1, 0, 1, 0)

    def paint_one(self, painter: QPainter, place: int, _: int, /) -> None:
        """The keys before the first belong to it."""
        shown = self.chosen if self._walked is None else self._walked
        for key in range(-self._lead if place == 0 else place, place + 1):
            box = self.box_of(key)
            painter.setBrush(color(self._side if key <= min(shown, self.chosen) else "key_white"))
            if self.chosen < key <= shown or shown < key <= self.chosen:
                painter.setBrush(color(f"{self._side}_soft"))
            painter.setPen(QPen(color("muted"), 0.8))
            painter.drawRect(box)
        if place == len(self.rows) - 1:
            self._paint_blacks(painter)

    def _paint_blacks(self, painter: QPainter) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color("key_black"))
        for key in range(-self._lead, len(self.rows) - 1):
            if (key + self._lead) % 7 not in (2, 6):  # none between E and F, B and C
                box = self.box_of(key)
                painter.drawRect(QRectF(box.right() - 3, box.y(), 6, box.height() * 0.58))
        end = self.box_of(self.chosen)
        painter.setPen(QPen(color("ink"), 2))
        painter.drawLine(QLineF(QPointF(end.right(), end.y()), QPointF(end.right(), end.bottom())))
