"""What is drilled: blocks of the plan, drills of one's own around a change, all keys."""

from __future__ import annotations

import random
from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QObject

from yellow_hinge.practice.plan import Shelf
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.practice.room import KEY_ORDERS, key_row
from yellow_hinge.tasks.settings.practice_settings import Settings
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.pages.practise.part import PractisePart, Room, at_hand_or_asked, is_ready
from yellow_hinge.ui.pages.practise.riddling import Riddling
from yellow_hinge.ui.pages.practise.state import Plans, make_plans
from yellow_hinge.ui.worker import Deliver, Worker


def _planned(shelf: Shelf, settings: Settings, _progress: Progress, _deliver: Deliver) -> object:
    return make_plans(shelf, settings)


class Choosing(PractisePart):
    """Another thing to drill ends the round and the riddle."""

    def __init__(self, room: Room, riddling: Riddling, parent: QObject | None = None) -> None:
        super().__init__(room, parent)
        self._riddling = riddling
        self.planning = Worker(self)
        self.planning.done.connect(self._take_plans)
        self.planning.failed.connect(lambda error: self.said.emit(error.problems))

    def _turn_to(self, choose: Callable[[], None]) -> None:
        self._riddling.leave()
        self.rounds.reset()
        choose()
        self.shown.emit()
        self.to_hands.emit()

    @command("next", "Next", "N", tip="Leave this block for the next; another riddle", when=at_hand_or_asked)
    def next_block(self) -> None:
        if self._riddling.on:
            self._riddling.another()
            return
        self.rounds.reset()
        self.state.choose_block(self.state.block + 1 if self.state.own is None else self.state.block)
        self.shown.emit()

    def choose_block(self, place: int) -> None:
        """A block of the plan."""
        self._turn_to(partial(self.state.choose_block, place))

    def choose_change(self, stand: int) -> None:
        """Another change of the open song: it is drilled there and back."""
        self.state.chosen = stand
        drills = self.state.drills()
        if drills:
            self._turn_to(partial(self.state.choose_own, drills[0][1]))
        else:
            self.shown.emit()
            self.to_hands.emit()

    def choose_drill(self, place: int) -> None:
        """A drill around the chosen change."""
        self._turn_to(partial(self.state.choose_own, self.state.drills()[place][1]))

    def through_keys(self, order: int) -> None:
        """The drill at hand in all keys."""
        drill = self.state.drill if self.state.own is not None else None
        wanted = drill if drill is not None and drill.piece == 0 else self.state.drills()[0][1]
        row = key_row(KEY_ORDERS[order][0], random.Random())
        self._turn_to(partial(self.state.through_keys, wanted, row, self.document.library))

    @command("plan", "Plan anew", menu="Today", tip="Other blocks, by what is known now", when=is_ready)
    def plan_anew(self) -> None:
        """Beside the window, as many songs take their time."""
        desk = self.state.desk
        if desk is not None:
            self.rounds.reset()
            self.planning.start(partial(_planned, desk.shelf, self.state.settings))

    def _take_plans(self, plans: Plans) -> None:
        self.rounds.reset()
        self.state.take_plans(plans)
        self.shown.emit()
