"""From notes as they are written to notes as they are played: swing, rolls, crushed notes, shaken chords.

Swing is a share of the way from even eighths to 2:1. That players swing less the faster they go is from
A. Friberg and A. Sundström, Swing Ratios and Ensemble Timing in Jazz Performance, Music Perception 19 (2002):
about 3:1 at slow tempi to nearly even at 300; here it goes from the chosen ratio at 120 a minute to even at
300, our choice of the straight line.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Sequence
from fractions import Fraction
from itertools import groupby

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.rhythm.counts import is_compound
from yellow_hinge.rhythm.events import NoteEvent, PedalEvent
from yellow_hinge.rhythm.realise import untangled
from yellow_hinge.rhythm.time import Meter

#: Time from one note of a roll to the next, and of a crushed note, ms: usual values, our choice.
ROLL_MS, GRACE_MS = 35, 55
#: How often a shaken chord changes, strokes a second: what is comfortable, our choice.
TREMOLO_PER_S = 11
#: The tempi (quarters a minute) at which a tempo-aware swing begins to grow less, and is even.
SWING_FULL_AT, SWING_EVEN_AT = 120.0, 300.0
#: What a swing of 100 is: the first eighth lasts two thirds of the count.
_EVEN, _TWO_TO_ONE = Fraction(1, 2), Fraction(2, 3)
#: Places are put on this grid once they are no longer as written, in parts of a quarter.
_FINE = 960

#: Milliseconds of a quarter at a place.
QuarterMs = Callable[[Fraction], float]


class BarAt(Struct, frozen=True):
    """A bar as it is played: when it starts, in quarters, and its meter."""

    start: Fraction
    meter: Meter


class Feel(Struct, frozen=True):
    """How written eighths are played: ``swing`` 0 (even) to 100 (2:1), less at fast tempi where
    ``by_tempo``; ``roll_ms`` from one note of a roll to the next."""

    swing: int = 0
    by_tempo: bool = True
    roll_ms: int = ROLL_MS

    def first_share(self, quarter_ms: float) -> Fraction:
        """How much of a count its first eighth takes."""
        share = self.swing / 100
        if self.by_tempo:
            tempo = 60_000 / quarter_ms
            fast = (SWING_EVEN_AT - tempo) / (SWING_EVEN_AT - SWING_FULL_AT)
            share *= max(0.0, min(1.0, fast))
        return _EVEN + (_TWO_TO_ONE - _EVEN) * Fraction(round(share * 120), 120)


def performed(
    events: Iterable[NoteEvent],
    bars: Sequence[BarAt],
    feel: Feel,
    quarter_ms: QuarterMs,
    begins: Callable[[NoteEvent], Fraction],
) -> list[NoteEvent]:
    """Notes as they sound, of notes that are untangled. ``begins`` says when the chord of a note does:
    nothing of it comes before."""
    events = list(events)
    if feel.swing == 0 and not any(event.way for event in events):
        return sorted(events, key=_in_time)
    swung = events if feel.swing == 0 else _swung(events, bars, feel, quarter_ms)
    note_events: list[NoteEvent] = []
    ordered = sorted(swung, key=lambda event: (float(event.start_quarters), event.part, event.key))
    for _, group in groupby(ordered, key=lambda event: (event.start_quarters, event.part)):
        note_events += _stroke(list(group), feel, quarter_ms, begins)
    hands = [event for event in note_events if event.part in ("left", "right", "riff")]
    others = [event for event in note_events if event.part not in ("left", "right", "riff")]
    return sorted([*untangled(hands), *others], key=_in_time)


def _in_time(event: NoteEvent) -> tuple[float, int]:
    return float(event.start_quarters), event.key


def _swung(
    events: Iterable[NoteEvent], bars: Sequence[BarAt], feel: Feel, quarter_ms: QuarterMs
) -> Iterable[NoteEvent]:
    starts = [bar.start for bar in bars]

    def moved(at: Fraction) -> Fraction:
        place = max(0, bisect_right(starts, at) - 1)
        if not bars or is_compound(bars[place].meter) or bars[place].meter.unit >= 8:
            return at
        count, part = divmod(at - bars[place].start, 1)
        first = feel.first_share(quarter_ms(at))
        if part <= _EVEN:
            return bars[place].start + count + part * 2 * first
        return bars[place].start + count + first + (part - _EVEN) * 2 * (1 - first)

    for event in events:
        start, end = moved(event.start_quarters), moved(event.end_quarters)
        yield replace(event, start_quarters=start, quarters=end - start)


def _ms(milliseconds: float, at: Fraction, quarter_ms: QuarterMs) -> Fraction:
    return Fraction(round(milliseconds / quarter_ms(at) * _FINE), _FINE)


def _stroke(
    notes: list[NoteEvent], feel: Feel, quarter_ms: QuarterMs, begins: Callable[[NoteEvent], Fraction]
) -> list[NoteEvent]:
    """What one hand strikes at one time."""
    ways = {note.way for note in notes}
    if ways == {""}:
        return notes
    start = notes[0].start_quarters
    events = [note for note in notes if not note.way]
    rolled = [note for note in notes if note.way == "rolled"]
    step = _ms(feel.roll_ms, start, quarter_ms)
    for number, note in enumerate(rolled):
        late = min(number * step, note.quarters / 2)
        events.append(replace(note, start_quarters=start + late, quarters=note.quarters - late, way=""))
    events += _shaken([note for note in notes if note.way == "tremolo"], quarter_ms)
    for note in notes:
        if note.way == "grace":
            events = _crushed(note, events, _ms(GRACE_MS, start, quarter_ms), begins(note))
    return events


def _crushed(grace: NoteEvent, others: list[NoteEvent], lasts: Fraction, first: Fraction) -> list[NoteEvent]:
    """The short note comes before its stroke; where that would be before its chord, all come after it."""
    early = max(first, grace.start_quarters - lasts)
    late = early + lasts - grace.start_quarters
    moved = [replace(event, start_quarters=event.start_quarters + min(late, event.quarters / 2),
                     quarters=event.quarters - min(late,
                                                   event.quarters / 2)) for event in others]  # fmt: skip
    return [replace(grace, start_quarters=early, quarters=lasts, way=""), *moved]


def _shaken(notes: list[NoteEvent], quarter_ms: QuarterMs) -> list[NoteEvent]:
    """Lower and upper notes in turn; a single note again and again."""
    if not notes:
        return []
    start, lasts = notes[0].start_quarters, min(note.quarters for note in notes)
    step = max(Fraction(1, 16), _ms(1000 / TREMOLO_PER_S, start, quarter_ms))
    half = max(1, len(notes) // 2)
    halves = [notes[:half], notes[half:] or notes[:half]]
    events = []
    for number in range(max(1, int(lasts / step))):
        at = start + number * step
        end = start + lasts if number == max(1, int(lasts / step)) - 1 else at + step
        soft = 0 if number == 0 else -8
        for note in halves[number % 2]:
            events.append(replace(note, start_quarters=at, quarters=end - at, way="",
                                 velocity=max(1, note.velocity + soft)))  # fmt: skip
    return events


# --- the pedal ---

#: Time between the stroke and the pedal going down again, ms: the dampers have to fall, our choice.
PEDAL_GAP_MS = 110


class Pedalled(Struct, frozen=True):
    """A stretch and where in it the pedal is changed, in quarters from its beginning (nowhere: it is up);
    ``hold``: it stays down from the stretch before, if it was; ``until``: it is up from there on."""

    start: Fraction
    quarters: Fraction
    slot: int
    changes: tuple[Fraction, ...] = ()
    hold: bool = False
    until: Fraction | None = None

    @property
    def lasts(self) -> Fraction:
        """How far into the stretch the pedal is used."""
        return self.quarters if self.until is None else self.until

    @property
    def end(self) -> Fraction:
        return self.start + self.quarters


def pedalling(row: Sequence[Pedalled], quarter_ms: QuarterMs) -> list[PedalEvent]:
    """The pedal's moves: up with the stroke, down a little after it, always in pairs."""
    events: list[PedalEvent] = []
    before: Pedalled | None = None  # where the pedal is down
    for pedalled in row:
        held = before is not None and pedalled.hold and before.end == pedalled.start
        if before is not None and not held:
            events.append(PedalEvent(min(pedalled.start, before.end), False, before.slot))
            before = None
        ends = (*pedalled.changes[1:], pedalled.lasts)
        for at, end in zip(pedalled.changes, ends, strict=False):
            if held:  # the first change is the one that is not made
                held, before = False, pedalled
                continue
            gap = _ms(PEDAL_GAP_MS, pedalled.start + at, quarter_ms)
            if before is not None:
                events.append(PedalEvent(pedalled.start + at, False, pedalled.slot))
                before = None
            if 2 * gap < end - at:
                events.append(PedalEvent(pedalled.start + at + gap, True, pedalled.slot))
                before = pedalled
        before = pedalled if held else before
        if before is not None and pedalled.until is not None:
            events.append(PedalEvent(pedalled.start + pedalled.until, False, pedalled.slot))
            before = None
    if before is not None:
        events.append(PedalEvent(before.end, False, before.slot))
    return events
