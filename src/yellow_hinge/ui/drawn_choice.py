"""A choice among a few things of which each is drawn: a row of pictures instead of a box with a list."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from PySide6.QtCore import QEvent, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPen

from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.theme import color, cut, drawn_font, scaled

#: Draws a value into a box of the drawing.
Draw = Callable[[QPainter, QRectF, Any], None]
_STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Down: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: 1}
_TAKES = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
#: Heights in pixels: of the pictures, and of a line of words; the room between words and pictures.
_HIGH, _LINE, _GAP = 28.0, 16.0, 8.0
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter


class DrawnChoice(Painted):
    """Letting the mouse go on a picture takes it, and so do the arrows with Return; ``activated`` carries its
    place, Escape calls it off. What it is for and what is chosen stand in words beside the pictures, or
    ``above`` them; the words follow the mouse and the arrows. ``width``: of a picture, in pixels."""

    enlarged = True
    activated = Signal(int)

    def __init__(self, name: str, draw: Draw, tip: str, width: float, above: bool = False) -> None:
        super().__init__()
        self.name, self._draw, self._tip, self._width, self._above = name, draw, tip, width, above
        self.rows: list[tuple[str, Any]] = []
        self.chosen = 0
        self._pressed = False
        self._walked: int | None = None  #: what the mouse or the arrows are at
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setToolTip(tip)

    def offer(self, choices: Iterable[tuple[str, Any]]) -> None:
        """Other things to choose from, (words, value) each."""
        self.rows = list(choices)
        self.chosen = 0
        self._say()

    def choose(self, value: object) -> None:
        """The one with a value; the first where none has it."""
        self.chosen = next((place for place, (_, own) in enumerate(self.rows) if own == value), 0)
        self._say()

    def currentData(self) -> Any:
        """The value of what is chosen."""
        return self.rows[self.chosen][1]

    def _say(self) -> None:
        words = self.rows[self.chosen][0]
        self.setAccessibleName(f"{self.name}: {words}")
        self.say_chosen(words)
        self.update()

    def _walk_to(self, place: int | None) -> None:
        if place != self._walked:
            self._walked = place
            self.setToolTip(self._tip if place is None else f"{self.rows[place][0]}\n{self._tip}")
            self.update()

    # --- its room ---

    def fit_text(self) -> None:
        self.setFixedHeight(scaled(_HIGH + 2 + (_LINE if self._above else 4)))
        self.setMinimumWidth(scaled(self._pictures_wide + 2))

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    @property
    def _pictures_wide(self) -> float:
        return len(self.rows) * self._width

    def box_of(self, place: int) -> QRectF:
        """Where a picture stands."""
        left = 0.0 if self._above else self.wide - self._pictures_wide
        return QRectF(left + place * self._width + 1, self.high - _HIGH - 1, self._width - 2, _HIGH)

    def _hit(self, event: QMouseEvent) -> int | None:
        at = self.place_in(event)
        return next((place for place in range(len(self.rows)) if self.box_of(place).contains(at)), None)

    # --- choosing ---

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._walk_to(self._hit(event))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed, place = self._pressed, False, self._hit(event)
        if pressed and place is not None:
            self._take(place)

    def leaveEvent(self, _: QEvent) -> None:
        self._walk_to(None)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._walk_to(None)
        super().focusOutEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = self._hit(event) is not None and event.button() == Qt.MouseButton.LeftButton

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, last = Qt.Key(event.key()), len(self.rows) - 1
        at = self.chosen if self._walked is None else self._walked
        if key in _STEPS:
            self._walk_to(max(0, min(last, at + _STEPS[key])))
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self._walk_to(0 if key == Qt.Key.Key_Home else last)
        elif key in _TAKES:
            self._take(at)
        elif key == Qt.Key.Key_Escape and (self._pressed or self._walked is not None):
            self._pressed = False
            self._walk_to(None)
        else:
            super().keyPressEvent(event)

    def _take(self, place: int) -> None:
        self.chosen = place
        self._walk_to(None)
        self._say()
        self.activated.emit(place)

    # --- drawing ---

    def paint(self, painter: QPainter, _: QRect) -> None:
        words = self.rows[self.chosen if self._walked is None else self._walked][0]
        painter.setFont(drawn_font(0.9))
        name_wide = painter.fontMetrics().horizontalAdvance(self.name)
        beside = self.wide if self._above else self.wide - self._pictures_wide - _GAP
        painter.setPen(color("muted" if self._above else "ink"))
        painter.drawText(QRectF(0, 0, beside, _LINE), _LEFT, cut(painter, self.name, beside))
        if self._above:
            said = QRectF(name_wide + _GAP, 0, self.wide - name_wide - _GAP, _LINE)
            painter.setPen(color("ink"))
        else:
            said = QRectF(0, _LINE, beside, _LINE)
            painter.setPen(color("muted"))
            painter.setFont(drawn_font(0.82))
        painter.drawText(said, _LEFT, cut(painter, words, said.width()))
        for place, (_words, value) in enumerate(self.rows):
            self.paint_one(painter, place, value)

    def paint_one(self, painter: QPainter, place: int, value: Any, /) -> None:
        """A picture in its frame: the chosen one's is strong, the one that is walked to dashed."""
        box = self.box_of(place)
        chosen, walked = place == self.chosen, place == self._walked
        painter.setBrush(color("surface" if chosen else "raised"))
        style = Qt.PenStyle.DashLine if walked and not chosen else Qt.PenStyle.SolidLine
        painter.setPen(QPen(color("ink" if chosen or walked else "line"), 2 if chosen else 1, style))
        painter.drawRoundedRect(box, 3, 3)
        self._draw(painter, box.adjusted(4, 4, -4, -4), value)


def bar(painter: QPainter, box: QRectF, role: str = "ink", follows: bool = False) -> None:
    """A stroke or a note in such a picture: solid, or thin where it ``follows`` something else."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color("muted" if follows else role))
    painter.drawRect(QRectF(box.x(), box.center().y() - 0.5, box.width(), 1) if follows else box)
