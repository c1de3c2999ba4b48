"""Walking along the row, hearing, and trying other voicings of what is chosen."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from PySide6.QtCore import Signal

from yellow_hinge.song.edits import choose, give_back, set_lock
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.pages.hinges.part import HingesPart, any_chord, on_leaf
from yellow_hinge.ui.pages.hinges.state import Selection
from yellow_hinge.voicing.shape import Voicing


class Walking(HingesPart):
    """Which leaf or hinge is chosen. ``moved``: another one is."""

    moved = Signal()

    @command("forward", "Forward", "Right", given=(1,), tip="To the next leaf or hinge")
    @command("backward", "Backward", "Left", given=(-1,), tip="To the leaf or hinge before")
    def step(self, direction: Literal[-1, 1]) -> None:
        self.state.step(direction)
        self._follow()

    @command("first", "First chord", "Home", given=(0,))
    @command("last", "Last chord", "End", given=(-1,))
    def go_to_leaf(self, index: int) -> None:
        """The leaf of that number; -1 is the last one."""
        self.select(Selection(index % max(1, len(self.state.song.slots))))

    def select(self, selection: Selection) -> None:
        self.state.select(selection)
        self._follow()

    def _follow(self) -> None:
        self.document.choose(self.state.selection.index)
        self.grips.note = None
        self.put_on_trial()
        self.moved.emit()


def can_lock(part: HingesPart) -> bool:
    """Whether the chosen leaf holds anything to lock."""
    return on_leaf(part) and bool(part.state.row.held[part.index].voicing.keys)


def is_locked(part: HingesPart) -> bool:
    """Whether it is locked."""
    return on_leaf(part) and part.state.trial is None and part.state.song.locked(part.index)


def is_swapped(part: HingesPart) -> bool:
    """Whether it stands in the place of a chord of the chart."""
    return on_leaf(part) and part.state.song.slots[part.index].at.part > 0


class Trying(HingesPart):
    """Voicings on trial. ``listed`` is the voicing that is chosen in the list of others, ``walk_list`` walks
    through it; ``goes_to`` carries another leaf to be chosen."""

    goes_to = Signal(object)
    listed: Callable[[], Voicing | None]
    walk_list: Callable[[int], None]

    @command("list-down", "Down the list", "Down", given=(1,), tip="Down the other voicings", when=on_leaf)
    @command("list-up", "Up the list", "Up", given=(-1,), tip="Up the other voicings", when=on_leaf)
    def step_list(self, direction: Literal[-1, 1]) -> None:
        self.walk_list(direction)

    @command("hear", "Hear", "H", when=any_chord,
             tip="Hear the chosen chord between its neighbours, or the chosen change")  # fmt: skip
    def audition(self) -> None:
        super().audition()

    @command("try", "Try", "T", tip="Put the voicing chosen in the list in place, to look and listen",
             when=lambda self: self.state.trial is not None or (on_leaf(self) and self.listed() is not None)
             )  # fmt: skip
    def try_alternative(self) -> None:
        """Put the listed voicing in place on trial, or take the trial back."""
        if self.state.trial is not None:
            self.end_trial()
            return
        voicing = self.listed()
        if voicing is not None:
            self._try(voicing)

    def _try(self, voicing: Voicing) -> None:
        self.state.start_trial(voicing)
        self.shown.emit()
        self.audition()

    @command("end-trial", "Put back", "Escape", tip="End what is on trial",
             when=lambda self: self.state.trying)  # fmt: skip
    def end_trial(self) -> None:
        if any_chord(self):
            self.grips.give_up(self.document.song, self.index)
        self.state.end_trial()
        self.shown.emit()

    @command("lock", "Lock", "L", tip="Keep this voicing; everything else is solved around it", when=can_lock,
             now=lambda self: "Unlock" if is_locked(self) else "Lock")  # fmt: skip
    def toggle_lock(self) -> None:
        """Lock the trial or the voicing in use; unlock a locked one."""
        if is_locked(self):
            self.apply(set_lock(self.document.song, self.index, False))
            return
        voicing = self.state.trial or self.state.song.voicing(self.index)
        if voicing is not None:
            self.state.end_trial()
            self.apply(choose(self.document.song, self.index, voicing))

    @command("better", "Try the smaller change", "G",
             tip="Go to the chord that would make this change smaller, its voicing on trial",
             when=lambda self: self.state.better(self.document.solved.betterments) is not None)  # fmt: skip
    def try_better(self) -> None:
        better = self.state.better(self.document.solved.betterments)
        if better is not None:
            self.goes_to.emit(Selection(better.at))
            self._try(better.voicing)

    @command("give-back", "Give back", "R", tip="On a swapped chord: the chart's own comes back",
             when=is_swapped)  # fmt: skip
    def give_back(self) -> None:
        slot = self.document.song.slots[self.index]
        self.apply(give_back(self.document.song, slot.at.written, slot.take))
