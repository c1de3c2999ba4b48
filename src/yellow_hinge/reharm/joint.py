"""Swaps and voicings in one exact search.

Every slot has options: the chord as written, and swaps of one to four chords. A state is an
option with both hands' shapes for each of its chords, and the number of swaps so far. What a
hinge costs depends on the shapes alone, so it is read off one table of all shapes of a hand
in the song; and because it splits by hand, the step from one slot to the next is one
min-plus product for each option before, over all left shapes behind it, and one for each
option behind, over all right shapes before it. Only chords on the same root, and dominants that lead to
the chord behind them, are looked at pair by pair: there a swap may not repeat what its neighbour says,
and some prices are others.

Counting swaps gives the whole trade curve in one pass: for every number of swaps the result with
the least effort, the prices of the swaps' rules included, exact.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import numpy.typing as npt
from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.columns import Link, Sheets, Side, Turns, mixed, over_left, over_right
from yellow_hinge.lattice.kernel import FORBIDDEN, Costs, Kernel
from yellow_hinge.lattice.quickest import kernel_for
from yellow_hinge.motion.distance import Change
from yellow_hinge.motion.line import Step, leads_to, step_between
from yellow_hinge.motion.outer import outer_table
from yellow_hinge.motion.place import Place
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.terms import Over, along_costs, hinge_costs, same_tops, shape_id, unresolved_costs
from yellow_hinge.motion.weights import Weights, weights_of
from yellow_hinge.reharm.proposals import same_kind
from yellow_hinge.stopping import Progress, always, ask
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.voicing.shape import HandShape, Voicing, roles_of
from yellow_hinge.voicing.wish import Wish

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

    def only(self, state: tuple[int, int]) -> _Part:
        """The chord in one state."""
        left, right = (slice(one, one + 1) for one in state)
        return _Part(
            self.place, self.cost[left, right], self.left[left], self.right[right],
            self.left_rows[left], right_rows=self.right_rows[right],
        )  # fmt: skip


_Rows = npt.NDArray[np.intp]
_Row = tuple[tuple[int, ...], int, int]  # keys, the bass under a right hand, what its notes do


def _shape_of(shape: HandShape, chord: ChordSymbol, side: str) -> int:
    roles, root = roles_of(chord, side), chord.root.pitch_class
    return shape_id(tuple(roles[(key - root) % 12] for key in shape.keys))


class _Steps:
    """Hinge costs between rows of shapes, off one table of all grips for each hand where it is not too large.
    The same keys, one grip, are another row over another bass, and where they do something else in their
    chord."""

    def __init__(self) -> None:
        self._known: dict[str, dict[_Row, int]] = {"left": {}, "right": {}}
        self._shapes: dict[str, list[HandShape]] = {"left": [], "right": []}
        self._every: dict[str, list[_Row]] = {"left": [], "right": []}
        self._grips: dict[str, dict[tuple[int, ...], int]] = {"left": {}, "right": {}}
        self._grip_of: dict[str, list[int]] = {"left": [], "right": []}
        self._tables: dict[tuple[str, Weights, Step], Costs] = {}

    def rows(self, side: str, shapes: Sequence[HandShape], wish: Wish | None) -> _Rows:
        """Where shapes stand among all shapes of a hand; new ones are added."""
        known, every, shapes_of = self._known[side], self._every[side], self._shapes[side]
        bass = 0 if wish is None or side == "left" else wish.chord.bass_name.pitch_class
        roles = wish is not None and bool(weights_of(wish.school).shape_change)
        found = []
        for shape in shapes:
            shape_of = _shape_of(shape, wish.chord, side) if wish is not None and roles else 0
            row = shape.keys, bass, shape_of
            if row not in known:
                known[row] = len(every)
                every.append(row)
                shapes_of.append(HandShape(shape.keys))
                grips = self._grips[side]
                self._grip_of[side].append(grips.setdefault(shape.keys, len(grips)))
            found.append(known[row])
        return np.array(found, dtype=np.intp)

    def heights(self, side: str, rows: _Rows) -> npt.NDArray[np.int64]:
        """(rows,) the outer voice: the lowest note of the left hand, the highest of the right one; 0 for an
        empty hand."""
        end, every = (0 if side == "left" else -1), self._shapes[side]
        return np.array([every[row].keys[end] if every[row].keys else 0 for row in rows], dtype=np.int64)

    def in_order(self, side: str, rows: Sequence[_Rows]) -> _Rows:
        """All rows of some, each once, by the outer voice."""
        distinct = np.unique(np.concatenate(rows))
        return distinct[np.argsort(self.heights(side, distinct), kind="stable")]

    def costs(self, side: str, ends: tuple[Wish | None, Wish | None], step: Step, rows: _Ends) -> Costs:
        """(B, A): what the hand pays from each row before to each after, but for what leads on. A rest, the
        empty shape, costs nothing to come to or to leave."""
        before, after = rows
        start, end = ends
        if start is None or end is None:
            return np.zeros((len(before), len(after)), dtype=np.int32)
        weights, every, grips = weights_of(end.school), self._shapes[side], self._grips[side]
        minds = weights.still or (side == "right" and weights.held_top)  # what minds the change of chord
        plain = Step(step.change if minds else Change.ROOT, step.has_bass)
        if len(grips) > _ONE_TABLE:
            one, other = (tuple(every[row] for row in some) for some in rows)
            table = hinge_costs(one, other, weights, side, plain)
        else:
            name = (side, weights, plain)
            if name not in self._tables or len(self._tables[name]) < len(grips):
                laid = tuple(map(HandShape, grips))
                self._tables[name] = hinge_costs(laid, laid, weights, side, plain)
            one_of = np.array(self._grip_of[side], dtype=np.intp)
            table = self._tables[name][one_of[before][:, None], one_of[after][None, :]]
        ask()
        if side == "right" and weights.parallel and start.hands == end.hands == "both":
            table = table + weights.parallel * along_costs(self._over(before), self._over(after))
        if weights.shape_change:
            was, becomes = (self._attribute(side, some, 2) for some in rows)
            plays = self._plays(side, before)[:, None] & self._plays(side, after)[None, :]
            table = table + weights.shape_change * ((was[:, None] != becomes[None, :]) & plays)
        return table

    def _attribute(self, side: str, rows: _Rows, number: int) -> npt.NDArray[np.int64]:
        every = self._every[side]
        return np.array([every[row][number] for row in rows], dtype=np.int64)

    def _plays(self, side: str, rows: _Rows) -> npt.NDArray[np.bool_]:
        """(rows,): which are no empty hand."""
        return np.array([bool(self._every[side][row][0]) for row in rows], dtype=bool)

    def _over(self, rows: _Rows) -> Over:
        tops = self.heights("right", rows)
        basses = self._attribute("right", rows, 1)
        return np.where(self._plays("right", rows), (tops - basses) % 12, -1), tops % 12

    def fresh(self, end: Wish | None, rows: _Ends) -> Costs | int:
        """(B, A): what the right hand pays besides where a new top note is due."""
        if end is None or not end.line.fresh:
            return 0
        one, other = (tuple(self._shapes["right"][row] for row in some) for some in rows)
        return np.int32(weights_of(end.school).held_long) * same_tops(one, other)

    def turns(
        self, ends: tuple[Wish | None, Wish | None], step: Step, rows: tuple[_Ends, _Ends]
    ) -> Turns | None:
        """What the outer voices pay from rows of both hands before, (left, right), to those after."""
        start, end = ends
        table = None if start is None or end is None else outer_table(start, end, step)
        if table is None:
            return None
        sides = (
            Side(self.heights(side, before), self.heights(side, after))
            for side, before, after in zip(("left", "right"), *rows, strict=True)
        )
        return Turns(table, *sides)

    def link(self, before: _Part, after: _Part, times: int) -> Link:
        """A change that is played so many times."""
        ends, step = (before.place.wish, after.place.wish), _step(before, after)
        lefts, rights = (before.left_rows, after.left_rows), (before.right_rows, after.right_rows)
        left, right = self.costs("left", ends, step, lefts), self.costs("right", ends, step, rights)
        if ends[0] is not None and ends[1] is not None:
            tendency = np.int32(weights_of(ends[1].school).tendency)
            if tendency and step.leading:
                left = left + tendency * unresolved_costs(before.left, after.left, step)
                right = right + tendency * unresolved_costs(before.right, after.right, step)
            if step.change == Change.ROOT:
                right = right + self.fresh(ends[1], rights)
        turns = self.turns(ends, step, ((lefts[0], rights[0]), (lefts[1], rights[1])))
        return Link(left, right, turns).times(times)


_Ends = tuple[_Rows, _Rows]


def _step(before: _Part, after: _Part) -> Step:
    wish, other = before.place.wish, after.place.wish
    return Step() if wish is None or other is None else step_between(wish, other)


def _root(part: _Part) -> int | None:
    return None if part.place.wish is None else part.place.wish.chord.root.pitch_class


def _roots(part: _Part) -> frozenset[int | None]:
    """The roots of chords that this one is looked at with pair by pair when they follow: its own, and the one
    that it leads to."""
    wish = part.place.wish
    return frozenset({_root(part), *([] if wish is None else leads_to(wish.chord))})


def _are_a_pair(before: _Part, after: _Part) -> bool:
    """Whether two chords that follow each other are looked at by themselves; next to a rest all are."""
    rest = before.place.wish is None or after.place.wish is None
    return rest or _root(after) in _roots(before)


class _Gate(Struct, frozen=True, eq=False):
    """What the options of a slot have in common when no pair has to be looked at: the cheapest cost of
    arriving at each left shape of any of them from each right shape of the slot before, ``joined`` (ways,
    left rows, swaps, right rows before), and the right hand's way from there."""

    joined: Costs
    lefts: _Rows
    rights: _Rows
    way: Costs
    turns: Turns | None

    def into(self, part: _Part, kernel: Kernel) -> Costs:
        """(swaps, L, R): the cheapest way to every state of a part."""
        rows = self.joined[:, _places(self.lefts, part.left_rows)]
        ways, count, swaps, rights = rows.shape
        right = _places(self.rights, part.right_rows)
        flat = np.ascontiguousarray(rows.reshape(ways, count * swaps, rights).transpose(0, 2, 1))
        turns = self.turns
        if turns is not None:
            turns = Turns(turns.table, turns.left, Side(turns.right.before, turns.right.after[right]))
        out = over_right(self.way[:, right], flat, turns, kernel)
        return np.ascontiguousarray(out.reshape(-1, count, swaps).transpose(2, 1, 0))


