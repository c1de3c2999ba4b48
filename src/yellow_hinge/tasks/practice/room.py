"""From a voiced song to a piece that is practised, and to what is known of its changes."""

from __future__ import annotations

import random
from collections.abc import Iterator, Sequence
from itertools import groupby, pairwise

from msgspec.structs import replace

from yellow_hinge.hands.fingering import line_fingers
from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.motion.hinge import Held
from yellow_hinge.practice.piece import Change, ChangeId, LineStroke, Piece, Stand
from yellow_hinge.rhythm.patterns import HANDS
from yellow_hinge.song.groove_edits import set_riffs
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.tasks.keys.moved import shown_in, twelve_keys
from yellow_hinge.tasks.rhythm.line_desk import propose_line
from yellow_hinge.tasks.song.describe_song import Row, row
from yellow_hinge.tasks.song.problem import wish_for
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing


def piece_of(song: Song, library: Library) -> Piece:
    """A song as it is practised. Chords without a grip are rests: no change leads to them."""
    found = row(song, library)
    stands = tuple(_stand(song, slot, held) for slot, held in zip(song.slots, found.held, strict=True))
    changes, places = _changes(song, stands, found)
    return Piece(
        song.own_id, song.title or "Untitled", str(song.key_here), take=song.current, tempo=song.tempo,
        quarters_per_beat=song.meter.quarters_per_beat, stands=stands, changes=changes, row=places,
    )  # fmt: skip


def _stand(song: Song, slot: Slot, held: Held) -> Stand:
    where = (slot.index, slot.at, slot.section, slot.round, slot.bar, slot.quarters, slot.meter)
    return Stand(*where, held, tuple(_line(song, slot)))


def _line(song: Song, slot: Slot) -> Iterator[LineStroke]:
    """What the hands play on a slot in lines of their own."""
    unit = slot.meter.quarters_per_beat
    for hand in HANDS:
        row = [
            note for note in song.line_over(slot.index) if note.hand == hand and note.at_beats < slot.beats
        ]
        fingers = dict(zip(row, line_fingers(tuple(note.key for note in row), hand == "left"), strict=True))
        for at, group in groupby(row, key=lambda note: note.at_beats):
            together = list(group)
            keys, own = tuple(note.key for note in together), tuple(fingers[note] for note in together)
            lasts = min(together[0].beats, slot.beats - at) * unit
            yield LineStroke(hand, at * unit, lasts, keys, own)


def _changes(song: Song, stands: Sequence[Stand], row: Row) -> tuple[tuple[Change, ...], tuple[int, ...]]:
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
                row.hinges[first],
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


# --- other keys ---------------------------------------------------------------------------------

#: Orders in which a drill goes through the keys: half steps from one to the next (0: shuffled), in words.
KEY_ORDERS: tuple[tuple[int, str], ...] = ((5, "fourths"), (7, "fifths"), (1, "half steps"), (0, "shuffled"))


def key_row(step: int, chance: random.Random) -> tuple[int, ...]:
    """Half steps above the song's own key, through all twelve, the own one first."""
    if step:
        return tuple(step * k % 12 for k in range(12))
    others = list(range(1, 12))
    chance.shuffle(others)
    return (0, *others)


def in_key(song: Song, shift_st: int) -> Song:
    """The song with its grips some half steps higher (or lower), as its own key is left."""
    return shown_in(song, twelve_keys(song.key)[shift_st % 12])


def pieces_in_keys(song: Song, library: Library) -> list[Piece]:
    """The song in the further keys that the player wants to practise."""
    wanted = sorted(song.keys_chosen - {song.key}, key=lambda key: key.fifths)
    pieces = []
    for key in wanted:
        piece = piece_of(shown_in(song, key), library)
        pieces.append(replace(piece, id=song.own_id, title=f"{piece.title} in {key.pretty}"))
    return pieces


# --- a line over the left hand ------------------------------------------------------------------

#: What a line goes by where the take has none: chord tones that aim at the next third, four to a bar.
_LINE_KIND, _LINE_DENSITY = "thirds", 1


def with_lines(song: Song, slots: Sequence[int]) -> Song:
    """The song with a line of the right hand over neighbouring slots; where the take has one it stays."""
    riffs = song.arrangement.groove.riffs
    if all(song.slots[index].at in riffs for index in slots):
        return song
    rows = propose_line(song, slots, _LINE_KIND, _LINE_DENSITY)
    lines = {at: row for at, row in rows.items() if at not in riffs}
    return set_riffs(song, lines, "Line").song


# --- the nearest grip ---------------------------------------------------------------------------


def nearest(
    song: Song, library: Library, index: int, before: Voicing, counts: tuple[int, int]
) -> Voicing | None:
    """Of the legal grips of a slot that have as many notes in each hand as is asked (or else of all) the one
    with the fewest half steps from a grip before; None for a rest."""
    from yellow_hinge.voicing.candidates import candidates  # noqa: PLC0415 - NumPy

    slot = song.slots[index]
    if slot.chord is None:
        return None
    found = candidates(wish_for(slot.chord, slot.key, song.decided(index), song.hands, library), library)
    moves = [
        [hand_motion(before.hand(side).keys, shape.keys).motion_st for shape in shapes]
        for side, shapes in (("left", found.left), ("right", found.right))
    ]
    pairs = [
        (left, right) for left, row in enumerate(found.legal.tolist()) for right, ok in enumerate(row) if ok
    ]
    same = [
        (left, right)
        for left, right in pairs
        if (len(found.left[left].keys), len(found.right[right].keys)) == counts
    ]
    best = min(same or pairs, key=lambda pair: moves[0][pair[0]] + moves[1][pair[1]], default=None)
    return None if best is None else Voicing(found.left[best[0]], found.right[best[1]])
