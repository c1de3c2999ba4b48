"""What to practise today: minutes in, blocks out.

:mod:`portions` says how many minutes each stretch deserves; here they become blocks that a player can keep.
Song by song, the one with the weakest change first: its weak changes there and back, several in turn
(interleaved practice: C. Carter & J. Grahn, Frontiers in Psychology 7, 2016), then what joins them to their
surroundings; breaks by the clock; and last something that works. What FSRS says has been forgotten counts as
slips again (:mod:`sureness`), so that old changes come back when they are due.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime
from itertools import accumulate, pairwise
from typing import Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.practice.build import hard_because
from yellow_hinge.practice.drills import LONG, MOST_CHAIN, Drill, Kind, kind_of
from yellow_hinge.practice.ladder import STEP
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.portions import SLOWEST, Market, share_for
from yellow_hinge.practice.sureness import Sureness

#: Minutes: between breaks, of a break, of the last block, and the least and the most of any other. Short
#: blocks with breaks, as teachers of musicians' health ask for; the lengths are our choice.
BETWEEN_BREAKS, BREAK, LAST, LEAST, MOST = 15.0, 1.0, 1.5, 1.0, 4.0
#: The most of a day that its last block has: where minutes are scarce the weak changes need them.
LAST_SHARE = 0.1
#: A change that slips so often is tried alone before what is around it, and with each hand by players who
#: begin apart.
ALONE = 0.25
#: The share of its time that a single change gives to the bars around it.
_AROUND = 0.4
#: What is left for a chain at least, in minutes, where one of its changes is tried alone.
_REST_OF_CHAIN = 0.5
#: What slips no more often than this, in the mean, works.
WORKS = 0.1
#: What the key of the day gets, in minutes.
KEY = 2.5
#: About so many blocks a day: more of them is hurry.
MOST_BLOCKS = 14
#: Changes that come in turn in one block.
MOST_SPOTS = 4
#: What is new begins at this share of the song's tempo; a tempo rises by so much on a day.
NEW, _RISE = 0.7, 1.25
_SLOWEST_TEMPO = 20


class Block(Struct, frozen=True):
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


REST = Block(None, "Rest", 0, 0, BREAK, why="loosen hands and shoulders; stand up once")


class Wishes(Struct, frozen=True):
    """What a player wants of a plan: minutes, whether hands come apart first, and whether the weakest changes
    decide or the songs are played from start to end."""

    minutes: float = 20.0
    apart_first: bool = False
    order: Literal["weakest", "song"] = "weakest"


class Shelf:
    """The songs of a plan, all their changes in one row; ``sure`` has one for each. Behind the ``songs``
    stand some of them again in other keys, which are to be learnt."""

    def __init__(
        self, pieces: Sequence[Piece], sure: Sequence[Sureness], now: datetime, songs: int | None = None
    ) -> None:
        self.pieces, self.sure, self.now = pieces, sure, now
        self.songs = len(pieces) if songs is None else songs
        self.offsets = [0, *accumulate(len(piece.changes) for piece in pieces)]

    def sureness(self, piece: int, change: int) -> Sureness:
        return self.sure[self.offsets[piece] + change]

    def slip(self, piece: int, change: int) -> float:
        """The chance of a slip now, at the song's tempo."""
        return self.sureness(piece, change).slip(self.now)

    def mean(self, drill: Drill) -> float:
        """The chance of a slip in the mean, over the changes of a drill."""
        changes = drill.changes(self.pieces[drill.piece])
        return sum(self.slip(drill.piece, change) for change in changes) / max(1, len(changes))

    @property
    def own(self) -> Sequence[Sureness]:
        """What is known of the songs in their own keys."""
        return self.sure[: self.offsets[self.songs]]


