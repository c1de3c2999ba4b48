"""The counting strip: chords side by side as wide as they last, in each the counts that one says, above and
below them what the hands strike, riffs and the pedal in lanes of their own."""

from __future__ import annotations

from bisect import bisect_right
from fractions import Fraction
from itertools import groupby
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen

from yellow_hinge.rhythm.patterns import HANDS, Hand
from yellow_hinge.tasks.rhythm.line_desk import over_chord
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.theory.pitch import pitch_for_key
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.pages.rhythm.rungs import paint_ladder
from yellow_hinge.ui.pages.rhythm.state import LANES, Lane, RhythmState
from yellow_hinge.ui.theme import color, drawn_fitting_font, drawn_font, scaled

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

#: Width of a quarter and of what stands before the first chord, in pixels.
_QUARTER, _MARGIN, _GAP = 84.0, 56.0, 10.0
_TOP, _CARD = 58.0, 331.0
#: Lane -> where its middle lies below the top of the cards, and its height.
_LANES: dict[Lane, tuple[float, float]] = {
    "riff": (24.0, 40.0), "right": (90.0, 80.0), "left": (226.0, 80.0), "pedal": (312.0, 34.0),
}  # fmt: skip
_COUNTS = 158.0
#: Small notes of the right hand stand above the middle of their lane, those of the left below it.
_BESIDE = {"": 0.0, "right": -11.0, "left": 11.0}
_RUNGS = 60.0
#: What the lanes are called.
LANE_WORDS: dict[Lane, str] = {"riff": "line", "right": "right", "left": "left", "pedal": "pedal"}
#: Less than so many pixels is a click.
_STILL = 8.0
HEIGHT = int(_TOP + _CARD + 7)


class _Drag(Struct):
    """What is dragged: pressed at a place of a chord, in a lane, on a rung, ``again`` where it was chosen
    already; by the ``bar`` that says how long it lasts; from which pixel, and where it would go."""

    index: int
    place: Fraction
    lane: Lane
    rung: int
    again: bool
    bar: bool
    start: float
    to: Fraction
    moved: bool = False


