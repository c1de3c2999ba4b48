"""What to practise today: minutes in, blocks out.

:mod:`portions` says how many minutes each stretch deserves; here they become blocks that a player can keep.
Song by song, the one with the weakest change first: its weak changes there and back, several in turn
(interleaved practice: C. Carter & J. Grahn, Frontiers in Psychology 7, 2016), then what joins them to their
surroundings; breaks by the clock; and last something that works. What FSRS says has been forgotten counts as
slips again (:mod:`sureness`), so that old changes come back when they are due.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import accumulate, pairwise

import numpy as np

from yellow_hinge.practice.build import hard_because
from yellow_hinge.practice.drills import Drill, Hands, Kind, kind_of
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.portions import SLOWEST, Floats, Market, share_for
from yellow_hinge.practice.sureness import Sureness

#: Minutes: between breaks, of a break, of the last block, and the least and the most of any other. Short
#: blocks with breaks, as teachers of musicians' health ask for; the lengths are our choice.
BETWEEN_BREAKS, BREAK, LAST, LEAST, MOST = 15.0, 1.0, 1.5, 0.8, 4.0
#: What slips no more often than this, in the mean, works.
WORKS = 0.1
#: Changes that come in turn in one block.
MOST_SPOTS = 4
#: A drill begins at this share of the tempo that was clean before, and rises by so much on a day.
_AGAIN, _RISE = 0.92, 1.25
_SLOWEST_TEMPO = 20


@dataclass(frozen=True)
class Block:
    """A stretch of practice: what is drilled (None: a break), from which tempo to which, in beats a minute,
    how long, and why."""

    drill: Drill | None
    what: str
    from_tempo: int
    to_tempo: int
    minutes: float
    why: str

    @property
    def kind(self) -> str:
        return "rest" if self.drill is None else self.drill.kind

    @property
    def hands(self) -> str:
        return "none" if self.drill is None else self.drill.hands


REST = Block(None, "Rest", 0, 0, BREAK, "loosen hands and shoulders; stand up once")


@dataclass(frozen=True)
class Wishes:
    """What a player wants of a plan: minutes, and whether hands come apart first."""

    minutes: float = 20.0
    apart_first: bool = False


class Shelf:
    """The songs of a plan, all their changes in one row; ``sure`` has one for each."""

    def __init__(self, pieces: Sequence[Piece], sure: Sequence[Sureness], now: datetime) -> None:
        self.pieces, self.sure, self.now = pieces, sure, now
        self.offsets = [0, *accumulate(len(piece.changes) for piece in pieces)]

    def sureness(self, piece: int, change: int) -> Sureness:
        return self.sure[self.offsets[piece] + change]

    def slip(self, piece: int, change: int) -> float:
        """The chance of a slip now, at the song's tempo."""
        return self.sureness(piece, change).slip(self.now)

    def slips(self) -> Floats:
        """Chances of a slip now, (changes,)."""
        return np.array([one.slip(self.now) for one in self.sure])


