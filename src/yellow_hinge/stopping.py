"""Whether the work that a thread does is still wanted.

Whoever starts long work says how to know (:func:`while_wanted`); every loop that may last asks
(:func:`ask`), however deep it lies, at least every tenth of a second. Progress is another matter:
it needs the whole in view, asking does not.
"""

from __future__ import annotations

import signal
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from yellow_hinge.errors import Cancelled

#: What long work tells its share done, 0..1, and asks whether to go on.
Progress = Callable[[float], bool]


def always(_: float) -> bool:
    """Progress that nobody looks at."""
    return True


class _Wanted(threading.local):
    check: Callable[[], bool] | None = None


_wanted = _Wanted()


@contextmanager
def while_wanted(check: Callable[[], bool]) -> Iterator[None]:
    """Within it the thread's work goes on as long as ``check`` says so."""
    before, _wanted.check = _wanted.check, check
    try:
        yield
    finally:
        _wanted.check = before


@contextmanager
def unbroken() -> Iterator[None]:
    """Within it an interruption from the terminal waits. Code in C that calls Python back, as msgspec does
    for a type that it meets the first time, does not outlive an exception that comes out of nowhere."""
    mine = threading.current_thread() is threading.main_thread()  # signals are heard nowhere else
    if not mine or signal.getsignal(signal.SIGINT) is not signal.default_int_handler:
        yield
        return
    heard: list[int] = []
    signal.signal(signal.SIGINT, lambda number, _: heard.append(number))
    try:
        yield
    finally:
        signal.signal(signal.SIGINT, signal.default_int_handler)
        if heard:
            raise KeyboardInterrupt


def ask() -> None:
    """Raise :class:`Cancelled` where nobody wants the work any more."""
    if _wanted.check is not None and not _wanted.check():
        raise Cancelled
