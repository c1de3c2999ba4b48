"""What the log says of the changes of a song: how sure each one is, and how that went over the weeks."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from datetime import date, datetime, timedelta

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.practice.build import opening
from yellow_hinge.practice.log import Done, Session, Try
from yellow_hinge.practice.piece import ChangeId, Piece
from yellow_hinge.practice.sureness import Sureness, begun, moved_in

#: What a try with one hand tells about the change with both: our choice.
_ONE_HAND = 0.5


def sure_of(pieces: Sequence[Piece], tries: Iterable[Try], moment: datetime) -> list[Sureness]:
    """For each change of each song, in order, what its tries make of it. A change that was only tried in
    another key or take begins half as sure as it is there."""
    sure: dict[tuple[int, int], Sureness] = {}
    at = {
        change_id: (number, change)
        for number, piece in enumerate(pieces)
        for change_id, change in piece.by_id.items()
    }
    elsewhere: dict[tuple[object, ...], Sureness] = {}
    for attempt in _by_now(tries, moment):
        place = at.get(attempt.change)
        if place is None:
            loose = _loosely(attempt.change)
            elsewhere[loose] = _tried(elsewhere.get(loose) or begun(0.0), attempt)
            continue
        piece = pieces[place[0]]
        known = sure.get(place) or begun(opening(piece.changes[place[1]], piece))
        sure[place] = _tried(known, attempt)
    return [
        sure.get((number, index)) or _begun(piece, index, elsewhere, moment)
        for number, piece in enumerate(pieces)
        for index in range(len(piece.changes))
    ]


def _by_now(tries: Iterable[Try], moment: datetime) -> Iterator[Try]:
    """Tries in the order they were made; one that a clock which was ahead puts behind the ``moment`` counts
    as of the time of the one before, or of the first that is not."""
    rows = list(tries)
    before = next((attempt.at for attempt in rows if attempt.at <= moment), moment)
    for attempt in rows:
        before = attempt.at if attempt.at <= moment else before
        yield attempt if attempt.at <= moment else replace(attempt, at=before)


def learnt(pieces: Sequence[Piece], sure: Sequence[Sureness], tries: Iterable[Try]) -> list[Sureness]:
    """What is known of all changes, in order, after some more tries."""
    found, offset = list(sure), 0
    rows = list(tries)
    for piece in pieces:
        for attempt in rows:
            change = piece.by_id.get(attempt.change)
            if change is not None:
                found[offset + change] = _tried(found[offset + change], attempt)
        offset += len(piece.changes)
    return found


def _loosely(change: ChangeId) -> tuple[object, ...]:
    """A change in whatever key and take."""
    return change.song, change.start, change.end


def _begun(
    piece: Piece, index: int, elsewhere: dict[tuple[object, ...], Sureness], moment: datetime
) -> Sureness:
    own = opening(piece.changes[index], piece)
    sureness = next(
        (
            elsewhere[_loosely(change_id)]
            for change_id in piece.changes[index].ids
            if _loosely(change_id) in elsewhere
        ),
        None,
    )
    return begun(own) if sureness is None else moved_in(own, sureness, moment)


def _tried(known: Sureness, attempt: Try) -> Sureness:
    weight = 1.0 if attempt.hands == "both" else _ONE_HAND
    return known.tried(attempt.clean, attempt.share, attempt.at, weight)


class Week(Struct, frozen=True):
    """A week of practice: its Monday, minutes, tries and the share of clean ones, and the fastest clean
    tempo, in beats a minute (0: none)."""

    monday: date
    minutes: float
    tries: int
    clean: float
    tempo: int


def weeks(sessions: Sequence[Session], tries: Sequence[Try], moment: datetime, most: int = 12) -> list[Week]:
    """The last weeks, those without practice among them."""
    this = moment.date() - timedelta(days=moment.weekday())
    weeks = []
    for back in reversed(range(most)):
        monday = this - timedelta(weeks=back)
        attempts = [attempt for attempt in tries if _in_week(attempt.at, monday)]
        done: list[Done] = [d for session in sessions for d in session.done if _in_week(d.at, monday)]
        clean = sum(attempt.clean for attempt in attempts)
        tempo = max((attempt.tempo for attempt in attempts if attempt.clean), default=0)
        weeks.append(
            Week(
                monday,
                sum(d.minutes for d in done),
                len(attempts),
                clean / max(1, len(attempts)),
                round(tempo),
            )
        )
    while weeks and not weeks[0].tries and not weeks[0].minutes and len(weeks) > 1:
        weeks.pop(0)
    return weeks


def _in_week(at: datetime, monday: date) -> bool:
    return monday <= at.date() < monday + timedelta(weeks=1)
