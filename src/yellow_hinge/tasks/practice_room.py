"""From a voiced song to a piece that is practised, and to what is known of its changes."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from yellow_hinge.motion.hinge import Held
from yellow_hinge.practice.piece import Change, ChangeId, Piece, Stand
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.tasks.describe_song import Row, row
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing


def piece_of(song: Song, library: Library) -> Piece:
    """A song as it is practised. Chords without a grip are rests: no change leads to them."""
    found = row(song, library)
    stands = tuple(_stand(slot, held) for slot, held in zip(song.slots, found.held, strict=True))
    changes, places = _changes(song, stands, found)
    return Piece(
        song.own_id, song.title or "Untitled", str(song.key_here), song.current, song.tempo,
        song.meter.quarters_per_beat, stands, changes, places,
    )  # fmt: skip


def _stand(slot: Slot, held: Held) -> Stand:
    return Stand(slot.index, slot.at, slot.section, slot.round, slot.bar, slot.quarters, slot.meter, held)


def _changes(song: Song, stands: Sequence[Stand], found: Row) -> tuple[tuple[Change, ...], tuple[int, ...]]:
    """Changes between the same two grips are one; and for each place which it is."""
    places: dict[tuple[Voicing, Voicing], list[int]] = {}
    for index, (before, after) in enumerate(pairwise(stands)):
        if before.voicing.keys and after.voicing.keys:
            places.setdefault((before.voicing, after.voicing), []).append(index)
    rows = [-1] * max(0, len(stands) - 1)
    changes = []
    for number, own in enumerate(places.values()):
        for place in own:
            rows[place] = number
        ids = dict.fromkeys(_id(song, place) for place in own)
        first = own[0]
        changes.append(
            Change(
                tuple(ids),
                tuple(own),
                stands[first].quarters,
                found.hinges[first],
                _strain(song, stands, first),
            )
        )
    return tuple(changes), tuple(rows)


def _id(song: Song, place: int) -> ChangeId:
    before, after = song.slots[place : place + 2]
    return ChangeId(song.own_id, before.take, before.at, after.at, str(before.key))


def _strain(song: Song, stands: Sequence[Stand], first: int) -> float:
    """The widest of the four grips, as a share of the comfortable reach."""
    hands = song.hands
    return max(
        hands.strain(hand, stand.voicing.hand(side).keys) / 100
        for stand in stands[first : first + 2]
        for side, hand in (("left", hands.left), ("right", hands.right))
    )
