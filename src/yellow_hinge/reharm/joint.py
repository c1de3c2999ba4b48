"""Swaps and voicings in one exact search.

Every slot has options: the chord as written, and swaps of one to four chords. A state is an
option with both hands' shapes for each of its chords, and the number of swaps so far. What a
hinge costs depends on the shapes alone, so it is read off one table of all shapes of a hand
in the song; and because it splits by hand, the step from one slot to the next is one
min-plus product for each option before, over all left shapes behind it, and one for each
option behind, over all right shapes before it. Only chords on the same root are looked at pair by
pair: there a swap may not repeat what its neighbour says, and some prices are others.

Counting swaps gives the whole trade curve in one pass: for every number of swaps the result with
the least effort, the prices of the swaps' rules included, exact.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.columns import Sheets
from yellow_hinge.lattice.kernel import FORBIDDEN, Costs, MinPlus, kernel_for
from yellow_hinge.motion.distance import Change, change_between
from yellow_hinge.motion.place import Place
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.terms import hinge_costs
from yellow_hinge.motion.weights import Weights, weights_of
from yellow_hinge.reharm.proposals import same_kind
from yellow_hinge.stopping import ask
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish

Progress = Callable[[float], bool]
#: Shapes of a hand up to which one table holds the hinge costs of the whole song.
_ONE_TABLE = 5000


class Option(Struct, frozen=True):
    """What may sound in a slot: its chords in order, whether that is a swap, what the swap's rule
    costs (hundredths of a half step), and whether its first and its last chord are the slot's own,
    which may repeat what a neighbour says."""

    places: tuple[Place, ...]
    swap: bool = True
    price: int = 0
    own_first: bool = False
    own_last: bool = False


class JointAnswer(Struct, frozen=True):
    """The least effort with a number of swaps: for each slot the option taken and the voicings of
    its chords. ``cost`` in hundredths of a half step, of which ``price`` is for the swaps' rules."""

    swaps: int
    cost: int
    price: int
    options: tuple[int, ...]
    voicings: tuple[tuple[Voicing, ...], ...]


class _Part(Struct, frozen=True, eq=False):
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
        self._tables: dict[tuple[str, Weights, bool, Change], Costs] = {}

    def rows(self, side: str, shapes: Sequence[HandShape]) -> _Rows:
        """Where shapes stand among all shapes of a hand; new ones are added."""
        known, every = self._known[side], self._shapes[side]
        for shape in shapes:
            if shape.keys not in known:
                known[shape.keys] = len(every)
                every.append(HandShape(shape.keys))
        return np.array([known[shape.keys] for shape in shapes], dtype=np.intp)

    def costs(
        self, side: str, ends: tuple[Wish | None, Wish | None], change: Change, before: _Rows, after: _Rows
    ) -> Costs:
        """(B, A): what the hand pays from each row of ``before`` to each of ``after``. A rest, the
        empty shape, costs nothing to come to or to leave."""
        start, end = ends
        if start is None or end is None:
            return np.zeros((len(before), len(after)), dtype=np.int32)
        weights, every = weights_of(end.school), self._shapes[side]
        bass = side == "left" and start.bass == "self" == end.bass
        if len(every) > _ONE_TABLE:
            one, other = (tuple(every[row] for row in rows) for rows in (before, after))
            return hinge_costs(one, other, weights, side, bass, change)
        minds = weights.still if side == "left" else weights.held_top  # what minds the change of chord
        name = (side, weights, bass, change if minds else Change.ROOT)
        if name not in self._tables or len(self._tables[name]) < len(every):
            self._tables[name] = hinge_costs(tuple(every), tuple(every), weights, side, bass, change)
        ask()
        return self._tables[name][before[:, None], after[None, :]]

    def link(self, before: _Part, after: _Part, times: int) -> tuple[Costs, Costs]:
        """(L, L') and (R, R') of a change that is played so many times."""
        ends = (before.place.wish, after.place.wish)
        change = _change(before, after)
        return (
            self.costs("left", ends, change, before.left_rows, after.left_rows) * np.int32(times),
            self.costs("right", ends, change, before.right_rows, after.right_rows) * np.int32(times),
        )


def _change(before: _Part, after: _Part) -> Change:
    one, other = before.place.wish, after.place.wish
    return Change.ROOT if one is None or other is None else change_between(one.chord, other.chord)


