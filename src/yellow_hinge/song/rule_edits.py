"""Rules for a stretch, and switching single wishes and rules off and on."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.song.arrangement import Taste
from yellow_hinge.song.edits import Edit, wish_for_chord, wish_for_section, with_arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.voicing.hand_rules import HandRule

Scope = Literal["chord", "section", "song"]


class Stretch(Struct, frozen=True):
    """What a wish or a rule is for: a chord by a slot of it, the section around that slot, or the whole
    take."""

    scope: Scope
    index: int = 0


def taste_of(song: Song, stretch: Stretch) -> Taste:
    """What a stretch wants, not what wider ones do."""
    if stretch.scope == "chord":
        return song.ask(stretch.index).taste
    if stretch.scope == "section":
        return song.arrangement.tastes.get(song.slots[stretch.index].section, Taste())
    return song.arrangement.own_taste


def slots_in(song: Song, stretch: Stretch) -> tuple[int, ...]:
    """The slots of a stretch in the take that is worked on."""
    own = song.slots[stretch.index] if song.slots else None
    if own is None:
        return ()
    return tuple(
        slot.index
        for slot in song.slots
        if slot.take == (own.take if stretch.scope == "chord" else song.current)
        and (stretch.scope != "chord" or slot.at == own.at)
        and (stretch.scope != "section" or slot.section == own.section)
    )


def _with_taste(song: Song, stretch: Stretch, change: Callable[[Taste], Taste], label: str) -> Edit:
    taste = change(taste_of(song, stretch))
    if stretch.scope == "chord":
        edit = wish_for_chord(song, stretch.index, replace(song.ask(stretch.index), taste=taste))
    elif stretch.scope == "section":
        edit = wish_for_section(song, song.slots[stretch.index].section, taste)
    else:
        arrangement = replace(
            song.arrangement, rules=taste.rules, colour=taste.colour, melody=taste.melody,
            hands=taste.hands or "both", inverted=bool(taste.inverted), top_line=taste.top_line,
            plan=taste.plan, style=taste.style,
        )  # fmt: skip
        edit = Edit(with_arrangement(song, song.current, arrangement), label)
    return replace(edit, label=label)


def set_rule(song: Song, stretch: Stretch, rule: HandRule) -> Edit:
    """A rule for a stretch; one of the same kind for the same hand gives way to it."""

    def change(taste: Taste) -> Taste:
        others = tuple(r for r in taste.rules if (r.side, r.kind) != (rule.side, rule.kind))
        return replace(taste, rules=(*others, rule))

    return _with_taste(song, stretch, change, f"Rule: {rule.words()}")


def switch_rule_for_hand(song: Song, stretch: Stretch, rule: HandRule, on: bool) -> Edit:
    """Let a rule rest, or hold again."""

    def change(taste: Taste) -> Taste:
        return replace(taste, rules=tuple(replace(r, on=on) if r == rule else r for r in taste.rules))

    return _with_taste(song, stretch, change, "Rule holds again" if on else "Rule rests")


def drop_rule(song: Song, stretch: Stretch, rule: HandRule) -> Edit:
    """Without a rule."""

    def change(taste: Taste) -> Taste:
        return replace(taste, rules=tuple(r for r in taste.rules if r != rule))

    return _with_taste(song, stretch, change, "Drop a rule")


def switch_wish(song: Song, stretch: Stretch, name: str, on: bool) -> Edit:
    """Let a wish rest, or hold again. What the whole take wants has no rest: it is taken back."""
    label = "Wish holds again" if on else "Wish rests"
    if stretch.scope == "song":
        nothing: dict[str, Any] = {name: None}
        return _with_taste(song, stretch, lambda taste: replace(taste, **nothing), label)

    def change(taste: Taste) -> Taste:
        return replace(taste, off=taste.off - {name} if on else taste.off | {name})

    return _with_taste(song, stretch, change, label)


def drop_wish(song: Song, stretch: Stretch, name: str) -> Edit:
    """Without a wish."""
    nothing: dict[str, Any] = {name: None}
    return _with_taste(
        song, stretch, lambda taste: replace(taste, **nothing, off=taste.off - {name}), "Drop a wish"
    )


def switch_hold(song: Song, index: int, name: str, on: bool) -> Edit:
    """Let what is kept of a voicing go for now, or keep it again."""
    ask = song.ask(index)
    off = ask.hold.off - {name} if on else ask.hold.off | {name}
    edit = wish_for_chord(song, index, replace(ask, hold=replace(ask.hold, off=off)))
    return replace(edit, label="Keep it again" if on else "Let it go for now")


def drop_hold(song: Song, index: int, name: str) -> Edit:
    """Keep nothing of it any more."""
    ask = song.ask(index)
    nothing: dict[str, Any] = {name: None}
    hold = replace(ask.hold, **nothing, off=ask.hold.off - {name})
    return replace(wish_for_chord(song, index, replace(ask, hold=hold)), label="Let go")
