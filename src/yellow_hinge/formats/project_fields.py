"""The fields of a project file, as they are checked when it is read.

Their types are not put off (no ``from __future__ import annotations``): otherwise each would be compiled by
itself when the first file is read, which takes a tenth of a start.
"""

from fractions import Fraction
from typing import Literal

import msgspec

from yellow_hinge import strict
from yellow_hinge.formats.hands_file import HandsIn
from yellow_hinge.formats.project_groove import GrooveIn
from yellow_hinge.formats.project_rules import RuleIn
from yellow_hinge.song.arrangement import Bass, Melody
from yellow_hinge.theory.pitch import DEGREES, NoteName, read_note_name
from yellow_hinge.voicing.shape import Hands, Plan, TopLine

MOST_TAKES = 64
MOST_ID = 64


def read_beats(text: str) -> Fraction:
    value = strict.length(text)
    if value is None:
        raise ValueError(f"{text!r} is no length in beats")
    return value


def read_note(text: str) -> NoteName | None:
    found = read_note_name(text)
    return found[0] if found is not None and found[1] == len(text) else None


class ShapeIn(msgspec.Struct):
    keys: tuple[int, ...]
    degrees: tuple[str, ...]
    recipe: str

    def __post_init__(self) -> None:
        ascending = all(a < b for a, b in zip(self.keys, self.keys[1:], strict=False))
        if len(self.keys) > 5 or not ascending or not all(0 <= key <= 127 for key in self.keys):
            raise ValueError("keys must be at most 5 ascending MIDI keys")
        if len(self.degrees) != len(self.keys) or not set(self.degrees) <= set(DEGREES):
            raise ValueError("degrees must name each key's place in the chord")


class ChoiceIn(msgspec.Struct):
    left: ShapeIn
    right: ShapeIn
    locked: bool


class TasteIn(msgspec.Struct, omit_defaults=True):
    school: str | None = None
    colour: int | None = None
    melody: Melody | None = None
    pedal: str | None = None
    held_top: bool | None = None
    hands: Hands | None = None
    inverted: bool | None = None
    rules: list[RuleIn] = []
    off: list[str] = []
    top_line: TopLine | None = None
    plan: Plan | None = None
    style: str | None = None

    def __post_init__(self) -> None:
        if self.colour is not None and not 0 <= self.colour <= 3:
            raise ValueError(f"colour must be 0..3, not {self.colour}")
        if self.pedal is not None and read_note(self.pedal) is None:
            raise ValueError(f"pedal must be a note such as A or Bb, not {self.pedal!r}")


class FillIn(msgspec.Struct):
    hand: Literal["left", "right"]
    start_key: int
    end_key: int
    key: int
    offset_beats: str
    beats: str

    def __post_init__(self) -> None:
        if not all(0 <= key <= 127 for key in (self.start_key, self.end_key, self.key)):
            raise ValueError("the keys of a fill must be MIDI keys")
        if not (read_beats(self.offset_beats) > 0 and read_beats(self.beats) > 0):
            raise ValueError("a fill's beats must be above 0")


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
    fills: list[FillIn] = []
    off: list[str] = []


class TakeIn(msgspec.Struct):
    """A take. Decisions go by the id of a written chord, with the part of its swap behind a point:
    "12", "12.1". The chords of a swap are symbols with their beats as fractions ("3/2")."""

    id: int
    name: str
    school: str
    colour: int | None = None
    bass: Bass | None = None
    melody: Melody | None = None
    playing: Hands = "both"
    inverted: bool = False
    loop: bool = False
    levels: dict[str, int] = {}
    rules_off: tuple[str, ...] = ()
    tastes: dict[str, TasteIn] = {}
    choices: dict[str, ChoiceIn] = {}
    asks: dict[str, AskIn] = {}
    swaps: dict[str, list[tuple[str, str]]] = {}
    keys_set: dict[str, str] = {}
    untouched: list[int] = []
    rules: list[RuleIn] = []
    groove: GrooveIn = msgspec.field(default_factory=GrooveIn)
    shift_st: int = 0
    top_line: TopLine | None = None
    plan: Plan | None = None
    style: str | None = None
    twin: int | None = None

    def __post_init__(self) -> None:
        for name, level in self.levels.items():
            if not -2 <= level <= 2:
                raise ValueError(f"level {name!r} must be -2..2, not {level}")
        if self.colour is not None and not 0 <= self.colour <= 3:
            raise ValueError(f"colour must be 0..3, not {self.colour}")
        if not -6 <= self.shift_st <= 5:
            raise ValueError(f"shift_st must be -6..5, not {self.shift_st}")


class LegIn(msgspec.Struct):
    section: str
    round: int
    take: int


class ProjectIn(msgspec.Struct):
    schema: str
    chart: str
    hands: HandsIn
    takes: list[TakeIn]
    ids: list[int] = []
    current: int = 0
    route: list[LegIn] = []
    lift_st: int = 0
    keys_chosen: list[str] = []
    draft: str | None = None
    id: str = ""

    def __post_init__(self) -> None:
        if len(self.id) > MOST_ID or not self.id.isprintable():
            raise ValueError(f"id must be at most {MOST_ID} printable signs")
        ids = [take.id for take in self.takes]
        if not 1 <= len(ids) <= MOST_TAKES or len(set(ids)) < len(ids):
            raise ValueError(f"takes must be 1..{MOST_TAKES} with ids of their own")
        if len(set(self.ids)) < len(self.ids):
            raise ValueError("ids must be different")
        if not -12 < self.lift_st < 12:
            raise ValueError(f"lift_st must be -11..11, not {self.lift_st}")
