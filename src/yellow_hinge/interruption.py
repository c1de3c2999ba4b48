"""An interruption from the terminal (SIGINT) gives exit code 130 at any moment, and cleans up where there is
something to clean. Loads nothing but what Python has loaded."""

from __future__ import annotations

import os
import signal

INTERRUPTED = 130


def leave_at_once() -> None:
    """While a program loads, an interruption ends it there and then: nothing is half done yet, and code in C
    that calls Python back, as msgspec does for a type that it meets the first time, does not outlive an
    exception that comes out of nowhere. Whoever started us deaf to interruptions is left alone."""
    try:
        if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
            signal.signal(signal.SIGINT, _leave)
    except KeyboardInterrupt:
        _leave()


def _leave(*_: object) -> None:
    os.write(2, b"interrupted\n")
    os._exit(INTERRUPTED)


def end_in_order() -> None:
    """From now on an interruption raises ``KeyboardInterrupt``, and whoever is at work tidies up."""
    if signal.getsignal(signal.SIGINT) is _leave:
        signal.signal(signal.SIGINT, signal.default_int_handler)


def end_as_killed() -> None:
    """From now on an interruption is the end, as any other kill: for a window, which keeps a copy of what is
    unsaved."""
    if signal.getsignal(signal.SIGINT) is _leave:
        signal.signal(signal.SIGINT, signal.SIG_DFL)


def too_late() -> None:
    """All is done: what is left is the interpreter's own tidying."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
