"""Shapes in all keys: every different grip of a song, or the chords of a formula, on twelve keyboards."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from yellow_hinge.sheet.keyboard import keyboard, span_of
from yellow_hinge.sheet.page import (
    CELL_MM,
    POINT_MM,
    Block,
    Filler,
    Item,
    Metrics,
    Options,
    Sheet,
    Text,
    columns,
    fitted,
    heading,
    in_rows,
    line_mm,
    shifted,
)
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.voicing.shape import Voicing


class InKeys(Struct, frozen=True):
    """A grip in twelve keys: what it is called, where it is from, and (chord, grip) in each key."""

    title: str
    aside: str
    rows: Sequence[tuple[ChordSymbol, Voicing]]


def shapes_sheet(
    title: str, composer: str, shapes: Sequence[InKeys], options: Options, metrics: Metrics
) -> Sheet:
    """Each grip with its twelve keyboards."""
    under = "Each grip in twelve keys, in fourths. Squares: left hand; discs: right hand."
    filler = Filler(f"{title or 'Untitled'}: shapes in all keys", composer, under, options, metrics)
    blocks: list[Block] = []
    for keys in shapes:
        blocks.append(heading(keys.title, filler.inner, options, metrics, keys.aside))
        blocks += _rows(keys, filler.inner, options, metrics)
    filler.add(blocks)
    return filler.sheet()


def _rows(keys: InKeys, width: float, options: Options, metrics: Metrics) -> list[Block]:
    least = CELL_MM * options.scale
    _, cell = columns(width, least)
    span = span_of([voicing.keys for _, voicing in keys.rows])
    cells = [_cell(chord, voicing, span, cell, options, metrics=metrics) for chord, voicing in keys.rows]
    return in_rows(cells, width, least)


def _cell(
    chord: ChordSymbol,
    voicing: Voicing,
    span: tuple[int, int],
    width: float,
    options: Options,
    *,
    metrics: Metrics,
) -> Block:
    scale = options.scale
    y = 11 * scale * POINT_MM
    size = fitted(chord.pretty, width, 11 * scale, metrics, bold=True)
    items: list[Item] = [Text(0, y, chord.pretty, size, bold=True)]
    y += 1.2
    height = min(11.0 * scale, width / 4)
    drawn = keyboard(voicing.left.keys, voicing.right.keys, (), span, width, height=height)
    items += [shifted(item, 0, y) for item in drawn]
    y += height
    left, right = (
        " ".join(p.pretty for p in shape.printed(chord)) for shape in (voicing.left, voicing.right)
    )
    words = f"{left} | {right}" if left and right else left or right
    y += line_mm(8 * scale)
    items.append(Text(0, y, words, fitted(words, width, 8 * scale, metrics)))
    return Block(y + 1.0, tuple(items))
