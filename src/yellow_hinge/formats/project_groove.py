"""How a take is played, in a project file: textures, own patterns, riffs, pedal, feel, ending and band."""

from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import Any, Literal

import msgspec

from yellow_hinge import strict
from yellow_hinge.rhythm.band import DRUMS
from yellow_hinge.rhythm.fullness import LEVELS
from yellow_hinge.rhythm.patterns import Pattern, PatternIn, pattern_out
from yellow_hinge.rhythm.perform import ROLL_MS
from yellow_hinge.song.at import At
from yellow_hinge.song.groove import (
    MOST_PERSON,
    MOST_ROLL_MS,
    MOST_SLOWING,
    MOST_TOUCH,
    PEDALS,
    Ending,
    Groove,
    RiffNote,
    Texture,
)
from yellow_hinge.song.under_tune import TUNE_OCTAVES

#: Of a hostile file no more than this is taken.
_MOST_NOTES, _MOST_PATTERNS = 400, 200

ByChord = Callable[[Mapping[str, Any], Callable[[Any], Any], str], dict[At, Any]]


class TextureIn(msgspec.Struct, omit_defaults=True):
    left: str | None = None
    right: str | None = None
    pedal: str | None = None
    touch: int | None = None
    tune: bool | None = None
    fill: bool | None = None
    tune_octave: int | None = None
    level: int | None = None

    def __post_init__(self) -> None:
        if self.tune_octave is not None and self.tune_octave not in TUNE_OCTAVES:
            raise ValueError(f"tune_octave must be -3..3, not {self.tune_octave}")
        if self.level is not None and self.level not in LEVELS:
            raise ValueError(f"level must be 1..5, not {self.level}")
        if self.pedal is not None and self.pedal not in PEDALS:
            raise ValueError(f"pedal must be one of {', '.join(PEDALS)}, not {self.pedal!r}")
        if self.touch is not None and not -MOST_TOUCH <= self.touch <= MOST_TOUCH:
            raise ValueError(f"touch must be -{MOST_TOUCH}..{MOST_TOUCH}, not {self.touch}")


class PartIn(TextureIn):
    """A texture of a section (round 0: all its rounds)."""

    section: str = ""
    round: int = 0


class RiffIn(msgspec.Struct):
    at: str
    beats: str
    key: int
    hand: Literal["left", "right"] = "right"

    def __post_init__(self) -> None:
        beats = strict.length(self.beats)
        if strict.length(self.at) is None or not beats:
            raise ValueError("a riff's note has its place and its length in beats")
        if not 0 <= self.key <= 127:
            raise ValueError(f"key must be a MIDI key, not {self.key}")


class GrooveIn(msgspec.Struct, omit_defaults=True):
    whole: TextureIn = msgspec.field(default_factory=TextureIn)
    sections: list[PartIn] = []
    chords: dict[str, TextureIn] = {}
    patterns: list[PatternIn] = []
    riffs: dict[str, list[RiffIn]] = {}
    pedal_marks: dict[str, list[str]] = {}
    swing: int = 0
    swing_by_tempo: bool = True
    roll_ms: int = ROLL_MS
    build: bool = False
    slowing: int = 0
    ending: Ending = ""
    count_in: bool = False
    drums: str = ""
    bass_line: str = ""
    person: int = 0
    arc_of: int | None = None

    def __post_init__(self) -> None:
        limits = {"swing": 100, "slowing": MOST_SLOWING, "roll_ms": MOST_ROLL_MS, "person": MOST_PERSON}
        for name, most in limits.items():
            if not 0 <= getattr(self, name) <= most:
                raise ValueError(f"{name} must be 0..{most}, not {getattr(self, name)}")
        if self.drums not in DRUMS:
            raise ValueError(f"drums must be one of {', '.join(DRUMS)}, not {self.drums!r}")
        for marks in self.pedal_marks.values():
            for mark in marks:
                if strict.length(mark) is None:
                    raise ValueError(f"{mark!r} is no place in beats")


def groove_in(read_in: GrooveIn, by_chord: ByChord) -> Groove:
    """What was read; ``by_chord`` leaves out what has no chord, and says so."""
    patterns: dict[str, Pattern] = {}
    for pattern_in in read_in.patterns[:_MOST_PATTERNS]:
        patterns[pattern_in.id] = pattern_in.pattern
    return Groove(
        _texture(read_in.whole),
        {(part_in.section, part_in.round): _texture(part_in) for part_in in read_in.sections},
        by_chord(read_in.chords, _texture, "the pattern"),
        patterns=tuple(patterns.values()),
        riffs=by_chord(read_in.riffs, _riff, "the riff"),
        pedal_marks=by_chord(read_in.pedal_marks, _marks, "the pedal"),
        swing=read_in.swing, swing_by_tempo=read_in.swing_by_tempo, roll_ms=read_in.roll_ms,
        build=read_in.build, slowing=read_in.slowing,
        ending=read_in.ending, count_in=read_in.count_in, drums=read_in.drums, bass_line=read_in.bass_line,
        person=read_in.person, arc_of=read_in.arc_of,
    )  # fmt: skip


def _texture(read_in: TextureIn) -> Texture:
    return Texture(**{name: getattr(read_in, name) for name in Texture.__struct_fields__})


def _riff(read_in: list[RiffIn]) -> tuple[RiffNote, ...]:
    return tuple(
        RiffNote(_beats(riff_in.at), _beats(riff_in.beats), riff_in.key, riff_in.hand)
        for riff_in in read_in[:_MOST_NOTES]
    )


def _marks(read_in: list[str]) -> tuple[Fraction, ...]:
    return tuple(sorted(set(map(_beats, read_in[:_MOST_NOTES]))))


def _beats(text: str) -> Fraction:
    length = strict.length(text)
    assert length is not None  # checked when it was read
    return length


def groove_out(groove: Groove, name_of: Callable[[At], str]) -> dict[str, Any]:
    """A groove as it is written; what goes without saying is left out."""
    usual = Groove()
    plain = (
        "swing",
        "swing_by_tempo",
        "roll_ms",
        "build",
        "slowing",
        "ending",
        "count_in",
        "drums",
        "bass_line",
        "person",
        "arc_of",
    )
    out = {name: getattr(groove, name) for name in plain if getattr(groove, name) != getattr(usual, name)}
    parts = [{"section": section, "round": turn, **_texture_out(texture)}
             for (section, turn), texture in sorted(groove.sections.items())]  # fmt: skip
    more = {
        "whole": _texture_out(groove.whole),
        "sections": parts,
        "chords": {name_of(at): _texture_out(one) for at, one in sorted(groove.chords.items())},
        "patterns": [pattern_out(pattern) for pattern in groove.patterns],
        "riffs": {name_of(at): [_note_out(note) for note in row] for at, row in sorted(groove.riffs.items())},
        "pedal_marks": {name_of(at): list(map(str, row)) for at, row in sorted(groove.pedal_marks.items())},
    }
    return out | {name: value for name, value in more.items() if value}


def _texture_out(texture: Texture) -> dict[str, Any]:
    values = ((name, getattr(texture, name)) for name in texture.__struct_fields__)
    return {name: value for name, value in values if value is not None}


def _note_out(note: RiffNote) -> dict[str, Any]:
    return {"at": str(note.at_beats), "beats": str(note.beats), "key": note.key, "hand": note.hand}
