"""The files that were opened or saved last, kept between runs."""

from __future__ import annotations

import json
from contextlib import suppress
from pathlib import Path

from platformdirs import user_state_path

from yellow_hinge.errors import FileTrouble
from yellow_hinge.formats.files import own_folder, read_if_there, write_atomically

MOST = 8
_MAX_BYTES = 100_000


def _path() -> Path:
    return user_state_path("yellow-hinge") / "recent.json"


def recent_files() -> list[Path]:
    """The last files that are still there, the latest first; none where the list cannot be read."""
    try:
        data = read_if_there(_path(), _MAX_BYTES)
        rows = json.loads(data) if data else []
    except (FileTrouble, ValueError, RecursionError):
        return []
    names = [row for row in rows if isinstance(row, str)] if isinstance(rows, list) else []
    paths = []
    for name in names:
        with suppress(OSError, ValueError):
            if Path(name).is_file():
                paths.append(Path(name))
    return paths[:MOST]


def remember(path: Path) -> None:
    """A file was opened or saved. That it cannot be remembered is nothing to stop for."""
    with suppress(OSError, FileTrouble, ValueError):
        path_now = path.resolve()
        rows = [path_now, *(file for file in recent_files() if file != path_now)][:MOST]
        own_folder(_path().parent)
        write_atomically(_path(), json.dumps([str(row) for row in rows]).encode())
