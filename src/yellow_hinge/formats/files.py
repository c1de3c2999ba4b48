"""Reading and writing files so that nothing is ever half written, and nothing else is ever read."""

from __future__ import annotations

import fcntl
import os
import stat
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from yellow_hinge.errors import FileTrouble, Problem

#: Names of files that are being written; short, so that the longest names still have room beside them.
_PREFIX, _SUFFIX = ".yellow-hinge-", ".tmp"
#: Age from which a file that nobody writes any more is a stray one, s.
_STRAY_S = 60

#: Kind of file -> what it is called. Only plain files are read and written.
_KINDS = {
    stat.S_IFDIR: "a folder", stat.S_IFIFO: "a pipe", stat.S_IFSOCK: "a socket",
    stat.S_IFCHR: "a device", stat.S_IFBLK: "a device",
}  # fmt: skip


def read_bytes(path: Path, most: int) -> bytes:
    """A file's contents. Raises :class:`FileTrouble` when it cannot be read, is no plain file, or is
    larger than ``most`` bytes."""
    try:
        _plain_file(path, path.stat(), "is read")
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(handle, "rb") as file:
            _plain_file(path, os.fstat(handle), "is read")
            data = file.read(most + 1)
    except (OSError, ValueError) as error:
        raise FileTrouble(Problem(str(path), _why(error), "check the name and your rights")) from None
    if len(data) > most:
        raise FileTrouble(Problem(str(path), "it is too large", f"at most {most:,} bytes are read"))
    return data


def read_if_there(path: Path, most: int) -> bytes | None:
    """As :func:`read_bytes`; None where there is no such file."""
    try:
        path.stat()
    except (FileNotFoundError, NotADirectoryError):
        return None
    except (OSError, ValueError):
        pass  # reading says what it is
    return read_bytes(path, most)


def _plain_file(path: Path, info: os.stat_result, what: str) -> None:
    kind = stat.S_IFMT(info.st_mode)
    if kind != stat.S_IFREG:
        name = _KINDS.get(kind, "no plain file")
        raise FileTrouble(Problem(str(path), f"it is {name}", f"only a plain file {what}"))


def own_folder(path: Path) -> Path:
    """A folder of the program's; where it has to be made, nobody else may look into it."""
    for folder in (*reversed(path.parents), path):
        if not folder.is_dir():
            folder.mkdir(mode=0o700, exist_ok=True)
    return path


# --- writing -----------------------------------------------------------------------------


def write_atomically(path: Path, data: bytes) -> None:
    """Write beside the target, flush to the disk, then take its place in one step. A symbolic link
    stays one, and its target is written. Mode, owner and attributes of the file stay; where another
    name belongs to the same file, or its owner could not stay, the bytes are written into the file
    itself, once they are safe beside it.

    Raises :class:`FileTrouble`; whatever stood there before is then still intact.
    """
    try:
        target = Path(os.path.realpath(path))
        info = _writable(path, target)
        with _beside(target, data) as temporary:
            if info is not None and (info.st_nlink > 1 or not _made_alike(temporary, target, info)):
                _write_into(target, data)
            else:
                if info is None:
                    temporary.chmod(0o666 & ~_umask())
                temporary.replace(target)
        _sync_folder(target.parent)
    except (OSError, ValueError) as error:
        remedy = "what was there before is untouched; free some space or choose another folder"
        raise FileTrouble(Problem(str(path), f"could not be written ({_why(error)})", remedy)) from None


def _writable(path: Path, target: Path) -> os.stat_result | None:
    """What stands there, None for nothing. Raises :class:`FileTrouble` for what is not written over."""
    try:
        info = target.stat()
    except FileNotFoundError:
        return None
    _plain_file(path, info, "is written")
    if not info.st_mode & 0o222 or not os.access(target, os.W_OK):
        remedy = "allow writing to it, or save under another name"
        raise FileTrouble(Problem(str(path), "it is read-only", remedy))
    return info


@contextmanager
def _beside(target: Path, data: bytes) -> Iterator[Path]:
    """The bytes in a file beside the target, on the disk; gone afterwards, if it still goes by that
    name. It is locked as long as somebody writes it."""
    handle, name = tempfile.mkstemp(prefix=_PREFIX, suffix=_SUFFIX, dir=target.parent)
    temporary = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            with suppress(OSError):  # a file system without locks
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            file.write(data)
            file.flush()
            os.fsync(handle)
            yield temporary
    finally:
        temporary.unlink(missing_ok=True)


def _made_alike(temporary: Path, target: Path, info: os.stat_result) -> bool:
    """Give the new file the owner, mode and attributes of the old one; whether that could be done."""
    own = temporary.stat()
    try:
        if (own.st_uid, own.st_gid) != (info.st_uid, info.st_gid):
            os.chown(temporary, info.st_uid, info.st_gid)
        temporary.chmod(stat.S_IMODE(info.st_mode))
    except PermissionError:
        return False
    with suppress(OSError):  # not every file system has them
        for name in os.listxattr(target):
            os.setxattr(temporary, name, os.getxattr(target, name))
    return True


def _write_into(target: Path, data: bytes) -> None:
    with target.open("r+b") as file:
        file.write(data)
        file.truncate()
        file.flush()
        os.fsync(file.fileno())


def _sync_folder(folder: Path) -> None:
    """That a name leads to the new file is on the disk as well."""
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        with suppress(OSError):  # some file systems cannot
            os.fsync(handle)
    finally:
        os.close(handle)


def sweep(folder: Path) -> None:
    """Remove what a process that died was writing in a folder."""
    with suppress(OSError):
        for file in folder.glob(f"{_PREFIX}*{_SUFFIX}"):
            with suppress(OSError):
                _remove_if_stray(file)


def _remove_if_stray(file: Path) -> None:
    handle = os.open(file, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
    try:
        info = os.fstat(handle)
        if stat.S_ISREG(info.st_mode) and time.time() - info.st_mtime > _STRAY_S:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)  # fails while somebody writes
            file.unlink()
    finally:
        os.close(handle)


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _why(error: OSError | ValueError) -> str:
    strerror = getattr(error, "strerror", None)
    return (strerror or str(error)).lower()
