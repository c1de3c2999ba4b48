"""From wishes to the row of voicings with the least effort.

A :class:`Planner` keeps its candidate lists, cost arrays and tables between calls, so
that an edit solves only what it touches. It is not for two threads at once.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from yellow_hinge.errors import Cancelled, NoSolution, Problem
from yellow_hinge.hands.profile import LARGEST_REACH, HandProfile, reach_phrase
from yellow_hinge.lattice.cache import ByteCache
from yellow_hinge.lattice.chain import ChainSolver, Column, Link, Path
from yellow_hinge.lattice.kernel import FORBIDDEN, Costs
from yellow_hinge.lattice.loop import LoopPath, solve_loop
from yellow_hinge.motion.links import LinkTables
from yellow_hinge.motion.terms import pair_costs
from yellow_hinge.motion.weights import weights_of
from yellow_hinge.theory.tension import MAX_COLOUR
from yellow_hinge.voicing.borrow import borrowed
from yellow_hinge.voicing.candidates import Candidates, Shapes, candidates
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing
from yellow_hinge.voicing.wish import Wish

Progress = Callable[[float], bool]
#: What a planner keeps between solves, in bytes: columns are dear to make, links are read off the
#: tables of :mod:`motion.links` again.
_COLUMN_BYTES, _LINK_BYTES = 256_000_000, 144_000_000
_EMPTY = HandShape()
#: What can be fixed short of a whole voicing, in words.
_HOLD_WORDS = {
    "left": "the left hand", "right": "the right hand", "top": "the top note",
    "bass": "the lowest note", "left_recipe": "the left hand's shape",
    "right_recipe": "the right hand's shape", "lowest": "the lower end of the register",
    "highest": "the upper end of the register",
}  # fmt: skip
_REST = Shapes((_EMPTY,), (_EMPTY,))


@dataclass(frozen=True)
class Place:
    """One chord of a problem. ``wish`` None is "no chord"; ``lock`` fixes the voicing;
    ``where`` names the place in messages ("bar 3, Dm7")."""

    wish: Wish | None
    lock: Voicing | None = None
    where: str = ""


@dataclass(frozen=True)
class Answer:
    """The row with the least effort. ``cost`` in hundredths of a half step; ``states`` legal
    voicings per chord; ``seconds`` spent searching; ``gap`` by how much a better loop might still
    be cheaper; ``wishes`` what was wanted of each chord (None: no chord), in a borrowed school
    where the player's own cannot play it; ``loop`` whether the way back to the first chord counts."""

    voicings: tuple[Voicing, ...]
    cost: int
    states: tuple[int, ...]
    seconds: float
    optimal: bool = True
    gap: int = 0
    wishes: tuple[Wish | None, ...] = ()
    loop: bool = False


@dataclass(frozen=True)
class Alternative:
    """Another voicing for one place; ``extra`` is what it costs the whole song, in hundredths
    of a semitone, with all other places at their best again."""

    voicing: Voicing
    extra: int


def _column_bytes(made: tuple[Column, Shapes]) -> int:
    column, shapes = made
    return column.nbytes + _SHAPE_BYTES * (len(shapes.left) + len(shapes.right))


#: About what one shape takes.
_SHAPE_BYTES = 150


def _always(_: float) -> bool:
    return True


