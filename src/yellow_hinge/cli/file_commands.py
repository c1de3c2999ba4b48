"""What the commands do that check files and change their format: a thin skin on tasks."""

from __future__ import annotations

import argparse
from pathlib import Path

from yellow_hinge.cli import BAD_INPUT
from yellow_hinge.cli.library import own_library
from yellow_hinge.cli.reading import progress_of, read_song
from yellow_hinge.cli.streams import out, print_json, read_input
from yellow_hinge.motion.plan import Planner
from yellow_hinge.tasks.files.check_file import check_data, check_file, check_report
from yellow_hinge.tasks.files.formats import VOICED_SUFFIXES
from yellow_hinge.tasks.files.opening import MAX_BYTES, save_song
from yellow_hinge.tasks.song.voice_song import voice_song


def check(options: argparse.Namespace) -> int:
    """Read every file, whatever it holds; exit 2 if any has an error."""
    library = own_library()
    checks_made = []
    for name in options.files:
        if name == "-":
            checks_made.append(check_data(name, read_input(MAX_BYTES), library))
        else:
            checks_made.append(check_file(Path(name), library))
    if options.json:
        print_json(check_report(checks_made))
    else:
        out("\n".join(line for checked in checks_made for line in checked.lines))
    return 0 if all(checked.ok for checked in checks_made) else BAD_INPUT


def convert(options: argparse.Namespace) -> None:
    library = own_library()
    song, target = read_song(options.file, options.song), Path(options.out)
    if target.suffix.lower() in VOICED_SUFFIXES and not song.solved:
        song = voice_song(song, library, Planner(library), progress_of("voicing")).song
    save_song(song, target, library)
