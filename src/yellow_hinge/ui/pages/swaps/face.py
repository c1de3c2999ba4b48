"""What the Swaps page can show of a chosen chord: one face open at a time, each a letter."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLabel, QWidget

from yellow_hinge.song.edits import Edit
from yellow_hinge.song.kept_hands import let_go_words
from yellow_hinge.song.model import Song
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.faces import Face
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.pages.swaps.state import SwapsState
from yellow_hinge.ui.pages.swaps.swapping import Rules
from yellow_hinge.ui.pages.swaps.weighing import Weighing
from yellow_hinge.ui.worker import Worker


class Given:
    """What a face is made with."""

    def __init__(self, weighing: Weighing, rules: Rules, commands: CommandList) -> None:
        self.document, self.weighing, self.rules = weighing.document, weighing, rules
        self.commands = commands
        self.state: SwapsState = weighing.state


class SwapFace(Face, frozen=True):
    """A face as the page finds it: what makes it when it is first wanted, the commands that stand as buttons
    below it, and what those are called on it where they are called otherwise."""

    make: Callable[[Given], ChordFace]
    buttons: tuple[str, ...] = ()
    says: Mapping[str, str] = {}


class ChordFace(QWidget):
    """A face about the chosen chord. What takes long runs on its own worker.

    ``hear`` carries a :class:`Sounding`, ``changed`` that commands may be other ones now. A face says in
    ``acts`` which of the commands that not every face has it answers to, by the names of its methods.
    """

    hear = Signal(object)
    changed = Signal()
    said = Signal(tuple)
    words: QLabel  #: what the face is about now; made by the face
    acts: frozenset[str] = frozenset()
    alone = True  #: whether the side of the page makes room for it

    def __init__(self, given: Given) -> None:
        super().__init__()
        self.document = document = given.document
        self.index = -1
        self.worker = Worker(self, "grips")
        self.worker.done.connect(self._take_in)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))
        self.worker.busy.connect(self._say_to_wait)
        document.changed.connect(self._song_changed)

    def _song_changed(self) -> None:
        """What is asked about another song is not wanted any more; when it is shown again it asks anew."""
        if not self.isVisible():
            self.worker.cancel()

    def _say_to_wait(self, busy: bool) -> None:
        """A face that has nothing to show yet says why."""
        if busy and not self.words.text():
            self.words.setText("One moment: it is being worked out.")

    def show_chord(self, index: int) -> None:
        """The chord of a slot, as it sounds now."""
        self.index = index
        self.look()

    def look(self) -> None:
        """Ask for what is to be shown."""

    def refresh(self) -> None:
        """Everything from the page's state."""

    def _take_in(self, result: Any) -> None:
        """What was asked for is here."""

    def step(self, direction: int) -> None:
        """Down (1) or up (-1) the list."""

    def across(self, direction: int) -> None:
        """To the next place of a run, or the next voice."""

    def turn(self) -> None:
        """The next way to look at it: a longer run, another form."""

    def mark(self) -> None:
        """Choose for later."""

    @property
    def ready(self) -> bool:
        """Whether there is anything to hear or to take."""
        return False

    @property
    def hearable(self) -> bool:
        """Whether there is anything to hear."""
        return self.ready

    @property
    def holds(self) -> bool:
        """Whether what it marks is marked."""
        return False

    @property
    def weighs(self) -> bool:
        """Whether anything is being worked out for it."""
        return self.worker.running

    def can(self, act: str) -> bool:
        """Whether something can be done that not every face has, by the name of its method."""
        return act in self.acts and self.ready

    def edit(self, whole: bool) -> Edit | None:
        """What taking it does: the chosen one, or the whole line or walk."""
        raise NotImplementedError

    def kept_words(self, whole: bool = False) -> str:
        """What of the hands that the player has kept would not stay, in a sentence; empty where all do."""
        edit = self.edit(whole) if self.ready else None
        return "" if edit is None else let_go_words(self.document.song, edit.song)

    def audition(self) -> None:
        """Hear it between its neighbours, before anything is changed."""
        edit = self.edit(whole=True)
        if edit is not None:
            self.hear.emit(self._around(edit.song))

    def _around(self, song: Song, chords: int = 1) -> Sounding:
        """A song from the chord before the chosen one to the one behind the stretch."""
        places = range(self.document.song.slots[self.index].place, len(song.plain_slots))[:chords]
        own = [slot.index for slot in song.slots if slot.place in places]
        last = min(len(song.slots) - 1, own[-1] + 1)
        return Sounding(song, max(0, own[0] - 1), last)

    def take(self) -> None:
        """Put the chosen one in place; undo takes it back."""
        self._put(self.edit(False))

    def take_whole(self) -> None:
        """Put the whole line or walk in place."""
        self._put(self.edit(True))

    def _put(self, edit: Edit | None) -> None:
        if edit is not None:
            self.document.apply(edit)

    def stop(self) -> None:
        """Nothing more is worked out."""
        self.worker.cancel()

    def close_face(self) -> None:
        self.worker.close()