def _places(every: _Rows, some: _Rows) -> _Rows:
    """Where some rows stand in another order of all."""
    order = np.argsort(every)
    return order[np.searchsorted(every, some, sorter=order)]


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
            left = self._steps.rows("left", shapes.left, place.wish)
            right = self._steps.rows("right", shapes.right, place.wish)
            parts.append(
                _Part(place, _times(column.cost, times), shapes.left, shapes.right, left, right_rows=right)
            )
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

    def solve(self, most: int, progress: Progress = always) -> list[JointAnswer]:
        """The trade curve: for 0, 1, ... ``most`` swaps the least effort with just so many.
        Numbers that cannot be reached are left out.

        Raises :class:`Cancelled`. Every slot needs an option with a legal voicing.
        """
        self._sheets, self._bases = [], []
        kernel = kernel_for(self.sums * (most + 1))
        for place in range(len(self._slots)):
            self._enter(place, most, kernel)
            if not progress((place + 1) / len(self._slots)):
                raise Cancelled
        answers = (self._trace(swaps) for swaps in range(most + 1))
        return [answer for answer in answers if answer is not None]

    def _enter(self, place: int, most: int, kernel: Kernel) -> None:
        """The tables of one slot: arrive at every option, pay for it, and go through its chords."""
        arrivals = self._arrivals(place, most, kernel)
        tables: list[list[Costs]] = []
        for option, parts, arrived in zip(self._slots[place], self._parts[place], arrivals, strict=True):
            reached = arrived
            if option.swap:
                none = np.full((1, *arrived.shape[1:]), FORBIDDEN, dtype=np.int32)
                reached = np.concatenate([none, arrived[:-1]])
            sheets = [_paid(reached, parts[0].cost + option.price * self._times[place])]
            for before, after in pairwise(parts):
                link = self._steps.link(before, after, self._times[place])
                sheets.append(_paid(link.pushed(sheets[-1], kernel), after.cost))
            tables.append(sheets)
        least = min(int(sheets[0].min(initial=FORBIDDEN)) for sheets in tables)
        low = 0 if least >= FORBIDDEN else least
        self._bases.append((self._bases[-1] if place else 0) + low)
        self._sheets.append([_kept(sheets, low) for sheets in tables])

    def _arrivals(self, place: int, most: int, kernel: Kernel) -> list[Costs]:
        """For every option of a slot (swaps, L, R): the cheapest way to its first chord."""
        firsts = [parts[0] for parts in self._parts[place]]
        if place == 0:
            arrivals = [np.full((most + 1, *part.cost.shape), FORBIDDEN, dtype=np.int32) for part in firsts]
            for sheet in arrivals:
                sheet[0] = 0
            return arrivals
        sources = [
            _Source(option, parts[-1], sheet)
            for option, (parts, sheets) in enumerate(
                zip(self._parts[place - 1], self._sheets[place - 1], strict=True)
            )
            if (sheet := sheets[-1]).size and int(sheet.min()) < FORBIDDEN
        ]
        gates = self._gates(place, sources, firsts, most, kernel)
        return [
            self._arrival(place, option, part, gates.get(_root(part)), sources, most=most, kernel=kernel)
            for option, part in enumerate(firsts)
        ]

    def _arrival(
        self,
        place: int,
        option: int,
        part: _Part,
        gate: _Gate | None,
        sources: Sequence[_Source],
        *,
        most: int,
        kernel: Kernel,
    ) -> Costs:
        shape = (most + 1, *part.cost.shape)
        reached = np.full(shape, FORBIDDEN, dtype=np.int32)
        if not all(shape):
            return reached
        if gate is not None:
            reached = gate.into(part, kernel)
        for source in sources:
            if _are_a_pair(source.part, part) and self._may_follow(place, source.option, option):
                link = self._steps.link(source.part, part, self._ways_in[place])
                reached = np.minimum(reached, link.pushed(source.sheet, kernel))
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
        self, place: int, sources: Sequence[_Source], firsts: Sequence[_Part], most: int, kernel: Kernel
    ) -> dict[int | None, _Gate]:
        """By the root of a first chord: how it is reached from all chords that need no look at the pair."""
        steps = self._steps
        sources = [source for source in sources if source.part.place.wish is not None]
        lefts = steps.in_order("left", [part.left_rows for part in firsts])
        if not sources or not len(lefts):
            return {}
        middle = steps.in_order("right", [source.part.right_rows for source in sources])
        rights = steps.in_order("right", [part.right_rows for part in firsts])
        ends, times = (_wish([source.part for source in sources]), _wish(firsts)), self._ways_in[place]
        step = _plain_step(*ends)
        way = steps.costs("right", ends, step, (middle, rights)) + steps.fresh(ends[1], (middle, rights))
        empty = lefts[:0]
        turns = steps.turns(ends, step, ((empty, middle), (empty, rights)))
        if turns is not None:
            turns = turns.plus(None, (times, 0))
        by_roots: dict[frozenset[int | None], Costs] = {}
        for source in sources:
            part, roots = source.part, _roots(source.part)
            own = steps.turns(ends, step, ((part.left_rows, empty), (lefts, empty)))
            link = steps.costs("left", ends, step, (part.left_rows, lefts)) * np.int32(times)
            half = _first_product(source.sheet, link, own, kernel)
            at = _places(middle, part.right_rows)
            if roots not in by_roots:
                shape = (len(half), len(lefts), most + 1, len(middle))
                by_roots[roots] = np.full(shape, FORBIDDEN, dtype=np.int32)
            by_roots[roots][..., at] = np.minimum(by_roots[roots][..., at], half)
        gates: dict[int | None, _Gate] = {}
        made: dict[frozenset[frozenset[int | None]], _Gate] = {}
        for root in {_root(part) for part in firsts if part.place.wish is not None}:
            others = frozenset(roots for roots in by_roots if root not in roots)
            if others and others not in made:
                joined = _lowest([by_roots[roots] for roots in others])
                if turns is not None:
                    joined = mixed(joined, turns.table)
                made[others] = _Gate(joined, lefts, rights, way * np.int32(times), turns)
            if others:
                gates[root] = made[others]
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
                option, state = self._came_from(place, option, left_over, parts[0], state, wanted=wanted)
        paid = sum(
            self._slots[place][option].price * self._times[place] for place, option in enumerate(chosen)
        )
        return JointAnswer(swaps, cost + self._bases[-1], paid, tuple(chosen), tuple(voicings))

    @staticmethod
    def _voicing(part: _Part, state: tuple[int, int]) -> Voicing:
        return Voicing(part.left[state[0]], part.right[state[1]])

    def _ways(self, before: _Part, sheet: Costs, after: _Part, state: tuple[int, int], times: int) -> Costs:
        return np.asarray(sheet + self._steps.link(before, after.only(state), times).into((0, 0)))

    def _came_from(
        self, place: int, option: int, swaps: int, after: _Part, state: tuple[int, int], *, wanted: int
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


def _plain_step(start: Wish | None, end: Wish | None) -> Step:
    """The step between chords of two slots that differ in root, and do not lead on."""
    if start is None or end is None:
        return Step()
    return replace(step_between(start, end), change=Change.ROOT, leading=())


def _first_product(sheet: Costs, left: Costs, turns: Turns | None, kernel: Kernel) -> Costs:
    """(ways, L, swaps, R'): over the left hand's link (L', L) from a sheet (swaps, L', R')."""
    ask()
    swaps, lefts, rights = sheet.shape
    flat = np.ascontiguousarray(sheet.transpose(1, 0, 2)).reshape(lefts, swaps * rights)
    ask()
    half = over_left(left, flat, turns, kernel)
    return half.reshape(len(half), -1, swaps, rights)
