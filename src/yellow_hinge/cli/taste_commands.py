"""What the commands do that learn a player's taste: a thin skin on tasks."""

from __future__ import annotations

import argparse
from pathlib import Path

from yellow_hinge.cli.library import own_library
from yellow_hinge.cli.reading import progress_of, settled
from yellow_hinge.cli.streams import out, print_json, say
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.chart_text import MAX_BYTES, decode
from yellow_hinge.formats.files import read_bytes, write_atomically
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips.page import locked, read_page
from yellow_hinge.tasks.reports.taste import learnt_report, learnt_text, taste_report, taste_words
from yellow_hinge.tasks.taste import learning
from yellow_hinge.tasks.taste.kept import open_taste, taste_text
from yellow_hinge.tasks.taste.learning import OwnRow
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import Library


def learn(options: argparse.Namespace) -> None:
    """A taste from pages of grips, written down."""
    library = own_library()
    rows = [_own_row(name, options, library) for name in options.files]
    if not any(grip is not None for row in rows for grip in row.grips):
        remedy = "write grips such as Dm7: D3 C4 ; F4 A4"
        raise BadInput(Problem("taste learn", "there are no grips to learn from", remedy))
    taste = learning.learn(rows, library, progress_of("learning"))
    school = library.school(rows[0].song.arrangement.school)
    if len(rows) == 1:
        what = "one row alone cannot say how sure it is: prices move little"
        say(Problem(options.files[0], what, "give more rows, each in a file of its own"))
    write_atomically(Path(options.out), taste_text(taste, school).encode())
    if options.json:
        print_json(learnt_report(taste, rows, school))
    else:
        out(learnt_text(taste, rows, school))


def show(options: argparse.Namespace) -> None:
    """What a taste says, in words."""
    library = own_library()
    taste = open_taste(Path(options.file))
    school = library.school(taste.school or "solo", options.file)
    if options.json:
        print_json(taste_report(taste, school))
    else:
        out(taste_words(taste, school))


def _own_row(name: str, options: argparse.Namespace, library: Library) -> OwnRow:
    key = None if options.key is None else parse_key(options.key, "--key")
    page = read_page(decode(read_bytes(Path(name), MAX_BYTES), name), name, key)
    song = settled(options, Song(page.chart), library)
    own = locked(song, page, library)
    grips = tuple(own.voicing(slot.index) if own.locked(slot.index) else None for slot in own.slots)
    return OwnRow(song.title or Path(name).stem, song, grips)
