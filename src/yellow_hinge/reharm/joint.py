"""Swaps and voicings in one exact search.

Every slot has options: the chord as written, and swaps of one to four chords. A state is an
option with both hands' shapes for each of its chords, and the number of swaps so far. What a
hinge costs depends on the shapes alone, so it is read off one table of all shapes of a hand
in the song; and because it splits by hand, the step from one slot to the next is one
min-plus product for each option before, over all left shapes behind it, and one for each
option behind, over all right shapes before it.

Counting swaps gives the whole trade curve in one pass: for every number of swaps the
smoothest result, exact.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.kernel import FORBIDDEN, Costs, MinPlus, kernel_for
from yellow_hinge.motion.plan import Place, Planner
from yellow_hinge.motion.terms import hinge_costs
from yellow_hinge.motion.weights import Weights, weights_of
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish

Progress = Callable[[float], bool]
#: Shapes of a hand up to which one table holds the hinge costs of the whole song.
_ONE_TABLE = 5000


@dataclass(frozen=True)
class Option:
    """What may sound in a slot: its chords in order, and whether that is a swap."""

    places: tuple[Place, ...]
    swap: bool = True


@dataclass(frozen=True)
class JointAnswer:
    """The smoothest result with a number of swaps: for each slot the option taken and the
    voicings of its chords. ``cost`` in hundredths of a semitone."""

    swaps: int
    cost: int
    options: tuple[int, ...]
    voicings: tuple[tuple[Voicing, ...], ...]


@dataclass(frozen=True, eq=False)
class _Part:
    """One chord of an option: own costs (L, R), its shapes, and their rows among all shapes."""

    place: Place
    cost: Costs
    left: tuple[HandShape, ...]
    right: tuple[HandShape, ...]
    left_rows: npt.NDArray[np.intp]
    right_rows: npt.NDArray[np.intp]


_Rows = npt.NDArray[np.intp]


class _Steps:
    """Hinge costs between rows of shapes, off one table for each hand where it is not too large."""

    def __init__(self) -> None:
        self._known: dict[str, dict[tuple[int, ...], int]] = {"left": {}, "right": {}}
        self._shapes: dict[str, list[HandShape]] = {"left": [], "right": []}
        self._tables: dict[tuple[str, Weights, bool], Costs] = {}

    def rows(self, side: str, shapes: Sequence[HandShape]) -> _Rows:
        """Where shapes stand among all shapes of a hand; new ones are added."""
        known, every = self._known[side], self._shapes[side]
        for shape in shapes:
            if shape.keys not in known:
                known[shape.keys] = len(every)
                every.append(HandShape(shape.keys))
        return np.array([known[shape.keys] for shape in shapes], dtype=np.intp)

    def costs(self, side: str, ends: tuple[Wish | None, Wish | None], before: _Rows, after: _Rows) -> Costs:
        """(B, A): what the hand pays from each row of ``before`` to each of ``after``. A rest, the
        empty shape, costs nothing to come to or to leave."""
        start, end = ends
        if start is None or end is None:
            return np.zeros((len(before), len(after)), dtype=np.int32)
        costs = self._plain(side, end, side == "left" and start.bass == "self" == end.bass, before, after)
        rest = self._known[side].get((), -1)
        if rest >= 0:
            costs[before == rest, :] = 0
            costs[:, after == rest] = 0
        return costs

    def _plain(self, side: str, wish: Wish, bass: bool, before: _Rows, after: _Rows) -> Costs:
        weights, every = weights_of(wish.school), self._shapes[side]
        if len(every) > _ONE_TABLE:
            one, other = (tuple(every[row] for row in rows) for rows in (before, after))
            return hinge_costs(one, other, weights, side, bass)
        name = (side, weights, bass)
        if name not in self._tables or len(self._tables[name]) < len(every):
            self._tables[name] = hinge_costs(tuple(every), tuple(every), weights, side, bass)
        return np.take(self._tables[name][before], after, axis=1)

    def link(self, before: _Part, after: _Part) -> tuple[Costs, Costs]:
        """(L, L') and (R, R')."""
        ends = (before.place.wish, after.place.wish)
        return (
            self.costs("left", ends, before.left_rows, after.left_rows),
            self.costs("right", ends, before.right_rows, after.right_rows),
        )


@dataclass(frozen=True, eq=False)
class _Gate:
    """What all options of a slot have in common when they are entered: the cheapest cost of
    arriving at each left shape of any of them from each right shape of the slot before,
    ``joined`` (left rows, swaps, right rows before), and the right hand's way from there."""

    joined: Costs
    lefts: _Rows
    rights: _Rows
    way: Costs

    def into(self, part: _Part, product: MinPlus) -> Costs:
        """(swaps, L, R): the cheapest way to every state of a part."""
        rows = self.joined[np.searchsorted(self.lefts, part.left_rows)]
        count, swaps, rights = rows.shape
        link = np.ascontiguousarray(self.way[:, np.searchsorted(self.rights, part.right_rows)])
        out = product(np.ascontiguousarray(rows).reshape(count * swaps, rights), link)
        return np.ascontiguousarray(out.reshape(count, swaps, -1).transpose(1, 0, 2))


