"""The outer voices: the one price of a change that does not split by hand.

It looks at two signs only, which way the bass goes and which way the top line goes, so the search still
goes over a step in two products (:class:`lattice.columns.Turns`).
"""

from __future__ import annotations

import numpy as np

from yellow_hinge.lattice.columns import Side, Turns
from yellow_hinge.motion.distance import Change
from yellow_hinge.motion.line import Step, step_between
from yellow_hinge.motion.weights import weights_of
from yellow_hinge.voicing.candidates import Shapes
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish

Table = tuple[tuple[int, int, int], tuple[int, int, int], tuple[int, int, int]]


def outer_table(before: Wish, after: Wish, step: Step) -> Table | None:
    """What a step costs by the ways of bass and top line, up, level and down; None where it costs nothing:
    where the chord stays, or where bass and top are not the player's own, the one in the left hand and
    the other in the right."""
    price = weights_of(after.school).similar
    own = step.has_bass and before.hands == after.hands == "both"
    if not price or not own or step.change == Change.NONE:
        return None
    return (price, 0, 0), (0, 0, 0), (0, 0, price)


def outer_turns(before: tuple[Wish, Shapes], after: tuple[Wish, Shapes]) -> Turns | None:
    """The same with the shapes of both chords."""
    table = outer_table(before[0], after[0], step_between(before[0], after[0]))
    if table is None:
        return None
    ends = (before[1], after[1])
    lows = (np.array([shape.keys[0] for shape in shapes.left]) for shapes in ends)
    tops = (np.array([shape.keys[-1] for shape in shapes.right]) for shapes in ends)
    return Turns(table, Side(*lows), Side(*tops))


def way(start: int, end: int) -> int:
    """Which way a voice goes: 0 up, 1 level, 2 down."""
    return 1 + (end < start) - (end > start)


def outer_cost(before: Wish, after: Wish, start: Voicing, end: Voicing) -> int:
    """What two voicings pay for their outer voices."""
    table = outer_table(before, after, step_between(before, after))
    if table is None:
        return 0
    return table[way(start.left.keys[0], end.left.keys[0])][way(start.right.keys[-1], end.right.keys[-1])]
