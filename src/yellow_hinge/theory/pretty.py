"""Words for eyes: real sharps, flats and minus signs, and numbers of things."""

from __future__ import annotations

import re


def pretty_degree(label: str) -> str:
    """b7 -> ♭7."""
    return label.replace("b", "♭").replace("#", "♯")


_TONES = {
    "3": "third", "b3": "third", "5": "fifth", "6": "sixth", "7": "seventh", "b7": "seventh",
    "bb7": "seventh", "9": "ninth", "11": "eleventh", "13": "thirteenth",
}  # fmt: skip


def tone_words(label: str) -> str:
    """b7 -> seventh; what is altered by its sign: #11 -> ♯11."""
    return _TONES.get(label, pretty_degree(label))


def pretty_accidentals(number: str) -> str:
    """Real signs in a plain number: b7-9#11 -> ♭7-9♯11."""
    return re.sub(r"b(?=b*\d)", "♭", number).replace("#", "♯")


def counted(count: int, one: str, more: str = "") -> str:
    """A number of things in words: 1 bar, 2 bars, 3 tries."""
    return f"{count:,} {one if count == 1 else more or f'{one}s'}"


def pretty_signed(semitones: int) -> str:
    """A move with its sign: +2, −3, 0."""
    return f"{semitones:+d}".replace("-", "−") if semitones else "0"
