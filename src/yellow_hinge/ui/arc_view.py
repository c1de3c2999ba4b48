"""The arc: a line over the form of a song that says how full each section is, drawn by mouse or keys."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen

from yellow_hinge.rhythm.fullness import LEAST, LEVELS, MOST
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.takes.arc import laid_arc, levels_of
from yellow_hinge.tasks.takes.desk import rounds_of
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.theme import color, cut, drawn_font, scaled

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

#: Heights in pixels: all of it, above the line, of the names below; and the width of the words at the left.
HEIGHT, _ABOVE, _NAMES, _LEFT = 68.0, 6.0, 16.0, 76.0
#: What a section has on a line that nobody has drawn yet.
_MIDDLE = 3


def lay_arc(document: Document, levels: tuple[int, ...]) -> None:
    """The arc as it was drawn: a take for each of its levels, voiced together, one step to undo."""
    laid = laid_arc(document.song, levels, document.library)
    document.apply(Edit(laid, "Arc " + " ".join(map(str, levels))))


class ArcView(Painted):
    """``drawn`` carries a level for each round, in playing order: when the mouse lets go, or on Return."""

    enlarged = True
    drawn = Signal(tuple)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(
            "How full each section is, from 1 (bare) to 5: drag the line, or walk with the arrows, set 1 to "
            "5, and Return. Texture, notes, register and touch follow; a take for each level"
        )
        self._names: tuple[str, ...] = ()
        self._said: tuple[int | None, ...] = ()
        self._levels: list[int] = []
        self._drawing = False
        self.chosen = 0
        self.fit_text()

    def fit_text(self) -> None:
        self.setFixedHeight(scaled(HEIGHT))

    def sizeHint(self) -> QSize:
        return QSize(scaled(360), scaled(HEIGHT))

    def take(self, song: Song) -> None:
        """The song's form, and the arc that it has; what is being drawn is given up where it is another."""
        rounds = rounds_of(song)
        self._names = tuple(
            (take_round.section or "Song") + (f" {take_round.turn}" if take_round.turn > 1 else "")
            for take_round in rounds
        )
        said = levels_of(song)
        if said != self._said or len(self._levels) != len(said):
            self._said = said
            self._levels = [_MIDDLE if level is None else level for level in said]
            self._drawing = False
        self.chosen = max(0, min(len(rounds) - 1, self.chosen))
        self._say()
        self.update()

    @property
    def levels(self) -> tuple[int, ...]:
        """The line as it is drawn now."""
        return tuple(self._levels)

    def _say(self) -> None:
        if not self._names:
            self.setAccessibleName("The arc of the song: there are no chords yet")
            return
        level = self._levels[self.chosen]
        words = f"{self._names[self.chosen]}, {level} of {MOST}: {LEVELS[level].words}"
        drawn = "" if self._set or self._drawing else ", not drawn yet"
        self.setAccessibleName(f"The arc of the song{drawn}. {words}")

    @property
    def _set(self) -> bool:
        return any(level is not None for level in self._said)

    # --- drawing it ---

    def place_of(self, place: int, level: int) -> QPointF:
        """The point of a round and a level, in the drawing's pixels."""
        width = (self.wide - _LEFT) / max(1, len(self._names))
        return QPointF(_LEFT + (place + 0.5) * width, self._y(level))

    def _y(self, level: int) -> float:
        low = self.high - _NAMES - 6
        return low - (level - LEAST) * (low - _ABOVE) / (MOST - LEAST)

    def _hit(self, point: QPointF) -> tuple[int, int]:
        width = (self.wide - _LEFT) / max(1, len(self._names))
        place = max(0, min(len(self._names) - 1, int((point.x() - _LEFT) // width)))
        level = min(LEVELS, key=lambda one: abs(self._y(one) - point.y()))
        return place, level

    def _set_level(self, place: int, level: int) -> None:
        self.chosen, self._drawing = place, True
        self._levels[place] = max(LEAST, min(MOST, level))
        self._say()
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._names and event.button() == Qt.MouseButton.LeftButton:
            self._set_level(*self._hit(self.place_in(event)))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drawing and event.buttons() & Qt.MouseButton.LeftButton:
            self._set_level(*self._hit(self.place_in(event)))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drawing and event.button() == Qt.MouseButton.LeftButton:
            self._finish()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        keys = Qt.Key
        steps = {keys.Key_Left: (-1, 0), keys.Key_Right: (1, 0), keys.Key_Up: (0, 1), keys.Key_Down: (0, -1)}
        plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier)
        if not self._names or not plain:
            event.ignore()
        elif key in steps:
            aside, up = steps[key]
            self.chosen = max(0, min(len(self._names) - 1, self.chosen + aside))
            if up:
                self._set_level(self.chosen, self._levels[self.chosen] + up)
            self._say()
            self.update()
        elif event.text() in map(str, LEVELS):
            self._set_level(self.chosen, int(event.text()))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._finish()
        elif key == Qt.Key.Key_Escape and self._drawing:
            self._levels = [_MIDDLE if level is None else level for level in self._said]
            self._drawing = False
            self.update()
        else:
            event.ignore()

    def _finish(self) -> None:
        self._drawing = False
        if self.levels != self._said:
            self.drawn.emit(self.levels)

    # --- painting ---

    def paint(self, painter: QPainter, _: QRect) -> None:
        self._paint_scale(painter)
        if self._names:
            self._paint_line(painter)

    def _paint_scale(self, painter: QPainter) -> None:
        painter.setFont(drawn_font(0.72))
        for level, fullness in LEVELS.items():
            y = self._y(level)
            painter.setPen(QPen(color("line"), 1))
            painter.drawLine(QPointF(_LEFT, y), QPointF(self.wide - 4, y))
            if level in (LEAST, _MIDDLE, MOST):
                painter.setPen(color("muted"))
                box = QRectF(0, y - 8, _LEFT - 8, 16)
                flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                painter.drawText(box, flags, cut(painter, f"{level} {fullness.words}", _LEFT - 8))

    def _paint_line(self, painter: QPainter) -> None:
        faint = not (self._set or self._drawing)
        style = Qt.PenStyle.DashLine if faint else Qt.PenStyle.SolidLine
        points = [self.place_of(place, level) for place, level in enumerate(self._levels)]
        painter.setPen(QPen(color("muted" if faint else "ink"), 2, style))
        for point_f, other in pairwise(points):
            painter.drawLine(point_f, other)
        width = (self.wide - _LEFT) / len(points)
        for place, point in enumerate(points):
            here = place == self.chosen and self.hasFocus()
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(color("muted" if faint else "ink"))
            radius = 6.0 if here else 4.0
            painter.drawEllipse(point, radius, radius)
            painter.setPen(color("ink" if here else "muted"))
            painter.setFont(drawn_font(0.75, bold=here))
            box = QRectF(point.x() - width / 2 + 2, self.high - _NAMES, width - 4, _NAMES)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, cut(painter, self._names[place], width - 4))
