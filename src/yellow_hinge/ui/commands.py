"""Commands: everything a player can do, each said once.

A command has its words, keys, place in the menu, tooltip and the list on F1, and knows when it can
be done; buttons, menus and keys read it from here. What single keys do, the focused widget may
take first: so letters reach a text that is being typed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import partial
from typing import Any, TypeVar

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QAbstractButton, QMenu

from yellow_hinge.ui.words import plain

Method = TypeVar("Method", bound=Callable[..., object])
#: What is asked of the object of a command.
Asked = Callable[[Any], bool]
#: Signs for keys in words.
_KEY_SIGNS = {"Left": "←", "Right": "→", "Up": "↑", "Down": "↓"}
#: Keys that do nothing alone.
_NO_KEYS = frozenset({
    Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta, Qt.Key.Key_AltGr,
    Qt.Key.Key_CapsLock, Qt.Key.Key_NumLock, Qt.Key.Key_unknown,
})  # fmt: skip


def plain_key(key: str) -> str:
    """A key as Qt says it: "Esc" for "Escape"."""
    return QKeySequence(key).toString(QKeySequence.SequenceFormat.PortableText)


def always() -> bool:
    """Nothing stands in the way."""
    return True


class Command(Struct, eq=False, weakref=True):
    """Something that can be done.

    ``keys`` in Qt's portable words ("L", "Ctrl+S"); the first one is shown, and the player may change
    them (:meth:`CommandList.rekey`). ``menu`` is a menu of
    the window, or a further one within the page's ("" is the page's own). ``tip`` says more, with
    no key in it. ``now`` gives the words as they stand ("Unlock"); ``checked`` makes it a switch.
    """

    id: str
    words: str
    run: Callable[[], object]
    keys: tuple[str, ...] = ()
    menu: str = ""
    tip: str = ""
    enabled: Callable[[], bool] = always
    checked: Callable[[], bool] | None = None
    now: Callable[[], str] | None = None

    @property
    def key_words(self) -> str:
        """Its keys as a player reads them."""
        return ", ".join(_KEY_SIGNS.get(key, key) for key in self.keys)

    @property
    def said(self) -> str:
        """Its words as they stand."""
        return self.words if self.now is None else self.now()

    def button_words(self, taken: frozenset[str] = frozenset()) -> str:
        """What stands on a button: its words with the first key that is not ``taken`` by others."""
        key = next((key for key in self.keys if key not in taken), None)
        return self.said if key is None else f"{self.said} ({_KEY_SIGNS.get(key, key)})"

    @property
    def tooltip(self) -> str:
        words = self.tip or self.words
        return f"{words} ({self.key_words})" if self.keys else words

    def try_run(self) -> bool:
        """Do it where it can be done; whether it was."""
        if not self.enabled():
            return False
        self.run()
        return True


def pressed_key(event: QKeyEvent) -> str:
    """What is pressed, in Qt's portable words; nothing for Shift and the like alone. Of a sign that needs
    Shift, such as ">", only the sign."""
    if event.key() in _NO_KEYS:
        return ""
    name = plain_key(QKeySequence(event.key()).toString())
    name = "Return" if name == "Enter" else name
    shifts = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
    if shifts and len(name) == 1 and not name.isalpha():
        shifts = False
    held = (Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier)
    words = [word for word, one in zip(("Ctrl", "Alt"), held, strict=True) if event.modifiers() & one]
    return "+".join((*words, *(("Shift",) if shifts else ()), name))


class CommandList:
    """The commands of a page or of the window, by id and by key, with the buttons that show them."""

    def __init__(self, commands: Sequence[Command]) -> None:
        self._by_id = {command.id: command for command in commands}
        self._came = {command.id: command.keys for command in commands}
        self._by_key: dict[str, Command] = {}
        for command in commands:
            for key in map(plain_key, command.keys):
                assert key not in self._by_key, f"two commands on {key}"
                self._by_key[key] = command
        self._buttons: list[tuple[QAbstractButton, Command]] = []
        self._taken: frozenset[str] = frozenset()

    def __iter__(self) -> Iterator[Command]:
        return iter(self._by_id.values())

    def __getitem__(self, command_id: str) -> Command:
        return self._by_id[command_id]

    def rekey(self, own: Mapping[str, tuple[str, ...]]) -> None:
        """Give commands the keys that the player wants them to have, by their ids; the others have those that
        they came with, unless one of these is wanted elsewhere."""
        wanted = {plain_key(key) for act, keys in own.items() if act in self._by_id for key in keys}
        self._by_key = {}
        for act, came in self._came.items():
            keys = own.get(act, tuple(key for key in came if plain_key(key) not in wanted))
            self[act].keys = tuple(key for key in keys if plain_key(key) not in self._by_key)
            self._by_key |= dict.fromkeys(map(plain_key, self[act].keys), self[act])
        self.refresh()

    def on_key(self, key: str) -> Command | None:
        """What a key does here, whether it can be done now or not."""
        return self._by_key.get(plain_key(key))

    def came_with(self, command_id: str) -> tuple[str, ...]:
        """The keys of a command as it ships."""
        return self._came[command_id]

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Do what a key without Ctrl or Alt stands for; whether there was anything."""
        strong = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        if event.modifiers() & strong:
            return False
        name = pressed_key(event)
        command = self._by_key.get(name) or self._by_key.get(name.removeprefix("Shift+"))
        return command is not None and command.try_run()

    def bind(self, button: QAbstractButton, command_id: str) -> QAbstractButton:
        """Let a button stand for a command."""
        command = self[command_id]
        button.setCheckable(command.checked is not None)
        button.clicked.connect(lambda _=False: self._clicked(command))
        self._buttons.append((button, command))
        self._show(button, command)
        return button

    def _clicked(self, command: Command) -> None:
        command.try_run()
        self.refresh()  # a switch that was not moved goes back

    def yield_to(self, others: CommandList) -> None:
        """Others take their keys first: buttons show the keys that are left."""
        self._taken = frozenset(others._by_key)
        self.refresh()

    def as_left(self) -> list[Command]:
        """The commands with the keys that others have left them."""
        left = (tuple(key for key in command.keys if plain_key(key) not in self._taken) for command in self)
        return [replace(command, keys=keys) for command, keys in zip(self, left, strict=True)]

    def _show(self, button: QAbstractButton, command: Command) -> None:
        button.setText(command.button_words(self._taken))
        button.setToolTip(plain(command.tooltip))
        button.setEnabled(command.enabled())
        if button.property("shy") and (button.parentWidget() or not command.enabled()):
            button.setVisible(command.enabled())  # shown before it has a place it would be a window
        if command.checked is not None:
            button.setChecked(command.checked())

    def refresh(self) -> None:
        """Show every button as its command stands."""
        for button, command in self._buttons:
            self._show(button, command)


