"""The row as a table for other programs: a line for each chord that sounds."""

from __future__ import annotations

import csv
import io

from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.theory.chord_symbol import symbol_text
from yellow_hinge.voicing.recipes import Library

HEADINGS = (
    "bar", "beat", "beats", "section", "symbol", "number", "left", "left degrees", "left fingers", "right",
    "right degrees", "right fingers", "half steps on", "move",
)  # fmt: skip


def row_table(song: Song, library: Library) -> bytes:
    """Comma-separated values, UTF-8: both hands with notes, degrees and fingers, and the way to the next
    chord with its half steps."""
    found = row(song, library)
    table = io.StringIO()
    writer = csv.writer(table)
    writer.writerow(HEADINGS)
    for slot, held in zip(song.slots, found.held, strict=True):
        hands: list[str] = []
        for side in ("left", "right"):
            shape, fingers = held.hand(side)
            pitches = shape.pitches(slot.chord) if slot.chord is not None else ()
            hands += [" ".join(map(str, pitches)), " ".join(shape.degrees), " ".join(map(str, fingers))]
        way = found.hinges[slot.index] if slot.index < len(song.slots) - 1 else None
        number = "" if slot.chord is None else song.number_of(slot.chord, slot.key)
        moves = ("", "") if way is None else (way.motion_st, way.words)
        place = (slot.bar, float(slot.beat), float(slot.beats), slot.section)
        writer.writerow([*place, symbol_text(slot.chord), number, *hands, *moves])
    return table.getvalue().encode()
