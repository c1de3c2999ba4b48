"""What becomes of a player's decisions when what they hang on changes.

:data:`FIELDS` has one row for each field of :class:`song.arrangement.Arrangement`: how it follows
an edited chart, another key, a swap, and a mix of two takes. What cannot be carried is collected
in words, so that it can be said.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.rhythm.events import Fill
from yellow_hinge.song.arrangement import Arrangement, Ask, Choice, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import ChordAt, Move, Written
from yellow_hinge.song.groove import Groove
from yellow_hinge.theory.keys import Key
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing

_LAST_KEY = 127


class Recharted(Struct, frozen=True):
    """Another chart: each written chord that is still there, old and new, by its id; the names that
    sections have now, by those they had."""

    pairs: Mapping[int, tuple[Written, Written]]
    sections: Mapping[str, str]
    old: Mapping[int, Written]
    lost: list[str] = field(default_factory=list)

    def same(self, written: int) -> bool:
        """Whether a chord is there as it was, up to its length."""
        pair = self.pairs.get(written)
        return pair is not None and pair[0].chord == pair[1].chord

    def lose(self, what: str, written: int) -> None:
        """Say that something could not be kept, with the chord as it was."""
        was = self.old[written]
        self.lost.append(f"{what} of {_symbol(was)} in bar {was.bar}")


class Transposed(Struct, frozen=True):
    """Another key: how names move, and by how many half steps the player's own notes do."""

    move: Move
    shift_st: int
    lost: list[str] = field(default_factory=list)


class Swapped(Struct, frozen=True):
    """Another swap, or none, for one written chord: its parts before and after."""

    written: Written
    before: tuple[ChordAt, ...]
    after: tuple[ChordAt, ...]
    lost: list[str] = field(default_factory=list)


class Mixed(Struct, frozen=True):
    """Chords and whole sections that come from another take."""

    mine: Arrangement
    theirs: Arrangement
    ids: frozenset[int]
    sections: frozenset[str]
    section_of: Mapping[int, str]


def _symbol(written: Written) -> str:
    return "no chord" if written.chord is None else written.chord.pretty


def _stays(value: Any, _: object) -> Any:
    return value


class Field(Struct, frozen=True):
    """How one field follows; by default it stays as it is, and in a mix it is my own."""

    recharted: Callable[[Any, Recharted], Any] = _stays
    transposed: Callable[[Any, Transposed], Any] = _stays
    swapped: Callable[[Any, Swapped], Any] = _stays
    mixed: Callable[[Any, Mixed], Any] = _stays


# --- tastes by section -------------------------------------------------------------------


def _tastes_recharted(tastes: Mapping[str, Taste], by: Recharted) -> dict[str, Taste]:
    by.lost.extend(f"the wishes for {name}" for name in tastes if name not in by.sections)
    return {by.sections[name]: taste for name, taste in tastes.items() if name in by.sections}


def _moved_taste(taste: Taste, by: Transposed) -> Taste:
    pedal = None if taste.pedal is None else by.move.name(taste.pedal)
    return replace(taste, pedal=pedal, rules=_rules_transposed(taste.rules, by))


def _rules_transposed(rules: tuple[HandRule, ...], by: Transposed) -> tuple[HandRule, ...]:
    """A fixed grip goes along; how far a hand goes on the keyboard stays."""
    moved = []
    for rule in rules:
        value = rule.value
        if rule.kind == "grip" and isinstance(value, tuple):
            value = tuple(key + by.shift_st for key in value)
            if not _on_keyboard(*value):
                by.lost.append("a fixed grip that would lie beyond the keyboard")
                continue
        moved.append(replace(rule, value=value))
    return tuple(moved)


def _tastes_transposed(tastes: Mapping[str, Taste], by: Transposed) -> dict[str, Taste]:
    return {name: _moved_taste(taste, by) for name, taste in tastes.items()}


