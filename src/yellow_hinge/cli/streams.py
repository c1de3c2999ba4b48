"""Standard input, output and error as they may be: closed, full, a terminal of 1980."""

from __future__ import annotations

import codecs
import json
import os
import sys
from contextlib import suppress
from typing import Any

from yellow_hinge.errors import FileTrouble, Problem

#: Music signs as they are typed where a terminal has none.
_TYPED = {"♭": "b", "♯": "#", "𝄪": "x", "𝄫": "bb", "°": "dim", "ø": "m7b5", "→": "->", "…": "..."}


def _typed(error: UnicodeError) -> tuple[str, int]:
    """What stands for signs that an output cannot have."""
    assert isinstance(error, UnicodeEncodeError)
    signs = error.object[error.start : error.end]
    return "".join(_TYPED.get(sign, "?") for sign in signs), error.end


class OutputLost(Exception):
    """What was printed did not arrive."""


def prepare() -> None:
    """Let everything be printed everywhere; a closed standard error takes what it gets."""
    codecs.register_error("typed", _typed)
    if sys.stderr is None:
        sys.stderr = open(os.devnull, "w", encoding="utf-8")  # noqa: SIM115, PTH123 - for as long as we run
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="typed")


def is_unicode() -> bool:
    """Whether standard output takes every sign."""
    encoding = getattr(sys.stdout, "encoding", None) or "ascii"
    return codecs.lookup(encoding).name.startswith("utf")


def out(text: str) -> None:
    """Print a page. Raises :class:`OutputLost`."""
    if sys.stdout is None:
        raise OutputLost("standard output is closed")
    try:
        print(text)
        sys.stdout.flush()
    except OSError as error:
        _forget_stdout()
        raise OutputLost((error.strerror or str(error)).lower()) from None
    except ValueError as error:  # closed by somebody in this process
        raise OutputLost(str(error)) from None


def _forget_stdout() -> None:
    """What is still in its buffer would be tried again at the end, and fail with a traceback."""
    with suppress(OSError, ValueError):
        nowhere = os.open(os.devnull, os.O_WRONLY)
        os.dup2(nowhere, sys.stdout.fileno())


def say(text: object) -> None:
    """A line on standard error, if anybody reads it."""
    with suppress(OSError, ValueError):
        print(text, file=sys.stderr, flush=True)


def read_input(most: int) -> bytes:
    """Standard input, up to one byte more than ``most``. Raises :class:`FileTrouble`."""
    place, remedy = "standard input", "give the text to it, or name a file"
    if sys.stdin is None:
        raise FileTrouble(Problem(place, "it is closed", remedy))
    try:
        return sys.stdin.buffer.read(most + 1)
    except (OSError, ValueError) as error:
        what = (getattr(error, "strerror", None) or str(error)).lower()
        raise FileTrouble(Problem(place, what, remedy)) from None


def print_json(value: Any) -> None:
    """Print a value as JSON."""
    out(json.dumps(value, ensure_ascii=not is_unicode()))
