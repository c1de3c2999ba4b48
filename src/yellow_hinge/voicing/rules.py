"""The rules that a voicing obeys, said one by one.

The same rules as :mod:`voicing.candidates` has in arrays, computed plainly for one voicing and
with words; the tests hold one against the other. A player's own grip may break any of them: then
this is what is remarked.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.coverage import FULL_NOTES, Classes, other_chords, undoubled
from yellow_hinge.theory.identify import identify
from yellow_hinge.theory.pitch import degree_semitones
from yellow_hinge.theory.tension import DEGREE_WORDS
from yellow_hinge.voicing.candidates import BRIDGED_GAP_ST, BRIDGED_NOTES, bridges, rubs_below
from yellow_hinge.voicing.forms import lower_tones, upper_tones
from yellow_hinge.voicing.inside import broken_inside
from yellow_hinge.voicing.limits import banned_key, least_key, second_at_bottom
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
    return tuple(dict.fromkeys(_broken(wish, voicing)))


def _broken(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    for side in SIDES:
        if voicing.hand(side).keys:
            yield from _hand_rules(wish, side, voicing.hand(side))
        elif wish.plays(side):
            yield Broken("hand", f"the {side} hand has nothing to play")
    yield from _coverage(wish, voicing)
    yield from _itself(wish, voicing)
    if wish.chord.upper is not None:
        yield from _each_whole(wish, voicing)
    elif not wish.school.doubles:
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
    yield from (Broken(*found) for found in broken_inside(shape, side, wish.clear_top))


def _coverage(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    heard = {*voicing.degrees, wish.heard_below}
    full = wish.needed_when_full if len(voicing.keys) >= FULL_NOTES else ()
    for group in (*wish.needed, *full):
        if not group & heard:
            words = " or ".join(DEGREE_WORDS[label] for label in sorted(group))
            yield Broken("coverage", f"{words} is missing")


def _itself(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    """What sounds is the chord that was written."""
    root, first = wish.chord.root, voicing.left if wish.plays("left") else voicing.right
    heard = {(key - root.pitch_class) % 12 for key in voicing.keys}
    rooted = not first.keys or first.keys[0] % 12 == root.pitch_class
    if wish.heard_below is not None:
        heard.add(degree_semitones(wish.heard_below))
        rooted = wish.heard_below == "R"
    for chord in other_chords(wish.own_classes, frozenset(heard), rooted):
        if chord <= heard:
            yield Broken("identity", f"colour makes another chord of it: {_named(wish, voicing, chord)}")
    every = list(zip(voicing.keys, voicing.degrees, strict=True))
    lowest = {label: min((key for key, one in every if one == label), default=None) for label in ("3", "#9")}
    if None not in lowest.values() and lowest["#9"] < lowest["3"]:  # type: ignore[operator] # neither is None
        yield Broken("ninth", "the sharp ninth lies below the third: it is heard as a minor third")


def _named(wish: Wish, voicing: Voicing, chord: Classes) -> ChordSymbol:
    """What tones, in semitones above the root, are called by themselves, in the spelling of the symbol."""
    root, spelled = wish.chord.root.pitch_class, {}
    for hand in (voicing.left, voicing.right):
        spelled.update({pitch.key % 12: pitch.name for pitch in hand.pitches(wish.chord)})
    rooted = [name.chord for name in identify([36 + (root + one) % 12 for one in chord], spelled)]
    return replace(rooted[0], bass=None)


def _each_whole(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    """Of a chord over a chord each hand has its own: the right one all of the upper chord and nothing else
    but the tune, the left one nothing but tones of the lower chord."""
    chord = wish.chord
    if wish.hands != "both" or not (voicing.left.keys and voicing.right.keys):
        return
    left, right = (
        {(key - chord.root.pitch_class) % 12 for key in voicing.hand(side).keys if key != wish.top}
        for side in SIDES
    )
    own = set() if wish.top is None else {(wish.top - chord.root.pitch_class) % 12}
    if not upper_tones(chord) - own <= right <= upper_tones(chord) | own:
        yield Broken("polychord", f"the right hand is not {chord.upper}, whole")
    if not left <= lower_tones(chord):
        yield Broken("polychord", f"the left hand is not {replace(chord, upper=None)} or its shell")


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
    bridged = bridges(left) and len(right) >= BRIDGED_NOTES
    widest = max(BRIDGED_GAP_ST if bridged else 0, wish.school.widest_gap_st)
    if not wish.school.loose and gap > widest:
        yield Broken("hole", f"a hole of {gap} half steps between the hands")


def _bottom(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    first = voicing.left if wish.plays("left") else voicing.right
    if not first.keys:
        return
    if wish.low_degrees is not None:
        may = {class_of(wish.chord, label) for label in wish.low_degrees}
        if first.keys[0] % 12 not in may:
            yield Broken("bass", f"the lowest note is not {wish.chord.bass_name}")
    alone = len(voicing.left.keys) == 1 and bool(voicing.right.keys)
    if not wish.school.loose and alone and second_at_bottom(voicing.keys):
        yield Broken("second", "a second is the lowest interval, below C4: it growls")
