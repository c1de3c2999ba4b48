"""Runs a drill, round after round: what is wanted, what was heard, the ladder, and what the log gets to know.

Knows no clock and no sound: seconds are passed in, whatever their zero, and what is to be heard is asked for.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from fractions import Fraction

from msgspec import Struct

from yellow_hinge.practice.drills import NO_TIME, Drill
from yellow_hinge.practice.ladder import Ladder, Move
from yellow_hinge.practice.listening import Listener, Tolerance, Verdict, Way
from yellow_hinge.practice.log import Try
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.strokes import Stroke
from yellow_hinge.practice.words import NOTHING_TO_PLAY, advice, round_words, sentence

#: Who waits for the right notes sets the tempo alone; a share of the song's tempo beyond these is no tempo.
_SHARES = (0.2, 2.4)


class Round(Struct, frozen=True):
    """A round that is over: slips, changes tried, what the ladder did, and both in words."""

    slips: int
    tries: int
    move: Move
    words: str
    advice: str


@dataclass
class Runner:
    """A drill that is being played. ``wall`` tells the time of day for the log, ``write`` takes tries down.
    ``count_in`` is what is clicked before a round, in quarters; ``latency`` how much later the player is
    heard than played, in seconds."""

    piece: Piece
    drill: Drill
    strokes: tuple[Stroke, ...]
    length: Fraction
    ladder: Ladder
    way: Way
    wall: Callable[[], datetime]
    write: Callable[[Sequence[Try]], object]
    tolerance: Tolerance = field(default=Tolerance())
    count_in: Fraction = NO_TIME
    latency: float = 0.0

    def __post_init__(self) -> None:
        self.verdicts: list[Verdict] = []
        self.rounds: list[Round] = []
        self.listener: Listener | None = None
        self.began = 0.0
        self._last: float | None = None
        self._reached: dict[int, float] = {}

    @property
    def seconds_per_quarter(self) -> float:
        return self.piece.seconds(Fraction(1), self.ladder.tempo)

    @property
    def running(self) -> bool:
        return self.listener is not None

    def begin(self, now: float) -> None:
        """A round begins with its count-in."""
        self.began = now + float(self.count_in) * self.seconds_per_quarter * (self.way == "time")
        self.verdicts, self._last = [], None
        self.listener = Listener(
            self.strokes, self.way, self.seconds_per_quarter, self.began + self.latency, self.tolerance
        )

    def place(self, now: float) -> float:
        """Where the round is, in quarters; negative while it is counted in."""
        return (now - self.began) / self.seconds_per_quarter

    @property
    def ends(self) -> float:
        """When the round is over, for who plays with the click."""
        return self.began + float(self.length) * self.seconds_per_quarter

    def feed(self, key: int, velocity: int, at: float) -> list[Verdict]:
        """A key goes down or up."""
        if self.listener is None or (self.way == "time" and at < self.began - self.tolerance.early * 2):
            return []
        return self._took(self.listener.feed(key, velocity, at), at)

    def tick(self, now: float) -> list[Verdict]:
        """Time passes."""
        if self.listener is None:
            return []
        verdicts = self._took(self.listener.tick(now), now)
        if self.way == "time" and now >= self.ends + self.latency:
            verdicts += self._took(self.listener.rest(), now)
        return verdicts

    def over(self, now: float) -> bool:
        """Whether the round has been played to its end."""
        if self.listener is None:
            return False
        timed = self.way == "time"
        return now >= self.ends + self.latency if timed else self.listener.over

    def _took(self, verdicts: list[Verdict], at: float) -> list[Verdict]:
        for verdict in verdicts:
            self.verdicts.append(verdict)
            if self._last is not None and self.way != "time":
                self._note_pace(at)
            self._last = at
        return verdicts

    def _note_pace(self, at: float) -> None:
        """How fast a change was played by who sets the tempo alone: the chord before it took so long."""
        before = self.verdicts[-2].stroke
        assert self._last is not None
        lasted = max(1e-3, at - self._last)
        share = self.piece.seconds(before.quarters, self.piece.tempo) / lasted * self._pace(before.stand)
        self._reached[len(self.verdicts) - 1] = max(_SHARES[0], min(_SHARES[1], share))

    def finish(self) -> Round:
        """The round is over: the ladder moves, the log is written."""
        tried = [k for k, verdict in enumerate(self.verdicts) if _counts(verdict)]
        slips = sum(not self._clean(k) for k in tried)
        self._write(
            [
                (
                    self.verdicts[k].stroke.change,
                    self._clean(k),
                    (self._share(k), self._pace_before(k)),
                    self._said(k),
                )
                for k in tried
            ]
        )
        move: Move = self.ladder.fed(slips, len(tried)) if self.way == "time" else "stay"
        words = round_words(self.verdicts) if self.strokes else NOTHING_TO_PLAY
        done = Round(slips, len(tried), move, words, self._advice())
        self.rounds.append(done)
        self.listener = None
        return done

    def mark(self, clean: bool) -> Round:
        """Nothing listens: the player says how the round was. All of its changes are taken to have been
        so."""
        changes = self.drill.changes(self.piece)
        pace = self._pace(self.drill.first)
        share = self.ladder.tempo / self.piece.tempo * pace, pace
        if clean:
            self._write([(change, True, share, "") for change in changes])
            slips, tries = 0, max(1, len(changes))
        else:
            weakest = changes[:1] if len(changes) == 1 else ()
            self._write([(change, False, share, "marked by hand") for change in weakest])
            slips, tries = 1, 1
        move = self.ladder.fed(slips, tries)
        done = Round(slips, tries, move, "Marked clean." if clean else "Marked as a slip.", "")
        self.rounds.append(done)
        self.listener = None
        return done

    def stop(self) -> None:
        """Leave the round where it is; nothing of it is written."""
        self.listener = None

    def _clean(self, place: int) -> bool:
        """A change is clean where its stroke is, and what is played on in its chord."""
        stand = self.verdicts[place].stroke
        for verdict in self.verdicts[place:]:
            if verdict.stroke.stand != stand.stand or (
                verdict.stroke.change >= 0 and verdict.stroke is not stand
            ):
                break
            if not verdict.clean:
                return False
        return True

    def _pace(self, stand: int) -> float:
        """How many times sooner than in the song the chord after a stand comes."""
        return self.drill.pace(self.piece, stand)

    def _pace_before(self, place: int) -> float:
        return self._pace(self.verdicts[place - 1].stroke.stand) if place else 1.0

    def _share(self, place: int) -> float:
        """At which share of the song's tempo a change was played, by the time that there was for it."""
        set_to = self._pace_before(place) * self.ladder.tempo / self.piece.tempo
        return set_to if self.way == "time" else self._reached.get(place, set_to)

    def _said(self, place: int) -> str:
        return "" if self._clean(place) else sentence(self.verdicts[place])

    def _advice(self) -> str:
        return advice(self.verdicts, self.drill.hands == "both" and len(self.drill.sides(self.piece)) > 1)

    def _write(self, rows: Sequence[tuple[int, bool, tuple[float, float], str]]) -> None:
        """Changes with whether they were clean, at which share and how many times sooner than in the song the
        next chord came, and what was said of them."""
        moment = self.wall()
        self.write([
            Try(moment, self.piece.changes[change].id, self.drill.hands, drill=self.drill.kind,
                tempo=round(self.piece.tempo * share / pace, 1), share=share, clean=clean, words=words)
            for change, clean, (share, pace), words in rows
        ])  # fmt: skip


def _counts(verdict: Verdict) -> bool:
    return verdict.stroke.change >= 0 and not verdict.stroke.backwards
