"""What the choices of the Feel side look like, by the field that they set."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QPainter, QPen, QPolygonF

from yellow_hinge.rhythm.fullness import LEVELS, MOST
from yellow_hinge.song.groove import MOST_TOUCH
from yellow_hinge.ui.drawn_choice import Draw, bar
from yellow_hinge.ui.theme import color

#: How often the pedal comes up in a bar, by the way it is used; none: it stays up.
_CHANGES: Mapping[str, tuple[float, ...]] = {
    "auto": (0.0,), "none": (), "chord": (0.0, 0.5), "half": (0.0, 0.25, 0.5, 0.75), "bridge": (0.4, 0.7),
    "hold": (-1.0,),
}  # fmt: skip


def _line(painter: QPainter, box: QRectF, follows: bool = False) -> None:
    painter.setPen(QPen(color("muted" if follows else "ink"), 1 if follows else 1.4))
    foot = box.bottom() - 3
    painter.drawLine(QLineF(QPointF(box.x(), foot), QPointF(box.right(), foot)))


def _nothing_own(painter: QPainter, box: QRectF) -> None:
    """What is as around it."""
    bar(painter, QRectF(box.x(), box.center().y() - 2, box.width(), 4), follows=True)


def draw_pedal(painter: QPainter, box: QRectF, way: str | None) -> None:
    """The pedal's line, with a notch where it comes up; "bridge" is down between two places alone."""
    if way is None:
        return _nothing_own(painter, box)
    places = _CHANGES[way]
    if way == "bridge":
        first, last = (box.x() + place * box.width() for place in places)
        return _line(painter, QRectF(first, box.y(), last - first, box.height()))
    if way != "none":
        _line(painter, box, follows=way == "auto")
    for place in places:
        if place >= 0:
            x, foot = box.x() + place * box.width(), box.bottom() - 3
            notch = (QPointF(x, foot), QPointF(x + 2, foot - 7), QPointF(x + 4, foot))
            painter.drawPolyline(QPolygonF(notch))
    return None


def draw_touch(painter: QPainter, box: QRectF, touch: int | None) -> None:
    """A stroke, the harder the higher."""
    if touch is None:
        return _nothing_own(painter, box)
    high = box.height() * (touch + MOST_TOUCH + 1) / (2 * MOST_TOUCH + 1)
    return bar(painter, QRectF(box.x() + 2, box.bottom() - high, box.width() - 4, high))


def draw_level(painter: QPainter, box: QRectF, level: int | None) -> None:
    """The notes of both hands at a level of fullness."""
    if level is None:
        return _nothing_own(painter, box)
    fullness, most = LEVELS[level], LEVELS[MOST]
    high = box.height() / (most.left[1] + most.right[1])
    left, right = fullness.left[1], fullness.right[1]
    for note in range(left + right):
        row = QRectF(box.x(), box.bottom() - (note + 1) * high, box.width(), high - 1)
        bar(painter, row, "left" if note < left else "right")
    return None


def draw_swing(painter: QPainter, box: QRectF, swing: int) -> None:
    """Two eighths of a count: the second half-way, or as late as it swings."""
    second = box.x() + box.width() * (0.5 + swing / 600)
    for x, end in ((box.x(), second), (second, box.right())):
        bar(painter, QRectF(x, box.center().y() - 4, end - x - 1.5, 8))


def draw_ending(painter: QPainter, box: QRectF, ending: str) -> None:
    """The last chord: struck as before, held, or held with its notes one after the other."""
    high = box.height() / 3
    for note in range(3):
        y = box.bottom() - (note + 1) * high
        late = note * 4 if ending == "rolled" else 0
        if ending:
            bar(painter, QRectF(box.x() + late, y, box.width() - late, high - 2))
        else:
            for k in (0, 1):
                bar(painter, QRectF(box.x() + k * box.width() / 2, y, box.width() / 3, high - 2))


PICTURES: Mapping[str, Draw] = {
    "pedal": draw_pedal, "touch": draw_touch, "level": draw_level, "swing": draw_swing,
    "ending": draw_ending,
}  # fmt: skip
