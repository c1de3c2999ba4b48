"""Reading and writing files so that nothing is ever half written."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from yellow_hinge.errors import FileTrouble, Problem


def read_bytes(path: Path, most: int) -> bytes:
    """A file's contents. Raises :class:`FileTrouble` when it cannot be read or is larger than
    ``most`` bytes."""
    try:
        size = path.stat().st_size
        if size > most:
            raise FileTrouble(
                Problem(str(path), f"{size:,} bytes are too large", f"at most {most:,} are read")
            )
        return path.read_bytes()
    except OSError as error:
        raise FileTrouble(Problem(str(path), _why(error), "check the name and your rights")) from None


def write_atomically(path: Path, data: bytes) -> None:
    """Write beside the target, flush to the disk, then take its place in one step.

    Raises :class:`FileTrouble`; whatever stood there before is then still intact.
    """
    temporary: str | None = None
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        if path.exists():
            os.chmod(temporary, path.stat().st_mode & 0o777)
        else:
            os.chmod(temporary, 0o666 & ~_umask())
        os.replace(temporary, path)
    except OSError as error:
        if temporary is not None:
            Path(temporary).unlink(missing_ok=True)
        raise FileTrouble(
            Problem(
                str(path),
                f"could not be written ({_why(error)})",
                "what was there before is untouched; free some space or choose another folder",
            )
        ) from None


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _why(error: OSError) -> str:
    return (error.strerror or str(error)).lower()
