"""The Practise page: what to drill at the left, the hands at it in the middle."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QWidget

from yellow_hinge.errors import Problem
from yellow_hinge.tasks.practice.desk import log_path
from yellow_hinge.tasks.settings.practice_settings import Settings
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.faces import Face, Faces
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.practise.choosing import Choosing
from yellow_hinge.ui.pages.practise.desk import make_desk
from yellow_hinge.ui.pages.practise.drilling import Drilling
from yellow_hinge.ui.pages.practise.filing import Filing
from yellow_hinge.ui.pages.practise.middle import Middle
from yellow_hinge.ui.pages.practise.part import Room, now
from yellow_hinge.ui.pages.practise.riddling import Riddling
from yellow_hinge.ui.pages.practise.setting import Setting
from yellow_hinge.ui.pages.practise.side import PractiseSide, Walking
from yellow_hinge.ui.pages.practise.state import Desk
from yellow_hinge.ui.worked_page import WorkedPage

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys, KeyEvent

#: How often what a running drill says is shown anew, ms. Keys that are held are shown at once.
_SHOW_MS = 30
FACES = (
    Face("today", "Today", "T", "The blocks of today, each with its reason"),
    Face("drills", "Drills", "D", "Drills of your own choice, riddles, and the songs of the evening"),
    Face("map", "Map", "M", "The changes of the song by how sure they are"),
    Face("weeks", "Weeks", "W", "Progress over weeks; the log as a file"),
    Face("set", "Set", "E", "Tolerances, the ladder, latency, keys that act"),
)


class PractisePage(WorkedPage):
    """The page: its parts do what is done, here they are wired. What it works with is worked out when it is
    seen."""

    name = "Practise"
    handy = ("start", "hear", "clean", "slip", "next")
    twice = "start"
    side: PractiseSide

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self._looked_at: object = None
        self._shown: object = None
        super().__init__(document, parent)
        self.state.settings, self._trouble = Settings.read()
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SHOW_MS)
        self._soon.timeout.connect(self.show_now)
        self._build()
        self._wire()
        self.show_all()

    def make_parts(self) -> Sequence[Part]:
        self.room = Room(self.document, self)
        self.state, self.rounds, self.keeper = self.room.state, self.room.rounds, self.room.keeper
        self.riddling = Riddling(self.room)
        self.choosing = Choosing(self.room, self.riddling, self)
        self.drilling = Drilling(self.room, self.riddling, self.choosing)
        self.setting = Setting(self.room, self.riddling, self.choosing)
        self.faces = Faces(self.document, FACES)
        self.walking = Walking(self.room, self.faces, self.choosing)
        self.filing = Filing(self.room, self)
        return (
            self.riddling, self.drilling, self.choosing, self.setting, self.faces, self.walking, self.filing,
        )  # fmt: skip

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        self.side = PractiseSide(self.room, self.faces, self.commands)
        self.middle = Middle(self.room, self.commands)
        self.drawing = self.middle.leaves
        layout.addWidget(self.side)
        layout.addWidget(self.middle, 1)

    def _wire(self) -> None:
        """Who listens to whom."""
        room, side, answer = self.room, self.side, self.middle.answer
        room.backs.connect(self.backs)
        room.learnt.connect(side.show_learnt)
        room.keeper.failed.connect(self.said)
        room.rounds.moved.connect(self._show_soon)
        room.rounds.judged.connect(self.show_now)
        for part in (self.riddling, self.choosing, self.drilling, self.setting, self.filing):
            part.moved.connect(self.show_now)
            part.to_hands.connect(self.drawing.setFocus)
        answer.kept.connect(lambda: self.riddling.typed(answer.text()))
        self.riddling.answer_wanted.connect(lambda: self.riddling.typed(answer.text()))
        self.riddling.asks.connect(self.middle.make_room)
        self.filing.song = side.drills.shelf.currentRow
        self.filing.other_songs.connect(self._other_songs)
        self.filing.forgotten.connect(self.look_again)
        self.walking.list = side.list
        side.today.chosen.connect(self.choosing.choose_block)
        side.today.minutes_set.connect(partial(self.setting.set_plan, "minutes"))
        side.today.days_set.connect(partial(self.setting.set_plan, "days"))
        side.drills.drill_chosen.connect(self.choosing.choose_drill)
        side.drills.riddle_chosen.connect(self.riddling.ask)
        side.drills.keys_chosen.connect(self.choosing.through_keys)
        side.map.chosen.connect(self.choosing.choose_change)
        side.set.changed.connect(self.setting.set_all)
        self.document.learned.connect(lambda _: self.look_again())

    # --- what is practised ---

    def entered(self) -> None:
        trouble = (*self._trouble, *self.filing.evening.take_trouble())
        self._trouble = ()
        if trouble:
            self.said.emit(trouble)
        super().entered()

    def follow(self) -> None:
        self.state.chosen = min(self.document.chosen, max(0, len(self.document.song.slots) - 2))

    def left(self) -> None:
        self.rounds.stop()

    def look(self) -> None:
        """Work out what can be practised, unless that is known or under way. A drill that runs is not
        disturbed by what does not concern it."""
        song, files = self.document.song, list(self.filing.evening.files)
        wanted = (song.chart, song.takes, song.current, dict(song.route), song.hands, song.keys_chosen, files)
        if self.document.worker.running or not song.solved or wanted == self._looked_at:
            self.show_all()
            return
        self._looked_at = wanted
        self.rounds.reset()
        library, settings = self.document.library, self.state.settings
        self.worker.start(
            lambda progress, _: make_desk(
                song, files, library, settings, log_path(), moment=now(), progress=progress
            )
        )

    def take_in(self, result: tuple[Desk, tuple[Problem, ...]]) -> None:
        desk, problems = result
        self.state.take(desk)
        self.drilling.go_on_with(self.state.session or 0)
        if problems:
            self.said.emit(problems)
        self.show_all()

    def look_again(self) -> None:
        """What is known has changed: read the log anew."""
        self._looked_at = None
        if self.isVisible():
            self.look()

    def _other_songs(self, chosen: int) -> None:
        self.look()
        self.side.drills.shelf.setCurrentRow(chosen)

    # --- showing ---

    def show_all(self) -> None:
        """Everything from the state."""
        self.side.show_all(self.filing.evening.names)
        self.show_now()
        self.commands.refresh()

    def _show_soon(self) -> None:
        """Many things may happen in one moment: they are shown at once."""
        if not self._soon.isActive():
            self._soon.start()

    def show_now(self) -> None:
        """What changes while a drill runs."""
        self.middle.keyboard_name = self.keyboard_name
        self.middle.show_now()
        riddle = self.room.riddles.riddle
        shown = self.rounds.active, self.rounds.waits_for_mark, riddle, self.state.block, self.state.own
        if shown != self._shown:
            self._shown = shown
            self.commands.refresh()

    def fit_text(self) -> None:
        self.side.fit_text()
        self.middle.fit_text()

    # --- from the keyboard that is heard ---

    def show_held(self, held: HeldKeys) -> None:
        self.room.held = held.sounding
        self.middle.keyboard.show_held(held.sounding)
        if not self.rounds.active:
            self._show_soon()

    def key_played(self, event: KeyEvent) -> None:
        key, settings = getattr(event, "key", None), self.state.settings
        if key is None:
            return
        velocity = getattr(event, "velocity", 0)
        if velocity and key in (settings.again_key, settings.next_key):
            (self.drilling.again if key == settings.again_key else self.drilling.next_by_key)()
            return
        self.rounds.key(key, velocity, event.at)  # type: ignore[union-attr] # it has a key

    def close_page(self) -> None:
        super().close_page()
        self.rounds.reset()
        self.choosing.planning.close()
        self.keeper.close()
