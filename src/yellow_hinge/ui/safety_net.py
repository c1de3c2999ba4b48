"""Catches what goes wrong beyond every border: it is written down, said, and a copy of the song is kept."""

from __future__ import annotations

import sys
import threading
import time
from contextlib import suppress
from types import TracebackType

from PySide6.QtCore import QMessageLogContext, QObject, QtMsgType, Signal, qInstallMessageHandler

from yellow_hinge.errors import OurMistake
from yellow_hinge.ui.window import Window

#: The same mistake is said and written down once in this time, s: one in a painter comes with every
#: picture.
_SAME_S = 5
#: Qt says this of every window where there is no screen.
_OFFSCREEN = "does not support propagateSizeHints()"


class SafetyNet(QObject):
    """Under one window, from its making to its end. Mistakes may come from any thread."""

    _caught = Signal(object)

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window = window
        self._last: dict[tuple[object, ...], float] = {}
        self._caught.connect(self._say)
        self._before = sys.excepthook, threading.excepthook
        sys.excepthook = self._on_interface
        threading.excepthook = self._on_thread
        qInstallMessageHandler(_qt_said)

    def take_down(self) -> None:
        """The window is closed."""
        sys.excepthook, threading.excepthook = self._before
        qInstallMessageHandler(None)

    def _on_interface(
        self, kind: type[BaseException], error: BaseException, stack: TracebackType | None
    ) -> None:
        if issubclass(kind, KeyboardInterrupt):
            self._window.close()
            return
        self._catch(error, stack, self._window.page.name)

    def _on_thread(self, found: threading.ExceptHookArgs) -> None:
        if found.exc_value is not None:
            self._catch(found.exc_value, found.exc_traceback, found.thread.name if found.thread else "thread")

    def _catch(self, error: BaseException, stack: TracebackType | None, where: str) -> None:
        from yellow_hinge.tasks.settings.mistakes import record  # noqa: PLC0415 - mostly never needed

        place = (type(error), *_innermost(stack))
        if time.monotonic() - self._last.get(place, -_SAME_S) < _SAME_S:
            return
        self._last[place] = time.monotonic()
        with suppress(RuntimeError):
            self._caught.emit(record(error.with_traceback(stack), where))

    def _say(self, mistake: OurMistake) -> None:
        """On the interface thread."""
        with suppress(Exception):  # the net must hold, whatever the song has come to
            self._window.copies.now()
        self._window.say(mistake.problems)


def _innermost(stack: TracebackType | None) -> tuple[object, ...]:
    while stack is not None and stack.tb_next is not None:
        stack = stack.tb_next
    return () if stack is None else (stack.tb_frame.f_code, stack.tb_lineno)


def _qt_said(kind: QtMsgType, _context: QMessageLogContext, words: str) -> None:
    """What Qt has to say goes to the log; what it cannot go on with, to the terminal too."""
    if kind in (QtMsgType.QtDebugMsg, QtMsgType.QtInfoMsg) or words.endswith(_OFFSCREEN):
        return
    from yellow_hinge.tasks.settings.mistakes import note  # noqa: PLC0415 - mostly never needed

    note(f"Qt: {words}")
    if kind in (QtMsgType.QtCriticalMsg, QtMsgType.QtFatalMsg):
        print(words, file=sys.stderr)