def _root(part: _Part) -> int | None:
    return None if part.place.wish is None else part.place.wish.chord.root.pitch_class


class _Gate(Struct, frozen=True, eq=False):
    """What the options of a slot have in common when they are entered from another root: the
    cheapest cost of arriving at each left shape of any of them from each right shape of the slot
    before, ``joined`` (left rows, swaps, right rows before), and the right hand's way from there."""

    joined: Costs
    lefts: _Rows
    rights: _Rows
    way: Costs

    def into(self, part: _Part, product: MinPlus) -> Costs:
        """(swaps, L, R): the cheapest way to every state of a part."""
        rows = self.joined[np.searchsorted(self.lefts, part.left_rows)]
        count, swaps, rights = rows.shape
        link = np.ascontiguousarray(self.way[:, np.searchsorted(self.rights, part.right_rows)])
        # the larger side of the product comes second, where the kernel runs along it
        flat = np.ascontiguousarray(rows).reshape(count * swaps, rights)
        out = product(np.ascontiguousarray(link.T), np.ascontiguousarray(flat.T))
        return np.ascontiguousarray(out.reshape(-1, count, swaps).transpose(2, 1, 0))


class _Source(Struct, frozen=True, eq=False):
    """The last chord of an option of the slot before, with its table of costs (swaps, L, R)."""

    option: int
    part: _Part
    sheet: Costs


