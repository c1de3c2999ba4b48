"""Which key does what, as the player wants it: for every page and the window, kept between runs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from PySide6.QtCore import QObject, Signal

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.tasks.settings.own_keys import OwnKeys
from yellow_hinge.ui.commands import Command, CommandList, is_strong, plain_key

#: Keys that lead through a window wherever one is.
_RESERVED = frozenset({"Tab", "Shift+Tab", "Esc", "F2"})


class KeyDesk(QObject):
    """The lists of commands by page, "" being the window's. ``changed``: a key does something else;
    ``failed``: it could not be kept, and holds until the window closes."""

    changed = Signal()
    failed = Signal(tuple)

    def __init__(self, own: OwnKeys, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._own = own
        self._lists: dict[str, CommandList] = {}

    def know(self, where: str, commands: CommandList) -> None:
        """Commands that can be given other keys, which they get at once."""
        self._lists[where] = commands
        commands.rekey(self._own.of(where))

    def stands_against(self, where: str, act: str, key: str) -> str:
        """Why an act may not have a key, in words; nothing where it may, if it is asked for twice where
        another act has it."""
        if key in _RESERVED:
            return f"{key} is needed by every page. Take another one."
        others = ", ".join(f"\u201c{command.words}\u201d" for _, command in self._on(where, act, key))
        return f"{key} does {others} now. Press it again to take it from there." if others else ""

    def may_take(self, key: str) -> bool:
        """Whether a key can be given away at all."""
        return key not in _RESERVED

    def give(self, where: str, act: str, key: str) -> None:
        """An act has this key from now, and no other; acts that had it lose it."""
        own = self._own
        for page, command in self._on(where, act, key):
            own = own.given(page, command.id, _without(command, key))
        came = tuple(map(plain_key, self._lists[where].came_with(act)))
        self._take(own.given(where, act, None if came == (key,) else (key,)))

    def give_back(self, where: str, act: str) -> None:
        """An act has the keys again that it came with."""
        own = self._own
        for key in self._lists[where].came_with(act):
            for page, command in self._on(where, act, key):
                own = own.given(page, command.id, _without(command, key) or None)
        self._take(own.given(where, act, None))

    def give_all_back(self) -> None:
        """All keys as they came."""
        if self._own.keys:
            self._take(OwnKeys())

    def _on(self, where: str, act: str, key: str) -> Iterator[tuple[str, Command]]:
        """Acts that have a key where it cannot mean both: on the same page, and for a key that menus
        listen to in the window as well."""
        pages: Mapping[str, CommandList] = self._lists
        if not is_strong(key):
            pages = {where: self._lists[where]}
        elif where:
            pages = {one: self._lists[one] for one in ("", where)}
        for page, commands in pages.items():
            command = commands.on_key(key)
            if command is not None and (page, command.id) != (where, act):
                yield page, command

    def _take(self, own: OwnKeys) -> None:
        self._own = own
        for where, commands in self._lists.items():
            commands.rekey(own.of(where))
        self.changed.emit()
        try:
            own.keep()
        except YellowHingeError as error:
            self.failed.emit(error.problems)


def _without(command: Command, key: str) -> tuple[str, ...]:
    """The keys of an act but one, which may be written in two ways: "Delete" is "Del"."""
    return tuple(one for one in command.keys if plain_key(one) != plain_key(key))