def _tastes_mixed(tastes: Mapping[str, Taste], by: Mixed) -> dict[str, Taste]:
    own = {name: taste for name, taste in tastes.items() if name not in by.sections}
    return own | {name: taste for name, taste in by.theirs.tastes.items() if name in by.sections}


# --- voicings ----------------------------------------------------------------------------


def _choices_recharted(choices: Mapping[At, Choice], by: Recharted) -> dict[At, Choice]:
    for at, choice in choices.items():
        if choice.locked and not by.same(at.written):
            by.lose("the locked voicing", at.written)
    return {at: choice for at, choice in choices.items() if by.same(at.written)}


def _moved_shape(shape: HandShape, shift_st: int) -> HandShape | None:
    keys = tuple(key + shift_st for key in shape.keys)
    return replace(shape, keys=keys) if all(0 <= key <= _LAST_KEY for key in keys) else None


def _choices_transposed(choices: Mapping[At, Choice], by: Transposed) -> dict[At, Choice]:
    moved = {}
    for at, choice in choices.items():
        hands = (choice.voicing.left, choice.voicing.right)
        left, right = (_moved_shape(shape, by.shift_st) for shape in hands)
        if left is not None and right is not None:
            moved[at] = replace(choice, voicing=Voicing(left, right))
        elif choice.locked:
            by.lost.append("a locked voicing that would lie beyond the keyboard")
    return moved


def _part_now(by: Swapped) -> dict[int, int]:
    """Part before -> part after that has the same chord, each once."""
    places = dict(enumerate(by.after, 1))
    found: dict[int, int] = {}
    for part, chord_at in enumerate(by.before, 1):
        now = next((p for p, other in places.items() if other.chord == chord_at.chord), None)
        if now is not None:
            found[part] = now
            del places[now]
    return found


def _parts(values: Mapping[At, Any], by: Swapped, weight: Callable[[Any], str]) -> dict[At, Any]:
    """What hangs on the parts of one chord, after another swap: what is the same chord keeps it, the
    chart's own chord among the parts has what it has without a swap."""
    own = by.written.id
    kept = {at: value for at, value in values.items() if at.written != own or at.part == 0}
    part_now = _part_now(by)
    for part, chord_at in enumerate(by.before, 1):
        value = values.get(At(own, part))
        if value is None:
            continue
        if chord_at.chord == by.written.chord:
            kept[At(own)] = value  # it goes back to the chart's own chord when the swap is given back
        if part in part_now:
            kept[At(own, part_now[part])] = value
        elif chord_at.chord != by.written.chord and weight(value):
            symbol = "no chord" if chord_at.chord is None else chord_at.chord.pretty
            by.lost.append(f"{weight(value)} of {symbol} in bar {by.written.bar}")
    for part, chord_at in enumerate(by.after, 1):
        if chord_at.chord == by.written.chord and At(own) in kept:
            kept.setdefault(At(own, part), kept[At(own)])
    return kept


def _choices_swapped(choices: Mapping[At, Choice], by: Swapped) -> dict[At, Choice]:
    return _parts(choices, by, lambda choice: "the locked voicing" if choice.locked else "")


def _theirs(mine: Mapping[Any, Any], theirs: Mapping[Any, Any], ids: frozenset[int]) -> dict[Any, Any]:
    """Values by :class:`At` or by id: theirs for the ids that come from there."""

    def written(at: Any) -> int:
        return at.written if isinstance(at, At) else at

    own = {at: value for at, value in mine.items() if written(at) not in ids}
    return own | {at: value for at, value in theirs.items() if written(at) in ids}


def _choices_mixed(choices: Mapping[At, Choice], by: Mixed) -> dict[At, Choice]:
    return _theirs(choices, by.theirs.choices, by.ids)


# --- wishes for a chord ------------------------------------------------------------------


def ask_words(ask: Ask) -> str:
    """What of an ask a player would miss, in words; empty where nothing is asked."""
    parts = []
    if ask.taste != Taste():
        parts.append("the wishes")
    if ask.hold.said:
        parts.append("what is kept")
    if ask.fills:
        parts.append("the small notes")
    return " and ".join(parts)


