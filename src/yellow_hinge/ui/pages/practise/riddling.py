"""Riddles on the page: asks, takes answers in words or keys, says what they were worth."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from yellow_hinge.practice.riddles import Answer
from yellow_hinge.practice.strokes import demonstration
from yellow_hinge.theory.pitch import as_letters
from yellow_hinge.ui.page import Backing
from yellow_hinge.ui.pages.practise.part import PractisePart, Room


class Riddling(PractisePart):
    """One riddle at a time, in the middle of the page. ``asks``: whether the new one is answered in words;
    ``answered`` that what was typed is to be taken."""

    asks = Signal(bool)
    answer_wanted = Signal()

    def __init__(self, room: Room, parent: QObject | None = None) -> None:
        super().__init__(room, parent)
        self.riddles = room.riddles
        self.answered = False

    @property
    def on(self) -> bool:
        """Whether something is asked."""
        return self.riddles.riddle is not None

    def ask(self, kind: str) -> None:
        """Ask something."""
        self.rounds.reset()
        desk = self.state.desk
        if desk is None:
            return
        self.answered = False
        self.state.tell("", "")
        self.riddles.begin(kind, self.state.first, desk.songs[0], self.document.library, self.state.chosen)
        riddle = self.riddles.riddle
        self.asks.emit(riddle is not None and riddle.typed)
        self.hear_it()
        self.shown.emit()

    def another(self) -> None:
        """Ask something of the same kind."""
        if self.riddles.riddle is not None:
            self.ask(self.riddles.riddle.kind)

    def hear_it(self) -> None:
        """What is to be played back, where that is asked."""
        riddle = self.riddles.riddle
        if riddle is not None and riddle.kind == "call" and riddle.wanted is not None:
            self.room.backs.emit(Backing(tuple(demonstration([riddle.wanted]))))

    def leave(self) -> None:
        """Ask nothing any more."""
        self.riddles.riddle = None

    def typed(self, text: str) -> None:
        """An answer in words; behind an answer: another riddle."""
        desk = self.state.desk
        if desk is None or self.riddles.riddle is None:
            return
        if self.answered:
            self.another()
        else:
            self._say(self.riddles.typed(self.state.first, desk.songs[0], as_letters(text)))

    def played(self) -> None:
        """The keys that are held are the answer; behind an answer: another riddle."""
        desk, riddle = self.state.desk, self.riddles.riddle
        if desk is None or riddle is None:
            return
        if riddle.typed:
            self.answer_wanted.emit()
        elif self.answered:
            self.another()
        else:
            library, held = self.document.library, self.room.held
            self._say(self.riddles.played(self.state.first, desk.songs[0], library, held))

    def _say(self, answer: Answer) -> None:
        self.answered = True
        typed = self.riddles.riddle is not None and self.riddles.riddle.typed
        again = "Return" if typed else "Space or N"
        self.state.tell(answer.words, f"{again}: another one.", answer.right)
        self.moved.emit()
