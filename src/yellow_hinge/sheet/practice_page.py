"""A page to practise from: blocks with boxes to tick, the changes that ask most first."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from yellow_hinge.sheet.page import (
    Block,
    Box,
    Filler,
    Item,
    Metrics,
    Options,
    Sheet,
    Text,
    heading,
    line_mm,
    paragraph,
    wrapped,
)

CAUTION = (
    "Stop while it is still clean. Rest for a few minutes in every half hour, keep the shoulders loose and "
    "the volume low; where something hurts, stop, and ask a teacher or a clinician."
)


class Task(Struct, frozen=True):
    """A line to tick: what is played, why, and how often."""

    what: str
    why: str
    times: int


class Part(Struct, frozen=True):
    """A heading with its tasks."""

    title: str
    tasks: Sequence[Task]


def practice_sheet(
    title: str, composer: str, parts: Sequence[Part], options: Options, metrics: Metrics
) -> Sheet:
    """All parts in their order, the caution first."""
    filler = Filler(f"{title or 'Untitled'}: to practise", composer, CAUTION, options, metrics)
    blocks: list[Block] = []
    for part in parts:
        blocks.append(heading(part.title, filler.inner, options, metrics))
        blocks += [_task(task, filler.inner, options, metrics) for task in part.tasks]
    if not blocks:
        blocks.append(paragraph("There are no chords yet.", filler.inner, options, metrics))
    filler.add(blocks)
    return filler.sheet()


def _task(task: Task, width: float, options: Options, metrics: Metrics) -> Block:
    scale = options.scale
    size, small, box = 10 * scale, 8 * scale, 4.2 * scale
    room = width - task.times * (box + 1.5) - 4
    y, items = 0.0, list[Item]()
    for line in wrapped(task.what, room, size, metrics):
        y += line_mm(size)
        items.append(Text(0, y, line, size))
    for line in wrapped(task.why, room, small, metrics):
        y += line_mm(small)
        items.append(Text(0, y, line, small, ink="quiet"))
    top = line_mm(size) - box * 0.9
    items += [
        Box(
            width - (number + 1) * (box + 1.5),
            top,
            box,
            h=box,
            fill=None,
            outline="ink",
            width=0.3,
            round=0.6,
        )
        for number in range(task.times)
    ]
    return Block(max(y, top + box) + 2.5, tuple(items))
