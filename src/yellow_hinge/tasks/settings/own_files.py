"""The player's own files beside those that ship: recipes, patterns, formulas."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_config_path

from yellow_hinge.errors import BadInput, FileTrouble, Problem
from yellow_hinge.formats.files import own_folder, read_if_there, write_atomically

MAX_BYTES = 1_000_000


def own_path(name: str) -> Path:
    """Where a file of the player's own lies: in the configuration folder."""
    return user_config_path("yellow-hinge") / name


def own_text(path: Path) -> str | None:
    """What is in it; None where there is none. Raises :class:`BadInput` for what is no text, and
    :class:`FileTrouble` when it is there and cannot be read."""
    data = read_if_there(path, MAX_BYTES)
    return None if data is None else decoded(data, str(path))


def decoded(data: bytes, place: str) -> str:
    """Bytes as text. Raises :class:`BadInput` with the place of the first fault."""
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        where = f"{place}, byte {error.start + 1}"
        raise BadInput(Problem(where, "this is not a text file", "save it as UTF-8 text")) from None


def keep_text(path: Path, text: str) -> None:
    """Write it whole, or not at all. Raises :class:`FileTrouble`."""
    try:
        own_folder(path.parent)
    except OSError as error:
        what = f"the folder could not be made ({error.strerror})"
        raise FileTrouble(Problem(str(path.parent), what, "allow writing there")) from None
    write_atomically(path, text.encode())
