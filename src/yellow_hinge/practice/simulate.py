"""A simulated player practises for some days, by the plan or otherwise: what becomes of the slips."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, datetime, timedelta
from itertools import accumulate
from typing import Literal

from msgspec import Struct

from yellow_hinge.practice.build import opening
from yellow_hinge.practice.drills import Drill
from yellow_hinge.practice.ladder import Ladder
from yellow_hinge.practice.learner import Law, Learner
from yellow_hinge.practice.log import Try
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.plan import (
    BREAK,
    Block,
    Shelf,
    Wishes,
    breaks_in,
    plan,
    starting_share,
    tempi,
)
from yellow_hinge.practice.sureness import Sureness, begun
from yellow_hinge.stopping import ask

#: In what order minutes are spent: by the plan; from start to end, over and over; on what is worst, without
#: spacing.
Order = Literal["weakest", "song", "worst"]
FIRST_DAY = datetime(2026, 1, 5, 18, tzinfo=UTC)


class Day(Struct, frozen=True):
    """A day of practice: minutes, and the chance of a slip at the worst change and in the mean, after it."""

    day: int
    minutes: float
    worst: float
    mean: float


class Simulation:
    """One player, some songs, one way to spend the minutes."""

    def __init__(self, pieces: Sequence[Piece], law: Law, days: int, minutes: float, seed: int) -> None:
        self.pieces, self.minutes, self.days = pieces, minutes, days
        openings = [opening(change, piece) for piece in pieces for change in piece.changes]
        self.learner = Learner.made(openings, law, days, seed)
        self.sure: list[Sureness] = [begun(one) for one in openings]
        self.now = FIRST_DAY
        self.slips = self.learner.chances()  #: of each change, as it stands at the end of a day
        self._left_off = (0, 0)
        self._ladders: dict[int, Ladder] = {}
        self.played: list[tuple[datetime, int, float, bool, str]] = []
        self._drill = "song"
        self._offsets = [0, *accumulate(len(piece.changes) for piece in pieces)]

    def run(self, order: Order) -> Iterator[Day]:
        """Day by day."""
        ways: dict[Order, Callable[[], None]] = {
            "weakest": self.practise, "song": self._start_to_end, "worst": self._worst_first,
        }  # fmt: skip
        for day in range(1, self.days + 1):
            ask()
            ways[order]()
            slips = self.slips = self.learner.chances()
            worst, mean = (slips.max(), slips.mean()) if slips.size else (0.0, 0.0)
            yield Day(day, self.minutes, float(worst), float(mean))
            self.learner.next_day()
            self.now += timedelta(days=1)

    @property
    def shelf(self) -> Shelf:
        return Shelf(self.pieces, self.sure, self.now)

    def practise(self) -> None:
        """A day by the plan, block after block: a round that has begun is finished, and the next block is as
        much shorter; at the end of the session nothing is."""
        ends = self._playing_s
        clock = due = 0.0
        for block in plan(self.shelf, Wishes(self.minutes)):
            if block.drill is not None:
                due += block.minutes * 60
                clock = self._block(block, block.drill, clock, min(due, ends), ends)

    def _block(self, block: Block, drill: Drill, clock: float, until: float, ends: float) -> float:
        """A block by its ladder; when it is over, in seconds."""
        piece = self.pieces[drill.piece]
        self._drill = drill.kind
        ladder = Ladder(block.from_tempo, piece.tempo)
        while clock < until:
            slips, tries, took = self._round(drill, piece, ladder.tempo, ends - clock)
            clock += took
            ladder.fed(slips, tries)
        return clock

    def _round(self, drill: Drill, piece: Piece, tempo: int, left: float) -> tuple[int, int, float]:
        """One round at a tempo: slips, tries, and the seconds it took."""
        slips, tries, took, pace = 0, 0, 0.0, 1.0
        offset = self._offsets[drill.piece]
        for stand, change, backwards in drill.round(piece):
            took += piece.seconds(drill.lasts(piece, stand), tempo)
            if took > left + 1e-9:
                break
            if backwards:
                self.learner.came_back(offset + change)
            elif change >= 0:
                tries += 1
                slips += not self._try(offset + change, pace * tempo / piece.tempo)
            pace = drill.pace(piece, stand)
        return slips, tries, took

    def _try(self, change: int, share: float) -> bool:
        clean = self.learner.plays(change, share)
        self.sure[change] = self.sure[change].tried(clean, share, self.now)
        self.played.append((self.now, change, share, clean, self._drill))
        return clean

    @property
    def tries(self) -> Iterator[Try]:
        """Everything that was played, as the log has it."""
        for at, number, share, clean, drill in self.played:
            piece = self.pieces[bisect_right(self._offsets, number) - 1]
            change = piece.changes[number - self._offsets[bisect_right(self._offsets, number) - 1]]
            yield Try(at, change.id, "both", drill, piece.tempo * share, share=share, clean=clean)

    @property
    def _playing_s(self) -> float:
        return (self.minutes - BREAK * breaks_in(self.minutes)) * 60

    def _start_to_end(self) -> None:
        """All songs from start to end, going on where the day before stopped; each begun as slowly as the
        plan would, and faster by the same ladder, from day to day."""
        left = self._playing_s
        while left > 0:
            number, stand = self._left_off
            piece = self.pieces[number]
            ladder = self._ladder_of(number)
            slips = tries = 0
            while left > 0 and stand < len(piece.stands):
                left -= piece.seconds(piece.stands[stand].quarters, ladder.tempo)
                change = piece.row[stand - 1] if stand else -1
                if change >= 0 and left >= 0:
                    tries += 1
                    slips += not self._try(self._offsets[number] + change, ladder.tempo / piece.tempo)
                stand += 1
            over = stand >= len(piece.stands)
            self._left_off = ((number + 1) % len(self.pieces), 0) if over else (number, stand)
            if over:
                ladder.fed(slips, tries)

    def _ladder_of(self, number: int) -> Ladder:
        if number not in self._ladders:
            piece = self.pieces[number]
            drill = Drill("song", number, ((0, len(piece.stands) - 1),))
            self._ladders[number] = Ladder(tempi(self.shelf, drill)[0], piece.tempo)
        return self._ladders[number]

    def _worst_first(self) -> None:
        """The change that seems worst, there and back for a minute; then the next worst: no spacing, nothing
        joined."""
        left = self._playing_s
        while left > 0:
            worst = max(range(len(self.sure)), key=lambda k: self.sure[k].slip(self.now))
            number = bisect_right(self._offsets, worst) - 1
            piece = self.pieces[number]
            stand = piece.changes[worst - self._offsets[number]].places[0]
            drill = Drill("change", number, ((stand, stand + 1),))
            share = starting_share([self.sure[worst]], self.now)
            end = left - 60
            while left > max(0.0, end):
                _, _, took = self._round(drill, piece, max(20, round(piece.tempo * share)), left)
                left -= took
