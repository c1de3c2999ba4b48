"""Chords borrowed from the parallel key."""

from __future__ import annotations

from collections.abc import Iterator

from yellow_hinge.reharm.regions import is_dominant
from yellow_hinge.reharm.rules.base import (
    BORROWED,
    Draft,
    Place,
    goes_home,
    is_minor,
    on,
    row,
    rule,
    semitones_between,
    step_in_key,
    up,
    whole,
)


@rule("borrowed", "borrowed from the parallel key", BORROWED, 140)
def borrowed(place: Place) -> Iterator[Draft]:
    key, chord, step = place.key, place.chord, step_in_key(place)
    if chord.bass is not None:
        return
    if key.minor:
        if step == 0 and is_minor(chord) and not is_dominant(place.after or chord):
            yield from whole(place, on(chord.root, "maj9"), "major home for minor: the light turns on")
        return
    kind = chord.kind
    if step == 5 and kind == "major":
        home = goes_home(place)
        yield from whole(place, on(chord.root, "m6"), "four from the parallel minor: its third falls", home)
        yield from row(place, (chord, on(chord.root, "m6")), "four, then four minor: its third falls")
    if step == 2 and kind == "minor":
        yield from whole(place, on(chord.root, "m7b5"), "the two of the parallel minor", True)
    if step == 9 and kind == "minor":
        yield from whole(place, on(up(key.tonic, 5, 8), "maj9"), "flat six for six, from the parallel minor")
    if step == 0 and kind == "major":
        yield from whole(place, on(up(key.tonic, 2, 3), "maj9"), "flat three, from the parallel minor")
    if step in (7, 11):
        yield from whole(place, on(up(key.tonic, 6, 10), "13"), "flat seven, from the parallel minor")


@rule("neapolitan", "flat two before the five", BORROWED, 160)
def neapolitan(place: Place) -> Iterator[Draft]:
    """The major chord a half step above home, in place of two or four, before the five or home."""
    after = place.after
    if after is None or step_in_key(place) not in (2, 5) or place.chord.bass is not None:
        return
    goal = semitones_between(place.key.tonic, after.root)
    if goal in (7, 0) and not is_dominant(place.chord):
        chord = on(up(place.key.tonic, 1, 1), "maj7")
        where = "the five" if goal == 7 else "home"
        yield from whole(place, chord, f"flat two: it leans into {where} from a half step above home")
