"""Styles: how near each family of swaps is to a song, rows of ``data/styles.toml``, checked when loaded."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import lru_cache
from importlib.resources import files
from math import log2
from typing import Any

import msgspec
from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.reharm.rules import GROUPS, RULES, Rule
from yellow_hinge.toml_rows import read_rows, row_text

STYLES_SCHEMA = "yellow-hinge/styles/1"
#: A weight moves a family by at most so many hundredths of a half step.
MOST_WEIGHT = 300
#: Twice as often taken as others is so much nearer, in hundredths of a half step (our choice).
_TWICE = 40
#: Swaps that a player has taken, from which on they say anything.
LEAST_TAKEN = 4


class Style(Struct, frozen=True):
    """A row: what it does in words, and its weights in hundredths of a half step by family and by rule."""

    id: str
    name: str
    words: str
    families: Mapping[str, int] = {}
    rules: Mapping[str, int] = {}

    def price(self, rule: Rule) -> int:
        """How far a rule's swaps go from the function in this style; never below 0."""
        return max(0, rule.price + self.families.get(rule.group, 0) + self.rules.get(rule.id, 0))


def read_styles(text: str, place: str = "styles") -> Mapping[str, Style]:
    """The styles of a file by id. Raises :class:`BadInput` with every bad row."""
    return read_rows(text, place, "style", STYLES_SCHEMA, _style)


def _style(raw: dict[str, Any], _: dict[str, Any]) -> Style:
    style = msgspec.convert(raw, Style)
    unknown = [*(set(style.families) - set(GROUPS)), *(set(style.rules) - set(RULES))]
    if unknown:
        raise ValueError(f"{', '.join(sorted(unknown))}: families are {', '.join(GROUPS)}; rules go by id")
    for weight in (*style.families.values(), *style.rules.values()):
        if abs(weight) > MOST_WEIGHT:
            raise ValueError(f"a weight is -{MOST_WEIGHT}..{MOST_WEIGHT}, not {weight}")
    return style


@lru_cache(maxsize=1)
def builtin_styles() -> Mapping[str, Style]:
    """The styles that ship, by id."""
    text = (files("yellow_hinge.reharm") / "data" / "styles.toml").read_text("utf-8")
    return read_styles(text, "styles.toml")


def style_of(name: str, known: Mapping[str, Style], place: str = "style") -> Style:
    """A style by id. Raises :class:`BadInput` at a place with those that there are."""
    if name not in known:
        raise BadInput(Problem(place, f"there is no style {name!r}", f"take one of {', '.join(known)}"))
    return known[name]


def learned(taken: Iterable[str], left: Iterable[str], name: str) -> Style | None:
    """A style of the player's own from the rules of swaps that were taken, and of those that stood beside
    them and were left: a family that is taken more often than it is offered is nearer. None where too little
    was taken to say anything."""
    chosen = [RULES[rule].group for rule in taken if rule in RULES]
    offered = [RULES[rule].group for rule in left if rule in RULES] + chosen
    if len(chosen) < LEAST_TAKEN:
        return None
    weights = {}
    for group in dict.fromkeys(offered):  # what never came up says nothing
        # one of each family is added to both: of little that was taken little is said
        often = (chosen.count(group) + 1) / (len(chosen) + len(GROUPS))
        usual = (offered.count(group) + 1) / (len(offered) + len(GROUPS))
        weights[group] = max(-MOST_WEIGHT, min(MOST_WEIGHT, -round(_TWICE * log2(often / usual))))
    words = f"learnt from {len(chosen)} swaps that you took"
    return Style("mine", name, words, {group: weight for group, weight in weights.items() if weight})


def style_text(style: Style) -> str:
    """A file with one style."""
    head = f'schema = "{STYLES_SCHEMA}"\n\n'
    row = row_text("style", {"id": style.id, "name": style.name, "words": style.words})
    tables = ""
    if style.families:
        inner = "\n".join(f'"{group}" = {weight}' for group, weight in style.families.items())
        tables = f"[style.families]\n{inner}\n"
    return head + row + tables
