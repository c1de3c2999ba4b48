"""What every page is. The window knows pages by this alone, and pages do not know each other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.describe_song import Row
from yellow_hinge.ui.commands import Command, CommandList
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.theme import LIGHT, Theme, dress

if TYPE_CHECKING:
    from PySide6.QtGui import QShowEvent

    from yellow_hinge.rhythm.events import NoteEvent
    from yellow_hinge.sound.keyboards import HeldKeys, KeyEvent


class Sounding(Struct, frozen=True):
    """A stretch to be heard: slots ``first`` to ``last`` of a song (None: to its end); ``back`` adds
    the first one behind the end, for the way back of a loop. ``count_in``: with a click, and a bar of it
    before. ``at``: from this place, in quarters, instead of the beginning of ``first``."""

    song: Song
    row: Row
    first: int
    last: int | None = None
    back: bool = False
    count_in: bool = False
    at: float | None = None


class Backing(Struct, frozen=True):
    """Notes to be heard from now, whatever the song: places in quarters from now on, at so many quarters a
    minute. Without any all falls silent."""

    events: tuple[NoteEvent, ...] = ()
    quarters_per_minute: Fraction = Fraction(100)


class Face(Struct, frozen=True):
    """One of several things that a place of a page can show, one open at a time: by id, words, letter and
    what it is for."""

    id: str
    words: str
    key: str
    tip: str


class Page(QWidget):
    """A page declares its name, focus and commands, what it does while a chord sounds, with another
    theme and at the end.

    ``said`` carries problems, ``hear`` a :class:`Sounding`, ``backs`` a :class:`Backing`, ``wants`` the name
    of another page.
    """

    name = ""
    keyboard_name = ""  #: of the keyboard that is heard; empty where none is
    said = Signal(tuple)
    hear = Signal(object)
    backs = Signal(object)
    wants = Signal(str)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.setAccessibleName(self.name)
        self.document = document
        self.theme = LIGHT
        self.commands = CommandList(self.make_commands())
        self._stale = False
        document.changed.connect(self._song_changed)

    def make_commands(self) -> Sequence[Command]:
        """What can be done here; asked once, before the page is built."""
        return ()

    def refresh(self) -> None:
        """Show the song as it is now: called when it has changed, for a page that is not shown when it
        is shown next."""

    def _song_changed(self) -> None:
        if self.isVisible():
            self.refresh()
        else:
            self._stale = True

    def showEvent(self, event: QShowEvent) -> None:
        if self._stale:
            self._stale = False
            self.refresh()
        super().showEvent(event)

    @property
    def focus(self) -> QWidget:
        """What has the keyboard when the page is shown."""
        return self

    def entered(self) -> None:
        """The page is shown now."""

    def sounding(self) -> Sounding | None:
        """What Play plays: from the chosen chord to the end; None where there is nothing."""
        song = self.document.song
        return Sounding(song, self.document.row, self.document.chosen) if song.slots else None

    def show_playing(self, slot: int) -> None:
        """A slot sounds now; -1: all is silent."""

    def show_place(self, quarters: float) -> None:
        """A place of the song sounds now, in quarters from the first bar line."""

    def show_held(self, held: HeldKeys) -> None:
        """Other keys are held on the keyboard that is heard."""

    def key_played(self, event: KeyEvent) -> None:
        """A key or the pedal went down or up on the keyboard that is heard."""

    def left(self) -> None:
        """Another page is shown now."""

    def set_theme(self, theme: Theme) -> None:
        """Other colours; for a page that is not shown when it is shown next: of the song as it is then."""
        self.theme = theme
        dress(self, theme)
        if self._stale:
            self._stale = False
            self.refresh()

    def fit_text(self) -> None:
        """Text has another size now: what has a fixed size takes another one."""

    def close_page(self) -> None:
        """The window closes: stop whatever runs."""


class PageRow(Struct, frozen=True):
    """A page as the window finds it: its name, and what makes it when it is first wanted. ``opens``:
    it is the one that is shown first."""

    name: str
    make: Callable[[Document], Page]
    opens: bool = False
