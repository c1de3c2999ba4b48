"""The shelf: the songs of an evening in their order, kept between runs as a list of files."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct
from platformdirs import user_data_path

from yellow_hinge.errors import BadInput, FileTrouble, Problem, YellowHingeError
from yellow_hinge.formats.files import read_if_there
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.files.opening import open_song
from yellow_hinge.tasks.settings.own_files import keep_text
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import Library

MOST_SONGS = 40
_MAX_BYTES = 200_000


def shelf_path() -> Path:
    """Where the list is kept: in the data folder."""
    return user_data_path("yellow-hinge") / "shelf.json"


def read_shelf() -> list[Path]:
    """The files on the shelf in their order. Raises :class:`BadInput` for a list that cannot be read."""
    path = shelf_path()
    data = read_if_there(path, _MAX_BYTES)
    if data is None:
        return []
    try:
        rows = json.loads(data)
    except (ValueError, RecursionError):
        rows = None
    if not isinstance(rows, list) or not all(isinstance(row, str) for row in rows):
        raise BadInput(Problem(str(path), "this is no list of files", "delete it, and fill the shelf anew"))
    return [Path(row) for row in rows[:MOST_SONGS]]


def keep_shelf(files: Sequence[Path]) -> None:
    """Write the list down. Raises :class:`FileTrouble`."""
    keep_text(shelf_path(), json.dumps([str(file) for file in files], indent=1) + "\n")


def added(files: Sequence[Path], file: Path) -> list[Path]:
    """With one more at the end; one that is there already stays where it is. Raises :class:`BadInput` when it
    is full."""
    path = file.resolve()
    if path in files:
        return list(files)
    if len(files) >= MOST_SONGS:
        what = f"there are {MOST_SONGS} songs on it"
        raise BadInput(Problem("the shelf", what, "take one away first"))
    return [*files, path]


def moved(files: Sequence[Path], place: int, by: int) -> list[Path]:
    """With one moved up (-1) or down (1)."""
    row = list(files)
    to = max(0, min(len(row) - 1, place + by))
    row.insert(to, row.pop(place))
    return row


class OnShelf(Struct, frozen=True):
    """A song of the shelf, voiced; or what was wrong with its file."""

    file: Path
    song: Song | None
    problems: tuple[Problem, ...] = ()


def songs_on(
    files: Sequence[Path],
    library: Library,
    planner: Planner,
    progress: Progress = always,
) -> list[OnShelf]:
    """Open the songs of a shelf; those that have no voicings yet are voiced. What cannot be opened is said,
    and the others stay."""
    shelves = []
    for number, file in enumerate(files):
        progress(number / max(1, len(files)))
        try:
            song = open_song(file).song
            voiced = song if song.solved else voice_song(song, library, planner).song
            shelves.append(OnShelf(file, voiced))
        except (YellowHingeError, FileTrouble) as error:
            shelves.append(OnShelf(file, None, error.problems))
    return shelves
