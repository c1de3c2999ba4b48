"""How a bar is counted: which counts it has, what one says on them, and patterns laid on them."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from functools import lru_cache
from itertools import accumulate

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.remembering import for_a_song
from yellow_hinge.rhythm.patterns import Pattern, Stroke
from yellow_hinge.rhythm.time import Meter

_QUARTER, _DOTTED = Fraction(1), Fraction(3, 2)
_THIRD = 3
#: What is said between two counts, by the place between them.
SAID_BETWEEN = {Fraction(1, 2): "&", Fraction(1, 4): "e", Fraction(3, 4): "a", Fraction(1, 3): "trip",
                Fraction(2, 3): "let"}  # fmt: skip


def is_compound(meter: Meter) -> bool:
    """Whether three eighths (or sixteenths) make a count: 6/8, 9/8, 12/8."""
    return meter.unit >= 8 and meter.beats % _THIRD == 0


@for_a_song
@lru_cache(maxsize=256)
def counts_of(meter: Meter) -> tuple[Fraction, ...]:
    """How long each count of a bar is, in quarters: quarters; dotted ones in 6/8; two, two and three eighths
    in 7/8."""
    total = meter.quarters
    if is_compound(meter):
        return (3 * meter.quarters_per_beat,) * (meter.beats // _THIRD)
    if meter.unit < 8 or total.denominator == 1:
        whole = int(total)
        return (_QUARTER,) * whole + ((total - whole,) if total != whole else ())
    pairs = (meter.beats - _THIRD) // 2
    unit = meter.quarters_per_beat
    if meter.beats < _THIRD or meter.unit != 8:
        return (unit,) * meter.beats
    return (2 * unit,) * pairs + (total - 2 * unit * pairs,)


def groups(length: int, cell: int) -> list[int]:
    """A row of counts in cells of a pattern: full ones, and what is left; five are three and two for a
    pattern of four."""
    if length <= cell:
        return [length]
    if length % cell == 1 and cell > _THIRD:
        return [cell] * (length // cell - 1) + [cell - 1, 2]
    full, rest = divmod(length, cell)
    return [cell] * full + ([rest] if rest else [])


@for_a_song
@lru_cache(maxsize=8192)
def laid(pattern: Pattern, meter: Meter, offset: Fraction, quarters: Fraction) -> tuple[Stroke, ...]:
    """The strokes of a pattern over a stretch of one bar: ``at`` and ``counts`` in quarters, ``at`` from the
    stretch's beginning. A pattern in a meter that it was not made for is fitted: its counts lie on the
    counts of the bar. A stretch of at most half the pattern has its short form."""
    if pattern.counts == 0:
        return tuple(replace(stroke, counts=stroke.counts or quarters) for stroke in pattern.strokes)
    grid = _grid(pattern, meter, offset, quarters)
    cells = groups(len(grid), pattern.counts)
    found: list[Stroke] = []
    start = 0
    for size in cells:
        short = pattern.short and 2 * size <= pattern.counts
        strokes = pattern.short if short else pattern.strokes
        found += _on_grid(strokes, grid[start : start + size])
        start += size
    return _first_sounds(_apart(found), quarters)


class _Count(Struct, frozen=True):
    """A count of a stretch: where it begins from the stretch's beginning, how much of it lies in the stretch,
    and how long it is as a whole."""

    start: Fraction
    inside: Fraction
    whole: Fraction

    def place(self, part: Fraction) -> Fraction:
        """Where a part of the count lies: halves and quarters of a dotted one on its eighths."""
        if self.whole == _DOTTED and part.denominator in (2, 4):
            return self.start + (Fraction(1, 2) if part == Fraction(1, 4) else Fraction(1))
        return self.start + part * self.whole


def _grid(pattern: Pattern, meter: Meter, offset: Fraction, quarters: Fraction) -> list[_Count]:
    """The counts of a stretch for a pattern."""
    step = Fraction(4, pattern.unit)
    if pattern.unit == 8 or not (is_compound(meter) or meter.unit == 8):
        count = -(-quarters // step)
        return [_Count(k * step, min(step, quarters - k * step), step) for k in range(count)]
    lengths = counts_of(meter)
    grid = []
    for end, length in zip(accumulate(lengths), lengths, strict=True):
        first, last = max(end - length, offset), min(end, offset + quarters)
        if first < last:
            grid.append(_Count(first - offset, last - first, length))
    return grid


def _on_grid(strokes: Iterable[Stroke], grid: list[_Count]) -> list[Stroke]:
    """Strokes whose counts are those of a grid; those behind it are left out."""
    found = []
    for stroke in strokes:
        count, part = divmod(stroke.at, 1)
        if count >= len(grid):
            continue
        one = grid[int(count)]
        at = one.place(part)
        if at >= one.start + one.inside:
            continue
        lasts = None if stroke.counts is None else _lasting(stroke, grid)
        found.append(replace(stroke, at=at, counts=lasts))
    return found


def _lasting(stroke: Stroke, grid: list[_Count]) -> Fraction:
    """How long a stroke lasts that lasts so many counts."""
    assert stroke.counts is not None
    return max(Fraction(1, 16), _place(stroke.at + stroke.counts, grid) - _place(stroke.at, grid))


def _place(at: Fraction, grid: list[_Count]) -> Fraction:
    count, part = divmod(at, 1)
    if count >= len(grid):
        return grid[-1].start + grid[-1].inside
    return grid[int(count)].place(part)


def _apart(strokes: list[Stroke]) -> list[Stroke]:
    """Without those that came to lie on another one with the same notes."""
    found: dict[tuple[Fraction, str], Stroke] = {}
    for stroke in strokes:
        found.setdefault((stroke.at, stroke.what), stroke)
    return sorted(found.values(), key=lambda stroke: stroke.at)


def _first_sounds(strokes: list[Stroke], quarters: Fraction) -> tuple[Stroke, ...]:
    """A stretch too short for any stroke of its pattern is struck where it begins."""
    inside = tuple(stroke for stroke in strokes if stroke.at < quarters)
    return inside or (Stroke(Fraction(0)),)


def fits(pattern: Pattern, meter: Meter) -> bool:
    """Whether a pattern was made for a meter, and need not be fitted."""
    return not pattern.meters or str(meter) in pattern.meters


# --- what one says ---


def said_at(place: Fraction, meter: Meter) -> str:
    """What one says at a place of a bar (quarters from its beginning): 1, &, e, a; in 6/8 the eighths are
    counted. "" where nothing is said."""
    if meter.unit >= 8:
        count, part = divmod(place, meter.quarters_per_beat)
        return str(int(count) + 1) if not part else "&" if part == meter.quarters_per_beat / 2 else ""
    unit = min(meter.quarters_per_beat, Fraction(2))
    count, part = divmod(place, unit)
    return str(int(count) + 1) if not part else SAID_BETWEEN.get(part / unit, "")


def grid_of(places: Iterable[Fraction], meter: Meter) -> Fraction:
    """The step in which a bar with strokes at these places is counted, in quarters: halves of a count,
    quarters or thirds; where eighths are counted these themselves, if nothing lies between."""
    unit = meter.quarters_per_beat
    steps = [unit] if meter.unit >= 8 else []
    steps += [unit / parts for parts in (2, 3, 4, 6, 12)]
    wanted = list(places)
    return next((step for step in steps if all(place % step == 0 for place in wanted)), unit / 12)


def in_words(places: Iterable[Fraction], meter: Meter) -> str:
    """Places of a bar as one says them: "1, 3", "every count", "every &", "1, 2&"."""
    found = sorted(set(places))
    unit = meter.quarters_per_beat
    counts = [k * unit for k in range(meter.beats)]
    halves = [at + unit / 2 for at in counts]
    if len(counts) > 1:
        for words, row in (("every count", counts), ("every &", halves),
                           ("every count and every &", sorted(counts + halves))):  # fmt: skip
            if found == row:
                return words
    return ", ".join(_said_fully(at, unit) for at in found) or "nothing"


def _said_fully(at: Fraction, unit: Fraction) -> str:
    count, part = divmod(at, unit)
    return f"{int(count) + 1}{SAID_BETWEEN.get(part / unit, '') if part else ''}"
