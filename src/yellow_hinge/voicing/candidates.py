"""Every shape that a chord's recipes give to a hand, and which pairs of hands are legal.

The state of a chord is a pair (left shape, right shape). Shapes are listed per hand;
:func:`candidates` says with a boolean matrix which pairs obey coverage, register and
doubling. Costs are not decided here.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import combinations, pairwise, product

import numpy as np
import numpy.typing as npt

from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.coverage import bass_degree, identity, undoubled
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import DEGREES, degree_semitones
from yellow_hinge.theory.tension import any_label, extra_degrees, kinds
from yellow_hinge.voicing.recipes import Library, Recipe, School, SlotChoice
from yellow_hinge.voicing.register import LOWEST_KEY, least_key, muddy
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing

#: What fills each role, in order: tones of the symbol first, then allowed extras.
_ROLE_LABELS = {
    "3": ("3", "b3"),
    "5": ("5", "b5", "#5"),
    "6": ("6",),
    "7": ("7", "b7", "bb7"),
    "9": ("9", "b9", "#9"),
    "11": ("11", "#11"),
    "13": ("13", "b13", "6"),
}


#: Role -> labels, and semitones above the root -> label, as pairs that can be looked up.
_Roles = tuple[tuple[str, tuple[str, ...]], ...]
_AtHand = tuple[tuple[int, str], ...]
#: Heights above the root, labels, recipe, and the lowest place of the root without mud.
_Form = tuple[tuple[int, ...], tuple[str, ...], str, int]

#: Steps that make a stack of fourths or fifths, in semitones.
_STACK_STEPS = {"fourths": {5, 6}, "fifths": {6, 7}}
#: Natural tensions and alterations that nobody plays in one hand.
_CONTRADICTIONS = tuple(
    frozenset(pair.split())
    for pair in ("b9 9", "9 #9", "13 b13", "6 b13", "11 #11", "5 b13", "5 #5", "5 #11")
)
#: Semitones above their root of the chords that may stand on another degree: triads and
#: seventh chords built in thirds.
_UPPER_CHORDS = {
    "triads": ((0, 4, 7), (0, 3, 7), (0, 3, 6), (0, 4, 8)),
    "sevenths": (
        (0, 4, 7, 11), (0, 4, 7, 10), (0, 3, 7, 10), (0, 3, 6, 10), (0, 3, 6, 9), (0, 3, 7, 11),
        (0, 4, 8, 11), (0, 4, 8, 10), (0, 3, 6, 11),
    ),
}  # fmt: skip


@dataclass(frozen=True)
class Wish:
    """What shapes are wanted for one chord: everything that candidates depend on.

    ``bass`` is "self" (own left hand) or "bassist"; ``colour`` 0..3. ``top`` is a melody key
    that the right hand has on top, ``clear_of`` one that somebody else sings, ``room_for`` one
    whose register both hands leave free. ``hold`` is what the player has fixed.
    """

    chord: ChordSymbol
    key: Key | None
    school: School
    colour: int
    bass: str
    profile: HandProfile
    top: int | None = None
    clear_of: int | None = None
    room_for: int | None = None
    hold: Hold | None = None

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        """Computed once: wishes are looked up thousands of times. The school by its id."""
        plain = (self.colour, self.bass, self.profile, self.top, self.clear_of, self.room_for, self.hold)
        return hash((self.chord, self.key, self.school.id, *plain))


@dataclass(frozen=True, eq=False)
class Candidates:
    """Shapes of both hands and their legal pairs.

    left    L shapes, right  R shapes, each without duplicates, in recipe order
    legal   (L, R) bool: this left shape may sound with this right shape
    """

    left: tuple[HandShape, ...]
    right: tuple[HandShape, ...]
    legal: npt.NDArray[np.bool_]


@lru_cache(maxsize=2048)
def _fillings(chord: ChordSymbol, extras: frozenset[str]) -> _Roles:
    """For each role the degree labels that may fill it in this chord."""
    available = set(chord.degrees) | extras
    roles: dict[str, tuple[str, ...]] = {
        role: tuple(label for label in labels if label in available) for role, labels in _ROLE_LABELS.items()
    }
    roles["R"], roles["B"] = ("R",), (bass_degree(chord),)
    if chord.sus:
        roles["3"] = tuple(label for label in ("11", "9") if label in chord.sus)
        roles["9"] = tuple(label for label in roles["9"] if label not in chord.sus)
    if not roles["7"] and "6" in available:
        roles["7"] = ("6",)
    return tuple(roles.items())


def _degree_rows(recipe: Recipe, roles: dict[str, tuple[str, ...]]) -> Iterator[tuple[tuple[str, int], ...]]:
    """All fillings of a recipe: (label, octaves up) per slot; a label comes twice only where
    the recipe doubles on purpose, and then by the same role."""
    for slots in _slot_choices(recipe):
        for labels in product(*(roles[slot.role] for slot in slots)):
            if len(set(labels)) == len(labels) or (recipe.doubles and _one_role_each(slots, labels)):
                yield tuple((label, slot.octaves) for label, slot in zip(labels, slots, strict=True))


@lru_cache(maxsize=512)
def _slot_choices(recipe: Recipe) -> tuple[tuple[SlotChoice, ...], ...]:
    return tuple(product(*recipe.choices))


def _one_role_each(slots: tuple[SlotChoice, ...], labels: tuple[str, ...]) -> bool:
    return len(set(zip(slots, labels, strict=True))) == len(set(labels))


def _stack(row: tuple[tuple[str, int], ...], spacing: str) -> tuple[tuple[int, str], ...]:
    """Semitones above the chord root (of some octave) and labels, low to high."""
    notes: list[tuple[int, str]] = []
    floor = -1
    for label, octaves in row:
        height = degree_semitones(label)
        while height <= floor:
            height += 12
        height += 12 * octaves
        notes.append((height, label))
        floor = height
    drop = {"drop2": 2, "drop3": 3}.get(spacing, 0)
    if drop and len(notes) >= drop:
        height, label = notes[-drop]
        notes[-drop] = (height - 12, label)
    if spacing == "doubled":
        notes.append((notes[0][0] + 12, notes[0][1]))
    steps = {upper[0] - lower[0] for lower, upper in pairwise(notes)}
    if not steps <= _STACK_STEPS.get(spacing, steps):
        return ()
    return tuple(sorted(notes))


def _legal_shape(keys: tuple[int, ...], hand: Hand, profile: HandProfile) -> bool:
    return (
        hand.lowest_key <= keys[0]
        and keys[-1] <= hand.highest_key
        and len(keys) <= hand.most_notes
        and all(low < high for low, high in pairwise(keys))
        and profile.can_reach(hand, keys)
        and not muddy(keys)
    )


def hand_shapes(wish: Wish, library: Library, side: str) -> tuple[HandShape, ...]:
    """All shapes of one hand ("left" or "right"): by recipe, inversion, then upwards. A hand
    that the player has fixed has just that shape."""
    hold = wish.hold
    fixed = None if hold is None else hold.left if side == "left" else hold.right
    if fixed is not None:
        return (fixed,)
    hand = wish.profile.left if side == "left" else wish.profile.right
    ids = wish.school.left(wish.bass) if side == "left" else wish.school.right
    tags = kinds(wish.chord)
    roles = _fillings(wish.chord, extra_degrees(wish.chord, wish.key, wish.colour))
    at_hand = _at_hand(wish)
    recipes = tuple(r for r in (library.recipes[i] for i in ids) if not r.kinds or tags.intersection(r.kinds))
    top = wish.top if side == "right" else None
    if top is None and all(recipe.build != "any" for recipe in recipes):
        forms = _forms(recipes, roles, at_hand, undoubled(wish.chord))
        shapes = _in_register(forms, wish.chord.root.pitch_class, hand, wish.profile)
    else:
        shapes = _one_by_one(recipes, wish, roles, at_hand, hand, top)
    return tuple(shape for shape in shapes if hold is None or hold.allows(shape, side))


@lru_cache(maxsize=1024)
def _forms(
    recipes: tuple[Recipe, ...], roles: _Roles, at_hand: _AtHand, once: frozenset[str]
) -> tuple[_Form, ...]:
    """All forms that recipes give to chords of one kind, without duplicates, wherever their root
    and whatever the hand, with the lowest note in the octave above the root."""
    found: dict[tuple[int, ...], _Form] = {}
    for recipe in recipes:
        for stack in _stacks(recipe, roles, at_hand):
            labels = tuple(label for _, label in stack)
            if not recipe.doubles and any(labels.count(label) > 1 for label in once):
                continue
            down = 12 * (stack[0][0] // 12)
            heights = tuple(height - down for height, _ in stack)
            if all(low < high for low, high in pairwise(heights)):
                floor = max((least_key(b - a) - a for a, b in pairwise(heights)), default=0)
                found.setdefault(heights, (heights, labels, recipe.id, floor))
    return tuple(found.values())


def _in_register(
    forms: tuple[_Form, ...], root: int, hand: Hand, profile: HandProfile
) -> Iterator[HandShape]:
    """The forms in every octave where the hand can play them."""
    for heights, labels, recipe, floor in forms:
        if len(heights) > hand.most_notes:
            continue
        first = root - 12 * ((root + heights[0] - hand.lowest_key) // 12)
        for base in range(first, hand.highest_key - heights[-1] + 1, 12):
            keys = tuple(base + height for height in heights)
            if base >= floor and profile.can_reach(hand, keys):
                yield HandShape(keys, labels, recipe)


def _one_by_one(
    recipes: tuple[Recipe, ...],
    wish: Wish,
    roles: _Roles,
    at_hand: _AtHand,
    hand: Hand,
    top: int | None,
) -> Iterator[HandShape]:
    """As :func:`_in_register`, for open search and for shapes that hang from a melody note."""
    found: set[tuple[int, ...]] = set()
    for recipe in recipes:
        shapes = _shapes(recipe, wish, roles, at_hand, hand)
        if top is not None:
            shapes = _hung_from(shapes, wish.chord, top)
        for shape in shapes:
            doubled = not recipe.doubles and _doubles_forbidden(wish.chord, shape.degrees)
            if shape.keys not in found and not doubled and _legal_shape(shape.keys, hand, wish.profile):
                found.add(shape.keys)
                yield shape


def _shapes(recipe: Recipe, wish: Wish, roles: _Roles, at_hand: _AtHand, hand: Hand) -> Iterator[HandShape]:
    """What a recipe gives within the register, before the hand is asked for its reach."""
    if recipe.build == "any":
        yield from _any_shapes(recipe, wish, dict(at_hand), hand)
        return
    for stack in _stacks(recipe, roles, at_hand):
        yield from _placed(stack, wish.chord, recipe.id, hand)


@lru_cache(maxsize=8192)
def _stacks(recipe: Recipe, roles: _Roles, at_hand: _AtHand) -> tuple[tuple[tuple[int, str], ...], ...]:
    """All stacks that a recipe gives to chords of one kind, whatever their root."""
    rows = (
        _degree_rows(recipe, dict(roles)) if recipe.build == "slots" else _upper_rows(recipe, dict(at_hand))
    )
    turn_all = recipe.inversions == "all" or recipe.build != "slots"
    turned = (
        _stack(row[turn:] + row[:turn], recipe.spacing)
        for row in rows
        for turn in range(len(row) if turn_all else 1)
    )
    return tuple(stack for stack in turned if stack)


def _hung_from(shapes: Iterator[HandShape], chord: ChordSymbol, top: int) -> Iterator[HandShape]:
    """The shapes with the melody note on top: as they are where it is theirs, below it where
    there is room, and inside its octave."""
    label = chord.label_of(top % 12) or any_label(chord, top % 12)
    for shape in shapes:
        if shape.keys[-1] == top:
            yield shape
        elif shape.keys[-1] < top:
            yield HandShape((*shape.keys, top), (*shape.degrees, label), shape.recipe)
            if shape.keys[0] > top - 12:
                keys = (top - 12, *shape.keys, top)
                yield HandShape(keys, (label, *shape.degrees, label), shape.recipe)


def _at_hand(wish: Wish) -> _AtHand:
    """Semitones above the root -> label, for all tones that symbol, key and colour give."""
    labels = sorted(extra_degrees(wish.chord, wish.key, wish.colour), key=list(DEGREES).index)
    labels += [bass_degree(wish.chord), *wish.chord.degrees]  # what is named comes last and wins
    return tuple({degree_semitones(label): label for label in labels}.items())


def _upper_rows(recipe: Recipe, at_hand: dict[int, str]) -> Iterator[tuple[tuple[str, int], ...]]:
    """Every triad or seventh chord on any degree whose tones are all at hand."""
    for root, shape in product(sorted(at_hand), _UPPER_CHORDS[recipe.build]):
        places = [(root + step) % 12 for step in shape]
        if all(place in at_hand for place in places):
            yield tuple((at_hand[place], 0) for place in places)


def _any_shapes(recipe: Recipe, wish: Wish, at_hand: dict[int, str], hand: Hand) -> Iterator[HandShape]:
    """Every shape of tones at hand within the hand's reach, no tone twice, fewest notes first."""
    root = wish.chord.root.pitch_class
    keys = [key for key in range(hand.lowest_key, hand.highest_key + 1) if (key - root) % 12 in at_hand]
    bass = wish.chord.bass_name.pitch_class
    with_bass = wish.bass == "self" and "left" in recipe.hands
    for low in keys:
        if with_bass and low % 12 != bass:
            continue
        above = [key for key in keys if low < key and wish.profile.can_reach(hand, (low, key))]
        for count in range(recipe.notes[0] - 1, min(recipe.notes[1], hand.most_notes)):
            for rest in combinations(above, count):
                shape = (low, *rest)
                labels = tuple(at_hand[(key - root) % 12] for key in shape)
                if len(set(labels)) == len(labels) and _sensible(shape, labels):
                    yield HandShape(shape, labels, recipe.id)


