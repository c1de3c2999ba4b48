"""The pedal as the music wants it: changed with the harmony, and earlier where what it would hold lies too
low together or rubs; none under dry patterns."""

from __future__ import annotations

from collections.abc import Iterator, Sequence, Set
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise

from msgspec import Struct

from yellow_hinge.remembering import for_a_song
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.theory.roughness import sounding
from yellow_hinge.voicing.limits import LOWEST_SECOND_KEY, too_low

#: Half steps that rub wherever they lie: a half step and its octave.
_RUBS = (1, 13)
_WHOLE_STEP = 2
#: Roughness and mud that a pedal may add, in hundredths: a little less than is remarked on.
_ROUGHER, _MUDDIER = 100, 75
#: More changes than this to a quarter are none: the feet do not dance, our choice.
_MOST_CHANGES = 1


class Held(Struct, frozen=True):
    """What the pedal does over a stretch, in quarters from its beginning: where it is changed, and from where
    on it is up (None: it stays to the end)."""

    changes: tuple[Fraction, ...]
    until: Fraction | None = None


def blurs(keys: Set[int], *together: Set[int]) -> bool:
    """Whether keys that ring at once lie too low for each other or rub; what is ``together`` in a grip, or
    under the fingers, is as it was chosen."""

    def chosen(low: int, high: int) -> bool:
        return any(low in row and high in row for row in together)

    if any(keys <= row for row in together):
        return False
    row = sorted(keys)
    if any(too_low(low, high) and not chosen(low, high) for low, high in pairwise(row)):
        return True
    if any(_rub(low, high) and not chosen(low, high) for low, high in _pairs(row)):
        return True
    return _thick(keys, together)


def _thick(keys: Set[int], together: Sequence[Set[int]]) -> bool:
    """Whether what rings is clearly rougher or muddier than the grip, and than what the fingers hold."""
    if len(keys) < 2 or not together:
        return False
    rough, muddy = sounding(keys)
    others = [sounding(row) for row in together]
    rougher = rough - max(own for own, _ in others)
    muddier = muddy - max(own for _, own in others)
    return rougher >= _ROUGHER or muddier >= _MUDDIER


def _rub(low: int, high: int) -> bool:
    apart = high - low
    return apart in _RUBS or (apart == _WHOLE_STEP and low < LOWEST_SECOND_KEY)


def _pairs(row: Sequence[int]) -> Iterator[tuple[int, int]]:
    return ((low, high) for place, low in enumerate(row) for high in row[place + 1 :])


class Struck(Struct, frozen=True):
    """A note as the pedal knows it: when it begins and ends, in quarters from the beginning of its stretch,
    its key, and whether it is crushed."""

    start: Fraction
    end: Fraction
    key: int
    crushed: bool


def computed(notes: Sequence[NoteEvent], grip: Set[int], start: Fraction, quarters: Fraction) -> Held:
    """As :func:`held_over`, for notes of a song; the same chords come again and again."""
    row = (
        Struck(event.start_quarters - start, event.end_quarters - start, event.key, event.way == "grace")
        for event in notes
    )
    return held_over(tuple(row), frozenset(grip), quarters)


@for_a_song
@lru_cache(maxsize=4096)
def held_over(notes: tuple[Struck, ...], grip: frozenset[int], quarters: Fraction) -> Held:
    """What the pedal does under the notes of a stretch, of which the keys of ``grip`` are its chord: it goes
    down with the first stroke, is changed where the next one would blur what it holds or has a crushed note,
    and stays up from there on where it would have to be changed on every stroke."""
    strokes = sorted({note.start for note in notes if 0 <= note.start < quarters})
    if not strokes:
        return Held(())
    changes, ringing = [strokes[0]], set[int]()
    for at in strokes:
        struck = [note for note in notes if note.start == at]
        keys = {one.key for one in struck if not one.crushed}
        crushed = {one.key for one in struck if one.crushed}
        fingers = {note.key for note in notes if note.start <= at < note.end} - crushed
        if at != strokes[0] and (crushed or blurs(ringing | keys, grip, fingers)):
            changes.append(at)
            ringing = fingers
        ringing |= keys
    if len(changes) > 1 + _MOST_CHANGES * quarters:
        return Held((changes[0],), changes[1])
    return Held(tuple(changes))
