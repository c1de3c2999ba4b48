"""What every page is. The window knows pages by this alone, and pages do not know each other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from yellow_hinge.song.edits import Edit
from yellow_hinge.song.model import Song
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.commands import Command, CommandList, declared
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.theme import dress, worn

if TYPE_CHECKING:
    from PySide6.QtGui import QShowEvent

    from yellow_hinge.rhythm.events import NoteEvent
    from yellow_hinge.sheet.page import Sheet
    from yellow_hinge.sound.keyboards import HeldKeys, KeyEvent


class Sounding(Struct, frozen=True):
    """A stretch to be heard: slots ``first`` to ``last`` of a song (None: to its end); ``back`` adds the
    first one behind the end, for the way back of a loop; from the very beginning the pickup sounds.
    ``count_in``: with a click, and a bar of it before; ``loops``: over and over. ``at``: from this place, in
    quarters, instead of the beginning of ``first``."""

    song: Song
    first: int
    last: int | None = None
    back: bool = False
    count_in: bool = False
    loops: bool = False
    at: float | None = None


class Backing(Struct, frozen=True):
    """Notes to be heard from now, whatever the song: places in quarters from now on, at so many quarters a
    minute. Without any all falls silent."""

    events: tuple[NoteEvent, ...] = ()
    quarters_per_minute: Fraction = Fraction(100)


class Part(QObject):
    """Some of what a page does: it acts on the document by edits, and its methods say which commands they are
    (:func:`~yellow_hinge.ui.commands.command`). It knows no page.

    ``hear``, ``strikes`` and ``said`` are the page's; ``shown``: there is something else to show.
    """

    hear = Signal(object)
    strikes = Signal(object)
    said = Signal(tuple)
    shown = Signal()

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.document = document

    def make_commands(self) -> Sequence[Command]:
        """What can be done with it."""
        return declared(self)

    def apply(self, edit: Edit | None) -> None:
        """An edit of the song, where there is any."""
        if edit is not None:
            self.document.apply(edit)


class Page(QWidget):
    """A page declares its name, parts, focus and commands, what it does while a chord sounds, with another
    theme and at the end.

    ``said`` carries problems, ``hear`` a :class:`Sounding`, ``strikes`` the keys of a grip that the player
    came to, ``backs`` a :class:`Backing`, ``wants`` the name of another page;
    ``wrote``: something went to paper or to a file.
    """

    name = ""
    keyboard_name = ""  #: of the keyboard that is heard; empty where none is
    works_empty = False  #: whether there is anything to do on it without a song
    handy: tuple[str, ...] = ()  #: acts for the thing under the pointer, by their ids
    draws = ""  #: what its drawing is called where it is saved; empty where there is none
    pictured: Painted | None = None  #: that drawing; None where a sheet of the same name is saved
    twice = ""  #: the one of these that a double click on it does
    said = Signal(tuple)
    hear = Signal(object)
    strikes = Signal(object)
    backs = Signal(object)
    wants = Signal(str)
    wrote = Signal()

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.setAccessibleName(self.name)
        self.document = document
        self.theme = worn()  #: that it was dressed in
        self.parts = tuple(self.make_parts())
        for part in self.parts:
            part.setParent(self)  # it goes with the page: what listens to it may hold the page
            part.hear.connect(self.hear)
            part.strikes.connect(self.strikes)
            part.said.connect(self.said)
            part.shown.connect(self.show_all)
        self.commands = CommandList(self.make_commands())
        self._stale = False
        document.changed.connect(self._song_changed)
        document.known.connect(self._more_known)
        document.walked.connect(self._walked)

    def make_parts(self) -> Sequence[Part]:
        """What the page does, in the order of its menu; asked once, before anything is built."""
        return ()

    def make_commands(self) -> Sequence[Command]:
        """What can be done here; asked once, before the page is built."""
        return [*declared(self), *(command for part in self.parts for command in part.make_commands())]

    def show_all(self) -> None:
        """Everything from the page's state."""

    def refresh(self) -> None:
        """Show the song as it is now: called when it has changed, for a page that is not shown when it
        is shown next."""

    def follow(self) -> None:
        """The player is at the document's chosen chord: go there too, when the page is shown and while it
        is."""

    def _walked(self) -> None:
        if self.isVisible():
            self.follow()

    def _more_known(self) -> None:
        """The song and its grips are the same: nothing is taken over anew."""
        if self.isVisible():
            self.show_all()
        else:
            self._stale = True

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
        self.follow()

    def sounding(self) -> Sounding | None:
        """What Play plays: from the chosen chord to the end; None where there is nothing."""
        song = self.document.song
        return Sounding(song, self.document.chosen) if song.slots else None

    def stretch(self) -> Sounding | None:
        """What is looped: the chosen chord between its neighbours; None where there is nothing."""
        slots, here = self.document.song.slots, self.document.chosen
        return (
            Sounding(self.document.song, max(0, here - 1), min(len(slots) - 1, here + 1)) if slots else None
        )

    def picture(self) -> Sheet | None:
        """What is drawn here, all of it, to be saved as a picture; None where nothing is."""
        song = self.document.song
        if not self.draws or not song.slots:
            return None
        from yellow_hinge.sheet.page import Options  # noqa: PLC0415 - rarely wanted
        from yellow_hinge.tasks.sheets.kinds import sheet_of  # noqa: PLC0415
        from yellow_hinge.ui.sheet_painter import FontMetrics, drawn_sheet  # noqa: PLC0415

        if self.pictured is None:
            return sheet_of(song, self.document.library, self.draws, Options(), FontMetrics())
        return drawn_sheet(self.pictured, f"{song.title or 'Untitled'}: {self.draws}", self.pictured.joints)

    def show_began(self) -> None:
        """What was asked for sounds from now."""

    def show_playing(self, slot: int) -> None:
        """A slot sounds now; -1: all is silent."""

    def show_place(self, quarters: float) -> None:
        """A place of the song sounds now, in quarters from the first bar line."""

    def show_held(self, held: HeldKeys) -> None:
        """Other keys are held on the keyboard that is heard."""

    def key_played(self, event: KeyEvent) -> None:
        """A key or the pedal went down or up on the keyboard that is heard."""

    def seek(self, words: str) -> None:
        """Something of this page was asked for by its name."""

    def left(self) -> None:
        """Another page is shown now."""

    def dress(self) -> None:
        """Other colours; for a page that is not shown when it is shown next: of the song as it is then."""
        self.theme = worn()
        dress(self)
        if self._stale:
            self._stale = False
            self.refresh()

    def fit_text(self) -> None:
        """Text has another size now: what has a fixed size takes another one."""

    def close_page(self) -> None:
        """The window closes: stop whatever runs."""


class PageRow(Struct, frozen=True):
    """A page as the window finds it: its name, its place in the rail (the least comes first), and what makes
    it when it is first wanted. ``opens``: it is the one that is shown first."""

    name: str
    order: int
    make: Callable[[Document], Page]
    opens: bool = False
