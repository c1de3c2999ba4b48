"""Recipes and schools: data files, checked when loaded.

Files: ``data/recipes.toml`` and ``data/schools.toml``; the format is described at the
top of each. Every bad row is reported, with its place, in one :class:`BadInput`.
"""

from collections.abc import Iterator, Mapping
from functools import lru_cache
from importlib.resources import files
from typing import Any, Literal

import msgspec
from msgspec import Struct, field

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.toml_rows import read_rows
from yellow_hinge.voicing.shape import TopLine

RECIPES_SCHEMA = "yellow-hinge/recipes/1"
SCHOOLS_SCHEMA = "yellow-hinge/schools/1"
#: Roles that a slot may name.
ROLES = frozenset({"R", "B", "B5", "3", "5", "6", "7", "9", "11", "13"})
#: What goes first when a shape is out of reach, unless the school has its own order.
REDUCE: tuple[Literal["top", "fifth", "root", "alone", "over", "roll"], ...] = (
    "fifth", "root", "over", "top", "alone", "roll",
)  # fmt: skip
KIND_TAGS = frozenset(
    (
        *("major", "minor", "dominant", "half-diminished", "diminished", "augmented", "suspended", "power"),
        *("triad", "sixth", "seventh", "altered", "plain", "slash", "third-bass", "thirdless"),
    )
)
#: In a school's list: every recipe for that hand that the list does not name itself.
EVERY = "*"
#: How deep lists of recipes may name each other.
_LIST_DEPTH = 4
#: Most notes of one hand; a row of wanted notes has a price for each number from none to this.
MOST_NOTES = 5


class SlotChoice(msgspec.Struct, frozen=True):
    """One way to fill a slot: a role, and octaves above close position."""

    role: str
    octaves: int


