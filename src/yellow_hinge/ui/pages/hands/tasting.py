"""What is done on the Hands page with a taste: learning, striking out, weighing it in the open song."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6 import QtWidgets  # dialogs are made known to Python when one is first wanted

from yellow_hinge.song.edits import new_take, settle
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part, Sounding
from yellow_hinge.ui.taste import nothing_learnt
from yellow_hinge.ui.worker import Worker

if TYPE_CHECKING:
    from yellow_hinge.song.model import Song
    from yellow_hinge.stopping import Progress
    from yellow_hinge.tasks.taste.compared import Compared
    from yellow_hinge.tasks.taste.taste import Chosen
    from yellow_hinge.ui.worker import Deliver
    from yellow_hinge.voicing.own_prices import OwnPrices

_FILES = "Taste (*.toml)"
#: By whether it takes the taste off.
_USE = {False: "Use it in this take", True: "Take it off this take"}


def has_taste(part: Tasting) -> bool:
    """Whether anybody has said whether to learn."""
    return part.own.taste is not None


def has_prices(part: Tasting) -> bool:
    """Whether anything was learnt of prices."""
    return part.prices is not None


def may_use(part: Tasting) -> bool:
    """Whether there is a taste to lay over the take, or to take off it."""
    return part.prices is not None or part.takes_off


def may_learn(part: Tasting) -> bool:
    """Whether there is a song to learn from."""
    return part.document.song.solved and not part.own.worker.running


class Tasting(Part):
    """The taste of whoever plays, and what it would change in the open song."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.own = document.taste
        self.own.changed.connect(self.shown)
        self.own.worker.busy.connect(lambda _: self.shown.emit())
        self.worker = Worker(self, "taste in the song")
        self.worker.done.connect(self._take)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))
        self.compared: Compared | None = None
        self._asked: tuple[Song, OwnPrices] | None = None
        self._theirs = False

    @property
    def prices(self) -> OwnPrices | None:
        """What was learnt, whether it is on or off; None where nothing was."""
        return self.own.learnt

    @property
    def choices(self) -> list[Chosen]:
        """The player's own choices, the last first."""
        taste = self.own.taste
        return [] if taste is None else [choice for choice in reversed(taste.chosen) if choice.own]

    # --- the open song ---

    def look(self) -> None:
        """Work out what it would change, where that is another question."""
        song, prices, library = self.document.song, self.prices, self.document.library
        if prices is None or not song.slots or self.document.worker.running:
            self.worker.cancel()
            self.compared, self._asked = None, None
            return
        if self._asked is not None and self._asked[0] is song and self._asked[1] == prices:
            return
        self.compared, self._asked = None, (song, prices)

        def job(progress: Progress, _: Deliver) -> Compared:
            from yellow_hinge.tasks.taste.compared import compared  # noqa: PLC0415 - brings NumPy

            return compared(song, prices, library, progress)

        self.worker.start(job)

    def _take(self, compared: Compared) -> None:
        self.compared, self._theirs = compared, False
        self.shown.emit()

    @command("taste-both", "Hear both", "B", when=lambda self: bool(self.compared and self.compared.changed),
             tip="The song with the taste; once more: with the program's own prices",
             now=lambda self: "Hear ours" if self._theirs else "Hear yours")  # fmt: skip
    def hear_other(self) -> None:
        assert self.compared is not None
        self._theirs = not self._theirs
        song = self.compared.theirs if self._theirs else self.compared.ours
        first = min(self.compared.changed)
        here = self.document.chosen
        self.hear.emit(Sounding(song, here if here in self.compared.changed else max(0, first - 1)))
        self.shown.emit()

    @command("taste-use", "Use it in this take", "U", when=may_use,
             tip="This take's free chords are found anew with the taste, or without it; undo takes it back",
             now=lambda self: _USE[self.takes_off])  # fmt: skip
    def use(self) -> None:
        prices = None if self.takes_off else self.prices
        words = "With the program's own prices" if prices is None else f"With {self.own.owner}"
        self.apply(settle(self.document.song, words, prices=prices))

    @property
    def takes_off(self) -> bool:
        """Whether the act takes a taste off the take: what is known now is in force, or nothing is known."""
        own = self.document.song.arrangement.prices
        return own is not None and (self.prices is None or own == self.prices)

    @command("taste-take", "As a new take", "N", when=has_prices,
             tip="A new take with the taste beside this one, which stays as it is")  # fmt: skip
    def as_new_take(self) -> None:
        song = self.document.song
        self.apply(new_take(song, f"{song.take.name}, my taste", prices=self.prices))

    # --- what is learnt ---

    @command("taste-learn", "Learn from this song", "L", when=may_learn,
             tip="From the chords that you locked or brought, as they are now")  # fmt: skip
    def learn(self) -> None:
        from yellow_hinge.tasks.taste.choices import own_columns  # noqa: PLC0415 - brings NumPy

        if own_columns(self.document.song):
            self.own.learn()
        else:
            self.said.emit((nothing_learnt(),))

    @command("taste-on", "Learn from songs that are saved, and begin new takes with it", when=has_taste,
             tip="Off: nothing is learnt and new takes have the program's own prices. Takes that are there "
                 "stay as they are either way",
             checked=lambda self: self.own.taste is not None and self.own.taste.on)  # fmt: skip
    def switch(self) -> None:
        self.own.set_on(self.own.taste is None or not self.own.taste.on)

    @command("taste-forget", "Forget it", when=has_taste,
             tip="As if nothing had been learnt; takes keep what they were made with")  # fmt: skip
    def forget(self) -> None:
        buttons = QtWidgets.QMessageBox.StandardButton
        question = f"Forget everything that was learnt ({len(self.choices)} choices)? It cannot be undone."
        answer = QtWidgets.QMessageBox.question(
            self._window, "Forget the taste", question, buttons.Yes | buttons.Cancel
        )
        if answer == buttons.Yes:
            self.own.forget()

    @command("taste-import", "Bring...", tip="Take over a taste from a file, in place of this one")
    def bring(self) -> None:
        name, _ = QtWidgets.QFileDialog.getOpenFileName(
            self._window, "Bring a taste", str(Path.home()), _FILES
        )
        if name:
            self.own.bring(Path(name))

    @command("taste-export", "Write...", when=has_taste, tip="Write the taste into a file: readable text")
    def write(self) -> None:
        path = kit.file_to_write(self._window, "Write the taste", self.own.whose or "taste", _FILES)
        if path is not None:
            self.own.export(path)

    @property
    def _window(self) -> QtWidgets.QWidget:
        parent = self.parent()
        assert isinstance(parent, QtWidgets.QWidget)
        return parent

    def strike(self, row: int, counts: bool) -> None:
        """Whether a choice counts, by its place in the list."""
        self.own.strike(self.choices[row].id, not counts)

    def hear_choice(self, row: int) -> None:
        """What was taken sounds."""
        self.strikes.emit(self.choices[row].keys)
