"""The values: what one hand holds, what both hold together, and what is fixed of it."""

from __future__ import annotations

from functools import lru_cache
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.remembering import for_a_song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import NoteName, Pitch, degree_semitones
from yellow_hinge.theory.spelling import plain

#: Which hands play: both, one alone, or none (a rest).
Hands = Literal["both", "left", "right", "rest"]
#: What the top line does: stay where it can, go as it comes, or sing.
TopLine = Literal["still", "free", "sings"]
#: How a section's top line lies when it sings.
Plan = Literal["arc", "flat", "rising", "falling"]


class HandShape(Struct, frozen=True):
    """The keys of one hand, low to high, the degree that each is, and the recipe's id."""

    keys: tuple[int, ...] = ()
    degrees: tuple[str, ...] = ()
    recipe: str = ""

    def pitches(self, chord: ChordSymbol) -> tuple[Pitch, ...]:
        """The keys in the chord's true spelling."""
        return tuple(
            Pitch(key, spell(chord, key, degree)) for key, degree in zip(self.keys, self.degrees, strict=True)
        )

    def printed(self, chord: ChordSymbol) -> tuple[Pitch, ...]:
        """The keys as they are read on paper: without double signs where the symbol has none."""
        return tuple(plain(pitch, chord) for pitch in self.pitches(chord))


def spell(chord: ChordSymbol, key: int, degree: str) -> NoteName:
    """The name of a key that is ``degree`` in ``chord``; ``B`` marks a foreign slash bass."""
    if chord.bass is not None and chord.bass.pitch_class == key % 12:
        return chord.bass
    return chord.root.degree(degree)


#: For each semitone above a root what it does there.
Roles = tuple[str, ...]
_ROLES: Roles = ("R", "9", "9", "9", "3", "11", "11", "5", "13", "13", "7", "7")
_ROLE_OF = {"3": "3", "b3": "3", "5": "5", "b5": "5", "#5": "5", "6": "7", "b7": "7", "7": "7", "bb7": "7"}


@for_a_song
@lru_cache(maxsize=4096)
def roles_of(chord: ChordSymbol, side: str) -> Roles:
    """What each semitone above the root does in a chord for a hand, whatever its kind: a suspended tone
    stands for the third, a sixth that is named for the seventh, and to the "left" hand a slash bass for the
    root. One shape that slides keeps the roles of its notes."""
    found = list(_ROLES)
    for label in chord.degrees:
        role = "3" if label in chord.sus else _ROLE_OF.get(label)
        if role is not None:
            found[degree_semitones(label)] = role
    if side == "left" and chord.bass is not None:
        found[(chord.bass.pitch_class - chord.root.pitch_class) % 12] = "R"
    return tuple(found)


class Voicing(Struct, frozen=True):
    """Both hands. Hands never share a key; either may be empty (no chord)."""

    left: HandShape = HandShape()
    right: HandShape = HandShape()

    def hand(self, side: str) -> HandShape:
        """The shape of the "left" or "right" hand."""
        return self.left if side == "left" else self.right

    @property
    def keys(self) -> tuple[int, ...]:
        return self.left.keys + self.right.keys

    @property
    def degrees(self) -> tuple[str, ...]:
        return self.left.degrees + self.right.degrees


class Hold(Struct, frozen=True):
    """What a player has fixed of a voicing; None leaves it open. What is named in ``off`` is kept, and does
    not hold.

    left, right                a hand's whole shape
    top, bass                  the highest key, and the lowest one of the left hand
    left_recipe, right_recipe  the recipe of a hand
    lowest, highest            no key of either hand beyond these
    """

    left: HandShape | None = None
    right: HandShape | None = None
    top: int | None = None
    bass: int | None = None
    left_recipe: str | None = None
    right_recipe: str | None = None
    lowest: int | None = None
    highest: int | None = None
    off: frozenset[str] = frozenset()

    @property
    def said(self) -> tuple[str, ...]:
        """The fields that are fixed, whether they hold or are switched off."""
        every = (name for name in self.__struct_fields__ if name != "off")
        return tuple(name for name in every if getattr(self, name) is not None)

    @property
    def names(self) -> tuple[str, ...]:
        """The fields that are fixed and hold."""
        return tuple(name for name in self.said if name not in self.off)

    @property
    def awake(self) -> Hold:
        """What holds of it. Names that a file calls off and nobody knows stay names."""
        return replace(self, off=frozenset(), **dict.fromkeys(self.off & {*self.said})) if self.off else self

    def allows(self, shape: HandShape, side: str) -> bool:
        """Whether a shape of the "left" or "right" hand keeps to it."""
        keys = shape.keys
        recipe = self.left_recipe if side == "left" else self.right_recipe
        end, wanted = (keys[0], self.bass) if side == "left" else (keys[-1], self.top)
        return (
            (recipe is None or shape.recipe == recipe)
            and (wanted is None or end == wanted)
            and (self.lowest is None or keys[0] >= self.lowest)
            and (self.highest is None or keys[-1] <= self.highest)
        )
