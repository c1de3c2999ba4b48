"""Riddles on the page: asks, takes answers in words or keys, says what they were worth."""

from __future__ import annotations

import random
from typing import TYPE_CHECKING

from yellow_hinge.practice.riddles import Answer
from yellow_hinge.practice.strokes import demonstration
from yellow_hinge.theory.pitch import as_letters
from yellow_hinge.ui.keyboard_values import KeyMark
from yellow_hinge.ui.page import Backing
from yellow_hinge.ui.practise_page.riddle_state import RiddleState

if TYPE_CHECKING:
    from yellow_hinge.ui.practise_page.view import PractisePage


class Riddling:
    """One riddle at a time, in the middle of the page."""

    def __init__(self, page: PractisePage) -> None:
        self._page = page
        self.state = RiddleState(random.Random())
        self.answered = False

    @property
    def on(self) -> bool:
        """Whether something is asked."""
        return self.state.riddle is not None

    @property
    def asked(self) -> tuple[str, str] | None:
        """Title and question; None where nothing is asked."""
        riddle = self.state.riddle
        if riddle is None:
            return None
        asked, right = self.state.asked, self.state.right
        return (f"Riddle · {right} of {asked} right" if asked else "Riddle"), riddle.question

    @property
    def keys(self) -> dict[int, KeyMark]:
        """The keys that belong to the question."""
        return self.state.shown(self._page.state.first) if self.on else {}

    def ask(self, kind: str) -> None:
        """Ask something."""
        page = self._page
        page.rounds.reset()
        desk = page.state.desk
        if desk is None:
            return
        self.answered = False
        page.state.tell("", "")
        self.state.begin(kind, page.state.first, desk.songs[0], page.document.library, page.state.chosen)
        riddle = self.state.riddle
        typed = riddle is not None and riddle.typed
        page.middle.answer.setVisible(typed)
        page.middle.answer.clear()
        (page.middle.answer if typed else page.focus).setFocus()
        self.hear()
        page.show_all()

    def another(self) -> None:
        """Ask something of the same kind."""
        if self.state.riddle is not None:
            self.ask(self.state.riddle.kind)

    def hear(self) -> None:
        """What is to be played back, where that is asked."""
        riddle = self.state.riddle
        if riddle is not None and riddle.kind == "call" and riddle.wanted is not None:
            self._page.backs.emit(Backing(tuple(demonstration([riddle.wanted]))))

    def leave(self) -> None:
        """Ask nothing any more."""
        self.state.riddle = None
        self._page.middle.answer.hide()

    def typed(self) -> None:
        """An answer in words; behind an answer: another riddle."""
        page, desk = self._page, self._page.state.desk
        if desk is None or self.state.riddle is None:
            return
        if self.answered:
            self.another()
            return
        self._say(self.state.typed(page.state.first, desk.songs[0], as_letters(page.middle.answer.text())))

    def played(self) -> None:
        """The keys that are held are the answer; behind an answer: another riddle."""
        page, desk, riddle = self._page, self._page.state.desk, self.state.riddle
        if desk is None or riddle is None:
            return
        if riddle.typed:
            self.typed()
        elif self.answered:
            self.another()
        else:
            library = page.document.library
            self._say(self.state.played(page.state.first, desk.songs[0], library, page.middle.held))

    def _say(self, answer: Answer) -> None:
        self.answered = True
        again = "Return" if self._page.middle.answer.isVisible() else "Space or N"
        self._page.state.tell(answer.words, f"{again}: another one.", answer.right)
        self._page.show_now()
