"""Swaps and voicings in one exact search.

Every slot has options: the chord as written, and swaps of one to four chords. A state is an
option with both hands' shapes for each of its chords, and the number of swaps so far. What a
hinge costs depends on the shapes alone, so it is read off one table of all shapes of a hand
in the song; and because it splits by hand, the step from all options of one slot into one
option of the next is one min-plus product for each option before, and one more for all of
them together.

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


class _Steps:
    """Hinge costs between any two parts, off one table for each hand where it is not too large."""

    def __init__(self) -> None:
        self.shapes: dict[str, dict[tuple[int, ...], int]] = {"left": {}, "right": {}}
        self._tables: dict[tuple[str, Weights, bool], Costs] = {}

    def rows(self, side: str, shapes: Sequence[HandShape]) -> npt.NDArray[np.intp]:
        known = self.shapes[side]
        return np.array([known.setdefault(shape.keys, len(known)) for shape in shapes], dtype=np.intp)

    def link(self, before: _Part, after: _Part) -> tuple[Costs, Costs]:
        """(L, L') and (R, R')."""
        if before.place.wish is None or after.place.wish is None:
            return (
                np.zeros((len(before.left), len(after.left)), dtype=np.int32),
                np.zeros((len(before.right), len(after.right)), dtype=np.int32),
            )
        weights = weights_of(after.place.wish.school)
        bass = before.place.wish.bass == "self" == after.place.wish.bass
        return (
            self._cut("left", weights, bass, (before.left, before.left_rows), (after.left, after.left_rows)),
            self._cut(
                "right", weights, False, (before.right, before.right_rows), (after.right, after.right_rows)
            ),
        )

    def _cut(
        self,
        side: str,
        weights: Weights,
        bass: bool,
        before: tuple[tuple[HandShape, ...], npt.NDArray[np.intp]],
        after: tuple[tuple[HandShape, ...], npt.NDArray[np.intp]],
    ) -> Costs:
        if len(self.shapes[side]) > _ONE_TABLE:
            return hinge_costs(before[0], after[0], weights, side, bass)
        name = (side, weights, bass)
        if name not in self._tables:
            every = tuple(HandShape(keys) for keys in self.shapes[side])
            self._tables[name] = hinge_costs(every, every, weights, side, bass)
        return self._tables[name][before[1][:, None], after[1][None, :]]


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
            for option in after:
                into = option[0].cost.shape
                rights = 0
                for other in before:
                    size = other[-1].cost.shape
                    total += into[0] * size[0] * size[1]
                    rights += size[1]
                total += into[0] * rights * into[1]
        return total

    def solve(self, most: int, progress: Progress = lambda _: True) -> list[JointAnswer]:
        """The trade curve: for 0, 1, ... ``most`` swaps the smoothest result with just so many.
        Numbers that cannot be reached are left out.

        Raises :class:`Cancelled`. Every slot needs an option with a legal voicing.
        """
        self._sheets = []
        product = kernel_for(self.sums * (most + 1))
        for place in range(len(self._slots)):
            self._sheets.append(
                [self._extend(place, option, most, product) for option in range(len(self._slots[place]))]
            )
            if not progress((place + 1) / len(self._slots)):
                raise Cancelled
        answers = (self._trace(swaps) for swaps in range(most + 1))
        return [answer for answer in answers if answer is not None]

    def _extend(self, place: int, option: int, most: int, product: MinPlus) -> list[Costs]:
        """Tables of one option's parts, from all options of the slot before."""
        parts = self._parts[place][option]
        swap = self._slots[place][option].swap
        shape = (most + 1, *parts[0].cost.shape)
        if place == 0:
            reached = np.full(shape, FORBIDDEN, dtype=np.int32)
            reached[0] = 0
        elif not all(shape):
            reached = np.full(shape, FORBIDDEN, dtype=np.int32)
        else:
            reached = self._entered(place, parts[0], most, product)
        if swap:
            reached = np.concatenate([np.full((1, *shape[1:]), FORBIDDEN, dtype=np.int32), reached[:-1]])
        sheets = [np.minimum(reached + parts[0].cost, FORBIDDEN).astype(np.int32)]
        for before, after in pairwise(parts):
            left, right = self._steps.link(before, after)
            inner = _two_products([(sheets[-1], left, right)], product)
            sheets.append(np.minimum(inner + after.cost, FORBIDDEN).astype(np.int32))
        return sheets

    def _entered(self, place: int, part: _Part, most: int, product: MinPlus) -> Costs:
        sources = []
        for other, sheets in zip(self._parts[place - 1], self._sheets[place - 1], strict=True):
            if sheets[-1].size and int(sheets[-1].min()) < FORBIDDEN:
                sources.append((sheets[-1], *self._steps.link(other[-1], part)))
        if not sources:
            return np.full((most + 1, *part.cost.shape), FORBIDDEN, dtype=np.int32)
        return _two_products(sources, product)

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


def _first(mask: npt.NDArray[np.bool_]) -> tuple[int, int]:
    left, right = np.unravel_index(int(np.argmax(mask)), mask.shape)
    return int(left), int(right)


def _two_products(sources: Sequence[tuple[Costs, Costs, Costs]], product: MinPlus) -> Costs:
    """Cheapest way from any of several sheets (swaps, L', R') over their links (L', L), (R', R)
    to every state, (swaps, L, R)."""
    halves = []
    for sheet, left, _ in sources:
        swaps, lefts, rights = sheet.shape
        flat = np.ascontiguousarray(sheet.transpose(1, 0, 2)).reshape(lefts, swaps * rights)
        half = product(np.ascontiguousarray(left.T), flat)
        halves.append(half.reshape(-1, swaps, rights))
    joined = np.concatenate(halves, axis=2)
    lefts, swaps, rights = joined.shape
    links = np.ascontiguousarray(np.concatenate([right for _, __, right in sources], axis=0))
    out = product(np.ascontiguousarray(joined).reshape(lefts * swaps, rights), links)
    return np.ascontiguousarray(out.reshape(lefts, swaps, -1).transpose(1, 0, 2))
