"""Settings kept between runs, each group in a small file of its own. What cannot be read is as it is at
first."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar, Self

import msgspec
from msgspec import Struct

from yellow_hinge.errors import BadInput, FileTrouble, Problem
from yellow_hinge.formats.files import read_if_there
from yellow_hinge.tasks.settings.own_files import keep_text, own_path

_MAX_BYTES = 100_000
_REMEDY = "mend or delete the file; until then everything is as it is at first"


class Kept(Struct, frozen=True):
    """A group of settings. ``file`` is its name in the configuration folder."""

    file: ClassVar[str]

    @classmethod
    def path(cls) -> Path:
        """Where it is kept."""
        return own_path(cls.file)

    @classmethod
    def read(cls) -> tuple[Self, tuple[Problem, ...]]:
        """The settings, and what is to be said where the file could not be read."""
        try:
            data = read_if_there(cls.path(), _MAX_BYTES)
            return (cls() if data is None else msgspec.json.decode(data, type=cls)), ()
        except (msgspec.MsgspecError, ValueError, RecursionError) as error:
            return cls(), (Problem(str(cls.path()), str(error), _REMEDY),)
        except (FileTrouble, BadInput) as error:
            return cls(), error.problems

    def keep(self) -> None:
        """Write them down. Raises :class:`FileTrouble`."""
        keep_text(self.path(), msgspec.json.format(msgspec.json.encode(self)).decode() + "\n")
