"""Blocks of a session as rows of the log, and back: a session that was stopped is found again."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, get_args

from yellow_hinge.practice.drills import Drill, Hands, Kind
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.plan import REST, Block


def kept(block: Block, pieces: Sequence[Piece]) -> dict[str, Any]:
    """A block as the log keeps it. Its stretch goes by song and key, and by stands."""
    row: dict[str, Any] = {
        "what": block.what, "from": block.from_tempo, "to": block.to_tempo, "minutes": block.minutes,
        "why": block.why,
    }  # fmt: skip
    if block.drill is not None:
        piece = pieces[block.drill.piece]
        row |= {
            "song": piece.id, "key": piece.key, "stands": len(piece.stands), "kind": block.drill.kind,
            "hands": block.drill.hands, "spans": [list(span) for span in block.drill.spans],
        }  # fmt: skip
    return row


def found_again(row: Mapping[str, Any], pieces: Sequence[Piece]) -> Block | None:
    """A block from the log; None where its song is not there, or is another one by now."""
    try:
        if "song" not in row:
            return REST
        place = next(
            (k for k, piece in enumerate(pieces)
             if (piece.id, piece.key, len(piece.stands)) == (row["song"], row["key"], row["stands"])), None,
        )  # fmt: skip
        kind: Kind = row["kind"]
        hands: Hands = row["hands"]
        spans = tuple((int(first), int(last)) for first, last in row["spans"])
        known = kind in get_args(Kind) and hands in get_args(Hands) and bool(spans)
        if place is None or not known:
            return None
        if not all(0 <= first < last < len(pieces[place].stands) for first, last in spans):
            return None
        drill = Drill(kind, place, spans, hands)
        return Block(drill, str(row["what"]), int(row["from"]), int(row["to"]), float(row["minutes"]),
                     why=str(row["why"]))  # fmt: skip
    except (KeyError, TypeError, ValueError):
        return None