class _Row(Struct, frozen=True):
    """What a method says of itself as a command, before there is anything that it belongs to."""

    id: str
    words: str
    keys: tuple[str, ...]
    given: tuple[object, ...]
    menu: str
    tip: str
    when: Asked | None
    checked: Asked | None
    now: Callable[[Any], str] | None

    def of(self, owner: object, method: str) -> Command:
        """The command, now that there is something that it belongs to."""
        run = partial(getattr(owner, method), *self.given)
        enabled = always if self.when is None else partial(self.when, owner)
        checked = None if self.checked is None else partial(self.checked, owner)
        now = None if self.now is None else partial(self.now, owner)
        return Command(
            self.id,
            self.words,
            run,
            keys=self.keys,
            menu=self.menu,
            tip=self.tip,
            enabled=enabled,
            checked=checked,
            now=now,
        )


def command(
    id: str, words: str, *keys: str, given: tuple[object, ...] = (), menu: str = "", tip: str = "",
    when: Asked | None = None, checked: Asked | None = None, now: Callable[[Any], str] | None = None,
) -> Callable[[Method], Method]:  # fmt: skip
    """The method below can be done by the player (see :class:`Command`): what it is called with stands in
    ``given``, the rest is asked of its object. A method may be several commands; they stand in the menu in
    the order in which they are read."""

    def said(method: Method) -> Method:
        rows: list[_Row] = method.__dict__.setdefault("_commands", [])
        rows.insert(
            0, _Row(id, words, keys, given=given, menu=menu, tip=tip, when=when, checked=checked, now=now)
        )
        return method

    return said


