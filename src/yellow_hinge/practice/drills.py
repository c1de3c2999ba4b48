"""Drills: what is played over and over, as a row of stands."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Literal

from msgspec import Struct

from yellow_hinge.practice.piece import Piece
from yellow_hinge.rhythm.counts import counts_of

Hands = Literal["left", "right", "both"]
SIDES: tuple[Literal["left", "right"], ...] = ("left", "right")
Kind = Literal["change", "spots", "chain", "phrase", "section", "song"]
#: Kinds that are longer than a chain.
LONG: tuple[Kind, ...] = ("phrase", "section", "song")
#: How often a single change is played in a round: there and back, each way so many times.
TIMES = 4
#: Counts for which a chord is held where a change goes there and back.
COUNTS = 2
#: A chain joins so many changes at most.
MOST_CHAIN = 4
NO_TIME = Fraction(0)


class Drill(Struct, frozen=True):
    """Stretches of a song, each from one stand to another, played over and over. ``piece`` is its place on
    the shelf. A single change goes there and back, its chords for :data:`COUNTS` counts at most (as long as
    in the song where it is ``whole``); several of them come in turn ("spots"); what is longer begins anew."""

    kind: Kind
    piece: int
    spans: tuple[tuple[int, int], ...]
    hands: Hands = "both"
    whole: bool = False

    @property
    def first(self) -> int:
        return self.spans[0][0]

    @property
    def last(self) -> int:
        return self.spans[-1][1]

    @property
    def alternates(self) -> bool:
        """Whether it goes there and back."""
        return self.kind in ("change", "spots")

    def changes(self, piece: Piece) -> tuple[int, ...]:
        """The changes that a round practises, each once, in order."""
        return tuple(dict.fromkeys(change for span in self.spans for change in piece.changes_in(*span)))

    def sides(self, piece: Piece) -> tuple[Literal["left", "right"], ...]:
        """The hands that have anything to play in it, whichever the drill is for."""
        stands = [piece.stands[stand] for span in self.spans for stand in range(span[0], span[1] + 1)]
        return tuple(side for side in SIDES if any(one.plays(side) for one in stands))

    def has_line(self, piece: Piece) -> bool:
        """Whether a hand plays a line of its own in it."""
        return any(piece.stands[k].line for span in self.spans for k in range(span[0], span[1] + 1))

    def round(self, piece: Piece) -> Iterator[tuple[int, int, bool]]:
        """The stands of one round in order, each with the change that leads to it (-1: none) and whether that
        is played backwards."""
        for first, last in self.spans:
            if self.alternates:
                change = piece.row[first]
                yield first, -1, False
                for turn in range(2 * TIMES - 1):
                    yield (first if turn % 2 else last), change, bool(turn % 2)
            else:
                yield first, -1, False
                for stand in range(first + 1, last + 1):
                    yield stand, piece.row[stand - 1], False

    def round_seconds(self, piece: Piece, tempo: float) -> float:
        """How long a round lasts at a tempo."""
        return piece.seconds(self.length(piece), tempo)

    def length(self, piece: Piece) -> Fraction:
        """How long a round is, in quarters."""
        return sum((self.lasts(piece, stand) for stand, _, _ in self.round(piece)), start=NO_TIME)

    def lasts(self, piece: Piece, stand: int) -> Fraction:
        """How long a chord lasts in it, in quarters: what goes there and back is about the change, not about
        what is held; a line is played to its end."""
        one = piece.stands[stand]
        if not self.alternates or self.whole or one.line:
            return one.quarters
        return min(one.quarters, sum(counts_of(one.meter)[:COUNTS], start=NO_TIME))

    def pace(self, piece: Piece, stand: int) -> float:
        """How many times sooner than in the song the next chord comes."""
        return float(piece.stands[stand].quarters / self.lasts(piece, stand))


def kind_of(piece: Piece, first: int, last: int) -> Kind:
    """What a stretch is called."""
    if (first, last) == (0, len(piece.stands) - 1) and last > MOST_CHAIN:
        return "song"
    if last - first <= 1:
        return "change"
    if last - first <= MOST_CHAIN:
        return "chain"
    return "phrase" if (first, last) in piece.phrases and (first, last) not in piece.sections else "section"
