"""From a pattern and a grip to notes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.rhythm.counts import counts_of, laid
from yellow_hinge.rhythm.events import NoteEvent, Part, Way
from yellow_hinge.rhythm.patterns import TOUCHES, Pattern, Stroke
from yellow_hinge.rhythm.rungs import rungs_of
from yellow_hinge.rhythm.time import Meter

#: A short stroke sounds half its time, or half of what is left of its quarter.
_SHORT = Fraction(1, 2)
#: What a crushed note is worth on paper; how long it sounds is said in :mod:`rhythm.perform`.
GRACE_QUARTERS = Fraction(1, 8)
#: Below this key (A1) an octave in the bass is taken above, our choice: it growls on most instruments.
_LOWEST_OCTAVE = 33
_FIRST_KEY, _LAST_KEY = 0, 127

#: Which form of a pattern is played: the last chord's, the last one of a section with its fill, or the usual.
Form = Literal["", "ending", "fill"]


class Grip(Struct, frozen=True):
    """The keys of one hand, ascending, with the pitch class of the chord's fifth (None: it has none), the
    keys between which the hand stays, and the pitch classes of the key (none: half steps for steps)."""

    keys: tuple[int, ...]
    fifth: int | None = None
    lowest: int = 21
    highest: int = 108
    scale: frozenset[int] = frozenset()

    def step_below(self, key: int) -> int:
        """The next note of the key below a key: a half step or a whole one."""
        return next((low for low in (key - 1, key - 2) if low % 12 in self.scale), key - 2)


class Stretch(Struct, frozen=True):
    """A part of a bar with one chord, in quarters: when it starts from the first bar line, where in its bar
    (``offset``), how long it lasts; its meter and the slot of the song."""

    start: Fraction
    offset: Fraction
    quarters: Fraction
    meter: Meter
    slot: int = -1

    @property
    def end(self) -> Fraction:
        return self.start + self.quarters


class Realised(Struct, frozen=True):
    """The notes of one stretch, and which of them are tied on into the next one."""

    notes: tuple[NoteEvent, ...]
    tied: frozenset[int] = frozenset()


def struck(what: str, grip: Grip, after: Grip | None) -> tuple[int, ...]:
    """The keys that a stroke strikes, ascending; never none of a grip that has any."""
    keys = grip.keys
    if not keys:
        return ()
    rungs = rungs_of(what, len(keys))
    if rungs and what != "octaves":
        return tuple(keys[rung] for rung in sorted(rungs))
    following = after.keys if after is not None and after.keys else keys
    bottom = keys[0]
    if what == "next":
        return following
    if what == "lead":
        found: tuple[int, ...] = (following[0] - 1 if following[0] >= bottom else following[0] + 1,)
    elif what == "fifth":
        found = (bottom if grip.fifth is None else bottom + (grip.fifth - bottom) % 12,)
    elif what == "octave":
        found = (bottom + 12,)
    else:
        low = _octave_below(grip)
        found = (low,) if what == "below" else tuple(sorted((bottom, low)))
    return tuple(key for key in found if _FIRST_KEY <= key <= _LAST_KEY) or (bottom,)


def _octave_below(grip: Grip) -> int:
    low = grip.keys[0] - 12
    return low if low >= max(_LOWEST_OCTAVE, grip.lowest) else grip.keys[0] + 12


def strokes_of(pattern: Pattern, stretch: Stretch, form: Form = "") -> tuple[Stroke, ...]:
    """The strokes over a stretch: ``at`` and ``counts`` in quarters from its beginning."""
    if form == "ending":
        return tuple(replace(stroke, counts=None) for stroke in pattern.ending or (Stroke(Fraction(0)),))
    strokes = laid(pattern, stretch.meter, stretch.offset, stretch.quarters)
    if form == "fill" and pattern.fill:
        last = stretch.quarters - min(counts_of(stretch.meter)[-1], stretch.quarters)
        length = stretch.quarters - last
        fill = tuple(replace(stroke, at=last + stroke.at * length) for stroke in pattern.fill)
        strokes = (*(stroke for stroke in strokes if stroke.at < last), *fill)
    return strokes


def realise(
    pattern: Pattern,
    grip: Grip,
    after: Grip | None,
    stretch: Stretch,
    part: Part,
    *,
    velocity: int,
    form: Form = "",
) -> Realised:
    """The notes of one hand over a stretch, as they are written: exact places, no swing, rolls as a
    :data:`Way`. Nothing lasts beyond the stretch; what is tied on is named, for :func:`joined`."""
    strokes = strokes_of(pattern, stretch, form)
    events: list[NoteEvent] = []
    tied: set[int] = set()
    for number, stroke in enumerate(strokes):
        start = stretch.start + stroke.at
        following = next((one.at for one in strokes[number + 1 :] if one.at > stroke.at), stretch.quarters)
        lasts = following - stroke.at if stroke.counts is None else stroke.counts
        lasts = stretch.quarters - stroke.at if stroke.tied else min(lasts, stretch.quarters - stroke.at)
        if stroke.short:
            lasts = min(lasts, 1 - (stretch.offset + stroke.at) % 1) * _SHORT
        keys = struck(stroke.what, grip, after)
        hard = max(1, min(127, velocity + TOUCHES[stroke.touch]))
        for key in keys:
            if stroke.tied:
                tied.add(len(events))
            outside = key not in grip.keys or stroke.what == "next"
            events.append(
                NoteEvent(
                    start,
                    key,
                    lasts,
                    velocity=hard,
                    part=part,
                    slot=stretch.slot,
                    way=_way(stroke, keys),
                    ornament=outside,
                )
            )
        events += _grace(stroke, keys, events[-1], grip) if keys else ()
    return Realised(tuple(events), frozenset(tied))


def _way(stroke: Stroke, keys: tuple[int, ...]) -> Way:
    if stroke.way == "rolled" and len(keys) > 1:
        return "rolled"
    return "tremolo" if stroke.way == "tremolo" else ""


def _grace(stroke: Stroke, keys: tuple[int, ...], top: NoteEvent, grip: Grip) -> tuple[NoteEvent, ...]:
    """The crushed note before the top one: a half step below it, or the next note of the key."""
    if stroke.way not in ("half-below", "step-below"):
        return ()
    below = keys[-1] - 1 if stroke.way == "half-below" else grip.step_below(keys[-1])
    if below in keys or below < _FIRST_KEY:
        return ()
    soft = max(1, top.velocity - 10)
    return (replace(top, key=below, quarters=min(GRACE_QUARTERS, top.quarters), velocity=soft,
                    way="grace", ornament=True),)  # fmt: skip


def joined(row: Sequence[Realised]) -> list[NoteEvent]:
    """The notes of one hand over neighbouring stretches: what is tied on lasts through the next stretch's
    first stroke of its key, which is not struck again."""
    if not any(realised.tied for realised in row):
        return [note for realised in row for note in realised.notes]
    events: list[NoteEvent] = []
    waiting: dict[int, int] = {}  # key -> place in found of what is tied into this stretch
    for realised in row:
        coming: dict[int, int] = {}
        for number, note in enumerate(realised.notes):
            place = waiting.pop(note.key, None)
            if place is not None and events[place].end_quarters == note.start_quarters:
                events[place] = replace(events[place], quarters=events[place].quarters + note.quarters)
                if number in realised.tied:
                    coming[note.key] = place
                continue
            if number in realised.tied:
                coming[note.key] = len(events)
            events.append(note)
        waiting = coming
    return events


def untangled(events: Iterable[NoteEvent]) -> list[NoteEvent]:
    """Without any key that sounds twice at once: a note is let go when its key is struck again, and of two
    on one key at one time the longer stays. In time order."""
    rows = ((float(note_event.start_quarters), note_event.key, note_event.way != "grace",
             -float(note_event.quarters), number, note_event)
            for number, note_event in enumerate(events))  # fmt: skip
    ordered = sorted(rows)  # the number comes before the note: notes are never compared
    note_events: list[NoteEvent | None] = []
    last: dict[int, tuple[int, float, float]] = {}  # key -> place in found, start and end of what sounds
    for start, key, _, length, _, event in ordered:
        before = last.get(key)
        if before is not None and before[2] > start + _SAME:
            place, began, _ = before
            note_event = note_events[place]
            assert note_event is not None
            if began < start - _SAME:
                note_events[place] = replace(
                    note_event, quarters=event.start_quarters - note_event.start_quarters
                )
            elif note_event.way == event.way:
                continue
            else:
                note_events[place] = None
        if length < 0:
            last[key] = (len(note_events), start, start - length)
            note_events.append(event)
    return [event for event in note_events if event is not None]


#: Places nearer to each other than this, in quarters, are one; fractions that differ lie further apart.
_SAME = 1e-7
