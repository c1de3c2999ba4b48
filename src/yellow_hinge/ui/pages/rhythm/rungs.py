"""A grip as a small ladder: one rung per note, the struck ones solid; on the strip and, small, as the picture
of a pattern."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from yellow_hinge.rhythm.counts import laid, said_at
from yellow_hinge.rhythm.patterns import Pattern, Stroke
from yellow_hinge.rhythm.rungs import rungs_of
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.ui.theme import color, drawn_font

#: The picture of a pattern shows it on a grip of so many notes.
PICTURE_SIZE = 4
_OUTSIDE_GAP = 4.0


def paint_ladder(
    painter: QPainter,
    area: QRectF,
    size: int,
    rungs: frozenset[int],
    side: str,
    *,
    outside: int = 0,
    thin: bool = True,
) -> None:
    """The rungs of a grip in an area, the lowest at its foot. Struck ones are solid in the hand's colour; the
    left hand's have square ends and the right one's round ones. ``outside`` notes beyond the grip stand as
    open rungs below it."""
    if not size:
        return
    step = area.height() / size
    height = min(step - 3, 10.0)
    for rung in range(size):
        y = area.bottom() - (rung + 1) * step + (step - height) / 2
        box = QRectF(area.x(), y, area.width(), height)
        if rung in rungs:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(color(side))
            radius = height / 2 if side == "right" else 0
            painter.drawRoundedRect(box, radius, radius)
        elif thin:
            painter.setPen(QPen(color("line"), 1.6))
            middle = box.center().y()
            painter.drawLine(QPointF(box.x(), middle), QPointF(box.right(), middle))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(color(side), 1.8))
    for number in range(outside):
        box = QRectF(
            area.x() + 1, area.bottom() + _OUTSIDE_GAP + number * (height + 2), area.width() - 2, height - 1
        )
        painter.drawRect(box)


def paint_picture(painter: QPainter, area: QRectF, pattern: Pattern, meter: Meter, side: str) -> None:
    """A bar of a pattern, with the counts under it."""
    quarters = meter.quarters
    strokes = laid(pattern, meter, Fraction(0), quarters)
    scale = area.width() / float(quarters)
    ladder = area.height() - 16
    width = max(3.0, min(16.0, _least_step([stroke.at for stroke in strokes], quarters) * scale - 2))
    by_place: dict[Fraction, list[str]] = {}
    for stroke in strokes:
        by_place.setdefault(stroke.at, []).append(stroke.what)
    lasting = _lengths(strokes, quarters)
    for at, whats in by_place.items():
        rungs = frozenset(rung for what in whats for rung in rungs_of(what, PICTURE_SIZE))
        beyond = sum(not rungs_of(what, PICTURE_SIZE) or what == "octaves" for what in whats)
        x = area.x() + float(at) * scale
        paint_ladder(
            painter,
            QRectF(x, area.y(), width, ladder - 14),
            PICTURE_SIZE,
            rungs,
            side,
            outside=beyond,
        )
        painter.setPen(QPen(color(side), 2))
        foot = area.y() + ladder - 2
        end = max(x + 3, x + float(lasting[at]) * scale - 3)
        painter.drawLine(QPointF(x, foot), QPointF(min(end, area.right()), foot))
    _paint_counts(painter, area, meter, scale)


def _lengths(strokes: Sequence[Stroke], quarters: Fraction) -> dict[Fraction, Fraction]:
    """How long what is struck at each place lasts, at the most."""
    places = [*sorted({stroke.at for stroke in strokes}), quarters]
    lengths: dict[Fraction, Fraction] = {}
    for stroke in strokes:
        following = next(place for place in places if place > stroke.at)
        lasts = following - stroke.at if stroke.counts is None else stroke.counts
        if stroke.short:
            lasts = min(lasts, 1 - stroke.at % 1) / 2
        lengths[stroke.at] = max(lengths.get(stroke.at, Fraction(0)), lasts)
    return lengths


def _least_step(places: Sequence[Fraction], quarters: Fraction) -> float:
    row = [*sorted(set(places)), quarters]
    return float(min((b - a for a, b in pairwise(row) if b > a), default=quarters))


def _paint_counts(painter: QPainter, area: QRectF, meter: Meter, scale: float) -> None:
    painter.setFont(drawn_font(0.68))
    painter.setPen(color("muted"))
    unit = meter.quarters_per_beat
    for beat in range(meter.beats):
        box = QRectF(area.x() + float(beat * unit) * scale - 4, area.bottom() - 13, 24, 13)
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft, said_at(beat * unit, meter))
