"""Walking through the chords of the Swaps page, swapping, and what proposals go by."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Literal

from PySide6.QtCore import Signal

from yellow_hinge.reharm.rules import RULES
from yellow_hinge.song.edits import give_back, keep_as_it_is, switch_rule
from yellow_hinge.ui.commands import Command, command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.swaps.state import SwapsState
from yellow_hinge.ui.pages.swaps.weighing import Weighing


def _proposed(part: Swapping) -> bool:
    return part.state.proposal is not None


class Swapping(Part):
    """Which chord is chosen, and what stands in its place. ``moved``: another chord is chosen."""

    moved = Signal()

    def __init__(self, document: Document, weighing: Weighing) -> None:
        super().__init__(document)
        self.state, self._weighing = weighing.state, weighing

    @command("forward", "Next chord", "Right", given=(1,))
    @command("backward", "Chord before", "Left", given=(-1,))
    def step(self, direction: Literal[-1, 1]) -> None:
        self.choose(self.state.chosen + direction)

    def choose(self, place: int) -> None:
        """Another chord, by its place in the chart."""
        self.state.take(self.document.song)
        self.state.choose(place)
        if self.state.first is not None:
            self.document.choose(self.state.sounding_slot)
        self.moved.emit()

    def choose_slot(self, slot: int) -> None:
        """The written chord behind a sounding one."""
        song = self.document.song
        self.choose(song.chart.by_id[song.slots[slot].at.written].index if slot < len(song.slots) else 0)

    @command("every", "All proposals", "A", checked=lambda self: self.state.every,
             tip="All proposals for this chord, or the first dozen again")  # fmt: skip
    def show_every(self) -> None:
        self.state.every = not self.state.every
        self.shown.emit()

    @command("back", "Give back", "R", tip="The chart's own chord comes back",
             when=lambda self: self.state.swapped)  # fmt: skip
    def give_back(self) -> None:
        if self.state.at is not None:
            self.apply(give_back(self.document.song, self.state.at))

    @command("variant", "Other qualities", "V", when=_proposed,
             tip="The same roots with a half-diminished two, a flat ninth, a raised fifth... in turn"
             )  # fmt: skip
    def next_variant(self) -> None:
        if self.state.next_variant():
            proposal = self.state.proposal
            if proposal is not None and proposal not in self.state.weighed:
                self._weighing.weigh(proposal)
            self.shown.emit()


class Rules(Part):
    """What proposals go by: rules that are on, and chords that no swap takes."""

    def __init__(self, document: Document, state: SwapsState) -> None:
        super().__init__(document)
        self.state = state

    def switches(self) -> list[Command]:
        """A switch for each rule of reharmonisation."""
        return [
            Command(f"rule-{rule.id}", rule.name, partial(self._switch, rule.id), menu="Rules",
                    tip=f"Propose swaps by this rule: {rule.name}", checked=partial(self._is_on, rule.id))
            for rule in RULES.values()
        ]  # fmt: skip

    def make_commands(self) -> Sequence[Command]:
        return [*super().make_commands(), *self.switches()]

    def _is_on(self, rule: str) -> bool:
        return rule not in self.document.song.arrangement.rules_off

    def _switch(self, rule: str) -> None:
        song = self.document.song
        self.apply(switch_rule(song, rule, not self._is_on(rule), RULES[rule].name))

    @command("keep", "Keep as it is", "X", tip="No swap ever takes this chord",
             when=lambda self: self.state.at is not None, checked=lambda self: self.state.kept)  # fmt: skip
    def toggle_kept(self) -> None:
        if self.state.at is not None:
            self.apply(keep_as_it_is(self.document.song, self.state.at, not self.state.kept))
