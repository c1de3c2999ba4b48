"""The values: what one hand holds, and what both hold together."""

from __future__ import annotations

from dataclasses import dataclass

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import NoteName, Pitch


@dataclass(frozen=True, slots=True)
class HandShape:
    """The keys of one hand, low to high, the degree that each is, and the recipe's id."""

    keys: tuple[int, ...] = ()
    degrees: tuple[str, ...] = ()
    recipe: str = ""

    def pitches(self, chord: ChordSymbol) -> tuple[Pitch, ...]:
        """The keys in the chord's true spelling."""
        return tuple(
            Pitch(key, spell(chord, key, degree)) for key, degree in zip(self.keys, self.degrees, strict=True)
        )


def spell(chord: ChordSymbol, key: int, degree: str) -> NoteName:
    """The name of a key that is ``degree`` in ``chord``; ``B`` marks a foreign slash bass."""
    if chord.bass is not None and chord.bass.pitch_class == key % 12:
        return chord.bass
    return chord.root.degree(degree)


@dataclass(frozen=True, slots=True)
class Voicing:
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