class JointSearch:
    """One search over slots with options. Keeps all tables until it is dropped."""

    def __init__(self, planner: Planner, slots: Sequence[Sequence[Option]]) -> None:
        self._slots = slots
        self._steps = _Steps()
        self._parts = [[self._build(planner, option) for option in options] for options in slots]
        #: [slot][option][part]: cheapest cost up to there, (swaps, L, R)
        self._sheets: list[list[list[Costs]]] = []
        self.states = sum(part.cost.size for slot in self._parts for option in slot for part in option)

    def _build(self, planner: Planner, option: Option) -> list[_Part]:
        parts = []
        for place in option.places:
            column, shapes = planner.column(place)
            left, right = self._steps.rows("left", shapes.left), self._steps.rows("right", shapes.right)
            parts.append(_Part(place, column.cost, shapes.left, shapes.right, left, right))
        return parts

    @property
    def sums(self) -> int:
        """Sums of the min-plus products for one number of swaps."""
        total = 0
        for before, after in pairwise(self._parts):
            lefts = len({int(row) for parts in after for row in parts[0].left_rows})
            rights = len({int(row) for parts in before for row in parts[-1].right_rows})
            total += lefts * sum(parts[-1].cost.size for parts in before)
            total += rights * sum(parts[0].cost.size for parts in after)
        return total

    def solve(self, most: int, progress: Progress = lambda _: True) -> list[JointAnswer]:
        """The trade curve: for 0, 1, ... ``most`` swaps the smoothest result with just so many.
        Numbers that cannot be reached are left out.

        Raises :class:`Cancelled`. Every slot needs an option with a legal voicing.
        """
        self._sheets = []
        product = kernel_for(self.sums * (most + 1))
        for place, options in enumerate(self._slots):
            gate = self._gate(place, most, product) if place else None
            row = [self._extend(place, option, gate, most, product) for option in range(len(options))]
            self._sheets.append(row)
            if not progress((place + 1) / len(self._slots)):
                raise Cancelled
        answers = (self._trace(swaps) for swaps in range(most + 1))
        return [answer for answer in answers if answer is not None]

    def _gate(self, place: int, most: int, product: MinPlus) -> _Gate | None:
        """The first product of the step, for all options of a slot at once; None when nothing
        before it can be reached."""
        sources = [
            (parts[-1], sheets[-1])
            for parts, sheets in zip(self._parts[place - 1], self._sheets[place - 1], strict=True)
            if sheets[-1].size and int(sheets[-1].min()) < FORBIDDEN
        ]
        afters = [parts[0] for parts in self._parts[place]]
        lefts = np.unique(np.concatenate([part.left_rows for part in afters]))
        if not sources or not len(lefts):
            return None
        middle = np.unique(np.concatenate([part.right_rows for part, _ in sources]))
        rights = np.unique(np.concatenate([part.right_rows for part in afters]))
        joined = np.full((len(lefts), most + 1, len(middle)), FORBIDDEN, dtype=np.int32)
        ends = _wish([part for part, _ in sources]), _wish(afters)
        for part, sheet in sources:
            link = self._steps.costs("left", ends, part.left_rows, lefts)
            half = _first_product(sheet, link, product)
            at = np.searchsorted(middle, part.right_rows)
            joined[:, :, at] = np.minimum(joined[:, :, at], half)
        return _Gate(joined, lefts, rights, self._steps.costs("right", ends, middle, rights))

    def _extend(
        self, place: int, option: int, gate: _Gate | None, most: int, product: MinPlus
    ) -> list[Costs]:
        """Tables of one option's parts, from all options of the slot before."""
        parts = self._parts[place][option]
        shape = (most + 1, *parts[0].cost.shape)
        reached = np.full(shape, FORBIDDEN, dtype=np.int32)
        if place == 0:
            reached[0] = 0
        elif gate is not None and all(shape):
            reached = gate.into(parts[0], product)
        if self._slots[place][option].swap:
            reached = np.concatenate([np.full((1, *shape[1:]), FORBIDDEN, dtype=np.int32), reached[:-1]])
        sheets = [np.minimum(reached + parts[0].cost, FORBIDDEN).astype(np.int32)]
        for before, after in pairwise(parts):
            left, right = self._steps.link(before, after)
            inner = _two_products(sheets[-1], left, right, product)
            sheets.append(np.minimum(inner + after.cost, FORBIDDEN).astype(np.int32))
        return sheets

    # --- reading the answer off the tables ---

    def _trace(self, swaps: int) -> JointAnswer | None:
        """The first cheapest row with this number of swaps."""
        lasts = [sheets[-1][swaps] for sheets in self._sheets[-1]]
        costs = [int(sheet.min(initial=FORBIDDEN)) for sheet in lasts]
        cost = min(costs)
        if cost >= FORBIDDEN:
            return None
        option, left_over = costs.index(cost), swaps
        state = _first(lasts[option] == cost)
        chosen: list[int] = []
        voicings: list[tuple[Voicing, ...]] = []
        for place in range(len(self._slots) - 1, -1, -1):
            parts, sheets = self._parts[place][option], self._sheets[place][option]
            row = [self._voicing(parts[-1], state)]
            for index in range(len(parts) - 1, 0, -1):
                wanted = int(sheets[index][left_over][state]) - int(parts[index].cost[state])
                before, sheet = parts[index - 1], sheets[index - 1][left_over]
                state = _first(self._ways(before, sheet, parts[index], state) == wanted)
                row.insert(0, self._voicing(before, state))
            wanted = int(sheets[0][left_over][state]) - int(parts[0].cost[state])
            left_over -= self._slots[place][option].swap
            chosen.insert(0, option)
            voicings.insert(0, tuple(row))
            if place:
                option, state = self._came_from(place - 1, left_over, parts[0], state, wanted)
        return JointAnswer(swaps, cost, tuple(chosen), tuple(voicings))

    @staticmethod
    def _voicing(part: _Part, state: tuple[int, int]) -> Voicing:
        return Voicing(part.left[state[0]], part.right[state[1]])

    def _ways(self, before: _Part, sheet: Costs, after: _Part, state: tuple[int, int]) -> Costs:
        left, right = self._steps.link(before, after)
        return np.asarray(sheet + left[:, state[0], None] + right[None, :, state[1]])

    def _came_from(
        self, place: int, swaps: int, after: _Part, state: tuple[int, int], wanted: int
    ) -> tuple[int, tuple[int, int]]:
        for option, sheets in enumerate(self._sheets[place]):
            if sheets[-1].size:
                hits = self._ways(self._parts[place][option][-1], sheets[-1][swaps], after, state) == wanted
                if hits.any():
                    return option, _first(hits)
        raise AssertionError("a table holds a cost that no way leads to")