class JointSearch:
    """One search over slots with options. Keeps all tables until it is dropped.

    A slot may be played several times: ``times`` says how often each one is, ``ways`` how often the
    change into it from the slot before is played (0: they never follow each other). All rounds have
    the same chords and voicings.
    """

    def __init__(
        self,
        planner: Planner,
        slots: Sequence[Sequence[Option]],
        times: Sequence[int] = (),
        ways: Sequence[int] = (),
    ) -> None:
        self._slots = slots
        self._times = list(times) or [1] * len(slots)
        self._ways_in = list(ways) or [1] * len(slots)
        self._steps = _Steps()
        self._parts = [
            [self._build(planner, option, count) for option in options]
            for options, count in zip(slots, self._times, strict=True)
        ]
        #: [slot][option] -> per part the cheapest cost up to there, (swaps, L, R) with the lowest
        #: of the slot's last parts at 0; ``_bases`` is what was taken off up to there.
        self._sheets: list[list[Sheets]] = []
        self._bases: list[int] = []
        self.states = sum(part.cost.size for slot in self._parts for option in slot for part in option)

    def _build(self, planner: Planner, option: Option, times: int) -> list[_Part]:
        parts = []
        for place in option.places:
            ask()
            column, shapes = planner.column(place)
            left, right = self._steps.rows("left", shapes.left), self._steps.rows("right", shapes.right)
            parts.append(_Part(place, _times(column.cost, times), shapes.left, shapes.right, left, right))
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
        """The trade curve: for 0, 1, ... ``most`` swaps the least effort with just so many.
        Numbers that cannot be reached are left out.

        Raises :class:`Cancelled`. Every slot needs an option with a legal voicing.
        """
        self._sheets, self._bases = [], []
        product = kernel_for(self.sums * (most + 1))
        for place in range(len(self._slots)):
            self._enter(place, most, product)
            if not progress((place + 1) / len(self._slots)):
                raise Cancelled
        answers = (self._trace(swaps) for swaps in range(most + 1))
        return [answer for answer in answers if answer is not None]

    def _enter(self, place: int, most: int, product: MinPlus) -> None:
        """The tables of one slot: arrive at every option, pay for it, and go through its chords."""
        arrivals = self._arrivals(place, most, product)
        tables: list[list[Costs]] = []
        for option, parts, arrived in zip(self._slots[place], self._parts[place], arrivals, strict=True):
            reached = arrived
            if option.swap:
                none = np.full((1, *arrived.shape[1:]), FORBIDDEN, dtype=np.int32)
                reached = np.concatenate([none, arrived[:-1]])
            sheets = [_paid(reached, parts[0].cost + option.price * self._times[place])]
            for before, after in pairwise(parts):
                left, right = self._steps.link(before, after, self._times[place])
                sheets.append(_paid(_two_products(sheets[-1], left, right, product), after.cost))
            tables.append(sheets)
        least = min(int(sheets[0].min(initial=FORBIDDEN)) for sheets in tables)
        low = 0 if least >= FORBIDDEN else least
        self._bases.append((self._bases[-1] if place else 0) + low)
        self._sheets.append([_kept(sheets, low) for sheets in tables])

    def _arrivals(self, place: int, most: int, product: MinPlus) -> list[Costs]:
        """For every option of a slot (swaps, L, R): the cheapest way to its first chord."""
        firsts = [parts[0] for parts in self._parts[place]]
        if place == 0:
            found = [np.full((most + 1, *part.cost.shape), FORBIDDEN, dtype=np.int32) for part in firsts]
            for sheet in found:
                sheet[0] = 0
            return found
        sources = [
            _Source(option, parts[-1], sheet)
            for option, (parts, sheets) in enumerate(
                zip(self._parts[place - 1], self._sheets[place - 1], strict=True)
            )
            if (sheet := sheets[-1]).size and int(sheet.min()) < FORBIDDEN
        ]
        gates = self._gates(place, sources, firsts, most, product)
        return [
            self._arrival(place, option, part, gates.get(_root(part)), sources, most, product)
            for option, part in enumerate(firsts)
        ]

    def _arrival(
        self,
        place: int,
        option: int,
        part: _Part,
        gate: _Gate | None,
        sources: Sequence[_Source],
        most: int,
        product: MinPlus,
    ) -> Costs:
        shape = (most + 1, *part.cost.shape)
        reached = np.full(shape, FORBIDDEN, dtype=np.int32)
        if not all(shape):
            return reached
        if gate is not None:
            reached = gate.into(part, product)
        for source in sources:
            if _root(source.part) == _root(part) and self._may_follow(place, source.option, option):
                left, right = self._steps.link(source.part, part, self._ways_in[place])
                reached = np.minimum(reached, _two_products(source.sheet, left, right, product))
        return reached

    def _may_follow(self, place: int, before: int, option: int) -> bool:
        """Whether an option may follow one of the slot before: no swap says what its neighbour
        says, root and kind; what the chart itself repeats may stay."""
        one, other = self._slots[place - 1][before], self._slots[place][option]
        wishes = one.places[-1].wish, other.places[0].wish
        if (
            not self._ways_in[place]
            or wishes[0] is None
            or wishes[1] is None
            or (one.own_last and other.own_first)
        ):
            return True
        return not same_kind(wishes[0].chord, wishes[1].chord)

    def _gates(
        self, place: int, sources: Sequence[_Source], firsts: Sequence[_Part], most: int, product: MinPlus
    ) -> dict[int | None, _Gate]:
        """By the root of a first chord: how it is reached from all chords on other roots."""
        lefts = np.unique(np.concatenate([part.left_rows for part in firsts]))
        if not sources or not len(lefts):
            return {}
        middle = np.unique(np.concatenate([source.part.right_rows for source in sources]))
        rights = np.unique(np.concatenate([part.right_rows for part in firsts]))
        ends = _wish([source.part for source in sources]), _wish(firsts)
        times = np.int32(self._ways_in[place])
        way = self._steps.costs("right", ends, Change.ROOT, middle, rights) * times
        by_root: dict[int | None, Costs] = {}
        for source in sources:
            link = self._steps.costs("left", ends, Change.ROOT, source.part.left_rows, lefts) * times
            half = _first_product(source.sheet, link, product)
            at = np.searchsorted(middle, source.part.right_rows)
            root = _root(source.part)
            if root not in by_root:
                by_root[root] = np.full((len(lefts), most + 1, len(middle)), FORBIDDEN, dtype=np.int32)
            by_root[root][:, :, at] = np.minimum(by_root[root][:, :, at], half)
        every = _Gate(_lowest(list(by_root.values())), lefts, rights, way)
        gates: dict[int | None, _Gate] = {}
        for root in {_root(part) for part in firsts}:
            others = [joined for source, joined in by_root.items() if source != root]
            if len(others) == len(by_root):
                gates[root] = every
            elif others:
                gates[root] = _Gate(_lowest(others), lefts, rights, way)
        return gates

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
            here = sheets[len(parts) - 1][left_over]
            for index in range(len(parts) - 1, 0, -1):
                wanted = int(here[state]) - int(parts[index].cost[state])
                before, here = parts[index - 1], sheets[index - 1][left_over]
                times = self._times[place]
                state = _first(self._ways(before, here, parts[index], state, times) == wanted)
                row.insert(0, self._voicing(before, state))
            low = self._bases[place] - (self._bases[place - 1] if place else 0)
            price = self._slots[place][option].price * self._times[place]
            wanted = int(here[state]) + low - int(parts[0].cost[state]) - price
            left_over -= self._slots[place][option].swap
            chosen.insert(0, option)
            voicings.insert(0, tuple(row))
            if place:
                option, state = self._came_from(place, option, left_over, parts[0], state, wanted)
        paid = sum(
            self._slots[place][option].price * self._times[place] for place, option in enumerate(chosen)
        )
        return JointAnswer(swaps, cost + self._bases[-1], paid, tuple(chosen), tuple(voicings))

    @staticmethod
    def _voicing(part: _Part, state: tuple[int, int]) -> Voicing:
        return Voicing(part.left[state[0]], part.right[state[1]])

    def _ways(self, before: _Part, sheet: Costs, after: _Part, state: tuple[int, int], times: int) -> Costs:
        ends, change = (before.place.wish, after.place.wish), _change(before, after)
        sides = (("left", before.left_rows, after.left_rows), ("right", before.right_rows, after.right_rows))
        left, right = (
            self._steps.costs(side, ends, change, rows, others[state[k] : state[k] + 1])[:, 0]
            for k, (side, rows, others) in enumerate(sides)
        )
        return np.asarray(sheet + (left[:, None] + right[None, :]) * np.int32(times))

    def _came_from(
        self, place: int, option: int, swaps: int, after: _Part, state: tuple[int, int], wanted: int
    ) -> tuple[int, tuple[int, int]]:
        for before, sheets in enumerate(self._sheets[place - 1]):
            part = self._parts[place - 1][before][-1]
            if part.cost.size and self._may_follow(place, before, option):
                hits = self._ways(part, sheets[-1][swaps], after, state, self._ways_in[place]) == wanted
                if hits.any():
                    return before, _first(hits)
        raise AssertionError("a table holds a cost that no way leads to")


