"""A stretch of keyboard: the big one under the leaves and the small ones in lists."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from yellow_hinge.hands.geometry import STANDARD_OCTAVE_MM, is_black, key_centre_mm
from yellow_hinge.hands.profile import Hand
from yellow_hinge.theory.pitch import octave_name
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.keyboard_values import Ghost, KeyMark
from yellow_hinge.ui.theme import color, drawn_fitting_font, drawn_font, scaled, text_scale, worn

_WHITE_MM = STANDARD_OCTAVE_MM / 7
_BLACK_WIDTH = 0.58
_BLACK_HEIGHT = 0.62


def white_bounds(low: int, high: int) -> tuple[int, int]:
    """Widen a range so that it begins and ends on white keys."""
    return (low - 1 if is_black(low) else low), (high + 1 if is_black(high) else high)


def key_rect(key: int, low: int, high: int, area: QRectF) -> QRectF:
    """Where a key lies when ``low``..``high`` (white keys) fill ``area``."""
    left = key_centre_mm(low) - _WHITE_MM / 2
    scale = area.width() / (key_centre_mm(high) + _WHITE_MM / 2 - left)
    centre = area.x() + (key_centre_mm(key) - left) * scale
    if is_black(key):
        width = _WHITE_MM * _BLACK_WIDTH * scale
        return QRectF(centre - width / 2, area.y(), width, area.height() * _BLACK_HEIGHT)
    width = _WHITE_MM * scale
    return QRectF(centre - width / 2, area.y(), width, area.height())


def paint_keys(
    painter: QPainter,
    area: QRectF,
    keys: tuple[int, int],
    marks: Mapping[int, KeyMark],
) -> None:
    """Draw the keys of a range; marked ones are filled in their hand's colour."""
    low, high = keys
    order = [k for k in range(low, high + 1) if not is_black(k)]
    order += [k for k in range(low, high + 1) if is_black(k)]
    for key in order:
        rect = key_rect(key, low, high, area)
        mark = marks.get(key)
        fill = color("key_black" if is_black(key) else "key_white")
        if mark is not None:
            fill = color("muted" if mark.side == "bass" else mark.side)
        painter.setPen(QPen(color("muted"), 0.8))
        painter.setBrush(fill)
        painter.drawRect(rect)


def paint_held(painter: QPainter, area: QRectF, bounds: tuple[int, int], held: Sequence[int]) -> None:
    """A bar at the front of the keys that a player holds down now."""
    painter.setPen(QPen(color("key_white"), 1))
    painter.setBrush(color("muted"))
    rects = [key_rect(key, *bounds, area) for key in held if bounds[0] <= key <= bounds[1]]
    if rects:
        painter.drawRects(
            [QRectF(rect_f.x() + 2, rect_f.bottom() - 8, rect_f.width() - 4, 6) for rect_f in rects]
        )


def paint_mark_words(
    painter: QPainter, area: QRectF, keys: tuple[int, int], marks: Mapping[int, KeyMark]
) -> None:
    """Words on the marked keys: the name near the front edge, finger below it."""
    for key, mark in marks.items():
        rect = key_rect(key, *keys, area)
        painter.setPen(color("on_hand"))
        words = QRectF(rect.x(), rect.bottom() - 44, rect.width(), 20)
        painter.setFont(drawn_fitting_font(mark.word, 0.95, rect.width() - 2))
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, mark.word)
        painter.setFont(drawn_fitting_font(mark.small, 0.85, rect.width() - 2, bold=False))
        painter.drawText(words.translated(0, 19), Qt.AlignmentFlag.AlignCenter, mark.small)


