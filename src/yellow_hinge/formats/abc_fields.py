"""What the fields of an ABC tune say: meter, tempo, key, how far it sounds from what is written, the order
of the parts."""

from __future__ import annotations

import re
from fractions import Fraction

from msgspec import Struct, field

from yellow_hinge import strict
from yellow_hinge.formats.form_in import MOST_TIMES
from yellow_hinge.formats.lead_sheet import MAX_MEASURES
from yellow_hinge.rhythm.time import METER_UNITS, Meter
from yellow_hinge.theory.keys import ALL_KEYS, Key, plainest_key
from yellow_hinge.theory.pitch import NoteName, read_note_name

STEPS = "CDEFGAB"
ACCIDENTALS = {"^^": 2, "^": 1, "=": 0, "_": -1, "__": -2}
_MOST_BEATS = 24
#: Half steps and letters from a mode's tonic up to the tonic of the major key with its signature.
_MODES = {
    "": (0, 0), "maj": (0, 0), "ion": (0, 0), "m": (3, 2), "min": (3, 2), "aeo": (3, 2), "mix": (5, 3),
    "dor": (10, 6), "phr": (8, 5), "lyd": (7, 4), "loc": (1, 1),
}  # fmt: skip
_MINOR = ("m", "min", "aeo")
_CLEFS = ("treble", "bass", "alto", "tenor", "perc")
#: What a key's line says beside the key: accidentals of its own, and how far it sounds from what is written.
_OWN_ACCIDENTAL = re.compile(r"(?<![\w^_=])(\^\^|\^|__|_|=)([a-gA-G])(?![\w])")
_OCTAVE, _TRANSPOSE = re.compile(r"octave=(-?[0-9]{1,2})"), re.compile(r"(?:transpose|\bt)=(-?[0-9]{1,2})")
_PLAYED = re.compile(r"\(|\)|[A-Za-z]|[0-9]{1,2}")


class KeySaid(Struct, frozen=True):
    """A key, the signature that it is written in (sharps, or flats below 0), and accidentals of its own, by
    step."""

    key: Key
    sharps: int
    signs: dict[int, int] = field(default_factory=dict)


def read_key(value: str) -> KeySaid | None:
    """What K: says; None where it names a clef alone. Raises :class:`ValueError`."""
    found = _OWN_ACCIDENTAL.findall(value)
    signs = {STEPS.index(letter.upper()): ACCIDENTALS[sign] for sign, letter in found}
    words = value.split() or ["none"]
    word = words[0]
    if "=" in word or word in _CLEFS:
        return None
    if word in ("none", "HP", "Hp") or _OWN_ACCIDENTAL.match(word):
        return KeySaid(Key(NoteName(0)), 0, signs)
    note = read_note_name(word)
    if note is None:
        raise ValueError(value)
    tonic = note[0]
    rest = (word[note[1] :] or "".join(words[1:2])).lower()
    mode = "m" if rest in ("m", "min", "minor") else rest[:3]
    semitones, letters = _MODES.get(mode, (0, 0))
    major = next(
        (
            key for key in ALL_KEYS
            if not key.minor and (key.tonic.pitch_class - tonic.pitch_class - semitones) % 12 == 0
            and (key.tonic.step - tonic.step) % 7 == letters
        ),
        plainest_key(tonic.pitch_class + semitones, False),
    )  # fmt: skip
    own = Key(tonic, True) if mode in _MINOR else Key(tonic) if semitones == 0 else major
    key = own if own in ALL_KEYS else plainest_key(own.tonic.pitch_class, own.minor)
    return KeySaid(key, 0 if mode == "exp" else major.fifths, signs)


def sounding(value: str) -> tuple[int | None, int | None]:
    """How many octaves, and how many half steps, a voice sounds above what is written, where it is said."""
    octave, transpose = _OCTAVE.search(value), _TRANSPOSE.search(value)
    return (
        max(-4, min(4, int(octave[1]))) if octave else None,
        max(-36, min(36, int(transpose[1]))) if transpose else None,
    )


def read_meter(value: str) -> Meter | None:
    """What M: says; None for music without a meter. Raises :class:`ValueError`."""
    words = {"C": "4/4", "C|": "2/2"}.get(value, value.strip("()"))
    if words == "none":
        return None
    over, _, under = words.partition("/")
    counts = [strict.whole(word) for word in over.strip("() ").split("+")]
    unit = strict.whole(under.strip())
    beats = sum(count for count in counts if count is not None)
    if None in counts or unit not in METER_UNITS or not 1 <= beats <= _MOST_BEATS:
        raise ValueError(value)
    return Meter(beats, unit)


def read_tempo(value: str, usual: Fraction) -> Fraction | None:
    """Quarters a minute that Q: says; ``usual`` is the length, in whole notes, that a number alone counts."""
    plain = re.sub(r'"[^"]*"', " ", value)
    match = re.search(r"((?:[0-9]+/[0-9]+\s*)+)=\s*([0-9]{1,4})", plain)
    match = match or re.fullmatch(r"\s*(C[0-9]*\s*=\s*)?([0-9]{1,4})\s*", plain)
    if match is None:
        return None
    units = [strict.length(word) for word in re.findall(r"[0-9]+/[0-9]+", match[1] or "")]
    unit = sum((one for one in units if one), Fraction(0)) if units else usual
    return int(match[2]) * unit * 4 or None


def parts_played(text: str) -> list[str]:
    """The letters of the parts in the order in which they are played: A2(BC)2 is AABCBC."""
    rows: list[list[str]] = [[]]
    last: list[str] = []
    for match in _PLAYED.finditer(text.replace(".", "")):
        word = match[0]
        if word == "(":
            rows.append([])
        elif word == ")" and len(rows) > 1:
            last = rows.pop()
            rows[-1] += last
        elif word.isdecimal():
            rows[-1] += last * (min(MOST_TIMES, int(word)) - 1)
        elif word not in "()":
            last = [word]
            rows[-1] += last
        if sum(map(len, rows)) > MAX_MEASURES:
            break
    return [letter for row in rows for letter in row]
