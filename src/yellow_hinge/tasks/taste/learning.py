"""A taste out of rows of grips that a player wrote down: each row against the row that the search would have
chosen, again with the prices that it led to, until no row has a new rival or the rounds are over."""

from __future__ import annotations

from collections import Counter, defaultdict, deque
from collections.abc import Iterable, Mapping, Sequence
from fractions import Fraction
from typing import Literal, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.motion.counts import change_counts, paid, price_of, voicing_counts
from yellow_hinge.motion.hinge import SIDES
from yellow_hinge.motion.pairing import warm
from yellow_hinge.motion.place import Place
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.priced import ordered
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.grips.page import grip_text
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.taste.prices import Pair, Vector, nearest_shares, vectors
from yellow_hinge.tasks.taste.taste import Chosen, Sure, Taste, tasted
from yellow_hinge.voicing.recipes import Library, School
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish

_Value = TypeVar("_Value")
#: What stands where a player's grip is one that we never play: the grip all the same, or what costs least
#: between the others.
Way = Literal["written", "playable"]
WAYS: tuple[Way, ...] = ("written", "playable")
#: How often the search is asked anew, with the prices that it led to.
_MOST_ROUNDS = 3
#: How boldly prices are moved, from hardly to far; leaving one row out decides.
BOLDNESS = (0.03, 0.1, 0.3, 1.0, 3.0)
_WHILE_LEARNING = 0.3


class OwnRow(Struct, frozen=True):
    """A song, and the grips that a player has for its slots (None: none of their own)."""

    name: str
    song: Song
    grips: tuple[Voicing | None, ...]


class _Own(Struct, frozen=True):
    """A player's row by slot, with what was wished of each chord."""

    wishes: Sequence[Wish | None]
    voicings: Sequence[Voicing]


def as_candidate(planner: Planner, place: Place, grip: Voicing) -> Voicing | None:
    """The grip among the voicings that a chord may have; None where it is none of them."""
    column, shapes = planner.column(place)
    for u, left in enumerate(shapes.left):
        for v, right in enumerate(shapes.right):
            same = left.keys == grip.left.keys and right.keys == grip.right.keys
            if same and column.cost[u, v] < FORBIDDEN:
                return Voicing(left, right)
    return None


