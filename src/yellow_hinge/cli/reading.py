"""What commands share: the song of a file with the options' hands, and progress."""

from __future__ import annotations

import argparse
import sys
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from yellow_hinge.cli.streams import read_input, say
from yellow_hinge.errors import Problem
from yellow_hinge.formats.text_in import Asked
from yellow_hinge.hands.profile import parse_reach
from yellow_hinge.reharm.styles import style_of
from yellow_hinge.song.edits import change_hands, settle, with_prices
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.files.formats import decode
from yellow_hinge.tasks.files.opening import MAX_BYTES, open_song
from yellow_hinge.tasks.keys.moved import to_key
from yellow_hinge.tasks.settings.own_styles import every_style
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.tasks.taste.taste import Taste


def settled(options: argparse.Namespace, song: Song, library: Library) -> Song:
    """The song with the hands, wishes and taste of the options, in its current take."""
    changes = {
        name: getattr(options, name, None) for name in ("school", "bass", "colour", "hands", "top_line")
    }
    song = in_style(song, getattr(options, "style", None))
    if options.school is not None:
        library.school(options.school, "--school")
    if getattr(options, "taste", None) is not None:
        song = with_prices(song, taste_in(options).prices(""))
    if options.reach is not None:
        song = change_hands(song, song.hands.with_reach(*parse_reach(options.reach))).song
    return settle(song, **{name: value for name, value in changes.items() if value is not None}).song


def taste_in(options: argparse.Namespace) -> Taste:
    """The taste of the options. Raises :class:`BadInput` and :class:`FileTrouble`."""
    from yellow_hinge.tasks.taste.kept import open_taste  # noqa: PLC0415 - only where it is asked for

    return open_taste(Path(options.taste))


def in_style(song: Song, style: str | None) -> Song:
    """The song with a style of swaps; None: as it is."""
    if style is None:
        return song
    return settle(song, style=style_of(style, every_style(), "--style").id).song


def read_song(name: str, number: int | None = None) -> Song:
    """The song of a file, of several that it has by its ``number`` from 1; what is to be said of it is
    said."""
    asked = Asked(song=None if number is None else number - 1)
    typed = name == "-"
    opened = (
        decode(read_input(MAX_BYTES), "", "standard input", asked) if typed else open_song(Path(name), asked)
    )
    for problem in opened.problems:
        say(problem)
    return opened.song


def song_of(options: argparse.Namespace, library: Library) -> Song:
    """The song of FILE with the options' key and hands."""
    return settled(options, in_key(read_song(options.file), options.key), library)


def in_key(song: Song, key: str | None) -> Song:
    """The song in another key; what cannot be carried there is said."""
    if key is None:
        return song
    edit = to_key(song, parse_key(key, "--key"))
    for words in (*edit.lost, *edit.remarks):
        say(Problem("--key", words, "look at it in the new key"))
    return edit.song


def progress_of(what: str) -> Progress:
    """Shows a share on standard error when that is a terminal."""
    if not sys.stderr.isatty():
        return lambda _: True

    def show(share: float) -> bool:
        end = "\r" if share < 1 else "\r" + " " * 30 + "\r"
        with suppress(OSError, ValueError):
            print(f"{what}: {share:.0%}", end=end, file=sys.stderr, flush=True)
        return True

    return show
