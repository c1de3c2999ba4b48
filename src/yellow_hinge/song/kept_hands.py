"""Hands that the player has kept in a chord, locked or as they are; and which of them another form of the
song would not have, note for note."""

from __future__ import annotations

from collections.abc import Iterator

from yellow_hinge.song.model import Slot, Song
from yellow_hinge.voicing.shape import HandShape

SIDES = ("left", "right")
#: Of hands that change so many are said one by one.
_MOST_SAID = 3


def kept_hand(song: Song, index: int, side: str) -> HandShape | None:
    """The hand that the player has kept in a slot, locked or as it is; None where it is free or empty."""
    voicing, hold = song.voicing(index), song.ask(index).hold
    if side in hold.names:
        held: HandShape = getattr(hold, side)
        return held
    shape = voicing.hand(side) if voicing is not None and song.locked(index) else None
    return shape if shape is not None and shape.keys else None


def kept_right(song: Song, index: int) -> HandShape | None:
    """The right hand that the player has kept in a slot."""
    return kept_hand(song, index, "right")


def right_now(song: Song, index: int) -> HandShape | None:
    """The right hand that sounds in a slot, kept or not."""
    voicing = song.voicing(index)
    return voicing.right if voicing is not None and voicing.right.keys else None


def let_go(before: Song, after: Song) -> tuple[str, ...]:
    """Hands that the player has kept and that ``after`` does not have note for note, in words: the place,
    what was kept and what comes; the first few of them."""
    let_go = list(_let_go(before, after))
    rest = len(let_go) - _MOST_SAID
    return (*let_go[:_MOST_SAID], *([f"and {rest} more"] if rest > 0 else ()))


def _let_go(before: Song, after: Song) -> Iterator[str]:
    """Each once, in the first round where it is so."""
    by_place: dict[int, list[Slot]] = {}
    for slot in after.slots:
        by_place.setdefault(slot.place, []).append(slot)
    said = set()
    for slot in before.slots:
        kept = [(side, hand) for side in SIDES if (hand := kept_hand(before, slot.index, side)) is not None]
        for side, hand in kept if slot.chord is not None else ():
            for now in by_place.get(slot.place, ()):
                voicing = after.voicing(now.index)
                comes = None if voicing is None else voicing.hand(side)
                if not _together(slot, now) or (comes is not None and comes.keys == hand.keys):
                    continue
                became = "is found anew" if comes is None else _became(now, comes)
                words = f"the {side} hand you kept, {_notes(slot, hand)}, {became}"
                if (slot.at, words) not in said:
                    said.add((slot.at, words))
                    yield f"bar {now.bar}: {words}"


def _became(slot: Slot, shape: HandShape) -> str:
    return f"becomes {_notes(slot, shape)}" if shape.keys else "rests"


def _notes(slot: Slot, shape: HandShape) -> str:
    return " ".join(pitch.pretty for pitch in shape.pitches(slot.chord)) if slot.chord is not None else ""


def _together(slot: Slot, other: Slot) -> bool:
    """Whether two slots sound at the same time."""
    ends = slot.start_quarters + slot.quarters, other.start_quarters + other.quarters
    return slot.start_quarters < ends[1] and other.start_quarters < ends[0]


def let_go_words(before: Song, after: Song) -> str:
    """The same in a sentence to stand behind others; empty where every hand stays."""
    kept = "; ".join(let_go(before, after))
    return f" {kept[:1].upper()}{kept[1:]}." if kept else ""
