"""Looks at what painters write: every text, where it stands on its widget, and how much of it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, NamedTuple

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QFontMetricsF, QPainter, QPixmap
from PySide6.QtWidgets import QWidget


class Written(NamedTuple):
    """A text, where it stands on what it is painted on, the room it was given, its colour."""

    on: object
    text: str
    box: QRectF
    room: QRectF | None
    colour: str


@contextmanager
def listening(found: list[Written]) -> Iterator[None]:
    """Everything that is painted meanwhile is written down as well."""
    real = QPainter.drawText

    def noted(painter: QPainter, *given: Any) -> Any:
        place, text = given[0], next((one for one in given[1:] if isinstance(one, str)), "")
        metrics, turned = QFontMetricsF(painter.font()), painter.combinedTransform()
        device, colour = painter.device(), painter.pen().color().name()
        if isinstance(place, QPointF) and text.strip():
            box = metrics.boundingRect(text).translated(place)
            found.append(Written(device, text, turned.mapRect(box), None, colour))
        elif text.strip():
            room = QRectF(place)
            flags = int(given[1])
            box = metrics.boundingRect(room, flags, text)
            found.append(Written(device, text, turned.mapRect(box), turned.mapRect(room), colour))
        return real(painter, *given)

    QPainter.drawText = noted  # type: ignore[method-assign, assignment]
    try:
        yield
    finally:
        QPainter.drawText = real  # type: ignore[method-assign]


def written_on(window: QWidget) -> list[Written]:
    """What painters write when a window is painted anew."""
    found: list[Written] = []
    with listening(found):
        picture = QPixmap(window.size())
        window.render(picture)
    return found


def troubles(found: list[Written]) -> list[str]:
    """Texts that are cut by the room they were given, and such as lie over each other."""
    bad = []
    for one in found:
        if one.room is not None and one.box.width() > one.room.width() + 2:
            bad.append(f"{one.text[:30]!r} is {one.box.width():.0f} wide in {one.room.width():.0f}")
    for k, one in enumerate(found):
        for other in found[k + 1 :]:
            if one.on is not other.on or (one.text, one.box) == (other.text, other.box):
                continue
            both = one.box.adjusted(1, 2, -1, -2) & other.box.adjusted(1, 2, -1, -2)
            if both.width() > 2 and both.height() > 2:
                bad.append(f"{one.text[:30]!r} lies over {other.text[:30]!r}")
    return bad
