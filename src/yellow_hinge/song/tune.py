"""The tune of the chart against the chords: what sounds over which, and as notes."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from yellow_hinge.rhythm.events import NoteEvent, NoteOver
from yellow_hinge.song.model import Song

#: How hard the tune is struck, 1..127: a little above the hands.
TUNE_VELOCITY = 84


def melody_keys(song: Song) -> tuple[int | None, ...]:
    """For each slot the melody key at its stroke: the note that sounds there, or else the first
    one that begins while the chord lasts."""
    return tuple(over[0].key if over else None for over in melody_over(song))


def melody_over(song: Song) -> tuple[tuple[NoteOver, ...], ...]:
    """For each slot the melody notes that sound while it lasts."""
    return melody_within(song, [(slot.start_quarters, slot.quarters) for slot in song.slots])


def strong_places(song: Song) -> frozenset[Fraction]:
    """Where the first beat of a bar falls, and its middle one where the bar has an even number."""
    found = set()
    for played in song.chart.played:
        found.add(played.start_quarters)
        if played.bar.meter.beats % 2 == 0:
            found.add(played.start_quarters + played.bar.quarters / 2)
    return frozenset(found)


def melody_within(song: Song, spans: Iterable[tuple[Fraction, Fraction]]) -> tuple[tuple[NoteOver, ...], ...]:
    """For each stretch (start, length, in quarters; in time order) the melody notes that sound in
    it."""
    tune = song.tune
    if not tune:
        return tuple(() for _ in spans)
    strong_at = strong_places(song)
    found = []
    first = 0  # notes before it have ended before any of the stretches to come
    for start, length in spans:
        end = start + length
        over = []
        while first < len(tune) and tune[first][0] + tune[first][1] <= start:
            first += 1
        for place in range(first, len(tune)):
            onset, lasts, pitch = tune[place]
            if onset >= end:
                break
            begins, stops = max(onset, start), min(onset + lasts, end)
            around = (tune[i][2].key for i in (place - 1, place + 1) if 0 <= i < len(tune))
            stepwise = any(1 <= abs(pitch.key - other) <= 2 for other in around)
            strong = begins in strong_at or begins == start
            over.append(NoteOver(pitch.key, pitch, begins, stops - begins, strong, stepwise=stepwise))
        found.append(tuple(over))
    return tuple(found)


def melody_events(song: Song) -> list[NoteEvent]:
    """The tune, repeats written out, the pickup before 0."""
    return [
        NoteEvent(start, pitch.key, length, TUNE_VELOCITY, "melody") for start, length, pitch in song.tune
    ]
