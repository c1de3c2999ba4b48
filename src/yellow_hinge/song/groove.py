"""What a player decided about rhythm in one take: which pattern each hand plays where, touch, pedal, riffs,
swing, the ending and the band."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Annotated, Literal

from msgspec import Meta, Struct, field

from yellow_hinge.rhythm.patterns import HELD, Hand, Pattern
from yellow_hinge.rhythm.perform import ROLL_MS
from yellow_hinge.song.at import At
from yellow_hinge.theory.pitch import MidiKey

#: How the pedal goes, in words.
PEDALS: dict[str, str] = {
    "auto": "as the pattern wants it", "none": "no pedal", "chord": "changed with every chord",
    "half": "changed every half bar",
    "bridge": "only to bridge a stretch", "hold": "held on from the chord before",
}  # fmt: skip
MOST_TOUCH, MOST_SLOWING, MOST_ROLL_MS, MOST_PERSON = 2, 8, 120, 9
Ending = Literal["", "held", "rolled"]
PedalWay = Annotated[str, Meta(pattern=f"^({'|'.join(PEDALS)})$")]


class Texture(Struct, frozen=True, omit_defaults=True):
    """How a stretch is played; None leaves it to what stands around it. ``left`` and ``right`` are ids of
    patterns, ``pedal`` one of :data:`PEDALS`, ``touch`` -2 (soft) to 2, ``tune``: the right hand plays the
    tune of the chart over what it keeps below it, ``fill``: patterns with a fill play it where a section
    ends. ``tune_octave``: the tune moves by so many octaves there (None: to where most of the chords can be
    held under it). ``level``: how full it is, a key of :data:`rhythm.fullness.LEVELS`."""

    left: str | None = None
    right: str | None = None
    pedal: PedalWay | None = None
    touch: Annotated[int, Meta(ge=-MOST_TOUCH, le=MOST_TOUCH)] | None = None
    tune: bool | None = None
    fill: bool | None = None
    tune_octave: Annotated[int, Meta(ge=-3, le=3)] | None = None
    level: Annotated[int, Meta(ge=1, le=5)] | None = None

    def over(self, wider: Texture) -> Texture:
        """This texture, and where it says nothing the wider one."""
        if self is _PLAIN or self == _PLAIN:
            return wider
        both = {name: getattr(self, name) for name in self.__struct_fields__}
        return Texture(**{n: getattr(wider, n) if value is None else value for n, value in both.items()})

    def hand(self, side: str) -> str:
        """The pattern of a hand."""
        return (self.left if side == "left" else self.right) or HELD


_PLAIN = Texture()
#: What is played where nothing is said.
USUAL = Texture(HELD, HELD, "auto", 0, False, fill=False)


class RiffNote(Struct, frozen=True, rename={"at_beats": "at"}):
    """A note of a line of one's own over a chord: when it comes after the chord's beginning and how long it
    lasts, in beats of the bar's meter (it may last into the next chord), its key, and which hand plays."""

    at_beats: Fraction
    beats: Fraction
    key: MidiKey
    hand: Hand = "right"


class Groove(Struct, frozen=True):
    """All about rhythm in a take. ``sections`` goes by name and round (0: all rounds); ``patterns`` are the
    player's own that the take uses; ``swing`` 0 (even) to 100 (2:1), less at fast tempi where
    ``swing_by_tempo``; ``roll_ms`` from note to note of a roll; ``build``: touch and density grow by section;
    ``slowing`` is over how many of the last chords it slows down, ``ending`` how the last chord is played,
    ``count_in`` whether a bar is counted first; ``drums`` one of :data:`rhythm.band.DRUMS`, ``bass_line`` the
    pattern of the bassist ("": as the hands have it). ``pedal_marks`` are places of a chord, in beats, where
    the pedal is changed, in place of what its texture says. ``person``: a little uneven in time and touch, by
    this seed (0: not at all). ``arc_of`` is the id of the take of whose arc this is a level."""

    whole: Texture = Texture()
    sections: Mapping[tuple[str, int], Texture] = field(default_factory=dict)
    chords: Mapping[At, Texture] = field(default_factory=dict)
    patterns: tuple[Pattern, ...] = ()
    riffs: Mapping[At, tuple[RiffNote, ...]] = field(default_factory=dict)
    pedal_marks: Mapping[At, tuple[Fraction, ...]] = field(default_factory=dict)
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

    def texture(self, at: At, section: str, turn: int) -> Texture:
        """How a chord is played in a round of its section: nothing is None."""
        texture = self.whole.over(USUAL)
        for wider in (
            self.sections.get((section, 0)),
            self.sections.get((section, turn)),
            self.chords.get(at),
        ):
            if wider is not None:
                texture = wider.over(texture)
        return texture

    @property
    def textures(self) -> tuple[Texture, ...]:
        """All textures that it has."""
        return (self.whole, *self.sections.values(), *self.chords.values())

    @property
    def used(self) -> frozenset[str]:
        """The ids of all patterns that it names."""
        named = {name for texture in self.textures for name in (texture.left, texture.right) if name}
        return frozenset(named | ({self.bass_line} if self.bass_line else set()))
