"""The row of leaves and hinges on paper: every chord as a leaf with its notes by height, and between two
leaves a line for each note that moves and a bar for each that is held."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby

from yellow_hinge.motion.hinge import SIDES, HingeReport
from yellow_hinge.sheet.crib import Played
from yellow_hinge.sheet.page import (
    Block,
    Box,
    Disc,
    Filler,
    Ink,
    Item,
    Metrics,
    Options,
    Rule,
    Sheet,
    Text,
    fitted,
    heading,
    line_mm,
    paragraph,
)
from yellow_hinge.song.model import Slot
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.theory.pretty import pretty_degree

#: A leaf and the hinge behind it in print of usual size, the room between half steps, and a mark's half
#: width.
_LEAF_MM, _HINGE_MM, _STEP_MM, _MARK_MM = 21.0, 16.0, 1.15, 0.95
#: Names stand apart by so much, whatever notes are next to each other.
_NAME_POINTS = 6.5
_TOP_MM = 5.0


def hinges_sheet(played: Played, options: Options, metrics: Metrics) -> Sheet:
    """All sections in playing order; rounds that are alike are said, not drawn again."""
    song = played.song
    under = f"{song.key_here.pretty} · {song.meter}"
    if len(song.takes) > 1:
        under += f" · {song.take.name}"
    under += (
        " · squares: left hand, discs: right hand; a bar is held, a line moves; the number counts half steps"
    )
    filler = Filler(song.title or "Untitled", song.chart.composer, under, options, metrics)
    filler.add(list(_Rows(played, options, metrics, filler.inner).blocks()))
    return filler.sheet()


class _Rows:
    def __init__(self, played: Played, options: Options, metrics: Metrics, width: float) -> None:
        self._played, self._options, self._metrics, self._width = played, options, metrics, width
        keys = [key for held in played.held for key in held.voicing.keys] or [60]
        self._low, self._high = min(keys), max(keys)
        scale = options.scale
        self._step = _STEP_MM * scale
        leaf, hinge = _LEAF_MM * scale, _HINGE_MM * scale
        self._count = max(2, int((width + hinge) // (leaf + hinge)))
        self._leaf = (width - hinge * (self._count - 1)) / self._count
        self._hinge = hinge

    def blocks(self) -> Iterator[Block]:
        song, seen = self._played.song, dict[str, tuple[tuple[object, ...], ...]]()
        for (name, turn), group in groupby(song.slots, key=lambda slot: (slot.section, slot.round)):
            slots = list(group)
            title = f"{name or 'Song'}{f', round {turn}' if turn > 1 else ''}"
            bars = f"bars {slots[0].bar} to {slots[-1].bar}"
            grips = tuple(self._grip(slot) for slot in slots)
            if seen.get(name) == grips:
                yield paragraph(f"{title} ({bars}): as before.", self._width, self._options, self._metrics)
                continue
            seen.setdefault(name, grips)
            yield heading(title, self._width, self._options, self._metrics, bars)
            yield from self._rows(slots)

    def _grip(self, slot: Slot) -> tuple[object, ...]:
        voicing = self._played.held[slot.index].voicing
        return slot.chord, voicing.left.keys, voicing.right.keys

    def _rows(self, slots: Sequence[Slot]) -> Iterator[Block]:
        """Rows of leaves; each but the first begins with the last leaf before it."""
        first = 0
        while first < len(slots):
            begin = max(0, first - 1) if first else 0
            row = slots[begin : begin + self._count]
            yield self._row(row, again=bool(first))
            first = begin + len(row)

    def _row(self, slots: Sequence[Slot], again: bool) -> Block:
        items: list[Item] = []
        for place, slot in enumerate(slots):
            x = place * (self._leaf + self._hinge)
            items += self._drawn_leaf(slot, x, quiet=again and place == 0)
            if place + 1 < len(slots) and slot.index < len(self._played.hinges):
                items += self._drawn_hinge(self._played.hinges[slot.index], x + self._leaf)
        return Block(self._bottom + 5.0 * self._options.scale, tuple(items))

    @property
    def _bottom(self) -> float:
        return self._y(self._low) + 3.0 * self._options.scale

    def _y(self, key: int) -> float:
        return (_TOP_MM + 3.0) * self._options.scale + (self._high - key) * self._step

    # --- leaves ---

    def _drawn_leaf(self, slot: Slot, x: float, quiet: bool) -> Iterator[Item]:
        scale = self._options.scale
        top = _TOP_MM * scale
        yield Box(x, top, self._leaf, self._bottom - top, "paper", outline="line", round=1.0)
        words = pretty_symbol(slot.chord)
        size = fitted(words, self._leaf * 0.72, 10 * scale, self._metrics, bold=True)
        yield Text(x, top - 1.2, words, size, bold=True, ink="quiet" if quiet else "ink")
        bar = f"{slot.bar}" if slot.beat == 1 else ""
        yield Text(x + self._leaf, top - 1.2, bar, 7 * scale, ink="quiet", side="right")
        held = self._played.held[slot.index]
        if held.chord is None:
            return
        taken: list[float] = []
        for side in reversed(SIDES):
            shape, fingers = held.hand(side)
            rows = list(zip(shape.keys, shape.degrees, fingers or (None,) * len(shape.keys), strict=False))
            for key, degree, finger in reversed(rows):
                yield from self._mark(side, key, x)
                y = self._y(key) + _NAME_POINTS * 0.12 * scale
                apart = line_mm(_NAME_POINTS * scale) * 0.78
                y = max(y, taken[-1] + apart) if taken else y
                taken.append(y)
                name = held.printed(side, key)
                more = f" {pretty_degree(degree)}" if self._options.degrees else ""
                more += f" {finger}" if self._options.fingers and finger else ""
                yield Text(x + 4.6 * scale, y, f"{name}{more}", _NAME_POINTS * scale)

    def _mark(self, side: str, key: int, x: float) -> Iterator[Item]:
        half, y = _MARK_MM * self._options.scale, self._y(key)
        at = x + 2.6 * self._options.scale
        if side == "left":
            yield Box(at - half, y - half, 2 * half, 2 * half, "left", outline="paper", width=0.12)
        else:
            yield Disc(at, y, half, "right", "paper", width=0.12)

    # --- hinges ---

    def _drawn_hinge(self, report: HingeReport, x: float) -> Iterator[Item]:
        scale, end = self._options.scale, x + self._hinge
        middle = (x + end) / 2
        inks: tuple[Ink, ...] = ("left", "right")
        for side, ink in zip(SIDES, inks, strict=True):
            motion, thick, small = report.hand(side), 0.45 * scale, 5.5 * scale
            for start, to in motion.pairs:
                y = self._y(start)
                if start == to:
                    yield Box(x + 1, y - thick, self._hinge - 2, 2 * thick, "held", outline="ink", width=0.12)
                else:
                    yield Rule(x + 0.6, y, end - 0.6, self._y(to), thick, ink=ink)
            for key in motion.left:
                y = self._y(key)
                yield Rule(x + 0.6, y, x + 2.6 * scale, y, thick, ink=ink)
                yield Text(x + 3.0 * scale, y + 0.8 * scale, "off", small, ink="quiet")
            for key in motion.entered:
                y = self._y(key)
                yield Rule(end - 2.6 * scale, y, end - 0.6, y, thick, ink=ink)
                x_new = end - 3.0 * scale
                yield Text(x_new, y + 0.8 * scale, "new", small, ink="quiet", side="right")
        yield Text(
            middle, _TOP_MM * scale - 1.2, f"{report.motion_st}", 8 * scale, side="middle", ink="quiet"
        )
