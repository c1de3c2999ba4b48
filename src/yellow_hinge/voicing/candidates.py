"""Every shape that a chord's recipes give to a hand, and which pairs of hands are legal.

The state of a chord is a pair (left shape, right shape). Shapes are listed per hand;
:func:`candidates` says with a boolean matrix which pairs obey the rules of :mod:`voicing.rules`.
Costs are not decided here.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.remembering import for_a_song
from yellow_hinge.stopping import ask
from yellow_hinge.theory.coverage import FULL_NOTES, undoubled
from yellow_hinge.theory.pitch import DEGREES, degree_semitones
from yellow_hinge.theory.tension import kinds
from yellow_hinge.voicing.forms import Form, at_hand, chord_over_chord, fillings, forms
from yellow_hinge.voicing.hand_rules import fixed_grip
from yellow_hinge.voicing.inside import broken_inside
from yellow_hinge.voicing.limits import BANNED_KEY, LOWEST_KEY, LOWEST_SECOND_KEY
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape
from yellow_hinge.voicing.wish import Wish, class_of

Mask = npt.NDArray[np.int64]
_EMPTY = HandShape()
#: The recipe of each hand for a chord over a chord.
POLYCHORD = {"left": "lower-chord", "right": "upper-chord"}
_BITS = {label: 1 << place for place, label in enumerate(DEGREES)}


class Shapes(Struct, frozen=True, eq=False):
    """``left`` L shapes by their lowest note and ``right`` R shapes by their highest, each without
    duplicates, then in recipe order; a hand that does not play has one empty shape."""

    left: tuple[HandShape, ...]
    right: tuple[HandShape, ...]


class Candidates(Shapes, frozen=True, eq=False):
    """Shapes of both hands and their legal pairs; ``legal`` (L, R) bool: this left shape may sound
    with this right shape."""

    legal: npt.NDArray[np.bool_]


def hand_shapes(wish: Wish, library: Library, side: str, strict: bool = True) -> tuple[HandShape, ...]:
    """All shapes of one hand ("left" or "right"): of the left by the lowest note, of the right by the
    highest, then by recipe and inversion. A hand that the player has fixed has just that shape, one that
    does not play the empty one. Not ``strict``: those too that break a rule by themselves."""
    if not wish.plays(side):
        return (_EMPTY,)
    hold = wish.hold
    fixed = None if hold is None else hold.left if side == "left" else hold.right
    if fixed is not None:
        return (fixed,)
    hand = wish.hand(side)
    rules = wish.rules_of(side)
    grip = next((rule.value for rule in rules if rule.kind == "grip"), None)
    if isinstance(grip, tuple):
        shape = fixed_grip(wish.chord, grip)
        return () if shape is None or not wish.profile.can_reach(hand, grip) else (shape,)
    made = _forms_of(wish, library, side)
    ask()
    if wish.top is not None and side == "right":
        shapes: Iterable[HandShape] = _hung(made, wish, hand, wish.top)
    else:
        shapes = _in_register(made, wish.chord.root.pitch_class, hand, wish.profile)
    hand_shapes = tuple(
        shape
        for shape in shapes
        if (hold is None or hold.allows(shape, side))
        and all(rule.allows(shape) for rule in rules)
        and not (strict and any(broken_inside(shape, side, wish.clear_top)))
    )
    end = 0 if side == "left" else -1  # by the outer voice, so that steps can be told by its ways
    return tuple(sorted(hand_shapes, key=lambda shape: shape.keys[end]))


def _forms_of(wish: Wish, library: Library, side: str) -> tuple[Form, ...]:
    if wish.chord.upper is not None and wish.hands == "both":
        recipe = library.recipes[POLYCHORD[side]]
        return chord_over_chord(wish.chord, recipe, wish.bass == "self", wish.school.loose)
    tags = kinds(wish.chord)
    recipes = tuple(
        recipe
        for recipe in (library.recipes[name] for name in _names_of(wish, library, side))
        if not recipe.kinds or tags.intersection(recipe.kinds)
    )
    roles = fillings(wish.chord, wish.own_degrees, wish.extras, wish.bass_fifth)
    tones = at_hand(wish.chord, wish.own_degrees, wish.extras)
    return forms(recipes, roles, tones, undoubled(wish.chord, wish.key), wish.school.loose)


def _names_of(wish: Wish, library: Library, side: str) -> tuple[str, ...]:
    """The recipes of a hand: the school's, and those that a rule brings along; a family is all there is."""
    names, rules = wish.recipes_of(side), wish.rules_of(side)
    brought = [name for rule in rules for name in rule.recipes() if name in library.recipes]
    if any(rule.kind == "family" for rule in rules):
        return tuple(brought)
    fitting = (name for name in brought if side in library.recipes[name].hands)
    return tuple(dict.fromkeys((*names, *fitting)))