class _Rows:
    """The rows of a player with all rivals that were found so far."""

    def __init__(self, rows: Sequence[OwnRow], library: Library) -> None:
        self.rows, self._library = rows, library
        self.pairs: dict[Way, list[list[Pair]]] = {way: [[] for _ in rows] for way in WAYS}
        self._known: list[set[tuple[Voicing, ...]]] = [set() for _ in rows]
        self._own: list[_Own | None] = [None for _ in rows]
        self._planners: deque[tuple[Taste, Planner, Library]] = deque(maxlen=len(WAYS))

    def solved(self, place: int, taste: Taste) -> tuple[Voicing, ...]:
        """The row of least effort for somebody with a taste, by slot."""
        planner, library = self._seen_by(taste)
        return planner.solve(progression(self.rows[place].song, library)).row

    def _seen_by(self, taste: Taste) -> tuple[Planner, Library]:
        """One planner for all rows at the same prices: songs share most of their steps."""
        for known, planner, library in self._planners:
            if known == taste:
                return planner, library
        library = tasted(self._library, taste)
        self._planners.append((taste, Planner(library), library))
        return self._planners[-1][1:]

    def meet(self, place: int, taste: Taste) -> bool:
        """Find the rival of a row at some prices; whether it is a new one."""
        rival = self.solved(place, taste)
        if rival in self._known[place]:
            return False
        self._known[place].add(rival)
        own = self._own[place]
        if own is None:
            own = self._own[place] = self._can_be(place)
        row = self.rows[place]
        written = [grip or other for grip, other in zip(row.grips, rival, strict=True)]
        loop = row.song.arrangement.loop
        self.pairs["written"][place] += against(own.wishes, written, rival, row.name, loop)
        self.pairs["playable"][place] += against(own.wishes, own.voicings, rival, row.name, loop)
        return True

    @property
    def ways(self) -> tuple[Way, ...]:
        """Both where any grip is one that we never play, once every row was met."""
        same = all(
            grip is None or (grip.left.keys, grip.right.keys) == (one.left.keys, one.right.keys)
            for row, own in zip(self.rows, self._own, strict=True)
            for grip, one in zip(row.grips, () if own is None else own.voicings, strict=True)
        )
        return WAYS[1:] if same else WAYS

    def _can_be(self, place: int) -> _Own:
        """The player's row as far as the program may play it at all: what is banned is not learnt; in its
        place stands what costs least between the others."""
        problem, planner = progression(self.rows[place].song, self._library), Planner(self._library)
        places = [planner.resolved(one) for one in problem.places]
        first = {column: slot for slot, column in reversed(list(enumerate(problem.plays)))}
        locked = []
        for column, one in enumerate(places):
            grip = self.rows[place].grips[first[column]]
            found = None if grip is None or one.wish is None else as_candidate(planner, one, grip)
            locked.append(one if found is None else replace(one, lock=found))
        row = planner.solve(replace(problem, places=tuple(locked))).row
        return _Own([places[column].wish for column in problem.plays], row)

    def agreement(self, place: int, taste: Taste) -> int:
        """How many hands of a row are exactly the player's."""
        return sum(
            grip.hand(side).keys == found.hand(side).keys
            for grip, found in zip(self.rows[place].grips, self.solved(place, taste), strict=True)
            if grip is not None
            for side in SIDES
        )

    def taste(self, left_out: int | None, boldness: float, way: Way) -> Taste:
        """What all rows but one say."""
        places = [place for place in range(len(self.rows)) if place != left_out]
        shapes = Counter(
            f"{side} {grip.hand(side).recipe}"
            for place in places for grip in self.rows[place].grips if grip is not None for side in SIDES
        )  # fmt: skip
        pairs = [pair for place in places for pair in self.pairs[way][place]]
        shares = nearest_shares(self.vectors(pairs, shapes), boldness)
        school = self.rows[0].song.arrangement.school
        chosen = tuple(Chosen(f"row/{number}", school, pair) for number, pair in enumerate(pairs))
        return Taste(shares, shapes, choices=speaking(shares, pairs), chosen=chosen)

    def vectors(self, pairs: Sequence[Pair], shapes: Mapping[str, int]) -> Vector:
        """Pairs as numbers, with the shapes in the order that was counted."""
        school = self._library.school(self.rows[0].song.arrangement.school)
        bass = self.rows[0].song.arrangement.bass or school.bass
        return as_numbers(pairs, school, bass, shapes)


def speaking(shares: Iterable[str], pairs: Sequence[Pair]) -> dict[str, int]:
    """How many pairs speak of each price."""
    return {name: sum(name in pair.more for pair in pairs) for name in shares}


def as_numbers(pairs: Sequence[Pair], school: School, bass: str, shapes: Mapping[str, int]) -> Vector:
    """(pairs, prices): pairs of a school, with its shapes in the order that was counted."""
    lists = {"left": school.left(bass), "right": school.right}
    places = {
        f"{side} {recipe}": place
        for side, recipes in lists.items()
        for place, recipe in enumerate(ordered(recipes, side, shapes))
    }
    return vectors(pairs, places, price_of(school, "taste") / 100)


def against(
    wishes: Sequence[Wish | None], chosen: Sequence[Voicing], rival: Sequence[Voicing], name: str, loop: bool
) -> list[Pair]:
    """A row that was chosen against its rival: as a whole, and chord by chord with everything else as the
    player has it."""
    different = [place for place, (own, other) in enumerate(zip(chosen, rival, strict=True)) if own != other]
    together = name, f"{len(different)} chords together"
    pairs = [pair_of(wishes, chosen, rival, different, loop=loop, where=together)]
    for place in different:
        row = [*chosen[:place], rival[place], *chosen[place + 1 :]]
        where = name, f"chord {place + 1}"
        pairs.append(pair_of(wishes, chosen, row, [place], loop=loop, where=where))
    return [pair for pair in pairs if pair.more]


