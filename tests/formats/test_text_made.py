"""Text files as others write them: what is not read as it is meant is said, and nearly all is."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import pytest

from yellow_hinge.errors import BadInput
from yellow_hinge.formats.project_file import Opened
from yellow_hinge.formats.song_lines import GERMAN, NO_LENGTHS
from yellow_hinge.song.chart import MelodyNote
from yellow_hinge.song.words import Singing
from yellow_hinge.tasks.files.formats import decode
from yellow_hinge.theory.chord_symbol import parse_chord

from . import text_made

#: What is said of most such files, and excuses nothing.
_USUAL = (NO_LENGTHS, GERMAN, "it says no key")
Notes = list[tuple[Fraction, int | None]]


def merged(notes: Notes) -> Notes:
    """Rests that follow each other are one."""
    found: Notes = []
    for quarters, key in notes:
        joins = key is None and found and found[-1][1] is None
        found.append((quarters + (found.pop()[0] if joins else 0), key))
    return found


def tune(opened: Opened) -> Notes:
    notes: Notes = []
    for played in opened.song.chart.played:
        unit = played.bar.meter.quarters_per_beat
        for note in played.bar.melody or (MelodyNote(None, Fraction(played.bar.meter.beats)),):
            notes.append((note.beats * unit, note.pitch.key if note.pitch else None))
    return merged(notes)


def words(opened: Opened) -> list[str]:
    chart = opened.song.chart
    singing = Singing(chart)
    first = [verses[0] for place in range(len(chart.played)) if (verses := singing.verses(place))]
    return [one.text for verse in first for _, one in verse.syllables if not one.held]


def judged(made: text_made.Made) -> str:
    """Whether a file is read exactly, otherwise with a remark, wrong in silence, or refused."""
    try:
        opened = decode(made.text.encode(), made.suffix, "it")
    except BadInput:
        return "refused"
    song, meant = opened.song, [str(parse_chord(name)) for name in made.chords]
    exact = [str(one.written.chord) for one in song.chart.placed] == meant
    exact &= song.title == made.title or not made.title
    if made.notes:
        exact &= tune(opened) == merged(made.notes) and words(opened) == made.words
    said = [one for one in opened.problems if one.what not in _USUAL]
    return "exact" if exact else "said" if said else "silent"


@pytest.mark.parametrize("kind", [text_made.over_words, text_made.chordpro, text_made.grid, text_made.abc])
def test_files_of_others_are_read_as_they_are_meant(kind: Callable[[int], text_made.Made]) -> None:
    found = [judged(kind(seed)) for seed in range(150)]
    assert found.count("exact") >= 149 and "silent" not in found and "refused" not in found
