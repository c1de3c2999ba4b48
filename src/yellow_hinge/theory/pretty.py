"""Real music signs for eyes: sharps, flats and minus signs in plain words."""

from __future__ import annotations

import re


def pretty_degree(label: str) -> str:
    """b7 -> ♭7."""
    return label.replace("b", "♭").replace("#", "♯")


def pretty_accidentals(number: str) -> str:
    """Real signs in a plain number: b7-9#11 -> ♭7-9♯11."""
    return re.sub(r"b(?=\d)", "♭", number).replace("#", "♯")


def pretty_signed(semitones: int) -> str:
    """A move with its sign: +2, −3, 0."""
    return f"{semitones:+d}".replace("-", "−") if semitones else "0"
