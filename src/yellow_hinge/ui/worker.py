"""Work off the interface thread: plain values in and out, one job at a time."""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from PySide6.QtCore import QObject, Signal, SignalInstance

from yellow_hinge.errors import Cancelled, OurMistake, YellowHingeError
from yellow_hinge.stopping import Progress, while_wanted

Deliver = Callable[[Any], None]
Job = Callable[[Progress, Deliver], Any]

#: How long closing waits for a job to see that it was stopped, s. What does not see it by then dies
#: with the program.
_PATIENCE_S = 0.05


class Worker(QObject):
    """Runs the latest job; a newer one cancels the one before, and late answers are dropped.

    ``done`` carries the job's result, ``part`` what it handed over before, ``failed`` the
    :class:`YellowHingeError` that ended it, ``progress`` a share 0..1. All arrive on the interface
    thread. This is the border of the thread: whatever else a job raises is written down and arrives
    as :class:`OurMistake`. Jobs run one after the other, as they share what they remember.
    """

    done = Signal(object)
    part = Signal(object)
    failed = Signal(object)
    progress = Signal(float)
    busy = Signal(bool)
    _finished = Signal(int, object, object)
    _moved = Signal(int, float)
    _parted = Signal(int, object)

    def __init__(self, parent: QObject | None = None, name: str = "search") -> None:
        super().__init__(parent)
        self._name = name
        self._number = 0
        self._stop = threading.Event()
        self._running = False
        self._next: _Job | None = None
        self._wake = threading.Condition()
        self._closed = False
        self._thread: threading.Thread | None = None
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
        self._hand_in(_Job(self, job, self._number, self._stop))

    def _hand_in(self, job: _Job | None) -> None:
        """What the thread does next; a job that it has not begun is forgotten."""
        with self._wake:
            self._next = job
            self._wake.notify()
        if job is not None and self._thread is None:
            self._thread = threading.Thread(target=self._loop, name=self._name, daemon=True)
            self._thread.start()

    def _loop(self) -> None:
        while True:
            with self._wake:
                self._wake.wait_for(lambda: self._next is not None or self._closed)
                job, self._next = self._next, None
            if job is None:
                return
            job.run(self._name)

    def cancel(self) -> None:
        """Stop the running job; it delivers nothing."""
        self._stop.set()
        self._number += 1
        self._hand_in(None)
        self._set_running(False)

    def close(self) -> None:
        """Cancel for good. Waits a moment for the thread to end, and not longer."""
        self.cancel()
        self.let_finish()
        self.wait(_PATIENCE_S)

    def let_finish(self) -> None:
        """Take no more jobs; what has begun goes on to its end."""
        with self._wake:
            self._closed = True
            self._wake.notify()

    def wait(self, most_s: float) -> None:
        """Wait for the thread to end, and not longer."""
        if self._thread is not None:
            self._thread.join(most_s)

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


class _Job:
    def __init__(self, worker: Worker, job: Job, number: int, stop: threading.Event) -> None:
        self._worker, self._job, self._number, self._stop = worker, job, number, stop

    def run(self, name: str) -> None:
        result: object = None
        error: YellowHingeError | None = None
        try:
            with while_wanted(self._is_wanted):
                result = self._job(self._progress, self._deliver)
        except Cancelled:
            return
        except YellowHingeError as trouble:
            error = trouble
        except BaseException as mistake:
            error = _written_down(mistake, name)
        _send(self._worker._finished, self._number, result, error)

    def _progress(self, share: float) -> bool:
        _send(self._worker._moved, self._number, share)
        return self._is_wanted()

    def _is_wanted(self) -> bool:
        return not self._stop.is_set()

    def _deliver(self, result: object) -> None:
        _send(self._worker._parted, self._number, result)


def _written_down(mistake: BaseException, name: str) -> OurMistake:
    from yellow_hinge.tasks.settings.mistakes import record  # noqa: PLC0415 - mostly never needed

    return record(mistake, name)


def _send(signal: SignalInstance, *values: object) -> None:
    """To the interface thread; to nobody where the window is gone already."""
    with suppress(RuntimeError):
        signal.emit(*values)