class StripView(Painted):
    """Draws what is visible of the strip. ``chosen`` carries slot, place (quarters) and lane of a click,
    ``struck`` the same with the rung that was hit (-1: none, in a hand's lane). ``moved``: what is struck
    there is dragged to a place of the chord; ``lengthened``: its bar is dragged until there."""

    enlarged = True
    chosen = Signal(int, object, str)
    struck = Signal(int, object, str, int)
    moved = Signal(object)
    lengthened = Signal(object)

    def __init__(self, state: RhythmState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.state = state
        self.line: float | None = None  #: where it sounds, in quarters from the first bar line
        self._starts: list[float] = []
        self._song: object = None
        self._drag: _Drag | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Counting strip: what each hand strikes on which count")

    # --- where things lie ---

    def grow(self) -> None:
        """As wide as the song is."""
        if self._song is not self.state.song:
            self._song = self.state.song
            x = _MARGIN
            self._starts = []
            for slot in self.state.song.slots:
                self._starts.append(x)
                x += float(slot.quarters) * _QUARTER + _GAP
            self._least = x + 20
        self.setMinimumWidth(scaled(self._least))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(self.minimumWidth(), scaled(HEIGHT))

    def fit_text(self) -> None:
        self.setMinimumHeight(scaled(HEIGHT))
        self.grow()

    def card(self, index: int) -> QRectF:
        """Where a chord lies."""
        width = float(self.state.song.slots[index].quarters) * _QUARTER
        return QRectF(self._starts[index], _TOP, width, _CARD)

    @property
    def joints(self) -> list[float]:
        """Where chords begin: a drawing may be cut there."""
        return self._starts[1:]

    def x_of(self, index: int, place: Fraction) -> float:
        """Where a place of a chord (quarters from its beginning) lies."""
        return self._starts[index] + 10 + float(place) * _QUARTER

    def x_at(self, quarters: float) -> float | None:
        """Where a place of the song lies."""
        slots = self.state.song.slots
        index = bisect_right([float(slot.start_quarters) for slot in slots], quarters) - 1
        if index < 0 or not self._starts:
            return None
        return self.x_of(index, Fraction(quarters) - slots[index].start_quarters)

    def place_of(self, index: int, place: Fraction, lane: Lane, rung: int | None = None) -> QPointF:
        """A point to click on: a place of a chord in a lane, on a rung where one is named."""
        middle, _ = _LANES[lane]
        y = _TOP + middle
        if rung is not None and lane in HANDS:
            hand: Hand = "left" if lane == "left" else "right"
            box = self._ladder(index, place, hand, 8.0)
            step = box.height() / max(1, self.state.size(index, hand))
            y = box.bottom() - (rung + 0.5) * step
        return QPointF(self.x_of(index, place) + 4, y)

    def _ladder(self, index: int, place: Fraction, hand: Hand, width: float) -> QRectF:
        middle, _ = _LANES[hand]
        size = max(1, self.state.size(index, hand))
        height = min(_RUNGS, size * 15.0)
        return QRectF(self.x_of(index, place), _TOP + middle - height / 2, width, height)

    @staticmethod
    def _foot(lane: Lane) -> float:
        """Where the bars below a hand's ladders lie."""
        middle, height = _LANES[lane]
        return _TOP + middle + height / 2 + (2 if lane == "right" else 10)

    def hit(self, point: QPointF) -> tuple[int, Fraction, Lane, int] | None:
        """Slot, place of the counting, lane and rung (-1: none) under a point."""
        index = bisect_right(self._starts, point.x()) - 1
        if index < 0:
            return None
        y = point.y() - _TOP
        lane = min(_LANES, key=lambda one: abs(_LANES[one][0] - y) / _LANES[one][1])
        quarters = max(0.0, (point.x() - self._starts[index] - 10) / _QUARTER)
        step = self.state.grid(index)
        places = [at for at, _ in self.state.places(index)]
        place = min(places, key=lambda at: abs(float(at + step / 4) - quarters))
        rung = -1
        if lane in HANDS:
            hand: Hand = "left" if lane == "left" else "right"
            box, size = self._ladder(index, place, hand, 8.0), self.state.size(index, hand)
            if size and box.top() <= point.y() <= box.bottom():
                rung = min(size - 1, int((box.bottom() - point.y()) / (box.height() / size)))
        return index, place, lane, rung

    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = self.place_in(event)
        hit = self.hit(point)
        if hit is None:
            return
        index, place, lane, rung = hit
        state = self.state
        again = (index, place, lane) == (state.index, state.place, state.lane)
        self.chosen.emit(index, place, lane)
        if event.button() == Qt.MouseButton.LeftButton:
            self._drag = _Drag(
                index, place, lane, rung, again=again, bar=self._on_bar(point, lane), start=point.x(),
                to=place,
            )  # fmt: skip

    def _on_bar(self, point: QPointF, lane: Lane) -> bool:
        """Whether a point is on the bar below a ladder, which says how long it lasts."""
        return lane in HANDS and point.y() > self._foot(lane) - 8

    def _to(self, drag: _Drag, x: float) -> Fraction:
        """The place that a drag leads to: for a bar where it ends."""
        quarters = (x - self._starts[drag.index] - 10) / _QUARTER
        places = [at for at, _ in self.state.places(drag.index)]
        if drag.bar:
            places = [*(at for at in places if at > drag.place), self.state.song.slots[drag.index].quarters]
        return min(places, key=lambda at: abs(float(at) - quarters + (0 if drag.bar else 0.08)))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        drag = self._drag
        if drag is not None:
            x = self.place_in(event).x()
            drag.moved |= abs(x - drag.start) > _STILL
            drag.to = self._to(drag, x) if drag.moved else drag.place
            self.update()

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is None:
            return
        self.update()
        if not drag.moved and drag.again:
            self.struck.emit(drag.index, drag.place, drag.lane, drag.rung)
        elif drag.moved and drag.to != drag.place:
            (self.lengthened if drag.bar else self.moved).emit(drag.to)

    # --- drawing ---

    def paint(self, painter: QPainter, seen: QRect) -> None:
        if not self.state.song.slots:
            painter.setPen(color("muted"))
            painter.setFont(drawn_font(1.0))
            painter.drawText(
                QPointF(_MARGIN, _TOP + 60), "Type a chart on the Song page first: its counts stand here."
            )
            return
        first = max(0, bisect_right(self._starts, seen.left()) - 1)
        last = bisect_right(self._starts, seen.right())
        for index in range(first, last):
            self._paint_card(painter, index)
        if self._drag is not None and self._drag.moved:
            self._paint_drag(painter, self._drag)
        if first == 0:
            self._paint_names(painter)
        self._paint_line(painter)

    def _paint_drag(self, painter: QPainter, drag: _Drag) -> None:
        """Where it would come, or how long last, if it were let go now."""
        painter.setPen(QPen(color("ink"), 2, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        middle, height = _LANES[drag.lane]
        start, x = self.x_of(drag.index, drag.place), self.x_of(drag.index, drag.to)
        if drag.bar:
            foot = self._foot(drag.lane)
            painter.drawLine(QPointF(start, foot), QPointF(x - 5, foot))
        else:
            painter.drawRoundedRect(QRectF(x - 3, _TOP + middle - height / 2, 30, height), 4, 4)

    def _paint_names(self, painter: QPainter) -> None:
        """The lanes' names before the first chord."""
        painter.setFont(drawn_font(0.8))
        for lane in LANES:
            painter.setPen(color(lane if lane in HANDS else "muted"))
            middle, _ = _LANES[lane]
            box = QRectF(2, _TOP + middle - 9, _MARGIN - 8, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft, LANE_WORDS[lane])

    def _paint_card(self, painter: QPainter, index: int) -> None:
        state, slot, card = self.state, self.state.song.slots[index], self.card(index)
        chosen = index == state.index
        painter.setBrush(color("raised"))
        painter.setPen(QPen(color("ink" if chosen else "line"), 2 if chosen else 1))
        painter.drawRoundedRect(card, 5, 5)
        symbol = pretty_symbol(slot.chord)
        painter.setPen(color("ink"))
        painter.setFont(drawn_fitting_font(symbol, 1.25, card.width() + _GAP - 4))
        painter.drawText(QRectF(card.x(), 12, card.width(), 26), Qt.AlignmentFlag.AlignCenter, symbol)
        start = state.song.section_starts.get(index)
        where = f"bar {slot.bar}" + (f", {start}" if start else "")
        painter.setPen(color("muted"))
        painter.setFont(drawn_fitting_font(where, 0.76, card.width() + _GAP - 4, bold=False))
        painter.drawText(QRectF(card.x(), 38, card.width(), 16), Qt.AlignmentFlag.AlignCenter, where)
        self._paint_counts(painter, index)
        for hand in HANDS:
            self._paint_hand(painter, index, hand)
        self._paint_riff(painter, index, card)
        self._paint_pedal(painter, index, card)
        if chosen and state.lane:
            self._paint_cursor(painter)

    def _paint_counts(self, painter: QPainter, index: int) -> None:
        """The numbers large, what is said between them small."""
        for at, said in self.state.places(index):
            if not said:
                continue
            number = said.isdigit()
            painter.setPen(color("ink" if number else "muted"))
            painter.setFont(drawn_font(1.9 if number else 1.0, bold=number))
            box = QRectF(self.x_of(index, at) - 4, _TOP + _COUNTS - 20, 44, 40)
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, said)

    def _paint_hand(self, painter: QPainter, index: int, hand: Hand) -> None:
        strokes, size = self.state.strokes(index, hand), self.state.size(index, hand)
        places = [mark.at for mark in strokes]
        foot = self._foot(hand)
        for number, mark in enumerate(strokes):
            following = (
                places[number + 1] if number + 1 < len(places) else self.state.song.slots[index].quarters
            )
            width = max(5.0, min(28.0, float(following - mark.at) * _QUARTER - 5))
            box = self._ladder(index, mark.at, hand, width)
            paint_ladder(painter, box, size, mark.rungs, hand, outside=len(mark.outside))
            painter.setPen(QPen(color(hand), 3))
            x = box.x()
            end = x + max(4.0, float(mark.lasts) * _QUARTER - 5)
            painter.drawLine(QPointF(x, foot), QPointF(min(end, self.card(index).right() - 4), foot))

    def _paint_riff(self, painter: QPainter, index: int, card: QRectF) -> None:
        middle, _ = _LANES["riff"]
        y = _TOP + middle
        painter.setPen(QPen(color("line"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(card.x() + 8, y), QPointF(card.right() - 8, y))
        for _, group in groupby(self.state.lane_notes(index), key=lambda note: (note.at, note.hand)):
            together = sorted(group, key=lambda note: note.key)
            note, said = together[0], [self._said(index, each.key) for each in together]
            name, degree = ("+".join(words) for words in zip(*said, strict=True))
            width = max(18.0, min(float(note.lasts) * _QUARTER - 4, 40.0 if len(together) == 1 else 66.0))
            x = min(self.x_of(index, note.at), card.right() - width - 2)
            height = 20 if not note.hand else 17
            box = QRectF(x, y + _BESIDE[note.hand] - height / 2, width, height)
            painter.setPen(QPen(color(note.hand or "ink"), 1.8 if note.hand else 1.2))
            painter.setBrush(color(f"{note.hand}_soft" if note.hand else "surface"))
            ends = 2 if note.hand == "left" else 8
            painter.drawRoundedRect(box, ends, ends)
            painter.setPen(color("ink"))
            painter.setFont(drawn_fitting_font(name, 0.78, box.width() - 3))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)
            if not note.hand and degree:
                painter.setFont(drawn_fitting_font(degree, 0.68, box.width()))
                painter.setPen(color("muted"))
                painter.drawText(box.translated(0, 16), Qt.AlignmentFlag.AlignCenter, degree)

    def _said(self, index: int, key: int) -> tuple[str, str]:
        """Name and degree of a note."""
        slot = self.state.song.slots[index]
        if slot.chord is not None:
            return over_chord(slot.chord, key, slot.key)
        return pitch_for_key(key, slot.key.prefers_flats).pretty, ""

    def _paint_pedal(self, painter: QPainter, index: int, card: QRectF) -> None:
        """A line while it is down, a tip where it is changed."""
        changes, hold = self.state.pedal(index)
        if not changes and not hold:
            return
        y = _TOP + _LANES["pedal"][0] + 6
        painter.setPen(QPen(color("ink"), 1.8))
        start = card.x() if hold else self.x_of(index, changes[0])
        until = self.state.pedal_until(index)
        end = card.right() + _GAP - 4 if until is None else self.x_of(index, until)
        painter.drawLine(QPointF(start, y), QPointF(end, y))
        for at in changes[1:] if hold else changes:
            x = self.x_of(index, at)
            painter.drawLine(QPointF(x - 5, y), QPointF(x, y - 10))
            painter.drawLine(QPointF(x, y - 10), QPointF(x + 5, y))

    def _paint_cursor(self, painter: QPainter) -> None:
        state = self.state
        middle, height = _LANES[state.lane]
        step = float(state.grid(state.index)) * _QUARTER
        x = self.x_of(state.index, state.place)
        box = QRectF(x - 5, _TOP + middle - height / 2 - 4, max(16.0, min(step, 38.0)), height + 8)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        pen = QPen(color("ink"), 2 if self.hasFocus() else 1)
        pen.setStyle(Qt.PenStyle.SolidLine if self.hasFocus() else Qt.PenStyle.DotLine)
        painter.setPen(pen)
        painter.drawRoundedRect(box, 4, 4)

    def _paint_line(self, painter: QPainter) -> None:
        x = None if self.line is None else self.x_at(self.line)
        if x is not None:
            painter.setPen(QPen(color("ink"), 2))
            painter.drawLine(QPointF(x, _TOP), QPointF(x, _TOP + _CARD))
