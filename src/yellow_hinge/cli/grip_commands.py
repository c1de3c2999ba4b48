"""What the commands do that take chords and grips: a thin skin on tasks."""

from __future__ import annotations

import argparse
from pathlib import Path

from yellow_hinge.cli.library import own_library
from yellow_hinge.cli.reading import settled
from yellow_hinge.cli.streams import out, print_json, read_input
from yellow_hinge.formats.chart_text import MAX_BYTES, decode
from yellow_hinge.formats.files import read_bytes
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips.judge import Player, judge_row
from yellow_hinge.tasks.grips.page import read_grips
from yellow_hinge.tasks.reports.grips import candidates_report, judge_report, judge_text
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import Library


def player_of(options: argparse.Namespace, library: Library) -> Player:
    song = settled(options, Song(), library)
    return Player(song.arrangement, song.hands)


def judge(options: argparse.Namespace) -> None:
    library = own_library()
    key = None if options.key is None else parse_key(options.key, "--key")
    if options.file == "-":
        text, place = decode(read_input(MAX_BYTES), "standard input"), "standard input"
    else:
        text, place = decode(read_bytes(Path(options.file), MAX_BYTES), options.file), options.file
    row = judge_row(read_grips(text, key, place), key, player_of(options, library), library)
    if options.json:
        print_json(judge_report(row))
    else:
        out(judge_text(row))


def candidates(options: argparse.Namespace) -> None:
    library = own_library()
    key = None if options.key is None else parse_key(options.key, "--key")
    print_json(candidates_report(options.symbols, key, player_of(options, library), library))
