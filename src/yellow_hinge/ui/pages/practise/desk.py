"""What the Practise page works with, worked out beside the window: songs, what is known of them, the log."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.motion.plan import Planner
from yellow_hinge.practice.history import sure_of
from yellow_hinge.practice.log import Log, Session, Try
from yellow_hinge.practice.plan import Shelf
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.keys.moved import shown_in
from yellow_hinge.tasks.practice.room import piece_of, pieces_in_keys
from yellow_hinge.tasks.practice.shelf import songs_on
from yellow_hinge.tasks.settings.practice_settings import Settings
from yellow_hinge.ui.pages.practise.state import Desk, make_plans
from yellow_hinge.voicing.recipes import Library


def make_desk(
    song: Song,
    shelf: list[Path],
    library: Library,
    settings: Settings,
    log_path: Path,
    *,
    moment: datetime,
    progress: Progress,
) -> tuple[Desk, tuple[Problem, ...]]:
    """The open song first, then those of the shelf, then further keys of the open one; with the problems of
    files that could not be opened."""
    on_shelf = songs_on(shelf, library, Planner(library), progress) if shelf else []
    problems = tuple(problem for one in on_shelf for problem in one.problems)
    songs = [song]
    for one in on_shelf:
        if one.song is not None and one.song.own_id != song.own_id:
            songs.append(one.song)
    pieces = [piece_of(one, library) for one in songs]
    further = pieces_in_keys(song, library)
    in_keys = [
        shown_in(song, key) for key in sorted(song.keys_chosen - {song.key}, key=lambda key: key.fifths)
    ]
    every = [*pieces, *further]
    tries, sessions, session, trouble = _from_log(log_path, {piece.id for piece in every}, moment)
    sure = sure_of(every, tries, moment)
    known = Shelf(every, sure, moment, len(pieces))
    plans = make_plans(known, settings)
    desk = Desk((*songs, *in_keys), known, plans, session, tuple(tries), sessions=tuple(sessions))
    return desk, (*problems, *trouble)


def _from_log(
    path: Path, songs: set[str], moment: datetime
) -> tuple[list[Try], list[Session], Session | None, tuple[Problem, ...]]:
    """What the log knows; where it cannot be used that is said, and one practises without."""
    log = Log(path)
    try:
        if not path.exists():
            return [], [], None, ()
        known = log.tries(list(songs)), log.sessions(), log.unfinished(moment)
        return *known, tuple(log.remarks)
    except YellowHingeError as error:
        return [], [], None, error.problems
    finally:
        log.close()
