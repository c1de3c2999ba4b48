"""The left side of the page: the face that is open, and walking through its entries by keys."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QListWidget, QStackedWidget, QVBoxLayout

from yellow_hinge.ui.commands import CommandList, command
from yellow_hinge.ui.faces import Face, Faces
from yellow_hinge.ui.pages.practise.choosing import Choosing
from yellow_hinge.ui.pages.practise.part import PractisePart, Room
from yellow_hinge.ui.pages.practise.sides import DrillsSide, MapSide, SetSide, TodaySide, WeeksSide
from yellow_hinge.ui.quiet import Ground, QuietSide
from yellow_hinge.ui.theme import scaled

_SIDE_WIDTH = 300


class PractiseSide(Ground):
    """Shows the room."""

    def __init__(self, room: Room, faces: Faces[Face], commands: CommandList) -> None:
        super().__init__("panel")
        self._state, self._faces = room.state, faces
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 10, 12, 10)
        layout.addWidget(faces.row(commands))
        self.today = TodaySide(room.state, commands)
        self.drills = DrillsSide(room.state, commands)
        self.map = MapSide(room.state)
        self.weeks = WeeksSide(room.state, commands)
        self.set = SetSide(commands)
        self.stack = QStackedWidget()
        for side in (self.today, self.drills, self.map, self.weeks, self.set):
            self.stack.addWidget(side)
        scrolled = QuietSide()
        scrolled.rows.addWidget(self.stack)
        layout.addWidget(scrolled, 1)
        self.fit_text()

    def fit_text(self) -> None:
        self.setFixedWidth(scaled(_SIDE_WIDTH))

    def show_all(self, songs: Sequence[str]) -> None:
        """Everything from the state; ``songs`` are those of the evening."""
        self.stack.setCurrentIndex(self._faces.faces.index(self._faces.open))
        self.today.show_all()
        self.drills.show_all(songs)
        self.map.show_all()
        self.set.show_settings(self._state.settings)
        self.weeks.show_all()

    def show_learnt(self) -> None:
        """More is known now."""
        if self._faces.open.id == "map":
            self.map.show_all()
        self.weeks.show_all()

    def list(self) -> QListWidget | None:
        """The entries of the open face; None where it has none, or is the map."""
        return {"today": self.today.list, "drills": self.drills.list}.get(self._faces.open.id)


class Walking(PractisePart):
    """Through the entries of the open face; on the map through the changes. ``list`` gives the entries, None
    on the map."""

    list: Callable[[], QListWidget | None]

    def __init__(
        self, room: Room, faces: Faces[Face], choosing: Choosing, parent: QObject | None = None
    ) -> None:
        super().__init__(room, parent)
        self._faces, self._choosing = faces, choosing

    @command("up", "Up", "Up", given=(-1,), menu="Side", tip="The entry above, or the change before")
    @command("down", "Down", "Down", given=(1,), menu="Side", tip="The entry below, or the change behind")
    def step(self, by: Literal[-1, 1]) -> None:
        if self._faces.open.id == "map" and self.state.ready:
            last = len(self.state.first.row) - 1
            self._choosing.choose_change(max(0, min(last, self.state.chosen + by)))
            return
        shown = self.list()
        if shown is not None and shown.count():
            shown.setCurrentRow(max(0, min(shown.count() - 1, shown.currentRow() + by)))

    @command("take", "Take it", "Right", menu="Side", tip="Take the entry that is chosen")
    def take_entry(self) -> None:
        shown = self.list()
        if shown is not None and shown.currentItem() is not None:
            shown.itemActivated.emit(shown.currentItem())
