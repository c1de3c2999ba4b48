"""The painted parts of the Swaps page: the song as chips, the two bass lines, the trade curve."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from yellow_hinge.reharm.proposals import bass_steps
from yellow_hinge.song.chart import Chart
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.pages.swaps.state import SwapsState
from yellow_hinge.ui.theme import color, cut, drawn_font, fitting_font, font, scaled

_CHIP_HEIGHT, _CHIP_WIDTH, _GAP, _HEADING = 40, 62, 5, 22
Boxes = tuple[tuple[QRectF, int | None, str], ...]


def _laid_out(chart: Chart, width: int) -> tuple[Boxes, int]:
    """Boxes: (place, index of a written chord, "") for a chip and (place, None, words) for a heading;
    and how tall all of it is."""
    boxes: list[tuple[QRectF, int | None, str]] = []
    high, wide, head = scaled(_CHIP_HEIGHT), scaled(_CHIP_WIDTH), scaled(_HEADING)
    x, y, before = 0.0, 0.0, ""
    for written in chart.written:
        if written.section != before:
            y += (high + _GAP if boxes and x > 0 else 0) + (6 if boxes else 0)
            boxes.append((QRectF(0, y, width, head), None, written.section))
            x, y, before = 0.0, y + head, written.section
        if x + wide > width:
            x, y = 0.0, y + high + _GAP
        boxes.append((QRectF(x, y, wide, high), written.index, ""))
        x += wide + _GAP
    return tuple(boxes), int(y + high + _GAP)


class ChipsView(Painted):
    """All written chords by section; swapped ones say what was there, kept ones are dotted."""

    chosen = Signal(int)

    def __init__(self, state: SwapsState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.state = state
        self._laid: tuple[Chart | None, int, tuple[Boxes, int]] = (None, 0, ((), 0))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.setAccessibleName("The chords of the song")
        self.setToolTip("Click a chord, or walk with Left and Right. Up and Down walk its proposals.")

    def sizeHint(self) -> QSize:
        return QSize(200, self._layout()[1])

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.grow()

    def grow(self) -> None:
        """As tall as the song needs."""
        self.setMinimumHeight(self._layout()[1])
        self.update()

    def place_of(self, index: int) -> QRectF | None:
        """Where a chord's chip lies."""
        return next((box for box, place, _ in self._layout()[0] if place == index), None)

    def _layout(self) -> tuple[Boxes, int]:
        """Where everything lies, and how tall all of it is."""
        chart, width = self.state.song.chart, max(self.width(), scaled(_CHIP_WIDTH) + _GAP)
        if self._laid[0] is not chart or self._laid[1] != width:
            self._laid = (chart, width, _laid_out(chart, width))
        return self._laid[2]

    def paint(self, painter: QPainter, seen: QRect) -> None:
        rows_seen = QRectF(seen)  # of a long song a few rows are
        for box, index, words in self._layout()[0]:
            if not rows_seen.intersects(box):
                continue
            if index is None:
                painter.setFont(font(0.85))
                painter.setPen(color("muted"))
                painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, cut(painter, words, box.width()))
            else:
                self._paint_chip(painter, box, index)

    def _paint_chip(self, painter: QPainter, box: QRectF, index: int) -> None:
        song = self.state.song
        written = song.written[index]
        first = song.firsts.get(written.id)
        chosen, kept = index == self.state.chosen, written.id in song.arrangement.untouched
        style = Qt.PenStyle.DotLine if kept and not chosen else Qt.PenStyle.SolidLine
        painter.setPen(QPen(color("ink" if chosen or kept else "line"), 2.2 if chosen else 1, style))
        painter.setBrush(color("raised"))
        painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 5, 5)
        row = song.arrangement.swaps.get(written.id)
        own = pretty_symbol(written.chord)
        symbol = own if row is None else " ".join(at.chord.pretty for at in row if at.chord is not None)
        place = "not played" if first is None else f"bar {first.bar}"
        under = f"was {own}" if row is not None else "kept" if kept else place
        inner = box.adjusted(4, 3, -4, -3)
        painter.setPen(color("ink"))
        painter.setFont(fitting_font(symbol, 1.0, inner.width()))
        top = QRectF(inner.x(), inner.y(), inner.width(), scaled(19))
        painter.drawText(top, Qt.AlignmentFlag.AlignCenter, symbol)
        painter.setPen(color("muted"))
        painter.setFont(fitting_font(under, 0.75, inner.width(), bold=False))
        painter.drawText(top.translated(0, scaled(17)), Qt.AlignmentFlag.AlignCenter, under)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, index, _ in self._layout()[0]:
            if index is not None and box.contains(event.position()):
                self.chosen.emit(index)


