"""Keys: a tonic with major or minor mode, their scales and signatures."""

from __future__ import annotations

import re
from functools import lru_cache

from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.theory.pitch import NoteName, read_note_name

MAJOR_STEPS = (0, 2, 4, 5, 7, 9, 11)
#: Natural minor. The raised sixth and seventh belong to single chords, not to the key.
MINOR_STEPS = (0, 2, 3, 5, 7, 8, 10)

_MODE = re.compile(r"\s*(major|maj|M|minor|min|m|-)?\s*")
#: Fifths above C of the natural letters C..B (circle of fifths).
_LETTER_FIFTHS = (0, 2, 4, -1, 1, 3, 5)


class Key(Struct, frozen=True):
    """A key. ``minor`` keys keep their own tonic; see :mod:`numbers` for both numberings."""

    tonic: NoteName
    minor: bool = False

    def __str__(self) -> str:
        return f"{self.tonic}{'m' if self.minor else ''}"

    @property
    def pretty(self) -> str:
        return f"{self.tonic.pretty} {'minor' if self.minor else 'major'}"

    @property
    def fifths(self) -> int:
        """Sharps (positive) or flats (negative) of the signature."""
        return _LETTER_FIFTHS[self.tonic.step] + 7 * self.tonic.alter - (3 if self.minor else 0)

    @property
    def pitch_classes(self) -> frozenset[int]:
        """The seven pitch classes of the scale (natural minor in minor keys)."""
        return _scale(self.tonic.pitch_class, self.minor)

    @property
    def relative_major(self) -> Key:
        return Key(self.tonic.above(2, 3)) if self.minor else self

    @property
    def prefers_flats(self) -> bool:
        return self.fifths < 0


@lru_cache(maxsize=24)
def _scale(tonic: int, minor: bool) -> frozenset[int]:
    return frozenset((tonic + step) % 12 for step in (MINOR_STEPS if minor else MAJOR_STEPS))


def key_from_fifths(fifths: int, minor: bool) -> Key:
    """The key with this signature. ``fifths`` in -7..7."""
    for alter in (0, -1, 1):
        for step in range(7):
            key = Key(NoteName(step, alter), minor)
            if key.fifths == fifths:
                return key
    raise ValueError(f"a signature has -7..7 fifths, not {fifths}")


#: The keys that a player can choose from: signatures of at most seven signs.
ALL_KEYS: tuple[Key, ...] = tuple(
    key_from_fifths(fifths, minor) for minor in (False, True) for fifths in range(-7, 8)
)


def plainest_key(pitch_class: int, minor: bool) -> Key:
    """The key on a pitch class with the fewest signs, flats before sharps."""
    fitting = [key for key in ALL_KEYS if key.minor == minor and key.tonic.pitch_class == pitch_class % 12]
    return min(fitting, key=lambda key: (abs(key.fifths), key.fifths))


def parse_key(text: str, place: str = "key") -> Key:
    """Read ``A``, ``Bb``, ``F#m``, ``C minor``.

    Raises :class:`BadInput` for anything else and for keys of more than seven signs.
    """
    text = text.strip()
    found = read_note_name(text)
    if found is not None:
        mode = _MODE.fullmatch(text, found[1])
        if mode is not None:
            key = Key(found[0], mode.group(1) in ("minor", "min", "m", "-"))
            if abs(key.fifths) <= 7:
                return key
            raise BadInput(
                Problem(
                    place,
                    f"the key {text} would need {abs(key.fifths)} signs",
                    "write its enharmonic twin, such as Db for C#",
                )
            )
    raise BadInput(Problem(place, f"{text!r} is not a key", "write a note, with m for minor: A, Bb, F#m"))
