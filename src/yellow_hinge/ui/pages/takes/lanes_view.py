"""Takes as lanes under the form of the song, with the route that says what sounds in which round."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import TYPE_CHECKING, Literal

from msgspec import Struct
from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen

from yellow_hinge.song.model import Take
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.pages.takes.state import TakesState
from yellow_hinge.ui.theme import color, cut, drawn_fitting_font, drawn_font, scaled

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

_HEAD, _LANE, _NAMES, _GAP = 44.0, 78.0, 128.0, 8.0
#: The least and the usual width of a quarter, in pixels.
_LEAST, _QUARTER = 3.0, 16.0
#: So far below the top of a cell the route is taken hold of.
_GRASP = 16.0


class Drag(Struct):
    """What is being dragged from a cell, lane and round: the ``route``, by the line itself; the ``section``
    of a lane; a ``take``, by its name. ``at`` is the pointer, ``path`` the lane that it passed last in each
    round."""

    kind: Literal["route", "section", "take"]
    begin: tuple[int, int]
    at: QPointF
    path: dict[int, int]


class LanesView(Painted):
    """Draws lanes and route. ``chosen`` carries the lane and the round of a press, ``routed`` the lane that
    the route is to go through, by round: it was dragged there, or a cell clicked that was chosen already.
    ``brought``: the section of a round goes from one lane to another (from, round, to); ``moved``: a take is
    dragged to the place of another one; ``dropped``: out of the lanes."""

    enlarged = True
    chosen = Signal(int, int)
    routed = Signal(object)
    brought = Signal(int, int, int)
    moved = Signal(int, int)
    dropped = Signal(int)

    def __init__(self, state: TakesState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.state = state
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Takes in lanes under the form of the song, and the route through them")
        self._starts: list[float] = []
        self._drag: Drag | None = None
        self._again = False  #: the pressed cell was the chosen one
        self._per = _QUARTER

    def grow(self, room: int) -> None:
        """As wide as the form needs, at least as wide as there is room."""
        spans = [self._quarters(place) for place in range(len(self.state.rounds))]
        total = float(sum(spans, Fraction(0)))
        free = room - _NAMES - _GAP * (len(spans) + 1)
        self._per = max(_LEAST, min(_QUARTER * 2, free / total)) if total else _QUARTER
        self._starts, x = [], _NAMES
        for span in spans:
            self._starts.append(x)
            x += float(span) * self._per + _GAP
        self.setMinimumSize(scaled(x + 4), scaled(_HEAD + max(1, len(self.state.song.takes)) * _LANE + 20))
        self.update()

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def _quarters(self, place: int) -> Fraction:
        slots, take_round = self.state.song.slots, self.state.rounds[place]
        last = slots[take_round.last]
        return last.start_quarters + last.quarters - slots[take_round.first].start_quarters

    def cell(self, lane: int, place: int) -> QRectF:
        """Where a take and a round meet."""
        width = float(self._quarters(place)) * self._per
        return QRectF(self._starts[place], _HEAD + lane * _LANE, width, _LANE - 12)

    def _cell_at(self, point: QPointF) -> tuple[int, int] | None:
        """The lane and the round at a place; None outside the lanes."""
        lane = int((point.y() - _HEAD) // _LANE)
        if not 0 <= lane < len(self.state.song.takes) or not self._starts or not 0 <= point.x() <= self.wide:
            return None
        return lane, max([k for k, start in enumerate(self._starts) if start <= point.x()], default=0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = self.place_in(event)
        cell = self._cell_at(point)
        if cell is None:
            return
        lane, place = cell
        self._again = cell == (self.state.lane, self.state.round)
        self.chosen.emit(lane, place)
        if event.button() == Qt.MouseButton.LeftButton:
            on_route = self.state.rounds[place].take == self.state.song.takes[lane].id
            on_line = on_route and point.y() < self.cell(lane, place).y() + _GRASP
            named = point.x() < _NAMES - _GAP
            self._drag = Drag(
                "take" if named else "route" if on_line else "section", cell, point, {place: lane}
            )

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag.at = self.place_in(event)
            cell = self._cell_at(self._drag.at)
            if cell is not None:
                self._drag.path[cell[1]] = cell[0]
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is None:
            return
        self.update()
        cell, (lane, place) = self._cell_at(self.place_in(event)), drag.begin
        if drag.kind == "take" and cell is None:
            self.dropped.emit(lane)
        elif drag.kind == "take" and cell is not None and cell[0] != lane:
            self.moved.emit(lane, cell[0])
        elif drag.kind == "route" and drag.path != {place: lane}:
            self.routed.emit(drag.path)
        elif drag.kind == "section" and cell is not None and cell[0] != lane:
            self.brought.emit(lane, place, cell[0])
        elif self._again and cell == drag.begin:
            self.routed.emit({place: lane})

    # --- drawing ---

    def paint(self, painter: QPainter, _: QRect) -> None:
        if not self.state.rounds:
            painter.setPen(color("muted"))
            painter.setFont(drawn_font(1.0))
            painter.drawText(
                QPointF(12, _HEAD + 24), "Type a chart on the Song page first: its takes stand here."
            )
            return
        self._paint_form(painter)
        for lane in range(len(self.state.song.takes)):
            self._paint_lane(painter, lane)
        self._paint_route(painter)
        if self._drag is not None:
            self._paint_drag(painter, self._drag)

    def _paint_drag(self, painter: QPainter, drag: Drag) -> None:
        """Where it would go if it were let go here, dashed."""
        painter.setPen(QPen(color("ink"), 3, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        cell, (lane, place) = self._cell_at(drag.at), drag.begin
        if drag.kind == "route":
            for over, through in drag.path.items():
                box = self.cell(through, over)
                painter.drawLine(QPointF(box.x(), box.y() + 7), QPointF(box.right(), box.y() + 7))
        elif drag.kind == "section" and cell is not None and cell[0] != lane:
            painter.drawRoundedRect(self.cell(cell[0], place), 5, 5)
        elif drag.kind == "take":
            name = self.state.song.takes[lane].name
            painter.setFont(drawn_font(0.95, bold=True))
            painter.drawText(drag.at, name if cell else f"{name}: let go here, it is deleted")

    def _paint_form(self, painter: QPainter) -> None:
        for place, take_round in enumerate(self.state.rounds):
            box = self.cell(0, place)
            words = (take_round.section or "Song") + (f" {take_round.turn}" if take_round.turn > 1 else "")
            painter.setPen(color("ink" if place == self.state.round else "muted"))
            painter.setFont(drawn_fitting_font(words, 0.9, box.width(), bold=place == self.state.round))
            painter.drawText(
                QRectF(box.x(), 6, box.width(), 18),
                Qt.AlignmentFlag.AlignLeft,
                cut(painter, words, box.width()),
            )
            if place in self.state.kept:
                painter.setFont(drawn_font(0.7))
                painter.drawText(QRectF(box.x(), 22, box.width(), 14), Qt.AlignmentFlag.AlignLeft, "kept")

    def _paint_lane(self, painter: QPainter, lane: int) -> None:
        take = self.state.song.takes[lane]
        y = _HEAD + lane * _LANE
        now = take.id == self.state.song.current
        painter.setPen(color("ink"))
        painter.setFont(drawn_fitting_font(take.name, 0.95, _NAMES - 14, bold=now))
        painter.drawText(
            QRectF(6, y + 8, _NAMES - 10, 20),
            Qt.AlignmentFlag.AlignLeft,
            cut(painter, take.name, _NAMES - 10),
        )
        painter.setPen(color("muted"))
        painter.setFont(drawn_font(0.72))
        found = self.state.lane_of(take.id)
        effort = "" if found is None or found.effort is None else f"effort {found.effort / 100:.0f}"
        painter.drawText(QRectF(6, y + 27, _NAMES - 10, 16), Qt.AlignmentFlag.AlignLeft, effort)
        words = " · ".join(self._about(take, now))
        painter.setFont(drawn_fitting_font(words, 0.72, _NAMES - 14, bold=False))
        painter.drawText(
            QRectF(6, y + 42, _NAMES - 10, 16), Qt.AlignmentFlag.AlignLeft, cut(painter, words, _NAMES - 10)
        )
        for place in range(len(self.state.rounds)):
            self._paint_cell(painter, lane, place)

    def _about(self, take: Take, now: bool) -> Iterator[str]:
        """What is to be known of a take: whether it is worked on, its key, and whether it has a twin."""
        song = self.state.song
        if now:
            yield "worked on"
        move = song.move_of(take.id)
        if move is not None:
            yield f"in {move.new.pretty}"
        if take.twin is not None:
            yield "in step"

    def _paint_cell(self, painter: QPainter, lane: int, place: int) -> None:
        """A mark for each change, as high as its half steps; below it when something is struck, and how many
        notes the chords have."""
        state, box = self.state, self.cell(lane, place)
        chosen = (lane, place) == (state.lane, state.round)
        painter.setBrush(color("raised"))
        painter.setPen(QPen(color("ink" if chosen else "line"), 2 if chosen else 1))
        painter.drawRoundedRect(box, 5, 5)
        found, take_round = state.lane_of(state.song.takes[lane].id), state.rounds[place]
        if found is None or found.effort is None:
            return
        begin = state.song.slots[take_round.first].start_quarters
        for slot in found.song.slots:
            if (slot.section, slot.round) != (take_round.section, take_round.turn):
                continue
            x = box.x() + 3 + float(slot.start_quarters - begin) * self._per
            width = max(2.0, min(5.0, float(slot.quarters) * self._per - 3))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(color("muted"))
            motion = found.motion[slot.index] if slot.index < len(found.motion) else 0
            high = min(box.height() - 22, 2 + motion * 2.0)
            painter.drawRect(QRectF(x, box.bottom() - 14 - high, width, high))
            thick = len(found.voicings[slot.index].keys)
            painter.setBrush(color("ink"))
            for at in state.strokes(found, slot.index):
                painter.drawRect(QRectF(x - 1 + float(at) * self._per, box.bottom() - 12, 1.4, 4.0))
            span = max(1.0, float(slot.quarters) * self._per - 1)
            painter.setBrush(color("line"))
            painter.drawRect(QRectF(x, box.bottom() - 3 - thick, span, float(thick)))

    def _paint_route(self, painter: QPainter) -> None:
        """One thick line through what sounds, with the half steps where it changes lanes."""
        ids = [take.id for take in self.state.song.takes]
        painter.setPen(QPen(color("ink"), 4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        before: QPointF | None = None
        for place, take_round in enumerate(self.state.rounds):
            box = self.cell(ids.index(take_round.take), place)
            left, right = QPointF(box.x() + 2, box.y() + 7), QPointF(box.right() - 2, box.y() + 7)
            if before is not None:
                painter.drawLine(before, left)
            painter.drawLine(left, right)
            before = right
        joints = {one.slot: one for one in self.state.joints}
        for place, take_round in enumerate(self.state.rounds):
            joint = joints.get(take_round.first)
            if joint is not None:
                self._paint_joint(painter, self.cell(ids.index(take_round.take), place), joint.motion)

    def _paint_joint(self, painter: QPainter, box: QRectF, motion: int) -> None:
        disc = QRectF(box.x() - 16, box.y() - 4, 24, 22)
        painter.setPen(QPen(color("surface"), 2))
        painter.setBrush(color("ink"))
        painter.drawEllipse(disc)
        painter.setPen(color("surface"))
        painter.setFont(drawn_font(0.78, bold=True))
        painter.drawText(disc, Qt.AlignmentFlag.AlignCenter, str(motion))
