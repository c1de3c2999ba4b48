"""What the wishes panel thinks: whose wishes, what stands there, and what a change gives."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.song.arrangement import Ask, Melody, Taste
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.settings.own_styles import known_styles
from yellow_hinge.theory.pitch import name_for_pitch_class
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Hands

SCOPES = ("chord", "section", "song")
COLOUR_WORDS = ("0: as written", "1: a little", "2: coloured", "3: rich")
MELODY_WORDS: Mapping[Melody, str] = {
    "free": "pays no heed to it",
    "top": "on top in the right hand",
    "clear": "sung: keep a half step off",
    "room": "sung: leave its register",
}
HAND_WORDS: Mapping[Hands, str] = {
    "both": "both hands",
    "left": "left hand alone",
    "right": "right hand alone",
    "rest": "no hand: a rest",
}
BASS_WORDS = ((False, "as the symbol has it"), (True, "third, fifth or seventh too"))
#: What can be fixed of one chord: field, words.
FIXABLE = (
    ("left", "left hand as it is"),
    ("right", "right hand as it is"),
    ("top", "top note"),
    ("bass", "lowest note"),
    ("left_recipe", "left-hand shape"),
    ("right_recipe", "right-hand shape"),
)


class TopLineChoice(Struct, frozen=True):
    """A choice of what the top line does: its words, and the wishes that it stands for."""

    words: str
    fields: Mapping[str, Any]


def _top(
    words: str, top_line: str | None, plan: str | None = None, held: bool | None = None
) -> TopLineChoice:
    return TopLineChoice(words, {"top_line": top_line, "plan": plan, "held_top": held})


#: What the top line may do, by the value of its row.
TOP_LINES: Mapping[str | None, TopLineChoice] = {
    None: _top("", None),
    "still": _top("still: it stays where it can", "still"),
    "free": _top("as it comes", "free"),
    "arc": _top("sings, in an arc", "sings", "arc"),
    "flat": _top("sings, level", "sings", "flat"),
    "rising": _top("sings, rising", "sings", "rising"),
    "falling": _top("sings, falling", "sings", "falling"),
    "held": _top("held wherever it can be", None, None, True),
}


class Choices(Struct, frozen=True):
    """One row of the panel: (value, words) pairs, the first being "leave it"."""

    rows: tuple[tuple[object, str], ...]

    def place(self, value: object) -> int:
        """The row of a value, or the first."""
        return next((i for i, (own, _) in enumerate(self.rows) if own == value), 0)


def schools(library: Library, unsaid: str) -> Choices:
    return Choices(((None, unsaid), *((school.id, school.name) for school in library.schools.values())))


def colours(unsaid: str) -> Choices:
    return Choices(((None, unsaid), *enumerate(COLOUR_WORDS)))


def melodies(unsaid: str) -> Choices:
    return Choices(((None, unsaid), *MELODY_WORDS.items()))


def top_lines(unsaid: str, scope: str) -> Choices:
    """What the top line does; a whole song is never held."""
    lines = ((value, choice.words) for value, choice in TOP_LINES.items() if value is not None)
    return Choices(((None, unsaid), *(row for row in lines if scope != "song" or row[0] != "held")))


def top_line_of(taste: Taste) -> str | None:
    """The row of :data:`TOP_LINES` that a taste stands for."""
    if taste.held_top:
        return "held"
    if taste.top_line == "sings" or (taste.top_line is None and taste.plan is not None):
        return taste.plan or "arc"
    return taste.top_line


def top_line_fields(song: Song, index: int, scope: str, value: str | None) -> dict[str, Any]:
    """The wishes of a choice; where the section holds its top note, a chord that does otherwise says so."""
    fields = dict(TOP_LINES[value].fields)
    if scope == "chord" and value not in (None, "held") and taste_at(song, index, "section").held_top:
        fields["held_top"] = False
    return fields


def hands(unsaid: str | None) -> Choices:
    """Which hands play; for the song itself (no words for "no wish") both unless it says so."""
    own = tuple(HAND_WORDS.items())
    return Choices(own if unsaid is None else ((None, unsaid), *own))


def basses(unsaid: str | None) -> Choices:
    """Which chord tones may lie in the bass."""
    return Choices(BASS_WORDS if unsaid is None else ((None, unsaid), *BASS_WORDS))


def pedals(song: Song) -> Choices:
    """No pedal note, or one of the twelve as the song's key spells them."""
    names = [name_for_pitch_class(place, song.key_here.prefers_flats) for place in range(12)]
    return Choices(((None, "none"), *((name, f"{name.pretty} under the chords") for name in names)))


def styles(unsaid: str) -> Choices:
    """The styles of swaps; a whole song may have none."""
    words = "none" if unsaid == "as the school" else unsaid
    return Choices(((None, words), *((style.id, style.name) for style in known_styles().values())))


def unsaid(scope: str) -> str:
    """What "no wish" means in each scope."""
    return {"chord": "as the section", "section": "as the song", "song": "as the school"}[scope]


def taste_at(song: Song, index: int, scope: str) -> Taste:
    """The wishes as they stand in a scope, not those of wider ones."""
    if scope == "chord":
        return song.ask(index).taste
    if scope == "section":
        return song.arrangement.tastes.get(song.slots[index].section, Taste())
    return song.arrangement.own_taste


def fixed_words(song: Song, index: int, field: str, library: Library) -> str:
    """What fixing a field would keep: the note or the shape that stands there."""
    voicing, chord = song.voicing(index), song.slots[index].chord
    if voicing is None or chord is None or not voicing.left.keys or not voicing.right.keys:
        return ""
    side = "left" if field in ("left", "bass", "left_recipe") else "right"
    shape = voicing.hand(side)
    if field in ("top", "bass"):
        return shape.pitches(chord)[-1 if field == "top" else 0].pretty
    if field.endswith("recipe"):
        recipe = library.recipes.get(shape.recipe)
        return recipe.name if recipe else "own shape"
    return " ".join(pitch.pretty for pitch in shape.pitches(chord))


def with_fixed(song: Song, index: int, field: str, on: bool) -> Ask:
    """The chord's wishes with one field fixed as it stands, or let go."""
    ask, voicing = song.ask(index), song.voicing(index)
    if not on or voicing is None:
        nothing: dict[str, Any] = {field: None}
        return replace(ask, hold=replace(ask.hold, **nothing, off=ask.hold.off - {field}))
    values: dict[str, Any] = {
        "left": voicing.left,
        "right": voicing.right,
        "top": voicing.right.keys[-1],
        "bass": voicing.left.keys[0],
        "left_recipe": voicing.left.recipe,
        "right_recipe": voicing.right.recipe,
    }
    kept: dict[str, Any] = {field: values[field]}
    return replace(ask, hold=replace(ask.hold, **kept, off=ask.hold.off - {field}))


def with_register(song: Song, index: int, on: bool) -> Ask:
    """The chord's wishes with its register fixed as it stands, or let go."""
    voicing, ask = song.voicing(index), song.ask(index)
    ends = (voicing.keys[0], voicing.keys[-1]) if on and voicing and voicing.keys else (None, None)
    return replace(ask, hold=replace(ask.hold, lowest=ends[0], highest=ends[1]))


def takes_for_round(song: Song) -> Choices:
    """Which take may sound in a round: the one being worked on, or another."""
    others = [take for take in song.takes if take.id != song.current]
    return Choices(((None, f"{song.take.name} (this take)"), *((take.id, take.name) for take in others)))
