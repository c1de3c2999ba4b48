"""Roman numbers: ``ii7 V7 Imaj7 bVII9 iv6 viio7 V7/ii``.

Capitals have a major third, small letters a minor one. A slash with a Roman number
behind it is a secondary function: ``V7/ii`` is the five of two; a slash with a digit is
a bass degree. In minor keys III, VI and VII stand on the natural minor scale, with or
without a flat (both conventions), and ``vii`` on the leading note.
"""

from __future__ import annotations

import re

from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.theory.chord_symbol import MAX_SIGNS, ChordSymbol, QualityError, read_quality, with_bass
from yellow_hinge.theory.keys import MAJOR_STEPS, MINOR_STEPS, Key
from yellow_hinge.theory.numbers import degree_note, degree_text
from yellow_hinge.theory.pitch import NoteName

NUMERALS = ("I", "II", "III", "IV", "V", "VI", "VII")
_ROMAN = re.compile(r"([b♭#♯]{0,2})(VII|VI|IV|V|III|II|I|vii|vi|iv|v|iii|ii|i)(?![IViv])")
_BASS = re.compile(r"/([b♭#♯]{0,2}[1-7])$")


def looks_like_roman(text: str) -> bool:
    """Whether a chart token is meant as a Roman number."""
    return re.match(r"[b♭#♯]{0,2}[IViv]", text) is not None


def _root(marks: str, numeral: str, key: Key) -> NoteName:
    """The note that a numeral stands on."""
    step = NUMERALS.index(numeral.upper())
    alter = sum(-1 if mark in "b♭" else 1 for mark in marks)
    steps = MAJOR_STEPS
    if key.minor and numeral.isupper():
        steps = MINOR_STEPS
        if alter < 0 and steps[step] < MAJOR_STEPS[step]:
            alter += 1  # bVI and VI are the same note in minor
    return key.tonic.above(step, steps[step] + alter)


def parse_roman(text: str, key: Key, place: str = "number") -> ChordSymbol:
    """Read one Roman number in ``key``. Raises :class:`BadInput` naming the column."""
    match = _ROMAN.match(text) if len(text) <= MAX_SIGNS else None
    if match is None:
        raise _complain(text, 0, "does not begin with I to VII", place)
    function, slash, target = text.partition("/")
    if slash and _ROMAN.match(target):
        if target.count("/") > 1:  # the target may be a function, of which the last part is a bass
            raise _complain(text, len(function) + 1, "a function of a function of a function", place)
        key = _key_of(parse_roman(target, key, place))
        text = function
    return _parse_plain(text, key, match, place)


def _key_of(chord: ChordSymbol) -> Key:
    """The key in which a chord is home, for secondary functions."""
    return Key(chord.root, chord.third == "b3")


def _parse_plain(text: str, key: Key, match: re.Match[str], place: str) -> ChordSymbol:
    root = _root(match.group(1), match.group(2), key)
    bass = _BASS.search(text, match.end())
    end = bass.start() if bass and not text.endswith("6/9") else len(text)
    try:
        chord, stop = read_quality(text[:end], match.end(), root)
    except QualityError as error:
        raise _complain(text, error.index, str(error), place) from None
    if stop < end:
        raise _complain(text, stop, f"cannot read {text[stop:]!r}", place)
    if match.group(2).islower() and chord.third == "3":
        chord = replace(chord, third="b3")
    if bass is None or end == len(text):
        return chord
    return with_bass(chord, degree_note(bass.group(1), key.tonic))


def _complain(text: str, column: int, what: str, place: str) -> BadInput:
    remedy = "write the number, then the quality: ii7, V7, Imaj7, bVII9, V7/ii"
    return BadInput(Problem(place, f"{text!r}: {what}", remedy, column=column + 1, length=len(text) - column))


def print_roman(chord: ChordSymbol, key: Key) -> str:
    """The chord as a Roman number of ``key``; ``parse_roman`` reads it back."""
    degree = degree_text(chord.root, key.tonic)
    marks, step = degree[:-1], int(degree[-1]) - 1
    minor = chord.third == "b3"
    numeral = NUMERALS[step].lower() if minor else NUMERALS[step]
    if key.minor and not minor and MINOR_STEPS[step] < MAJOR_STEPS[step]:
        alter = marks.count("#") - marks.count("b") + 1  # against the natural minor scale
        marks = "#" * alter if alter >= 0 else "b" * (1 - alter)
    quality = chord.quality
    if minor and quality.startswith("m"):
        quality = quality[1:]
    elif quality.startswith("dim"):
        quality = "o" + quality[3:]
    text = f"{marks}{numeral}{quality}"
    if chord.bass is not None:
        text += f"/{degree_text(chord.bass, key.tonic)}"
    return text
