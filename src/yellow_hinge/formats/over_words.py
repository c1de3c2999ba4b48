"""Chords over words, as they are pasted from anywhere: which lines are chords, which are words, which name a
section; and plain rows of chords or numbers."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Literal

from msgspec import Struct

from yellow_hinge.errors import BadInput
from yellow_hinge.formats.chart_text import cleaned, decode
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.song_lines import Lines, Sung
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.numbers import parse_number
from yellow_hinge.theory.pitch import NoteName

Kind = Literal["chords", "words", "section", "heading", "blank"]
#: From this share of its words on a line is one of chords.
_SHARE = 0.75
_SECTION = re.compile(
    r"\[?\s*((?:intro|verse|chorus|refrain|pre-?chorus|bridge|solo|interlude|outro|ending|coda|tag|part|vamp)"
    r"[^\]:|]{0,30}?)\s*\]?\s*:?\s*(?:\(?x\s*([0-9]{1,2})\)?)?\s*", re.I,
)  # fmt: skip
_BRACKETED = re.compile(r"\[\s*([^\[\]|]{1,40})\s*\]\s*:?\s*")
_HEADING = re.compile(r"(title|composer|artist|by|key|tempo|capo|time)\s*:\s*(.*)", re.I)
_WORD = re.compile(r"\S+")
_MARKS = ("|", "||", "|:", ":|", "/", "-", "%", "(", ")", "x2", "x3", "x4", ",")


class Understood(Struct, frozen=True):
    """A line as it was taken: its text and its kind."""

    text: str
    kind: Kind


def read(data: bytes, place: str = "text") -> Imported:
    """Read chords over words. Raises :class:`BadInput` where no line has chords."""
    text = cleaned(decode(data, place))
    return _assembled(text.split("\n"), understand(text), place)


def understand(text: str, key: Key | None = None) -> list[Understood]:
    """What each line is. Numbers count as chords where a ``key`` is said, in the text or here."""
    lines = text.split("\n")
    key = key or next(filter(None, map(_key_said, lines)), None)
    return [Understood(line, _kind(line, key)) for line in lines]


def looks_like(text: str) -> bool:
    """Whether a text is chords over words rather than a chart: it has chord lines, and no line of bars."""
    rows = understand(text)
    chart = any(understood.text.lstrip().startswith("|") for understood in rows)
    return not chart and any(understood.kind == "chords" for understood in rows)


def _key_said(line: str) -> Key | None:
    match = _HEADING.fullmatch(line.strip())
    if match is None or match[1].lower() != "key":
        return None
    try:
        return parse_key(match[2].strip())
    except BadInput:
        return None


def _kind(line: str, key: Key | None) -> Kind:
    plain = line.strip()
    if not plain:
        return "blank"
    if _HEADING.fullmatch(plain):
        return "heading"
    words = [word for word in plain.replace("|", " | ").split() if word not in _MARKS]
    chords = sum(_chord(word, key) is not False for word in words)
    if words and chords / len(words) >= _SHARE and not (chords == 1 and len(words) == 1 and plain.islower()):
        return "chords"
    if _SECTION.fullmatch(plain) or _BRACKETED.fullmatch(plain):
        return "section"
    return "words"


def _chord(word: str, key: Key | None) -> ChordSymbol | Literal[False] | None:
    """A chord, None for "no chord", False for what is neither."""
    word = word.strip("()[],*")
    if not word:
        return False
    if word[:1].isalpha() and word[:1].upper() not in "ABCDEFGN":
        return False
    try:
        return parse_chord(word)
    except BadInput:
        pass
    if key is None or not re.match(r"[b#♭♯]?[1-7]", word):
        return False
    try:
        return parse_number(word, key)
    except BadInput:
        return False


def _assembled(lines: Sequence[str], rows: Sequence[Understood], place: str) -> Imported:
    found = Lines()
    key = next(filter(None, map(_key_said, lines)), None)
    found.key = key
    waiting: tuple[int, str] | None = None
    for number, understood in enumerate(rows, 1):
        if waiting is not None and understood.kind != "words":
            _add(found, waiting[1], "", key)
            waiting = None
        if understood.kind == "heading":
            _heading(found, understood.text, number, place)
        elif understood.kind == "section":
            match = _SECTION.fullmatch(understood.text.strip()) or _BRACKETED.fullmatch(
                understood.text.strip()
            )
            assert match is not None
            found.begin(match[1].strip(" :"))
        elif understood.kind == "chords":
            waiting = (number, understood.text)
        elif understood.kind == "words":
            if waiting is not None:
                _add(found, waiting[1], understood.text, key)
                waiting = None
            elif not found.title and not found.sections:
                found.title = understood.text.strip()
            elif not found.composer and not found.sections:
                found.composer = understood.text.strip()
    if waiting is not None:
        _add(found, waiting[1], "", key)
    if (
        found.key is None
        and any(re.match(r"\s*[1-7]", understood.text) for understood in rows)
        and not found.sections
    ):
        found.key = Key(NoteName(0))
    return found.imported(place)


def _heading(lines: Lines, text: str, line: int, place: str) -> None:
    match = _HEADING.fullmatch(text.strip())
    assert match is not None
    name, value = match[1].lower(), match[2].strip()
    if name == "title":
        lines.title = value
    elif name in ("composer", "artist", "by"):
        lines.composer = value
    else:
        lines.holds(name, value, f"{place}, line {line}", line)


def _add(lines: Lines, chords: str, words: str, key: Key | None) -> None:
    """A line of chords with the words under it: each chord has what stands from its column to the next."""
    places = [(match.start(), match[0]) for match in _WORD.finditer(chords.replace("|", " "))]
    barred = "|" in chords
    named = [(at, _chord(word, key), word) for at, word in places if word not in _MARKS]
    real = [(at, chord) for at, chord, _ in named if chord is not False]
    bars = [at for at, sign in enumerate(chords) if sign == "|"]
    for place, (at, chord) in enumerate(real):
        end = real[place + 1][0] if place + 1 < len(real) else len(words)
        begin = 0 if place == 0 else at
        text = _cut(words, begin, end)
        before = real[place - 1][0] if place else -1
        opens = (place == 0 or any(before < bar < at for bar in bars)) if barred else None
        assert chord is not False
        lines.row.append(Sung(chord, text, None, opens))


def _cut(words: str, begin: int, end: int) -> str:
    """The words between two columns; a word that a chord stands in the middle of is not cut."""
    while 0 < begin < len(words) and not words[begin - 1].isspace() and not words[begin].isspace():
        begin -= 1
    while 0 < end < len(words) and not words[end - 1].isspace() and not words[end].isspace():
        end -= 1
    return " ".join(words[begin : max(begin, end)].split())
