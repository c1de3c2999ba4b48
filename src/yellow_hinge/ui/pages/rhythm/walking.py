"""Walking through the strip of the Rhythm page."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal

from PySide6.QtCore import Signal

from yellow_hinge.ui.commands import command
from yellow_hinge.ui.pages.rhythm.part import RhythmPart, any_chord
from yellow_hinge.ui.pages.rhythm.state import Lane

_LANES = "Riff, right hand, left hand, pedal"


class Walking(RhythmPart):
    """The cursor. ``moved``: it is somewhere else."""

    moved = Signal()

    def to(self, index: int, place: Fraction) -> None:
        """The cursor to a place of a chord."""
        self.state.choose(index, place)
        self._moved()

    def _moved(self) -> None:
        self.document.choose(self.state.index)
        self.moved.emit()

    def choose(self, index: int, place: Fraction, lane: Lane) -> None:
        """The cursor to where was clicked."""
        self.state.to_lane(lane)
        self.to(index, place)

    @command("forward", "To the next count", "Right", given=(1,), when=any_chord)
    @command("backward", "To the count before", "Left", given=(-1,), when=any_chord)
    def step(self, direction: Literal[-1, 1]) -> None:
        self.state.step(direction)
        self._moved()

    @command("next-chord", "To the next chord", "Shift+Right", given=(1,), when=any_chord)
    @command("chord-before", "To the chord before", "Shift+Left", given=(-1,), when=any_chord)
    def step_chord(self, direction: Literal[-1, 1]) -> None:
        self.state.step_chord(direction)
        self._moved()

    @command("lane-up", "Lane above", "Up", given=(-1,), tip=_LANES)
    @command("lane-down", "Lane below", "Down", given=(1,), tip=_LANES)
    def step_lane(self, direction: Literal[-1, 1]) -> None:
        self.state.step_lane(direction)
        self._moved()

    @command("first", "First chord", "Home", given=(0,), when=any_chord)
    @command("last", "Last chord", "End", given=(-1,), when=any_chord)
    def go_to_chord(self, index: int) -> None:
        """The first chord (0) or the last one (-1)."""
        self.to(index % len(self.state.song.slots), Fraction(0))
