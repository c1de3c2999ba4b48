"""The keyboard on which a reach is tried."""

from __future__ import annotations

from PySide6.QtCore import QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter
from PySide6.QtWidgets import QSizePolicy, QWidget

from yellow_hinge.hands.geometry import is_black
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.keyboard import key_rect, paint_held, paint_keys, paint_mark_words
from yellow_hinge.ui.keyboard_values import KeyMark
from yellow_hinge.ui.pages.hands.state import TRY_KEYS, Try, key_words


class TryKeyboard(Painted):
    """A keyboard to click on; ``played`` carries the key. Arrows and Return play it as well."""

    played = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._try = Try()
        self._cursor = 60
        self._by_keys = False
        self._held: tuple[int, ...] = ()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Keyboard for the guided try")
        self.setToolTip("Click the two ends of the stretch. Left and Right choose a key, Return plays it.")

    def sizeHint(self) -> QSize:
        return QSize(800, 190)

    def show_try(self, tried: Try) -> None:
        self._try = tried
        self.update()

    def show_held(self, keys: tuple[int, ...]) -> None:
        """What a player holds down now."""
        self._held = keys
        self.update()

    def _area(self) -> QRectF:
        return QRectF(self.rect()).adjusted(2, 2, -2, -6)

    def key_at(self, x: float, y: float) -> int | None:
        """The key under a point; black keys lie on top."""
        keys = range(TRY_KEYS[0], TRY_KEYS[1] + 1)
        for key in sorted(keys, key=is_black, reverse=True):
            if key_rect(key, *TRY_KEYS, self._area()).contains(x, y):
                return key
        return None

    def paint(self, painter: QPainter, _: QRect) -> None:
        marks = {key: KeyMark(self._try.side, key_words(key)) for key in self._try.keys}
        if self.hasFocus() and self._by_keys and self._cursor not in marks:
            marks[self._cursor] = KeyMark("bass", key_words(self._cursor))
        paint_keys(painter, self._area(), TRY_KEYS, marks)
        paint_mark_words(painter, self._area(), TRY_KEYS, marks)
        paint_held(painter, self._area(), TRY_KEYS, self._held)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        key = self.key_at(event.position().x(), event.position().y())
        if key is not None:
            self._cursor, self._by_keys = key, False
            self.played.emit(key)

    def move_cursor(self, step: int) -> None:
        """Choose a neighbouring key."""
        self._by_keys = True
        self._cursor = max(TRY_KEYS[0], min(TRY_KEYS[1], self._cursor + step))
        self.update()

    def play_cursor(self) -> None:
        """Play the chosen key."""
        self.played.emit(self._cursor)
