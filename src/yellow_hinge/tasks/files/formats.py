"""The formats that songs are read from and written to. A new one is a row of :data:`FORMATS`: opening,
saving, letting go over the window, export, ``convert`` and ``check`` list what stands there."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from importlib import import_module
from typing import Any

from msgspec import Struct, structs

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import chart_text, project_file, text_in
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.project_file import Opened
from yellow_hinge.formats.text_in import Asked
from yellow_hinge.formats.text_kinds import Kind, kind_of, suffix_of, utf8
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips import page as grips_text
from yellow_hinge.tasks.song.describe_song import bassist_keys, row
from yellow_hinge.voicing.recipes import Library, builtin_library

Read = Callable[[bytes, str, Asked], Opened]
Write = Callable[[Song, Library, str | None], bytes]


class FileFormat(Struct, frozen=True):
    """A format: its suffixes, the usual one first; what the dialogs call it; how a file of it becomes a song
    (None: it is only written), and a song its bytes (None: it is only read). The writer gets text that could
    not be read yet as well. ``voiced``: it holds voicings, and not only chords; ``exported``: one exports to
    it, rather than saving or recording; ``alone``: a song without chords can be written."""

    suffixes: tuple[str, ...]
    words: str
    read: Read | None = None
    write: Write | None = None
    voiced: bool = False
    exported: bool = True
    alone: bool = False


def _module(name: str) -> Any:
    """A format by the name of its module: loaded when a file of it is read or written, since the window opens
    without."""
    return import_module(f"yellow_hinge.formats.{name}")


def _opened(imported: Imported) -> Opened:
    return Opened(Song(imported.chart), imported.problems, names_b_flat=imported.names_b_flat)


def _reader(name: str) -> Read:
    return lambda data, place, _: _opened(_module(name).read(data, place))


def _chart_writer(name: str) -> Write:
    return lambda song, *_: bytes(_module(name).write(song.chart))


def _read_project(data: bytes, place: str, _: Asked) -> Opened:
    return project_file.read(data, place)


class _Text(Struct, frozen=True):
    """Reads text in whatever letters, ``named`` by its suffix. What goes by the name of a chart is read for
    what it is; so are chords over words that go by the name of ChordPro, and grips without a name."""

    named: Kind | None = None

    def __call__(self, data: bytes, place: str, asked: Asked) -> Opened:
        plain, remarks, text = self._decoded(data, place)
        if self.named is None and grips_text.looks_like(text):
            opened = _read_grips(plain, place, asked)
        else:
            opened = _opened(text_in.read(self._kind(text, place), plain, place, asked))
        return structs.replace(opened, problems=(*remarks, *opened.problems))

    def titles(self, data: bytes, place: str) -> tuple[str, ...]:
        """What the songs in it are called."""
        _, _, text = self._decoded(data, place)
        return text_in.titles(text, self._kind(text, place))

    def _decoded(self, data: bytes, place: str) -> tuple[bytes, tuple[Problem, ...], str]:
        plain, remarks = utf8(data, place)
        return plain, remarks, chart_text.cleaned(plain.decode("utf-8", "replace"))

    def _kind(self, text: str, place: str) -> Kind:
        there = kind_of(text, place)
        judged = self.named == "chart" or (self.named == "chordpro" and there == "words")
        return there if judged or self.named is None else self.named


def _read_grips(data: bytes, place: str, _: Asked) -> Opened:
    data, _remarks = utf8(data, place)
    return grips_text.read_song(data, place, builtin_library())


def _read_midi(data: bytes, place: str, _: Asked) -> Opened:
    from yellow_hinge.tasks.files.played_midi import read_midi  # noqa: PLC0415 - brings NumPy

    return read_midi(data, place)


def _write_midi(song: Song, library: Library, _: str | None) -> bytes:
    return bytes(_module("midi").write(song, bassist_keys(song, library)))


def _write_text(song: Song, *_: object) -> bytes:
    return song.chart.text.encode() or chart_text.write(song.chart)


def score_of(song: Song, library: Library) -> bytes:
    """The song as MusicXML, with fingers and bassist."""
    found = row(song, library)
    fingers = [(held.left_fingers, held.right_fingers) for held in found.held]
    score: bytes = _module("musicxml").write(song, found.bassist, fingers)
    return score


def _write_score(song: Song, library: Library, _: str | None) -> bytes:
    return score_of(song, library)


def _write_packed(song: Song, library: Library, _: str | None) -> bytes:
    return bytes(_module("musicxml").packed(score_of(song, library)))


def _write_table(song: Song, library: Library, _: str | None) -> bytes:
    from yellow_hinge.tasks.files.row_table import row_table  # noqa: PLC0415 - only where it is wanted

    return row_table(song, library)


def _sound(suffix: str, song: Song, library: Library, _: str | None) -> bytes:
    from yellow_hinge.tasks.files.sound_file import SoundWishes, sound_file  # noqa: PLC0415 - sound libraries

    return sound_file(song, library, suffix, SoundWishes())


FORMATS = (
    FileFormat((project_file.SUFFIX,), "Project", _read_project,
               lambda song, _, draft: project_file.write(song, draft), voiced=True, exported=False,
               alone=True),
    FileFormat((".mid", ".midi"), "MIDI, a track for each hand", _read_midi, _write_midi, voiced=True),
    FileFormat((".musicxml", ".xml"), "MusicXML score", _reader("musicxml"), _write_score, voiced=True),
    FileFormat((".mxl",), "MusicXML score, packed", _reader("musicxml"), _write_packed, voiced=True),
    FileFormat((".txt",), "Chart text", _Text(), _write_text, alone=True),
    FileFormat((".chart",), "Chart text", _Text("chart"), _write_text, exported=False, alone=True),
    FileFormat((".cho", ".chordpro"), "ChordPro", _Text("chordpro"), _chart_writer("chordpro")),
    FileFormat((".chopro", ".pro"), "ChordPro", _Text("chordpro")),
    FileFormat((".abc",), "ABC notation, tune and chords", _Text("abc"), _chart_writer("abc_out")),
    FileFormat((".csv",), "Table of the row", write=_write_table, voiced=True),
    FileFormat((grips_text.SUFFIX,), "Grips as text", _read_grips, lambda song, *_: grips_text.write(song),
               voiced=True),
    *(
        FileFormat((suffix,), f"Sound, {suffix[1:].upper()}", write=partial(_sound, suffix), voiced=True,
                   exported=False)
        for suffix in (".wav", ".flac", ".ogg")
    ),
)  # fmt: skip
BY_SUFFIX = {suffix: kind for kind in FORMATS for suffix in kind.suffixes}
READ_SUFFIXES = tuple(suffix for suffix, kind in BY_SUFFIX.items() if kind.read)
WRITE_SUFFIXES = tuple(suffix for suffix, kind in BY_SUFFIX.items() if kind.write)
#: Formats that hold voicings and not only chords.
VOICED_SUFFIXES = tuple(suffix for suffix, kind in BY_SUFFIX.items() if kind.voiced)
SOUND_SUFFIXES = (".wav", ".flac", ".ogg")
#: What is exported, as the dialog lists it.
EXPORTS = tuple(f"{kind.words} (*{kind.suffixes[0]})" for kind in FORMATS if kind.exported and kind.write)
#: What is opened, as the dialog lists it.
SONG_FILES = f"Songs ({' '.join(f'*{suffix}' for suffix in READ_SUFFIXES)})"


def decode(data: bytes, suffix: str, place: str, asked: Asked | None = None) -> Opened:
    """A song out of a file's bytes; without a known suffix they are read as what they are. Raises
    :class:`BadInput`."""
    asked, reader = asked or Asked(), _reader_of(data, suffix)
    if asked.song and not isinstance(reader, _Text):
        raise text_in.no_such_song(asked.song, 1, place)
    return reader(data, place, asked)


def titles(data: bytes, suffix: str, place: str) -> tuple[str, ...]:
    """What the songs of a file are called, in the formats that can hold several. Raises :class:`BadInput` for
    what is no text under the name of one."""
    reader = _reader_of(data, suffix)
    return reader.titles(data, place) if isinstance(reader, _Text) else ()


def _reader_of(data: bytes, suffix: str) -> Read:
    kind = BY_SUFFIX.get(suffix)
    if kind is None or kind.read is None:
        kind = BY_SUFFIX[suffix_of(data)]
    assert kind.read is not None
    return kind.read


def encode(song: Song, suffix: str, library: Library, draft: str | None = None) -> bytes:
    """The song's bytes in one of :data:`WRITE_SUFFIXES`. Raises :class:`BadInput`."""
    kind = BY_SUFFIX.get(suffix)
    if kind is None or kind.write is None:
        what = f"{suffix or 'no suffix'} is not a format that can be written"
        raise BadInput(Problem("export", what, f"use {', '.join(WRITE_SUFFIXES)}"))
    if not kind.alone and not song.slots:
        raise BadInput(Problem("export", "there are no chords yet", "write a chart first"))
    return kind.write(song, library, draft)
