"""What to do with a shape that a hand cannot reach, in the order that the school sets.

Players disagree about what goes first, so each school lists the ways (:data:`WAYS`). Every
reduction given fits both hands and still has all that makes the chord itself; where the left hand has the
bass its lowest note stays.
"""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.voicing.rules import legal_voicing
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish

#: Behind this nothing more is taken away.
_ALONE = "the left hand's lowest note alone"
#: Notes that may have to go from one voicing.
_MOST_STEPS = 3


class Reduction(Struct, frozen=True):
    """A way out: the voicing, what was done in words, and whether it has to be rolled."""

    voicing: Voicing
    words: str
    rolled: bool = False


def reductions(voicing: Voicing, wish: Wish, lawful: bool = True) -> list[Reduction]:
    """Ways to play a voicing that is out of reach, in the school's order; empty when it is
    within reach. Where one step is not enough the same order is gone through again. Of a player's own
    grip, which may break rules itself, they need not be ``lawful``."""
    profile = wish.profile
    if not _too_wide(voicing, profile):
        return []
    found: dict[Voicing, Reduction] = {}
    open_ends = [Reduction(voicing, "")]
    for _ in range(_MOST_STEPS):
        steps = [further for end in open_ends for further in _steps(end, wish)]
        for step in steps:
            plain = replace(wish, profile=replace(profile, roll=profile.roll or step.rolled))
            good = not lawful or legal_voicing(plain, step.voicing)
            if good and not _too_wide(step.voicing, plain.profile):
                found.setdefault(step.voicing, step)
        if found:
            break
        open_ends = [step for step in steps if not step.rolled and _ALONE not in step.words]
    return list(found.values())


def _too_wide(voicing: Voicing, profile: HandProfile) -> list[str]:
    sides = (("left", voicing.left, profile.left), ("right", voicing.right, profile.right))
    return [side for side, shape, hand in sides if not profile.can_reach(hand, shape.keys)]


def _steps(before: Reduction, wish: Wish) -> Iterator[Reduction]:
    """One step further, way by way."""
    for way in wish.school.reduce:
        for side in _too_wide(before.voicing, wish.profile):
            for voicing, words in _WAYS[way](before.voicing, side):
                if wish.bass == "self" and voicing.left.keys[:1] != before.voicing.left.keys[:1]:
                    continue  # the left hand has the bass
                yield Reduction(voicing, _then(before, words))
            hand = wish.profile.left if side == "left" else wish.profile.right
            if way == "roll" and _can_roll(before.voicing, side, hand, wish.profile):
                words = _then(before, f"roll the {side} hand with the pedal")
                yield Reduction(before.voicing, words, rolled=True)


def _then(before: Reduction, words: str) -> str:
    """What was done so far, and one thing more."""
    return f"{before.words}, {words}" if before.words else words


def _can_roll(voicing: Voicing, side: str, hand: Hand, profile: HandProfile) -> bool:
    keys = voicing.hand(side).keys
    return profile.roll_excess_mm(hand, keys) <= 0.0


def _without(voicing: Voicing, side: str, place: int) -> Voicing:
    shape = voicing.hand(side)
    kept = [i for i in range(len(shape.keys)) if i != place % len(shape.keys)]
    smaller = HandShape(
        tuple(shape.keys[i] for i in kept), tuple(shape.degrees[i] for i in kept), shape.recipe
    )
    return replace(voicing, **{side: smaller})


_Ways = Iterator[tuple[Voicing, str]]


def _drop_top(voicing: Voicing, side: str) -> _Ways:
    if len(voicing.hand(side).keys) > 1:
        yield _without(voicing, side, -1), f"drop the {side} hand's top note"


def _drop_fifth(voicing: Voicing, side: str) -> _Ways:
    """An inner note goes; where it was an end of the shape the hand closes up."""
    degrees = voicing.hand(side).degrees
    for place, degree in enumerate(degrees):
        if degree == "5" and len(degrees) > 1:
            yield _without(voicing, side, place), f"drop the {side} hand's fifth"


def _drop_doubled_root(voicing: Voicing, side: str) -> _Ways:
    degrees = voicing.hand(side).degrees
    if voicing.degrees.count("R") > 1:
        for place, degree in enumerate(degrees):
            if degree == "R" and len(degrees) > 1:
                yield _without(voicing, side, place), f"drop the {side} hand's doubled root"


def _alone(voicing: Voicing, side: str) -> _Ways:
    """The bottom carries the chord: the left hand's lowest note by itself, most often the root."""
    if side == "left" and len(voicing.left.keys) > 1:
        shape = HandShape(voicing.left.keys[:1], voicing.left.degrees[:1])
        yield replace(voicing, left=shape), _ALONE


def _hand_over(voicing: Voicing, side: str) -> _Ways:
    """The note next to the other hand goes over to it."""
    shape, other_side = voicing.hand(side), "right" if side == "left" else "left"
    if len(shape.keys) < 2:
        return
    place = len(shape.keys) - 1 if side == "left" else 0
    hand_shape = voicing.hand(other_side)
    if shape.keys[place] in hand_shape.keys:
        return
    notes = sorted(
        [*zip(hand_shape.keys, hand_shape.degrees, strict=True), (shape.keys[place], shape.degrees[place])]
    )
    grown = HandShape(tuple(key for key, _ in notes), tuple(degree for _, degree in notes), hand_shape.recipe)
    moved = replace(_without(voicing, side, place), **{other_side: grown})
    yield moved, f"give one note to the {other_side} hand"


def _roll(_: Voicing, __: str) -> _Ways:
    """Rolling changes no note; see :func:`_steps`."""
    return iter(())


_WAYS = {
    "top": _drop_top, "fifth": _drop_fifth, "root": _drop_doubled_root, "over": _hand_over, "alone": _alone,
    "roll": _roll,
}  # fmt: skip