class KeyboardView(Painted):
    """The two-hand keyboard: the chosen chord filled in, the next one as ghosts with arrows. ``pressed``
    says which key was clicked, and "other" where it was with the right button of the mouse."""

    pressed = Signal(int, str)
    head = 58  #: room above the keys for the caption and the ghosts, px

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._keys = (36, 84)
        self._marks: Mapping[int, KeyMark] = {}
        self._ghosts: Sequence[Ghost] = ()
        self._caption = ""
        self._scale: frozenset[int] = frozenset()
        self._register = (0, 127)
        self._chosen: int | None = None
        self._held: tuple[int, ...] = ()
        self._picture: tuple[object, QPixmap] | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Keyboard with the chosen chord and ghosts of the next one")

    def sizeHint(self) -> QSize:
        return QSize(scaled(800), scaled(126 + self.head))

    def fit_text(self) -> None:
        self.setMinimumHeight(scaled(92 + self.head))
        self.updateGeometry()

    def show_chord(
        self,
        keys: tuple[int, int],
        marks: Mapping[int, KeyMark],
        ghosts: Sequence[Ghost],
        caption: str = "",
    ) -> None:
        shown = (white_bounds(*keys), marks, ghosts, caption)
        if shown != (self._keys, self._marks, self._ghosts, self._caption):
            self._keys, self._marks, self._ghosts, self._caption = shown
            self.update()

    def show_chosen(self, key: int | None) -> None:
        """A mark under the key of the note that is chosen."""
        self._chosen = key
        self.update()

    def show_held(self, keys: tuple[int, ...]) -> None:
        """A bar at the front of the keys that a player holds down now."""
        if keys != self._held:
            self._held = keys
            self.update()

    def show_scale(self, pitch_classes: frozenset[int], hand: Hand | None = None) -> None:
        """Rings on the keys of a scale, none for an empty set; in the register of a hand where one is
        given."""
        self._scale = pitch_classes
        self._register = (0, 127) if hand is None else (hand.lowest_key, hand.highest_key)
        self.update()

    def _paint_scale(self, painter: QPainter, area: QRectF) -> None:
        for key in range(self._keys[0], self._keys[1] + 1):
            low, high = self._register
            if key % 12 in self._scale and key not in self._marks and low <= key <= high:
                rect = key_rect(key, *self._keys, area)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(QColor("#8f9296" if is_black(key) else "#43474d"), 2))
                painter.drawEllipse(QPointF(rect.center().x(), rect.bottom() - 28), 5, 5)

    def _area(self) -> QRectF:
        return self.room_inside.adjusted(1, self.head, -1, -4)

    def key_at(self, place: QPointF) -> int | None:
        """The key under a place; black ones lie on top."""
        area = self._area()
        low, high = self._keys
        order = sorted(range(low, high + 1), key=lambda key: not is_black(key))
        return next((key for key in order if key_rect(key, low, high, area).contains(place)), None)

    def place_of(self, key: int) -> QPointF:
        """The middle of the part of a key that no other one covers."""
        rect = key_rect(key, *self._keys, self._area())
        return QPointF(rect.center().x(), rect.bottom() - (8 if not is_black(key) else rect.height() / 2))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        key = self.key_at(self.place_in(event))
        if key is not None:
            self.pressed.emit(key, "other" if event.button() == Qt.MouseButton.RightButton else "")

    def paintEvent(self, _: QPaintEvent) -> None:
        """Keys that are held come and go much more often than all the rest, which is painted once: every
        stroke of a painter may have to wait for a search."""
        about: object = (
            self.size(), self.devicePixelRatio(), text_scale(), worn(), self._keys, dict(self._marks),
            list(self._ghosts), self._caption, self._scale, self._register, self._chosen,
        )  # fmt: skip
        if self._picture is None or self._picture[0] != about:
            self._picture = about, self._painted()
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._picture[1])
        painter.scale(text_scale(), text_scale())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_held(painter, self._area(), self._keys, self._held)
        painter.end()

    def _painted(self) -> QPixmap:
        """Everything but the keys that are held."""
        picture = QPixmap(self.size() * self.devicePixelRatio())
        picture.setDevicePixelRatio(self.devicePixelRatio())
        picture.fill(Qt.GlobalColor.transparent)
        painter = self.begin(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = self._area()
        painter.setFont(drawn_font(0.82))
        painter.setPen(color("muted"))
        painter.drawText(QPointF(2, 13), self._caption)
        paint_keys(painter, area, self._keys, self._marks)
        paint_mark_words(painter, area, self._keys, self._marks)
        self._paint_octaves(painter, area)
        self._paint_scale(painter, area)
        if self._chosen is not None and self._chosen in self._marks:
            rect = key_rect(self._chosen, *self._keys, area)
            painter.setPen(QPen(color("on_hand"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(rect.adjusted(3, 3, -3, -3), 3, 3)
        for ghost in self._ghosts:
            self._paint_ghost(painter, area, ghost)
        painter.end()
        return picture

    def _paint_octaves(self, painter: QPainter, area: QRectF) -> None:
        painter.setFont(drawn_font(0.75))
        painter.setPen(color("key_black"))
        for key in range(self._keys[0], self._keys[1] + 1):
            if key % 12 == 0 and key not in self._marks:
                rect = key_rect(key, *self._keys, area)
                place = QRectF(rect.x(), rect.bottom() - 18, rect.width(), 16)
                painter.drawText(place, Qt.AlignmentFlag.AlignCenter, octave_name(key))

    def _paint_ghost(self, painter: QPainter, area: QRectF, ghost: Ghost) -> None:
        """Above the keys: a bar for a held note, an arc with a head for a move, a small mark for
        a note that comes or goes."""
        held = ghost.start is not None and ghost.start == ghost.to
        ink = color("held" if held else ghost.side)
        top = area.y()
        if ghost.to is None or ghost.start is None:
            key = ghost.start if ghost.to is None else ghost.to
            assert key is not None
            x = key_rect(key, *self._keys, area).center().x()
            painter.setPen(QPen(ink, 1.4, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, top - 4), QPointF(x, top - 22))
            painter.setFont(drawn_font(0.78))
            word = "off" if ghost.to is None else "on"
            painter.drawText(QRectF(x - 16, top - 40, 32, 16), Qt.AlignmentFlag.AlignCenter, word)
            return
        to = key_rect(ghost.to, *self._keys, area)
        if held:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ink)
            painter.drawRoundedRect(QRectF(to.center().x() - 9, top - 12, 18, 7), 2, 2)
            return
        self._paint_arrow(painter, key_rect(ghost.start, *self._keys, area).center().x(), to, top, ink)

    def _paint_arrow(self, painter: QPainter, start_x: float, to: QRectF, top: float, ink: QColor) -> None:
        end_x = to.center().x()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(ink, 2))
        height = min(34.0, 14 + abs(end_x - start_x) * 0.25)
        box = QRectF(min(start_x, end_x), top - height, abs(end_x - start_x), height * 2 - 8)
        painter.drawArc(box, 0, 180 * 16)
        painter.setBrush(ink)
        painter.setPen(Qt.PenStyle.NoPen)
        tip = QPointF(end_x, top - 1)
        painter.drawPolygon([tip, tip + QPointF(-4.5, -8), tip + QPointF(4.5, -8)])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(ink, 1.6, Qt.PenStyle.DashLine))
        painter.drawRect(to.adjusted(2, 2, -2, -2))