class Planner:
    """Solves problems over one library of recipes."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._columns: ByteCache[tuple[Column, Shapes]] = ByteCache(_COLUMN_BYTES, _column_bytes)
        self._links: ByteCache[Link] = ByteCache(_LINK_BYTES, lambda link: link.nbytes)
        self._tables = LinkTables()
        self._solver = ChainSolver()
        self._places: tuple[Place, ...] = ()
        self._lent: dict[Wish, Wish] = {}

    def solve(self, places: Sequence[Place], progress: Progress = _always) -> Answer:
        """The exact optimum of the stated cost.

        Raises :class:`NoSolution` naming every chord without a legal voicing and the smallest
        loosening that helps, and ``lattice.chain.Cancelled`` when ``progress`` says False.
        """
        started = time.perf_counter()
        columns = self._begin(places)
        path: Path = self._solver.solve(columns, self._link, progress)
        return self._answer(path, columns, started)

    def solve_loop(self, places: Sequence[Place], progress: Progress = _always) -> Answer:
        """As :meth:`solve`, with the last chord leading back to the first. ``optimal`` says
        whether the loop is proven to be the cheapest; otherwise ``gap`` is what is open."""
        if len(places) < 2:
            return self.solve(places, progress)
        started = time.perf_counter()
        columns = self._begin(places)
        found = self._closed(columns, progress)
        answer = self._answer(found.path, columns, started)
        return replace(answer, optimal=found.exact, gap=found.path.cost - found.bound, loop=True)

    def _begin(self, places: Sequence[Place]) -> list[Column]:
        """Take up a problem: a school that cannot play a chord borrows for that chord alone."""
        self._places = tuple(self.resolved(place) for place in places)
        columns = [self.column(place)[0] for place in self._places]
        self._refuse_empty(columns)
        return columns

    def _answer(self, path: Path, columns: Sequence[Column], started: float) -> Answer:
        voicings = tuple(
            self._voicing(place, state) for place, state in zip(self._places, path.states, strict=True)
        )
        states = tuple(int(np.count_nonzero(column.cost < FORBIDDEN)) for column in columns)
        wishes = tuple(place.wish for place in self._places)
        return Answer(voicings, path.cost, states, time.perf_counter() - started, wishes=wishes)

    def resolved(self, place: Place) -> Place:
        """The place as it can be played: in another school's shapes where its own school has none
        for this chord and these hands. What the player has fixed is never worked around."""
        if place.wish is None or place.lock is not None or place.wish.hold is not None:
            return place
        if place.wish not in self._lent:
            self._lent[place.wish] = self._lend(place)
        wish = self._lent[place.wish]
        return place if wish is place.wish else replace(place, wish=wish)

    def _lend(self, place: Place) -> Wish:
        assert place.wish is not None
        if self.playable(place):
            return place.wish
        others = (wish for wish in borrowed(place.wish, self._library) if self._helps(wish))
        return next(others, place.wish)

    def _closed(self, columns: Sequence[Column], progress: Progress) -> LoopPath:
        """The best loop through columns for the places of the problem at hand."""
        states = [int(np.count_nonzero(column.cost < FORBIDDEN)) for column in columns]
        cut = states.index(min(states))  # the loop is cut where there is least to choose
        turned = (*self._places[cut:], *self._places[:cut])
        links = [self.link_between(a, b) for a, b in pairwise((*turned, turned[0]))]
        row = [*columns[cut:], *columns[:cut]]
        found = solve_loop(row, links.__getitem__, links[-1], progress=progress)
        back = len(columns) - cut
        path = Path(found.path.states[back:] + found.path.states[:back], found.path.cost)
        return replace(found, path=path)

    def prepare(self, places: Sequence[Place]) -> None:
        """List the shapes of a problem that is to be solved later. Where several transpositions
        of one song are solved, preparing all of them first lets them share their hinge costs."""
        for place in places:
            self.column(self.resolved(place))

    def takes(
        self, places: Sequence[Place], most: int, *, loop: bool = False, progress: Progress = _always
    ) -> list[Answer]:
        """Up to ``most`` answers that differ audibly from each other, the one with least
        effort first; with ``loop`` each of them leads back to its first chord.

        Two takes differ when at least a third of the chords (locked ones apart) sound
        different; two voicings do when their top notes differ or more than one note is
        exchanged. A later take is the cheapest of all rows that share as few voicings with
        the earlier ones as it does (a Lagrangian search over the price of sharing).
        """
        loop = loop and len(places) > 1
        answers = [self.solve_loop(places) if loop else self.solve(places)]
        free = sum(1 for place in places if place.wish is not None and place.lock is None)
        wanted = max(1, -(-free // 3))
        while len(answers) < most:
            if not progress(len(answers) / most):
                raise Cancelled
            other = self._other_take(answers, wanted, loop)
            if other is None:
                break
            answers.append(other)
        return answers

    def _other_take(self, answers: list[Answer], wanted: int, loop: bool) -> Answer | None:
        """The next take, or None when there is none that differs enough."""
        started = time.perf_counter()
        places = self._places
        sames = [
            np.add.reduce([_sounds_like(self.column(place)[1], answer.voicings[k]) for answer in answers])
            for k, place in enumerate(places)
        ]
        for price in (100, 200, 400, 800, 1600, 3200, 6400, 12800):
            columns = [
                Column(np.minimum(self.column(place)[0].cost + price * same, FORBIDDEN).astype(np.int32), k)
                for k, (place, same) in enumerate(zip(places, sames, strict=True))
            ]
            path = self._closed(columns, _always).path if loop else ChainSolver().solve(columns, self._link)
            shared = sum(int(same[state]) for same, state in zip(sames, path.states, strict=True))
            other = self._answer(replace(path, cost=path.cost - price * shared), columns, started)
            distances = [
                sum(1 for a, b in zip(other.voicings, answer.voicings, strict=True) if not sounds_alike(a, b))
                for answer in answers
            ]
            if min(distances) >= wanted:
                return replace(other, states=answers[0].states, optimal=False, loop=loop)
        return None

    def alternatives(self, most: int, progress: Progress = _always) -> list[list[Alternative]]:
        """For every place of the last problem solved, its voicings by what they cost the song,
        the cheapest first; at most ``most`` each. For a locked place they are what unlocking
        would give, and may cost less than what is locked."""
        ranked = []
        for index, sheet in enumerate(self._solver.marginals(progress)):
            place = self._places[index]
            if place.lock is None or place.wish is None:
                ranked.append(self._ranked(place, sheet, most))
            else:
                ranked.append(self._ranked_unlocked(index, most))
        return ranked

    def _ranked_unlocked(self, index: int, most: int) -> list[Alternative]:
        place = replace(self._places[index], lock=None)
        column = self.column(place)[0]
        if not (column.cost < FORBIDDEN).any():
            return []
        into = self.link_between(self._places[index - 1], place) if index else None
        more = index + 1 < len(self._places)
        out = self.link_between(place, self._places[index + 1]) if more else None
        return self._ranked(place, self._solver.in_place(index, column, into, out), most)

    def _ranked(self, place: Place, sheet: np.ndarray, most: int) -> list[Alternative]:
        flat = sheet.ravel()
        order = np.argsort(flat, kind="stable")[:most]
        return [
            Alternative(self._voicing(place, divmod(int(i), sheet.shape[1])), int(flat[i]))
            for i in order
            if flat[i] < FORBIDDEN
        ]

    def _voicing(self, place: Place, state: tuple[int, int]) -> Voicing:
        shapes = self.column(place)[1]
        return Voicing(shapes.left[state[0]], shapes.right[state[1]])

    # --- columns and links, cached by content ---

    def column(self, place: Place) -> tuple[Column, Shapes]:
        """The states of a place with their own costs, and the shapes behind them."""
        key = (place.wish, place.lock)
        found = self._columns.get(key)
        return self._columns.put(key, self._build_column(place, key)) if found is None else found

    def _build_column(self, place: Place, key: Hashable) -> tuple[Column, Shapes]:
        if place.wish is None:
            return Column(np.zeros((1, 1), dtype=np.int32), key), _REST
        if place.lock is not None:
            found = Candidates((place.lock.left,), (place.lock.right,), np.ones((1, 1), dtype=bool))
        else:
            found = _used(candidates(place.wish, self._library))
            for side, shapes in (("left", found.left), ("right", found.right)):
                if place.wish.plays(side):
                    self._tables.meet(place.wish, side, shapes)
        weights = weights_of(place.wish.school)
        return Column(pair_costs(place.wish, found, weights), key), Shapes(found.left, found.right)

    def _link(self, index: int) -> Link:
        return self.link_between(self._places[index], self._places[index + 1])

    def link_between(self, before: Place, after: Place) -> Link:
        key = (before.wish, before.lock, after.wish, after.lock)
        found = self._links.get(key)
        return self._links.put(key, self._build_link(before, after)) if found is None else found

    def _build_link(self, before: Place, after: Place) -> Link:
        start, end = self.column(before)[1], self.column(after)[1]
        if before.wish is None or after.wish is None:
            return Link(
                np.zeros((len(start.left), len(end.left)), dtype=np.int32),
                np.zeros((len(start.right), len(end.right)), dtype=np.int32),
            )
        weights = weights_of(after.wish.school)
        has_bass = before.wish.bass == "self" == after.wish.bass
        costs = self._tables.costs
        return Link(
            costs((before.wish, start.left), (after.wish, end.left), weights, "left", has_bass),
            costs((before.wish, start.right), (after.wish, end.right), weights, "right", False),
        )

    def playable(self, place: Place) -> bool:
        """Whether a place has a legal voicing at all."""
        return bool((self.column(place)[0].cost < FORBIDDEN).any())

    # --- impossible input ---

    def refuse_empty(self, places: Sequence[Place]) -> None:
        """Raise :class:`NoSolution` naming every place that no school can voice."""
        self._begin(places)

    def _refuse_empty(self, columns: Sequence[Column]) -> None:
        problems: dict[Hashable, Problem] = {}
        for place, column in zip(self._places, columns, strict=True):
            if place.wish is None or column.key in problems:
                continue
            if not (column.cost < FORBIDDEN).any():
                problems[column.key] = self._diagnose(place, place.wish)
        if problems:
            raise NoSolution(problems.values())

    def _diagnose(self, place: Place, wish: Wish) -> Problem:
        found = candidates(wish, self._library)
        profile = wish.profile
        if wish.hold is not None and self._helps(replace(wish, hold=None)):
            fixed = [_HOLD_WORDS[name] for name in wish.hold.names]
            what = f"no voicing keeps what is fixed here ({', '.join(fixed)})"
            return Problem(place.where or str(wish.chord), what, self._release(wish, wish.hold))
        if not found.left or not found.right:
            side = "right" if found.left else "left"
            hand = profile.right if found.left else profile.left
            what = (
                f"no {side}-hand shape of the school {wish.school.name} fits a reach of "
                f"{reach_phrase(hand.reach)}"
            )
        else:
            what = f"no pair of hands in the school {wish.school.name} sounds the whole chord"
        return Problem(place.where or str(wish.chord), what, self._smallest_loosening(wish))

    def _release(self, wish: Wish, hold: Hold) -> str:
        """The one thing that has to be let go, where one is enough."""
        for name in hold.names:
            if self._helps(replace(wish, hold=replace(hold, **{name: None}))):
                return f"let go {_HOLD_WORDS[name]}"
        return "let go what is fixed"

    def _smallest_loosening(self, wish: Wish) -> str:
        """The first thing that helps: one hand wider, both wider, more colour, another school."""
        left, right = wish.profile.left.reach, wish.profile.right.reach
        for more in range(1, LARGEST_REACH):
            for plus_left, plus_right in ((0, more), (more, 0), (more, more)):
                new = (min(left + plus_left, LARGEST_REACH), min(right + plus_right, LARGEST_REACH))
                if self._helps(replace(wish, profile=wish.profile.with_reach(*new))):
                    return _reach_remedy(wish.profile, *new)
        for colour in range(wish.colour + 1, MAX_COLOUR + 1):
            if self._helps(replace(wish, colour=colour)):
                return f"allow colour {colour}"
        for school in self._library.schools.values():
            if self._helps(replace(wish, school=school)):
                return f"take the school {school.name} for it"
        return "write a plainer symbol"

    def _helps(self, wish: Wish) -> bool:
        return bool(candidates(wish, self._library).legal.any())


def _reach_remedy(profile: HandProfile, left: int, right: int) -> str:
    wider = []
    if left > profile.left.reach:
        wider.append(f"the left hand {reach_phrase(left)}")
    if right > profile.right.reach:
        wider.append(f"the right hand {reach_phrase(right)}")
    return f"it would fit with {' and '.join(wider)}; if that is a stretch, take a plainer chord"


def sounds_alike(one: Voicing, other: Voicing) -> bool:
    """Whether two voicings have the same top note and at most one note exchanged."""
    if not one.keys or not other.keys:
        return one.keys == other.keys
    different = len(set(one.keys) ^ set(other.keys))
    return one.keys[-1] == other.keys[-1] and different <= 2


def _sounds_like(shapes: Shapes, voicing: Voicing) -> Costs:
    """(L, R) int32: 1 where a pair sounds like ``voicing``, as :func:`sounds_alike`."""
    if not voicing.keys or not all(shape.keys for shape in (*shapes.left, *shapes.right)):
        return np.full((len(shapes.left), len(shapes.right)), not voicing.keys, dtype=np.int32)
    sounding = set(voicing.keys)
    shared, count = (
        [np.array([measure(shape.keys) for shape in hand]) for hand in (shapes.left, shapes.right)]
        for measure in (lambda keys: len(sounding.intersection(keys)), len)
    )
    different = len(sounding) + np.add.outer(*count) - 2 * np.add.outer(*shared)
    tops = np.array([shape.keys[-1] for shape in shapes.right])
    alike = (different <= 2) & (tops == voicing.keys[-1])[None, :]
    return np.asarray(alike, dtype=np.int32)


def _used(found: Candidates) -> Candidates:
    """Only the shapes that are part of some legal pair."""
    rows = np.flatnonzero(found.legal.any(axis=1))
    columns = np.flatnonzero(found.legal.any(axis=0))
    return Candidates(
        tuple(found.left[i] for i in rows),
        tuple(found.right[i] for i in columns),
        found.legal[np.ix_(rows, columns)],
    )
