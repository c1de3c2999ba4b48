"""The order in which the measures of a score are played, and the same as sections, endings and a form."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from fractions import Fraction
from itertools import accumulate, pairwise
from typing import Literal

from msgspec import Struct, field

#: Rounds of a repeat that are taken; more is a slip of the pen.
MOST_TIMES = 16
Jump = Literal["", "capo", "segno"]


class Signs(Struct):
    """What a measure says about the order: a repeat begins or ends with it (``ends``: how often it is played
    in all, 0: none ends), it begins an ``ending`` for these rounds, one ends with it (``closes``), a jump is
    made after it, and the signs that jumps go by. ``to_coda`` is where in it the coda is gone to (0: before
    it, else behind it), ``coda_at`` where a coda's sign stands in it."""

    mark: str = ""
    begins: bool = False
    ends: int = 0
    ending: frozenset[int] = frozenset()
    closes: bool = False
    jump: Jump = ""
    segno: bool = False
    coda: bool = False
    to_coda: Fraction | None = None
    coda_at: Fraction = Fraction(0)
    fine: bool = False


class _Walk(Struct):
    """Where a player is, how often the stretch since ``start`` was begun, and whether a jump was made."""

    at: int = 0
    start: int = 0
    turn: int = 1
    jumped: bool = False
    done: set[int] = field(default_factory=set)
    latest: list[int] = field(default_factory=list)  # by measure: where the last ending begins, -1 for none
    behind: dict[int, int] = field(default_factory=dict)  # by where an ending begins: the measure behind it


def played_order(signs: Sequence[Signs], most: int, say: Callable[[int, str, str], None]) -> list[int]:
    """The measures as they are played: repeats and endings in turn, once through after a jump, to the coda or
    the fine. Stops at ``most`` measures, which is said, with what cannot be followed."""
    last = accumulate((at if sign.ending else -1 for at, sign in enumerate(signs)), max)
    walk = _Walk(latest=list(last))
    order: list[int] = []
    while walk.at < len(signs) and len(order) <= most:
        sign = signs[walk.at]
        if sign.begins and walk.at != walk.start:
            walk.start, walk.turn = walk.at, 1
        if sign.ending and _skips(signs, walk):
            walk.at = _after_ending(signs, walk.at)
            continue
        if walk.jumped and sign.to_coda == 0 and _to_coda(signs, walk, say):
            continue
        order.append(walk.at)
        if walk.jumped and sign.fine:
            break
        if walk.jumped and sign.to_coda and _to_coda(signs, walk, say):
            continue
        _go_on(signs, walk, say)
    return order


def _skips(signs: Sequence[Signs], walk: _Walk) -> bool:
    """Whether the ending that begins here is another round's; after a jump the last one is taken."""
    if walk.jumped:
        after = _after_ending(signs, walk.at)
        return after < len(signs) and bool(signs[after].ending)
    return walk.turn not in signs[walk.at].ending and _rounds(signs, walk.at) >= walk.turn


def _after_ending(signs: Sequence[Signs], at: int) -> int:
    """The measure behind an ending: where it closes, or where the next one or another repeat begins."""
    place = at
    while place + 1 < len(signs) and not signs[place].closes and not signs[place].ends:
        if signs[place + 1].ending or signs[place + 1].begins:
            break
        place += 1
    return place + 1


def _rounds(signs: Sequence[Signs], at: int) -> int:
    """The highest number among the endings that stand in a row, from this one on."""
    highest = 0
    while at < len(signs) and signs[at].ending:
        highest = max(highest, *signs[at].ending)
        at = _after_ending(signs, at)
    return highest


def _in_ending(signs: Sequence[Signs], walk: _Walk) -> int | None:
    """Where the ending begins that the measure belongs to."""
    place = walk.latest[walk.at]
    if place < walk.start:
        return None
    if place not in walk.behind:
        walk.behind[place] = _after_ending(signs, place)
    return place if walk.behind[place] > walk.at else None


