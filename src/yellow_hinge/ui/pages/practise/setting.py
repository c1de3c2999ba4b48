"""How the player practises, set on the page and kept; latency, measured once."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QObject

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.tasks.settings.practice_settings import Settings
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.pages.practise.choosing import Choosing
from yellow_hinge.ui.pages.practise.part import PractisePart, Room
from yellow_hinge.ui.pages.practise.riddling import Riddling
from yellow_hinge.ui.pages.practise.state import RHYTHMS, WAYS


class Setting(PractisePart):
    """Changes settings; the plan and the drill at hand follow."""

    def __init__(
        self, room: Room, riddling: Riddling, choosing: Choosing, parent: QObject | None = None
    ) -> None:
        super().__init__(room, parent)
        self._riddling, self._choosing = riddling, choosing
        self.rounds.measured.connect(self._measured)

    @command("way", "Listening", "V", given=("way", tuple(WAYS)),
             tip="Waits for the right notes; with the click; as it comes; or you say how it was",
             now=lambda self: f"Listening: {WAYS[self.state.settings.way]}")  # fmt: skip
    @command("rhythm", "Rhythm", "P", given=("rhythm", tuple(RHYTHMS)),
             tip="Each grip once; as the take plays it; or a line over the left hand",
             now=lambda self: f"Play {RHYTHMS[self.state.settings.rhythm]}")  # fmt: skip
    def next_of(self, setting: str, values: tuple[str, ...]) -> None:
        """The next of the values of a setting, in turn."""
        place = values.index(getattr(self.state.settings, setting))
        self.set(**{setting: values[(place + 1) % len(values)]})

    def set(self, **values: Any) -> None:
        """Other values of some settings."""
        self.set_all(replace(self.state.settings, **values))

    def set_plan(self, setting: str, value: float) -> None:
        """Another length of the plan; one that was begun goes on."""
        if value != getattr(self.state.settings, setting):
            self.set(**{setting: value})
            if not self.state.done:
                self._choosing.plan_anew()

    def set_all(self, settings: Settings) -> None:
        """Other settings: they are kept, and a drill that runs begins its round anew."""
        running = self.rounds.active
        self.rounds.stop()
        self.state.settings = settings
        try:
            settings.keep()
        except YellowHingeError as error:
            self.said.emit(error.problems)
        if running:
            self.rounds.begin()
        self.shown.emit()

    @command("latency", "Measure latency", menu="Set",
             tip="Play any key with each click; what the device needs is taken off from then on"
             )  # fmt: skip
    def measure_latency(self) -> None:
        self._riddling.leave()
        self.state.tell("Play any key with each click.", "Twelve clicks; eight strokes are enough.")
        self.rounds.measure()
        self.moved.emit()

    def _measured(self, found: float | None) -> None:
        """What came of it, in seconds; None where it was too uneven or too little."""
        if found is None:
            words = "That was too uneven or too little to go by."
            self.state.tell(words, "Try again: one key with each click.", False)
        else:
            self.set(latency_ms=round(found * 1000))
            self.state.tell(f"{found * 1000:.0f} ms are taken off from now on.", "")
        self.moved.emit()
