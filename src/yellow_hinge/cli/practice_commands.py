"""What the practice commands do: a thin skin on tasks. Loaded with all commands, so it defers what is
heavy."""

from __future__ import annotations

import argparse
import math
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from yellow_hinge.cli.library import own_library
from yellow_hinge.cli.reading import progress_of, read_song
from yellow_hinge.cli.streams import out, print_json, say
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.motion.plan import Planner
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.pretty import counted

if TYPE_CHECKING:
    from yellow_hinge.practice.log import Log
    from yellow_hinge.practice.piece import Piece


def _pieces(options: argparse.Namespace) -> list[Piece]:
    """The songs, voiced where they are not."""
    from yellow_hinge.tasks.practice.room import piece_of  # noqa: PLC0415 - only practice needs it

    library = own_library()
    planner = Planner(library)
    pieces = []
    for name in options.files:
        song = read_song(name)
        if not song.solved:
            song = voice_song(song, library, planner, progress_of("voicing")).song
        pieces.append(piece_of(song, library))
    return pieces


def _checked(options: argparse.Namespace) -> None:
    from yellow_hinge.tasks.practice.desk import MOST_DAYS, MOST_MINUTES  # noqa: PLC0415

    if not math.isfinite(options.minutes) or not 1 <= options.minutes <= MOST_MINUTES:
        what = f"{options.minutes:g} minutes"
        raise BadInput(
            Problem("--minutes", what, f"ask for 1 to {MOST_MINUTES:g}, in short blocks with breaks")
        )
    if not 1 <= options.days <= MOST_DAYS:
        raise BadInput(Problem("--days", f"{options.days} days", f"ask for 1 to {MOST_DAYS}"))
    if options.seed < 0:
        raise BadInput(Problem("--seed", f"{options.seed}", "give a whole number from 0 on"))


def _log(options: argparse.Namespace) -> Log:
    from yellow_hinge.tasks.practice.desk import log_at  # noqa: PLC0415

    return log_at(None if options.log is None else Path(options.log))


def plan(options: argparse.Namespace) -> None:
    from yellow_hinge.practice.plan import Wishes  # noqa: PLC0415
    from yellow_hinge.tasks.practice.desk import plan_report, plan_text  # noqa: PLC0415

    _checked(options)
    wishes = Wishes(options.minutes, options.apart, options.order)
    moment = datetime.now().astimezone()
    log = _log(options)
    report = plan_report(_pieces(options), log, wishes, moment, options.days)
    _say_remarks(log)
    if options.json:
        print_json(report)
    else:
        out(plan_text(report))


def simulate(options: argparse.Namespace) -> None:
    from yellow_hinge.tasks.practice.desk import simulate_report, simulate_text  # noqa: PLC0415

    _checked(options)
    log = None if options.log is None else _log(options)
    report = simulate_report(
        _pieces(options), options.minutes, options.days, options.order, options.seed,
        progress=progress_of("days"), log=log,
    )  # fmt: skip
    _say_remarks(log)
    if options.json:
        print_json(report)
    else:
        out(simulate_text(report))


def log(options: argparse.Namespace) -> None:
    from yellow_hinge.tasks.practice.desk import log_csv, log_report, log_text  # noqa: PLC0415

    pieces, log = _pieces(options), _log(options)
    if options.forget:
        out(_forget(log, pieces))
    elif options.csv:
        there = log.path.exists()
        songs = [piece.id for piece in pieces] or None
        out(log_csv(log.tries(songs), log.titles()).rstrip("\n") if there else log_csv((), {}).rstrip("\n"))
    else:
        report = log_report(pieces, log, datetime.now().astimezone())
        if options.json:
            print_json(report)
        else:
            out(log_text(report))
    _say_remarks(log)


def _say_remarks(log: Log | None) -> None:
    for problem in () if log is None else log.remarks:
        say(problem)


def _forget(log: Log, pieces: list[Piece]) -> str:
    if not pieces:
        raise BadInput(Problem("--forget", "no song is named", "name the songs whose log is to be deleted"))
    gone = sum(log.forget(piece.id) for piece in pieces) if log.path.exists() else 0
    return f"{counted(gone, 'try', 'tries')} deleted"
