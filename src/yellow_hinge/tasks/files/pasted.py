"""Text from anywhere as a song: what it was taken for, line by line, before anything is done with it."""

from __future__ import annotations

from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import chart_text, over_words, text_in
from yellow_hinge.formats.text_in import Asked
from yellow_hinge.formats.text_kinds import Kind, kind_of
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips import page as grips_text
from yellow_hinge.voicing.recipes import Library

_KINDS: dict[Kind, str] = {
    "abc": "ABC notation", "chordpro": "ChordPro", "chart": "chart text", "words": "chords over words",
}  # fmt: skip
_LINES = {
    "chords": "chords",
    "words": "words",
    "section": "section",
    "heading": "says",
    "tab": "left out",
    "blank": "",
}
_PLACE = "what was pasted"


class Recognised(Struct, frozen=True):
    """What a text was taken for; ``chart`` is None where it could not be read, and ``problems`` say why.
    ``lines`` are (what it is, text) of each line. ``page`` has the grips of a page of grips. What may be
    asked: ``titles`` of the songs, where it has several, and whether ``names_b_flat``, a B, is one."""

    words: str
    chart: Chart | None
    problems: tuple[Problem, ...]
    lines: tuple[tuple[str, str], ...]
    page: grips_text.Page | None = None
    titles: tuple[str, ...] = ()
    names_b_flat: bool = False

    def song(self, library: Library) -> Song:
        """What was read as a new song, its grips locked. Not without a chart."""
        assert self.chart is not None
        song = Song(self.chart)
        return song if self.page is None else grips_text.locked(song, self.page, library)


def recognise(text: str, asked: Asked | None = None) -> Recognised:
    """Grips, chart text, ABC, ChordPro, chords over words or plain rows of chords, whichever it is."""
    text = chart_text.cleaned(text)
    if grips_text.looks_like(text):
        return _grips(text)
    try:
        kind = kind_of(text, _PLACE)
    except BadInput as error:
        return Recognised(_KINDS["words"], None, error.problems, tuple(("", row) for row in text.split("\n")))
    titles, lines = text_in.titles(text, kind), _lines(text, kind)
    try:
        imported = text_in.read(kind, text.encode(), _PLACE, asked)
    except BadInput as error:
        return Recognised(_KINDS[kind], None, error.problems, lines, titles=titles)
    return Recognised(
        _KINDS[kind], imported.chart, imported.problems, lines, titles=titles,
        names_b_flat=imported.names_b_flat,
    )  # fmt: skip


def _grips(text: str) -> Recognised:
    words, lines = "a page of grips", tuple(("", row) for row in text.split("\n"))
    try:
        page = grips_text.read_page(text, _PLACE)
    except BadInput as error:
        return Recognised(words, None, error.problems, lines)
    return Recognised(words, page.chart, (), lines, page)


def _lines(text: str, kind: Kind) -> tuple[tuple[str, str], ...]:
    if kind == "words":
        return tuple((_LINES[one.kind], one.text) for one in over_words.understand(text))
    return tuple(("", row) for row in text.split("\n"))
