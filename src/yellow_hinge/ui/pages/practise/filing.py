"""Files of the page: the songs of the evening, their sheets, and the log."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Literal, TypeVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.pages.practise.evening import Evening
from yellow_hinge.ui.pages.practise.part import PractisePart, Room, is_ready

_SHELF = "Songs of the evening"
_T = TypeVar("_T")


def any_on_shelf(part: Filing) -> bool:
    """Whether there are songs besides the open one."""
    return bool(part.evening.files)


class Filing(PractisePart):
    """What the commands for files do; what goes wrong is said.

    ``song`` is the place of the song that is chosen on the shelf. ``other_songs``: the shelf holds others, or
    the same in another order, the chosen one at the place that is carried; ``forgotten``: the log of a song
    is gone.
    """

    other_songs = Signal(int)
    forgotten = Signal()
    song: Callable[[], int]

    def __init__(self, room: Room, parent: QWidget) -> None:
        super().__init__(room, parent)
        self.evening = Evening(parent)

    def _try(self, job: Callable[[], _T]) -> _T | None:
        try:
            return job()
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return None

    @command("shelf-add", "Add a song...", menu=_SHELF, tip="Put a file on the shelf, behind the others")
    def add(self) -> None:
        if self._try(lambda: self.evening.ask_add(self.document.path)):
            self.other_songs.emit(self.song())

    @command("shelf-away", "Take away", menu=_SHELF, when=any_on_shelf,
             tip="Take the chosen song off the shelf; its file stays")  # fmt: skip
    def take_away(self) -> None:
        if self._try(lambda: self.evening.take_away(self.song())):
            self.other_songs.emit(self.song())

    @command("shelf-up", "Move up", given=(-1,), menu=_SHELF, tip="Earlier in the evening", when=any_on_shelf)
    @command(
        "shelf-down", "Move down", given=(1,), menu=_SHELF, tip="Later in the evening", when=any_on_shelf
    )
    def move(self, by: Literal[-1, 1]) -> None:
        place = self.song()
        if self._try(lambda: self.evening.move(place, by)):
            self.other_songs.emit(max(0, min(len(self.evening.files) - 1, place + by)))

    @command("shelf-print", "Save their sheets...", menu=_SHELF, when=is_ready,
             tip="The crib sheets of all songs, in their order, in one PDF")  # fmt: skip
    def print_all(self) -> None:
        desk = self.state.desk
        if desk is not None:
            songs = desk.songs[: desk.shelf.songs]
            self._tell(self._try(lambda: self.evening.ask_print(songs, self.document.library)))

    @command("export-log", "Save the log...", menu="Weeks", tip="Every try, as CSV or JSON")
    def export_log(self) -> None:
        self.room.keeper.settle()
        self._tell(self._try(self.evening.ask_export))

    def _tell(self, path: Path | None) -> None:
        if path is not None:
            self.state.tell(f"Saved as {path.name}.", str(path.parent))
            self.moved.emit()

    @command("forget-song", "Delete this song's log...", menu="Weeks", when=is_ready,
             tip="Everything that is known of practising this song, for good")  # fmt: skip
    def forget_song(self) -> None:
        song, keeper = self.document.song, self.room.keeper
        if self.evening.ask_forget(song.title or "this song"):
            self.rounds.reset()
            keeper.put(lambda log: log.forget(song.own_id))
            keeper.settle()
            self.forgotten.emit()
