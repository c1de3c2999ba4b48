"""What the log says of the changes of a song: how sure each one is, and how that went over the weeks."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date, datetime, timedelta

from msgspec import Struct

from yellow_hinge.practice.build import opening
from yellow_hinge.practice.log import Done, Session, Try
from yellow_hinge.practice.piece import ChangeId, Piece
from yellow_hinge.practice.sureness import Sureness, begun, moved_in

#: What a try with one hand tells about the change with both: our choice.
_ONE_HAND = 0.5


def sure_of(pieces: Sequence[Piece], tries: Iterable[Try], now: datetime) -> list[Sureness]:
    """For each change of each song, in order, what its tries make of it. A change that was only tried in
    another key or take begins half as sure as it is there."""
    found: dict[tuple[int, int], Sureness] = {}
    at = {own: (number, change) for number, piece in enumerate(pieces) for own, change in piece.by_id.items()}
    elsewhere: dict[tuple[object, ...], Sureness] = {}
    for one in tries:
        place = at.get(one.change)
        if place is None:
            loose = _loosely(one.change)
            elsewhere[loose] = _tried(elsewhere.get(loose) or begun(0.0), one)
            continue
        piece = pieces[place[0]]
        known = found.get(place) or begun(opening(piece.changes[place[1]], piece))
        found[place] = _tried(known, one)
    return [
        found.get((number, index)) or _begun(piece, index, elsewhere, now)
        for number, piece in enumerate(pieces)
        for index in range(len(piece.changes))
    ]


def learnt(pieces: Sequence[Piece], sure: Sequence[Sureness], tries: Iterable[Try]) -> list[Sureness]:
    """What is known of all changes, in order, after some more tries."""
    found, offset = list(sure), 0
    rows = list(tries)
    for piece in pieces:
        for one in rows:
            change = piece.by_id.get(one.change)
            if change is not None:
                found[offset + change] = _tried(found[offset + change], one)
        offset += len(piece.changes)
    return found


def _loosely(change: ChangeId) -> tuple[object, ...]:
    """A change in whatever key and take."""
    return change.song, change.start, change.end


def _begun(
    piece: Piece, index: int, elsewhere: dict[tuple[object, ...], Sureness], now: datetime
) -> Sureness:
    own = opening(piece.changes[index], piece)
    other = next(
        (elsewhere[_loosely(one)] for one in piece.changes[index].ids if _loosely(one) in elsewhere), None
    )
    return begun(own) if other is None else moved_in(own, other, now)


def _tried(known: Sureness, one: Try) -> Sureness:
    weight = 1.0 if one.hands == "both" else _ONE_HAND
    return known.tried(one.clean, one.share, one.at, weight)


class Week(Struct, frozen=True):
    """A week of practice: its Monday, minutes, tries and the share of clean ones, and the fastest clean
    tempo, in beats a minute (0: none)."""

    monday: date
    minutes: float
    tries: int
    clean: float
    tempo: int


def weeks(sessions: Sequence[Session], tries: Sequence[Try], now: datetime, most: int = 12) -> list[Week]:
    """The last weeks, those without practice among them."""
    this = now.date() - timedelta(days=now.weekday())
    found = []
    for back in reversed(range(most)):
        monday = this - timedelta(weeks=back)
        own = [one for one in tries if _in_week(one.at, monday)]
        done: list[Done] = [d for one in sessions for d in one.done if _in_week(d.at, monday)]
        clean = sum(one.clean for one in own)
        tempo = max((one.tempo for one in own if one.clean), default=0)
        found.append(
            Week(monday, sum(d.minutes for d in done), len(own), clean / max(1, len(own)), round(tempo))
        )
    while found and not found[0].tries and not found[0].minutes and len(found) > 1:
        found.pop(0)
    return found


def _in_week(at: datetime, monday: date) -> bool:
    return monday <= at.date() < monday + timedelta(weeks=1)
