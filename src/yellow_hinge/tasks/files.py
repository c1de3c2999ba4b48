"""Open, save and export: formats by suffix."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from importlib.resources import files
from pathlib import Path

from yellow_hinge.errors import BadInput, FileTrouble, Problem
from yellow_hinge.formats import chart_text, midi, musicxml, project_file
from yellow_hinge.formats.files import read_bytes, write_atomically
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.project_file import Opened
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import perform
from yellow_hinge.tasks.describe_song import row
from yellow_hinge.voicing.recipes import Library

_READERS: dict[str, Callable[[bytes, str], Imported]] = {
    ".txt": chart_text.read,
    ".chart": chart_text.read,
    ".musicxml": musicxml.read,
    ".xml": musicxml.read,
    ".mxl": musicxml.read,
}
SUFFIX = project_file.SUFFIX
READ_SUFFIXES = (project_file.SUFFIX, *_READERS)
WRITE_SUFFIXES = (".yhinge", ".txt", ".chart", ".mid", ".musicxml", ".wav")
#: Formats that hold voicings and not only chords.
VOICED_SUFFIXES = (".mid", ".musicxml", ".wav", ".yhinge")
#: The loudest sample of a sound file, of 1.
_LOUDEST = 0.8
DEMO_SONGS = ("lantern-ferry", "copper-kite", "salt-stairs")


@dataclass(frozen=True)
class Unsaved:
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
    return hashlib.blake2b(data, digest_size=16).hexdigest()


def digest_of(path: Path) -> str | None:
    """A fingerprint of a file's contents; None where it is not there or cannot be read."""
    try:
        return _digest(read_bytes(path, MAX_BYTES))
    except FileTrouble:
        return None


#: The largest file of a song that is read.
MAX_BYTES = max(musicxml.MAX_BYTES, project_file.MAX_BYTES)


def open_song(path: Path) -> Opened:
    """Read any file that holds a song. Raises :class:`BadInput` or :class:`FileTrouble`.

    Files without a known suffix are read as chart text.
    """
    data = read_bytes(path, MAX_BYTES)
    if is_project(path):
        return replace(project_file.read(data, path.name), digest=_digest(data))
    imported = _READERS.get(path.suffix.lower(), chart_text.read)(data, path.name)
    return Opened(Song(imported.chart), imported.problems)


def save_song(song: Song, path: Path, library: Library, draft: str | None = None) -> str:
    """Write a song in the format of the suffix, all at once or not at all; a project also holds text
    that could not be read yet. Give the fingerprint of what was written.

    Raises :class:`BadInput` for an unknown suffix or a song without what the format needs,
    and :class:`FileTrouble`.
    """
    data = encode(song, path.suffix.lower(), library, draft)
    write_atomically(path, data)
    return _digest(data)


def encode(song: Song, suffix: str, library: Library, draft: str | None = None) -> bytes:
    """The song's bytes in one of :data:`WRITE_SUFFIXES`."""
    if suffix in (".mid", ".musicxml", ".wav") and not song.slots:
        raise BadInput(Problem("export", "there are no chords yet", "write a chart first"))
    if suffix == ".yhinge":
        return project_file.write(song, draft)
    if suffix in (".txt", ".chart"):
        return song.chart.text.encode() or chart_text.write(song.chart)
    if suffix == ".mid":
        return midi.write(song, row(song, library).bassist)
    if suffix == ".musicxml":
        return score_of(song, library)
    if suffix == ".wav":
        return _sound(song, library)
    raise BadInput(
        Problem("export", f"{suffix or 'no suffix'} is not a format that can be written",
                f"use {', '.join(WRITE_SUFFIXES)}")
    )  # fmt: skip


def score_of(song: Song, library: Library) -> bytes:
    """The song as MusicXML, with fingers and bassist."""
    found = row(song, library)
    fingers = [(one.left_fingers, one.right_fingers) for one in found.held]
    return musicxml.write(song, found.bassist, fingers)


def _sound(song: Song, library: Library) -> bytes:
    from yellow_hinge.sound.instrument import best_instrument  # noqa: PLC0415 - sound libraries
    from yellow_hinge.sound.player import render  # noqa: PLC0415
    from yellow_hinge.sound.wav import wav_bytes  # noqa: PLC0415

    heard = perform(song, row(song, library).bassist, melody=True)
    sound = render(best_instrument(), heard.notes, heard.tempo, heard.pedal)
    loudest = float(abs(sound).max()) if len(sound) else 0.0
    return wav_bytes(sound, _LOUDEST / loudest if loudest else 1.0)


def demo_song(name: str) -> Song:
    """One of :data:`DEMO_SONGS`, already solved."""
    data = (files("yellow_hinge.demo") / f"{name}.yhinge").read_bytes()
    return project_file.read(data, name).song