@for_a_song
@lru_cache(maxsize=1024)
def _in_register(
    forms: tuple[Form, ...], root: int, hand: Hand, profile: HandProfile
) -> tuple[HandShape, ...]:
    """The forms in every octave where the hand can play them."""
    shapes: list[HandShape] = []
    for form in forms:
        ask()
        heights = form.heights
        if len(heights) > hand.most_notes:
            continue
        first = root - 12 * ((root + heights[0] - hand.lowest_key) // 12)
        for base in range(first, hand.highest_key - heights[-1] + 1, 12):
            keys = tuple(base + height for height in heights)
            if base >= form.floor and profile.can_reach(hand, keys):
                shapes.append(HandShape(keys, form.labels, form.recipe))
    return tuple(shapes)


def _hung(forms: tuple[Form, ...], wish: Wish, hand: Hand, top: int) -> Iterator[HandShape]:
    """The forms with the tune's note on top: as they are where it is theirs, below it where
    there is room, and inside its octave. Nothing rubs against it from below."""
    label = wish.top_label
    assert label is not None
    seen: set[tuple[int, ...]] = set()
    for keys, labels, recipe in _under(forms, wish.chord.root.pitch_class, hand, top, label):
        ask()
        fits = len(keys) <= hand.most_notes and wish.profile.can_reach(hand, keys)
        if keys not in seen and fits and not rubs_below(keys, top):
            seen.add(keys)
            yield HandShape(keys, labels, recipe)


def _under(
    forms: tuple[Form, ...], root: int, hand: Hand, top: int, label: str
) -> Iterator[tuple[tuple[int, ...], tuple[str, ...], str]]:
    for form in forms:
        first = root - 12 * ((root + form.heights[0] - hand.lowest_key) // 12)
        for base in range(max(first, form.floor), top - form.heights[-1] + 1):
            if (base - root) % 12:
                continue
            keys = tuple(base + height for height in form.heights)
            if keys[-1] == top:
                yield keys, form.labels, form.recipe
            else:
                yield (*keys, top), (*form.labels, label), form.recipe
                if keys[0] > top - 12:
                    yield (top - 12, *keys, top), (label, *form.labels, label), form.recipe


def rubs_below(keys: tuple[int, ...], top: int) -> bool:
    """Whether a key lies a half step or a minor ninth below the tune."""
    return top - 1 in keys or top - 13 in keys


# --- pairs ---------------------------------------------------------------------------


@for_a_song
@lru_cache(maxsize=16_384)
def label_mask(labels: tuple[str, ...] | frozenset[str]) -> int:
    """One bit for every degree label that is there."""
    mask = 0
    for label in labels:
        mask |= _BITS[label]
    return mask


def has_masks(shapes: tuple[HandShape, ...]) -> Mask:
    """(shapes,): the labels of each shape as bits."""
    return np.array([label_mask(shape.degrees) for shape in shapes], dtype=np.int64)


def twice_masks(shapes: tuple[HandShape, ...]) -> Mask:
    """(shapes,): the labels that a shape has more than once, as bits."""
    return np.array([_twice_mask(shape.degrees) for shape in shapes], dtype=np.int64)


@for_a_song
@lru_cache(maxsize=16_384)
def _twice_mask(labels: tuple[str, ...]) -> int:
    return label_mask(frozenset(label for label in labels if labels.count(label) > 1))


def doubled_masks(wish: Wish, left: tuple[HandShape, ...], right: tuple[HandShape, ...]) -> Mask:
    """(L, R): labels that sound more than once in both hands and under them, as bits."""
    twice = [twice_masks(left), twice_masks(right)]
    return np.asarray(_across(wish, left, right) | twice[0][:, None] | twice[1][None, :])


def _across(wish: Wish, left: tuple[HandShape, ...], right: tuple[HandShape, ...]) -> Mask:
    """(L, R): labels that one hand has from the other, or both from the bassist, as bits."""
    has = [has_masks(left)[:, None], has_masks(right)[None, :]]
    doubled = has[0] & has[1]
    if wish.heard_below is not None:
        doubled |= (has[0] | has[1]) & _BITS[wish.heard_below]
    return np.asarray(doubled)


def once_mask(wish: Wish) -> int:
    """The labels that may sound once only; the tune may have what it wants."""
    return label_mask(undoubled(wish.chord, wish.key) - {wish.top_label or ""})


def strict_third(wish: Wish) -> int:
    """The third as a bit where it lies in the bass and may not sound above it at all, not even in
    a recipe that doubles on purpose: on dominants."""
    label = wish.chord.third
    return _BITS[label] & once_mask(wish) if label and label == wish.bass_label else 0


def candidates(wish: Wish, library: Library) -> Candidates:
    """Both hands' shapes and the legal pairs for one chord."""
    left = hand_shapes(wish, library, "left")
    ask()
    right = hand_shapes(wish, library, "right")
    ask()
    return Candidates(left, right, legal_pairs(wish, left, right))


def legal_pairs(
    wish: Wish, left: tuple[HandShape, ...], right: tuple[HandShape, ...]
) -> npt.NDArray[np.bool_]:
    """(L, R): which pairs obey all rules but those of a single hand."""
    legal = np.ones((len(left), len(right)), dtype=bool)
    if not legal.size:
        return legal
    union = has_masks(left)[:, None] | has_masks(right)[None, :]
    heard = union if wish.heard_below is None else union | _BITS[wish.heard_below]
    for group in wish.needed:
        legal &= (heard & label_mask(group)) != 0
    if wish.needed_when_full:
        counts = np.add.outer([len(s.keys) for s in left], [len(s.keys) for s in right])
        for group in wish.needed_when_full:
            legal &= (counts < FULL_NOTES) | ((heard & label_mask(group)) != 0)
    legal &= _itself(wish, left, right)
    if not (wish.school.doubles or wish.chord.upper):
        legal &= (_across(wish, left, right) & once_mask(wish)) == 0
        ask()
        legal &= (doubled_masks(wish, left, right) & strict_third(wish)) == 0
    ask()
    if wish.hands == "both":
        legal &= _beside(wish, left, right)
    ask()
    legal &= _bottoms(wish, left, right)
    if wish.top is not None:
        clear = [np.array([not rubs_below(s.keys, wish.top) for s in hand]) for hand in (left, right)]
        legal &= clear[0][:, None] & clear[1][None, :]
    return legal


def class_masks(wish: Wish, shapes: tuple[HandShape, ...]) -> Mask:
    """(shapes,): the tones of each shape as bits, by semitones above the chord's root."""
    root = wish.chord.root.pitch_class
    return np.array([_class_mask(tuple((key - root) % 12 for key in s.keys)) for s in shapes], dtype=np.int64)


@for_a_song
@lru_cache(maxsize=16_384)
def _class_mask(classes: Iterable[int]) -> int:
    return sum(1 << one for one in set(classes))


def _itself(wish: Wish, left: tuple[HandShape, ...], right: tuple[HandShape, ...]) -> npt.NDArray[np.bool_]:
    """(L, R): colour makes no other chord of the symbol, and a sharp ninth lies above the third."""
    masks = [class_masks(wish, shapes) for shapes in (left, right)]
    below = 0 if wish.heard_below is None else _class_mask((degree_semitones(wish.heard_below),))
    heard = masks[0][:, None] | masks[1][None, :] | below
    good = np.ones(heard.shape, dtype=bool)
    turned = _turned(wish, left if wish.plays("left") else right)
    rows = turned[:, None] if wish.plays("left") else turned[None, :]
    for rooted, concerned in ((True, ~rows), (False, rows)):
        if concerned.any():
            for chord in wish.other_chords(rooted):
                mask = _class_mask(chord)
                good &= ~(concerned & ((heard & mask) == mask))
    if "#9" in (*wish.extras, *wish.chord.degrees) or wish.chord.alt:
        third, ninth = (_lowest_of(label, left, right) for label in ("3", "#9"))
        good &= ~(ninth < third) | (third == _NOWHERE)
    return good


def _turned(wish: Wish, lowest: tuple[HandShape, ...]) -> npt.NDArray[np.bool_]:
    """(shapes,): whether the chord stands on another note than its root with these at the bottom."""
    if wish.heard_below is not None:
        return np.full(len(lowest), wish.heard_below != "R")
    root = wish.chord.root.pitch_class
    return np.array([bool(s.keys) and s.keys[0] % 12 != root for s in lowest], dtype=bool)


_NOWHERE = 128


def _lowest_of(label: str, left: tuple[HandShape, ...], right: tuple[HandShape, ...]) -> Mask:
    """(L, R): the lowest key that is a degree, :data:`_NOWHERE` where none is."""
    lows = [
        [
            min([k for k, degree in zip(s.keys, s.degrees, strict=True) if degree == label], default=_NOWHERE)
            for s in hand
        ]
        for hand in (left, right)
    ]
    return np.minimum.outer(*(np.array(low, dtype=np.int64) for low in lows))


def _beside(wish: Wish, left: tuple[HandShape, ...], right: tuple[HandShape, ...]) -> npt.NDArray[np.bool_]:
    """(L, R): hands neither cross (or interlock as the player allows), nor leave too large a hole,
    nor make a low close interval between them."""
    tops = np.array([s.keys[-1] for s in left])[:, None]
    gap = np.array([s.keys[0] for s in right])[None, :] - tops
    beside = _side_by_side(left, right) if wish.profile.interlock else gap > 0
    table = BANNED_KEY if wish.school.loose else LOWEST_KEY
    limits = np.array([table.get(interval, 0) for interval in range(128)])
    beside &= tops >= limits[np.clip(gap, 0, 127)]
    if not wish.school.loose:
        full = np.array([len(s.keys) >= BRIDGED_NOTES for s in right])[None, :]
        wide = np.array([bridges(s.keys) for s in left])[:, None] & full
        beside &= gap <= np.where(
            wide, max(BRIDGED_GAP_ST, wish.school.widest_gap_st), wish.school.widest_gap_st
        )
        single = np.array([len(s.keys) == 1 and s.keys[0] < LOWEST_SECOND_KEY for s in left])[:, None]
        beside &= ~(single & (gap <= 2))
    return np.asarray(beside)


#: An octave or a tenth in the left hand carries three notes of the right one over a hole of two octaves.
BRIDGED_GAP_ST, BRIDGED_NOTES = 24, 3
_BRIDGES = (12, 15, 16)


def bridges(keys: tuple[int, ...]) -> bool:
    """Whether a left hand is an octave or a tenth wide."""
    return bool(keys) and keys[-1] - keys[0] in _BRIDGES


def _bottoms(wish: Wish, left: tuple[HandShape, ...], right: tuple[HandShape, ...]) -> npt.NDArray[np.bool_]:
    """(L, R): the lowest note is one that may lie there."""
    lowest = left if wish.plays("left") else right
    good = np.ones(len(lowest), dtype=bool)
    if wish.low_degrees is not None:
        may = {class_of(wish.chord, label) for label in wish.low_degrees}
        good &= np.array([shape.keys[0] % 12 in may for shape in lowest])
    return good[:, None] if lowest is left else good[None, :]


def _side_by_side(left: tuple[HandShape, ...], right: tuple[HandShape, ...]) -> npt.NDArray[np.bool_]:
    """(L, R): hands that share no key, the left one with the lowest and the right one with the
    highest note. Crossing hands inside that is allowed."""
    lows, highs = (
        [np.array([shape.keys[end] for shape in shapes]) for shapes in (left, right)] for end in (0, -1)
    )
    apart = np.array([[not set(hand_shape.keys) & set(other.keys) for other in right] for hand_shape in left])
    below = (lows[0][:, None] < lows[1][None, :]) & (highs[0][:, None] < highs[1][None, :])
    return np.asarray(apart & below)
