"""Reads a file of any format that we know, and says everything that is wrong with it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem, YellowHingeError
from yellow_hinge.formats.files import read_bytes
from yellow_hinge.reharm.formulas import FORMULAS_SCHEMA
from yellow_hinge.rhythm.patterns import PATTERNS_SCHEMA, read_patterns
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.formats import READ_SUFFIXES, decode
from yellow_hinge.tasks.files.opening import MAX_BYTES, open_song
from yellow_hinge.tasks.settings.library import read_own_recipes
from yellow_hinge.tasks.settings.own_files import decoded
from yellow_hinge.tasks.settings.profiles import read_profiles
from yellow_hinge.tasks.song.drafts import checked_as_it_is, draft_remarks
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.swaps.own_formulas import own_formulas_in
from yellow_hinge.voicing.recipes import Library

Problems = Sequence[Problem]


class Checked(Struct, frozen=True):
    """What came of a file: ``problems`` of one that is ``ok`` are remarks."""

    file: str
    ok: bool
    problems: Problems

    @property
    def lines(self) -> list[str]:
        """For people."""
        return [
            f"{self.file}: {'good' if self.ok else 'not good'}",
            *(f"    {problem}" for problem in self.problems),
        ]


def check_file(path: Path, library: Library) -> Checked:
    """Read a file by its suffix."""
    return _checked(str(path), lambda: _read(path, library))


def check_data(name: str, data: bytes, library: Library) -> Checked:
    """Check a song that came from somewhere else, by its content."""

    def read() -> Problems:
        opened = decode(data, "", name)
        return (*opened.problems, *_song_problems(opened.song, library))

    return _checked(name, read)


def _checked(name: str, read: Callable[[], Problems]) -> Checked:
    try:
        return Checked(name, True, tuple(read()))
    except YellowHingeError as error:
        return Checked(name, False, error.problems)


def _read(path: Path, library: Library) -> Problems:
    suffix, place = path.suffix.lower(), path.name
    if suffix in READ_SUFFIXES:
        opened = open_song(path)
        draft = () if opened.draft is None else draft_remarks(checked_as_it_is(opened.song, opened.draft))
        return (*opened.problems, *draft, *_song_problems(opened.song, library))
    others: dict[str, Callable[[bytes, str], object]] = {
        ".toml": lambda data, place: _read_own(data, place, library),
        ".json": read_profiles,
    }
    if suffix not in others:
        what = f"{suffix or 'no suffix'} is no format that is read"
        raise BadInput(Problem(str(path), what, f"use {', '.join((*READ_SUFFIXES, *others))}"))
    others[suffix](read_bytes(path, MAX_BYTES), place)
    return ()


def _read_own(data: bytes, place: str, library: Library) -> None:
    """One of the player's own files: its schema says which. Raises :class:`BadInput`."""
    text = decoded(data, place)
    if PATTERNS_SCHEMA in text:
        read_patterns(text, place)
    elif FORMULAS_SCHEMA in text:
        own_formulas_in(text, place)
    else:
        read_own_recipes(data, place, library)


def _song_problems(song: Song, library: Library) -> Problems:
    """What a search would refuse before it begins, such as a school that is not there. Raises
    :class:`BadInput`."""
    if song.slots:
        progression(song, library)
    return ()


def check_report(checks_made: Sequence[Checked]) -> dict[str, Any]:
    """For programs."""
    return {
        "files": [
            {
                "file": checked.file,
                "ok": checked.ok,
                "problems": [
                    {"place": each.place, "what": each.what, "remedy": each.remedy}
                    for each in checked.problems
                ],
            }
            for checked in checks_made
        ]
    }
