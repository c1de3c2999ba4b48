"""The drill that runs: beginning, stopping, hearing, marking, and what of it goes into the log."""

from __future__ import annotations

from typing import Literal

from PySide6.QtCore import QObject

from yellow_hinge.practice.keeping import kept
from yellow_hinge.practice.log import Done, Log
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.pages.practise.choosing import Choosing
from yellow_hinge.ui.pages.practise.part import PractisePart, Room, at_hand_or_asked, now, something_at_hand
from yellow_hinge.ui.pages.practise.riddling import Riddling
from yellow_hinge.ui.pages.practise.state import HANDS


def can_mark(part: PractisePart) -> bool:
    """Whether the player can say how the round was."""
    return part.state.runner is not None and part.room.riddles.riddle is None


class Drilling(PractisePart):
    """Runs the block at hand; a riddle that is asked takes the same keys."""

    def __init__(
        self, room: Room, riddling: Riddling, choosing: Choosing, parent: QObject | None = None
    ) -> None:
        super().__init__(room, parent)
        self._riddling, self._choosing = riddling, choosing
        self._session_id = 0  #: as the log numbers it; set where the log is written
        self.rounds.ended.connect(self._block_ended)

    def go_on_with(self, session: int) -> None:
        """A session of the log goes on."""
        self._session_id = session

    def start_words(self) -> str:
        """What the first button does now."""
        if self._riddling.on:
            return "That is it" if not self._riddling.answered else "Another one"
        return "Stop" if self.rounds.active else "Start"

    @command("start", "Start", "Space", "Return", when=at_hand_or_asked, now=start_words,
             tip="Begin the drill or the break, or stop it; a riddle: my answer")  # fmt: skip
    def start(self) -> None:
        if self._riddling.on:
            self._riddling.played()
        elif self.rounds.active:
            self.rounds.stop()
        else:
            self._begin_session()
            self.rounds.begin()
        self.moved.emit()

    @command("again", "Again", "A", tip="The round from its beginning", when=something_at_hand)
    def again(self) -> None:
        self._riddling.leave()
        self._begin_session()
        self.rounds.again()

    def next_by_key(self) -> None:
        """From the keyboard: begin, or the next block."""
        if self.rounds.active:
            self._choosing.next_block()
        self.start()

    @command("hear", "Hear", "H", tip="How the round sounds at its tempo", when=something_at_hand)
    def demonstrate(self) -> None:
        """How the round sounds, or what is to be played back."""
        if self._riddling.on:
            self._riddling.hear_it()
        else:
            self.rounds.demonstrate()

    @command("hands", "Hands", "B", tip="Both hands, the left one or the right one alone",
             when=something_at_hand, now=lambda self: self.state.hands_words())  # fmt: skip
    def next_hands(self) -> None:
        drill = self.state.drill
        if drill is not None:
            self.rounds.stop()
            self.state.hands = HANDS[(HANDS.index(drill.hands) + 1) % len(HANDS)]
            self.shown.emit()

    @command(
        "clean", "It was clean", "Y", given=(True,), tip="You say it: the round was clean", when=can_mark
    )
    @command("slip", "It slipped", "X", given=(False,), tip="You say it: there was a slip", when=can_mark)
    def mark(self, clean: bool) -> None:
        self.rounds.mark(clean)

    @command("slower", "Slower", "S", given=(-1,), tip="One step slower", when=something_at_hand)
    @command("faster", "Faster", "F", given=(1,), tip="One step faster", when=something_at_hand)
    def change_tempo(self, steps: Literal[-1, 1]) -> None:
        self.state.change_tempo(steps)
        self.moved.emit()

    # --- the log ---

    def _begin_session(self) -> None:
        """The plan goes into the log when its first block is begun."""
        state = self.state
        if state.session is not None or state.own is not None or state.desk is None:
            return
        state.session = 0
        began, pieces = now(), state.desk.shelf.pieces
        rows = [kept(block, pieces) for block in state.blocks]
        songs = list(dict.fromkeys(piece.id for piece in pieces))
        minutes = state.settings.minutes

        def begin(log: Log) -> None:
            self._session_id = log.begin(began, minutes, songs, rows)

        self.room.keeper.put(begin)

    def _block_ended(self, minutes: float, reached: int) -> None:
        """A block is over: it is written down, and the next one is at hand."""
        state, keeper = self.state, self.room.keeper
        done = Done(state.block, now(), round(minutes, 2), reached)
        if state.own is None:
            last = state.finish(done)
            keeper.put(lambda log: log.finish(self._session_id, done))
            if last:
                keeper.put(lambda log: log.end(self._session_id, now()))
        else:
            state.own_over(reached)
        self.shown.emit()
