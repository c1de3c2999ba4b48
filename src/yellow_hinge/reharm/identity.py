"""What a song is by: the chords that its listeners know it from, and lines that walk through them. Swaps over
a whole song leave these alone unless they are asked to touch them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from itertools import pairwise

from msgspec import Struct

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import degree_semitones

#: A phrase has so many bars.
PHRASE_BARS = 4
#: A loop has at most so many chords, and at least two.
LOOP_CHORDS = range(2, 5)
#: A line, or a pedal, goes through so many chords at least.
_THROUGH = 3


class Heard(Struct, frozen=True):
    """A chord as it is played: its bar from 1, which stretch of the form it is in (another number for each
    round), how long it lasts, and its key."""

    chord: ChordSymbol | None
    bar: int
    stretch: int
    quarters: Fraction
    key: Key
    whole_bar: bool = False


def tones(chord: ChordSymbol | None) -> frozenset[int]:
    """The pitch classes of a chord and its bass."""
    if chord is None:
        return frozenset()
    own = {(chord.root.pitch_class + degree_semitones(label)) % 12 for label in chord.degrees}
    return frozenset(own | {chord.bass_name.pitch_class})


def fixed(row: Sequence[Heard]) -> frozenset[int]:
    """Places of chords that stay: the first and the last of the song and of each stretch, the goal of each
    phrase, loops, pedal points, and home at the beginning as long as whole bars rest there."""
    if not row:
        return frozenset()
    return frozenset(
        {0, len(row) - 1, *_ends(row), *_goals(row), *_loops(row), *_pedals(row), *_opening(row)}
    )


def _ends(row: Sequence[Heard]) -> Iterator[int]:
    for place, (heard, other) in enumerate(pairwise(row)):
        if heard.stretch != other.stretch:
            yield place
            yield place + 1


def _goals(row: Sequence[Heard]) -> Iterator[int]:
    """The last chord of each phrase."""
    first: dict[int, int] = {}
    for heard in row:
        first.setdefault(heard.stretch, heard.bar)
    phrases = [(heard.stretch, (heard.bar - first[heard.stretch]) // PHRASE_BARS) for heard in row]
    for place, (phrase, later) in enumerate(pairwise(phrases)):
        if phrase != later:
            yield place


def _loops(row: Sequence[Heard]) -> Iterator[int]:
    """Chords that come again in the same order and lengths at once, up to four of them."""
    heard = [(one.chord, one.quarters) for one in row]
    for size in LOOP_CHORDS:
        for start in range(len(heard) - 2 * size + 1):
            once = heard[start : start + size]
            if once == heard[start + size : start + 2 * size] and len(set(once)) > 1:
                yield from range(start, start + 2 * size)


def _pedals(row: Sequence[Heard]) -> Iterator[int]:
    """Three chords and more over one bass."""
    basses = [None if heard.chord is None else heard.chord.bass_name.pitch_class for heard in row]
    for place in range(len(row) - _THROUGH + 1):
        held = basses[place : place + _THROUGH]
        roots = {
            heard.chord.root.pitch_class for heard in row[place : place + _THROUGH] if heard.chord is not None
        }
        if held[0] is not None and len(set(held)) == 1 and len(roots) > 1:
            yield from range(place, place + _THROUGH)


def _opening(row: Sequence[Heard]) -> Iterator[int]:
    for place, heard in enumerate(row):
        home = heard.chord is not None and heard.chord.root.pitch_class == heard.key.tonic.pitch_class
        if not home or not heard.whole_bar:
            return
        yield place


def lines(row: Sequence[Heard]) -> tuple[frozenset[int], ...]:
    """For each chord the pitch classes in which a voice moves on by half steps, one way, through three chords
    and more: what comes in its place has them too."""
    sounding = [tones(heard.chord) for heard in row]
    found: list[set[int]] = [set() for _ in row]
    for place in range(len(row) - _THROUGH + 1):
        for start in sounding[place]:
            for step in (1, -1):
                walk = [(start + step * k) % 12 for k in range(_THROUGH)]
                if all(note in sounding[place + k] for k, note in enumerate(walk)):
                    for k, note in enumerate(walk):
                        found[place + k].add(note)
    return tuple(map(frozenset, found))