def _go_on(signs: Sequence[Signs], walk: _Walk, say: Callable[[int, str, str], None]) -> None:
    """From the end of a measure: back, away, or on."""
    one, here = signs[walk.at], walk.at
    ending = _in_ending(signs, walk)
    if one.ends and not walk.jumped:
        rounds = one.ends if ending is None else max(one.ends, _rounds(signs, ending))
        if walk.turn < rounds:
            walk.at, walk.turn = walk.start, walk.turn + 1
            return
    if one.jump and here not in walk.done:
        walk.done.add(here)
        target = _segno(signs) if one.jump == "segno" else 0
        if target is not None:
            walk.at = walk.start = target
            walk.turn, walk.jumped = 1, True
            return
        say(here, "it goes back to a sign that is not there", "it goes on; look at the form")
    walk.at = here + 1
    ended = one.ends or (ending is not None and _after_ending(signs, ending) == walk.at)
    if ended and not (walk.at < len(signs) and signs[walk.at].ending):
        walk.start, walk.turn = walk.at, 1


def _segno(signs: Sequence[Signs]) -> int | None:
    return next((place for place, sign in enumerate(signs) if sign.segno), None)


def _to_coda(signs: Sequence[Signs], walk: _Walk, say: Callable[[int, str, str], None]) -> bool:
    """Go to the coda; False, which is said, where there is none behind."""
    coda = next((place for place in range(walk.at + 1, len(signs)) if signs[place].coda), None)
    if coda is None:
        say(walk.at, "it goes to a coda that is not there", "it goes on; look at the form")
        return False
    walk.at = walk.start = coda
    walk.turn, walk.jumped = 1, False  # what is repeated in the coda is repeated
    return True


# --- as sections -------------------------------------------------------------------------------


class Part(Struct, frozen=True):
    """A section of the chart: from one written measure to before another, so often, with endings that are
    taken in turn, each from and to."""

    first: int
    end: int
    times: int = 1
    endings: tuple[tuple[int, int], ...] = ()


Run = tuple[int, int]


def parts_of(order: Sequence[int], marks: Sequence[int]) -> tuple[list[Part], list[int] | None]:
    """The sections that play measures in an order, in written order, and the form as places among them; None
    where they are played as they stand. ``marks`` are measures that begin a section of their own."""
    runs = _runs(order, set(marks))
    parts: list[Part] = []
    form: list[int] = []
    counts = Counter(runs)
    at = 0
    while at < len(runs):
        part, used = _collapsed(runs, at, counts)
        if part not in parts:
            parts.append(part)
        form.append(parts.index(part))
        at += used
    by_place = sorted(range(len(parts)), key=lambda number: parts[number].first)
    form = [by_place.index(number) for number in form]
    parts = [parts[number] for number in by_place]
    return parts, None if form == list(range(len(parts))) else form


def _runs(order: Sequence[int], marks: set[int]) -> list[Run]:
    """The order as stretches that are never entered or left in their middle."""
    cuts = set(marks) | set(order[:1])
    for before, after in pairwise(order):
        if after != before + 1:
            cuts |= {after, before + 1}
    runs: list[Run] = []
    for measure in order:
        if runs and runs[-1][1] == measure and measure not in cuts:
            runs[-1] = (runs[-1][0], measure + 1)
        else:
            runs.append((measure, measure + 1))
    return runs


def _collapsed(runs: Sequence[Run], at: int, counts: Counter[Run]) -> tuple[Part, int]:
    """The section that begins at a place of the row of stretches, and how many of them it plays: one that
    comes again at once, with endings or without, where it is heard nowhere else."""
    body = runs[at]
    times = 1
    while at + times < len(runs) and runs[at + times] == body:
        times += 1
    if times > 1 and counts[body] == times:
        return Part(*body, times), times
    endings: list[Run] = []
    while at + 2 * len(endings) + 1 < len(runs) and runs[at + 2 * len(endings)] == body:
        endings.append(runs[at + 2 * len(endings) + 1])
    close = bool(endings) and endings[0][0] == body[1] and all(ending[0] >= body[1] for ending in endings)
    own = (
        close
        and counts[body] == len(endings)
        and all(counts[ending] == endings.count(ending) for ending in endings)
    )
    if len(set(endings)) > 1 and own and _in_a_row(endings):
        return Part(*body, len(endings), tuple(endings)), 2 * len(endings)
    return Part(*body), 1


def _in_a_row(endings: Sequence[Run]) -> bool:
    """Whether endings stand one behind the other as they are written."""
    written = list(dict.fromkeys(endings))
    return all(one[1] == other[0] for one, other in pairwise(written))


def ending_ends(signs: Sequence[Signs]) -> set[int]:
    """The measures behind endings: what comes there is no part of them."""
    return {_after_ending(signs, at) for at, sign in enumerate(signs) if sign.ending}
