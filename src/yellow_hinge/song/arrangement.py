"""What a player decided on top of a chart: one arrangement is one take.

Decisions hang on chords by :class:`song.at.At`. All rounds of a section are alike; where a round is to
differ, another take sounds in it (:class:`song.model.Song` has the route).
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.rhythm.events import Fill
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.groove import Groove
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.voicing.hand_rules import HandRule, Kind, merged
from yellow_hinge.voicing.own_prices import OwnPrices
from yellow_hinge.voicing.shape import Hands, Hold, Plan, TopLine, Voicing

Bass = Literal["self", "bassist"]
#: What the melody means for the hands: nothing; the right hand has it on top; somebody else
#: sings it and the hands keep a half step away; or the hands leave its register free.
Melody = Literal["free", "top", "clear", "room"]


#: What a taste may say, rules apart.
WISHES = (
    "school", "colour", "melody", "pedal", "held_top", "hands", "inverted", "top_line", "plan", "style",
)  # fmt: skip


class Taste(Struct, frozen=True):
    """What a section or a chord wants otherwise; None leaves it to what stands around it.

    ``pedal`` is a bass note held under the chords; ``held_top`` keeps the top note wherever the
    chords allow; ``hands`` says which hands play, ``inverted`` lets chords stand on their third,
    fifth or seventh. ``top_line`` says what the top line does, ``plan`` how it lies when it sings (a
    section's, or all sections'). ``style`` is the id of a style of swaps. ``rules`` are for one hand each.
    What is named in ``off`` is kept, and does not hold.
    """

    school: str | None = None
    colour: int | None = None
    melody: Melody | None = None
    pedal: NoteName | None = None
    held_top: bool | None = None
    hands: Hands | None = None
    inverted: bool | None = None
    rules: tuple[HandRule, ...] = ()
    off: frozenset[str] = frozenset()
    top_line: TopLine | None = None
    plan: Plan | None = None
    style: str | None = None

    @property
    def said(self) -> tuple[str, ...]:
        """The wishes that are said, rules apart, whether they hold or not."""
        return tuple(name for name in WISHES if getattr(self, name) is not None)

    def holding(self, name: str) -> Any:
        """A wish that holds; None where it is not said or switched off."""
        return None if name in self.off else getattr(self, name)

    def over(self, wider: Taste) -> Taste:
        """This taste, and where it says nothing the wider one: just what holds."""
        if self is _NOTHING is wider:
            return self
        found = {}
        for name in (*self.said, *wider.said):
            holding = self.holding(name)
            found[name] = wider.holding(name) if holding is None else holding
        return Taste(**found, rules=merged(wider.rules, self.rules))

    def beyond(self, wider: Taste) -> Taste:
        """What this taste says that the wider one does not say already."""
        found = {name: self.holding(name) for name in self.said}
        more = {name: value for name, value in found.items() if value != wider.holding(name)}
        rules = tuple(rule for rule in self.rules if rule not in wider.rules)
        as_strong = merged(wider.rules, rules) == self.rules  # the order says which of two wins
        return Taste(**more, rules=rules if as_strong else self.rules)


_NOTHING = Taste()


class Ask(Struct, frozen=True):
    """What the player asks of one chord: a taste of its own, what is kept of its voicing short of
    the whole, and small notes on the way to the next chord, which sound as long as both chords
    have the notes they join."""

    taste: Taste = Taste()
    hold: Hold = Hold()
    fills: tuple[Fill, ...] = ()


class Choice(Struct, frozen=True):
    """The voicing of a chord; locked ones are not moved by the search. ``own``: the player locked it there,
    or brought it, so that it says what they like; otherwise something else needed it to stay."""

    voicing: Voicing
    locked: bool = False
    own: bool = False


class Arrangement(Struct, frozen=True):
    """Everything that a player decided for one take. None leaves a choice to the school.

    ``loop`` leads from the last chord back to the first; ``levels`` how much things matter (concern
    id, -2..2); ``rules_off`` swap rules that are switched off. ``tastes`` go by section name;
    ``choices`` and ``asks`` by chord; ``swaps`` (what stands for a written chord), ``keys_set``
    (local keys) and ``untouched`` (chords that no swap may take) by the written chord's id. ``rules`` are
    for the whole take; ``groove`` is how it is played. ``shift_st``: the take sounds so many half steps
    above the song's key (-6..5); everything else that is decided in it is in the key it sounds in.
    ``prices``: the player's, with which it is voiced; None: the program's own.
    """

    school: str = "solo"
    colour: int | None = None
    bass: Bass | None = None
    melody: Melody | None = None
    hands: Hands = "both"
    inverted: bool = False
    loop: bool = False
    levels: tuple[tuple[str, int], ...] = ()
    rules_off: tuple[str, ...] = ()
    tastes: Mapping[str, Taste] = field(default_factory=dict)
    choices: Mapping[At, Choice] = field(default_factory=dict)
    asks: Mapping[At, Ask] = field(default_factory=dict)
    swaps: Mapping[int, tuple[ChordAt, ...]] = field(default_factory=dict)
    keys_set: Mapping[int, Key] = field(default_factory=dict)
    untouched: frozenset[int] = frozenset()
    rules: tuple[HandRule, ...] = ()
    groove: Groove = Groove()
    shift_st: int = 0
    top_line: TopLine | None = None
    plan: Plan | None = None
    style: str | None = None
    prices: OwnPrices | None = None

    def ask(self, at: At) -> Ask:
        """What the player asks of a chord."""
        return self.asks.get(at) or Ask()

    @property
    def own_taste(self) -> Taste:
        """What the whole take wants, as a taste."""
        return Taste(
            self.school, self.colour, self.melody, hands=self.hands, inverted=self.inverted,
            rules=self.rules, top_line=self.top_line, plan=self.plan, style=self.style,
        )  # fmt: skip

    def has_rule(self, kind: Kind) -> bool:
        """Whether there is a rule of a kind anywhere in the take."""
        tastes = (*self.tastes.values(), *(ask.taste for ask in self.asks.values()))
        return any(rule.kind == kind for rules in (self.rules, *(t.rules for t in tastes)) for rule in rules)

    def taste(self, at: At, section: str) -> Taste:
        """The taste of a chord: its own, or else its section's; and the rules of all three."""
        ask, wider = self.asks.get(at), self.tastes.get(section, _NOTHING)
        if self.rules:
            wider = replace(wider, rules=merged(self.rules, wider.rules))
        return (_NOTHING if ask is None else ask.taste).over(wider)

    def pedals(self, at: At, section: str) -> bool:
        """Whether a bass note is held under a chord."""
        ask, wider = self.asks.get(at), self.tastes.get(section)
        return (ask is not None and ask.taste.holding("pedal") is not None) or (
            wider is not None and wider.holding("pedal") is not None
        )

    def voicing(self, at: At) -> Voicing | None:
        choice = self.choices.get(at)
        return None if choice is None else choice.voicing

    def locked(self, at: At) -> bool:
        choice = self.choices.get(at)
        return choice is not None and choice.locked
