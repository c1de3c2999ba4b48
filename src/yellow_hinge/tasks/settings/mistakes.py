"""Mistakes of ours: written down where a player finds them, and said in plain words."""

from __future__ import annotations

import logging
import platform
import traceback
from functools import lru_cache
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType

from yellow_hinge import __version__
from yellow_hinge.errors import OurMistake, Problem
from yellow_hinge.formats.files import own_folder
from yellow_hinge.tasks.settings.state_folder import state_folder

_MAX_BYTES, _KEPT = 500_000, 3


def log_path() -> Path:
    """The log of mistakes, the latest last; older ones lie beside it, numbered."""
    return state_folder() / "mistakes.log"


class _File(RotatingFileHandler):
    """The log's file. A full disk is no second mistake."""

    def handleError(self, _record: logging.LogRecord) -> None:  # noqa: N802 - the library's name
        return


@lru_cache(maxsize=4)
def _log(path: Path) -> logging.Logger:
    log = logging.getLogger(f"yellow_hinge.mistakes.{path}")
    log.propagate = False
    try:
        own_folder(path.parent)
        handler: logging.Handler = _File(path, "a", _MAX_BYTES, _KEPT, "utf-8", errors="replace")
    except (OSError, ValueError):
        handler = logging.NullHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(message)s"))
    log.addHandler(handler)
    return log


def record(error: BaseException, where: str) -> OurMistake:
    """Write a mistake down; give what to tell the player."""
    stack: TracebackType | None = error.__traceback__
    lines = traceback.format_exception(type(error), error, stack)
    system = f"Yellow Hinge {__version__}, Python {platform.python_version()}, {platform.platform()}"
    note(f"{where}: {system}\n{''.join(lines)[-20_000:]}")
    what = f"this is our mistake, not yours ({type(error).__name__})"
    remedy = f"undo the last change or go on; what happened is written in {log_path()}"
    return OurMistake(Problem(where, what, remedy))


def note(words: str) -> None:
    """Write something down that nobody needs to be told."""
    _log(log_path()).error(words)