class BassView(Painted):
    """Two small bass lines: as it was (dashed), and with the proposal (solid)."""

    enlarged = True

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._lines: tuple[Sequence[NoteName], Sequence[NoteName]] = ((), ())
        self.setAccessibleName("The bass line before and after")
        self.setToolTip("Dashed: the bass as it was. Solid: with the proposal. Higher is higher in pitch.")

    def fit_text(self) -> None:
        self.setFixedHeight(scaled(84))

    def show_lines(self, was: Sequence[NoteName], names: Sequence[NoteName]) -> None:
        self._lines = (was, names)
        self.update()

    def paint(self, painter: QPainter, _: QRect) -> None:
        heights = [_heights(line) for line in self._lines]
        every = [height for row in heights for height in row]
        if every:
            low, high = min(every), max(every)
            was_higher = sum(heights[0]) * len(heights[1]) > sum(heights[1]) * len(heights[0])
            for number, (line, row) in enumerate(zip(self._lines, heights, strict=True)):
                above = was_higher == (number == 0)
                self._paint_line(painter, line, row, (low, max(high, low + 3)), (number == 0, above))

    def _paint_line(
        self,
        painter: QPainter,
        line: Sequence[NoteName],
        row: Sequence[int],
        ends: tuple[int, int],
        look: tuple[bool, bool],
    ) -> None:
        """``look``: whether the line is dashed, and whether its words stand above it."""
        dashed, above = look
        width, height = self.wide - 44, self.high - 34
        points = [
            QPointF(
                22 + width * (place / max(1, len(row) - 1)),
                17 + height * (1 - (one - ends[0]) / (ends[1] - ends[0])),
            )
            for place, one in enumerate(row)
        ]
        ink = color("muted" if dashed else "ink")
        style = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
        painter.setPen(QPen(ink, 1.2 if dashed else 2.2, style))
        painter.drawPolyline(QPolygonF(points))
        painter.setFont(drawn_font(0.78, bold=not dashed))
        inside = range(1, len(points) - 1) if dashed else range(len(points))
        for place in inside:
            painter.setBrush(ink)
            painter.drawEllipse(points[place], 2.6, 2.6)
            shift = -8 if above else 13
            box = QRectF(points[place].x() - 20, points[place].y() + shift - 10, 40, 14)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, line[place].pretty)


def _heights(line: Sequence[NoteName]) -> list[int]:
    heights = [0] if line else []
    for step in bass_steps(line):
        heights.append(heights[-1] + step)
    return heights


class CurveView(Painted):
    """The trade curve: for each number of swaps the effort that stays, and from where it rises; a
    click takes one."""

    enlarged = True
    picked = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._points: list[tuple[int, int]] = []
        self._turn = -1
        self._others: Sequence[list[tuple[int, int]]] = ()
        self.setAccessibleName("Effort for each number of swaps")
        self.setToolTip("Least effort with so many swaps, in half steps. From the ringed point on it rises. "
                        "Thin lines: where more, or less, may be touched.")  # fmt: skip

    def fit_text(self) -> None:
        self.setFixedHeight(scaled(128))

    def show_points(
        self, points: list[tuple[int, int]], turn: int = -1, others: Sequence[list[tuple[int, int]]] = ()
    ) -> None:
        """(swaps, effort in half steps) pairs, and the number of swaps from which on it rises; ``others`` are
        the curves of other appetites, drawn thin behind it."""
        self._points, self._turn, self._others = points, turn, others
        self.update()

    def _places(self, points: list[tuple[int, int]] | None = None) -> list[QPointF]:
        """Where points lie on the scale that holds all curves; the chosen one's where none are given."""
        every = [one for row in (self._points, *self._others) for one in row]
        low = min(steps for _, steps in every)
        high = max(low + 1, *(steps for _, steps in every))
        last = max(1, *(swaps for swaps, _ in every))
        width, height = self.wide - 48, self.high - 62
        return [
            QPointF(24 + width * swaps / last, 26 + height * (high - steps) / (high - low))
            for swaps, steps in (self._points if points is None else points)
        ]

    def paint(self, painter: QPainter, _: QRect) -> None:
        if self._points:
            places = self._places()
            painter.setPen(QPen(color("line"), 1.0))
            for other in self._others:
                painter.drawPolyline(QPolygonF(self._places(other)))
            painter.setPen(QPen(color("muted"), 1.6))
            painter.drawPolyline(QPolygonF(places))
            for (swaps, steps), place in zip(self._points, places, strict=True):
                painter.setPen(QPen(color("ink"), 1.6))
                painter.setBrush(color("raised"))
                painter.drawEllipse(place, 5, 5)
                if swaps == self._turn:
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawEllipse(place, 9, 9)
                painter.setFont(drawn_font(0.82, bold=True))
                painter.drawText(
                    QRectF(place.x() - 20, place.y() - 22, 40, 15), Qt.AlignmentFlag.AlignCenter, str(steps)
                )
                painter.setFont(drawn_font(0.78))
                painter.setPen(color("muted"))
                foot = QRectF(place.x() - 20, self.high - 31, 40, 14)
                painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, str(swaps))
            painter.drawText(
                QRectF(0, self.high - 17, self.wide, 16),
                Qt.AlignmentFlag.AlignCenter,
                "swaps taken; above, the effort that stays",
            )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._points:
            at = self.place_in(event)
            near = [(place - at).manhattanLength() for place in self._places()]
            best = min(range(len(near)), key=near.__getitem__)
            if near[best] < 30:
                self.picked.emit(self._points[best][0])
