"""The ladder of the Takes page: steps from plain to rich, heard and kept."""

from __future__ import annotations

from typing import Literal

from yellow_hinge.ui.commands import command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.pages.takes.ladder_panel import LadderPanel
from yellow_hinge.ui.pages.takes.part import TakesPart, any_chord
from yellow_hinge.ui.pages.takes.state import TakesState


def on_a_step(part: Climbing) -> bool:
    """Whether a step of the ladder is chosen."""
    return part.on and part.panel.chosen is not None


class Climbing(TakesPart):
    """Whether the ladder is shown in place of the two takes chord by chord, and what is done on it."""

    def __init__(self, document: Document, state: TakesState) -> None:
        super().__init__(document, state)
        self.on = False
        self.panel = LadderPanel(document)

    @command("ladder", "Ladder", "L", when=any_chord, checked=lambda self: self.on,
             tip="Steps from plain to rich for the take that is worked on, each to be heard and kept"
             )  # fmt: skip
    def toggle(self) -> None:
        self.on = not self.on
        self.shown.emit()
        if self.on:
            self.panel.begin()

    @command("step-down", "Next step", ".", given=(1,), when=on_a_step)
    @command("step-up", "Step before", ",", given=(-1,), when=on_a_step)
    def step(self, direction: Literal[-1, 1]) -> None:
        self.panel.step(direction)

    @command("hear-step", "Hear the step", "D", tip="The step of the ladder, from the chosen round on",
             when=on_a_step)  # fmt: skip
    def hear_step(self) -> None:
        step = self.panel.chosen
        if step is not None:
            song = step.voiced.song
            self.hear.emit(Sounding(song, self.first_slot(song)))

    @command("keep-step", "Keep the step", "N", tip="The step becomes a take with its grips locked",
             when=on_a_step)  # fmt: skip
    def keep_step(self) -> None:
        from yellow_hinge.tasks.takes.ladder import keep_step  # noqa: PLC0415 - brings NumPy

        step = self.panel.chosen
        if step is not None:
            self.take_made(keep_step(self.document.song, step))

    @command("stop", "Cancel", "Escape", tip="Stop the working out",
             when=lambda self: self.panel.worker.running)  # fmt: skip
    def stop(self) -> None:
        self.panel.stop()
