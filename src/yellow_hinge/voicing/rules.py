"""The rules that a voicing obeys, said one by one.

The same rules as :mod:`voicing.candidates` has in arrays, computed plainly for one voicing and
with words; the tests hold one against the other. A player's own grip may break any of them: then
this is what is remarked.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from msgspec import Struct

from yellow_hinge.theory.coverage import undoubled
from yellow_hinge.theory.tension import DEGREE_WORDS
from yellow_hinge.voicing.candidates import rubs_below
from yellow_hinge.voicing.register import banned_key, least_key, second_at_bottom
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish, class_of

SIDES = ("left", "right")


class Broken(Struct, frozen=True):
    """A rule that a voicing breaks: the rule's id, and what is the matter in words."""

    rule: str
    words: str


def legal_voicing(wish: Wish, voicing: Voicing) -> bool:
    """Whether a voicing obeys everything that candidates obey, whatever recipe it comes from."""
    return next(iter(_broken(wish, voicing)), None) is None


def broken(wish: Wish, voicing: Voicing) -> tuple[Broken, ...]:
    """Every rule that the voicing breaks, in a stable order: hands first, then both together."""
    return tuple(_broken(wish, voicing))


def _broken(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    for side in SIDES:
        if voicing.hand(side).keys:
            yield from _hand_rules(wish, side, voicing.hand(side))
        elif wish.plays(side):
            yield Broken("hand", f"the {side} hand has nothing to play")
    yield from _coverage(wish, voicing)
    if not wish.school.loose:
        yield from _doubling(wish, voicing)
    if voicing.left.keys and voicing.right.keys:
        yield from _beside(wish, voicing)
    yield from _bottom(wish, voicing)
    if wish.top is not None:
        if wish.plays("right") and voicing.right.keys[-1:] != (wish.top,):
            yield Broken("tune", "the tune is not on top")
        if rubs_below(voicing.keys, wish.top):
            yield Broken("tune", "a note lies a half step or a minor ninth below the tune")


def _hand_rules(wish: Wish, side: str, shape: HandShape) -> Iterator[Broken]:
    hand, keys = wish.hand(side), shape.keys
    excess = wish.profile.excess_mm(hand, keys)
    if excess > 0:
        yield Broken("reach", f"the {side} hand is out of reach by {excess:.0f} mm")
    if len(keys) > hand.most_notes:
        yield Broken("notes", f"{len(keys)} notes in the {side} hand, which plays {hand.most_notes} at most")
    if keys[0] < hand.lowest_key or keys[-1] > hand.highest_key:
        yield Broken("register", f"the {side} hand leaves its register")
    limit = banned_key if wish.school.loose else least_key
    if any(low < limit(high - low) for low, high in pairwise(keys)):
        yield Broken("low", f"close and low in the {side} hand: muddy")


def _coverage(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    heard = {*voicing.degrees, wish.heard_below}
    for group in wish.needed:
        if not group & heard:
            words = " or ".join(DEGREE_WORDS[label] for label in sorted(group))
            yield Broken("coverage", f"{words} is missing")


def _doubling(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    """What sounds once, sounds once: a hand may double on purpose, but nothing else joins in; a
    dominant's third in the bass never sounds again."""
    every = (*voicing.degrees, *filter(None, [wish.heard_below]))
    strict = wish.chord.third if wish.bass_label == wish.chord.third else ""
    for label in sorted(undoubled(wish.chord, wish.key) - {wish.top_label or ""}):
        places = sum(label in voicing.hand(side).degrees for side in SIDES) + (label == wish.heard_below)
        if places > 1 or (label == strict and every.count(label) > 1):
            yield Broken("doubling", f"{DEGREE_WORDS[label]} sounds twice")


def _beside(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    left, right = voicing.left.keys, voicing.right.keys
    gap = right[0] - left[-1]
    if wish.profile.interlock:
        crossed = set(left) & set(right) or left[0] >= right[0] or left[-1] >= right[-1]
    else:
        crossed = gap <= 0
    if crossed:
        yield Broken("crossing", "the hands are in each other's way")
    limit = banned_key if wish.school.loose else least_key
    if left[-1] < limit(max(0, gap)):
        yield Broken("low", "close and low between the hands: muddy")
    if not wish.school.loose and gap > wish.school.widest_gap_st:
        yield Broken("hole", f"a hole of {gap} half steps between the hands")


def _bottom(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    first = voicing.left if wish.plays("left") else voicing.right
    if not first.keys:
        return
    if wish.low_degrees is not None:
        may = {class_of(wish.chord, label) for label in wish.low_degrees}
        if first.keys[0] % 12 not in may:
            yield Broken("bass", f"the lowest note is not {wish.chord.bass_name}")
    joined = voicing.keys if len(voicing.left.keys) == 1 else first.keys
    if not wish.school.loose and second_at_bottom(joined):
        yield Broken("second", "a second is the lowest interval, below C4: it growls")
