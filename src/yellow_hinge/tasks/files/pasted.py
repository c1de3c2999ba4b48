"""Text from anywhere as a song: what it was taken for, line by line, before anything is done with it."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import abc_in, chart_text, chordpro, over_words
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.text_kinds import kind_of
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips import page as grips_text
from yellow_hinge.voicing.recipes import Library

_KINDS = {
    "chords": "chords",
    "words": "words",
    "section": "section",
    "heading": "says",
    "tab": "left out",
    "blank": "",
}
_PLACE = "what was pasted"
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
    kind = kind_of(text)
    if kind == "words":
        understood = over_words.understand(text)
        lines = tuple((_KINDS[one.kind], one.text) for one in understood)
        return "chords over words", over_words.read, lines
    words, reader = _READERS[kind]
    return words, reader, tuple(("", row) for row in text.split("\n"))


_READERS: dict[str, tuple[str, Reader]] = {
    "abc": ("ABC notation", abc_in.read),
    "chordpro": ("ChordPro", chordpro.read),
    "chart": ("chart text", chart_text.read),
}
