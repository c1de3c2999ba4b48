"""The fields of a project file, as they are checked when it is read. A value that stands in the file as it is
in the program is of the program's own kind, which says what it can be.

Their types are not put off (no ``from __future__ import annotations``): otherwise each would be compiled by
itself when the first file is read, which takes a tenth of a start.
"""

from collections.abc import Iterable
from typing import Annotated

import msgspec
from msgspec import Meta

from yellow_hinge.formats.project_groove import GrooveIn
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.song.arrangement import Bass, Melody
from yellow_hinge.theory.pitch import DEGREES, MidiKey, NoteName, read_note_name
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.own_prices import LEAST_SHARE, MOST_SHARE
from yellow_hinge.voicing.shape import Hands, HandShape, Plan, TopLine

MOST_TAKES = 64
MOST_ID = 64
MOST_COUNTED = 1_000_000
Colour = Annotated[int, Meta(ge=0, le=3)]
Share = Annotated[float, Meta(ge=LEAST_SHARE, le=MOST_SHARE)]


def read_note(text: str) -> NoteName | None:
    found = read_note_name(text)
    return found[0] if found is not None and found[1] == len(text) else None


def _check_rules(rules: Iterable[HandRule]) -> None:
    for rule in rules:
        if not rule.sound:
            raise ValueError(f"a rule {rule.kind!r} cannot have the value {rule.value!r}")


class ShapeIn(HandShape, frozen=True):
    """A hand's shape, whole."""

    keys: tuple[MidiKey, ...]
    degrees: tuple[str, ...]
    recipe: str

    def __post_init__(self) -> None:
        if len(self.keys) > 5 or list(self.keys) != sorted(set(self.keys)):
            raise ValueError("keys must be at most 5 ascending MIDI keys")
        if len(self.degrees) != len(self.keys) or not set(self.degrees) <= set(DEGREES):
            raise ValueError("degrees must name each key's place in the chord")

    @property
    def shape(self) -> HandShape:
        return HandShape(self.keys, self.degrees, self.recipe)


class ChoiceIn(msgspec.Struct):
    left: ShapeIn
    right: ShapeIn
    locked: bool
    own: bool = False


class PricesIn(msgspec.Struct, omit_defaults=True):
    shares: dict[str, Share] = {}
    shapes: dict[str, Annotated[int, Meta(ge=0, le=MOST_COUNTED)]] = {}
    school: str = ""
    whose: Annotated[str, Meta(max_length=MOST_ID)] = ""


class TasteIn(msgspec.Struct, omit_defaults=True):
    school: str | None = None
    colour: Colour | None = None
    melody: Melody | None = None
    pedal: str | None = None
    held_top: bool | None = None
    hands: Hands | None = None
    inverted: bool | None = None
    rules: tuple[HandRule, ...] = ()
    off: frozenset[str] = frozenset()
    top_line: TopLine | None = None
    plan: Plan | None = None
    style: str | None = None

    def __post_init__(self) -> None:
        _check_rules(self.rules)
        if self.pedal is not None and read_note(self.pedal) is None:
            raise ValueError(f"pedal must be a note such as A or Bb, not {self.pedal!r}")


class AskIn(msgspec.Struct, omit_defaults=True):
    taste: TasteIn = msgspec.field(default_factory=TasteIn)
    left: ShapeIn | None = None
    right: ShapeIn | None = None
    top: int | None = None
    bass: int | None = None
    left_recipe: str | None = None
    right_recipe: str | None = None
    lowest: int | None = None
    highest: int | None = None
    fills: tuple[Fill, ...] = ()
    off: frozenset[str] = frozenset()

    def __post_init__(self) -> None:
        if not all(fill.offset_beats > 0 and fill.beats > 0 for fill in self.fills):
            raise ValueError("a fill's beats must be above 0")


class TakeIn(msgspec.Struct):
    """A take. Decisions go by the id of a written chord, with the part of its swap behind a point:
    "12", "12.1". The chords of a swap are symbols with their beats as fractions ("3/2")."""

    id: int
    name: str
    school: str
    colour: Colour | None = None
    bass: Bass | None = None
    melody: Melody | None = None
    playing: Hands = "both"
    inverted: bool = False
    loop: bool = False
    levels: dict[str, Annotated[int, Meta(ge=-2, le=2)]] = {}
    rules_off: tuple[str, ...] = ()
    tastes: dict[str, TasteIn] = {}
    choices: dict[str, ChoiceIn] = {}
    asks: dict[str, AskIn] = {}
    swaps: dict[str, list[tuple[str, str]]] = {}
    keys_set: dict[str, str] = {}
    untouched: frozenset[int] = frozenset()
    rules: tuple[HandRule, ...] = ()
    groove: GrooveIn = msgspec.field(default_factory=GrooveIn)
    shift_st: Annotated[int, Meta(ge=-6, le=5)] = 0
    top_line: TopLine | None = None
    plan: Plan | None = None
    style: str | None = None
    prices: PricesIn | None = None
    twin: int | None = None

    def __post_init__(self) -> None:
        _check_rules(self.rules)


class LegIn(msgspec.Struct):
    section: str
    round: int
    take: int


class ProjectIn(msgspec.Struct):
    schema: str
    chart: str
    hands: HandProfile
    takes: list[TakeIn]
    ids: list[int] = []
    current: int = 0
    route: list[LegIn] = []
    lift_st: Annotated[int, Meta(ge=-11, le=11)] = 0
    keys_chosen: list[str] = []
    draft: str | None = None
    id: str = ""

    def __post_init__(self) -> None:
        if not self.hands.sound:
            raise ValueError("lowest_key and highest_key must ascend")
        if len(self.id) > MOST_ID or not self.id.isprintable():
            raise ValueError(f"id must be at most {MOST_ID} printable signs")
        ids = [take.id for take in self.takes]
        if not 1 <= len(ids) <= MOST_TAKES or len(set(ids)) < len(ids):
            raise ValueError(f"takes must be 1..{MOST_TAKES} with ids of their own")
        if len(set(self.ids)) < len(self.ids):
            raise ValueError("ids must be different")
