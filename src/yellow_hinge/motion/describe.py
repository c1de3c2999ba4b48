"""Describing a row of voicings, wherever it came from. No search and no arrays."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from yellow_hinge.hands.fingering import finger_progression
from yellow_hinge.motion.hinge import Held, HingeReport, hinge
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.voicing.shape import Voicing

#: Where a bassist plays: the low E of a bass guitar up to its twelfth fret on the third string.
_BASS_LOW, _BASS_HIGH, _BASS_HOME = 28, 43, 36


def held_row(chords: Sequence[ChordSymbol | None], voicings: Sequence[Voicing | None]) -> tuple[Held, ...]:
    """Every voicing with its fingers, chosen along the row."""
    filled = [voicing or Voicing() for voicing in voicings]
    left = finger_progression(tuple(voicing.left.keys for voicing in filled), left=True)
    right = finger_progression(tuple(voicing.right.keys for voicing in filled), left=False)
    return tuple(Held(*parts) for parts in zip(chords, filled, left, right, strict=True))


def hinges(row: Sequence[Held]) -> tuple[HingeReport, ...]:
    """The change between each voicing and the next, (n - 1)."""
    return tuple(hinge(before, after) for before, after in pairwise(row))


def bass_line(chords: Sequence[ChordSymbol | None]) -> tuple[int | None, ...]:
    """What a bassist plays: each bass note in the octave nearest to the one before."""
    line: list[int | None] = []
    last = _BASS_HOME
    for chord in chords:
        if chord is None:
            line.append(None)
            continue
        pitch_class = chord.bass_name.pitch_class
        keys = [key for key in range(_BASS_LOW, _BASS_HIGH + 1) if key % 12 == pitch_class]
        last = min(keys, key=lambda key: (abs(key - last), key))
        line.append(last)
    return tuple(line)
