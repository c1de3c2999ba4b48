"""From wishes to the row of voicings with the least effort.

What a :class:`Planner` learns about chords and steps is kept in a :class:`motion.store.Store`,
which planners may share; so an edit solves only what it touches. One planner is not for two
threads at once.
"""

from __future__ import annotations

import time
from collections.abc import Hashable, Sequence

import numpy as np
from msgspec.structs import replace

from yellow_hinge.errors import Cancelled, NoSolution, Problem
from yellow_hinge.lattice.columns import Column
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.lattice.rounds import Rounds
from yellow_hinge.lattice.search import RoundsPath, solve_rounds, usual_trees
from yellow_hinge.lattice.tree import TableCache, TreeSolver
from yellow_hinge.motion.alike import sounds_alike, sounds_like
from yellow_hinge.motion.pairing import warm
from yellow_hinge.motion.place import Alternative, Answer, Place, Progression, Ranking
from yellow_hinge.motion.refusal import Refusal
from yellow_hinge.motion.store import Store, store_of
from yellow_hinge.stopping import Progress, always, ask
from yellow_hinge.voicing.candidates import Shapes
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish

#: Places from which what is compiled saves more than loading it takes.
_LONG = 250
#: Prices of sharing a voicing with an earlier take that are tried in turn.
_PRICES = (100, 200, 400, 800, 1600, 3200, 6400, 12800)


