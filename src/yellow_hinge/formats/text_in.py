"""Text of a known kind as a chart: which song of several it holds, and in whose names its chords are."""

from __future__ import annotations

import re
from importlib import import_module
from itertools import pairwise
from typing import Any

from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.chart_text import cleaned
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.text_kinds import Kind

_NEW_SONG = re.compile(r"\{\s*(?:ns|new_song)\s*[:}]", re.I)
_TITLED = re.compile(r"\{\s*(?:t|title)\s*[:\s]\s*(.*?)\s*\}", re.I)
_MOST_SAID = 6
#: The module that reads each kind of text.
_MODULES: dict[Kind, str] = {
    "chart": "chart_text", "abc": "abc_in", "chordpro": "chordpro", "words": "over_words",
}  # fmt: skip
#: The kinds whose symbols may have German names.
_NAMED: tuple[Kind, ...] = ("chordpro", "words")


class Asked(Struct, frozen=True):
    """What a player says of a file that leaves it open: ``song`` is the number, from 0, of the one of several
    that is wanted (None: the first, with a remark), ``german`` whether its B is B flat (None: judged by its
    other chords, with a remark)."""

    song: int | None = None
    german: bool | None = None


class _Span(Struct, frozen=True):
    """Where a song is: from its first line to the one behind its last, counted from 0."""

    title: str
    first: int
    end: int


def titles(text: str, kind: Kind) -> tuple[str, ...]:
    """What the songs of a text are called, in order; each has a name."""
    return tuple(span.title for span in _spans(cleaned(text).split("\n"), kind))


def read(kind: Kind, data: bytes, place: str, asked: Asked | None = None) -> Imported:
    """The chart of a text in UTF-8. Raises :class:`BadInput`, for a song that is not there too."""
    asked = asked or Asked()
    lines = cleaned(data.decode("utf-8", "replace")).split("\n")
    spans = _spans(lines, kind)
    remarks: tuple[Problem, ...] = ()
    number = asked.song or 0
    if not 0 <= number < max(1, len(spans)):
        raise no_such_song(number, len(spans), place)
    if len(spans) > 1:
        data = _alone(lines, spans, number).encode()
        remarks = () if asked.song is not None else (_several(spans, place),)
    module: Any = import_module(f"yellow_hinge.formats.{_MODULES[kind]}")
    imported: Imported = (
        module.read(data, place, german=asked.german) if kind in _NAMED else module.read(data, place)
    )
    return Imported(imported.chart, (*remarks, *imported.problems), imported.names_b_flat)


def no_such_song(number: int, count: int, place: str) -> BadInput:
    """What to say where a song is asked for that is not there; ``number`` counts from 0."""
    remedy = f"choose 1 to {count}" if count > 1 else "leave the number away"
    return BadInput(Problem(place, f"there is no song number {number + 1} in it", remedy))


def _several(spans: list[_Span], place: str) -> Problem:
    names = [span.title for span in spans[:_MOST_SAID]]
    more = [f"{len(spans) - _MOST_SAID} more"] if len(spans) > _MOST_SAID else []
    what = f"{len(spans)} songs are in it: {', '.join((*names, *more))}"
    return Problem(
        place, what, f"{spans[0].title} is read; convert --song 2 reads the next", spans[0].first + 1
    )


def _spans(lines: list[str], kind: Kind) -> list[_Span]:
    """The songs that have music: those of ABC begin with X:, those of ChordPro with a directive."""
    if kind == "abc":
        starts = [number for number, line in enumerate(lines) if line.startswith("X:")]
    elif kind == "chordpro":
        starts = [0, *(number for number, line in enumerate(lines) if _NEW_SONG.match(line.strip()))]
    else:
        starts = [0]
    spans: list[_Span] = []
    for first, end in pairwise([*starts, len(lines)]):
        part = lines[first:end]
        if _has_music(part, kind):
            spans.append(_Span(_title(part, kind) or f"Song {len(spans) + 1}", first, end))
    return spans


def _has_music(lines: list[str], kind: Kind) -> bool:
    if kind == "abc":
        keys = [number for number, line in enumerate(lines) if line.startswith("K:")]
        return bool(keys) and any(line.strip() for line in lines[keys[0] + 1 :])
    return kind != "chordpro" or any("[" in line or "|" in line for line in lines)


def _title(lines: list[str], kind: Kind) -> str:
    if kind == "abc":
        return next((line[2:].strip() for line in lines if line.startswith("T:")), "")
    matches = (_TITLED.match(line.strip()) for line in lines)
    return next((match[1] for match in matches if match), "")


def _alone(lines: list[str], spans: list[_Span], number: int) -> str:
    """A song with its lines where they are, for what is said of them; every other song is blank. What stands
    before the first one holds for all."""
    span, head = spans[number], spans[0].first
    kept = (line if at < head or span.first <= at < span.end else "" for at, line in enumerate(lines))
    return "\n".join(kept)
