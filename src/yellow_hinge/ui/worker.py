"""Work off the interface thread: plain values in and out, one job at a time."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from yellow_hinge.errors import Cancelled, YellowHingeError

Progress = Callable[[float], bool]
Deliver = Callable[[Any], None]
Job = Callable[[Progress, Deliver], Any]


class Worker(QObject):
    """Runs the latest job; a newer one cancels the one before, and late answers are dropped.

    ``done`` carries the job's result, ``part`` what it handed over before, ``failed`` its
    :class:`YellowHingeError`, ``progress`` a share 0..1. All arrive on the interface thread.
    """

    done = Signal(object)
    part = Signal(object)
    failed = Signal(object)
    progress = Signal(float)
    busy = Signal(bool)
    _finished = Signal(int, object, object)
    _moved = Signal(int, float)
    _parted = Signal(int, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool()
        self._pool.setMaxThreadCount(1)
        self._number = 0
        self._stop = threading.Event()
        self._running = False
        self._finished.connect(self._deliver)
        self._moved.connect(self._report)
        self._parted.connect(self._hand_over)

    @property
    def running(self) -> bool:
        return self._running

    def start(self, job: Job) -> None:
        """Run ``job(progress, deliver)``; what was running is cancelled."""
        self._stop.set()
        self._stop = threading.Event()
        self._number += 1
        self._set_running(True)
        self._pool.start(_Job(self, job, self._number, self._stop))

    def cancel(self) -> None:
        """Stop the running job; it delivers nothing."""
        self._stop.set()
        self._number += 1
        self._set_running(False)

    def close(self) -> None:
        """Cancel and wait until the thread is free."""
        self.cancel()
        self._pool.waitForDone()

    def _set_running(self, running: bool) -> None:
        if running != self._running:
            self._running = running
            self.busy.emit(running)

    def _deliver(self, number: int, result: object, error: object) -> None:
        if number != self._number:
            return
        self._set_running(False)
        if error is not None:
            self.failed.emit(error)
        else:
            self.done.emit(result)

    def _hand_over(self, number: int, result: object) -> None:
        if number == self._number:
            self.part.emit(result)

    def _report(self, number: int, share: float) -> None:
        if number == self._number:
            self.progress.emit(share)


class _Job(QRunnable):
    def __init__(self, worker: Worker, job: Job, number: int, stop: threading.Event) -> None:
        super().__init__()
        self._worker, self._job, self._number, self._stop = worker, job, number, stop

    def run(self) -> None:
        try:
            result = self._job(self._progress, self._deliver)
        except Cancelled:
            return
        except YellowHingeError as error:
            self._worker._finished.emit(self._number, None, error)
        else:
            self._worker._finished.emit(self._number, result, None)

    def _progress(self, share: float) -> bool:
        self._worker._moved.emit(self._number, share)
        return not self._stop.is_set()

    def _deliver(self, result: object) -> None:
        self._worker._parted.emit(self._number, result)
