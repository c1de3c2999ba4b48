"""Chords over words, as they are pasted from anywhere: which lines are chords, which are words, which name a
section; and plain rows of chords or numbers."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import BadInput
from yellow_hinge.formats.chart_text import cleaned, decode
from yellow_hinge.formats.chart_text.tokens import header
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.song_lines import GERMAN, Lines, Sung, german, names_german
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.numbers import parse_number
from yellow_hinge.theory.pitch import NoteName

Kind = Literal["chords", "words", "section", "heading", "tab", "blank"]
#: From this share of its words on a line is one of chords.
_SHARE = 0.75
_TIMES = r"(?:\(?\s{0,9}(?:[x\u00d7]\s{0,9}([0-9]{1,2})|([0-9]{1,2})\s{0,9}[x\u00d7])\s{0,9}\)?)"
_SECTION = re.compile(
    r"[\[(]?\s*((?:intro|verse|chorus|refrain|pre-?chorus|bridge|solo|interlude|outro|ending|coda|tag|part|vamp"
    r"|instrumental|strophe|hook)\b"
    rf"[^\]:|)]{{0,30}}?)\s*{_TIMES}?\s*[\])]?\s*:?\s*{_TIMES}?\s*", re.I,
)  # fmt: skip
#: A section's name with its chords behind it.
_LABELLED = re.compile(r"\s*(\[[^\[\]|]{1,40}\]|[A-Za-z][A-Za-z .-]{2,20}[0-9]{0,2})\s*:?(?<=[:\]])\s+(?=\S)")
_BRACKETED = re.compile(rf"\[\s*([^\[\]|]{{1,40}}?)\s*{_TIMES}?\s*\]\s*:?\s*{_TIMES}?\s*")
_HEADING = re.compile(r"(title|composer|artist|by|key|tempo|capo|time)\s*:\s*(.*)", re.I)
#: A symbol that is German beyond doubt: an H alone may be a slip.
_GERMAN_NAME = re.compile(r"(?<!\S)(?:[CDFGA]is|Es|As)(?=[m0-9/|\s]|maj|sus|dim|add)")
_NO_CHORD = "is no chord"
_WORD = re.compile(r"\S+")
_MARKS = ("|", "||", "|:", ":|", "/", "-", "\u2013", "%", "(", ")", ",", ":", "*", "~", "->")
_REPEATED = re.compile(_TIMES)
#: A line of guitar tablature: a string's name and its frets.
_TAB = re.compile(r"[eEBGDAb]?[-0-9hpbrx/\\~|()\s]*")
_NUMBER = re.compile(r"[b#\u266d\u266f]?[1-7](?![0-9:.])\S*")


class Understood(Struct, frozen=True):
    """A line as it was taken: its text and its kind."""

    text: str
    kind: Kind


def read(data: bytes, place: str = "text", german: bool | None = None) -> Imported:
    """Read chords over words. ``german``: whether B is B flat; None: judged. Raises :class:`BadInput` where
    no line has chords."""
    text = cleaned(decode(data, place)).expandtabs(8)
    return _Reader(text, place, german).run()


def understand(text: str, key: Key | None = None) -> list[Understood]:
    """What each line is. Numbers count as chords where a ``key`` is said, in the text or here, or where no
    line has any other chord."""
    lines = text.expandtabs(8).split("\n")
    symbols = _Symbols(lines, key)
    return [Understood(line, symbols.kind(line)) for line in lines]


def looks_like(text: str) -> bool:
    """Whether a text is chords over words rather than a chart: it has chord lines, and either no line of
    bars, or words below one that no chart has there."""
    rows = understand(text)
    if not any(understood.kind == "chords" for understood in rows):
        return False
    barred = any(understood.text.lstrip().startswith("|") for understood in rows)
    under = any(
        above.kind == "chords"
        and below.kind == "words"
        and not re.match(r"\s*(?:#|[a-z ]{1,12}:)", below.text)
        for above, below in pairwise(rows)
    )
    return not barred or under


def is_clear(text: str) -> bool:
    """Whether a text that is no chart as it stands is one in another way of writing, of which all is
    understood: some of its chords stand outside bar lines, or have German names, or a title stands above."""
    try:
        imported = _Reader(text, "", None).run()
    except BadInput:
        return False
    if any(problem.what.endswith(_NO_CHORD) for problem in imported.problems):
        return False
    rows = understand(text.strip("\n"))
    outside = any(row.kind == "chords" and "|" not in row.text for row in rows)
    named = any(row.kind == "section" and not row.text.lstrip().startswith("[") for row in rows)
    said = any(row.kind == "heading" and not header(row.text) for row in rows)
    titles = [at for at, row in enumerate(rows) if row.kind == "words"]
    behind = [row.kind for row in rows[titles[-1] + 1 :][:1]] if titles else []
    titled = len(titles) < 3 and titles[-1:] < [3] and behind in (["blank"], ["heading"])
    said_german = any(problem.what == GERMAN for problem in imported.problems)
    return outside or named or said or titled or (said_german and _GERMAN_NAME.search(text) is not None)


def section_of(line: str) -> tuple[str, int] | None:
    """The name of a section and how often it is played, where a line says nothing else."""
    plain = " ".join(line.split())  # blanks in a row would be tried in every way
    match = _SECTION.fullmatch(plain) or _BRACKETED.fullmatch(plain)
    if match is None:
        return None
    times = next((int(word) for word in match.groups()[1:] if word), 1)
    return match[1].strip(" :"), times


class _Symbols:
    """What counts as a chord in a text."""

    def __init__(self, lines: Sequence[str], key: Key | None, german: bool | None = None) -> None:
        self.key = key or next(filter(None, map(_key_said, lines)), None)
        self.names = [
            word for line in lines if not _sentence(line) for word in line.replace("|", " ").split()
        ]
        self.german = names_german(self.names) if german is None else german
        self.said = self.key is not None
        if self.key is None and not any(self.kind(line) == "chords" for line in lines):
            self.key = Key(NoteName(0))

    def kind(self, line: str) -> Kind:
        plain = line.strip()
        if not plain:
            return "blank"
        if _HEADING.fullmatch(plain):
            return "heading"
        if "--" in plain and len(plain) > 8 and _TAB.fullmatch(plain):
            return "tab"
        labelled = _LABELLED.match(plain)
        rest = plain[labelled.end() :] if labelled is not None and self.chord(labelled[1]) is False else plain
        words = [
            word for word in _spaced(rest).split() if word not in _MARKS and not _REPEATED.fullmatch(word)
        ]
        chords = sum(self.chord(word) is not False for word in words)
        if words and chords / len(words) >= _SHARE and not (chords == len(words) == 1 and plain.islower()):
            return "chords" if section_of(plain) is None or not plain.startswith("[") else "section"
        return "section" if section_of(plain) is not None else "words"

    def chord(self, word: str) -> ChordSymbol | Literal[False] | None:
        """A chord, None for "no chord", False for what is neither."""
        word = _bare(word)
        if not word:
            return False
        return _chord(german(word) if self.german else word, self.key)


@lru_cache(maxsize=2048)
def _chord(word: str, key: Key | None) -> ChordSymbol | Literal[False] | None:
    if word[:1].isalpha() and word[:1] not in "ABCDEFGNb":
        return False
    try:
        return parse_chord(word)
    except BadInput:
        pass
    if key is None or not _NUMBER.fullmatch(word):
        return False
    try:
        return parse_number(word, key)
    except BadInput:
        return False


def _sentence(line: str) -> bool:
    """Whether most words of a line are longer than symbols, or small."""
    words = line.split()
    return sum(word[:1].islower() or len(word) > 7 for word in words) * 2 > len(words)


def _spaced(line: str) -> str:
    return re.sub(r"(:?\|+:?)", r" \1 ", line)


def _bare(word: str) -> str:
    """A symbol without what stands around it: brackets that are no part of it, commas, stars."""
    word = word.strip(",;*").rstrip(".") if not word.upper().startswith("N.C") else word.strip(",;*()")
    while word.startswith(("(", "[")) and word.endswith((")", "]")):
        word = word[1:-1]
    if word.startswith("(") and ")" not in word:
        word = word[1:]
    if word.endswith(")") and "(" not in word:
        word = word[:-1]
    return word


def _key_said(line: str) -> Key | None:
    match = _HEADING.fullmatch(line.strip())
    if match is None or match[1].lower() != "key":
        return None
    try:
        return parse_key(match[2].strip())
    except BadInput:
        return None


class _Reader:
    def __init__(self, text: str, place: str, german: bool | None) -> None:
        self._lines = text.split("\n")
        self._german = german
        self._symbols = _Symbols(self._lines, None, german)
        self._found = Lines(place)
        self._waiting: tuple[int, str] | None = None  # a line of chords, until it is known what is below it

    def run(self) -> Imported:
        found, symbols = self._found, self._symbols
        found.key = symbols.key if symbols.said else None
        found.judge_names(symbols.names, self._german)
        for number, line in enumerate(self._lines, 1):
            self._line(number, line, symbols.kind(line))
        self._add("")
        if found.key is None and not symbols.said and symbols.key is not None:
            found.key = symbols.key
            found.say(0, "numbers without a key", f"they are read in {symbols.key}; write key: and another")
            for part in found.parts:
                part.row[:] = [_in_key(sung, symbols.key) for sung in part.row]
        return found.imported()

    def _line(self, number: int, line: str, kind: Kind) -> None:
        found = self._found
        labelled = _LABELLED.match(line) if kind == "chords" else None
        if labelled is not None and self._symbols.chord(labelled[1]) is False:
            self._add("")
            found.begin(labelled[1].strip("[] :"))
            line = " " * labelled.end() + line[labelled.end() :]
        if kind != "words":
            self._add("")
        section = section_of(line) if kind == "section" else None
        if kind == "heading":
            self._heading(line, number)
        elif section is not None:
            found.begin(*section)
        elif kind == "chords":
            self._waiting = number, line
        elif kind == "tab":
            found.say(number, "a line of tablature", "it is left out")
        elif kind == "words":
            if self._waiting is not None:
                self._add(line)
            elif not found.title and not found.parts:
                found.title = line.strip()
            elif not found.composer and not found.parts:
                found.composer = line.strip()
            else:
                found.add_words(" ".join(line.split()))

    def _heading(self, text: str, line: int) -> None:
        match = _HEADING.fullmatch(text.strip())
        assert match is not None
        name, value = match[1].lower(), match[2].strip()
        if name == "title":
            self._found.title = value
        elif name in ("composer", "artist", "by"):
            self._found.composer = value
        else:
            self._found.holds(name, german(value) if name == "key" and self._symbols.german else value, line)

    def _add(self, words: str) -> None:
        """The line of chords that waits, with the words under it: each chord has what stands from its column
        to the next."""
        if self._waiting is None:
            return
        (line, chords), self._waiting = self._waiting, None
        repeated = _REPEATED.search(chords)
        times = 1
        if repeated and chords[repeated.end() :].strip(" |") == "" and not words[repeated.start() :].strip():
            times = max(1, min(8, int(repeated[1] or repeated[2])))
            chords = chords[: repeated.start()]
        for _ in range(times):
            self._row(line, chords, words)

    def _row(self, line: int, chords: str, words: str) -> None:
        places = [
            (match.start(), match[0]) for match in _WORD.finditer(re.sub(r"[|:](?=[|:\s]|$)|\|", " ", chords))
        ]
        bars = [at for at, sign in enumerate(chords) if sign == "|"]
        rows: list[tuple[int, ChordSymbol | None]] = []
        for at, word in places:
            if word == "%" and rows:
                rows.append((at, rows[-1][1]))
            elif word not in _MARKS and not _REPEATED.fullmatch(word):
                chord = self._symbols.chord(word)
                if chord is not False:
                    rows.append((at, chord))
                else:
                    self._found.say(line, f"{word!r} {_NO_CHORD}", "it is left out", at + 1)
        for place, (at, chord) in enumerate(rows):
            end = rows[place + 1][0] if place + 1 < len(rows) else len(words)
            text, joined = _cut(words, 0 if place == 0 else at, end)
            before = rows[place - 1][0] if place else -1
            opens = (place == 0 or any(before < bar < at for bar in bars)) if bars else None
            self._found.add(chord, text, line, opens=opens, joined=joined)


def _in_key(sung: Sung, key: Key) -> Sung:
    return replace(sung, key=key)


def _cut(words: str, begin: int, end: int) -> tuple[str, bool]:
    """The words between two columns, and whether the last one goes on; a word that a chord stands in the
    middle of is parted at a hyphen alone, and is that chord's."""
    begin, _ = _edge(words, begin)
    end, parted = _edge(words, end)
    text = " ".join(words[begin : max(begin, end)].split())
    if parted and text.endswith("-"):
        return text.rstrip("-"), True
    return text, False


def _edge(words: str, column: int) -> tuple[int, bool]:
    """Where words are cut near a column: at a hyphen there, else before the word that it stands in."""
    if not 0 < column < len(words) or words[column - 1].isspace() or words[column].isspace():
        return column, column < len(words) and words[:column].rstrip().endswith("-")
    begin = column
    while begin > 0 and not words[begin - 1].isspace():
        begin -= 1
    hyphen = words.rfind("-", begin, column + 1)
    return (hyphen + 1, True) if hyphen >= 0 else (begin, False)
