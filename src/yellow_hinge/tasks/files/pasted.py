"""Text from anywhere as a song: what it was taken for, line by line, before anything is done with it."""

from __future__ import annotations

import re
from collections.abc import Callable

from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import abc_in, chart_text, chordpro, over_words
from yellow_hinge.formats.imported import Imported
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips import page as grips_text
from yellow_hinge.voicing.recipes import Library

_KINDS = {"chords": "chords", "words": "words", "section": "section", "heading": "says", "blank": ""}
_PLACE = "what was pasted"
_DIRECTIVE = re.compile(r"\s*\{[a-zA-Z_]+[:}\s]")
#: A chord in brackets that touches a word.
_INLINE = re.compile(r"\w\[[A-G][^\]\n]{0,12}\]|\[[A-G][^\]\n]{0,12}\]\w")
Reader = Callable[[bytes, str], Imported]


class Recognised(Struct, frozen=True):
    """What a text was taken for; ``chart`` is None where it could not be read, and ``problems`` say why.
    ``lines`` are (what it is, text) of each line. ``page`` has the grips of a page of grips."""

    words: str
    chart: Chart | None
    problems: tuple[Problem, ...]
    lines: tuple[tuple[str, str], ...]
    page: grips_text.Page | None = None

    def song(self, library: Library) -> Song:
        """What was read as a new song, its grips locked. Not without a chart."""
        assert self.chart is not None
        song = Song(self.chart)
        return song if self.page is None else grips_text.locked(song, self.page, library)


def recognise(text: str) -> Recognised:
    """Grips, chart text, ABC, ChordPro, chords over words or plain rows of chords, whichever it is."""
    text = chart_text.cleaned(text)
    if grips_text.looks_like(text):
        return _grips(text)
    words, reader, lines = _taken_for(text)
    try:
        imported = reader(text.encode(), _PLACE)
    except BadInput as error:
        return Recognised(words, None, error.problems, lines)
    return Recognised(words, imported.chart, imported.problems, lines)


def _grips(text: str) -> Recognised:
    words, lines = "a page of grips", tuple(("", row) for row in text.split("\n"))
    try:
        page = grips_text.read_page(text, _PLACE)
    except BadInput as error:
        return Recognised(words, None, error.problems, lines)
    return Recognised(words, page.chart, (), lines, page)


def _taken_for(text: str) -> tuple[str, Reader, tuple[tuple[str, str], ...]]:
    rows = text.split("\n")
    if any(row.startswith("X:") for row in rows) and any(row.startswith("K:") for row in rows):
        return "ABC notation", abc_in.read, tuple(("", row) for row in rows)
    if any(_DIRECTIVE.match(row) for row in rows) or _INLINE.search(text):
        return "ChordPro", chordpro.read, tuple(("", row) for row in rows)
    if any(row.lstrip().startswith("|") for row in rows):
        return "chart text", chart_text.read, tuple(("", row) for row in rows)
    understood = over_words.understand(text)
    lines = tuple((_KINDS[one.kind], one.text) for one in understood)
    return "chords over words", over_words.read, lines
