"""Every shape that a chord's recipes give to a hand, and which pairs of hands are legal.

The state of a chord is a pair (left shape, right shape). Shapes are listed per hand;
:func:`candidates` says with a boolean matrix which pairs obey coverage, register and
doubling. Costs are not decided here.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise, product

import numpy as np
import numpy.typing as npt

from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import DEGREES, degree_semitones
from yellow_hinge.theory.tension import base_kind, extra_degrees, kinds
from yellow_hinge.voicing.recipes import Library, Recipe, School, SlotChoice
from yellow_hinge.voicing.register import LOWEST_KEY, muddy
from yellow_hinge.voicing.shape import HandShape

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


@dataclass(frozen=True)
class Wish:
    """What shapes are wanted for one chord: everything that candidates depend on.

    ``bass`` is "self" (own left hand) or "bassist"; ``colour`` 0..3.
    """

    chord: ChordSymbol
    key: Key | None
    school: School
    colour: int
    bass: str
    profile: HandProfile

    def __hash__(self) -> int:
        return hash((self.chord, self.key, self.school.id, self.colour, self.bass, self.profile))


@dataclass(frozen=True, eq=False)
class Candidates:
    """Shapes of both hands and their legal pairs.

    left    L shapes, right  R shapes, each without duplicates, in recipe order
    legal   (L, R) bool: this left shape may sound with this right shape
    """

    left: tuple[HandShape, ...]
    right: tuple[HandShape, ...]
    legal: npt.NDArray[np.bool_]


def bass_degree(chord: ChordSymbol) -> str:
    """What the lowest note does in the chord; for a foreign slash bass, by its letter."""
    if chord.bass is None:
        return "R"
    own = chord.label_of(chord.bass.pitch_class)
    if own is not None:
        return own
    letters = (chord.bass.step - chord.root.step) % 7
    semitones = (chord.bass.pitch_class - chord.root.pitch_class) % 12
    fitting = [name for name, place in DEGREES.items() if place == (letters, semitones)]
    sounding = [name for name, place in DEGREES.items() if place[1] == semitones]
    return (fitting or sounding)[0]


@lru_cache(maxsize=2048)
def _fillings(chord: ChordSymbol, extras: frozenset[str]) -> dict[str, tuple[str, ...]]:
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
    return roles


def _degree_rows(recipe: Recipe, roles: dict[str, tuple[str, ...]]) -> Iterator[tuple[tuple[str, int], ...]]:
    """All fillings of a recipe: (label, octaves up) per slot; a label comes twice only where
    the recipe repeats its role."""
    repeats = [choice.role for slot in recipe.choices for choice in slot]
    for slots in product(*recipe.choices):
        for labels in product(*(_role(roles, slot) for slot in slots)):
            doubled = [label for label in labels if labels.count(label) > 1]
            intended = all(
                len({slot.role for slot, own in zip(slots, labels, strict=True) if own == label}) == 1
                and repeats.count(_role_of(slots, labels, label)) > 1
                and recipe.doubles
                for label in doubled
            )
            if intended:
                yield tuple((label, slot.octaves) for label, slot in zip(labels, slots, strict=True))


def _role(roles: dict[str, tuple[str, ...]], slot: SlotChoice) -> tuple[str, ...]:
    return roles[slot.role]


def _role_of(slots: tuple[SlotChoice, ...], labels: tuple[str, ...], label: str) -> str:
    return slots[labels.index(label)].role


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
    """All shapes of one hand ("left" or "right"): by recipe, inversion, then upwards."""
    hand = wish.profile.left if side == "left" else wish.profile.right
    ids = wish.school.left(wish.bass) if side == "left" else wish.school.right
    tags = kinds(wish.chord)
    roles = _fillings(wish.chord, extra_degrees(wish.chord, wish.key, wish.colour))
    found: dict[tuple[int, ...], HandShape] = {}
    for recipe in (library.recipes[recipe_id] for recipe_id in ids):
        if recipe.kinds and not tags.intersection(recipe.kinds):
            continue
        for row in _degree_rows(recipe, roles):
            if not recipe.doubles and _doubles_forbidden(wish.chord, [label for label, _ in row]):
                continue
            turns = len(row) if recipe.inversions == "all" else 1
            for turn in range(turns):
                stack = _stack(row[turn:] + row[:turn], recipe.spacing)
                for shape in _placed(stack, wish.chord, recipe.id):
                    if shape.keys not in found and _legal_shape(shape.keys, hand, wish.profile):
                        found[shape.keys] = shape
    return tuple(found.values())


def _placed(stack: tuple[tuple[int, str], ...], chord: ChordSymbol, recipe_id: str) -> Iterator[HandShape]:
    """The stack in every octave of the keyboard."""
    labels = tuple(label for _, label in stack)
    for base in range(chord.root.pitch_class - 12, 128, 12):
        keys = tuple(base + height for height, _ in stack)
        if keys[0] >= 0 and keys[-1] <= 127:
            yield HandShape(keys, labels, recipe_id)


# --- pairs ---------------------------------------------------------------------------


def identity(chord: ChordSymbol, root_needed: bool) -> tuple[frozenset[str], ...]:
    """What must sound, as groups of which one member is needed.

    Third or suspension, named seventh or sixth, every altered tone, the top tension
    named and added tones; the root if ``root_needed``. A perfect fifth is never needed.
    """
    needed = [{chord.third}, {chord.seventh}, *({label} for label in chord.sus | chord.alters)]
    needed += [{label} for label in chord.adds]
    if chord.third == "3" and "11" in chord.degrees:
        needed[0] = {""}  # the eleventh replaces a major third, as in the usual C11
    if chord.sixth:
        needed.append({"6"})
    if chord.fifth in ("b5", "#5") or base_kind(chord) == "power":
        needed.append({chord.fifth})
    stack = [label for label in ("9", "11", "13") if label in chord.degrees]
    if chord.extension > 7 and stack:
        needed.append({stack[-1]})
    if chord.alt:
        needed.append({"b9", "#9", "#11", "b13"})
    if chord.upper is not None:
        needed += [{label} for label in chord.degrees if label not in ("R", "5")]
    if root_needed:
        needed.append({"R"})
    return tuple(dict.fromkeys(frozenset(group) for group in needed if "" not in group))


def undoubled(chord: ChordSymbol) -> frozenset[str]:
    """Degrees that sound once: sevenths, altered tones, the third of a dominant."""
    labels = {chord.seventh, *chord.alters}
    if base_kind(chord) == "dominant":
        labels |= {"3", "b9", "#9", "#11", "b13"}
    if chord.fifth != "5" and base_kind(chord) in ("dominant", "major"):
        labels.add(chord.fifth)
    return frozenset(labels - {""})


def _doubles_forbidden(chord: ChordSymbol, labels: list[str]) -> bool:
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
    legal &= (gap > 0) & (gap <= wish.school.widest_gap_st)
    limits = np.array([LOWEST_KEY.get(interval, 0) for interval in range(128)])
    tops = np.array([s.keys[-1] for s in left])[:, None]
    legal &= tops >= limits[np.clip(gap, 0, 127)]
    if wish.bass == "self":
        bass = wish.chord.bass_name.pitch_class
        legal &= np.array([s.keys[0] % 12 == bass for s in left])[:, None]
    return legal


def _masks(shapes: tuple[HandShape, ...]) -> npt.NDArray[np.int64]:
    return np.array([degree_mask(shape.degrees) for shape in shapes], dtype=np.int64)


def _doubling(shapes: tuple[HandShape, ...], library: Library) -> npt.NDArray[np.bool_]:
    return np.array([library.recipes[shape.recipe].doubles for shape in shapes], dtype=bool)
