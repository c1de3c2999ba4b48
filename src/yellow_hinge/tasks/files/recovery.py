"""Copies of unsaved songs, for the day the program or the machine stops in the middle.

Each window keeps one copy. It holds a lock as long as its process lives, whatever becomes of it, so
that a copy without a lock is one that was left behind.
"""

from __future__ import annotations

import fcntl
import json
import os
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

from msgspec import Struct

from yellow_hinge.errors import BadInput, FileTrouble, Problem, YellowHingeError
from yellow_hinge.formats import json_in, project_file
from yellow_hinge.formats.files import own_folder, read_bytes, write_atomically
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import Unsaved, open_song
from yellow_hinge.tasks.settings.state_folder import state_folder
from yellow_hinge.tasks.song.differences import difference

SCHEMA = "yellow-hinge/recovery/1"
_COPY, _LOCK = ".copy", ".lock"


def recovery_folder() -> Path:
    """Where the copies lie."""
    return state_folder() / "recovery"


class Found(Struct, frozen=True):
    """A copy that was left behind: when it was written, and what it has that its file has not."""

    copy: Path
    unsaved: Unsaved
    saved: datetime
    difference: str

    @property
    def words(self) -> str:
        """Title, time and difference in a line."""
        title = self.unsaved.song.title or "Untitled"
        return f"{title}, {self.saved:%d.%m.%Y %H:%M}: {self.difference}"


class Keeper:
    """The copy of one window. May be used from any thread, by one at a time."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder or recovery_folder()
        self._name = f"{os.getpid()}-{uuid4().hex[:12]}"
        self._lock: int | None = None

    @property
    def copy(self) -> Path:
        """Where its copy lies, or would."""
        return self._folder / f"{self._name}{_COPY}"

    def keep(self, unsaved: Unsaved) -> None:
        """Write the copy anew, all at once, down to the disk. Raises :class:`FileTrouble`."""
        try:
            self._take_lock()
        except OSError as error:
            place, what = str(self._folder), f"no recovery copies can be kept ({error.strerror})"
            raise FileTrouble(Problem(place, what, "save often, or make room there")) from None
        write_atomically(self.copy, _encoded(unsaved))

    def _take_lock(self) -> None:
        if self._lock is None:
            own_folder(self._folder)
            handle = os.open(_lock_of(self.copy), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
            fcntl.flock(handle, fcntl.LOCK_EX)  # nobody holds it but for an instant, to see whether we live
            self._lock = handle

    def drop(self) -> None:
        """There is nothing unsaved any more."""
        with suppress(OSError):
            self.copy.unlink(missing_ok=True)
        if self._lock is not None:
            with suppress(OSError):
                _lock_of(self.copy).unlink(missing_ok=True)
            os.close(self._lock)
            self._lock = None


def _lock_of(copy: Path) -> Path:
    return copy.with_suffix(_LOCK)


def _encoded(unsaved: Unsaved) -> bytes:
    head = {
        "schema": SCHEMA,
        "saved": datetime.now().astimezone().isoformat(timespec="seconds"),
        "path": None if unsaved.path is None else str(unsaved.path),
        "digest": unsaved.digest,
    }
    project = project_file.write(unsaved.song, unsaved.draft)
    return json.dumps(head).encode()[:-1] + b', "project": ' + project + b"}"


# --- finding -----------------------------------------------------------------------------


def find(folder: Path | None = None) -> list[Found]:
    """Every copy that was left behind, the latest first. Copies that hold nothing beyond their file
    are removed; what cannot be read is left where it is."""
    folder = folder or recovery_folder()
    copies = []
    for copy in _left_behind(folder):
        with suppress(YellowHingeError):
            recovered = _read(copy)
            if recovered.difference:
                copies.append(recovered)
            else:
                discard(recovered)
    return sorted(copies, key=lambda recovered: recovered.saved, reverse=True)


def _left_behind(folder: Path) -> list[Path]:
    """Copies whose process is gone."""
    try:
        copies = sorted(folder.glob(f"*{_COPY}"))
    except OSError:
        return []
    return [copy for copy in copies if _free(_lock_of(copy))]


def _free(lock: Path) -> bool:
    try:
        handle = os.open(lock, os.O_RDWR | os.O_CLOEXEC)
    except OSError:
        return not lock.exists()
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    finally:
        os.close(handle)
    return True


def _read(copy: Path) -> Found:
    data = read_bytes(copy, 2 * project_file.MAX_BYTES)
    try:
        raw: dict[str, Any] = json_in.load(data, str(copy), "leave it, or remove it by hand")[0]
        saved = datetime.fromisoformat(raw["saved"])
        project, name, digest = json.dumps(raw["project"]).encode(), raw["path"], raw["digest"]
        path = None if name is None else Path(name)
        known = raw["schema"] == SCHEMA and saved.tzinfo is not None
    except (ValueError, KeyError, TypeError):
        known = False
    if not known:
        raise BadInput(Problem(str(copy), "this is no recovery copy", "leave it, or remove it by hand"))
    opened = project_file.read(project, copy.name)
    unsaved = Unsaved(opened.song, opened.draft, path, digest if isinstance(digest, str) else None)
    return Found(copy, unsaved, saved, difference(_on_disk(path), opened.song, opened.draft))


def _on_disk(path: Path | None) -> Song | None:
    if path is None:
        return None
    try:
        return open_song(path).song
    except YellowHingeError:
        return None


def discard(recovered: Found) -> None:
    """Remove a copy that is not wanted any more."""
    for file in (recovered.copy, _lock_of(recovered.copy)):
        with suppress(OSError):
            file.unlink(missing_ok=True)
