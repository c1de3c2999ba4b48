"""How a take is played, in a project file: textures, own patterns, riffs, pedal, feel, ending and band."""

from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from yellow_hinge.formats.values import plain
from yellow_hinge.rhythm.band import DRUMS
from yellow_hinge.rhythm.patterns import Pattern, PatternIn, pattern_out
from yellow_hinge.rhythm.perform import ROLL_MS
from yellow_hinge.song.at import At
from yellow_hinge.song.groove import (
    MOST_PERSON,
    MOST_ROLL_MS,
    MOST_SLOWING,
    Ending,
    Groove,
    RiffNote,
    Texture,
)

#: Of a hostile file no more than this is taken.
_MOST_NOTES, _MOST_PATTERNS = 400, 200

ByChord = Callable[[Mapping[str, Any], Callable[[Any], Any], str], dict[At, Any]]


class PartIn(Texture, frozen=True):
    """A texture of a section (round 0: all its rounds)."""

    section: str = ""
    round: int = 0

    @property
    def texture(self) -> Texture:
        return Texture(**{name: getattr(self, name) for name in Texture.__struct_fields__})


class GrooveIn(msgspec.Struct, omit_defaults=True):
    """Fields of the same name are those of :class:`~yellow_hinge.song.groove.Groove`."""

    whole: Texture = Texture()
    sections: list[PartIn] = []
    chords: dict[str, Texture] = {}
    patterns: list[PatternIn] = []
    riffs: dict[str, list[RiffNote]] = {}
    pedal_marks: dict[str, list[Fraction]] = {}
    swing: Annotated[int, Meta(ge=0, le=100)] = 0
    swing_by_tempo: bool = True
    roll_ms: Annotated[int, Meta(ge=0, le=MOST_ROLL_MS)] = ROLL_MS
    build: bool = False
    slowing: Annotated[int, Meta(ge=0, le=MOST_SLOWING)] = 0
    ending: Ending = ""
    count_in: bool = False
    drums: Literal[tuple(DRUMS)] = ""  # type: ignore[valid-type]
    bass_line: str = ""
    person: Annotated[int, Meta(ge=0, le=MOST_PERSON)] = 0
    arc_of: int | None = None

    def __post_init__(self) -> None:
        if not all(note.beats for row in self.riffs.values() for note in row):
            raise ValueError("a riff's note has its length in beats")


#: What is read as it is written.
_SAME = GrooveIn.__struct_fields__[GrooveIn.__struct_fields__.index("swing") :]


def groove_in(read_in: GrooveIn, by_chord: ByChord) -> Groove:
    """What was read; ``by_chord`` leaves out what has no chord, and says so."""
    patterns: dict[str, Pattern] = {}
    for pattern_in in read_in.patterns[:_MOST_PATTERNS]:
        patterns[pattern_in.id] = pattern_in.pattern
    return Groove(
        read_in.whole,
        {(part_in.section, part_in.round): part_in.texture for part_in in read_in.sections},
        by_chord(read_in.chords, lambda texture: texture, "the pattern"),
        patterns=tuple(patterns.values()),
        riffs=by_chord(read_in.riffs, lambda row: tuple(row[:_MOST_NOTES]), "the riff"),
        pedal_marks=by_chord(read_in.pedal_marks, _marks, "the pedal"),
        **{name: getattr(read_in, name) for name in _SAME},
    )


def _marks(read_in: list[Fraction]) -> tuple[Fraction, ...]:
    return tuple(sorted(set(read_in[:_MOST_NOTES])))


def groove_out(groove: Groove, name_of: Callable[[At], str]) -> dict[str, Any]:
    """A groove as it is written; what goes without saying is left out."""
    usual = Groove()
    out = {name: getattr(groove, name) for name in _SAME if getattr(groove, name) != getattr(usual, name)}
    parts = [{"section": section, "round": turn, **plain(texture)}
             for (section, turn), texture in sorted(groove.sections.items())]  # fmt: skip
    more = {
        "whole": plain(groove.whole),
        "sections": parts,
        "patterns": [pattern_out(pattern) for pattern in groove.patterns],
        **{
            field: {name_of(at): plain(value) for at, value in sorted(getattr(groove, field).items())}
            for field in ("chords", "riffs", "pedal_marks")
        },
    }
    return out | {name: value for name, value in more.items() if value}
