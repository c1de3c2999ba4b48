"""The right hand plays the tune and keeps of its chord what lies below it, within its fingers and its reach;
and what it has to leave out."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.geometry import span_mm
from yellow_hinge.hands.profile import Hand
from yellow_hinge.rhythm.events import NoteEvent

#: Why a note of the chord cannot be held: it lies above the tune, the hand does not reach it, or has no
#: finger left for it.
Why = Literal["above", "reach", "fingers"]
_TOLERANCE_MM = 0.5
#: Octaves by which a tune may move to lie over the chords.
TUNE_OCTAVES = range(-3, 4)
#: A note of a chord that is lost weighs as much as so many notes of the tune an octave away from where they
#: are written, our choice; one that lies out of the hand's register as much as so many of the chord.
_LOST, _OUTSIDE = 4, 5


class LeftOut(Struct, frozen=True):
    """A note of the chord that is not held under the tune: from when (quarters from the first bar line), why,
    and whether it was ``struck`` and is let go."""

    key: int
    at: Fraction
    why: Why
    struck: bool


class UnderTune(Struct, frozen=True):
    """What is kept of the chord's strokes, and what is not."""

    kept: tuple[NoteEvent, ...]
    left_out: tuple[LeftOut, ...]


class Fingers(Struct, frozen=True):
    """How far a hand reaches, and how many notes it takes."""

    reach_mm: float
    octave_mm: float
    most: int

    @classmethod
    def of(cls, hand: Hand, octave_mm: float) -> Fingers:
        return cls(hand.reach_mm, octave_mm, hand.most_notes)

    def too_many(self, keys: Sequence[int], tune: Sequence[int]) -> tuple[int, Why] | None:
        """The key of a chord that has to go first, under notes of a tune: the lowest where the hand does not
        reach it; of too many the one that the tune or a higher key has an octave above, else the one nearest
        below the tune."""
        every = sorted({*keys, *tune})
        if not keys or not every:
            return None
        if span_mm(every[0], every[-1], self.octave_mm) > self.reach_mm + _TOLERANCE_MM:
            return min(keys), "reach"
        if len(every) > self.most:
            doubled = [key for key in keys if any(other > key and (other - key) % 12 == 0 for other in every)]
            return (min(doubled) if doubled else max(keys)), "fingers"
        return None


def under_tune(strokes: Sequence[NoteEvent], tune: Sequence[NoteEvent], fingers: Fingers) -> UnderTune:
    """A chord's strokes under the notes of a tune that sound meanwhile. A note is let go when the tune comes
    to its key or below, and when the hand cannot hold it any longer."""
    lasting = {number: event.end_quarters for number, event in enumerate(strokes)}
    left_out: list[LeftOut] = []

    def let_go(number: int, at: Fraction, why: Why | None) -> None:
        event = strokes[number]
        lasting[number] = min(lasting[number], at)
        if why is not None:
            left_out.append(LeftOut(event.key, at, why, at > event.start_quarters))

    for at in sorted({event.start_quarters for event in (*strokes, *tune)}):
        over = [event.key for event in tune if event.start_quarters <= at < event.end_quarters]
        held = [n for n, event in enumerate(strokes) if event.start_quarters <= at < lasting[n]]
        for number in held:
            key = strokes[number].key
            if over and key >= min(over):
                let_go(number, at, None if key in over else "above")
        held = [number for number in held if lasting[number] > at]
        while over and (gone := fingers.too_many([strokes[n].key for n in held], over)) is not None:
            for number in [n for n in held if strokes[n].key == gone[0]]:
                let_go(number, at, gone[1])
            held = [number for number in held if lasting[number] > at]
    kept = tuple(
        event
        if lasting[n] == event.end_quarters
        else replace(event, quarters=lasting[n] - event.start_quarters)
        for n, event in enumerate(strokes)
        if lasting[n] > event.start_quarters
    )
    return UnderTune(kept, tuple(left_out))


class Over(Struct, frozen=True):
    """A chord's keys in the right hand, and the tune's keys over it."""

    grip: tuple[int, ...]
    tune: tuple[int, ...]


def tune_octaves(row: Sequence[Over], hand: Hand, octave_mm: float) -> int:
    """The octaves by which a tune moves so that the hand keeps most of its chords under it: one number for
    all of it, so that its own intervals stay; as written where an octave would save little."""
    fingers = Fingers.of(hand, octave_mm)

    def price(octaves: int) -> tuple[int, int, int]:
        lost = notes = 0
        for over in row:
            for key in (key + 12 * octaves for key in over.tune):
                notes += 1
                lost += _lost(over.grip, key, fingers)
                lost += 0 if hand.lowest_key <= key <= hand.highest_key else _OUTSIDE
        return _LOST * lost + notes * abs(octaves), abs(octaves), octaves

    return min(TUNE_OCTAVES, key=price)


def _lost(grip: tuple[int, ...], tune: int, fingers: Fingers) -> int:
    """How many keys of a chord cannot be held under a note."""
    keys = [key for key in grip if key < tune]
    while (gone := fingers.too_many(keys, (tune,))) is not None:
        keys.remove(gone[0])
    return sum(key != tune for key in grip) - len(keys)


def octave_words(octaves: int) -> str:
    """Where a tune lies against where it is written."""
    if not octaves:
        return "as written"
    much = "an octave" if abs(octaves) == 1 else f"{abs(octaves)} octaves"
    return f"{much} {'higher' if octaves > 0 else 'lower'}"
