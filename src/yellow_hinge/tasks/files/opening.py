"""Open, save and export songs, and what a window holds and no file does."""

from __future__ import annotations

from importlib.resources import files
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import FileTrouble
from yellow_hinge.formats import project_file
from yellow_hinge.formats.files import read_bytes, write_atomically
from yellow_hinge.formats.project_file import Opened
from yellow_hinge.formats.text_in import Asked
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.formats import decode, encode, titles
from yellow_hinge.voicing.recipes import Library

DEMO_SONGS = ("lantern-ferry", "copper-kite", "salt-stairs")


class Unsaved(Struct, frozen=True):
    """What a window holds and no file does: ``draft`` is chart text that is not in the song, ``path``
    the project's file, if it has one, and ``digest`` the fingerprint that file had."""

    song: Song
    draft: str | None = None
    path: Path | None = None
    digest: str | None = None


def is_project(path: Path) -> bool:
    """Whether a file of this name holds a project, and not only a chart."""
    return path.suffix.lower() == project_file.SUFFIX


def _digest(data: bytes) -> str:
    from hashlib import blake2b  # noqa: PLC0415 - only where a file is opened or kept

    return blake2b(data, digest_size=16).hexdigest()


def digest_of(path: Path) -> str | None:
    """A fingerprint of a file's contents; None where it is not there or cannot be read."""
    try:
        return _digest(read_bytes(path, MAX_BYTES))
    except FileTrouble:
        return None


#: The largest file of a song that is read.
MAX_BYTES = max(12_000_000, project_file.MAX_BYTES)


def open_song(path: Path, asked: Asked | None = None) -> Opened:
    """Read any file that holds a song; ``asked`` is what a player says where the file leaves it open. Raises
    :class:`BadInput` or :class:`FileTrouble`."""
    data = read_bytes(path, MAX_BYTES)
    opened = decode(data, path.suffix.lower(), path.name, asked)
    return replace(opened, digest=_digest(data)) if is_project(path) else opened


def titles_in(path: Path) -> tuple[str, ...]:
    """What the songs of a file are called, in the formats that can hold several. Raises
    :class:`BadInput` or :class:`FileTrouble`."""
    return titles(read_bytes(path, MAX_BYTES), path.suffix.lower(), path.name)


def save_song(song: Song, path: Path, library: Library, draft: str | None = None) -> str:
    """Write a song in the format of the suffix, all at once or not at all; a project also holds text
    that could not be read yet. Give the fingerprint of what was written.

    Raises :class:`BadInput` for an unknown suffix or a song without what the format needs,
    and :class:`FileTrouble`.
    """
    data = encode(song, path.suffix.lower(), library, draft)
    write_atomically(path, data)
    return _digest(data)


def demo_song(name: str) -> Song:
    """One of :data:`DEMO_SONGS`, already solved."""
    data = (files("yellow_hinge.demo") / f"{name}.yhinge").read_bytes()
    return project_file.read(data, name).song
