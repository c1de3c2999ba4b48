"""How the player practises, set on the page and kept; latency, measured once."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import msgspec

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.tasks.settings.practice_settings import Settings, keep_settings

if TYPE_CHECKING:
    from yellow_hinge.ui.practise_page.view import PractisePage


class Setting:
    """Changes settings; the plan and the drill at hand follow."""

    def __init__(self, page: PractisePage) -> None:
        self._page = page

    def set(self, **values: Any) -> None:
        """Other values of some settings."""
        self.set_all(msgspec.structs.replace(self._page.state.settings, **values))

    def set_minutes(self, minutes: float) -> None:
        if minutes != self._page.state.settings.minutes:
            self.set(minutes=minutes)
            self._plan_anew()

    def set_days(self, days: int) -> None:
        if days != self._page.state.settings.days:
            self.set(days=days)
            self._plan_anew()

    def _plan_anew(self) -> None:
        """A plan that was begun goes on."""
        if not self._page.state.done:
            self._page.plan_anew()

    def set_all(self, settings: Settings) -> None:
        """Other settings: they are kept, and a drill that runs begins its round anew."""
        page = self._page
        running = page.rounds.active
        page.rounds.stop()
        page.state.settings = settings
        try:
            keep_settings(settings)
        except YellowHingeError as error:
            page.said.emit(error.problems)
        if running:
            page.rounds.begin()
        page.show_all()

    def measure_latency(self) -> None:
        """Clicks to be played with."""
        page = self._page
        page.riddling.leave()
        page.state.tell("Play any key with each click.", "Twelve clicks; eight strokes are enough.")
        page.rounds.measure()
        page.show_now()

    def measured(self, found: float | None) -> None:
        """What came of it, in seconds; None where it was too uneven or too little."""
        state = self._page.state
        if found is None:
            words = "That was too uneven or too little to go by."
            state.tell(words, "Try again: one key with each click.", False)
        else:
            self.set(latency_ms=round(found * 1000))
            state.tell(f"{found * 1000:.0f} ms are taken off from now on.", "")
        self._page.show_now()