def declared(owner: object) -> list[Command]:
    """The commands of an object's methods, in the order of its class."""
    methods = [method for kind in reversed(type(owner).__mro__) for method in vars(kind).values()]
    return [row.of(owner, method.__name__) for method in methods for row in getattr(method, "_commands", ())]


def fill_menu(menu: QMenu, commands: Sequence[Command], within: str = "", *, listens: bool = True) -> None:
    """Put commands into a menu, those of a further menu within it into that. One that does not listen to
    keys only says them."""
    further: dict[str, QMenu] = {}
    for command in commands:
        name = command.menu.removeprefix(within).strip("/")
        target = menu
        if name:
            if name not in further:
                further[name] = menu.addMenu(name)
                _follow(further[name])
            target = further[name]
        target.addAction(_action(target, command, listens))
    _follow(menu)


def say_in_menu(menu: QMenu, commands: Sequence[Command]) -> None:
    """Commands in a menu of a thing, which says their keys and leaves it to others to listen to them."""
    for command in commands:
        menu.addAction(_action(menu, command, listens=False))
    _follow(menu)


def empty_menu(menu: QMenu) -> None:
    """Take everything out of a menu. The entries live on for a moment: one of them may be what is
    running."""
    for action in menu.actions():
        menu.removeAction(action)
        inner = action.menu()
        if isinstance(inner, QMenu):
            empty_menu(inner)
            inner.deleteLater()
        else:
            action.deleteLater()


def _action(menu: QMenu, command: Command, listens: bool = True) -> QAction:
    """The menu listens to keys with Ctrl and to function keys; plain keys it only says, so that the
    focused widget may take them first."""
    action = QAction(menu)  # given words at once, it would bring what icons need
    strong = [key for key in command.keys if listens and is_strong(key)]
    action.setShortcuts([QKeySequence(key) for key in strong])
    action.setText(_menu_words(command, bool(strong)))
    action.setToolTip(plain(command.tooltip))
    action.setCheckable(command.checked is not None)
    action.triggered.connect(lambda _=False: command.try_run())
    action.setData(command)
    return action


def is_strong(key: str) -> bool:
    """Whether a key works while one types: it has Ctrl, Alt or Shift, or is a function key."""
    return "+" in key or (key[:1] == "F" and key[1:].isdigit())


def _menu_words(command: Command, listens: bool) -> str:
    return command.said if listens or not command.keys else f"{command.said}\t{command.key_words}"


def _follow(menu: QMenu) -> None:
    """Show every action as its command stands, whenever the menu opens. A closed menu's actions are
    all enabled, or their keys would sleep; the command itself knows whether it can be done."""
    if menu.property("follows"):
        return
    menu.setProperty("follows", True)
    menu.aboutToShow.connect(lambda: refresh_menu(menu))
    menu.aboutToHide.connect(lambda: _wake(menu))


def _wake(menu: QMenu) -> None:
    for action in menu.actions():
        action.setEnabled(True)


def refresh_menu(menu: QMenu) -> None:
    """Show every action of a menu as its command stands."""
    for action in menu.actions():
        command = action.data()
        if isinstance(command, Command):
            action.setText(_menu_words(command, bool(action.shortcuts())))
            action.setEnabled(command.enabled())
            if command.checked is not None:
                action.setChecked(command.checked())
