"""Touch: how hard each note is struck, by meter, phrase and voice; and the small unevenness of a person.

That a pianist brings out the top line by ten of MIDI's steps and more is measured in W. Goebl, Melody lead in
piano performance, J. Acoust. Soc. Am. 110 (2001); that loudness rises and falls with the phrase in N. Todd,
The dynamics of dynamics, J. Acoust. Soc. Am. 91 (1992). The figures here are our choice, and cautious.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Mapping, Sequence
from fractions import Fraction
from functools import lru_cache
from itertools import accumulate, pairwise
from math import cos, pi
from random import Random
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.remembering import for_a_song
from yellow_hinge.rhythm.counts import counts_of
from yellow_hinge.rhythm.events import NoteEvent, Part
from yellow_hinge.rhythm.perform import BarAt, QuarterMs
from yellow_hinge.rhythm.time import Meter

#: Bars of a phrase, from the beginning of a section on; a rest of fewer than two joins the one before.
PHRASE_BARS, _LEAST_BARS = 4, 2
#: How far touch rises over a phrase, and where it is highest.
SWELL, _PEAK = 12, 0.6
#: First count, middle of an even bar, and between the counts.
DOWNBEAT, MIDDLE, BETWEEN = 5, 2, -4
Span = tuple[Fraction, Fraction]
Voice = Literal["top", "bass", "inner"]
VOICED: Mapping[Voice, int] = {"top": 6, "bass": 4, "inner": -5}
#: How late a stroke of a person comes at most, how far apart the notes of one lie, and how much its touch
#: differs, in ms and MIDI's steps.
LATE_MS, APART_MS, UNEVEN = 14.0, 5.0, 5
_SOFTEST, _HARDEST = 1, 127
#: Parts that people play with their hands.
HAND_PARTS: frozenset[Part] = frozenset({"left", "right", "riff", "melody", "bass"})
_FINE = 960
#: Places nearer to each other than this, in quarters, are one.
_SAME = 1e-7


class Edges(Struct, frozen=True):
    """The outer keys of what both hands hold on a slot: the bass (None: somebody else has it) and the top
    (None: the tune or a line lies above the hands)."""

    bass: int | None = None
    top: int | None = None

    def voice(self, key: int) -> Voice:
        """What a key of the hands is."""
        if self.bass is not None and key <= self.bass:
            return "bass"
        return "top" if self.top is not None and key >= self.top else "inner"


def phrases_of(bars: Sequence[BarAt], sections: Sequence[int], end: Fraction) -> list[Span]:
    """Beginning and end of each phrase, in quarters: four bars each from the beginning of a section on;
    ``sections`` are the numbers of the bars with which one begins."""
    found: list[Span] = []
    firsts = sorted({0, *sections} & set(range(len(bars))))
    for first, last in pairwise([*firsts, len(bars)] if bars else []):
        starts = list(range(first, last, PHRASE_BARS))
        if len(starts) > 1 and last - starts[-1] < _LEAST_BARS:
            starts.pop()
        ends = [*starts[1:], last]
        found += [
            (bars[start].start, bars[after].start if after < len(bars) else end)
            for start, after in zip(starts, ends, strict=True)
        ]
    return found


def swell(share: float) -> float:
    """How much harder it is at a share of a phrase than in its mean: half waves up to the peak and down."""
    way = share / _PEAK if share <= _PEAK else (1 - share) / (1 - _PEAK)
    return SWELL * (1 - cos(pi * max(0.0, min(1.0, way)))) / 2 - SWELL / 2


def weight(place: float, meter: Meter) -> int:
    """How much harder a place of a bar is, in quarters from its beginning."""
    if abs(place) < _SAME:
        return DOWNBEAT
    starts = _starts(meter)
    count = next((k for k, start in enumerate(starts) if abs(start - place) < _SAME), None)
    if count is None:
        return BETWEEN
    return MIDDLE if len(starts) % 2 == 0 and count == len(starts) // 2 else 0


@for_a_song
@lru_cache(maxsize=256)
def _starts(meter: Meter) -> tuple[float, ...]:
    """Where the counts of a bar begin."""
    return (0.0, *map(float, accumulate(counts_of(meter)[:-1])))


def shaped(
    events: Iterable[NoteEvent],
    bars: Sequence[BarAt],
    phrases: Sequence[Span],
    edges: Mapping[int, Edges],
) -> list[NoteEvent]:
    """Notes with touch by meter and phrase, and those of the hands by voice (``edges`` by slot)."""
    bar_starts = [float(bar_at.start) for bar_at in bars]
    spans = [(float(start), float(end)) for start, end in phrases]
    phrase_starts = [start for start, _ in spans]
    by_place: dict[float, int] = {}

    def at_place(at: float) -> int:
        more = 0.0
        if bars:
            bar = max(0, bisect_right(bar_starts, at + _SAME) - 1)
            more += weight(at - bar_starts[bar], bars[bar].meter)
        if spans:
            start, end = spans[max(0, bisect_right(phrase_starts, at + _SAME) - 1)]
            more += swell((at - start) / (end - start)) if end > start else 0
        return round(more)

    note_events: list[NoteEvent] = []
    at, last = 0.0, None
    for event in events:
        if event.part not in HAND_PARTS:
            note_events.append(event)
            continue
        if event.start_quarters is not last:  # what is struck together is mostly one value
            last = event.start_quarters
            at = last.numerator / last.denominator  # hashing fractions is slow, and there are many
        more = by_place.get(at)
        if more is None:
            more = by_place[at] = at_place(at)
        if event.part in ("left", "right") and event.slot in edges and not event.ornament:
            more += VOICED[edges[event.slot].voice(event.key)]
        note_events.append(
            NoteEvent(
                event.start_quarters, event.key, event.quarters, velocity=_hard(event.velocity + more),
                part=event.part,
                slot=event.slot,
                way=event.way, ornament=event.ornament,
            )
        )  # fmt: skip
    return note_events


def _hard(velocity: int) -> int:
    return max(_SOFTEST, min(_HARDEST, velocity))


def as_a_person(notes: Iterable[NoteEvent], seed: int, quarter_ms: QuarterMs) -> list[NoteEvent]:
    """Notes a little late and uneven, by a seed that is not 0: the strokes of a hand together, its notes a
    little apart. Each ends where it ended; none comes before its place."""
    if not seed:
        return list(notes)
    events = []
    for event in notes:
        if event.part not in HAND_PARTS:
            events.append(event)
            continue
        stroke = Random(f"{seed} {event.part} {event.start_quarters}")
        own = Random(f"{seed} {event.part} {event.start_quarters} {event.key}")
        late_ms = abs(stroke.gauss(0, LATE_MS / 3)) + own.uniform(0, APART_MS)
        late = Fraction(round(min(late_ms, LATE_MS) / quarter_ms(event.start_quarters) * _FINE), _FINE)
        late = min(late, event.quarters / 4)
        uneven = round(max(-UNEVEN, min(UNEVEN, stroke.gauss(0, 2) + own.gauss(0, 1.2))))
        start, lasts = event.start_quarters + late, event.quarters - late
        events.append(
            replace(event, start_quarters=start, quarters=lasts, velocity=_hard(event.velocity + uneven))
        )
    return events
