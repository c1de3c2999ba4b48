"""Changing a grip by hand: inversions, octaves, single notes, from one hand to the other.

Everything works on keys alone; what they are in a chord is said by :func:`voicing.naming.classify`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.profile import Hand, HandProfile

#: The keys of a piano.
LOWEST_PIANO_KEY, HIGHEST_PIANO_KEY = 21, 108
#: From the G below middle C upwards a hand alone is taken for the right one (our choice).
_RIGHT_FROM_KEY = 55
#: A hand has so many fingers.
MOST_FINGERS = 5


class Keys(Struct, frozen=True):
    """What both hands hold, low to high."""

    left: tuple[int, ...] = ()
    right: tuple[int, ...] = ()

    def hand(self, side: str) -> tuple[int, ...]:
        """The keys of the "left" or "right" hand."""
        return self.left if side == "left" else self.right

    def with_hand(self, side: str, keys: Iterable[int]) -> Keys | None:
        """Other keys in one hand; None where they are no grip: more than a hand has fingers, beyond
        the keyboard, or held by the other hand."""
        row = tuple(sorted(set(keys)))
        other = self.right if side == "left" else self.left
        inside = all(LOWEST_PIANO_KEY <= key <= HIGHEST_PIANO_KEY for key in row)
        if len(row) > MOST_FINGERS or not inside or set(row) & set(other):
            return None
        return replace(self, **{side: row})

    def side_of(self, key: int) -> str | None:
        """Which hand holds a key."""
        return "left" if key in self.left else "right" if key in self.right else None


def split(row: Iterable[int], profile: HandProfile) -> Keys:
    """Keys that were played, shared out between the hands: all to one where they lie in its part of the
    keyboard and within its reach, else where both reach theirs and the gap is widest."""
    every = tuple(sorted(set(row)))[: 2 * MOST_FINGERS]
    fits = {side: profile.can_reach(_hand(profile, side), every) for side in ("left", "right")}
    if len(every) <= MOST_FINGERS and every:
        if fits["right"] and every[0] >= _RIGHT_FROM_KEY:
            return Keys(right=every)
        if fits["left"] and every[-1] < _RIGHT_FROM_KEY:
            return Keys(left=every)

    def worth(cut: int) -> tuple[bool, bool, int]:
        left, right = every[:cut], every[cut:]
        fingers = len(left) <= MOST_FINGERS and len(right) <= MOST_FINGERS
        reach = profile.can_reach(profile.left, left) and profile.can_reach(profile.right, right)
        return fingers, reach, right[0] - left[-1] if left and right else 0

    cut = max(range(len(every) + 1), key=worth)
    return Keys(every[:cut], every[cut:])


def _hand(profile: HandProfile, side: str) -> Hand:
    return profile.left if side == "left" else profile.right


def inverted(keys: Keys, side: str, up: bool) -> Keys | None:
    """The next inversion of one hand: its lowest note goes above the others (up), or its highest one
    below them. None for a hand of one note, and at the end of the keyboard."""
    row = list(keys.hand(side))
    if len(row) < 2:
        return None
    moved = row.pop(0 if up else -1)
    step = 12 if up else -12
    moved += step
    while moved in row or (moved < row[-1] if up else moved > row[0]):
        moved += step
    return keys.with_hand(side, [*row, moved])


def by_octaves(keys: Keys, side: str, octaves: int) -> Keys | None:
    """One hand so many octaves higher; None where that is no grip."""
    row = keys.hand(side)
    return keys.with_hand(side, [key + 12 * octaves for key in row]) if row else None


def slid(keys: Keys, st: int) -> Keys | None:
    """Both hands so many half steps higher, their shape as it is; None beyond the keyboard."""
    return _each(keys, lambda key: key + st)


def slid_in(keys: Keys, tones: frozenset[int], up: bool) -> Keys | None:
    """Every note on the next of ``tones`` (pitch classes, one at least): a step in a scale, or the next
    inversion where these are the grip's own. None where two notes would meet, and beyond the keyboard."""
    steps = range(1, 13) if up else range(-1, -13, -1)
    return _each(keys, lambda key: next(key + st for st in steps if (key + st) % 12 in tones))


def _each(keys: Keys, to: Callable[[int], int]) -> Keys | None:
    left, right = (tuple(map(to, keys.hand(side))) for side in ("left", "right"))
    every = (*left, *right)
    if not every or len(set(every)) < len(every):
        return None
    inside = min(every) >= LOWEST_PIANO_KEY and max(every) <= HIGHEST_PIANO_KEY
    return Keys(tuple(sorted(left)), tuple(sorted(right))) if inside else None


def stepped(keys: Keys, key: int, up: bool, tones: frozenset[int]) -> Keys | None:
    """One note on the next tone of ``tones`` (pitch classes) that no hand holds yet."""
    side = keys.side_of(key)
    if side is None:
        return None
    held = {*keys.left, *keys.right}
    way = range(key + 1, HIGHEST_PIANO_KEY + 1) if up else range(key - 1, LOWEST_PIANO_KEY - 1, -1)
    to = next((one for one in way if one % 12 in tones and one not in held), None)
    return None if to is None else moved(keys, key, to)


def moved(keys: Keys, key: int, to: int) -> Keys | None:
    """One note on another key, in the same hand."""
    side = keys.side_of(key)
    if side is None:
        return None
    return keys.with_hand(side, [to if one == key else one for one in keys.hand(side)])


def handed_over(keys: Keys, key: int) -> Keys | None:
    """One note to the other hand."""
    side = keys.side_of(key)
    if side is None:
        return None
    other = "right" if side == "left" else "left"
    rest = dropped(keys, key)
    return None if rest is None else rest.with_hand(other, [*rest.hand(other), key])


def dropped(keys: Keys, key: int) -> Keys | None:
    """Without one note."""
    side = keys.side_of(key)
    if side is None:
        return None
    return keys.with_hand(side, [one for one in keys.hand(side) if one != key])


def added(keys: Keys, side: str, key: int) -> Keys | None:
    """With one more note in a hand; None where it is held already or no finger is free."""
    if keys.side_of(key) is not None:
        return None
    return keys.with_hand(side, [*keys.hand(side), key])
