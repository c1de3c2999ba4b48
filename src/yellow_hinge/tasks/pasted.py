"""Text from anywhere as a song: what it was taken for, line by line, before anything is done with it."""

from __future__ import annotations

import re
from collections.abc import Callable

from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import abc_in, chart_text, chordpro, over_words
from yellow_hinge.formats.imported import Imported
from yellow_hinge.song.chart import Chart

_KINDS = {"chords": "chords", "words": "words", "section": "section", "heading": "says", "blank": ""}
_PLACE = "what was pasted"
_DIRECTIVE = re.compile(r"\s*\{[a-zA-Z_]+[:}\s]")
#: A chord in brackets that touches a word.
_INLINE = re.compile(r"\w\[[A-G][^\]\n]{0,12}\]|\[[A-G][^\]\n]{0,12}\]\w")
Reader = Callable[[bytes, str], Imported]


class Recognised(Struct, frozen=True):
    """What a text was taken for; ``chart`` is None where it could not be read, and ``problems`` say why.
    ``lines`` are (what it is, text) of each line."""

    words: str
    chart: Chart | None
    problems: tuple[Problem, ...]
    lines: tuple[tuple[str, str], ...]


def recognise(text: str) -> Recognised:
    """Chart text, ABC, ChordPro, chords over words or plain rows of chords, whichever it is."""
    text = chart_text.cleaned(text)
    words, reader, lines = _taken_for(text)
    try:
        imported = reader(text.encode(), _PLACE)
    except BadInput as error:
        return Recognised(words, None, error.problems, lines)
    return Recognised(words, imported.chart, imported.problems, lines)


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
