"""The taste of whoever plays: read, learnt and written beside the window, never silently."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.song.edits import settle
from yellow_hinge.song.history import History
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.settings.own_files import own_path
from yellow_hinge.tasks.settings.player import Player
from yellow_hinge.ui.worker import Worker
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.reharm.proposals import Proposal
    from yellow_hinge.rhythm.patterns import Pattern
    from yellow_hinge.stopping import Progress
    from yellow_hinge.tasks.taste.taste import Taste
    from yellow_hinge.ui.worker import Deliver
    from yellow_hinge.voicing.own_prices import OwnPrices

#: A change of a taste: gets what is kept now, and a progress; None: it is forgotten.
Change = Callable[["Taste", "Progress"], "Taste | None"]


class Host(Protocol):
    """The document, as far as a taste needs it."""

    library: Library
    history: History

    @property
    def song(self) -> Song: ...


class OwnTaste(QObject):
    """``changed``: it is another one, or it is known now; ``asks``: so many chords are the player's own
    choice, and nobody has said yet whether to learn from them; ``said``: what stands in the way."""

    changed = Signal()
    asks = Signal(int)
    said = Signal(tuple)

    def __init__(self, document: Host, parent: QObject) -> None:
        super().__init__(parent)
        self._document = document
        self.worker = Worker(self, "taste")
        self.worker.done.connect(self._take)
        self.worker.failed.connect(self._fail)
        #: Changes that are not written yet, and whose: a newer one takes over what was under way.
        self._pending: list[tuple[str, Change]] = []
        self.whose = Player.read()[0].name
        self._asked = False
        self.taste: Taste | None = None  #: None: not read yet, or nobody has said whether to learn

    @property
    def owner(self) -> str:
        """Whose it is, in words."""
        return taste_words(self.whose)

    @property
    def learnt(self) -> OwnPrices | None:
        """The prices that were learnt, whether they are on or off; None where none were."""
        return self.taste.prices(self.whose) if self.taste is not None and self.taste.shares else None

    @property
    def prices(self) -> OwnPrices | None:
        """What new takes and songs begin with; None while it is off, or says nothing."""
        return self.learnt if self.taste is not None and self.taste.on else None

    def begun(self, song: Song) -> Song:
        """A new song as it begins for this player."""
        return song if self.prices is None else settle(song, prices=self.prices).song

    def proposals(self, here: list[Proposal]) -> list[Proposal]:
        """Proposals of one place in the order in which this player takes them."""
        if self.taste is None:
            return here
        from yellow_hinge.tasks.taste.lists import proposals_for  # noqa: PLC0415 - brings NumPy

        return proposals_for(self.taste, here)

    def patterns(self, patterns: list[Pattern], hand: str, song: Song) -> list[Pattern]:
        """Patterns for a hand in the order in which this player chooses them for such a song."""
        if self.taste is None:
            return patterns
        from yellow_hinge.tasks.taste.lists import kind_of_song, patterns_for  # noqa: PLC0415 - brings NumPy

        return patterns_for(self.taste, patterns, hand, kind_of_song(song))

    # --- whose ---

    def look(self) -> None:
        """Read it, where there is any."""
        if own_path("tastes").is_dir():
            self._start()

    def belong_to(self, name: str) -> None:
        """Somebody else plays."""
        if name == self.whose:
            return
        try:
            Player(name).keep()
        except YellowHingeError as error:
            self.said.emit(error.problems)
        self.whose, self.taste = name, None
        self.changed.emit()
        self.look()

    # --- learning ---

    def saved(self) -> None:
        """The song was saved: its choices hold. The first time it asks."""
        from yellow_hinge.tasks.taste.choices import own_columns  # noqa: PLC0415 - brings NumPy

        count = len(own_columns(self._document.song))
        if self.taste is None:
            if count and not self._asked and not self.worker.running:
                self._asked = True  # once a run: whoever closes the question has said something too
                self.asks.emit(count)
        elif self.taste.on:
            self.learn()

    def learn(self) -> None:
        """From the open song as it is."""
        song, library, past = self._document.song, self._document.library, self._document.history.past

        def change(taste: Taste, progress: Progress) -> Taste:
            from yellow_hinge.tasks.taste.choices import learnt_from_song  # noqa: PLC0415 - brings NumPy
            from yellow_hinge.tasks.taste.lists import with_lists  # noqa: PLC0415

            return with_lists(learnt_from_song(taste, song, library, progress), song, past)

        self._work(change)

    def set_on(self, on: bool) -> None:
        """Whether it is learnt from what is saved, and new takes begin with it."""
        self._work(lambda taste, _: replace(taste, on=on))

    def agree(self, on: bool) -> None:
        """The answer to the first question: learn from this song and others, or from none."""
        if on:
            self.learn()
        else:
            self.set_on(False)

    def set_school(self, school: str) -> None:
        """For which school it is; empty: for all."""
        self._relearn(lambda taste: replace(taste, school=school))

    def strike(self, place: str, struck: bool) -> None:
        """Leave a choice out, or count it again."""
        self._relearn(lambda taste: taste.struck(place, struck))

    def _relearn(self, change: Callable[[Taste], Taste]) -> None:
        library = self._document.library

        def work(taste: Taste, progress: Progress) -> Taste:
            from yellow_hinge.tasks.taste.choices import relearnt  # noqa: PLC0415 - brings NumPy

            return relearnt(change(taste), library, progress)

        self._work(work)

    # --- files ---

    def bring(self, path: Path) -> None:
        """Take over the taste of a file."""

        def change(_: Taste, __: Progress) -> Taste:
            from yellow_hinge.tasks.taste.kept import open_taste  # noqa: PLC0415 - rarely wanted

            return open_taste(path)

        self._work(change)

    def export(self, path: Path) -> None:
        """Write it into a file of its own."""
        from yellow_hinge.tasks.taste.kept import keep_taste  # noqa: PLC0415 - rarely wanted

        if self.taste is not None:
            try:
                keep_taste(path, self.taste, self._document.library)
            except YellowHingeError as error:
                self.said.emit(error.problems)

    def forget(self) -> None:
        """As if nothing had been learnt. Takes keep what they were made with."""
        self._work(lambda _, __: None)

    # --- beside the window ---

    def _work(self, change: Change) -> None:
        self._pending.append((self.whose, change))
        self._start()

    def _start(self) -> None:
        """What is kept is read, changed and written in one job: another window may have written it. Changes
        that a job before this one did not come to are made now; made twice, each gives the same."""
        whose, library, pending = self.whose, self._document.library, tuple(self._pending)

        def job(progress: Progress, _: Deliver) -> Taste | None:
            from yellow_hinge.tasks.taste.kept import forget_taste, keep_taste, taste_of, taste_path  # noqa: PLC0415
            from yellow_hinge.tasks.taste.taste import Taste  # noqa: PLC0415 - both bring NumPy

            for name, change in pending:
                kept = taste_of(name)
                changed = change(kept or Taste(), progress)
                if changed is None:
                    forget_taste(name)
                elif changed != kept:
                    keep_taste(taste_path(name), changed, library)
            return taste_of(whose)

        self.worker.start(job)

    def _take(self, taste: Taste | None) -> None:
        self._pending.clear()
        self.taste = taste
        self.changed.emit()

    def _fail(self, error: YellowHingeError) -> None:
        self._pending.clear()
        self.said.emit(error.problems)


def taste_words(whose: str) -> str:
    """A player's taste, by their name."""
    return f"the taste of {whose}" if whose else "your taste"


def asked(count: int) -> str:
    """The first question."""
    chords = "One chord here is" if count == 1 else f"{count} chords here are"
    return (
        f"{chords} your own choice. Shall the program learn from such choices, so that first rows come "
        "nearer to yours? Hands shows what it learns; nothing leaves this machine."
    )


def nothing_learnt() -> Problem:
    """Where there is nothing to learn from."""
    return Problem(
        "taste", "no chord of this take is a choice of your own", "lock a voicing on Hinges, or bring grips"
    )
