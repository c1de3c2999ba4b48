"""Settings kept between runs, each group in a small file of its own. What cannot be read is as it is at
first."""

from __future__ import annotations

from pathlib import Path
from typing import TypeVar

import msgspec
from msgspec import Struct

from yellow_hinge.errors import BadInput, FileTrouble, Problem
from yellow_hinge.formats.files import read_if_there
from yellow_hinge.tasks.settings.own_files import keep_text

_MAX_BYTES = 100_000
_REMEDY = "mend or delete the file; until then everything is as it is at first"
_Kept = TypeVar("_Kept", bound=Struct)


def read_kept(path: Path, kind: type[_Kept]) -> tuple[_Kept, tuple[Problem, ...]]:
    """The settings of a file, and what is to be said where it could not be read."""
    try:
        data = read_if_there(path, _MAX_BYTES)
        return (kind() if data is None else msgspec.json.decode(data, type=kind)), ()
    except (msgspec.MsgspecError, ValueError, RecursionError) as error:
        return kind(), (Problem(str(path), str(error), _REMEDY),)
    except (FileTrouble, BadInput) as error:
        return kind(), error.problems


def keep(path: Path, settings: Struct) -> None:
    """Write them down. Raises :class:`FileTrouble`."""
    keep_text(path, msgspec.json.format(msgspec.json.encode(settings)).decode() + "\n")
