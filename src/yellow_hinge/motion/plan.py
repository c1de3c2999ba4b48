"""From wishes to the smoothest row of voicings, and why it is that one.

A :class:`Planner` keeps its candidate lists, cost arrays and tables between calls, so
that an edit solves only what it touches. It is not for two threads at once.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from yellow_hinge.errors import NoSolution, Problem
from yellow_hinge.hands.profile import LARGEST_REACH, HandProfile, reach_words
from yellow_hinge.lattice.chain import ChainSolver, Column, Link, Path
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.motion.terms import hinge_costs, pair_costs
from yellow_hinge.motion.weights import weights_of
from yellow_hinge.theory.tension import MAX_COLOUR
from yellow_hinge.voicing.candidates import Candidates, Wish, candidates
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape, Voicing

Progress = Callable[[float], bool]
_EMPTY = HandShape()
_REST = Candidates((_EMPTY,), (_EMPTY,), np.ones((1, 1), dtype=bool))


@dataclass(frozen=True)
class Place:
    """One chord of a problem. ``wish`` None is "no chord"; ``lock`` fixes the voicing;
    ``where`` names the place in messages ("bar 3, Dm7")."""

    wish: Wish | None
    lock: Voicing | None = None
    where: str = ""


@dataclass(frozen=True)
class Answer:
    """The smoothest row. ``cost`` in hundredths of a semitone; ``states`` legal voicings per
    chord; ``seconds`` spent searching."""

    voicings: tuple[Voicing, ...]
    cost: int
    states: tuple[int, ...]
    seconds: float
    optimal: bool = True


@dataclass(frozen=True)
class Alternative:
    """Another voicing for one place; ``extra`` is what it costs the whole song, in hundredths
    of a semitone, with all other places at their best again."""

    voicing: Voicing
    extra: int


def _always(_: float) -> bool:
    return True


class Planner:
    """Solves problems over one library of recipes."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._columns: dict[Hashable, tuple[Column, Candidates]] = {}
        self._links: dict[Hashable, Link] = {}
        self._solver = ChainSolver()
        self._places: tuple[Place, ...] = ()

    def solve(self, places: Sequence[Place], progress: Progress = _always) -> Answer:
        """The exact optimum of the stated cost.

        Raises :class:`NoSolution` naming every chord without a legal voicing and the smallest
        loosening that helps, and ``lattice.chain.Cancelled`` when ``progress`` says False.
        """
        started = time.perf_counter()
        self._places = tuple(places)
        columns = [self._column(place)[0] for place in places]
        self._refuse_empty(columns)
        path: Path = self._solver.solve(columns, self._link, progress)
        voicings = tuple(
            self._voicing(place, state) for place, state in zip(places, path.states, strict=True)
        )
        states = tuple(int(np.count_nonzero(column.cost < FORBIDDEN)) for column in columns)
        return Answer(voicings, path.cost, states, time.perf_counter() - started)

    def alternatives(self, most: int, progress: Progress = _always) -> list[list[Alternative]]:
        """For every place of the last problem solved, its voicings by what they cost the song,
        the chosen one first; at most ``most`` each."""
        return [
            self._ranked(place, sheet, most)
            for place, sheet in zip(self._places, self._solver.marginals(progress), strict=True)
        ]

    def _ranked(self, place: Place, sheet: np.ndarray, most: int) -> list[Alternative]:
        flat = sheet.ravel()
        order = np.argsort(flat, kind="stable")[:most]
        return [
            Alternative(self._voicing(place, divmod(int(i), sheet.shape[1])), int(flat[i]))
            for i in order
            if flat[i] < FORBIDDEN
        ]

    def _voicing(self, place: Place, state: tuple[int, int]) -> Voicing:
        shapes = self._column(place)[1]
        return Voicing(shapes.left[state[0]], shapes.right[state[1]])

    # --- columns and links, cached by content ---

    def _column(self, place: Place) -> tuple[Column, Candidates]:
        key = (place.wish, place.lock)
        if key not in self._columns:
            self._columns[key] = self._build_column(place, key)
        return self._columns[key]

    def _build_column(self, place: Place, key: Hashable) -> tuple[Column, Candidates]:
        if place.wish is None:
            return Column(np.zeros((1, 1), dtype=np.int32), key), _REST
        if place.lock is not None:
            shapes = Candidates((place.lock.left,), (place.lock.right,), np.ones((1, 1), dtype=bool))
        else:
            shapes = _used(candidates(place.wish, self._library))
        weights = weights_of(place.wish.school)
        return Column(pair_costs(place.wish, shapes, weights), key), shapes

    def _link(self, index: int) -> Link:
        before, after = self._places[index], self._places[index + 1]
        key = (before.wish, before.lock, after.wish, after.lock)
        if key not in self._links:
            self._links[key] = self._build_link(before, after)
        return self._links[key]

    def _build_link(self, before: Place, after: Place) -> Link:
        start, end = self._column(before)[1], self._column(after)[1]
        if before.wish is None or after.wish is None:
            return Link(
                np.zeros((len(start.left), len(end.left)), dtype=np.int32),
                np.zeros((len(start.right), len(end.right)), dtype=np.int32),
            )
        weights = weights_of(after.wish.school)
        has_bass = before.wish.bass == "self" == after.wish.bass
        return Link(
            hinge_costs(start.left, end.left, weights, "left", has_bass),
            hinge_costs(start.right, end.right, weights, "right", False),
        )

    # --- impossible input ---

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
        if not found.left or not found.right:
            side = "right" if found.left else "left"
            hand = profile.right if found.left else profile.left
            what = (
                f"no {side}-hand shape of the school {wish.school.name} fits a reach of "
                f"a {reach_words(hand.reach)}"
            )
        else:
            what = f"no pair of hands in the school {wish.school.name} sounds the whole chord"
        return Problem(place.where or str(wish.chord), what, self._smallest_loosening(wish))

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
        wider.append(f"the left hand a {reach_words(left)}")
    if right > profile.right.reach:
        wider.append(f"the right hand a {reach_words(right)}")
    return f"it would fit with {' and '.join(wider)}; if that is a stretch, take a plainer chord"


def _used(found: Candidates) -> Candidates:
    """Only the shapes that are part of some legal pair."""
    rows = np.flatnonzero(found.legal.any(axis=1))
    columns = np.flatnonzero(found.legal.any(axis=0))
    return Candidates(
        tuple(found.left[i] for i in rows),
        tuple(found.right[i] for i in columns),
        found.legal[np.ix_(rows, columns)],
    )
