"""What the Practise page paints: the two leaves of a hinge, counts, the map of sureness, weeks."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFont, QFontMetricsF, QMouseEvent, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from yellow_hinge.motion.hinge import SIDES, HingeReport
from yellow_hinge.practice.history import Week
from yellow_hinge.practice.piece import Stand
from yellow_hinge.theory.pitch import Pitch, pitch_for_key
from yellow_hinge.theory.pretty import counted
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.theme import (
    color,
    cut,
    drawn_fitting_font,
    drawn_font,
    fitting_font,
    font,
    scaled,
    text_scale,
)

_LEAF_SHARE, _TAB = 0.27, 40.0
#: Room for a line at the head of a leaf, in pixels.
_LINE_HEAD = 18.0
#: Below this sureness a change is marked as weak, with a notch as well as a colour.
WEAK = 0.75


class LeavesView(Painted):
    """The two leaves of the hinge at hand, large enough to be read from a music stand."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._pair: tuple[Stand, Stand] | None = None
        self._report: HingeReport | None = None
        self._second_wanted = False
        self._sides: tuple[str, ...] = SIDES
        self._wrong: frozenset[int] = frozenset()
        self._words = ""
        self.fit_text()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("The two chords of the change at hand")
        self.setToolTip(
            "Where you are and where you go. Thick yellow: the note stays. A curve moves by its half steps. "
            "The leaf with the heavy edge is wanted now."
        )

    def fit_text(self) -> None:
        """Large text needs more than a small window has; the page is scrolled then."""
        self.setMinimumHeight(150 if text_scale() == 1 else scaled(230))

    def sizeHint(self) -> QSize:
        return QSize(800, 300)

    def show_hinge(
        self,
        pair: tuple[Stand, Stand],
        report: HingeReport,
        second_wanted: bool,
        sides: tuple[str, ...],
        wrong: frozenset[int],
    ) -> None:
        """Two stands and the change between them; ``wrong`` are wanted keys that were not played."""
        shown = (pair, second_wanted, sides, wrong, "")
        if shown != (self._pair, self._second_wanted, self._sides, self._wrong, self._words):
            self._pair, self._second_wanted, self._sides, self._wrong, self._words = shown
            self._report = report
            self.setAccessibleDescription(report.words)
            self.update()

    def show_words(self, words: str) -> None:
        """Words instead of leaves."""
        if self._pair is not None or words != self._words:
            self._pair, self._words = None, words
            self.setAccessibleDescription(words)
            self.update()

    def paint(self, painter: QPainter, _: QRect) -> None:
        if self._pair is None or self._report is None:
            painter.setFont(font(1.6))
            painter.setPen(color("muted"))
            flags = int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap)
            painter.drawText(self.rect().adjusted(30, 0, -30, 0), flags, self._words)
        else:
            self._paint(painter, self._pair, self._report)

    def _paint(self, painter: QPainter, pair: tuple[Stand, Stand], report: HingeReport) -> None:
        rows = self._rows(report)
        width = self.width() * _LEAF_SHARE
        boxes = (
            QRectF(self.width() * 0.1, 4, width, self.height() - 8),
            QRectF(self.width() * 0.9 - width, 4, width, self.height() - 8),
        )
        for place, box in enumerate(boxes):
            wanted = bool(place) == self._second_wanted
            painter.setBrush(color("raised"))
            painter.setPen(QPen(color("ink" if wanted else "line"), 3 if wanted else 1))
            painter.drawRoundedRect(box, 8, 8)
        head = _LINE_HEAD if any(one.line for one in pair) else 0.0
        step = (boxes[0].height() - 16 - head) / max(1, len(rows))
        for stand, box in zip(pair, boxes, strict=True):
            self._paint_line(painter, stand, box)
        for number, (side, start, to) in enumerate(rows):
            y = boxes[0].bottom() - 8 - step * (number + 0.5)
            self._paint_voice(painter, boxes, y, side, (start, to), height=step)
            for box, stand, key in zip(boxes, pair, (start, to), strict=True):
                if key is not None:
                    tab = QRectF(
                        box.x() + 14, y - min(_TAB, step * 0.8) / 2, box.width() - 28, min(_TAB, step * 0.8)
                    )
                    self._paint_tab(painter, tab, side, stand, key)

    def _paint_line(self, painter: QPainter, stand: Stand, box: QRectF) -> None:
        """What a hand plays over the chord in a line of its own, at the head of the leaf."""
        strokes = [stroke for stroke in stand.line if stroke.hand in self._sides]
        if not strokes:
            return
        flats = stand.held.chord is not None and stand.held.chord.root.alter < 0
        names = ("+".join(pitch_for_key(key, flats).pretty for key in stroke.keys) for stroke in strokes)
        words = "line: " + "  ".join(names)
        painter.setFont(drawn_fitting_font(words, 0.95, box.width() - 16))
        painter.setPen(color(strokes[0].hand))
        head = QRectF(box.x() + 8, box.y() + 2, box.width() - 16, 20)
        painter.drawText(head, Qt.AlignmentFlag.AlignCenter, cut(painter, words, box.width() - 16))

    def _rows(self, report: HingeReport) -> list[tuple[str, int | None, int | None]]:
        """A row for each voice, low to high, of the hands that play."""
        rows: list[tuple[str, int | None, int | None]] = []
        for side in SIDES:
            motion = report.hand(side)
            own: list[tuple[str, int | None, int | None]] = [(side, start, to) for start, to in motion.pairs]
            own += [(side, None, key) for key in motion.entered]
            own += [(side, key, None) for key in motion.left]
            own.sort(key=lambda row: min(key for key in row[1:] if isinstance(key, int)))
            rows += own if side in self._sides else []
        return rows

    def _paint_voice(
        self,
        painter: QPainter,
        boxes: tuple[QRectF, QRectF],
        y: float,
        side: str,
        ends: tuple[int | None, int | None],
        *,
        height: float,
    ) -> None:
        start, to = ends
        left, right = boxes[0].right() - 14, boxes[1].left() + 14
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if start is not None and start == to:
            painter.setPen(QPen(color("held"), 11, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            return
        ink = color(side)
        middle = QRectF((left + right) / 2 - 46, y - 15, 92, 30)
        if start is None or to is None:
            painter.setPen(QPen(ink, 2, Qt.PenStyle.DotLine))
            x = right if start is None else left
            painter.drawLine(QPointF(x, y), QPointF(x + (-60 if start is None else 60), y))
            words = "comes in" if start is None else "let go"
        else:
            painter.setPen(QPen(ink, 2.6))
            bend = -9.0 if to > start else 9.0
            path = QPainterPath(QPointF(left, y))
            path.quadTo(QPointF((left + right) / 2, y + bend), QPointF(right, y))
            painter.drawPath(path)
            words = f"{to - start:+d}".replace("-", "−")
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color("ground"))
        painter.drawRect(middle)
        painter.setPen(ink)
        painter.setFont(_row_font(words, middle.width(), height))
        painter.drawText(middle, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_tab(self, painter: QPainter, tab: QRectF, side: str, stand: Stand, key: int) -> None:
        wrong = key in self._wrong
        painter.setPen(QPen(color("wrong"), 4) if wrong else Qt.PenStyle.NoPen)
        painter.setBrush(color(side))
        radius = 2 if side == "left" else tab.height() / 2
        painter.drawRoundedRect(tab, radius, radius)
        name = Pitch(key, stand.held.name(side, key)).pretty
        painter.setPen(color("on_hand"))
        finger = stand.held.finger(side, key)
        words = f"{name}   {finger.removesuffix(' finger')}"
        painter.setFont(_row_font(words, tab.width() - 12, tab.height()))
        painter.drawText(tab, Qt.AlignmentFlag.AlignCenter, words)


def _row_font(words: str, width: float, height: float) -> QFont:
    """The face of a voice's row: large, and no higher than the row."""
    lines = height / QFontMetricsF(drawn_font()).height()
    return drawn_fitting_font(words, min(1.5 * text_scale(), lines), width)


class CountsView(Painted):
    """The counts of the chord at hand; the one that sounds is filled, those of a count-in are outlined."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._count, self._at, self._before = 0, 0, False
        self.setFixedHeight(scaled(44))
        self.setAccessibleName("Counts")
        self.setToolTip("What one counts over the chord at hand; a bar is counted in before each round")

    def show_counts(self, count: int, at: int = 0, count_in: bool = False) -> None:
        """So many counts; ``at`` sounds now (0: none)."""
        if (count, at, count_in) != (self._count, self._at, self._before):
            self._count, self._at, self._before = count, at, count_in
            self.update()

    def paint(self, painter: QPainter, _: QRect) -> None:
        size = float(min(self.height() - 6, self.width() / max(1, self._count) - 8))
        left = (self.width() - self._count * (size + 12)) / 2
        for number in range(1, self._count + 1):
            box = QRectF(left + (number - 1) * (size + 12), 3, size, size)
            now = number == self._at
            painter.setPen(QPen(color("ink" if now else "line"), 2))
            painter.setBrush(color("ink") if now and not self._before else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(box)
            painter.setPen(color("surface" if now and not self._before else "ink"))
            painter.setFont(fitting_font(str(number), 1.5, size - 8))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(number))


class MapView(Painted):
    """The changes of the song, each as high as it is sure; weak ones are marked, untried ones hollow."""

    chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bars: Sequence[tuple[float, int, str]] = ()
        self._at = 0
        self._sections: Sequence[tuple[int, str]] = ()
        self.setMinimumHeight(120)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Map of the changes by how sure they are")

    def show_map(
        self, bars: Sequence[tuple[float, int, str]], at: int, sections: Sequence[tuple[int, str]]
    ) -> None:
        """Sureness, tries and words for each change; which is chosen; where sections begin."""
        self._bars, self._at, self._sections = bars, at, sections
        here = bars[at] if at < len(bars) else None
        self.setToolTip(
            "A bar for each change, as high as it is sure: full height is never a slip. Hollow: not tried "
            "yet, guessed from how it is built. Red with a notch: weak. Click one to look at it."
        )
        self.setAccessibleDescription("" if here is None else f"{here[2]}: {here[0]:.0%} sure")
        self.update()

    def _width(self) -> float:
        return (self.width() - 8) / max(1, len(self._bars))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = int((event.position().x() - 4) / self._width())
        if 0 <= place < len(self._bars):
            self.chosen.emit(place)

    def paint(self, painter: QPainter, _: QRect) -> None:
        if not self._bars:
            painter.setPen(color("muted"))
            flags = int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap)
            painter.drawText(self.rect(), flags, "No changes yet")
            return
        foot, width = scaled(20), self._width()
        room = self.height() - foot - 6
        for place, (sure, tries, _words) in enumerate(self._bars):
            if sure < 0:
                continue
            box = QRectF(4 + place * width + width * 0.15, 3 + room * (1 - sure), width * 0.7, room * sure)
            weak = sure < WEAK
            ink = color("wrong" if weak else "ink")
            painter.setPen(QPen(ink, 1.4))
            painter.setBrush(ink if tries else Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            if weak:
                painter.drawLine(QPointF(box.x() - 1, box.y() - 3), QPointF(box.right() + 1, box.y() - 3))
            if place == self._at:
                painter.setPen(QPen(color("ink"), 2))
                painter.drawLine(QPointF(box.x() - 2, 5 + room), QPointF(box.right() + 2, 5 + room))
        self._paint_sections(painter, width)

    def _paint_sections(self, painter: QPainter, width: float) -> None:
        painter.setFont(font(0.8))
        painter.setPen(color("muted"))
        taken = 0.0
        for place, name in self._sections:
            x = 4 + place * width
            if x >= taken:
                painter.drawText(QPointF(x, self.height() - 5), name)
                taken = x + painter.fontMetrics().horizontalAdvance(name) + 8


class WeeksView(Painted):
    """Weeks side by side: minutes or tries as bars, the share of clean tries as a line, and the tempo."""

    def __init__(self, of: str, minutes: bool = False, parent: QWidget | None = None) -> None:
        """``minutes``: the bars are minutes, and not tries."""
        super().__init__(parent)
        self._minutes = minutes
        self._weeks: Sequence[Week] = ()
        self.setMinimumHeight(120)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(f"{of}, week by week")
        self.setToolTip(
            f"Bars: {'minutes' if minutes else 'tries'} in a week. Line with dots: the share that was clean, "
            "full height is all of them. Below: the Monday, and the fastest clean tempo in beats a minute."
        )

    def show_weeks(self, weeks: Sequence[Week]) -> None:
        self._weeks = weeks
        said = "; ".join(
            f"{week.minutes:.0f} minutes, {counted(week.tries, 'try', 'tries')}, {week.clean:.0%} clean, "
            f"up to {week.tempo} a minute"
            for week in weeks
        )
        self.setAccessibleDescription(said)
        self.update()

    def _bar(self, week: Week) -> int:
        return round(week.minutes) if self._minutes else week.tries

    def paint(self, painter: QPainter, _: QRect) -> None:
        foot = scaled(36)
        room = self.height() - foot - scaled(18)
        most = max(map(self._bar, self._weeks), default=0) or 1
        width = self.width() / max(4, len(self._weeks))
        dots = []
        for place, week in enumerate(self._weeks):
            x = place * width
            high = room * self._bar(week) / most
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(color("line"))
            painter.drawRect(QRectF(x + width * 0.2, scaled(18) + room - high, width * 0.6, high))
            painter.setPen(color("ink"))
            painter.setFont(font(0.8))
            above = QRectF(x, scaled(18) + room - high - scaled(17), width, scaled(16))
            painter.drawText(above, Qt.AlignmentFlag.AlignCenter, str(self._bar(week)))
            painter.setPen(color("muted"))
            day = QRectF(x, self.height() - foot, width, foot / 2)
            painter.drawText(day, Qt.AlignmentFlag.AlignCenter, f"{week.monday.day}.{week.monday.month}.")
            if week.tempo:
                painter.drawText(day.translated(0, foot / 2), Qt.AlignmentFlag.AlignCenter, f"♩ {week.tempo}")
            if week.tries:
                dots.append(QPointF(x + width / 2, scaled(18) + room * (1 - week.clean)))
        painter.setPen(QPen(color("ink"), 2))
        painter.setBrush(color("ink"))
        painter.drawPolyline(dots)
        for dot in dots:
            painter.drawEllipse(dot, 3.5, 3.5)
