"""Open, save and export: formats by suffix."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from importlib import import_module
from importlib.resources import files
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, FileTrouble, Problem
from yellow_hinge.formats import chart_text, project_file
from yellow_hinge.formats.files import read_bytes, write_atomically
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.project_file import Opened
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips import page as grips_text
from yellow_hinge.tasks.song.describe_song import bassist_keys, row
from yellow_hinge.voicing.recipes import Library, builtin_library


def _format(name: str) -> Any:
    """A format by the name of its module: loaded when a file of it is read or written, since the window opens
    without."""
    return import_module(f"yellow_hinge.formats.{name}")


def _read_text(data: bytes, place: str) -> Imported:
    """Chart text, or chords over words where no line has bars."""
    try:
        return chart_text.read(data, place)
    except BadInput:
        over_words = _format("over_words")
        if over_words.looks_like(chart_text.cleaned(chart_text.decode(data, place))):
            return _read_as("over_words", data, place)
        raise


def _read_as(name: str, data: bytes, place: str) -> Imported:
    found: Imported = _format(name).read(data, place)
    return found


_READERS: dict[str, Callable[[bytes, str], Imported]] = {
    ".txt": _read_text,
    ".chart": chart_text.read,
    **dict.fromkeys((".cho", ".chopro", ".chordpro", ".pro"), partial(_read_as, "chordpro")),
    ".abc": partial(_read_as, "abc_in"),
    **dict.fromkeys((".musicxml", ".xml", ".mxl"), partial(_read_as, "musicxml")),
}
SUFFIX = project_file.SUFFIX
MIDI_SUFFIXES = (".mid", ".midi")
READ_SUFFIXES = (project_file.SUFFIX, *_READERS, *MIDI_SUFFIXES, grips_text.SUFFIX)
WRITE_SUFFIXES = (
    ".yhinge", ".txt", ".chart", ".mid", ".midi", ".musicxml", ".xml", ".mxl", ".abc", ".cho", ".chordpro",
    ".csv", ".wav", ".flac", ".ogg", grips_text.SUFFIX,
)  # fmt: skip
SOUND_SUFFIXES = (".wav", ".flac", ".ogg")
#: Formats that hold voicings and not only chords.
VOICED_SUFFIXES = (
    ".mid",
    ".midi",
    ".musicxml",
    ".xml",
    ".mxl",
    ".csv",
    *SOUND_SUFFIXES,
    ".yhinge",
    grips_text.SUFFIX,
)
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


def open_song(path: Path) -> Opened:
    """Read any file that holds a song. Raises :class:`BadInput` or :class:`FileTrouble`.

    Files without a known suffix are read as chart text.
    """
    data = read_bytes(path, MAX_BYTES)
    if is_project(path):
        return replace(project_file.read(data, path.name), digest=_digest(data))
    if path.suffix.lower() in MIDI_SUFFIXES:
        from yellow_hinge.tasks.files.played_midi import read_midi  # noqa: PLC0415 - brings NumPy

        return read_midi(data, path.name)
    suffix = path.suffix.lower()
    plain = suffix in ("", ".txt")
    if suffix == grips_text.SUFFIX or (plain and grips_text.looks_like(data.decode("utf-8", "replace"))):
        return grips_text.read_song(data, path.name, builtin_library())
    imported = _READERS.get(suffix, chart_text.read)(data, path.name)
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
    writers: dict[str, Callable[[], bytes]] = {
        ".yhinge": lambda: project_file.write(song, draft),
        ".txt": lambda: song.chart.text.encode() or chart_text.write(song.chart),
        ".chart": lambda: song.chart.text.encode() or chart_text.write(song.chart),
        ".mid": lambda: _format("midi").write(song, bassist_keys(song, library)),
        ".midi": lambda: _format("midi").write(song, bassist_keys(song, library)),
        ".musicxml": lambda: score_of(song, library),
        ".xml": lambda: score_of(song, library),
        ".mxl": lambda: _format("musicxml").packed(score_of(song, library)),
        ".abc": lambda: _format("abc_out").write(song.chart),
        ".cho": lambda: _format("chordpro").write(song.chart),
        ".chordpro": lambda: _format("chordpro").write(song.chart),
        ".csv": lambda: _table(song, library),
        grips_text.SUFFIX: lambda: grips_text.write(song),
    }
    writers |= {own: partial(_sound, song, library, own) for own in SOUND_SUFFIXES}
    if suffix not in writers:
        what = f"{suffix or 'no suffix'} is not a format that can be written"
        raise BadInput(Problem("export", what, f"use {', '.join(WRITE_SUFFIXES)}"))
    if suffix not in (".yhinge", ".txt", ".chart") and not song.slots:
        raise BadInput(Problem("export", "there are no chords yet", "write a chart first"))
    return writers[suffix]()


def score_of(song: Song, library: Library) -> bytes:
    """The song as MusicXML, with fingers and bassist."""
    found = row(song, library)
    fingers = [(one.left_fingers, one.right_fingers) for one in found.held]
    score: bytes = _format("musicxml").write(song, found.bassist, fingers)
    return score


def _table(song: Song, library: Library) -> bytes:
    from yellow_hinge.tasks.files.row_table import row_table  # noqa: PLC0415

    return row_table(song, library)


def _sound(song: Song, library: Library, suffix: str) -> bytes:
    from yellow_hinge.tasks.files.sound_file import SoundWishes, sound_file  # noqa: PLC0415 - sound libraries

    return sound_file(song, library, suffix, SoundWishes())


def demo_song(name: str) -> Song:
    """One of :data:`DEMO_SONGS`, already solved."""
    data = (files("yellow_hinge.demo") / f"{name}.yhinge").read_bytes()
    return project_file.read(data, name).song
