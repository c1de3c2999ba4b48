"""Filters over voicings, in a player's words: "root position", "3 on top", "contains A4", "left octave",
"four notes", or the name of a shape. Several stand behind each other with commas; all must hold."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.theory.pitch import DEGREES, read_note_name, read_pitch
from yellow_hinge.voicing.hand_rules import INVERSIONS
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape

Mask = npt.NDArray[np.bool_]
Shapes = Sequence[HandShape]
Test = Callable[[HandShape], bool]

_COUNTS = {"no": 0, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8,
           "nine": 9, "ten": 10}  # fmt: skip
_POSITIONS = dict(INVERSIONS)
_SIGNS = str.maketrans({"♭": "b", "♯": "#"})
#: What a player means by a plain number: the third, fifth and seventh as the chord has them.
_MEANT = {"1": ("R",), "3": ("3", "b3"), "5": ("5", "b5", "#5"), "7": ("7", "b7", "bb7")}
_DEGREE = "|".join(sorted(map(re.escape, (*DEGREES, "1")), key=len, reverse=True))
_ON_TOP = re.compile(rf"({_DEGREE}) on top")
_AT_BOTTOM = re.compile(rf"({_DEGREE}) (?:at the bottom|below)")
_WITHOUT = re.compile(rf"(?:without|no) ({_DEGREE})")
_CONTAINS = re.compile(r"(?:contains|with) (\S+)")
_HOW_MANY = re.compile(rf"(?:(left|right) )?({'|'.join(_COUNTS)}|\d+) notes?")
_OCTAVE = re.compile(r"(left|right) octave")
#: What is offered to be clicked.
OFFERED = (
    "root position",
    "3 on top",
    "5 on top",
    "left octave",
    "left one note",
    "four notes",
    "right three notes",
)
_REMEDY = "write root position, 3 on top, contains A4, left octave, four notes, or the name of a shape"


class Filter(Struct, frozen=True):
    """One condition, as it was written; ``keeps`` says for each pair of a left and a right shape
    whether it holds, (L, R)."""

    words: str
    keeps: Callable[[Shapes, Shapes], Mask]


def read_filters(text: str, library: Library) -> tuple[Filter, ...]:
    """Filters as they are typed. Raises :class:`BadInput` naming what is not understood."""
    conditions: list[Filter] = []
    problems: list[Problem] = []
    for phrase in re.split(r"[,;]", text):
        words = " ".join(phrase.translate(_SIGNS).split())
        if not words:
            continue
        keeps = _read(words, library)
        if keeps is None:
            problems.append(Problem("filter", f"{words!r} is not understood", _REMEDY))
        else:
            conditions.append(Filter(words, keeps))
    if problems:
        raise BadInput(problems)
    return tuple(conditions)


def _read(words: str, library: Library) -> Callable[[Shapes, Shapes], Mask] | None:
    plain = words.lower()
    if plain in _POSITIONS:
        return _lowest(_POSITIONS[plain])
    for pattern, make in _READERS:
        match = pattern.fullmatch(words) or pattern.fullmatch(plain)
        if match is not None:
            return make(match)
    return _named(plain, library)


def _labels(word: str) -> tuple[str, ...]:
    return _MEANT.get(word, (word,))


def _lowest(labels: tuple[str, ...]) -> Callable[[Shapes, Shapes], Mask]:
    """The lowest note is one of these degrees."""
    return _of_end(lambda shape: shape.degrees[0] in labels, lower=True)


def _of_end(test: Test, lower: bool) -> Callable[[Shapes, Shapes], Mask]:
    """A test on the shape that has the lowest or the highest note of both."""

    def keeps(left: Shapes, right: Shapes) -> Mask:
        first, second = (left, right) if lower else (right, left)
        own, other = _each(first, test), _each(second, test)
        plays = _each(first, lambda _: True)
        rows = np.where(plays[:, None], own[:, None], other[None, :])
        return rows if lower else rows.T

    return keeps


def _either(test: Test) -> Callable[[Shapes, Shapes], Mask]:
    return lambda left, right: _each(left, test)[:, None] | _each(right, test)[None, :]


def _neither(test: Test) -> Callable[[Shapes, Shapes], Mask]:
    either = _either(test)
    return lambda left, right: ~either(left, right)


def _one_hand(side: str, test: Test) -> Callable[[Shapes, Shapes], Mask]:
    def keeps(left: Shapes, right: Shapes) -> Mask:
        both = np.ones((len(left), len(right)), dtype=bool)
        return both & (_each(left, test)[:, None] if side == "left" else _each(right, test)[None, :])

    return keeps


def _each(shapes: Shapes, test: Test) -> Mask:
    """(shapes,): whether each plays and passes."""
    return np.array([bool(shape.keys) and test(shape) for shape in shapes], dtype=bool)


def _how_many(match: re.Match[str]) -> Callable[[Shapes, Shapes], Mask]:
    side, word = match[1], match[2]
    count = _COUNTS.get(word, int(word) if word.isdigit() else -1)

    def keeps(left: Shapes, right: Shapes) -> Mask:
        numbers = [np.array([len(shape.keys) for shape in hand], dtype=np.int64) for hand in (left, right)]
        total = {
            "left": numbers[0][:, None] + 0 * numbers[1][None, :],
            "right": 0 * numbers[0][:, None] + numbers[1][None, :],
        }.get(side, numbers[0][:, None] + numbers[1][None, :])
        return np.asarray(total == count)

    return keeps


def _contains(match: re.Match[str]) -> Callable[[Shapes, Shapes], Mask] | None:
    """A note with its octave, or anywhere."""
    word = match[1][:1].upper() + match[1][1:]
    pitch = read_pitch(word)
    if pitch is not None:
        return _either(lambda shape: pitch.key in shape.keys)
    name = read_note_name(word)
    if name is not None and name[1] == len(word):
        return _either(lambda shape: any(key % 12 == name[0].pitch_class for key in shape.keys))
    if match[1] in DEGREES or match[1] in _MEANT:
        return _either(lambda shape: any(label in shape.degrees for label in _labels(match[1])))
    return None


def _is_octave(shape: HandShape) -> bool:
    return len(shape.keys) > 1 and shape.keys[-1] - shape.keys[0] == 12


def _named(words: str, library: Library) -> Callable[[Shapes, Shapes], Mask] | None:
    """Shapes whose family is called so; a hand may be named first."""
    side, _, rest = words.partition(" ")
    hand, name = (side, rest) if side in ("left", "right") and rest else ("", words)
    ids = {recipe.id for recipe in library.recipes.values() if name in recipe.name.lower()}
    if not ids:
        return None

    def test(shape: HandShape) -> bool:
        return shape.recipe in ids

    return _one_hand(hand, test) if hand else _either(test)


_Reader = tuple[re.Pattern[str], Callable[[re.Match[str]], Callable[[Shapes, Shapes], Mask] | None]]
_READERS: tuple[_Reader, ...] = (
    (_ON_TOP, lambda m: _of_end(lambda shape: shape.degrees[-1] in _labels(m[1]), lower=False)),
    (_AT_BOTTOM, lambda m: _lowest(_labels(m[1]))),
    (_WITHOUT, lambda m: _neither(lambda shape: any(label in shape.degrees for label in _labels(m[1])))),
    (_OCTAVE, lambda m: _one_hand(m[1], _is_octave)),
    (_HOW_MANY, _how_many),
    (_CONTAINS, _contains),
)


def kept(filters: Sequence[Filter], left: Shapes, right: Shapes) -> Mask:
    """(L, R): which pairs all filters keep."""
    mask = np.ones((len(left), len(right)), dtype=bool)
    for condition in filters:
        mask &= condition.keeps(left, right)
    return mask


def offered(library: Library) -> Iterator[Filter]:
    """Filters that can be clicked."""
    for words in OFFERED:
        yield from read_filters(words, library)
