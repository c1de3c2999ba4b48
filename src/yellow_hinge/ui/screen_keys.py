"""A keyboard on the screen that is played with the mouse, or with the arrows and Return."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from yellow_hinge.hands.geometry import is_black
from yellow_hinge.theory.pitch import octave_name, pitch_for_key
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.keyboard import key_rect, paint_held, paint_keys
from yellow_hinge.ui.theme import color, drawn_font, scaled, text_scale

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import Hear

_LOW, _HIGH = 36, 84
_VELOCITY = 80
_HEIGHT = 72


class ScreenKeys(Painted):
    """A keyboard of the window (:class:`sound.keyboards.Keyboard`). It is seen while it is heard. The right
    button of the mouse, or Shift, leaves a key down until it is struck again: so chords can be played."""

    enlarged = True
    name = "Keyboard on the screen"
    words = (
        "Click a key, or walk with the arrows and strike with Return; the right button or Shift leaves it "
        "down."
    )

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._hear: Hear | None = None
        self._down: set[int] = set()
        self._struck: int | None = None  #: goes up with the button of the mouse, or with Return
        self._chosen = 60
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(self.name)
        self.setToolTip(self.words)
        self.fit_text()
        self.hide()

    def fit_text(self) -> None:
        self.setMinimumHeight(scaled(_HEIGHT))

    def sizeHint(self) -> QSize:
        return QSize(800, scaled(_HEIGHT))

    def start(self, hear: Hear) -> None:
        """Hand on what is played from now."""
        self._hear = hear
        self.show()

    def stop(self) -> None:
        """Hear nothing any more."""
        for key in sorted(self._down):
            self._say(key, 0)
        self._down.clear()
        self._hear = None
        self.hide()

    # --- the mouse ---

    def place_of(self, key: int) -> QPointF:
        """A place of a key that no other one covers."""
        rect = key_rect(key, _LOW, _HIGH, self._area())
        return (
            QPointF(rect.center().x(), rect.center().y() if is_black(key) else rect.bottom() - 6)
            * text_scale()
        )

    def _area(self) -> QRectF:
        return self.room_inside.adjusted(1, 1, -1, -1)

    def _key_at(self, place: QPointF) -> int | None:
        order = sorted(range(_LOW, _HIGH + 1), key=lambda key: not is_black(key))
        return next((key for key in order if key_rect(key, _LOW, _HIGH, self._area()).contains(place)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        key = self._key_at(self.place_in(event))
        if key is not None:
            stays = event.button() == Qt.MouseButton.RightButton
            self._chosen = key
            self._strike(key, stays or bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        self._lift()

    # --- keys ---

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: -12, Qt.Key.Key_Up: 12}.get(
            Qt.Key(event.key())
        )
        if step is not None:
            self._chosen = max(_LOW, min(_HIGH, self._chosen + step))
            self.say_chosen(pitch_for_key(self._chosen).pretty)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if not event.isAutoRepeat():
                self._strike(self._chosen, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.isAutoRepeat():
            self._lift()
        else:
            super().keyReleaseEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._lift()
        super().focusOutEvent(event)

    # --- what is played ---

    def _strike(self, key: int, stays: bool) -> None:
        self._lift()
        if key in self._down:
            self._down.discard(key)
            self._say(key, 0)
        else:
            self._down.add(key)
            self._struck = None if stays else key
            self._say(key, _VELOCITY)
        self.update()

    def _lift(self) -> None:
        if self._struck is not None:
            self._down.discard(self._struck)
            self._say(self._struck, 0)
            self._struck = None
            self.update()

    def _say(self, key: int, velocity: int) -> None:
        from yellow_hinge.sound.keyboards import Struck  # noqa: PLC0415 - brings the MIDI library

        if self._hear is not None:
            self._hear(Struck(key, velocity))

    def paint(self, painter: QPainter, _: QRect) -> None:
        area = self._area()
        paint_keys(painter, area, (_LOW, _HIGH), {})
        painter.setFont(drawn_font(0.72))
        painter.setPen(color("key_black"))
        for key in range(_LOW, _HIGH + 1, 12):
            rect = key_rect(key, _LOW, _HIGH, area)
            place = QRectF(rect.x(), rect.bottom() - 26, rect.width(), 14)
            painter.drawText(place, Qt.AlignmentFlag.AlignCenter, octave_name(key))
        paint_held(painter, area, (_LOW, _HIGH), sorted(self._down))
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(color("muted"), 2.5))
            painter.drawRect(key_rect(self._chosen, _LOW, _HIGH, area).adjusted(2, 2, -2, -2))
