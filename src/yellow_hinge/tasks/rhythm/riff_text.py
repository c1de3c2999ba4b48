"""A riff as it is typed: notes with their length in beats, one after the other."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from itertools import groupby

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.rhythm.patterns import Hand
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.theory.pitch import Pitch, name_for_pitch_class, read_pitch

MOST_SIGNS, MOST_BEATS = 600, 64
#: Notes at once that one hand has fingers for.
MOST_AT_ONCE, _LAST_KEY = 5, 127
_EXAMPLE = "write notes such as E5:1/2 or D5+F5:1/2, and rests such as r:1"


def read_riff_text(text: str, hand: Hand = "right") -> tuple[RiffNote, ...]:
    """The notes of a text; a note without a length lasts a beat. Raises :class:`BadInput` with every word
    that is none."""
    notes: list[RiffNote] = []
    problems: list[Problem] = []
    at = Fraction(0)
    for number, word in enumerate(text.split(), 1):
        name, colon, length = word.partition(":")
        beats = strict.length(length) if colon else Fraction(1)
        keys = _keys(name)
        if not beats or at + beats > MOST_BEATS or keys is None:
            problems.append(Problem(f"riff, word {number}", f"{word!r} is no note", _EXAMPLE))
            continue
        notes += (RiffNote(at, beats, key, hand) for key in keys)
        at += beats
    if problems:
        raise BadInput(problems)
    return tuple(notes)


def _keys(name: str) -> list[int] | None:
    """The keys of one word, ascending; none for a rest, None for what is neither."""
    if name.lower() == "r":
        return []
    row = [read_pitch(one) for one in name.split("+")]
    keys = {pitch.key for pitch in row if pitch is not None and 0 <= pitch.key <= _LAST_KEY}
    return sorted(keys) if len(keys) == len(row) <= MOST_AT_ONCE else None


def riff_text(notes: Iterable[RiffNote], flats: bool) -> str:
    """The other way round; of notes that begin while others sound the later ones are left out."""
    words: list[str] = []
    at = Fraction(0)
    ordered = sorted(notes, key=lambda note: (note.at_beats, note.key))
    for start, group in groupby(ordered, key=lambda note: note.at_beats):
        if start < at:
            continue
        if start > at:
            words.append(f"r:{start - at}")
        together = list(group)
        names = "+".join(
            str(Pitch(note.key, name_for_pitch_class(note.key % 12, flats))) for note in together
        )
        words.append(f"{names}:{together[0].beats}")
        at = start + together[0].beats
    return " ".join(words)
