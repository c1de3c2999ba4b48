"""Patterns of one's own: a pattern written out over a bar, and strokes put into it and taken out."""

from __future__ import annotations

from fractions import Fraction

from msgspec.structs import replace

from yellow_hinge.rhythm.counts import laid
from yellow_hinge.rhythm.patterns import MOST_NAME, Pattern, Stroke
from yellow_hinge.rhythm.rungs import rungs_of, what_strikes
from yellow_hinge.rhythm.time import Meter


def written_out(pattern: Pattern, meter: Meter, id_: str, name: str) -> Pattern:
    """The same pattern as it is played in a bar of a meter, stroke by stroke, under another id: what it is
    changed into. Its short form, ending and fill stay."""
    unit = 8 if meter.unit >= 8 else 4
    scale = Fraction(unit, 4)
    counts = -(-meter.quarters * scale // 1)
    strokes = tuple(_scaled(stroke, scale) for stroke in laid(pattern, meter, Fraction(0), meter.quarters))
    factor = Fraction(unit, pattern.unit)
    short, ending, fill = (
        tuple(_scaled(stroke, factor) for stroke in row)
        for row in (pattern.short, pattern.ending, pattern.fill)
    )
    return replace(
        pattern, id=id_, name=name[:MOST_NAME], family="mine", meters=(str(meter),), unit=unit,
        counts=int(counts), strokes=strokes, short=short, ending=ending, fill=fill,
    )  # fmt: skip


def _scaled(stroke: Stroke, scale: Fraction) -> Stroke:
    counts = None if stroke.counts is None else stroke.counts * scale
    return replace(stroke, at=stroke.at * scale, counts=counts)


def rungs_at(pattern: Pattern, at: Fraction, size: int) -> frozenset[int]:
    """The rungs that are struck at a place (counts from the pattern's beginning)."""
    return frozenset(
        rung for stroke in pattern.strokes if stroke.at == at for rung in rungs_of(stroke.what, size)
    )


def with_rungs(pattern: Pattern, at: Fraction, rungs: frozenset[int], size: int) -> Pattern:
    """The pattern with these rungs at a place, and nothing else of the grip; how it is struck stays."""
    here = [stroke for stroke in pattern.strokes if stroke.at == at]
    like = next((stroke for stroke in here if rungs_of(stroke.what, size)), Stroke(at))
    outside = [stroke for stroke in here if not rungs_of(stroke.what, size)]
    new = [replace(like, at=at, what=what) for what in what_strikes(rungs, size)]
    others = [stroke for stroke in pattern.strokes if stroke.at != at]
    return _in_order(pattern, [*others, *new, *outside])


def with_what(pattern: Pattern, at: Fraction, what: str | None) -> Pattern:
    """The pattern with one stroke at a place, of what is named; None: with none."""
    here = [stroke for stroke in pattern.strokes if stroke.at == at]
    others = [stroke for stroke in pattern.strokes if stroke.at != at]
    new = [] if what is None else [replace(here[0] if here else Stroke(at), what=what)]
    return _in_order(pattern, [*others, *new])


def restruck(pattern: Pattern, at: Fraction, **how: object) -> Pattern:
    """The strokes at a place with another touch, length or way."""
    row = [replace(stroke, **how) if stroke.at == at else stroke for stroke in pattern.strokes]
    return replace(pattern, strokes=tuple(row))


def shifted(pattern: Pattern, at: Fraction, to: Fraction) -> Pattern:
    """The strokes at a place at another one; what was struck there gives way."""
    moved = [replace(stroke, at=to) for stroke in pattern.strokes if stroke.at == at]
    rest = [stroke for stroke in pattern.strokes if stroke.at not in (at, to)]
    return _in_order(pattern, [*rest, *moved]) if moved and at != to else pattern


def _in_order(pattern: Pattern, strokes: list[Stroke]) -> Pattern:
    """Lengths that were left open stay so; a pattern is never left without any stroke."""
    row = tuple(sorted(strokes, key=lambda stroke: stroke.at))
    return replace(pattern, strokes=row or pattern.strokes)