def pair_of(
    wishes: Sequence[Wish | None], chosen: Sequence[Voicing], other: Sequence[Voicing],
    places: Sequence[int], *, loop: bool, where: tuple[str, str] = ("", ""),
) -> Pair:  # fmt: skip
    """By how much more the other row pays; only the places that are named differ. ``where``: the song, and in
    words the place in it."""
    more: defaultdict[str, Fraction] = defaultdict(Fraction)
    shapes: Counter[str] = Counter()
    changes = {change for place in places for change in (place - 1, place)}
    if not loop:
        changes -= {-1, len(chosen) - 1}
    elif -1 in changes:
        changes = changes - {-1} | {len(chosen) - 1}
    for row, sign in ((other, 1), (chosen, -1)):
        for place in places:
            wish = wishes[place]
            if wish is not None and row[place].keys:
                _add(more, paid(voicing_counts(wish, row[place]), wish.school), sign)
                for side in SIDES:
                    shapes[f"{side} {row[place].hand(side).recipe}"] += sign
        for place in sorted(changes):
            then = (place + 1) % len(row)
            before, after = wishes[place], wishes[then]
            if before is not None and after is not None:
                counts = change_counts(before, after, row[place], row[then])
                _add(more, paid(counts, after.school), sign)
    grips = {(wishes[place], chosen[place], other[place]) for place in places}
    wish, took, instead = next(iter(grips)) if len(grips) == 1 else (None, Voicing(), Voicing())
    return Pair(
        {name: float(value) / 100 for name, value in more.items() if value}, dict(shapes), *where,
        *("" if wish is None else grip_text(wish.chord, grip) for grip in (took, instead)),
    )  # fmt: skip


def _add(more: defaultdict[str, Fraction], costs: Mapping[str, Fraction], sign: int) -> None:
    for name, cost in costs.items():
        more[name] += sign * cost


def learn(rows: Sequence[OwnRow], library: Library, progress: Progress = always) -> Taste:
    """The taste of whoever wrote these rows; none where rows that were left out are not met better with it.
    How sure it is is counted in hands, each row's by what was learnt from the others. Raises
    :class:`NoSolution` for a song that cannot be played, and ``Cancelled`` where ``progress`` says False."""
    warm()
    known, places = _Rows(rows, library), range(len(rows))
    steps = _Steps(progress, len(rows) * (2 * _MOST_ROUNDS + 2 + len(WAYS) * len(BOLDNESS)))
    before = sum(steps.done(known.agreement(place, Taste())) for place in places)
    for place in places:
        steps.done(known.meet(place, Taste()))
    ways = known.ways
    for _ in range(_MOST_ROUNDS):
        tastes = [known.taste(None, _WHILE_LEARNING, way) for way in ways]
        found = [steps.done(known.meet(place, taste)) for place in places for taste in tastes]
        if not any(found):
            break
    hands = 2 * sum(grip is not None for row in rows for grip in row.grips)
    if len(rows) == 1:
        return replace(known.taste(None, BOLDNESS[0], "playable"), sure=Sure(hands, before, before))
    best = Taste(sure=Sure(hands, before, before))
    for way in ways:
        for boldness in BOLDNESS:
            tastes = [known.taste(place, boldness, way) for place in places]
            after = sum(steps.done(known.agreement(place, tastes[place])) for place in places)
            if after > best.sure.after:  # the least bold of those that meet as many
                best = replace(known.taste(None, boldness, way), sure=Sure(hands, before, after))
    return best


class _Steps:
    """Counts what is done of some steps, and asks whether to go on."""

    def __init__(self, progress: Progress, count: int) -> None:
        self._progress, self._count, self._done = progress, count, 0

    def done(self, value: _Value) -> _Value:
        self._done += 1
        if not self._progress(min(1.0, self._done / self._count)):
            raise Cancelled
        return value
