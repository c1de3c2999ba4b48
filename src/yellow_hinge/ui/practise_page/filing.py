"""Files of the page: the songs of the evening, their sheets, and the log."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.ui.practise_page.evening import Evening

if TYPE_CHECKING:
    from yellow_hinge.ui.practise_page.view import PractisePage

_T = TypeVar("_T")


class Filing:
    """What the commands for files do; what goes wrong is said."""

    def __init__(self, page: PractisePage) -> None:
        self._page = page
        self.evening = Evening(page)

    def any_on_shelf(self) -> bool:
        return bool(self.evening.files)

    def _try(self, job: Callable[[], _T]) -> _T | None:
        try:
            return job()
        except YellowHingeError as error:
            self._page.said.emit(error.problems)
            return None

    def add(self) -> None:
        if self._try(lambda: self.evening.ask_add(self._page.document.path)):
            self._page.look()

    def take_away(self) -> None:
        if self._try(lambda: self.evening.take_away(self._page.drills.shelf.currentRow())):
            self._page.look()

    def move(self, by: int) -> None:
        shelf = self._page.drills.shelf
        place = shelf.currentRow()
        if self._try(lambda: self.evening.move(place, by)):
            self._page.look()
            shelf.setCurrentRow(max(0, min(len(self.evening.files) - 1, place + by)))

    def print_all(self) -> None:
        desk = self._page.state.desk
        if desk is not None:
            songs = desk.songs[: desk.shelf.songs]
            self._told(self._try(lambda: self.evening.ask_print(songs, self._page.document.library)))

    def export_log(self) -> None:
        self._page.keeper.settle()
        self._told(self._try(self.evening.ask_export))

    def _told(self, path: Path | None) -> None:
        if path is not None:
            self._page.state.tell(f"Saved as {path.name}.", str(path.parent))
            self._page.show_now()

    def forget_song(self) -> None:
        """Delete what is known of the open song."""
        page, song = self._page, self._page.document.song
        if self.evening.ask_forget(song.title or "this song"):
            page.rounds.reset()
            page.keeper.put(lambda log: log.forget(song.own_id))
            page.keeper.settle()
            page.look_again()
