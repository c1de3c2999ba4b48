"""Rules for a stretch, for one hand: a family, an inversion, how many notes, what is on top, how far it
goes, a fixed grip, rest; and for both: strict symbols, repeats alike.

A rule never makes a chord impossible: where it cannot be obeyed, that chord goes without it.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from msgspec import Struct

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import MIDI_KEYS, Pitch, name_for_pitch_class
from yellow_hinge.theory.tension import any_label
from yellow_hinge.voicing.shape import HandShape

Side = Literal["left", "right", "both"]
Kind = Literal["family", "inversion", "notes", "octave", "single", "top", "lowest", "highest", "grip", "rest",
               "strict", "alike"]  # fmt: skip
Value = str | int | tuple[int, ...] | None

INVERSIONS = (
    ("root position", ("R",)),
    ("first inversion", ("3", "b3")),
    ("second inversion", ("5", "b5", "#5")),
    ("third inversion", ("7", "b7", "bb7", "6")),
)
#: What a player means by a plain number on top: the tone as the chord has it.
TOPS = {
    "1": ("R",), "3": ("3", "b3"), "5": ("5", "b5", "#5"), "6": ("6",), "7": ("7", "b7", "bb7"),
    "9": ("9", "b9", "#9"), "11": ("11", "#11"), "13": ("13", "b13"),
}  # fmt: skip
_COUNT_WORDS = ("no notes", "one note", "two notes", "three notes", "four notes", "five notes")
_F_SHARP = 6  # the one black key that most charts have as a sharp
#: Recipes that a rule brings along, whatever the school has.
_BRINGS = {"octave": ("octave-bass", "octave"), "single": ("single-bass", "single-tone")}


class HandRule(Struct, frozen=True, omit_defaults=True):
    """A rule with its value: a recipe's id, the number of an inversion (0..3) or of notes (1..5), a degree
    as in :data:`TOPS`, a key, or the keys of a grip; None where the kind says all. ``on`` False: it rests.
    """

    side: Side
    kind: Kind
    value: Value = None
    on: bool = True

    @property
    def sound(self) -> bool:
        """Whether the value is one that a rule of its kind can have."""
        value, most = self.value, {"inversion": 3, "notes": 5, "lowest": 127, "highest": 127}
        if self.kind in most:
            return isinstance(value, int) and (self.kind == "notes") <= value <= most[self.kind]
        if self.kind == "grip":
            keys = value if isinstance(value, tuple) else ()
            rising = list(keys) == sorted(set(keys)) and 0 < len(keys) <= 5
            return rising and all(key in MIDI_KEYS for key in keys)
        return isinstance(value, str) if self.kind in ("family", "top") else value is None

    @property
    def of_chords(self) -> bool:
        """Whether it asks something of each chord by itself, which some chord may not be able to do."""
        return self.kind not in ("strict", "alike")

    def allows(self, shape: HandShape) -> bool:
        """Whether a shape of its hand, which plays, keeps to it."""
        keys, value = shape.keys, self.value
        return {
            "family": lambda: shape.recipe == value,
            "inversion": lambda: isinstance(value, int) and shape.degrees[0] in INVERSIONS[value][1],
            "notes": lambda: len(keys) == value,
            "octave": lambda: len(keys) == 2 and keys[1] - keys[0] == 12,
            "single": lambda: len(keys) == 1,
            "top": lambda: shape.degrees[-1] in TOPS.get(str(value), (str(value),)),
            "lowest": lambda: isinstance(value, int) and keys[0] >= value,
            "highest": lambda: isinstance(value, int) and keys[-1] <= value,
        }.get(self.kind, lambda: True)()

    def recipes(self) -> tuple[str, ...]:
        """Recipes that it brings along."""
        if self.kind == "family":
            return (str(self.value),)
        return _BRINGS.get(self.kind, ())

    def words(self, name: str = "") -> str:
        """The rule as a sentence; ``name`` is what the value's recipe is called."""
        hand = {"left": "Left hand", "right": "Right hand", "both": "Both hands"}[self.side]
        value = self.value
        said = {
            "family": lambda: name or str(value),
            "inversion": lambda: INVERSIONS[int(str(value))][0],
            "notes": lambda: _COUNT_WORDS[int(str(value))],
            "octave": lambda: "in octaves",
            "single": lambda: "one note alone",
            "top": lambda: f"{value} on top",
            "lowest": lambda: f"nothing below {_key_words(value)}",
            "highest": lambda: f"nothing above {_key_words(value)}",
            "grip": lambda: f"always {_key_words(value)}",
            "rest": lambda: "at rest",
            "strict": lambda: "just the tones of the symbol",
            "alike": lambda: "a chord that comes again sounds as before",
        }[self.kind]()
        return said[:1].upper() + said[1:] if self.side == "both" else f"{hand}: {said}"


def _key_words(value: Value) -> str:
    keys = value if isinstance(value, tuple) else (int(str(value)),)
    names = (name_for_pitch_class(key % 12, flats=key % 12 != _F_SHARP) for key in keys)
    return " ".join(Pitch(key, name).pretty for key, name in zip(keys, names, strict=True))


def fixed_grip(chord: ChordSymbol, keys: tuple[int, ...]) -> HandShape | None:
    """A fixed grip in a chord, with what its notes are there; None where one of them has no business in
    it."""
    labels = [chord.label_of(key % 12) or any_label(chord, key % 12) for key in keys]
    found = tuple(label for label in labels if label is not None)
    return HandShape(keys, found) if len(found) == len(keys) else None


def merged(wider: tuple[HandRule, ...], rules: tuple[HandRule, ...]) -> tuple[HandRule, ...]:
    """The rules that hold, the strongest last: where two contradict each other a narrower one wins, and of
    one stretch the one that was set later. A narrower one takes the place of a wider one of its kind and
    hand; those that rest do not hold."""
    found: dict[tuple[Side, Kind], HandRule] = {}
    for rule in (*wider, *rules):
        if rule.on:
            found.pop((rule.side, rule.kind), None)
            found[rule.side, rule.kind] = rule
    return tuple(found.values())


def of_kind(rules: tuple[HandRule, ...], kind: Kind) -> Iterator[HandRule]:
    """The rules of one kind."""
    return (rule for rule in rules if rule.kind == kind)
