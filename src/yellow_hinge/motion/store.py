"""What planners keep between solves, and share: columns, steps, hinge tables, tables of the search.

Everything in it goes by its content, so that any song, take or key may use it; it is bounded in
bytes, what was used longest ago goes first, and it may be used from several threads.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from threading import Lock, RLock
from weakref import WeakValueDictionary

import numpy as np
from msgspec.structs import replace

from yellow_hinge.lattice.cache import ByteCache
from yellow_hinge.lattice.columns import Column, Link
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.lattice.tree import TableCache
from yellow_hinge.motion.distance import Change
from yellow_hinge.motion.line import step_between
from yellow_hinge.motion.links import LinkTables
from yellow_hinge.motion.outer import outer_turns
from yellow_hinge.motion.place import Place
from yellow_hinge.motion.terms import line_costs, pair_costs, same_tops
from yellow_hinge.motion.weights import weights_of
from yellow_hinge.stopping import ask
from yellow_hinge.voicing.borrow import borrowed
from yellow_hinge.voicing.candidates import Candidates, Shapes, candidates
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape
from yellow_hinge.voicing.wish import NO_LINE, Wish

#: In bytes: columns are dear to make, steps are read off the hinge tables again.
_COLUMN_BYTES, _LINK_BYTES = 256_000_000, 144_000_000
#: About what one shape takes.
_SHAPE_BYTES = 150
_MOST_LENT, _MOST_KNOWN = 20_000, 40_000
_EMPTY = HandShape()
_REST = Shapes((_EMPTY,), (_EMPTY,))
_Made = tuple[Column, Shapes]


def _column_bytes(made: _Made) -> int:
    column, shapes = made
    return column.nbytes + _SHAPE_BYTES * (len(shapes.left) + len(shapes.right))


class Store:
    """Columns and steps over one library of recipes."""

    def __init__(self, library: Library) -> None:
        self.library = library
        self.tables = TableCache()
        self._columns: ByteCache[_Made] = ByteCache(_COLUMN_BYTES, _column_bytes)
        self._links: ByteCache[Link] = ByteCache(_LINK_BYTES, lambda link: link.nbytes)
        self._hinges = LinkTables()
        self._lent: dict[Wish, Wish] = {}
        self._first: dict[Hashable, Wish] = {}
        self._lock = RLock()

    @property
    def bytes(self) -> int:
        """What is kept now."""
        return self._columns.bytes + self._links.bytes + self._hinges.bytes + self.tables.bytes

    def rest(self) -> None:
        """Keep little, what was used last: another song comes, and has other chords."""
        with self._lock:
            self._columns.rest()
            self._links.rest()
            self._hinges.rest()
            self._lent.clear()
            self._first.clear()
        self.tables.rest()

    def column(self, place: Place) -> _Made:
        """The states of a place with their own costs, and the shapes behind them."""
        place = self._alike(place)
        key = (place.wish, place.lock)
        with self._lock:
            columns = self._columns.get(key)
            if columns is None:  # the column itself has a short name: it is hashed often
                columns = self._columns.put(key, self._build_column(place, self.tables.name(key)))
            return columns

    def _alike(self, place: Place) -> Place:
        """The first place that had the same voicings at the same prices."""
        if place.wish is None:
            return place
        wish = self._first.get(place.wish)
        if wish is None:
            name = (replace(place.wish, key=None, to_minor=None), place.wish.sense)
            with self._lock:
                if len(self._first) >= _MOST_KNOWN:
                    self._first.clear()
                wish = self._first.setdefault(name, place.wish)
                self._first[place.wish] = wish
        return place if wish is place.wish else replace(place, wish=wish)

    def _build_column(self, place: Place, key: Hashable) -> _Made:
        if place.wish is None:
            return Column(np.zeros((1, 1), dtype=np.int32), key), _REST
        ask()
        weights = weights_of(place.wish.school)
        if place.wish.line != NO_LINE:
            column, own = self.column(placeless(place))
            return column.with_more(line_costs(place.wish, own.left, own.right, weights), key), own
        if place.lock is not None:
            used = Candidates((place.lock.left,), (place.lock.right,), np.ones((1, 1), dtype=bool))
        else:
            used = _used(candidates(place.wish, self.library))
            for side, shapes in (("left", used.left), ("right", used.right)):
                if place.wish.plays(side):
                    self._hinges.meet(place.wish, side, shapes)
        ask()
        return Column(pair_costs(place.wish, used, weights), key), Shapes(used.left, used.right)

    def seat(self, place: Place) -> tuple[Place, tuple[int, int]]:
        """A place and a state of its column that stand for a place with a lock: those of the place without
        it, where they are kept and have the voicing; else its own, of one state."""
        if place.lock is None:
            return place, (0, 0)
        with self._lock:
            columns = self._columns.get((self._alike(place).wish, None))
        if columns is not None:
            left, right = columns[1].left, columns[1].right
            if place.lock.left in left and place.lock.right in right:
                state = left.index(place.lock.left), right.index(place.lock.right)
                if columns[0].cost[state] < FORBIDDEN:
                    return replace(place, lock=None), state
        return place, (0, 0)

    def link(self, before: Place, after: Place) -> Link:
        """The step from one place to another."""
        fresh = after.wish is not None and after.wish.line.fresh
        before, after = placeless(self._alike(before)), placeless(self._alike(after))
        key = (before.wish, before.lock, after.wish, after.lock, fresh)
        with self._lock:
            link = self._links.get(key)
            if link is None:
                link = self._build_link(before, after)
                if fresh and before.wish is not None:
                    link = self._freshly(before, after, link)
                self._links.put(key, link)
            return link

    def _freshly(self, before: Place, after: Place, link: Link) -> Link:
        """A step to where a new top note is due."""
        assert before.wish is not None and after.wish is not None
        price = weights_of(after.wish.school).held_long
        if not price or step_between(before.wish, after.wish).change != Change.ROOT:
            return link
        start, end = (self.column(place)[1].right for place in (before, after))
        return link.with_right(np.int32(price) * same_tops(start, end))

    def _build_link(self, before: Place, after: Place) -> Link:
        start, end = self.column(before)[1], self.column(after)[1]
        if before.wish is None or after.wish is None:
            return Link(
                np.zeros((len(start.left), len(end.left)), dtype=np.int32),
                np.zeros((len(start.right), len(end.right)), dtype=np.int32),
            )
        ask()
        weights = weights_of(after.wish.school)
        costs = self._hinges.costs
        return Link(
            costs((before.wish, start.left), (after.wish, end.left), weights, "left"),
            costs((before.wish, start.right), (after.wish, end.right), weights, "right"),
            outer_turns((before.wish, start), (after.wish, end)),
        )

    def forget_steps(self) -> None:
        """Let go of the steps and of what searches have left: nothing like them comes again."""
        with self._lock:
            self._links.clear()
            self.tables.clear()

    def playable(self, place: Place) -> bool:
        """Whether a place has a legal voicing at all."""
        return bool((self.column(place)[0].cost < FORBIDDEN).any())

    def lent(self, place: Place, helps: Callable[[Wish], bool]) -> Wish:
        """The wish of a place, in another school's shapes where its own has none for this chord and
        these hands."""
        assert place.wish is not None
        with self._lock:
            lent = self._lent.get(place.wish)
            if lent is None:
                if self.playable(place):
                    lent = place.wish
                else:
                    others = (wish for wish in borrowed(place.wish, self.library) if helps(wish))
                    lent = next(others, place.wish)
                if len(self._lent) >= _MOST_LENT:
                    self._lent.clear()
                self._lent[place.wish] = lent
            return lent


_stores: WeakValueDictionary[int, Store] = WeakValueDictionary()
_asked = Lock()


def store_of(library: Library) -> Store:
    """The one store over a library, for everybody who works with it; it goes with the last of them."""
    with _asked:
        store = _stores.get(id(library))  # a store keeps its library: the id is its own
        if store is None:
            store = _stores[id(library)] = Store(library)
        return store


def placeless(place: Place) -> Place:
    """The place wherever it stands in its section."""
    if place.wish is None or place.wish.line == NO_LINE:
        return place
    return replace(place, wish=place.wish.placeless)


def _used(candidates: Candidates) -> Candidates:
    """Only the shapes that are part of some legal pair."""
    rows = np.flatnonzero(candidates.legal.any(axis=1))
    columns = np.flatnonzero(candidates.legal.any(axis=0))
    return Candidates(
        tuple(candidates.left[i] for i in rows),
        tuple(candidates.right[i] for i in columns),
        candidates.legal[np.ix_(rows, columns)],
    )
