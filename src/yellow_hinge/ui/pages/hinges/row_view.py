"""The row of leaves and hinges, and the folded row of the whole song above it."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from msgspec import Struct
from PySide6.QtCore import QLineF, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFontMetricsF,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from yellow_hinge.motion.hinge import SIDES, HingeReport
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.theory.pitch import octave_name
from yellow_hinge.theory.pretty import pretty_accidentals
from yellow_hinge.theory.tension import FitKind
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.pages.hinges.grip_state import nearest_tone
from yellow_hinge.ui.pages.hinges.state import HingesState, Selection
from yellow_hinge.ui.theme import color, drawn_fitting_font, drawn_font, scaled

LEAF_WIDTH, HINGE_WIDTH = 60, 50
_HEAD, _FOOT = 56, 62
_TAB_HEIGHT = 17.0
#: Below this key (C3) close thirds turn to mud; see voicing/register.py.
_MUD_LIMIT_KEY = 48
_PIN = 6.0
_GUTTER = 40
#: A line that fades does so in so many steps of so many pixels.
_FADE_STEPS, _FADE_STEP = 11, 2.0


#: Where the way of the top line lies in the overview, how far it is dragged at the least, and how wide a
#: section must be to show it.
_WAY_TOP, _WAY_HIGH, _WAY_STILL, _LEAST_WAY = 22.0, 9.0, 4.0, 30.0
_WAYS = ("arc", "flat", "rising", "falling")


class _Tab(Struct, frozen=True):
    """A drawn note: its box on the leaf."""

    side: str
    key: int
    rect: QRectF
    word: str


class _Drag(Struct):
    """A note that is dragged: its tab, where it was taken, the key it would go to, and whether that breaks a
    rule."""

    tab: _Tab
    start: float
    to: int
    breaks: bool = False


class RowView(Painted):
    """Draws leaves and hinges around the chosen one; a click or the arrows choose. ``dragged``: a note of the
    chosen leaf goes to another key; ``over``: it would go there if it were let go now, and :attr:`breaks` is
    to say whether that would break a rule."""

    chosen = Signal(object)
    dragged = Signal(int, int)
    over = Signal(int, int)

    def __init__(self, state: HingesState, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.state, self._document = state, document
        self._first = 0
        self._drag: _Drag | None = None
        self.breaks: Callable[[int, int], bool] = lambda _, __: False
        self.on_painted: Callable[[], None] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Leaves and hinges")
        self.setToolTip(
            "Each leaf is a chord, pitch upwards. A yellow bar is a held note; a curve is a note that "
            "moves, with its half steps. Close shapes below the dashed line sound muddy. Left and right "
            "arrows walk leaves and hinges."
        )

    def fit_text(self) -> None:
        self.setMinimumHeight(scaled(270))

    def sizeHint(self) -> QSize:
        return QSize(900, 400)

    # --- geometry ---

    @property
    def _pitch(self) -> float:
        return LEAF_WIDTH + HINGE_WIDTH

    def leaves_in_view(self) -> int:
        return max(1, int((self.wide - LEAF_WIDTH - _GUTTER) // self._pitch) + 1)

    @property
    def first(self) -> int:
        """Index of the leftmost leaf."""
        return self._first

    def follow(self, index: int) -> None:
        """Scroll so that a leaf and its neighbours are seen."""
        count = self.leaves_in_view()
        last = max(0, len(self.state.song.slots) + self.state.song.arrangement.loop - count)
        if index - 1 < self._first:
            self._first = max(0, index - 1)
        elif index + 1 > self._first + count - 1:
            self._first = index + 2 - count
        self._first = max(0, min(self._first, last))
        self.update()

    def _leaf_rect(self, index: int) -> QRectF:
        x = _GUTTER + (index - self._first) * self._pitch
        return QRectF(x, _HEAD, LEAF_WIDTH, self.high - _HEAD - _FOOT)

    def _hinge_rect(self, index: int) -> QRectF:
        leaf = self._leaf_rect(index)
        return QRectF(leaf.right(), leaf.y(), HINGE_WIDTH, leaf.height())

    def _y(self, key: float) -> float:
        low, high = self.state.key_range()
        leaf = self._leaf_rect(self._first)
        share = (key - low) / max(1, high - low)
        return leaf.bottom() - 10 - share * (leaf.height() - 20)

    def _tabs(self, index: int, place: int | None = None) -> list[_Tab]:
        """The notes of a leaf, drawn at ``place`` (its own if None). Neighbours that would
        overlap stand side by side."""
        held = self.state.row.held[index]
        leaf = self._leaf_rect(index if place is None else place).adjusted(5, 0, -5, 0)
        notes = [
            (key, side, self.state.tab_label(held, side, position))
            for side in SIDES
            for position, key in enumerate(held.hand(side)[0].keys)
        ]
        places = [self._y(key) for key, _, _ in notes]
        tabs: list[_Tab] = []
        for i, (key, side, word) in enumerate(notes):
            crowded_below = i > 0 and places[i - 1] - places[i] < _TAB_HEIGHT
            crowded_above = i + 1 < len(notes) and places[i] - places[i + 1] < _TAB_HEIGHT
            rect = QRectF(leaf.x(), places[i] - _TAB_HEIGHT / 2, leaf.width(), _TAB_HEIGHT)
            if crowded_below or crowded_above:
                on_right = crowded_below and not (tabs and tabs[-1].rect.x() > leaf.x())
                rect.setWidth(leaf.width() / 2 - 1)
                rect.moveLeft(leaf.center().x() + 1 if on_right else leaf.x())
            tabs.append(_Tab(side, key, rect, word))
        return tabs

    # --- painting ---

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = self.begin()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.state.empty_words:
            painter.setFont(drawn_font(1.2))
            painter.setPen(color("muted"))
            painter.drawText(self.room_inside, Qt.AlignmentFlag.AlignCenter, self.state.empty_words)
        else:
            self._paint_row(painter)
        painter.end()
        if self.on_painted is not None and not self.state.empty_words:
            self.on_painted()

    def _paint_row(self, painter: QPainter) -> None:
        self._paint_lines(painter)
        last = min(len(self.state.song.slots), self._first + self.leaves_in_view() + 1)
        leaves = range(self._first, last)
        for index in leaves:
            self._paint_leaf(painter, index)
        for index in leaves[: len(self.state.row.hinges) - self._first]:
            self._paint_hinge(painter, index)
        if self.state.song.arrangement.loop and last == len(self.state.song.slots) > 1:
            self._paint_return(painter, last)
        for index in leaves:  # notes lie on top of the lines that reach them
            for tab in self._tabs(index):
                self._paint_tab(painter, tab)
        if self.state.melody:
            for index in leaves:
                self._paint_melody(painter, index)
        if self._drag is not None and self._drag.to != self._drag.tab.key:
            self._paint_drag(painter, self._drag)

    def _paint_lines(self, painter: QPainter) -> None:
        """Thin octave lines, and the line under which close shapes turn to mud."""
        low, high = self.state.key_range()
        painter.setFont(drawn_font(0.75))
        for key in range(low, high + 1):
            if key % 12 == 0:
                y, mud = self._y(key), key == _MUD_LIMIT_KEY
                style = Qt.PenStyle.DashLine if mud else Qt.PenStyle.SolidLine
                painter.setPen(QPen(color("muted" if mud else "line"), 1, style))
                painter.drawLine(QPointF(0, y), QPointF(self.wide, y))
                painter.setPen(color("muted"))
                painter.drawText(QPointF(2, y - 4), octave_name(key))
                if mud:
                    painter.drawText(QPointF(2, y + 13), "mud")

    def _paint_leaf(self, painter: QPainter, index: int) -> None:
        rect = self._leaf_rect(index)
        chosen = self.state.selection == Selection(index)
        playing = self.state.playing == index
        painter.setBrush(color("raised"))
        painter.setPen(QPen(color("ink" if chosen else "line"), 2.4 if chosen else 1))
        painter.drawRoundedRect(rect, 5, 5)
        if playing:
            painter.setBrush(color("ink"))
            painter.setPen(Qt.PenStyle.NoPen)
            middle = QPointF(rect.center().x(), rect.y() - 1)
            painter.drawPolygon([middle, middle + QPointF(-7, -9), middle + QPointF(7, -9)])
            painter.drawRect(QRectF(rect.x() + 4, rect.y(), rect.width() - 8, 4))
        self._paint_head(painter, index, rect, playing)
        words = self.state.marks(self._document.solved.voicing_terms, index)
        if self.state.song.locked(index):
            words.insert(0, "locked")
        elif self.state.trial is not None and chosen:
            words.insert(0, "trial")
        elif self.state.song.ask(index).hold.names:
            words.insert(0, "partly kept")
        elif self._document.solved.by_ours(index) is not None and not self.state.offer:
            words.insert(0, "taste")
        if words:
            self._paint_foot_word(painter, rect, ", ".join(words))
        bass = self.state.row.bassist[index]
        if bass is not None:
            self._paint_bassist(painter, index, bass, rect)

    def _paint_return(self, painter: QPainter, place: int) -> None:
        """Behind the last leaf of a loop stands the first one again, as an outline."""
        rect = self._leaf_rect(place)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(color("muted"), 1, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(rect, 5, 5)
        self._paint_head(painter, 0, rect, playing=False)
        for tab in self._tabs(0, place):
            self._paint_tab(painter, tab)

    def _paint_head(self, painter: QPainter, index: int, rect: QRectF, playing: bool) -> None:
        slot = self.state.song.slots[index]
        symbol = pretty_symbol(slot.chord)
        box = QRectF(rect.x() - HINGE_WIDTH / 2 + 3, 2, self._pitch - 6, 22)
        painter.setPen(color("ink"))
        painter.setFont(drawn_fitting_font(symbol, 1.3, box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, symbol)
        if playing:
            return
        painter.setFont(drawn_font(0.85))
        painter.setPen(color("muted"))
        song = self.state.song
        number = "" if slot.chord is None else pretty_accidentals(song.number_of(slot.chord, slot.key))
        if slot.was is not None:
            number = f"was {slot.was.pretty}"
            painter.setFont(drawn_fitting_font(number, 0.85, box.width(), bold=False))
        painter.drawText(box.translated(0, 21), Qt.AlignmentFlag.AlignCenter, number)

    def _paint_melody(self, painter: QPainter, index: int) -> None:
        """The tune over a leaf and the hinge behind it, in time: a disc for a chord tone, a ring
        for a tension, a dash for what passes, a cross for a clash."""
        slot = self.state.song.slots[index]
        left = self._leaf_rect(index).x()
        for fit in self.state.row.melody[index]:
            share = float((fit.note.start_quarters - slot.start_quarters) / slot.quarters)
            at = QPointF(left + 7 + share * (self._pitch - 4), self._y(fit.note.key))
            ink = color("wrong" if fit.fit.kind == FitKind.CLASH else "ink")
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(color("ground"))
            painter.drawEllipse(at, 6.5, 6.5)
            painter.setPen(QPen(ink, 1.8))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if fit.fit.kind == FitKind.CHORD_TONE:
                painter.setBrush(ink)
                painter.drawEllipse(at, 3.6, 3.6)
            elif fit.fit.kind == FitKind.TENSION:
                painter.setBrush(color("ground"))
                painter.drawEllipse(at, 3.6, 3.6)
            elif fit.fit.kind == FitKind.PASSING:
                painter.drawLine(at - QPointF(4, 0), at + QPointF(4, 0))
            else:
                painter.drawLine(at - QPointF(4, 4), at + QPointF(4, 4))
                painter.drawLine(at + QPointF(-4, 4), at + QPointF(4, -4))

    def _paint_foot_word(self, painter: QPainter, rect: QRectF, word: str) -> None:
        box = QRectF(rect.x() - 10, rect.bottom() + 3, rect.width() + 20, 16)
        painter.setFont(drawn_fitting_font(word, 0.8, box.width()))
        painter.setPen(color("wrong" if "mud" in word or "rub" in word else "ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)

    def _paint_tab(self, painter: QPainter, tab: _Tab) -> None:
        """Left-hand tabs have square corners and a heavy left edge, right-hand ones are round."""
        ink = color(tab.side)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        if tab.side == "left":
            painter.drawRect(tab.rect)
            painter.setBrush(color("on_hand"))
            painter.drawRect(QRectF(tab.rect.x() + 2.5, tab.rect.y() + 3, 2, tab.rect.height() - 6))
        else:
            painter.drawRoundedRect(tab.rect, 8, 8)
        painter.setPen(color("on_hand"))
        painter.setFont(drawn_fitting_font(tab.word, 0.92, tab.rect.width() - 6, bold=True))
        painter.drawText(tab.rect, Qt.AlignmentFlag.AlignCenter, tab.word)

    def _paint_bassist(self, painter: QPainter, index: int, bass: int, rect: QRectF) -> None:
        """The bassist's note: an outline, since no hand plays it."""
        chord = self.state.song.slots[index].chord
        if chord is None:
            return
        box = QRectF(rect.x() + 5, self._y(bass) - _TAB_HEIGHT / 2, rect.width() - 10, _TAB_HEIGHT)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(color("muted"), 1, Qt.PenStyle.DashLine))
        painter.drawRect(box)
        painter.setFont(drawn_font(0.8))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"bass {chord.bass_name.pretty}")

    def _paint_hinge(self, painter: QPainter, index: int) -> None:
        report = self.state.row.hinges[index]
        rect = self._hinge_rect(index)
        if self.state.selection == Selection(index, True):
            painter.setBrush(color("surface"))
            painter.setPen(QPen(color("ink"), 2.4))
            painter.drawRoundedRect(rect.adjusted(3, 0, -3, 0), 5, 5)
        before = {(tab.side, tab.key): tab.rect for tab in self._tabs(index)}
        behind = self.state.after(index)
        after = {(tab.side, tab.key): tab.rect for tab in self._tabs(behind, index + 1)}
        for side in SIDES:
            motion = report.hand(side)
            for start, to in motion.pairs:
                self._paint_voice(painter, side, before[side, start], after[side, to], to - start)
            for key in motion.entered:
                self._paint_fade(painter, side, after[side, key].left(), after[side, key].center().y(), -1)
            for key in motion.left:
                self._paint_fade(painter, side, before[side, key].right(), before[side, key].center().y(), 1)
        better = self._document.solved.betterments
        could = better[index] if index < len(better) and not self.state.trying else None
        self._paint_hinge_foot(painter, rect, report, 0 if could is None else could.saved_st)

    def _paint_voice(self, painter: QPainter, side: str, start: QRectF, end: QRectF, step: int) -> None:
        first, last = QPointF(start.right(), start.center().y()), QPointF(end.left(), end.center().y())
        if step == 0:
            painter.setPen(QPen(color("held"), _PIN, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawLine(first, last)
            return
        path = QPainterPath(first)
        middle = (first.x() + last.x()) / 2
        path.cubicTo(QPointF(middle, first.y()), QPointF(middle, last.y()), last)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(color(side), 1.8))
        painter.drawPath(path)
        word = f"{step:+d}".replace("-", "−")
        painter.setFont(drawn_font(0.88, bold=True))
        metrics = QFontMetricsF(painter.font())
        box = QRectF(0, 0, metrics.horizontalAdvance(word) + 7, 15)
        box.moveCenter(QPointF(middle, (first.y() + last.y()) / 2))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color("ground"))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(color(side))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)

    def _paint_fade(self, painter: QPainter, side: str, x: float, y: float, direction: int) -> None:
        """A short line that fades towards the hinge: a note that comes (-1) or goes (1)."""
        ink = color(side)
        painter.setPen(Qt.PenStyle.NoPen)
        for step in range(_FADE_STEPS):  # a gradient would bring a table of 170 names with it
            ink.setAlphaF(1 - (step + 0.5) / _FADE_STEPS)
            left = x + direction * (step + (direction < 0)) * _FADE_STEP
            painter.setBrush(ink)
            painter.drawRect(QRectF(left, y - 1.25, _FADE_STEP, 2.5))

    def _paint_hinge_foot(
        self, painter: QPainter, rect: QRectF, report: HingeReport, could_save: int
    ) -> None:
        """Motion, notes held, largest move; or what the motion could be with another voicing."""
        top = rect.bottom() + 1
        painter.setPen(color("ink"))
        painter.setFont(drawn_font(1.35, bold=True))
        wide = rect.adjusted(-14, 0, 14, 0)
        painter.drawText(
            QRectF(wide.x(), top, wide.width(), 24), Qt.AlignmentFlag.AlignCenter, str(report.motion_st)
        )
        painter.setFont(drawn_font(0.78))
        painter.setPen(color("muted"))
        last = f"could be {report.motion_st - could_save}" if could_save else f"largest {report.largest_st}"
        for row, words in enumerate((f"{report.held} held", last)):
            box = QRectF(wide.x(), top + 24 + 15 * row, wide.width(), 15)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    # --- mouse ---

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = self.place_in(event)
        tab = self._tab_at(place)
        self._drag = None if tab is None else _Drag(tab, place.y(), tab.key)
        for index in range(self._first, len(self.state.song.slots)):
            if self._leaf_rect(index).adjusted(0, -_HEAD, 0, _FOOT).contains(place):
                self.chosen.emit(Selection(index))
                return
            if index < len(self.state.row.hinges) and self._hinge_rect(index).adjusted(
                0, 0, 0, _FOOT
            ).contains(place):
                self.chosen.emit(Selection(index, True))
                return

    def _tab_at(self, place: QPointF) -> _Tab | None:
        """The note of the chosen leaf at a place."""
        selection = self.state.selection
        if selection.on_hinge or selection.index >= len(self.state.row.held):
            return None
        return next((tab for tab in self._tabs(selection.index) if tab.rect.contains(place)), None)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """A note of the chosen leaf goes to the nearest chord tone where the pointer is; it is heard
        there."""
        drag = self._drag
        if drag is None or self.state.selection.on_hinge:
            return
        to = self._tone_at(drag, self.place_in(event).y())
        if to != drag.to:
            drag.to = to
            drag.breaks = to != drag.tab.key and self.breaks(drag.tab.key, to)
            self.over.emit(drag.tab.key, to)
            self.update()

    def _tone_at(self, drag: _Drag, y: float) -> int:
        low, high = self.state.key_range()
        room = self._leaf_rect(self._first).height() - 20
        steps = round((drag.start - y) / room * max(1, high - low))
        chord = self.state.song.slots[self.state.selection.index].chord
        return nearest_tone(drag.tab.key, steps, chord) if steps and chord is not None else drag.tab.key

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """There it stays."""
        drag, self._drag = self._drag, None
        if drag is None or self.state.selection.on_hinge:
            return
        self.update()
        to = self._tone_at(drag, self.place_in(event).y())
        if to != drag.tab.key:
            self.dragged.emit(drag.tab.key, to)

    def _paint_drag(self, painter: QPainter, drag: _Drag) -> None:
        """Where a note would go: an outline, dashed where it would break a rule."""
        ink = color("wrong" if drag.breaks else "ink")
        painter.setPen(QPen(ink, 2, Qt.PenStyle.DashLine if drag.breaks else Qt.PenStyle.SolidLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        rect = drag.tab.rect.translated(0, self._y(drag.to) - self._y(drag.tab.key))
        painter.drawRoundedRect(rect.adjusted(-2, -2, 2, 2), 4, 4)

    def wheelEvent(self, event: QWheelEvent) -> None:
        delta = event.angleDelta().x() or event.angleDelta().y()
        last = len(self.state.song.slots) + self.state.song.arrangement.loop - self.leaves_in_view()
        last = max(0, last)
        self._first = max(0, min(last, self._first - (1 if delta > 0 else -1)))
        self.update()


class OverviewView(Painted):
    """The folded row: each section a strip, each hinge a mark as high as its motion; above them the way of
    the top line, which can be dragged: its middle up to an arc, down to level, an end up or down. ``shaped``
    carries a slot of the section, and the way."""

    enlarged = True
    chosen = Signal(object)
    shaped = Signal(int, str)

    def __init__(self, state: HingesState, row_view: RowView, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.state, self._row_view = state, row_view
        self._drag: tuple[int, float, QPointF] | None = (
            None  # a section's slot, the share of it, where it began
        )
        self._way = ""  #: where the drag leads to
        self.setAccessibleName("The whole song, each change as high as its motion")
        self.setToolTip(
            "The whole song. Each mark is a change: the higher, the more half steps move. Click to go there. "
            "The line above is the way of the top line: drag its middle or an end up or down (W too)."
        )

    def fit_text(self) -> None:
        self.setFixedHeight(scaled(68))

    def _x(self, place: float) -> float:
        return 8 + place * (self.wide - 16) / max(1, len(self.state.song.slots))

    def paint(self, painter: QPainter, _: QRect) -> None:
        slots, reports = self.state.song.slots, self.state.row.hinges
        if not slots or self.state.empty_words:
            return
        self._paint_window(painter)
        base = self.high - 6
        most = max((report.motion_st for report in reports), default=1) or 1
        painter.setPen(QPen(color("line"), 1))
        painter.drawLine(QPointF(8, base), QPointF(self.wide - 8, base))
        marks = [
            QLineF(self._x(index + 1), base, self._x(index + 1), base - 3 - 25 * report.motion_st / most)
            for index, report in enumerate(reports)
        ]
        painter.setPen(QPen(color("muted"), 2.6))
        painter.drawLines(marks)
        chosen = self.state.selection
        if chosen.on_hinge and chosen.index < len(marks):
            painter.setPen(QPen(color("ink"), 4))
            painter.drawLine(marks[chosen.index])
        self._paint_sections(painter)
        for first, last in self.sections():
            self._paint_way(painter, first, last)

    def sections(self) -> list[tuple[int, int]]:
        """First slot of each round of a section, and the one behind its last."""
        starts = sorted({0, *self.state.song.section_starts})
        return list(pairwise([*starts, len(self.state.song.slots)]))

    def way_at(self, slot: int, share: float) -> QPointF:
        """Where the top line's way is drawn, at a share of the section that begins with a slot."""
        first, last = next(one for one in self.sections() if one[0] <= slot < one[1])
        way = self._way if self._drag is not None and self._drag[0] == first else self.state.top_way(first)
        high = {"arc": 1 - (2 * share - 1) ** 2, "rising": share, "falling": 1 - share}.get(way, 0.5)
        left, right = self._x(first) + 6, self._x(last) - 6
        return QPointF(left + share * (right - left), _WAY_TOP + (1 - high) * _WAY_HIGH)

    def _paint_way(self, painter: QPainter, first: int, last: int) -> None:
        moving = self._drag is not None and self._drag[0] == first
        sings = moving or self.state.top_way(first) in _WAYS
        painter.setPen(QPen(color("ink" if moving else "muted"), 1.6 if moving else 1.2,
                            Qt.PenStyle.SolidLine if sings else Qt.PenStyle.DotLine))  # fmt: skip
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._x(last) - self._x(first) > _LEAST_WAY:
            painter.drawPolyline(QPolygonF([self.way_at(first, k / 12) for k in range(13)]))

    def _paint_window(self, painter: QPainter) -> None:
        """What the row below shows."""
        first = self._row_view.first
        last = min(len(self.state.song.slots), first + self._row_view.leaves_in_view())
        painter.setPen(QPen(color("line"), 1))
        painter.setBrush(color("raised"))
        painter.drawRoundedRect(
            QRectF(self._x(first), 19, self._x(last) - self._x(first), self.high - 21), 4, 4
        )

    def _paint_sections(self, painter: QPainter) -> None:
        starts = sorted(self.state.song.section_starts.items())
        painter.setFont(drawn_font(0.82))
        painter.setPen(color("muted"))
        for (index, name), after in zip(starts, [*starts[1:], (len(self.state.song.slots), "")], strict=True):
            box = QRectF(self._x(index) + 3, 1, self._x(after[0]) - self._x(index) - 4, 17)
            if index:
                painter.drawLine(QPointF(self._x(index), 3), QPointF(self._x(index), self.high - 6))
            words = QFontMetricsF(painter.font()).elidedText(name, Qt.TextElideMode.ElideRight, box.width())
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)

    def _slot_at(self, x: float) -> int:
        count = len(self.state.song.slots)
        return max(0, min(count - 1, int((x - 8) / max(1, self.wide - 16) * count)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self.state.song.slots:
            return
        at = self.place_in(event)
        slot = self._slot_at(at.x())
        self.chosen.emit(Selection(slot))
        first, last = next(one for one in self.sections() if one[0] <= slot < one[1])
        share = (at.x() - self._x(first)) / max(1.0, self._x(last) - self._x(first))
        if _WAY_TOP - 6 <= at.y() <= _WAY_TOP + _WAY_HIGH + 6:
            self._drag, self._way = (first, share, at), self.state.top_way(first)
            self.grabKeyboard()  # Escape calls it off; else the row has the keys

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            return
        first, share, begun = self._drag
        up = begun.y() - self.place_in(event).y()
        third = min(2, int(share * 3))
        ways = {1: ("falling", "arc", "rising"), -1: ("rising", "flat", "falling")}
        moved = abs(up) > _WAY_STILL
        self._way = ways[1 if up > 0 else -1][third] if moved else self.state.top_way(first)
        self.update()

    def call_off(self) -> None:
        super().call_off()
        self.releaseKeyboard()

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        drag = self._drag
        if drag is not None:
            self.call_off()
            if self._way != self.state.top_way(drag[0]):
                self.shaped.emit(drag[0], self._way)
