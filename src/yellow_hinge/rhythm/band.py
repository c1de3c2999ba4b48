"""A plain drum track that follows meter, feel and form."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction

from msgspec import Struct

from yellow_hinge.rhythm.counts import counts_of, is_compound
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.time import Meter

#: General MIDI percussion keys.
KICK, RIM, SNARE, BRUSH, HAT, HAT_FOOT, CRASH, RIDE = 36, 37, 38, 40, 42, 44, 49, 51
#: What the drummer plays with, in words.
DRUMS: dict[str, str] = {"": "no drums", "brush": "brushes", "rim": "rim clicks", "ride": "ride cymbal"}
_LASTS = Fraction(1, 8)


class DrumBar(Struct, frozen=True):
    """A bar of the song: when it starts (quarters), its meter, and whether a section begins or ends in it."""

    start: Fraction
    meter: Meter
    first: bool = False
    last: bool = False


def drums(bars: Iterable[DrumBar], kind: str, swing: bool) -> Iterator[NoteEvent]:
    """The strokes of a whole song for one of :data:`DRUMS`, in time order within each bar."""
    for bar in bars:
        starts = _starts(bar.meter)
        for place, at in enumerate(starts):
            for key, velocity in _on_count(kind, bar, place, len(starts)):
                yield _note(bar.start + at, key, velocity)
        for at, key, velocity in _between(kind, bar, starts, swing):
            yield _note(bar.start + at, key, velocity)


def _starts(meter: Meter) -> list[Fraction]:
    at, starts = Fraction(0), []
    for length in counts_of(meter):
        starts.append(at)
        at += length
    return starts


def _note(at: Fraction, key: int, velocity: int) -> NoteEvent:
    return NoteEvent(at, key, _LASTS, velocity, "drums")


def _back_beat(place: int, counts: int) -> bool:
    """Two and four, or the last count of a bar of three or five."""
    return place % 2 == 1 if counts % 2 == 0 else place == counts - 1


def _on_count(kind: str, bar: DrumBar, place: int, counts: int) -> Iterator[tuple[int, int]]:
    if place == 0:
        yield KICK, 60
        if bar.first:
            yield CRASH, 52
    back = _back_beat(place, counts)
    if kind == "ride":
        yield RIDE, 62 if back else 54
        if back:
            yield HAT_FOOT, 56
    elif kind == "brush":
        yield BRUSH, 46 if back else 34
        if back:
            yield HAT_FOOT, 46
    elif kind == "rim":
        yield HAT, 50
        if back:
            yield RIM, 64


def _between(
    kind: str, bar: DrumBar, starts: list[Fraction], swing: bool
) -> Iterator[tuple[Fraction, int, int]]:
    """Strokes between the counts: eighths on the hat, the skip of the ride, and two strokes that lead into
    the next section."""
    lengths = counts_of(bar.meter)
    for place, (at, length) in enumerate(zip(starts, lengths, strict=True)):
        parts = 3 if is_compound(bar.meter) else 2
        step = length / parts
        if kind == "rim":
            for k in range(1, parts):
                yield at + k * step, HAT, 38
        elif kind == "ride" and swing and _back_beat(place, len(starts)):
            yield at + (parts - 1) * step, RIDE, 46
        if bar.last and place == len(starts) - 1:
            yield at + length / 2, SNARE, 50
            yield at + length * 3 / 4, SNARE, 44
