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
    found = list(dict.fromkeys(_let_go(before, after)))
    rest = len(found) - _MOST_SAID
    return (*found[:_MOST_SAID], *([f"and {rest} more"] if rest > 0 else ()))


def _let_go(before: Song, after: Song) -> Iterator[str]:
    for column in before.columns:
        slot = before.slots[column[0]]
        for side in SIDES:
            hand = kept_hand(before, slot.index, side)
            if hand is None or slot.chord is None:
                continue
            for now in _during(after, slot):
                voicing = after.voicing(now.index)
                comes = None if voicing is None else voicing.hand(side)
                if comes is None or comes.keys != hand.keys:
                    became = "is found anew" if comes is None else _became(now, comes)
                    yield f"bar {now.bar}: the {side} hand you kept, {_notes(slot, hand)}, {became}"


def _became(slot: Slot, shape: HandShape) -> str:
    return f"becomes {_notes(slot, shape)}" if shape.keys else "rests"


def _notes(slot: Slot, shape: HandShape) -> str:
    return " ".join(pitch.pretty for pitch in shape.pitches(slot.chord)) if slot.chord is not None else ""


def _during(song: Song, slot: Slot) -> list[Slot]:
    """What sounds in another form of a song while a slot lasts."""
    end = slot.start_quarters + slot.quarters
    return [
        one
        for one in song.slots
        if one.take == slot.take
        and one.start_quarters < end
        and one.start_quarters + one.quarters > slot.start_quarters
    ]


def let_go_words(before: Song, after: Song) -> str:
    """The same in a sentence to stand behind others; empty where every hand stays."""
    kept = "; ".join(let_go(before, after))
    return f" {kept[:1].upper()}{kept[1:]}." if kept else ""
