"""What the finder finds in this window, and how one gets there."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from itertools import chain
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from yellow_hinge.rhythm.patterns import Pattern
from yellow_hinge.song.edits import go_to_take, settle
from yellow_hinge.song.playing import known_patterns
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.glossary import Word
from yellow_hinge.ui import finding
from yellow_hinge.ui.commands import Command, CommandList
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.file_desk import FileDesk
from yellow_hinge.ui.key_desk import KeyDesk
from yellow_hinge.ui.message import MessageBar
from yellow_hinge.ui.page import Page
from yellow_hinge.ui.playback import Playback
from yellow_hinge.ui.read_words import everything_on
from yellow_hinge.ui.theme import dress

if TYPE_CHECKING:
    from yellow_hinge.ui.finder import Finder


class Host(Protocol):
    """The window, as far as the finder needs it."""

    document: Document
    files: FileDesk
    message: MessageBar
    commands: CommandList
    keys: KeyDesk
    playback: Playback

    @property
    def page(self) -> Page: ...
    @property
    def page_names(self) -> list[str]: ...
    def page_named(self, name: str) -> Page: ...
    def go_to(self, name: str) -> None: ...
    def about(self, page: str) -> str: ...
    def show_keys(self) -> None: ...


class FindDesk:
    """Asks what is wanted, over everything there is."""

    def __init__(self, host: Host) -> None:
        self._host = host
        self.made: list[Finder] = []  #: once it was wanted

    @property
    def finder(self) -> Finder:
        """Made when it is first wanted."""
        from yellow_hinge.ui.finder import Finder  # noqa: PLC0415 - only when it is wanted

        if not self.made:
            assert isinstance(self._host, QWidget)
            self.made.append(Finder(self._host, self._host.keys))
            self._host.keys.changed.connect(self._rekeyed)
            dress(self.made[0])
        return self.made[0]

    def ask(self) -> None:
        """Type what you want. Acts of pages that are not made yet come as they are made."""
        host = self._host
        host.document.read_draft()
        self.finder.ask(self._here())
        self._look_on([name for name in host.page_names if name != host.page.name])

    def _here(self) -> list[finding.Thing]:
        """What is known without any page but the one that is shown."""
        host = self._host
        own = [command for command in host.commands.as_left() if not command.id.startswith("recent-")]
        groove = host.document.song.arrangement.groove
        songs = (
            finding.Thing(path.name, "song", "", partial(host.files.open_recent, place))
            for place, path in enumerate(host.files.recent)
        )
        return [
            *self._acts(host.page),
            *finding.acts("", own, host.go_to, self._refused),
            *finding.in_song(host.document.song, self._to_slot, self._to_take),
            *finding.schools(host.document.library.schools, self._take_school),
            *finding.patterns(known_patterns(groove), self._to_pattern), *songs,
            *finding.words("", self.chord, self._hear),
            *chain.from_iterable(
                finding.page_helps(name, host.about(name), self._to_help) for name in host.page_names
            ),
        ]  # fmt: skip

    @property
    def chord(self) -> ChordSymbol | None:
        """The chord in view."""
        document = self._host.document
        return document.song.slots[document.chosen].chord if document.song.slots else None

    def ask_words(self) -> None:
        """Words of theory, those that the page says now first."""
        words = finding.words(everything_on(self._host.page), self.chord, self._hear)
        self.finder.ask(
            words, "Which word? drop 2, rootless, guide tones...", "Return says it, with its notes."
        )

    def _hear(self, word: Word) -> None:
        """What a word means, and its notes in the chord in view."""
        self._host.message.tell(f"{word.name}: {word.explained(self.chord)}")
        self._host.playback.strike([pitch.key for pitch in word.in_chord(self.chord)])

    def _to_help(self, page: str) -> None:
        self._host.go_to(page)
        self._host.show_keys()

    def _rekeyed(self) -> None:
        """Acts have other keys."""
        if self.finder.isVisible():
            host = self._host
            others = (host.page_named(name) for name in host.page_names if name != host.page.name)
            self.finder.renew([*self._here(), *(thing for page in others for thing in self._acts(page))])

    def _look_on(self, names: Sequence[str]) -> None:
        """The acts of further pages, a page at a time: nobody waits for them."""
        if names and self.finder.isVisible():
            self.finder.add(self._acts(self._host.page_named(names[0])))
            QTimer.singleShot(0, self.finder, partial(self._look_on, names[1:]))

    def _acts(self, page: Page) -> list[finding.Thing]:
        return list(finding.acts(page.name, page.commands, self._host.go_to, self._refused))

    def _refused(self, command: Command) -> None:
        words = command.tip or command.words
        self._host.message.tell(f"{command.said.replace('...', '')}: not possible here now. {words}.")

    def _to_slot(self, index: int) -> None:
        self._host.document.choose(index)
        self._host.go_to("Hinges")

    def _to_take(self, take_id: int) -> None:
        self._host.go_to("Takes")
        self._host.document.apply(go_to_take(self._host.document.song, take_id))

    def _take_school(self, school: str) -> None:
        self._host.go_to("Hinges")
        self._host.document.apply(settle(self._host.document.song, school=school))

    def _to_pattern(self, pattern: Pattern) -> None:
        self._host.go_to("Rhythm")
        self._host.page.seek(pattern.name)