def _wish(parts: Sequence[_Part]) -> Wish | None:
    """A wish of a slot's chords: school and bass are the same for all of them. None for rests."""
    return next((part.place.wish for part in parts if part.place.wish is not None), None)


def _first(mask: npt.NDArray[np.bool_]) -> tuple[int, int]:
    left, right = np.unravel_index(int(np.argmax(mask)), mask.shape)
    return int(left), int(right)


def _first_product(sheet: Costs, left: Costs, product: MinPlus) -> Costs:
    """(L, swaps, R'): over the left hand's link (L', L) from a sheet (swaps, L', R')."""
    swaps, lefts, rights = sheet.shape
    flat = np.ascontiguousarray(sheet.transpose(1, 0, 2)).reshape(lefts, swaps * rights)
    return product(np.ascontiguousarray(left.T), flat).reshape(-1, swaps, rights)


def _two_products(sheet: Costs, left: Costs, right: Costs, product: MinPlus) -> Costs:
    """Cheapest way from a sheet (swaps, L', R') over the links (L', L), (R', R) to every state,
    (swaps, L, R)."""
    half = _first_product(sheet, left, product)
    lefts, swaps, rights = half.shape
    out = product(half.reshape(lefts * swaps, rights), np.ascontiguousarray(right))
    return np.ascontiguousarray(out.reshape(lefts, swaps, -1).transpose(1, 0, 2))