def _asks_recharted(asks: Mapping[At, Ask], by: Recharted) -> dict[At, Ask]:
    kept: dict[At, Ask] = {}
    for at, ask in asks.items():
        pair = by.pairs.get(at.written)
        if pair is None:
            by.lose(ask_words(ask), at.written)
        elif pair[0].chord != pair[1].chord:
            # another colour on the same root: the wishes are still meant, what is kept is not
            kept[at] = Ask(ask.taste)
            if ask != kept[at]:
                by.lose(ask_words(replace(ask, taste=Taste())), at.written)
        else:
            kept[at] = _fitting(ask, at, pair, by)
    return {at: ask for at, ask in kept.items() if ask != Ask()}


def _fitting(ask: Ask, at: At, pair: tuple[Written, Written], by: Recharted) -> Ask:
    """Small notes that still fit into a chord of another length."""
    if pair[1].beats >= pair[0].beats or at.part:
        return ask
    fills = tuple(fill for fill in ask.fills if fill.offset_beats + fill.beats <= pair[1].beats)
    if fills != ask.fills:
        by.lose("small notes", at.written)
    return replace(ask, fills=fills)


def _asks_transposed(asks: Mapping[At, Ask], by: Transposed) -> dict[At, Ask]:
    moved = {at: _moved_ask(ask, by) for at, ask in asks.items()}
    return {at: ask for at, ask in moved.items() if ask != Ask()}


def _moved_ask(ask: Ask, by: Transposed) -> Ask:
    fills = tuple(_moved_fill(fill, by.shift_st) for fill in ask.fills)
    whole = tuple(fill for fill in fills if _on_keyboard(fill.key, fill.start_key, fill.end_key))
    if whole != fills:
        by.lost.append("small notes that would lie beyond the keyboard")
    return Ask(_moved_taste(ask.taste, by), _moved_hold(ask.hold, by), whole)


def _moved_fill(fill: Fill, shift_st: int) -> Fill:
    keys = {name: getattr(fill, name) + shift_st for name in ("start_key", "end_key", "key")}
    return replace(fill, **keys)


def _on_keyboard(*keys: int) -> bool:
    return all(0 <= key <= _LAST_KEY for key in keys)


def _moved_hold(hold: Hold, by: Transposed) -> Hold:
    shapes = {name: getattr(hold, name) for name in ("left", "right") if getattr(hold, name) is not None}
    keys = {name: getattr(hold, name) for name in ("top", "bass", "lowest", "highest")}
    moved: dict[str, Any] = {name: _moved_shape(shape, by.shift_st) for name, shape in shapes.items()}
    for name, key in keys.items():
        new = None if key is None else key + by.shift_st
        moved[name] = new if new is not None and _on_keyboard(new) else None
    after = replace(hold, **moved)
    if len(after.said) < len(hold.said):
        by.lost.append("something kept that would lie beyond the keyboard")
    return after


def _asks_swapped(asks: Mapping[At, Ask], by: Swapped) -> dict[At, Ask]:
    """A swap keeps the wishes of the place; what is kept of a voicing hangs on its chord."""
    whole = asks.get(At(by.written.id), Ask()).taste
    kept = _parts(asks, by, lambda ask: "" if ask == Ask(whole) else ask_words(ask))
    own = kept.get(At(by.written.id))
    if own is not None and own.taste != Taste():
        for part in range(1, len(by.after) + 1):
            kept.setdefault(At(by.written.id, part), Ask(own.taste))
    return kept


