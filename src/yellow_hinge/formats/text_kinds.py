"""What a text is, by its content: whatever a file is called, and where it has no name at all."""

from __future__ import annotations

import codecs
import re
from collections.abc import Sequence
from typing import Literal

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.formats.chart_text.tokens import header, row_kind

Kind = Literal["chart", "abc", "chordpro", "words"]
_DIRECTIVE = re.compile(r"\s*\{[a-zA-Z_]+[:}\s]")
#: A chord in brackets that touches a word.
_INLINE = re.compile(r"\w\[[A-H][^\]\n]{0,12}\]|\[[A-H][^\]\n]{0,12}\]\w")
#: Signs that no text has, in whatever letters it is written.
_CONTROL = re.compile(r"[\x00-\x08\x0e-\x1b\x7f]")
#: What files that are no text begin with: what they are, what to do with one in another's place, and the
#: suffix
#: of those that are read.
_BEGINNINGS: tuple[tuple[bytes, str, str, str], ...] = (
    (b"\x1f\x8b", "a gzip file", "unpack it first; a packed score is .mxl", ""),
    (b"RIFF", "a RIFF file", "save the MIDI file or the score by itself", ""),
    (b"%PDF", "a PDF", "export the score as MusicXML", ""),
    (b"PK", "a packed file", "give a packed score the suffix .mxl", ".mxl"),
    (b"MThd", "a MIDI file", "give it the suffix .mid", ".mid"),
    (b"\x89PNG", "a picture", "open a score, a MIDI file or text", ""),
)
#: What a song in ChordPro or over words has at most; charts and ABC count bars and notes.
MOST_SIGNS, MOST_LINES = 300_000, 10_000
#: What text in a form of its own begins with, and its suffix.
_MARKUP = ((b"<", ".musicxml"), (b'{"', ".yhinge"))


def refuse_others(data: bytes, place: str, *own: bytes) -> None:
    """Raise :class:`BadInput` for a file of another kind, by its beginning, unless that is one of its
    ``own``."""
    for beginning, what, remedy, _ in _BEGINNINGS:
        if data.startswith(beginning) and beginning not in own:
            raise BadInput(Problem(place, f"it is {what}", remedy))


def suffix_of(data: bytes) -> str:
    """The suffix of what a file without one is; that of text where nothing else is known."""
    start = data[:200].removeprefix(codecs.BOM_UTF8).lstrip()
    plain = start.replace(b" ", b"").replace(b"\n", b"").replace(b"\r", b"")
    known = [suffix for beginning, _, _, suffix in _BEGINNINGS if suffix and start.startswith(beginning)]
    known += [suffix for beginning, suffix in _MARKUP if plain.startswith(beginning)]
    return known[0] if known else ".txt"


def kind_of(text: str, place: str = "text") -> Kind:
    """ABC by its headings, ChordPro by its directives or chords within words, a chart by its bars; else
    chords over words or plain rows of them. Raises :class:`BadInput` where those are more than a
    song has."""
    from yellow_hinge.formats import over_words  # noqa: PLC0415 - charts need it not

    rows = text.split("\n")
    if any(row.startswith("X:") for row in rows) and any(row.startswith("K:") for row in rows):
        return "abc"
    if any(_DIRECTIVE.match(row) for row in rows):
        _refuse_long(text, rows, place)
        return "chordpro"
    if any(row.lstrip().startswith("|") for row in rows) or not _INLINE.search(text):
        charted = any(row_kind(row) or _is_heading(row, rows) for row in rows)
        if charted or _is_chart(text):
            return "chart"
        _refuse_long(text, rows, place)
        return "words" if over_words.looks_like(text) or over_words.is_clear(text) else "chart"
    _refuse_long(text, rows, place)
    return "chordpro"


def _refuse_long(text: str, rows: Sequence[str], place: str) -> None:
    if len(text) > MOST_SIGNS or len(rows) > MOST_LINES:
        what = f"a text of more than {MOST_SIGNS:,} signs or {MOST_LINES:,} lines"
        raise BadInput(Problem(place, what, "take one song of it"))


def _is_chart(text: str) -> bool:
    """Whether a text reads as a chart as it stands."""
    try:
        parse_chart(text)
    except BadInput:
        return False
    return True


def _is_heading(row: str, rows: Sequence[str]) -> bool:
    """A heading that charts alone have; title, key and tempo stand over words too."""
    found = header(row)
    return found is not None and found[0] in ("meter", "pickup", "form", "numbers") and len(rows) > 1


def utf8(data: bytes, place: str) -> tuple[bytes, tuple[Problem, ...]]:
    """Text in UTF-8, whatever it was in, with a remark where that was something else. Raises
    :class:`BadInput` for what is another kind of file; what is none at all stays for its reader to refuse."""
    refuse_others(data, place)
    wide = next((name for mark, name in _WIDE if data.startswith(mark)), None) or _wide(data)
    if wide is not None:
        try:
            text = data.decode(wide)
        except UnicodeDecodeError:
            return data, ()
        return text.removeprefix("\ufeff").encode(), (_remark(place, "UTF-16"),)
    try:
        data.decode()
    except UnicodeDecodeError:
        text = data.decode("cp1252", "replace")
        if _CONTROL.search(text) or text.count("\ufffd"):
            return data, ()
        return text.encode(), (_remark(place, "Latin-1"),)
    return data, ()


_WIDE = ((codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))


def _wide(data: bytes) -> str | None:
    """UTF-16 without its mark: every other byte of the beginning is zero."""
    head = data[:200]
    if len(head) < 8:
        return None
    for name, start in (("utf-16-le", 1), ("utf-16-be", 0)):
        zeros = head[start::2].count(0)
        if zeros * 10 >= len(head[start::2]) * 9 and not head[1 - start :: 2].count(0):
            return name
    return None


def _remark(place: str, letters: str) -> Problem:
    return Problem(
        place, f"its letters are in {letters}", "they were read as such; look at names with accents"
    )