class Recipe(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One row of ``recipes.toml``."""

    id: str
    name: str
    hands: tuple[Literal["left", "right"], ...]
    source: str
    slots: tuple[str, ...] = ()
    build: Literal["slots", "triads", "sevenths", "octaves", "any", "polychord"] = "slots"
    notes: tuple[int, int] = (1, 5)
    spacing: Literal["close", "drop2", "drop3", "doubled", "fourths", "fifths", "wide"] = "close"
    inversions: Literal["none", "all"] = "none"
    kinds: tuple[str, ...] = ()
    doubles: bool = False
    schools: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not self.hands:
            raise ValueError("no hand is named")
        if self.build == "slots" and not 1 <= len(self.slots) <= 5:
            raise ValueError(f"slots must be 1..5 notes, not {len(self.slots)}")
        if self.build != "slots" and self.slots:
            raise ValueError(f"build = {self.build!r} makes its own notes: leave slots out")
        if not 1 <= self.notes[0] <= self.notes[1] <= 5:
            raise ValueError(f"notes must be two ascending numbers 1..5, not {self.notes}")
        for tag in self.kinds:
            if tag not in KIND_TAGS:
                raise ValueError(f"unknown kind {tag!r}; known: {', '.join(sorted(KIND_TAGS))}")
        for slot in self.slots:
            for choice in slot.split("|"):
                if choice.rstrip("'") not in ROLES:
                    raise ValueError(f"unknown role {choice!r} in slot {slot!r}")

    @property
    def choices(self) -> tuple[tuple[SlotChoice, ...], ...]:
        """The slots taken apart: for each, its possible fillings."""
        return tuple(
            tuple(SlotChoice(one.rstrip("'"), one.count("'")) for one in slot.split("|"))
            for slot in self.slots
        )


Row = tuple[int, int, int, int, int, int]


class Notes(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """How many notes a school wants in a hand: the price of none, one, ... five of them, in
    hundredths of a half step; of the left hand by who has the bass."""

    left_self: Row
    left_bassist: Row
    right: Row

    def __post_init__(self) -> None:
        for row in (self.left_self, self.left_bassist, self.right):
            if not all(0 <= price <= 10_000 for price in row):
                raise ValueError(f"prices of notes are 0..10000, not {list(row)}")

    def of(self, side: str, bass: str) -> Row:
        """The row of the "left" or "right" hand."""
        if side == "right":
            return self.right
        return self.left_self if bass == "self" else self.left_bassist


class School(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One row of ``schools.toml``: a preset of shapes and prices.

    ``signature_left`` and ``signature_right`` are the recipes that make the school what it is;
    empty: all of its recipes. ``loose``: holes and low limits are prices, not bans; ``doubles``: so is
    doubling. ``top``: whether the top line stays, goes as it comes, or sings. ``clear_top``: no half step
    under the top note of the right hand, which elsewhere is dear.
    """

    id: str
    name: str
    about: str
    bass: Literal["self", "bassist"]
    colour: int
    left_self: tuple[str, ...]
    left_bassist: tuple[str, ...]
    right: tuple[str, ...]
    notes: Notes
    widest_gap_st: int
    signature_left: tuple[str, ...] = ()
    signature_right: tuple[str, ...] = ()
    loose: bool = False
    doubles: bool = False
    clear_top: bool = False
    melody: Literal["free", "top", "clear", "room"] = "free"
    top: TopLine = "sings"
    reduce: tuple[Literal["top", "fifth", "root", "alone", "over", "roll"], ...] = REDUCE
    weights: dict[str, int] = msgspec.field(default_factory=dict)

    def left(self, bass: str) -> tuple[str, ...]:
        """Left-hand recipe ids, by who has the bass."""
        return self.left_self if bass == "self" else self.left_bassist

    def signature(self, side: str) -> tuple[str, ...]:
        """The recipes of a hand that are the school's own way."""
        return self.signature_left if side == "left" else self.signature_right


class Library(Struct, frozen=True):
    """All recipes and schools, by id."""

    recipes: Mapping[str, Recipe] = field(default_factory=dict)
    schools: Mapping[str, School] = field(default_factory=dict)

    def school(self, school_id: str, place: str = "school") -> School:
        if school_id in self.schools:
            return self.schools[school_id]
        raise BadInput(Problem(place, f"there is no school {school_id!r}", f"use {', '.join(self.schools)}"))


def with_own_recipes(library: Library, text: str, place: str) -> Library:
    """The library with a player's own recipes behind those of the schools they name (of every
    school where they name none).

    Raises :class:`BadInput` listing every bad row, taken ids and unknown schools among them.
    """
    own = load_recipes(text, place)
    problems = [
        Problem(f"{place}: recipe {recipe.id}", what, remedy)
        for recipe in own.values()
        for what, remedy in _own_troubles(recipe, library)
    ]
    if problems:
        raise BadInput(problems)
    schools = {}
    for school in library.schools.values():
        joining = [r for r in own.values() if not r.schools or school.id in r.schools]
        left = tuple(r.id for r in joining if "left" in r.hands)
        schools[school.id] = msgspec.structs.replace(
            school,
            left_self=school.left_self + left,
            left_bassist=school.left_bassist + left,
            right=school.right + tuple(r.id for r in joining if "right" in r.hands),
        )
    return Library({**library.recipes, **own}, schools)


def _own_troubles(recipe: Recipe, library: Library) -> Iterator[tuple[str, str]]:
    if recipe.id in library.recipes:
        yield "this id is taken by a recipe that ships", "choose another id"
    if recipe.build == "polychord":
        yield "a polychord's hands have the two recipes that ship", "leave this one out, or write its slots"
    for school in recipe.schools:
        if school not in library.schools:
            yield f"there is no school {school!r}", f"use {', '.join(library.schools)}"


def load_recipes(text: str, place: str = "recipes.toml") -> dict[str, Recipe]:
    """Read a recipe file. Raises :class:`BadInput` listing every bad row."""
    return read_rows(text, place, "recipe", RECIPES_SCHEMA, lambda raw, _: msgspec.convert(raw, Recipe))


def load_schools(text: str, recipes: Mapping[str, Recipe], place: str = "schools.toml") -> dict[str, School]:
    """Read a school file against known recipes. Lists are written once under ``[lists]`` and named
    with an ``@``; ``*`` stands for every recipe of the hand. Raises :class:`BadInput` listing
    every bad row."""

    def read(raw: dict[str, Any], data: dict[str, Any]) -> School:
        row = msgspec.convert(_spread_out(raw, data.get("lists", {}), recipes), School)
        _check_school(row, recipes)
        return row

    return read_rows(text, place, "school", SCHOOLS_SCHEMA, read)


def _spread_out(raw: dict[str, Any], lists: dict[str, Any], recipes: Mapping[str, Recipe]) -> dict[str, Any]:
    hands = {"left_self": "left", "left_bassist": "left", "right": "right"}
    out = dict(raw)
    for name in (*hands, "signature_left", "signature_right"):
        if isinstance(raw.get(name), list):
            out[name] = _spread_list(raw[name], lists, recipes, hands.get(name, ""))
    return out


def _spread_list(
    names: list[Any], lists: dict[str, Any], recipes: Mapping[str, Recipe], hand: str, depth: int = 0
) -> list[Any]:
    out: list[Any] = []
    for name in names:
        if isinstance(name, str) and name.startswith("@") and name[1:] in lists and depth < _LIST_DEPTH:
            out += _spread_list(lists[name[1:]], lists, recipes, hand, depth + 1)
        elif name == EVERY:
            out += [recipe.id for recipe in recipes.values() if hand in recipe.hands]
        else:
            out.append(name)  # an unknown list is said as an unknown recipe
    return list(dict.fromkeys(out))


def _check_school(row: School, recipes: Mapping[str, Recipe]) -> None:
    for hand, ids in (("left", (*row.left_self, *row.left_bassist)), ("right", row.right)):
        for recipe_id in ids:
            if recipe_id not in recipes:
                raise ValueError(f"unknown recipe {recipe_id!r}")
            if hand not in recipes[recipe_id].hands:
                raise ValueError(f"recipe {recipe_id!r} is not for the {hand} hand")
    for recipe_id in (*row.signature_left, *row.signature_right):
        if recipe_id not in recipes:
            raise ValueError(f"unknown recipe {recipe_id!r} in the signature")


@lru_cache(maxsize=1)
def builtin_library() -> Library:
    """The recipes and schools that ship with the application."""
    data = files("yellow_hinge.voicing") / "data"
    recipes = load_recipes((data / "recipes.toml").read_text("utf-8"))
    return Library(recipes, load_schools((data / "schools.toml").read_text("utf-8"), recipes))