def _lowest(sheets: Sequence[Costs]) -> Costs:
    """The lowest of each place over some sheets of one shape."""
    lowest = sheets[0]
    for sheet in sheets[1:]:
        lowest = np.minimum(lowest, sheet)
    return lowest


def _times(cost: Costs, count: int) -> Costs:
    """Own costs that are paid so many times."""
    if count == 1:
        return cost
    dear = np.minimum(cost.astype(np.int64) * count, FORBIDDEN)
    return np.where(cost >= FORBIDDEN, FORBIDDEN, dear).astype(np.int32)


def _paid(reached: Costs, cost: Costs) -> Costs:
    return np.asarray(np.minimum(reached + cost, FORBIDDEN), dtype=np.int32)


def _kept(sheets: Sequence[Costs], low: int) -> Sheets:
    """The tables of an option with ``low`` taken off, in little room."""
    kept = Sheets()
    for sheet in sheets:
        kept.append(np.where(sheet >= FORBIDDEN, FORBIDDEN, sheet - low).astype(np.int32))
    return kept


def _wish(parts: Sequence[_Part]) -> Wish | None:
    """A wish of a slot's chords: school and bass are the same for all of them. None for rests."""
    return next((part.place.wish for part in parts if part.place.wish is not None), None)


def _first(mask: npt.NDArray[np.bool_]) -> tuple[int, int]:
    left, right = np.unravel_index(int(np.argmax(mask)), mask.shape)
    return int(left), int(right)


def _first_product(sheet: Costs, left: Costs, product: MinPlus) -> Costs:
    """(L, swaps, R'): over the left hand's link (L', L) from a sheet (swaps, L', R')."""
    ask()
    swaps, lefts, rights = sheet.shape
    flat = np.ascontiguousarray(sheet.transpose(1, 0, 2)).reshape(lefts, swaps * rights)
    ask()
    return product(np.ascontiguousarray(left.T), flat).reshape(-1, swaps, rights)


def _two_products(sheet: Costs, left: Costs, right: Costs, product: MinPlus) -> Costs:
    """Cheapest way from a sheet (swaps, L', R') over the links (L', L), (R', R) to every state,
    (swaps, L, R)."""
    half = _first_product(sheet, left, product)
    lefts, swaps, rights = half.shape
    flat = np.ascontiguousarray(half.reshape(lefts * swaps, rights).T)
    out = product(np.ascontiguousarray(right.T), flat)
    return np.ascontiguousarray(out.reshape(-1, lefts, swaps).transpose(2, 1, 0))
