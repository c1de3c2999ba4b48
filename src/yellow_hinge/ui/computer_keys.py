"""The computer's own keys as a keyboard: the lowest row of letters plays white keys, the row above it
black ones. By where they lie, not by what is printed on them, where the system says that."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractSpinBox, QApplication, QLineEdit, QPlainTextEdit, QWidget

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import Hear

_K = Qt.Key
#: Half steps above the lowest C, by key: Z is C, S is C sharp.
_ROWS = {
    _K.Key_Z: 0, _K.Key_S: 1, _K.Key_X: 2, _K.Key_D: 3, _K.Key_C: 4, _K.Key_V: 5, _K.Key_G: 6, _K.Key_B: 7,
    _K.Key_H: 8, _K.Key_N: 9, _K.Key_J: 10, _K.Key_M: 11, _K.Key_Comma: 12, _K.Key_L: 13, _K.Key_Period: 14,
    _K.Key_Semicolon: 15, _K.Key_Slash: 16,
}  # fmt: skip
#: The same by the code of the key on the board (X11: what the kernel says, and 8).
_CODES = {
    52: 0, 39: 1, 53: 2, 40: 3, 54: 4, 55: 5, 42: 6, 56: 7, 43: 8, 57: 9, 44: 10, 58: 11, 59: 12, 46: 13,
    60: 14, 47: 15, 61: 16,
}  # fmt: skip
_OCTAVES = {_K.Key_BracketLeft: -12, _K.Key_BracketRight: 12}
_FIRST_C, _LOWEST_C, _HIGHEST_C = 60, 24, 84
_VELOCITY = 80
_TYPING = (QLineEdit, QPlainTextEdit, QAbstractSpinBox)


class ComputerKeys(QObject):
    """A keyboard of the window (:class:`sound.keyboards.Keyboard`). While it is heard, the letters of its
    two rows play, and are no commands; where one types they stay letters."""

    name = "Computer keys, two rows"
    words = (
        "Z to / play white keys, S D G H J L ; black ones; [ and ] go an octave down and up. "
        "These letters are no commands meanwhile."
    )

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._hear: Hear | None = None
        self._c = _FIRST_C
        self._down: dict[int, int] = {}

    def start(self, hear: Hear) -> None:
        """Hand on what is played from now."""
        self._hear = hear
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)

    def stop(self) -> None:
        """Hear nothing any more."""
        self._let_go()
        self._hear = None
        app = QApplication.instance()
        if app is not None:
            app.removeEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind == QEvent.Type.WindowDeactivate and watched is self._window:
            self._let_go()  # what is let go elsewhere is not seen
        if not isinstance(event, QKeyEvent) or not isinstance(watched, QWidget) or not self._plays(watched):
            return False
        if kind in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride):
            return self._pressed(event, kind == QEvent.Type.KeyPress)
        return kind == QEvent.Type.KeyRelease and self._released(event)

    def _plays(self, watched: QWidget) -> bool:
        return watched.window() is self._window and not isinstance(self._window.focusWidget(), _TYPING)

    def _pressed(self, event: QKeyEvent, whole: bool) -> bool:
        plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier)
        step, octave = _step(event), _OCTAVES.get(_K(event.key()))
        if not plain or (step is None and octave is None):
            return False
        if whole and not event.isAutoRepeat():
            if octave is not None:
                self._c = max(_LOWEST_C, min(_HIGHEST_C, self._c + octave))
            elif step is not None:
                self._strike(event.key(), self._c + step)
        return True

    def _strike(self, code: int, key: int) -> None:
        if code not in self._down:
            self._down[code] = key
            self._say(key, _VELOCITY)

    def _released(self, event: QKeyEvent) -> bool:
        if event.isAutoRepeat():
            return event.key() in self._down
        key = self._down.pop(event.key(), None)
        if key is not None:
            self._say(key, 0)
        return key is not None

    def _let_go(self) -> None:
        for key in self._down.values():
            self._say(key, 0)
        self._down.clear()

    def _say(self, key: int, velocity: int) -> None:
        from yellow_hinge.sound.keyboards import Struck  # noqa: PLC0415 - brings the MIDI library

        if self._hear is not None:
            self._hear(Struck(key, velocity))


def _step(event: QKeyEvent) -> int | None:
    found = _CODES.get(event.nativeScanCode()) if event.nativeScanCode() else None
    return _ROWS.get(_K(event.key())) if found is None else found
