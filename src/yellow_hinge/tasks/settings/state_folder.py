"""Where the program keeps what it needs from one run to the next: recovery copies, the log, and the
folders it wrote in."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

from platformdirs import user_state_path

from yellow_hinge.errors import FileTrouble
from yellow_hinge.formats.files import own_folder, read_if_there, sweep, write_atomically

#: How many folders are remembered.
MOST_FOLDERS = 20
_MAX_BYTES = 100_000


def state_folder() -> Path:
    """The folder, whether it is there or not."""
    return user_state_path("yellow-hinge")


def _list() -> Path:
    return state_folder() / "folders"


def folders() -> list[Path]:
    """The folders songs were saved in, the latest first."""
    try:
        data = read_if_there(_list(), _MAX_BYTES) or b""
    except FileTrouble:
        return []
    return [Path(line) for line in data.decode("utf-8", "surrogateescape").split("\0") if line]


def remember(folder: Path) -> None:
    """A song was saved in this folder."""
    known = folders()
    if known[:1] == [folder]:
        return
    row = [folder, *(path for path in known if path != folder)][:MOST_FOLDERS]
    with suppress(FileTrouble, OSError):  # nothing depends on it
        own_folder(state_folder())
        write_atomically(_list(), "\0".join(map(str, row)).encode("utf-8", "surrogateescape"))


def clean_up() -> None:
    """Remove what processes that died were writing, wherever we write."""
    for folder in (state_folder(), state_folder() / "recovery", *folders()):
        sweep(folder)
