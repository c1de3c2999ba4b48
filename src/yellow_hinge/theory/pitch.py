"""Note names, degree labels and spelled pitches.

Units: ``_key`` is a MIDI key number (middle C = 60 = C4), ``_st`` semitones.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Annotated, Literal

from msgspec import Meta, Struct

#: The keys that MIDI has numbers for.
MIDI_KEYS = range(128)
STEP_LETTERS = "CDEFGAB"
#: Semitones of the natural steps above C.
STEP_SEMITONES = (0, 2, 4, 5, 7, 9, 11)

#: What a note does in its chord -> (letters above the root, semitones above the root).
#: The labels are the usual ones of chord symbols; ``bb7`` is the seventh of a
#: diminished seventh chord, which is spelled as a seventh and sounds as a sixth.
DEGREES: dict[str, tuple[int, int]] = {
    "R": (0, 0),
    "b9": (1, 1),
    "9": (1, 2),
    "#9": (1, 3),
    "b3": (2, 3),
    "3": (2, 4),
    "11": (3, 5),
    "#11": (3, 6),
    "b5": (4, 6),
    "5": (4, 7),
    "#5": (4, 8),
    "b13": (5, 8),
    "13": (5, 9),
    "6": (5, 9),
    "bb7": (6, 9),
    "b7": (6, 10),
    "7": (6, 11),
}

_ACCIDENTALS = {"b": -1, "♭": -1, "#": 1, "♯": 1, "x": 2, "𝄪": 2, "𝄫": -2}
_NOTE = re.compile(r"([A-Ga-g])([b♭#♯x𝄪𝄫]{0,4})(-?[0-9]{1,2})?")


def degree_semitones(label: str) -> int:
    """Semitones of a degree label above its root, 0..11."""
    return DEGREES[label][1]


def _signs(alter: int) -> str:
    return "♭" * -alter if alter < 0 else "♯" * alter


#: How notes are named for eyes: by letters; with H for B and B for B flat; or do re mi.
Naming = Literal["letters", "h", "solfege"]
_SOLFEGE = ("Do", "Re", "Mi", "Fa", "Sol", "La", "Si")
#: The names of each way, by (step, alter); what is not in here is its letter with signs.
_NAMES: dict[Naming, dict[tuple[int, int], str]] = {
    "letters": {},
    "h": {(6, 0): "H", (6, -1): "B", (6, 1): "H♯", (6, 2): "H♯♯", (6, -2): "H♭♭"},
    "solfege": {
        (step, alter): word + _signs(alter) for step, word in enumerate(_SOLFEGE) for alter in range(-4, 5)
    },
}
#: What :func:`name_as` has set.
_names = {"way": _NAMES["letters"]}
#: Notes as they are typed in each way of naming, with what follows a name: signs, an octave.
_TYPED: dict[int, re.Pattern[str]] = {
    id(_NAMES["h"]): re.compile(r"(?<![A-Za-z])([Hh](?![A-Zac-z])|B(?![A-Za-z♭]))"),
    id(_NAMES["solfege"]): re.compile(r"(?<![A-Za-z])(do|re|mi|fa|sol|la|si)(?=[b♭#♯x]{0,2}-?\d|\W|$)", re.I),
}
_SPELLED = re.compile(r"(?<![A-Za-z])([A-G])(b{1,2}|#{1,2})?(?=-?\d)")


def name_as(naming: Naming) -> None:
    """From now on notes are named so wherever names are for eyes (:attr:`NoteName.pretty`). What is typed,
    kept and exchanged stays in letters: charts, files and the command line mean the same for everybody."""
    _names["way"] = _NAMES[naming]


class NoteName(Struct, frozen=True, order=True):
    """A letter with its alteration: ``step`` 0..6 from C, ``alter`` in semitones."""

    step: int
    alter: int = 0

    @property
    def pitch_class(self) -> int:
        return (STEP_SEMITONES[self.step] + self.alter) % 12

    def __str__(self) -> str:
        return STEP_LETTERS[self.step] + ("b" * -self.alter if self.alter < 0 else "#" * self.alter)

    @property
    def pretty(self) -> str:
        """In the reader's way (:func:`name_as`) and with real music signs, for the screen and the page."""
        name = _names["way"].get((self.step, self.alter))
        return name or STEP_LETTERS[self.step] + _signs(self.alter)

    def above(self, letters: int, semitones: int) -> NoteName:
        """The name ``letters`` steps up that sounds ``semitones`` higher (modulo the octave)."""
        step = (self.step + letters) % 7
        alter = (self.pitch_class + semitones - STEP_SEMITONES[step] + 6) % 12 - 6
        return NoteName(step, alter)

    def degree(self, label: str) -> NoteName:
        """The note that has the degree ``label`` over this root, in true spelling."""
        return self.above(*DEGREES[label])

    @property
    def simple(self) -> NoteName:
        """The plainest name of the same key: B for Cb, F for E#, D for C##."""
        if abs(self.alter) <= 1 and str(self) not in ("Cb", "B#", "E#", "Fb"):
            return self
        return name_for_pitch_class(self.pitch_class, flats=self.alter < 0)


