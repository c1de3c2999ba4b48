"""From notes in time to notes on paper: voices, note values, ties, tuplets, beams, accidentals.

Everything is in quarters; nothing here knows XML.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction
from itertools import accumulate, groupby, pairwise

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.rhythm.counts import counts_of
from yellow_hinge.rhythm.events import NoteEvent, Way
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName

#: Note values by their length in quarters, the longest first, with the number of their beams.
TYPES = {
    Fraction(4): "whole", Fraction(2): "half", Fraction(1): "quarter", Fraction(1, 2): "eighth",
    Fraction(1, 4): "16th", Fraction(1, 8): "32nd", Fraction(1, 16): "64th",
}  # fmt: skip
_BEAMS = {"eighth": 1, "16th": 2, "32nd": 3, "64th": 4}
_SHARPS = (3, 0, 4, 1, 5, 2, 6)  # steps in the order in which a signature sharpens them, C is 0


class Mark(Struct, frozen=True):
    """A note value on paper: when and how long in quarters, its keys (none: a rest), value, dots, and how
    many stand in the time of a power of two below (1: no tuplet); whether it is tied from and to another;
    beams by level ("begin", "continue", "end", "forward hook", "backward hook"), and where a tuplet starts
    or stops."""

    start: Fraction
    quarters: Fraction
    keys: tuple[int, ...]
    type: str = "quarter"
    dots: int = 0
    tuplet: int = 1
    tie_in: bool = False
    tie_out: bool = False
    way: Way = ""
    velocity: int = 64
    slot: int = -1
    beams: tuple[str, ...] = ()
    bracket: str = ""
    graces: tuple[int, ...] = ()


def voices_of(events: Iterable[NoteEvent], start: Fraction, meter: Meter) -> list[list[Mark]]:
    """The voices of a bar of one hand, each filled with rests up to the bar's end; the first is there in any
    case. ``events`` are all that sound in the bar, also from before and beyond it."""
    end = start + meter.quarters
    strokes = _strokes(events, start, end)
    voices: list[list[Mark]] = []
    for stroke in strokes:
        for voice in voices:
            if voice[-1].start + voice[-1].quarters <= stroke.start:
                voice.append(stroke)
                break
        else:
            voices.append([stroke])
    return [_filled(voice, start, end, meter) for voice in voices or [[]]]


def rests(places: Iterable[Fraction], start: Fraction, meter: Meter) -> list[Mark]:
    """A bar of rests that begin where words stand: it has no tune."""
    cuts = sorted({start, *places, start + meter.quarters})
    return [mark for a, b in pairwise(cuts) for mark in _written(Mark(a, b - a, ()), start, meter)]


def _strokes(events: Iterable[NoteEvent], start: Fraction, end: Fraction) -> list[Mark]:
    """Notes of one length that are struck together, cut to the bar."""
    inside = [event for event in events if event.start_quarters < end and event.end_quarters > start]
    graces: dict[Fraction, list[int]] = {}
    for event in inside:
        if event.way == "grace":
            graces.setdefault(event.start_quarters, []).append(event.key)
    whole = [event for event in inside if event.way != "grace"]
    marks = []

    def together(event: NoteEvent) -> tuple[Fraction, Fraction, Way]:
        return event.start_quarters, -event.end_quarters, event.way

    for (began, ends, way), group in groupby(
        sorted(whole, key=lambda event: (*together(event), event.key)), together
    ):
        notes = list(group)
        first, last = max(began, start), min(-ends, end)
        marks.append(
            Mark(
                first,
                last - first,
                tuple(event.key for event in notes),
                tie_in=began < start,
                tie_out=-ends > end,
                way=way,
                velocity=max(event.velocity for event in notes),
                slot=notes[0].slot,
                graces=tuple(graces.pop(began, ()) if began >= start else ()),
            )
        )
    return sorted(marks, key=lambda mark: (mark.start, -mark.quarters))


def _filled(voice: list[Mark], start: Fraction, end: Fraction, meter: Meter) -> list[Mark]:
    """A voice in note values, with rests where nothing sounds."""
    row: list[Mark] = []
    now = start
    for mark in voice:
        if mark.start > now:
            row += _written(Mark(now, mark.start - now, ()), start, meter)
        row += _written(mark, start, meter)
        now = mark.start + mark.quarters
    if now < end:
        row += _written(Mark(now, end - now, ()), start, meter)
    return _with_beams(_bracketed(row), start, meter)


def _written(mark: Mark, bar: Fraction, meter: Meter) -> list[Mark]:
    """A length as note values, tied together."""
    pieces: list[tuple[Fraction, Fraction]] = []
    now, end = mark.start, mark.start + mark.quarters
    while now < end:
        length = _longest(now - bar, end - bar, meter)
        pieces.append((now, length))
        now += length
    marks = []
    for number, (at, length) in enumerate(pieces):
        kind, dots, tuplet = value_of(length) or ("64th", 0, 1)
        first, last = number == 0, number == len(pieces) - 1
        marks.append(
            replace(
                mark,
                start=at,
                quarters=length,
                type=kind,
                dots=dots,
                tuplet=tuplet,
                tie_in=bool(mark.keys) and (mark.tie_in or not first),
                tie_out=bool(mark.keys) and (mark.tie_out or not last),
                way=mark.way if first or mark.way == "tremolo" else "",
                graces=mark.graces if first else (),
            )
        )
    return marks


def _ends_of_counts(meter: Meter) -> list[Fraction]:
    return list(accumulate(counts_of(meter)))


def _longest(start: Fraction, end: Fraction, meter: Meter) -> Fraction:
    """How long the next note value of a stretch is (from the bar's beginning): the whole of it where one
    value says it and the counts can still be seen, else up to a count."""
    whole = end - start
    ends = _ends_of_counts(meter)
    on_count = start == 0 or start in ends
    following = next((one for one in ends if one > start), end)
    if is_odd(start) or is_odd(whole):  # a tuplet stays within its count
        inner = min(end, following)
        if on_count and not is_odd(inner - start) and end > following:
            full = [one for one in ends if start < one <= end and value_of(one - start)]
            return (full[-1] if full else inner) - start
        return _one_value(inner - start)
    if value_of(whole) and (on_count or end <= following or _plain_syncopation(start, whole, following)):
        return whole
    if not on_count:
        return _one_value(min(end, following) - start)
    full = [one for one in ends if start < one <= end and value_of(one - start)]
    return full[-1] - start if full else _one_value(whole)


def _plain_syncopation(start: Fraction, whole: Fraction, following: Fraction) -> bool:
    """A quarter between two counts, as in eighth, quarter, eighth."""
    return whole == 1 and following - start == Fraction(1, 2)


def is_odd(quarters: Fraction) -> bool:
    """Whether it lies on no power of two of a quarter: in a tuplet."""
    return quarters.denominator & (quarters.denominator - 1) != 0


def _one_value(quarters: Fraction) -> Fraction:
    """The longest single note value within a length."""
    if value_of(quarters):
        return quarters
    tuplet = tuplet_of(quarters)
    scale = Fraction(tuplet, power_below(tuplet)) if tuplet > 1 else Fraction(1)
    fitting = [one for value in TYPES for one in (value * 3 / 2, value) if one <= quarters * scale]
    return fitting[0] / scale if fitting else quarters


def tuplet_of(quarters: Fraction) -> int:
    """The odd part of a length's denominator: 1 where no tuplet is needed."""
    odd = quarters.denominator
    while odd % 2 == 0:
        odd //= 2
    return odd


def power_below(number: int) -> int:
    """The largest power of two below an odd number: 3 in the time of 2, 5 of 4, 7 of 4."""
    return 1 << (number.bit_length() - 1)


def value_of(quarters: Fraction) -> tuple[str, int, int] | None:
    """(type, dots, tuplet) of a length that one note value says; None for others."""
    tuplet = tuplet_of(quarters)
    length = quarters * Fraction(tuplet, power_below(tuplet)) if tuplet > 1 else quarters
    if length in TYPES:
        return TYPES[length], 0, tuplet
    plain = length * Fraction(2, 3)
    return (TYPES[plain], 1, tuplet) if plain in TYPES else None


def _bracketed(row: list[Mark]) -> list[Mark]:
    """Where tuplets start and stop: neighbours of one kind, up to the end of a count."""
    marks: list[Mark] = []
    run: list[Mark] = []
    for mark in row:
        if run and mark.tuplet != run[0].tuplet:
            marks, run = marks + _bracket(run), []
        if mark.tuplet == 1:
            marks.append(mark)
            continue
        run.append(mark)
        if not is_odd(sum((one.quarters for one in run), Fraction(0))):
            marks, run = marks + _bracket(run), []
    return marks + _bracket(run)


def _bracket(run: list[Mark]) -> list[Mark]:
    if len(run) < 2:
        return run
    return [replace(run[0], bracket="start"), *run[1:-1], replace(run[-1], bracket="stop")]


# --- beams ---


def _with_beams(row: list[Mark], bar: Fraction, meter: Meter) -> list[Mark]:
    ends = _ends_of_counts(meter)

    def count(mark: Mark) -> int:
        return next((k for k, end in enumerate(ends) if mark.start - bar < end), len(ends))

    found: list[Mark] = []
    for _, group in groupby(row, key=lambda mark: (count(mark), bool(mark.keys and mark.type in _BEAMS))):
        marks = list(group)
        joined = len(marks) > 1 and marks[0].keys and marks[0].type in _BEAMS
        found += _beamed(marks) if joined else marks
    return found


def _beamed(marks: Sequence[Mark]) -> list[Mark]:
    """Beams over neighbours: at each level as far as they have it, hooks where one is alone."""
    levels = [_BEAMS[mark.type] for mark in marks]
    found = []
    for place, mark in enumerate(marks):
        beams = []
        for level in range(1, levels[place] + 1):
            before = place > 0 and levels[place - 1] >= level
            behind = place < len(marks) - 1 and levels[place + 1] >= level
            if before and behind:
                beams.append("continue")
            elif before or behind:
                beams.append("end" if before else "begin")
            else:
                beams.append("backward hook" if place else "forward hook")
        found.append(replace(mark, beams=tuple(beams)))
    return found


# --- accidentals ---


def signature_of(fifths: int) -> dict[int, int]:
    """Step (0..6 for C..B) -> how a signature of so many sharps, or flats below 0, alters it."""
    steps = _SHARPS[:fifths] if fifths > 0 else tuple(reversed(_SHARPS))[:-fifths] if fifths < 0 else ()
    return dict.fromkeys(steps, 1 if fifths > 0 else -1)


class Accidentals:
    """What holds on one staff within a bar."""

    def __init__(self, key: Key) -> None:
        self._signature = signature_of(key.fifths)
        self._now: dict[tuple[int, int], int] = {}

    def sign(self, name: NoteName, octave: int) -> int | None:
        """The alteration that has to be printed before a note; None where it holds already."""
        place = (name.step, octave)
        holds = self._now.get(place, self._signature.get(name.step, 0))
        self._now[place] = name.alter
        return None if holds == name.alter else name.alter