class Planner:
    """Solves problems over one library of recipes."""

    def __init__(self, library: Library, store: Store | None = None, patience: float = 1.0) -> None:
        """``store``: that of the library where none is given. ``patience``: of the usual length of searches
        that cannot be finished."""
        self._store = store or store_of(library)
        self._patience = patience
        self._refusal = Refusal(library)
        self._solver = TreeSolver(self._store.tables)
        self._problem = Progression((), ())
        self._rounds: Rounds | None = None
        self._found: RoundsPath | None = None
        self.ranks_exact = True

    def rest(self) -> None:
        """Keep little of what was worked out: another song comes."""
        self._store.rest()

    def solve(self, problem: Progression, progress: Progress = always) -> Answer:
        """The exact optimum of the stated cost; where rounds or a loop lead back and the search for
        it grows too long, the best row found, with the gap that is open.

        Raises :class:`NoSolution` naming every chord without a legal voicing and the smallest
        loosening that helps, and :class:`Cancelled` when ``progress`` says False.
        """
        started = time.perf_counter()
        if len(problem.places) > _LONG:
            warm()
        self._begin(problem)
        self._rounds = self._rounds_of(self._problem, self._solver)
        most = usual_trees(len(self._rounds.columns), self._patience)
        self._found = solve_rounds(self._rounds, most, progress)
        return self._answer(self._found, started)

    def price(self, problem: Progression) -> int:
        """What a row costs that is fixed, every place locked, in hundredths of a half step: as :meth:`solve`,
        without a search. Where the same places without their locks are in the store, it is read off there.
        Raises :class:`NoSolution` naming every chord that cannot be played so."""
        seats = [self._store.seat(place) for place in problem.places]
        own = [int(self._store.column(place)[0].cost[state]) for place, state in seats]
        if max(own, default=0) >= FORBIDDEN:
            self.refuse_empty(problem)
        total = sum(cost * count for cost, count in zip(own, problem.counts, strict=True))
        for (u, v), count in problem.times.items():
            (before, start), (after, end) = seats[u], seats[v]
            total += count * self._store.link(before, after).at(start, end)
        return total

    def _begin(self, problem: Progression) -> None:
        """Take up a problem: a school that cannot play a chord borrows for that chord alone."""
        self._problem = replace(problem, places=tuple(self.resolved(place) for place in problem.places))
        self._refuse_empty()

    def _rounds_of(
        self, problem: Progression, solver: TreeSolver, columns: Sequence[Column] | None = None
    ) -> Rounds:
        if columns is None:
            columns = [
                _played(self._store.column(place)[0], count)
                for place, count in zip(problem.places, problem.counts, strict=True)
            ]
        places = problem.places
        return Rounds(columns, problem.times, lambda u, v: self._store.link(places[u], places[v]), solver)

    def _answer(self, path: RoundsPath, started: float) -> Answer:
        ask()
        places = self._problem.places
        voicings = tuple(
            self._voicing(place, state) for place, state in zip(places, path.path.states, strict=True)
        )
        states = tuple(int(np.count_nonzero(self.column(place)[0].cost < FORBIDDEN)) for place in places)
        return Answer(
            voicings, path.path.cost, states, seconds=time.perf_counter() - started, optimal=path.exact,
            gap=max(0, path.path.cost - path.bound), wishes=tuple(place.wish for place in places),
            loop=self._problem.loop and len(self._problem.plays) > 1, plays=self._problem.plays,
        )  # fmt: skip

    def resolved(self, place: Place) -> Place:
        """The place as it can be played: in another school's shapes where its own school has none
        for this chord and these hands, and without the rules that cannot be obeyed. What the player has
        fixed is never worked around."""
        if place.wish is None or place.lock is not None:
            return place
        if place.wish.rules:
            place = self._obeying(place, place.wish)
        assert place.wish is not None
        if place.wish.hold is not None:
            return place
        wish = self._store.lent(place, self._refusal.playable)
        return place if wish is place.wish else replace(place, wish=wish)

    def _obeying(self, place: Place, wish: Wish) -> Place:
        """The place with those of its rules that can be obeyed together, the strongest first."""
        if self.playable(place):
            return place
        rests = any(rule.kind == "rest" for rule in wish.rules)
        kept = replace(wish, rules=(), hands="both" if rests else wish.hands)
        for rule in reversed(wish.rules):
            hands = wish.hands if rule.kind == "rest" else kept.hands
            tried = replace(kept, rules=(rule, *kept.rules), hands=hands)
            if self.playable(replace(place, wish=tried)):
                kept = tried
        return replace(place, wish=kept)

    def column(self, place: Place) -> tuple[Column, Shapes]:
        """The states of a place with their own costs, and the shapes behind them."""
        return self._store.column(place)

    def playable(self, place: Place) -> bool:
        """Whether a place has a legal voicing at all."""
        return self._store.playable(place)

    # --- other takes -----------------------------------------------------------------------

    def takes(self, problem: Progression, most: int, progress: Progress = always) -> list[Answer]:
        """Up to ``most`` answers that differ audibly from each other, the one with least
        effort first.

        Two takes differ when at least a third of the chords (locked ones apart) sound different, in their
        top note, texture or colour (:mod:`motion.alike`). A later take is the cheapest of all rows that
        share as few voicings with the earlier ones as it does (a Lagrangian search over the price of
        sharing).
        """
        answers = [self.solve(problem, progress)]
        while len(answers) < most:
            if not progress(len(answers) / most):
                raise Cancelled
            answer = self._other_take(answers)
            if answer is None:
                break
            answers.append(answer)
        return answers

    def _other_take(self, answers: Sequence[Answer]) -> Answer | None:
        """The next take, or None when there is none that differs enough."""
        started = time.perf_counter()
        places, counts = self._problem.places, self._problem.counts
        free = sum(place.wish is not None and place.lock is None for place in places)
        wanted = max(1, -(-free // 3))
        rows = [[answer.voicings[k] for answer in answers] for k in range(len(places))]
        sames = [self._likeness(place, row) for place, row in zip(places, rows, strict=True)]
        solver = TreeSolver(TableCache())  # these columns never come again
        for price in _PRICES:
            columns = [
                _dearer(self.column(place)[0], same * price, count, (k, price))
                for k, (place, same, count) in enumerate(zip(places, sames, counts, strict=True))
            ]
            path = solve_rounds(self._rounds_of(self._problem, solver, columns))
            shared = sum(
                int(same[state]) * count
                for same, state, count in zip(sames, path.path.states, counts, strict=True)
            )
            cost = path.path.cost - price * shared
            other = self._answer(replace(path, path=replace(path.path, cost=cost)), started)
            if min(_apart(other, answer) for answer in answers) >= wanted:
                return replace(other, states=answers[0].states, optimal=False)
        return None

    def _likeness(self, place: Place, voicings: Sequence[Voicing]) -> np.ndarray:
        """(L, R): how many of these voicings each state sounds like."""
        ask()
        shapes = self.column(place)[1]
        return np.asarray(np.add.reduce([sounds_like(shapes, voicing) for voicing in voicings]))

    # --- other voicings --------------------------------------------------------------------

    def alternatives(self, most: int, progress: Progress = always) -> list[list[Alternative]]:
        """For every place of the last problem solved, its voicings by what they cost the song,
        the cheapest first; at most ``most`` each. For a locked place they are what unlocking
        would give, and may cost less than what is locked. Afterwards ``ranks_exact`` says whether a
        voicing may cost less than is said, where rounds lead back in many ways."""
        assert self._rounds is not None and self._found is not None
        sheets, self.ranks_exact = self._rounds.marginals(self._found.path, progress)
        ranked = []
        for index, place in enumerate(self._problem.places):
            if place.lock is None or place.wish is None:
                ranked.append(self._ranked(place, sheets[index], most))
            else:
                ranked.append(self._ranked_unlocked(index, most))
                self.ranks_exact = self.ranks_exact and not self._rounds.pivots
        return ranked

    def every(self, index: int) -> Ranking:
        """All voicings of one place of the last problem solved, by what they cost the song, whether the
        place is locked or not."""
        assert self._found is not None
        places = list(self._problem.places)
        place = places[index] = replace(places[index], lock=None)
        shapes = self.column(place)[1]
        if place.wish is None or not self.playable(place):
            return Ranking((), (), np.empty((0, 0), dtype=np.int32))
        rounds = self._rounds_of(replace(self._problem, places=tuple(places)), self._solver)
        return Ranking(shapes.left, shapes.right, rounds.marginal(index, self._found.path))

    def _ranked_unlocked(self, index: int, most: int) -> list[Alternative]:
        assert self._found is not None
        places = list(self._problem.places)
        places[index] = replace(places[index], lock=None)
        if not self.playable(places[index]):
            return []
        rounds = self._rounds_of(replace(self._problem, places=tuple(places)), self._solver)
        return self._ranked(places[index], rounds.marginal(index, self._found.path), most)

    def _ranked(self, place: Place, sheet: np.ndarray, most: int) -> list[Alternative]:
        ask()
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

    # --- impossible input ------------------------------------------------------------------

    def refuse_empty(self, problem: Progression) -> None:
        """Raise :class:`NoSolution` naming every place that no school can voice."""
        self._begin(problem)

    def _refuse_empty(self) -> None:
        problems: dict[Hashable, Problem] = {}
        for place in self._problem.places:
            key = (place.wish, place.lock)
            if place.wish is not None and key not in problems and not self.playable(place):
                problems[key] = self._refusal.problem(place.wish, place.where)
        if problems:
            raise NoSolution(problems.values())


def _played(column: Column, count: int) -> Column:
    """A column that is played so many times."""
    return column if count == 1 else _dearer(column, 0, count, count)


def _dearer(column: Column, more: np.ndarray | int, count: int, name: Hashable) -> Column:
    ask()
    cost = column.cost
    dear = (cost.astype(np.int64) + more) * count
    total = np.where(cost >= FORBIDDEN, FORBIDDEN, np.minimum(dear, FORBIDDEN))
    return Column(total.astype(np.int32), (column.key, "dearer", name))


def _apart(answer: Answer, other: Answer) -> int:
    return sum(not sounds_alike(a, b) for a, b in zip(answer.voicings, other.voicings, strict=True))
