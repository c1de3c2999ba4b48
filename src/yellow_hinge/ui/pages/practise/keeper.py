"""Writes the practice log on a thread of its own: the window never waits for a disk or for another window."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from contextlib import suppress

from PySide6.QtCore import QObject, Signal

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.practice.log import Log

#: How long closing waits for what is still to be written, seconds.
_PATIENCE_S = 6.0

Job = Callable[[Log], object]


class LogKeeper(QObject):
    """Jobs for the log are done in their order; ``failed`` says what went wrong."""

    failed = Signal(tuple)

    def __init__(self, log: Log, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._log = log
        self._jobs: queue.SimpleQueue[Job | None] = queue.SimpleQueue()
        self._thread: threading.Thread | None = None

    def put(self, job: Job) -> None:
        """Do this with the log, as soon as what came before is done."""
        self._jobs.put(job)
        if self._thread is None:
            self._thread = threading.Thread(target=self._loop, name="practice log", daemon=True)
            self._thread.start()

    def _loop(self) -> None:
        while True:
            job = self._jobs.get()
            if job is None:
                self._log.close()
                return
            try:
                job(self._log)
            except YellowHingeError as error:
                self._say(error.problems)
            self._say(tuple(self._log.remarks))
            self._log.remarks.clear()

    def _say(self, problems: tuple[Problem, ...]) -> None:
        if problems:
            with suppress(RuntimeError):  # the window is gone
                self.failed.emit(problems)

    def settle(self) -> None:
        """Wait until what was put is done."""
        done = threading.Event()
        self.put(lambda _: done.set())
        done.wait(_PATIENCE_S)

    def close(self) -> None:
        """Write what is still to be written, and no more."""
        if self._thread is not None:
            self._jobs.put(None)
            self._thread.join(_PATIENCE_S)
            self._thread = None
