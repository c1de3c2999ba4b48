"""Plain numbers: chords as scale degrees (``1 6m7 2-9 5-13 b7-9 4/5``).

Degrees count along the major scale of the home note, in minor keys too, so that
``b3`` in A minor is C and the same number always means the same distance (our
choice; it needs no rule for raised sixths and sevenths). Players who hear minor
through its relative major set ``relative_major`` and then home is 6.
"""

from __future__ import annotations

import re

from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.theory.chord_symbol import MAX_SIGNS, ChordSymbol, QualityError, read_quality, with_bass
from yellow_hinge.theory.keys import MAJOR_STEPS, Key
from yellow_hinge.theory.pitch import NoteName

_DEGREE = re.compile(r"([b♭#♯]{0,2})([1-7])")
_SLASH = re.compile(r"/([b♭#♯]{0,2}[1-7])$")


def home_note(key: Key, relative_major: bool = False) -> NoteName:
    """The note that is 1."""
    return (key.relative_major if relative_major else key).tonic


def looks_like_number(text: str) -> bool:
    """Whether a chart token is meant as a number rather than a symbol."""
    return _DEGREE.match(text) is not None


def degree_note(text: str, home: NoteName) -> NoteName:
    """The note of a bare degree such as ``b7`` over ``home``. ``text`` must match a degree."""
    match = _DEGREE.fullmatch(text)
    assert match is not None, text
    alter = sum(-1 if sign in "b♭" else 1 for sign in match.group(1))
    step = int(match.group(2)) - 1
    return home.above(step, MAJOR_STEPS[step] + alter)


def parse_number(text: str, key: Key, *, relative_major: bool = False, place: str = "number") -> ChordSymbol:
    """Read one plain number in ``key``.

    A hyphen between degree and quality is only a separator: ``2-9`` is ``2`` with
    quality ``9``; ``5//1`` is a chord over a chord. Raises :class:`BadInput` naming the column within
    ``text``.
    """
    over, both, below = text.partition("//")
    if both:
        upper, lower = (
            parse_number(one, key, relative_major=relative_major, place=place) for one in (over, below)
        )
        if upper.bass or upper.upper or lower.upper:
            raise _complain(text, len(over), "one chord stands over one other", place)
        return replace(lower, upper=upper)
    match = _DEGREE.match(text) if len(text) <= MAX_SIGNS else None
    if match is None:
        raise _complain(text, 0, "does not begin with a degree 1 to 7", place)
    home = home_note(key, relative_major)
    index = match.end()
    if text[index : index + 1] in ("-", "−"):
        index += 1
        if index == len(text):
            raise _complain(text, index - 1, "ends with a hyphen; write m for minor", place)
    root = degree_note(match.group(0), home)
    slash = _SLASH.search(text, index)
    end = slash.start() if slash and not text.endswith("6/9") else len(text)
    try:
        chord, stop = read_quality(text[:end], index, root)
    except QualityError as error:
        raise _complain(text, error.index, str(error), place) from None
    if stop < end:
        raise _complain(text, stop, f"cannot read {text[stop:]!r}", place)
    return chord if end == len(text) else with_bass(chord, degree_note(text[end + 1 :], home))


def _complain(text: str, column: int, what: str, place: str) -> BadInput:
    remedy = "write degree, then quality: 1, 6m7, 2-9, 5-13, b7-9, 4/5"
    return BadInput(Problem(place, f"{text!r}: {what}", remedy, column=column + 1, length=len(text) - column))


def degree_text(note: NoteName, home: NoteName) -> str:
    """The degree of a note over ``home``, by its letter: Bb in C is b7, A# is #6."""
    step = (note.step - home.step) % 7
    alter = (note.pitch_class - home.pitch_class - MAJOR_STEPS[step] + 6) % 12 - 6
    return ("b" * -alter if alter < 0 else "#" * alter) + str(step + 1)


def print_number(chord: ChordSymbol, key: Key, *, relative_major: bool = False) -> str:
    """The chord as a plain number; a hyphen parts the degree from a quality that begins with a
    digit or could be read as part of the degree."""
    home = home_note(key, relative_major)
    quality = chord.quality
    text = degree_text(chord.root, home)
    text += ("-" if quality[:1].isdigit() else "") + quality
    if chord.bass is not None:
        text += f"/{degree_text(chord.bass, home)}"
    if chord.upper is not None:
        upper = print_number(chord.upper, key, relative_major=relative_major)
        text = f"{upper}//{text}"
    return text