def breaks_in(minutes: float) -> int:
    """How many breaks so many minutes have."""
    return max(0, int((minutes - 1) // BETWEEN_BREAKS))


def plan(shelf: Shelf, wishes: Wishes) -> tuple[Block, ...]:
    """The blocks of today; none where there is nothing to practise or no time."""
    if not shelf.own or wishes.minutes <= 0:
        return ()
    playing = wishes.minutes - BREAK * breaks_in(wishes.minutes)
    if wishes.order == "song":
        return tuple(_with_breaks(_rounded(_songs(shelf, playing), playing), wishes.minutes))
    last = min(LAST, playing * LAST_SHARE)
    key = _key_of_today(shelf, min(KEY, playing / 4))
    seconds = (playing - last - sum(one.minutes for one in key)) * 60
    drills = _joined(shelf, _chosen(shelf, seconds), wishes.apart_first)
    blocks = [
        block for k, (drill, s) in enumerate(drills) for block in _blocks(shelf, drill, s / 60, wishes, k)
    ]
    blocks += [*key, _ending(shelf, last, [drill for drill, _ in drills])]
    return tuple(_with_breaks(_rounded(_merged(blocks), playing), wishes.minutes))


def _merged(blocks: Sequence[Block]) -> list[Block]:
    """Neighbours that drill the same are one block, for the reason of the later one."""
    found: list[Block] = []
    for block in blocks:
        same = found and found[-1].drill == block.drill
        found.append(replace(block, minutes=found.pop().minutes + block.minutes) if same else block)
    return found


def _key_of_today(shelf: Shelf, minutes: float) -> list[Block]:
    """One of the further keys: one that is due, or else a new one of a song that works in its own; new keys
    are spread over the days, one a day."""
    places = range(shelf.songs, len(shelf.pieces))
    drills = []
    for k in places:
        piece = shelf.pieces[k]
        known = any(shelf.sureness(k, change).tries for change in range(len(piece.changes)))
        span = max(piece.sections if known else piece.phrases, key=lambda span: span[1] - span[0])
        drills.append(Drill(kind_of(piece, *span), k, (span,)))
    drills = [drill for drill in drills if drill.changes(shelf.pieces[drill.piece])]

    def tried(drill: Drill) -> bool:
        return any(shelf.sureness(drill.piece, k).tries for k in drill.changes(shelf.pieces[drill.piece]))

    def works(drill: Drill) -> bool:
        home = next((k for k in range(shelf.songs) if shelf.pieces[k].id == shelf.pieces[drill.piece].id), 0)
        whole = Drill("song", home, ((0, len(shelf.pieces[home].stands) - 1),))
        return shelf.mean(whole) <= WORKS

    def due(drill: Drill) -> bool:
        changes = drill.changes(shelf.pieces[drill.piece])
        return any(shelf.sureness(drill.piece, k).due(shelf.now) for k in changes)

    begun_today = any(sureness.tries == sureness.day_tries > 0 and sureness.days_since(shelf.now) == 0
                      for sureness in shelf.sure[shelf.offsets[shelf.songs] :])  # fmt: skip
    old = sorted((drill for drill in drills if tried(drill) and due(drill)), key=shelf.mean)
    new = [] if begun_today else [drill for drill in drills if not tried(drill) and works(drill)]
    chosen = (old[-1:] or new[:1])[:1]
    return [
        _block(shelf, drill, minutes, "" if tried(drill) else f"a new key: {shelf.pieces[drill.piece].key}")
        for drill in chosen
    ]


def _songs(shelf: Shelf, minutes: float) -> list[Block]:
    """All songs from start to end, in the order of the shelf."""
    songs = [k for k, piece in enumerate(shelf.pieces[: shelf.songs]) if piece.changes]
    drills = [Drill("song", k, ((0, len(shelf.pieces[k].stands) - 1),)) for k in songs]
    return [_block(shelf, drill, minutes / len(drills), "from start to end") for drill in drills]


# --- from portions to drills ------------------------------------------------------------------

Timed = tuple[Drill, float]


def _chosen(shelf: Shelf, seconds: float) -> list[Timed]:
    slips = np.array([sureness.cautious(shelf.now) for sureness in shelf.own])
    tried = np.array([sureness.tries for sureness in shelf.own], dtype=float)
    today = np.array(
        [sureness.day_tries * (sureness.days_since(shelf.now) == 0) for sureness in shelf.own], dtype=float
    )
    portions = Market(shelf.pieces[: shelf.songs], slips).spend(slips, tried, today, seconds)
    return [(portions.drills[at], spent) for at, spent in portions.seconds.items()]


def _weakest(shelf: Shelf, drill: Drill) -> float:
    return max(shelf.slip(drill.piece, change) for change in drill.changes(shelf.pieces[drill.piece]))


def _joined(shelf: Shelf, chosen: Sequence[Timed], apart: bool) -> list[Timed]:
    """Song by song, single changes in turn, then chains, then sections, as blocks of a length that a player
    can keep: longer where hands come ``apart``."""

    def weakest(song: int) -> float:
        return max(_weakest(shelf, drill) for drill, _ in chosen if drill.piece == song)

    found: list[Timed] = []
    songs = sorted({drill.piece for drill, _ in chosen}, key=lambda song: -weakest(song))
    for song in songs:
        own = sorted(
            (one for one in chosen if one[0].piece == song), key=lambda one: -_weakest(shelf, one[0])
        )
        singles = [one for one in own if one[0].kind == "change"]
        chains = [drill for drill, _ in own if drill.kind == "chain"]
        for spots in _spots(singles):
            found += _with_surroundings(shelf, spots, chains)
        found += _apart(shelf, [one for one in own if one[0].kind == "chain"])
        found += [one for one in own if one[0].kind in LONG]
    least = max(LEAST * 60, sum(seconds for _, seconds in chosen) / MOST_BLOCKS) * (2 if apart else 1)
    opened = (one for drill, seconds in _long_enough(found, least) for one in _opened(shelf, drill, seconds))
    return _in_turns(list(opened))


def _with_surroundings(shelf: Shelf, spots: Timed, chains: Sequence[Drill]) -> Iterator[Timed]:
    """Single changes; where no chain holds the weakest of them, a part of their time goes to the
    bars around it."""
    drill, seconds = spots
    piece = shelf.pieces[drill.piece]
    first, last = max(drill.spans, key=lambda span: shelf.slip(drill.piece, piece.row[span[0]]))
    if any(piece.row[first] in chain.changes(piece) for chain in chains):
        yield spots
        return
    while first > 0 and piece.row[first - 1] >= 0 and last - first < MOST_CHAIN // 2:
        first -= 1
    while last < len(piece.row) and piece.row[last] >= 0 and last - first < MOST_CHAIN - 1:
        last += 1
    around = Drill(kind_of(piece, first, last), drill.piece, ((first, last),))
    yield drill, seconds * (1 - _AROUND)
    yield around, seconds * _AROUND


def _apart(shelf: Shelf, chains: Sequence[Timed]) -> list[Timed]:
    """Chains that share their weakest change are one, the first of them."""
    found: list[Timed] = []
    for drill, seconds in chains:
        piece = shelf.pieces[drill.piece]
        weakest = max(drill.changes(piece), key=lambda change: shelf.slip(drill.piece, change))
        same = next((k for k, (one, _) in enumerate(found) if weakest in one.changes(piece)), None)
        if same is None:
            found.append((drill, seconds))
        else:
            found[same] = (found[same][0], found[same][1] + seconds)
    return found


def _opened(shelf: Shelf, drill: Drill, seconds: float) -> Iterator[Timed]:
    """A drill as it is; a chain with a weak change, and time for it, begins with that change alone."""
    if drill.kind != "chain":
        yield drill, seconds
        return
    piece = shelf.pieces[drill.piece]
    first, last = drill.spans[0]
    weakest = max(range(first, last), key=lambda at: shelf.slip(drill.piece, piece.row[at]))
    if shelf.slip(drill.piece, piece.row[weakest]) >= ALONE and seconds >= (LEAST + _REST_OF_CHAIN) * 60:
        alone = max(LEAST * 60, seconds / 3)
        yield Drill("change", drill.piece, ((weakest, weakest + 1),)), alone
        seconds -= alone
    yield drill, seconds


def _spots(singles: Sequence[Timed]) -> Iterator[Timed]:
    """Single changes, several in turn, each as long as it deserves in the mean."""
    count = -(-len(singles) // MOST_SPOTS)
    for k in range(count):
        group = singles[k::count]
        spans = tuple(span for drill, _ in group for span in drill.spans)
        kind: Kind = "change" if len(spans) == 1 else "spots"
        yield Drill(kind, group[0][0].piece, spans), sum(s for _, s in group)


def _long_enough(drills: Sequence[Timed], least: float) -> list[Timed]:
    """What is too short for a block of its own, in seconds, takes what it lacks from those behind it, which
    are less weak."""
    found: list[Timed] = []
    for drill, seconds in drills:
        left = seconds
        if found and found[-1][1] < least:
            lacks = min(left, least - found[-1][1])
            found[-1] = (found[-1][0], found[-1][1] + lacks)
            left -= lacks
        if left > 0:
            found.append((drill, left))
    if len(found) > 1 and found[-1][1] < least:
        _, short = found.pop()
        found[-1] = (found[-1][0], found[-1][1] + short)
    return found


def _in_turns(drills: Sequence[Timed]) -> list[Timed]:
    """What is too long for one block comes again later, when the others have been."""
    turns: dict[int, list[Timed]] = {}
    for drill, seconds in drills:
        count = max(1, -(-int(seconds) // int(MOST * 60)))
        for turn in range(count):
            turns.setdefault(turn, []).append((drill, seconds / count))
    return [timed for turn in sorted(turns) for timed in turns[turn]]


# --- from drills to blocks --------------------------------------------------------------------


def _blocks(shelf: Shelf, drill: Drill, minutes: float, wishes: Wishes, turn: int) -> Iterator[Block]:
    """A drill with both hands; a weak one first with each hand, for players who begin apart and where one
    hand has a line, if both have something to play. Which hand begins alternates."""
    piece = shelf.pieces[drill.piece]
    sides = drill.sides(piece)
    short = drill.kind in ("change", "spots", "chain")
    apart = len(sides) > 1 and ((short and wishes.apart_first) or drill.has_line(piece))
    if apart and _weakest(shelf, drill) >= ALONE and minutes >= 2 * LEAST:
        for hands in sides if turn % 2 == 0 else reversed(sides):
            yield _block(shelf, replace(drill, hands=hands), minutes / 4)
        minutes /= 2
    yield _block(shelf, drill, minutes)


def _block(shelf: Shelf, drill: Drill, minutes: float, why: str = "") -> Block:
    start, goal = tempi(shelf, drill)
    words = what_words(shelf.pieces[drill.piece], drill)
    return Block(drill, words, start, goal, minutes, why=why or why_words(shelf, drill))


def tempi(shelf: Shelf, drill: Drill) -> tuple[int, int]:
    """Where a drill begins and where it should end today, in beats a minute: a little below what was clean
    before, slow for what is new; at most a quarter more than at the beginning, and never above the song's."""
    piece = shelf.pieces[drill.piece]
    own = [shelf.sureness(drill.piece, change) for change in drill.changes(piece)]
    share = starting_share(own, shelf.now)
    start = min(piece.tempo, max(_SLOWEST_TEMPO, round(piece.tempo * share)))
    return start, min(piece.tempo, max(start, round(start * _RISE)))


def starting_share(own: Sequence[Sureness], moment: datetime) -> float:
    """The share of the song's tempo at which changes are begun: the weaker, the slower, and never more than
    one step faster than what was clean before; what is new begins at :data:`NEW`."""
    if not own:
        return 1.0
    slip = sum(sureness.slip(moment) for sureness in own) / len(own)
    before = sum(sureness.best * (1 + STEP) or NEW for sureness in own) / len(own)
    return max(SLOWEST, min(share_for(slip), before))


def what_words(piece: Piece, drill: Drill) -> str:
    """What is drilled, in words."""
    if drill.kind == "song":
        return f"{piece.title}, whole"
    if drill.kind == "section":
        return f"{piece.title}, {piece.section_words(drill.first)}"
    if drill.kind == "phrase":
        bars = [piece.stands[k].bar for k in (drill.first, drill.last)]
        return f"{piece.title}, the phrase in bars {bars[0]} to {bars[1]}"
    if drill.kind == "spots":
        return f"{'; '.join(_span_words(piece, span) for span in drill.spans)}, of {piece.title}"
    return f"{_span_words(piece, drill.spans[0])}, bar {piece.stands[drill.first].bar} of {piece.title}"


def _span_words(piece: Piece, span: tuple[int, int]) -> str:
    return " to ".join(stand.words for stand in piece.stands[span[0] : span[1] + 1])


def why_words(shelf: Shelf, drill: Drill) -> str:
    """Why a drill is in the plan, by its weakest change."""
    piece = shelf.pieces[drill.piece]
    changes = sorted(drill.changes(piece), key=lambda k: -shelf.slip(drill.piece, k))
    weakest, sureness = piece.changes[changes[0]], shelf.sureness(drill.piece, changes[0])
    days = sureness.days_since(shelf.now)
    if all(not shelf.sureness(drill.piece, k).tries for k in changes):
        hard = hard_because(weakest, piece)
        many = "" if len(changes) == 1 else f"{weakest.words}: "
        return f"new: {many}{hard}" if hard else "new"
    where = "" if len(changes) == 1 else f"{weakest.words} "
    if days is None:
        return f"{where}is new"
    if sureness.day_slips and days <= 1:
        return f"{where}slipped {_times(sureness.day_slips)} {'yesterday' if days else 'today'}"
    if sureness.due(shelf.now):
        return f"{where}due after {days} day{'s' * (days != 1)}"
    if sureness.slip(shelf.now) > 0.15:
        return f"{where}still slips about {sureness.slip(shelf.now):.0%} of the time"
    return "to keep it" if len(changes) == 1 else "joins what was practised to what is around it"


def _times(count: int) -> str:
    return ("", "once", "twice")[count] if count < 3 else f"{count} times"


def _ending(shelf: Shelf, minutes: float, done: Sequence[Drill]) -> Block:
    """Something that works: of the sections of today's songs that slip seldom the one that gains most by it;
    else the one with the fewest slips in the mean."""
    songs = {one.piece for one in done}

    def drills() -> Iterator[Drill]:
        for number in sorted(songs):
            piece = shelf.pieces[number]
            for span in (*piece.phrases, *piece.sections, (0, len(piece.stands) - 1)):
                drill = Drill(kind_of(piece, *span), number, (span,))
                if drill.changes(piece):
                    yield drill

    long = [drill for drill in drills() if drill.kind in LONG]
    found = sorted(long or drills(), key=shelf.mean)
    works = [drill for drill in found if shelf.mean(drill) <= WORKS]
    return _block(shelf, works[-1] if works else found[0], minutes, "ends on what works")


def _rounded(blocks: Sequence[Block], minutes: float) -> Iterator[Block]:
    """Minutes in tenths that add up to what is played."""
    ends = [round(end, 1) for end in accumulate(block.minutes for block in blocks)]
    ends[-1] = round(minutes, 1)
    for block, (before, end) in zip(blocks, pairwise([0.0, *ends]), strict=True):
        if end > before:
            yield replace(block, minutes=round(end - before, 1))


def _with_breaks(blocks: Iterator[Block], minutes: float) -> Iterator[Block]:
    """Breaks by the clock, at even distances."""
    left, since = breaks_in(minutes), 0.0
    stretch = minutes / (left + 1)
    for block, after in pairwise([*blocks, None]):
        assert block is not None
        if left and since and (since + block.minutes / 2 > stretch or after is None):
            yield REST
            left, since = left - 1, 0.0
        yield block
        since += block.minutes
