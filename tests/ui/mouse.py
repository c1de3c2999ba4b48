"""The mouse on what is drawn, in the pixels of its widget."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def at(point: QPointF | QPoint) -> QPoint:
    return point if isinstance(point, QPoint) else point.toPoint()


def press_at(widget: QWidget, point: QPointF | QPoint) -> None:
    QTest.mousePress(widget, LEFT, NONE, at(point))


def drag(widget: QWidget, *points: QPointF | QPoint) -> None:
    """Press on the first, go over the others, let go on the last."""
    press_at(widget, points[0])
    for point in points[1:]:
        QTest.mouseMove(widget, at(point))
    QTest.mouseRelease(widget, LEFT, NONE, at(points[-1]))
