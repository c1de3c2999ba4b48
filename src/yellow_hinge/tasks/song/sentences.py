"""All wishes and rules of a take as one list of sentences, each of which can be switched off."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Literal

from msgspec import Struct

from yellow_hinge.song.arrangement import Ask
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.rule_edits import (
    Stretch,
    drop_hold,
    drop_rule,
    drop_wish,
    switch_hold,
    switch_rule_for_hand,
    switch_wish,
    taste_of,
)
from yellow_hinge.tasks.settings.own_styles import known_styles
from yellow_hinge.theory.pitch import Pitch, name_for_pitch_class
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.recipes import Library

COLOUR_WORDS = ("plain", "a little colour", "rich", "full colour")
MELODY_WORDS = {
    "free": "the melody does not matter",
    "top": "the melody on top",
    "clear": "the hands keep off the melody",
    "room": "the hands leave room for the melody",
}
TOP_LINE_WORDS = {"still": "the top line still", "free": "the top line as it comes",
                  "sings": "the top line sings"}  # fmt: skip
PLAN_WORDS = {"arc": "the top line in an arc", "flat": "the top line flat", "rising": "the top line rising",
              "falling": "the top line falling"}  # fmt: skip
HAND_WORDS = {"both": "both hands", "left": "the left hand alone", "right": "the right hand alone",
              "rest": "both hands at rest"}  # fmt: skip


class Sentence(Struct, frozen=True):
    """A wish ("school", "pedal"...), something kept of a voicing, or a rule, as a sentence; ``name`` is
    its field, or the rule itself."""

    kind: Literal["wish", "keep", "rule"]
    words: str
    stretch: Stretch
    name: str | HandRule
    on: bool

    def switched(self, song: Song, on: bool) -> Edit:
        """The song with it on, or off."""
        if isinstance(self.name, HandRule):
            return switch_rule_for_hand(song, self.stretch, self.name, on)
        if self.kind == "keep":
            return switch_hold(song, self.stretch.index, self.name, on)
        return switch_wish(song, self.stretch, self.name, on)

    def dropped(self, song: Song) -> Edit:
        """The song without it."""
        if isinstance(self.name, HandRule):
            return drop_rule(song, self.stretch, self.name)
        if self.kind == "keep":
            return drop_hold(song, self.stretch.index, self.name)
        return drop_wish(song, self.stretch, self.name)


def sentences(song: Song, library: Library) -> tuple[Sentence, ...]:
    """For the whole take, then its sections, then single chords, in playing order."""
    sentences = [*_of(song, library, Stretch("song"), "The song")] if song.slots else []
    seen: set[Any] = set()
    for slot in song.slots:
        if slot.take == song.current and slot.section not in seen and slot.section in song.arrangement.tastes:
            seen.add(slot.section)
            sentences += _of(song, library, Stretch("section", slot.index), slot.section)
    for slot in song.slots:
        if slot.take == song.current and slot.at not in seen and song.ask(slot.index) != Ask():
            seen.add(slot.at)
            where = f"Bar {slot.bar}, {'no chord' if slot.chord is None else slot.chord.pretty}"
            sentences += _of(song, library, Stretch("chord", slot.index), where)
            sentences += _kept(song, library, slot, where)
    return tuple(sentences)


def _of(song: Song, library: Library, stretch: Stretch, where: str) -> Iterator[Sentence]:
    taste = taste_of(song, stretch)
    for name in taste.said:
        words = _wish_words(name, getattr(taste, name), library)
        plain = stretch.scope == "song" and (name, getattr(taste, name)) in _USUAL
        if words and not plain and not (stretch.scope == "song" and name == "school"):
            yield Sentence("wish", f"{where}: {words}", stretch, name, name not in taste.off)
    for rule in taste.rules:
        yield Sentence("rule", f"{where}: {_lower(rule_words(rule, library))}", stretch, rule, rule.on)


#: What a take wants that has said nothing.
_USUAL = (("hands", "both"), ("inverted", False))


def _lower(words: str) -> str:
    return words[:1].lower() + words[1:]


def rule_words(rule: HandRule, library: Library) -> str:
    """A rule as a sentence, its shape by name."""
    recipe = library.recipes.get(str(rule.value))
    return rule.words("" if recipe is None else recipe.name)


def _wish_words(name: str, value: Any, library: Library) -> str:
    school = library.schools.get(str(value))
    return {
        "school": lambda: f"in the school {school.name if school else value}",
        "colour": lambda: COLOUR_WORDS[value],
        "melody": lambda: MELODY_WORDS[value],
        "pedal": lambda: f"{value.pretty} under the chords",
        "held_top": lambda: "the top note held" if value else "the top note free",
        "hands": lambda: HAND_WORDS[value],
        "inverted": lambda: "chords may stand on other tones" if value else "chords stand on their root",
        "top_line": lambda: TOP_LINE_WORDS[value],
        "plan": lambda: PLAN_WORDS[value],
        "style": lambda: f"swaps in the style {style_name(value)}",
    }[name]()


def style_name(style_id: str) -> str:
    """A style by name; its id where nobody knows it any more."""
    known = known_styles()
    return known[style_id].name if style_id in known else style_id


def _kept(song: Song, library: Library, slot: Slot, where: str) -> Iterator[Sentence]:
    hold = song.ask(slot.index).hold
    for name in hold.said:
        words = _kept_words(name, getattr(hold, name), slot, library)
        yield Sentence("keep", f"{where}: {words}", Stretch("chord", slot.index), name, name not in hold.off)


def _kept_words(name: str, value: Any, slot: Slot, library: Library) -> str:
    if name in ("left", "right"):
        pitches = value.pitches(slot.chord) if slot.chord is not None else ()
        return f"the {name} hand stays {' '.join(pitch.pretty for pitch in pitches)}"
    if name.endswith("recipe"):
        recipe = library.recipes.get(value)
        return f"the {name.partition('_')[0]} hand's shape stays: {recipe.name if recipe else value}"
    label = slot.chord.label_of(value % 12) if slot.chord is not None else None
    spelled = name_for_pitch_class(value % 12, slot.key.prefers_flats)
    if slot.chord is not None and label is not None:
        spelled = slot.chord.root.degree(label)
    note = Pitch(value, spelled).pretty
    return {
        "top": f"{note} stays on top", "bass": f"{note} stays in the bass", "lowest": f"nothing below {note}",
        "highest": f"nothing above {note}",
    }[name]  # fmt: skip