def _asks_mixed(asks: Mapping[At, Ask], by: Mixed) -> dict[At, Ask]:
    """Their wishes, in words that hold in my take: what their take or section says is said for the
    chord."""
    mixed: dict[At, Ask] = _theirs(asks, by.theirs.asks, by.ids)
    for written in by.ids:
        section = by.section_of[written]
        for part in range(len(by.theirs.swaps.get(written, ())) + 1):
            at = At(written, part)
            wanted = by.theirs.taste(at, section).over(by.theirs.own_taste)
            around = by.mine.tastes if section not in by.sections else by.theirs.tastes
            default = around.get(section, Taste()).over(by.mine.own_taste)
            ask = replace(by.theirs.ask(at), taste=wanted.beyond(default))
            if ask != Ask():
                mixed[at] = ask
    return mixed


# --- swaps, local keys, chords that stay -------------------------------------------------


def _swaps_recharted(
    swaps: Mapping[int, tuple[ChordAt, ...]], by: Recharted
) -> dict[int, tuple[ChordAt, ...]]:
    kept = {}
    for written, row in swaps.items():
        if by.same(written):
            old, new = by.pairs[written]
            kept[written] = _stretched(row, new.beats / old.beats)
        else:
            by.lose("the swap", written)
    return kept


def _stretched(row: tuple[ChordAt, ...], factor: Fraction) -> tuple[ChordAt, ...]:
    return row if factor == 1 else tuple(replace(at, beats=at.beats * factor) for at in row)


def _swaps_transposed(
    swaps: Mapping[int, tuple[ChordAt, ...]], by: Transposed
) -> dict[int, tuple[ChordAt, ...]]:
    return {
        written: tuple(replace(at, chord=by.move.chord(at.chord)) for at in row)
        for written, row in swaps.items()
    }


def _swaps_swapped(swaps: Mapping[int, tuple[ChordAt, ...]], by: Swapped) -> dict[int, tuple[ChordAt, ...]]:
    others = {written: row for written, row in swaps.items() if written != by.written.id}
    return others | ({by.written.id: by.after} if by.after else {})


def _swaps_mixed(swaps: Mapping[int, tuple[ChordAt, ...]], by: Mixed) -> dict[int, tuple[ChordAt, ...]]:
    return _theirs(swaps, by.theirs.swaps, by.ids)


def _keys_recharted(keys: Mapping[int, Key], by: Recharted) -> dict[int, Key]:
    for written in keys:
        if written not in by.pairs:
            by.lose("the local key", written)
    return {written: key for written, key in keys.items() if written in by.pairs}


def _keys_transposed(keys: Mapping[int, Key], by: Transposed) -> dict[int, Key]:
    return {written: by.move.key(key) for written, key in keys.items()}


def _keys_mixed(keys: Mapping[int, Key], by: Mixed) -> dict[int, Key]:
    return _theirs(keys, by.theirs.keys_set, by.ids)


def _untouched_recharted(untouched: frozenset[int], by: Recharted) -> frozenset[int]:
    for written in sorted(untouched):
        if written not in by.pairs:
            by.lose("the keeping as it is", written)
    return frozenset(written for written in untouched if written in by.pairs)


def _untouched_mixed(untouched: frozenset[int], by: Mixed) -> frozenset[int]:
    return (untouched - by.ids) | (by.theirs.untouched & by.ids)


# --- rhythm ------------------------------------------------------------------------------


def _groove_recharted(groove: Groove, by: Recharted) -> Groove:
    by.lost.extend(f"the rhythm of {name}" for name, _ in groove.sections if name not in by.sections)
    sections = {
        (by.sections[name], turn): texture
        for (name, turn), texture in groove.sections.items()
        if name in by.sections
    }
    return replace(
        groove,
        sections=sections,
        chords=_where(groove.chords, by, "the pattern", by.pairs.__contains__),
        riffs=_where(groove.riffs, by, "the riff", by.same),
        pedal_marks=_where(groove.pedal_marks, by, "the pedal", by.pairs.__contains__),
    )


def _where(values: Mapping[At, Any], by: Recharted, what: str, stays: Callable[[int], bool]) -> dict[At, Any]:
    for at in values:
        if not stays(at.written):
            by.lose(what, at.written)
    return {at: value for at, value in values.items() if stays(at.written)}


