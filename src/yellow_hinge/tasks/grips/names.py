"""Names of chords that are given as notes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.theory.identify import Name, identify
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.numbers import print_number
from yellow_hinge.theory.pitch import MIDI_KEYS, NoteName, read_pitch


def read_note(word: str, place: str) -> tuple[int, NoteName | None]:
    """A MIDI key, or a note with its octave. Raises :class:`BadInput`."""
    if word.isascii() and word.isdigit() and len(word) <= 3 and int(word) in MIDI_KEYS:
        return int(word), None
    pitch = read_pitch(word)
    if pitch is None:
        what = f"{word[:40]!r} is no note"
        raise BadInput(Problem(place, what, "write MIDI keys or notes with octaves: 49, C#3"))
    return pitch.key, pitch.name


def names_report(chords: list[str], key: Key | None = None) -> dict[str, Any]:
    """Ranked names for chords given as notes joined by commas, the lowest being the bass, with a semicolon
    between the hands where that is to count; with a key their numbers in it as well.

    Raises :class:`BadInput` for what is neither a MIDI key nor a note with its octave.
    """
    results = []
    for text in chords:
        hands = [part for part in text.split(";") if part.strip()] or [text]
        read = [
            [read_note(word.strip(), text.strip() or "chord") for word in hand.split(",")] for hand in hands
        ]
        pitches = [note for hand in read for note in hand]
        keys = sorted(key for key, _ in pitches)
        spelled = {name_key % 12: name for name_key, name in pitches if name is not None}
        names = identify(keys, spelled, left=len(read[0]) if len(read) > 1 else None)
        results.append({"notes": keys, "names": names_of(names, key)})
    return {"results": results}


def names_of(names: Sequence[Name], key: Key | None = None) -> list[dict[str, Any]]:
    return [
        {"symbol": str(name.chord), "reading": name.reading, "score": name.score}
        | ({} if key is None else {"number": print_number(name.chord, key)})
        for name in names
    ]
