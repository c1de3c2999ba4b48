"""What the rules panel offers: for each hand the kinds of rules, and their values in words."""

from __future__ import annotations

from yellow_hinge.song.model import Song
from yellow_hinge.theory.pitch import pitch_for_key
from yellow_hinge.voicing.hand_rules import INVERSIONS, TOPS, HandRule, Kind, Side, Value
from yellow_hinge.voicing.recipes import Library

SIDES: tuple[tuple[Side, str], ...] = (("left", "Left hand"), ("right", "Right hand"), ("both", "Both hands"))
_HAND_KINDS: tuple[tuple[Kind, str], ...] = (
    ("family", "always this shape"), ("inversion", "always this inversion"), ("notes", "so many notes"),
    ("octave", "in octaves"), ("single", "one note alone"), ("top", "this on top"),
    ("lowest", "nothing below"), ("highest", "nothing above"), ("grip", "the grip it has here"),
    ("rest", "at rest"),
)  # fmt: skip
_BOTH_KINDS: tuple[tuple[Kind, str], ...] = (
    ("strict", "just the tones of the symbols"),
    ("alike", "a chord that comes again sounds as before"),
)
_LOWEST_OFFERED, _HIGHEST_OFFERED = 28, 91


def kinds(side: Side) -> tuple[tuple[Kind, str], ...]:
    """The kinds of rules for a hand."""
    return _BOTH_KINDS if side == "both" else _HAND_KINDS


def values(side: Side, kind: Kind, song: Song, index: int, library: Library) -> tuple[tuple[Value, str], ...]:
    """What a kind of rule may say; empty where the kind says all, or there is nothing to say."""
    if kind == "family":
        recipes = [recipe for recipe in library.recipes.values() if side in recipe.hands]
        return tuple((recipe.id, recipe.name) for recipe in recipes)
    if kind == "inversion":
        return tuple((number, words) for number, (words, _) in enumerate(INVERSIONS))
    if kind == "notes":
        return tuple((count, str(count)) for count in range(1, 6))
    if kind == "top":
        return tuple((degree, "the root" if degree == "1" else f"the {degree}") for degree in TOPS)
    if kind in ("lowest", "highest"):
        flats = song.key_here.prefers_flats
        row = range(_LOWEST_OFFERED, _HIGHEST_OFFERED + 1)
        return tuple((key, pitch_for_key(key, flats).pretty) for key in row)
    voicing = song.voicing(index)
    if kind == "grip" and voicing is not None and voicing.hand(side).keys:
        keys = voicing.hand(side).keys
        return ((keys, HandRule(side, "grip", keys).words().rpartition("always ")[2]),)
    return ()


#: Kinds that need a value.
VALUED: tuple[Kind, ...] = ("family", "inversion", "notes", "top", "lowest", "highest", "grip")


def usual(kind: Kind) -> Value:
    """What is offered first where the list does not begin with it."""
    first: dict[Kind, Value] = {"notes": 3, "top": "3", "lowest": 48, "highest": 76}
    return first.get(kind)