@lru_cache(maxsize=64)
def name_for_pitch_class(pitch_class: int, flats: bool = False) -> NoteName:
    """The usual name of a pitch class, black keys as flats or sharps."""
    for step, semitones in enumerate(STEP_SEMITONES):
        if semitones == pitch_class % 12:
            return NoteName(step)
    lower = name_for_pitch_class(pitch_class - 1)
    return NoteName((lower.step + 1) % 7, -1) if flats else NoteName(lower.step, 1)


#: A key of the keyboard as MIDI counts them; where values are read from a file the range is checked.
MidiKey = Annotated[int, Meta(ge=0, le=127)]


class Pitch(Struct, frozen=True):
    """One key of the keyboard with its spelling."""

    key: int
    name: NoteName

    @property
    def octave(self) -> int:
        """Octave of the spelled letter: B#3 and C4 are the same key."""
        return (self.key - self.name.alter) // 12 - 1

    def __str__(self) -> str:
        return f"{self.name}{self.octave}"

    @property
    def pretty(self) -> str:
        return f"{self.name.pretty}{self.octave}"


def read_note_name(text: str, start: int = 0) -> tuple[NoteName, int] | None:
    """Read a note name at ``start``; give it with the index after it, or None.

    A following octave number is left alone. Capital letters only: in charts a
    small b is a flat.
    """
    match = _NOTE.match(text, start)
    if match is None or not match.group(1).isupper():
        return None
    alter = sum(_ACCIDENTALS[sign] for sign in match.group(2))
    if abs(alter) > 2:
        return None
    return NoteName(STEP_LETTERS.index(match.group(1)), alter), match.end(2)


def read_pitch(text: str) -> Pitch | None:
    """Read a note with its octave, such as ``C#5`` or ``Bb-1``; None if it is not one.

    Keys outside :data:`MIDI_KEYS` are refused as well.
    """
    match = _NOTE.fullmatch(text)
    if match is None or match.group(3) is None:
        return None
    step = STEP_LETTERS.index(match.group(1).upper())
    alter = sum(_ACCIDENTALS[sign] for sign in match.group(2))
    key = (int(match.group(3)) + 1) * 12 + STEP_SEMITONES[step] + alter
    return Pitch(key, NoteName(step, alter)) if key in MIDI_KEYS and abs(alter) <= 2 else None


def as_letters(text: str) -> str:
    """Notes that were typed in the reader's way (:func:`name_as`) as letters, for those who read letters. In
    the way with H a B alone is B flat; words between the notes stay."""
    pattern = _TYPED.get(id(_names["way"]))
    return text if pattern is None else pattern.sub(_letter, text)


def _letter(match: re.Match[str]) -> str:
    word = match[1].capitalize()
    if word in ("H", "B"):
        return {"H": "B", "B": "Bb"}[word]
    return STEP_LETTERS[_SOLFEGE.index(word)]


def as_named(text: str) -> str:
    """Letters with their octaves in the reader's way, for fields that :func:`as_letters` reads."""
    if id(_names["way"]) not in _TYPED:
        return text

    def named(match: re.Match[str]) -> str:
        signs = match[2] or ""
        return NoteName(STEP_LETTERS.index(match[1]), signs.count("#") - signs.count("b")).pretty

    return _SPELLED.sub(named, text)


def pitch_for_key(key: int, flats: bool = False) -> Pitch:
    """A key as it is usually spelled, black ones as flats or sharps."""
    return Pitch(key, name_for_pitch_class(key % 12, flats))


def octave_name(key: int) -> str:
    """What stands on a C of the keyboard, for eyes: C4."""
    return Pitch(key, NoteName(0)).pretty