def _sensible(keys: tuple[int, ...], labels: tuple[str, ...]) -> bool:
    """Whether an open shape is more than a heap of notes: at most one half step between
    neighbours, and no natural tension beside its own alteration."""
    half_steps = sum(upper - lower == 1 for lower, upper in pairwise(keys))
    return half_steps <= 1 and not any(pair <= set(labels) for pair in _CONTRADICTIONS)


def _placed(
    stack: tuple[tuple[int, str], ...], chord: ChordSymbol, recipe_id: str, hand: Hand
) -> Iterator[HandShape]:
    """The stack in every octave of the hand's register."""
    labels = tuple(label for _, label in stack)
    low, high = stack[0][0], stack[-1][0]
    first = chord.root.pitch_class
    first -= 12 * ((first + low - hand.lowest_key) // 12)
    for base in range(first, hand.highest_key - high + 1, 12):
        yield HandShape(tuple(base + height for height, _ in stack), labels, recipe_id)


# --- pairs ---------------------------------------------------------------------------


def _doubles_forbidden(chord: ChordSymbol, labels: tuple[str, ...]) -> bool:
    return any(labels.count(label) > 1 for label in undoubled(chord))


def degree_mask(labels: tuple[str, ...] | frozenset[str]) -> int:
    """Bit ``n`` is set when a degree ``n`` semitones above the root is among the labels."""
    mask = 0
    for label in labels:
        mask |= 1 << degree_semitones(label)
    return mask


def candidates(wish: Wish, library: Library) -> Candidates:
    """Both hands' shapes and the legal pairs for one chord."""
    left = hand_shapes(wish, library, "left")
    right = hand_shapes(wish, library, "right")
    return Candidates(left, right, _legal_pairs(wish, library, left, right))


def legal_voicing(wish: Wish, library: Library, voicing: Voicing) -> bool:
    """Whether a voicing obeys everything that candidates obey, whatever recipe it comes from."""
    profile = wish.profile
    hands = ((voicing.left, profile.left), (voicing.right, profile.right))
    return (
        all(shape.keys and _legal_shape(shape.keys, hand, profile) for shape, hand in hands)
        and not any(_doubles_forbidden(wish.chord, shape.degrees) for shape, _ in hands)
        and bool(_legal_pairs(wish, library, (voicing.left,), (voicing.right,))[0, 0])
    )


def _legal_pairs(
    wish: Wish, library: Library, left: tuple[HandShape, ...], right: tuple[HandShape, ...]
) -> npt.NDArray[np.bool_]:
    legal = np.ones((len(left), len(right)), dtype=bool)
    if not legal.size:
        return legal
    left_mask, right_mask = _masks(left), _masks(right)
    union = left_mask[:, None] | right_mask[None, :]
    for group in identity(wish.chord, root_needed=wish.bass == "self"):
        legal &= (union & degree_mask(group)) != 0
    doubled = left_mask[:, None] & right_mask[None, :] & degree_mask(undoubled(wish.chord))
    on_purpose = _doubling(left, library)[:, None] | _doubling(right, library)[None, :]
    legal &= (doubled == 0) | on_purpose
    gap = np.array([s.keys[0] for s in right])[None, :] - np.array([s.keys[-1] for s in left])[:, None]
    legal &= gap <= wish.school.widest_gap_st
    legal &= _side_by_side(left, right) if wish.profile.interlock else gap > 0
    limits = np.array([LOWEST_KEY.get(interval, 0) for interval in range(128)])
    tops = np.array([s.keys[-1] for s in left])[:, None]
    legal &= tops >= limits[np.clip(gap, 0, 127)]
    if wish.bass == "self":
        bass = wish.chord.bass_name.pitch_class
        legal &= np.array([s.keys[0] % 12 == bass for s in left])[:, None]
    return legal


def _side_by_side(left: tuple[HandShape, ...], right: tuple[HandShape, ...]) -> npt.NDArray[np.bool_]:
    """(L, R): hands that share no key, the left one with the lowest and the right one with the
    highest note. Crossing hands inside that is allowed."""
    lows, highs = (
        [np.array([shape.keys[end] for shape in shapes]) for shapes in (left, right)] for end in (0, -1)
    )
    apart = np.array([[not set(one.keys) & set(other.keys) for other in right] for one in left])
    below = (lows[0][:, None] < lows[1][None, :]) & (highs[0][:, None] < highs[1][None, :])
    return np.asarray(apart & below)


def _masks(shapes: tuple[HandShape, ...]) -> npt.NDArray[np.int64]:
    return np.array([degree_mask(shape.degrees) for shape in shapes], dtype=np.int64)


def _doubling(shapes: tuple[HandShape, ...], library: Library) -> npt.NDArray[np.bool_]:
    doubling = {recipe.id for recipe in library.recipes.values() if recipe.doubles}
    return np.array([shape.recipe in doubling for shape in shapes], dtype=bool)