def _groove_transposed(groove: Groove, by: Transposed) -> Groove:
    riffs = {}
    for at, row in groove.riffs.items():
        moved = tuple(replace(note, key=note.key + by.shift_st) for note in row)
        riffs[at] = tuple(note for note in moved if _on_keyboard(note.key))
        if riffs[at] != moved:
            by.lost.append("notes of a riff that would lie beyond the keyboard")
    return replace(groove, riffs=riffs)


def _groove_swapped(groove: Groove, by: Swapped) -> Groove:
    """A swap keeps the pattern of the place; riffs and pedal marks hang on their chord."""
    chords = _parts(groove.chords, by, lambda _: "")
    own = chords.get(At(by.written.id))
    if own is not None:
        for part in range(1, len(by.after) + 1):
            chords.setdefault(At(by.written.id, part), own)
    riffs = _parts(groove.riffs, by, lambda _: "the riff")
    marks = _parts(groove.pedal_marks, by, lambda _: "the pedal")
    return replace(groove, chords=chords, riffs=riffs, pedal_marks=marks)


def _groove_mixed(groove: Groove, by: Mixed) -> Groove:
    theirs = by.theirs.groove
    mine = {key: texture for key, texture in groove.sections.items() if key[0] not in by.sections}
    there = {key: texture for key, texture in theirs.sections.items() if key[0] in by.sections}
    known = {pattern.id for pattern in groove.patterns}
    return replace(
        groove,
        sections=mine | there,
        chords=_theirs(groove.chords, theirs.chords, by.ids),
        riffs=_theirs(groove.riffs, theirs.riffs, by.ids),
        pedal_marks=_theirs(groove.pedal_marks, theirs.pedal_marks, by.ids),
        patterns=(*groove.patterns, *(pattern for pattern in theirs.patterns if pattern.id not in known)),
    )


FIELDS: dict[str, Field] = {
    "school": Field(),
    "colour": Field(),
    "bass": Field(),
    "melody": Field(),
    "hands": Field(),
    "inverted": Field(),
    "loop": Field(),
    "levels": Field(),
    "rules_off": Field(),
    "tastes": Field(_tastes_recharted, _tastes_transposed, mixed=_tastes_mixed),
    "choices": Field(_choices_recharted, _choices_transposed, _choices_swapped, _choices_mixed),
    "asks": Field(_asks_recharted, _asks_transposed, _asks_swapped, _asks_mixed),
    "swaps": Field(_swaps_recharted, _swaps_transposed, _swaps_swapped, _swaps_mixed),
    "keys_set": Field(_keys_recharted, _keys_transposed, mixed=_keys_mixed),
    "untouched": Field(_untouched_recharted, mixed=_untouched_mixed),
    "rules": Field(transposed=_rules_transposed),
    "groove": Field(_groove_recharted, _groove_transposed, _groove_swapped, _groove_mixed),
    "shift_st": Field(),
    "top_line": Field(),
    "plan": Field(),
    "style": Field(),
    "prices": Field(),
}


def recharted(arrangement: Arrangement, by: Recharted) -> Arrangement:
    """The arrangement on another chart."""
    return replace(arrangement, **{n: f.recharted(getattr(arrangement, n), by) for n, f in FIELDS.items()})


def transposed(arrangement: Arrangement, by: Transposed) -> Arrangement:
    """The arrangement in another key."""
    return replace(arrangement, **{n: f.transposed(getattr(arrangement, n), by) for n, f in FIELDS.items()})


def swapped(arrangement: Arrangement, by: Swapped) -> Arrangement:
    """The arrangement with another swap for one chord, or none."""
    return replace(arrangement, **{n: f.swapped(getattr(arrangement, n), by) for n, f in FIELDS.items()})


def mixed(by: Mixed) -> Arrangement:
    """My arrangement with some chords from another take."""
    mine = by.mine
    return replace(mine, **{n: f.mixed(getattr(mine, n), by) for n, f in FIELDS.items()})