def breaks_in(minutes: float) -> int:
    """How many breaks so many minutes have."""
    return max(0, int((minutes - 1) // BETWEEN_BREAKS))


def plan(shelf: Shelf, wishes: Wishes) -> tuple[Block, ...]:
    """The blocks of today; none where there is nothing to practise or no time."""
    if not shelf.sure or wishes.minutes <= 0:
        return ()
    playing = wishes.minutes - BREAK * breaks_in(wishes.minutes)
    last = min(LAST, playing / 3)
    drills = _joined(shelf, _chosen(shelf, (playing - last) * 60))
    blocks = [block for drill, s in drills for block in _blocks(shelf, drill, s / 60, wishes)]
    blocks.append(_ending(shelf, last, [drill for drill, _ in drills]))
    return tuple(_with_breaks(_rounded(blocks, playing), wishes.minutes))


# --- from portions to drills ------------------------------------------------------------------

Timed = tuple[Drill, float]


def _chosen(shelf: Shelf, seconds: float) -> list[Timed]:
    slips = np.array([one.cautious(shelf.now) for one in shelf.sure])
    tried = np.array([one.tries for one in shelf.sure], dtype=float)
    today = np.array([one.day_tries * (one.days_since(shelf.now) == 0) for one in shelf.sure], dtype=float)
    portions = Market(shelf.pieces, slips).spend(slips, tried, today, seconds)
    return [(portions.drills[at], spent) for at, spent in portions.seconds.items()]


def _weakest(shelf: Shelf, drill: Drill) -> float:
    return max(shelf.slip(drill.piece, change) for change in drill.changes(shelf.pieces[drill.piece]))


def _joined(shelf: Shelf, chosen: Sequence[Timed]) -> list[Timed]:
    """Song by song, single changes in turn, then chains, then sections; blocks that are too short are joined
    with what is like them."""

    def weakest(song: int) -> float:
        return max(_weakest(shelf, drill) for drill, _ in chosen if drill.piece == song)

    found: list[Timed] = []
    songs = sorted({drill.piece for drill, _ in chosen}, key=lambda song: -weakest(song))
    for song in songs:
        own = sorted(
            (one for one in chosen if one[0].piece == song), key=lambda one: -_weakest(shelf, one[0])
        )
        singles = [one for one in own if one[0].kind == "change"]
        found += _spots(singles)
        found += [one for one in own if one[0].kind == "chain"]
        found += [one for one in own if one[0].kind in ("section", "song")]
    return _long_enough(found)


def _spots(singles: Sequence[Timed]) -> Iterator[Timed]:
    """Single changes, several in turn, each as long as it deserves in the mean."""
    count = -(-len(singles) // MOST_SPOTS)
    for k in range(count):
        group = singles[k::count]
        spans = tuple(span for drill, _ in group for span in drill.spans)
        kind: Kind = "change" if len(spans) == 1 else "spots"
        yield Drill(kind, group[0][0].piece, spans), sum(s for _, s in group)


def _long_enough(drills: Sequence[Timed]) -> list[Timed]:
    """What is too short for a block of its own gives its time to the one before it, of the same song if there
    is one."""
    found: list[Timed] = []
    short = 0.0
    for drill, seconds in drills:
        own = seconds + short
        short = 0.0
        if own >= LEAST * 60:
            found.append((drill, own))
        elif found and found[-1][0].piece == drill.piece and found[-1][1] + own <= MOST * 60:
            found[-1] = (found[-1][0], found[-1][1] + own)
        else:
            short = own
    if short and found:
        found[-1] = (found[-1][0], found[-1][1] + short)
    elif short:
        found.append((drills[0][0], short))
    return found


# --- from drills to blocks --------------------------------------------------------------------


def _blocks(shelf: Shelf, drill: Drill, minutes: float, wishes: Wishes) -> Iterator[Block]:
    """A drill with both hands; a weak one first with each hand, for players who begin apart."""
    sides: tuple[Hands, ...] = ("left", "right")
    if wishes.apart_first and _weakest(shelf, drill) > 0.3 and minutes >= 2 * LEAST:
        for hands in sides:
            yield _block(shelf, replace(drill, hands=hands), minutes / 4)
        minutes /= 2
    yield _block(shelf, drill, minutes)


def _block(shelf: Shelf, drill: Drill, minutes: float, why: str = "") -> Block:
    start, goal = tempi(shelf, drill)
    words = what_words(shelf.pieces[drill.piece], drill)
    return Block(drill, words, start, goal, minutes, why or why_words(shelf, drill))


def tempi(shelf: Shelf, drill: Drill) -> tuple[int, int]:
    """Where a drill begins and where it should end today, in beats a minute: a little below what was clean
    before, slow for what is new; at most a quarter more than at the beginning, and never above the song's."""
    piece = shelf.pieces[drill.piece]
    own = [shelf.sureness(drill.piece, change) for change in drill.changes(piece)]
    slips = [one.slip(shelf.now) for one in own]
    share = share_for(sum(slips) / len(slips)) if slips else 1.0
    bests = [one.best for one in own if one.best > 0]
    if len(bests) == len(own) and bests:
        share = max(share, min(1.0, max(SLOWEST, sum(bests) / len(bests) * _AGAIN)))
    start = min(piece.tempo, max(_SLOWEST_TEMPO, round(piece.tempo * share)))
    return start, min(piece.tempo, max(start, round(start * _RISE)))


def what_words(piece: Piece, drill: Drill) -> str:
    """What is drilled, in words."""
    if drill.kind == "song":
        return f"{piece.title}, whole"
    if drill.kind == "section":
        return f"{piece.title}, {piece.section_words(drill.first)}"
    if drill.kind == "spots":
        return f"{'; '.join(_span_words(piece, span) for span in drill.spans)}, of {piece.title}"
    return f"{_span_words(piece, drill.spans[0])}, bar {piece.stands[drill.first].bar} of {piece.title}"


def _span_words(piece: Piece, span: tuple[int, int]) -> str:
    return " to ".join(stand.words for stand in piece.stands[span[0] : span[1] + 1])


def why_words(shelf: Shelf, drill: Drill) -> str:
    """Why a drill is in the plan, by its weakest change."""
    piece = shelf.pieces[drill.piece]
    own = sorted(drill.changes(piece), key=lambda k: -shelf.slip(drill.piece, k))
    weakest, one = piece.changes[own[0]], shelf.sureness(drill.piece, own[0])
    days = one.days_since(shelf.now)
    if all(not shelf.sureness(drill.piece, k).tries for k in own):
        hard = hard_because(weakest, piece)
        many = "" if len(own) == 1 else f"{weakest.words}: "
        return f"new: {many}{hard}" if hard else "new"
    where = "" if len(own) == 1 else f"{weakest.words} "
    if days is None:
        return f"{where}is new"
    if one.day_slips and days <= 1:
        return f"{where}slipped {_times(one.day_slips)} {'yesterday' if days else 'today'}"
    if one.due(shelf.now):
        return f"{where}due after {days} day{'s' * (days != 1)}"
    if one.slip(shelf.now) > 0.15:
        return f"{where}still slips about {one.slip(shelf.now):.0%} of the time"
    return "to keep it" if len(own) == 1 else "joins what was practised to what is around it"


def _times(count: int) -> str:
    return ("", "once", "twice")[count] if count < 3 else f"{count} times"


def _ending(shelf: Shelf, minutes: float, done: Sequence[Drill]) -> Block:
    """Something that works: of the sections of today's songs that slip seldom the one that gains most by it;
    else the one with the fewest slips in the mean."""
    songs = {one.piece for one in done} or {k for k, piece in enumerate(shelf.pieces) if piece.changes}

    def drills() -> Iterator[Drill]:
        for number in sorted(songs):
            piece = shelf.pieces[number]
            for span in (*piece.sections, (0, len(piece.stands) - 1)):
                drill = Drill(kind_of(piece, *span), number, (span,))
                if drill.changes(piece):
                    yield drill

    def mean(drill: Drill) -> float:
        own = drill.changes(shelf.pieces[drill.piece])
        return sum(shelf.slip(drill.piece, change) for change in own) / len(own)

    found = sorted(drills(), key=mean)
    works = [drill for drill in found if mean(drill) <= WORKS]
    return _block(shelf, works[-1] if works else found[0], minutes, "ends on what works")


def _rounded(blocks: Sequence[Block], minutes: float) -> Iterator[Block]:
    """Minutes in tenths that add up to what is played."""
    ends = [round(end, 1) for end in accumulate(block.minutes for block in blocks)]
    ends[-1] = round(minutes, 1)
    for block, (before, end) in zip(blocks, pairwise([0.0, *ends]), strict=True):
        if end > before:
            yield replace(block, minutes=round(end - before, 1))


def _with_breaks(blocks: Iterator[Block], minutes: float) -> Iterator[Block]:
    """Breaks by the clock."""
    left, since = breaks_in(minutes), 0.0
    for block, after in pairwise([*blocks, None]):
        assert block is not None
        if left and since and (since + block.minutes > BETWEEN_BREAKS or after is None):
            yield REST
            left, since = left - 1, 0.0
        yield block
        since += block.minutes
