"""A riff as it is typed: notes with their length in beats, one after the other."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.rhythm.patterns import Hand
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.theory.pitch import Pitch, name_for_pitch_class, read_pitch

MOST_SIGNS, MOST_BEATS = 600, 64
_EXAMPLE = "write notes such as E5:1/2 and rests such as r:1"


def read_riff_text(text: str, hand: Hand = "right") -> tuple[RiffNote, ...]:
    """The notes of a text; a note without a length lasts a beat. Raises :class:`BadInput` with every word
    that is none."""
    found: list[RiffNote] = []
    problems: list[Problem] = []
    at = Fraction(0)
    for number, word in enumerate(text.split(), 1):
        name, colon, length = word.partition(":")
        beats = strict.length(length) if colon else Fraction(1)
        pitch = read_pitch(name)
        rest = name.lower() == "r"
        if (
            not beats
            or at + beats > MOST_BEATS
            or not (rest or (pitch is not None and 0 <= pitch.key <= 127))
        ):
            problems.append(Problem(f"riff, word {number}", f"{word!r} is no note", _EXAMPLE))
            continue
        if pitch is not None and not rest:
            found.append(RiffNote(at, beats, pitch.key, hand))
        at += beats
    if problems:
        raise BadInput(problems)
    return tuple(found)


def riff_text(notes: Iterable[RiffNote], flats: bool) -> str:
    """The other way round; of notes that sound together the later ones are left out."""
    words: list[str] = []
    at = Fraction(0)
    for note in sorted(notes, key=lambda one: one.at_beats):
        if note.at_beats < at:
            continue
        if note.at_beats > at:
            words.append(f"r:{note.at_beats - at}")
        words.append(f"{Pitch(note.key, name_for_pitch_class(note.key % 12, flats))}:{note.beats}")
        at = note.at_beats + note.beats
    return " ".join(words)
