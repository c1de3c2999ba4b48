"""What sounds when: the one value that players, files and drills share."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Literal

from msgspec import Meta, Struct

from yellow_hinge.theory.pitch import MidiKey, Pitch

Part = Literal["left", "right", "bass", "melody", "riff", "drums", "click"]
#: How a note is struck that is not simply struck: with others one after the other from the bottom; as a
#: short note before the one above it; shaken.
Way = Literal["", "rolled", "grace", "tremolo"]


class NoteEvent(Struct, frozen=True, order=True):
    """One note: when it starts and how long it lasts, in quarters from the first bar line, its MIDI
    key, how hard it is struck (1..127), who plays it, the slot of the song it belongs to (-1: none),
    ``way`` how it is struck, and whether it lies outside the chord's grip (``ornament``)."""

    start_quarters: Fraction
    key: int
    quarters: Fraction
    velocity: int
    part: Part
    slot: int = -1
    way: Way = ""
    ornament: bool = False

    @property
    def end_quarters(self) -> Fraction:
        """When it is let go."""
        return self.start_quarters + self.quarters


class PedalEvent(Struct, frozen=True, order=True):
    """The sustain pedal goes down or up, in quarters from the first bar line."""

    start_quarters: Fraction
    down: bool
    slot: int = -1


class NoteOver(Struct, frozen=True):
    """A melody note, or the part of it, that sounds while a chord lasts; times in quarters.

    ``strong``: it sounds on the bar's first or middle beat, or begins with the chord;
    ``stepwise``: it comes or goes by a whole step or less.
    """

    key: int
    pitch: Pitch
    start_quarters: Fraction
    quarters: Fraction
    strong: bool
    stepwise: bool


class Fill(Struct, frozen=True):
    """A note between two chords: whose voice it moves (``start_key`` before, ``end_key`` after),
    the key, when it comes within the chord and how long it lasts, in beats of the bar's meter."""

    hand: Annotated[str, Meta(pattern="^(left|right)$")]
    start_key: MidiKey
    end_key: MidiKey
    key: MidiKey
    offset_beats: Fraction
    beats: Fraction
