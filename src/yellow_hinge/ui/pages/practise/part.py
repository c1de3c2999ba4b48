"""What the parts of the Practise page have in common."""

from __future__ import annotations

import random
from collections.abc import Sequence
from datetime import datetime

from PySide6.QtCore import QObject, Signal

from yellow_hinge.practice.log import Log, Try
from yellow_hinge.tasks.practice.desk import log_path
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Backing, Part
from yellow_hinge.ui.pages.practise.keeper import LogKeeper
from yellow_hinge.ui.pages.practise.riddle_state import RiddleState
from yellow_hinge.ui.pages.practise.rounds import Rounds
from yellow_hinge.ui.pages.practise.state import PractiseState


def now() -> datetime:
    """The wall clock, with its zone."""
    return datetime.now().astimezone()


class Room(QObject):
    """What all parts work with: what is practised, the rounds that run, the log that is written, the riddle
    that is asked. ``backs`` carries what is to be heard, ``learnt``: tries went into the log."""

    backs = Signal(object)
    learnt = Signal()

    def __init__(self, document: Document, parent: QObject) -> None:
        super().__init__(parent)
        self.document = document
        self.state = PractiseState(now, self._write)
        self.rounds = Rounds(self.state, self._play, self)
        self.keeper = LogKeeper(Log(log_path()), self)
        self.riddles = RiddleState(random.Random())
        self.held: tuple[int, ...] = ()  #: keys of the keyboard that is heard

    def _play(self, backing: Backing) -> None:
        self.backs.emit(backing)

    def _write(self, tries: Sequence[Try]) -> None:
        """Tries go into the log, and what is known is more."""
        desk = self.state.desk
        pieces = [] if desk is None else desk.shelf.pieces[: desk.shelf.songs]
        self.keeper.put(lambda log: log.add(tries, [(piece.id, piece.title) for piece in pieces]))
        self.state.learn(tries)
        self.learnt.emit()


class PractisePart(Part):
    """A part that works in the room. ``moved``: what changes while a drill runs is other now; ``to_hands``:
    the keyboard of the computer is for what is drilled."""

    moved = Signal()
    to_hands = Signal()

    def __init__(self, room: Room, parent: QObject | None = None) -> None:
        super().__init__(room.document, parent)
        self.room, self.state, self.rounds = room, room.state, room.rounds


def something_at_hand(part: PractisePart) -> bool:
    """Whether there is a drill or a break to begin."""
    return part.state.at_hand is not None


def at_hand_or_asked(part: PractisePart) -> bool:
    """Whether there is that, or a riddle to answer."""
    return something_at_hand(part) or part.room.riddles.riddle is not None


def is_ready(part: PractisePart) -> bool:
    """Whether it is known what can be practised."""
    return part.state.ready
