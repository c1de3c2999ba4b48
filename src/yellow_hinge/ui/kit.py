"""What pages are built of: rows, headings, buttons for commands, boxes, each dressed and named in one way."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TypeVar

from PySide6 import QtWidgets  # dialogs are made known to Python when one is first wanted
from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QBoxLayout,
    QCheckBox,
    QComboBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QMenu,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.commands import CommandList, say_in_menu
from yellow_hinge.ui.words import Label

Layout = TypeVar("Layout", bound=QBoxLayout)
Widget = TypeVar("Widget", bound=QWidget)
Box = TypeVar("Box", bound=QComboBox)


def named(widget: Widget, name: str, tip: str = "") -> Widget:
    """A widget with its name for those who do not see it, and its tip."""
    widget.setAccessibleName(name)
    widget.setToolTip(tip)
    return widget


def page_row(page: QWidget) -> QHBoxLayout:
    """The columns of a page, with its margins."""
    row = QHBoxLayout(page)
    row.setContentsMargins(14, 10, 14, 10)
    row.setSpacing(12)
    return row


def column(owner: QWidget | None = None, spacing: int | None = None) -> QVBoxLayout:
    """Rows one below the other, without margins."""
    made = QVBoxLayout() if owner is None else QVBoxLayout(owner)
    return _plain(made, spacing)


def row(*widgets: QWidget, owner: QWidget | None = None, spacing: int | None = None) -> QHBoxLayout:
    """Widgets beside each other, without margins."""
    made = _plain(QHBoxLayout() if owner is None else QHBoxLayout(owner), spacing)
    for widget in widgets:
        made.addWidget(widget)
    return made


def _plain(layout: Layout, spacing: int | None) -> Layout:
    layout.setContentsMargins(0, 0, 0, 0)
    if spacing is not None:
        layout.setSpacing(spacing)
    return layout


def add_all(layout: QBoxLayout, widgets: Iterable[QWidget]) -> None:
    """Widgets into a layout, in their order."""
    for widget in widgets:
        layout.addWidget(widget)


def label(kind: str = "", words: str = "", wraps: bool = True) -> QLabel:
    """Words of a kind: "title", "heading", "quiet", "wrong"."""
    made = Label(words)
    made.setObjectName(kind)
    made.setWordWrap(wraps)
    return made


def heading(words: str, tip: str = "") -> QLabel:
    """A heading of a group."""
    made = label("heading", words, wraps=False)
    made.setToolTip(tip)
    return made


def buttons(commands: CommandList, *ids: str, kind: str = "", spacing: int | None = None) -> QHBoxLayout:
    """A row of buttons for commands, as wide as each other."""
    return row(*(button(commands, one, kind) for one in ids), spacing=spacing)


def button(commands: CommandList, command_id: str, kind: str = "", shy: bool = False) -> QPushButton:
    """A button for a command. The ``kind`` "first" is what one does next on a page; a ``shy`` one is there
    only while its command can be done."""
    made = QPushButton()
    made.setObjectName(kind)
    made.setProperty("shy", shy)
    commands.bind(made, command_id)
    return made


def menu_on(thing: QWidget, commands: CommandList, *ids: str) -> QMenu:
    """What can be done with a thing, at the right button of the mouse and the menu key."""
    menu = QMenu(thing)
    say_in_menu(menu, [commands[one] for one in ids])
    thing.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
    thing.customContextMenuRequested.connect(lambda at: menu.popup(thing.mapToGlobal(at)))
    return menu


def choice(
    name: str, tip: str = "", chosen: Callable[[], object] | None = None,
    choices: Iterable[tuple[str, object]] = (),
) -> Choice:  # fmt: skip
    """A box to choose from: (words, value) each; ``chosen`` is called when the player has."""
    made = named(Choice(), name, tip)
    made.offer(choices)
    if chosen is not None:
        made.activated.connect(lambda _: chosen())
    return made


def number(name: str, bounds: tuple[int, int], tip: str = "", suffix: str = "") -> QSpinBox:
    """A box for a number within bounds."""
    made = named(QSpinBox(), name, tip)
    made.setRange(*bounds)
    made.setSuffix(suffix)
    return made


def tick(words: str, clicked: Callable[[bool], object], tip: str = "") -> QCheckBox:
    """A box to tick."""
    made = QCheckBox(words)
    made.setToolTip(tip)
    made.clicked.connect(lambda on: clicked(on))  # noqa: PLW0108 - a partial gets no value
    return made


def form(layout: QBoxLayout) -> QFormLayout:
    """Boxes with their words before them, or above where there is little room."""
    made = QFormLayout()
    made.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapLongRows)
    layout.addLayout(made)
    return made


def file_to_write(parent: QWidget, heading: str, title: str, kinds: str) -> Path | None:
    """Ask for the name of a file to be written, which begins with a song's title; one without a suffix gets
    that of the kind that was chosen, of ``kinds`` "words (*.suffix);;...". None: rather not."""
    first = _suffix_in(kinds.partition(";;")[0])
    start = Path.home() / f"{re.sub(r'[/:]+', ' ', title)}{first}"
    name, kind = QtWidgets.QFileDialog.getSaveFileName(parent, heading, str(start), kinds)
    if not name:
        return None
    path = Path(name)
    return path if path.suffix else path.with_suffix(_suffix_in(kind) or first)


def _suffix_in(kind: str) -> str:
    match = re.search(r"\*(\.\w+)\)", kind)
    return match[1] if match else ""


def fill(view: QListWidget, rows: Iterable[str], at: int = -1) -> None:
    """Rows in a list, of which nobody is told; where they are the same they are not touched."""
    lines = list(rows)
    with QSignalBlocker(view):
        if [view.item(row).text() for row in range(view.count())] != lines:
            view.clear()
            view.addItems(lines)
        view.setCurrentRow(min(at, len(lines) - 1))
        if at >= 0 and view.currentItem() is not None:
            view.scrollToItem(view.currentItem())


def tick_rows(view: QListWidget, ticked: Iterable[bool]) -> None:
    """Rows that can be ticked, and which are; nobody is told."""
    with QSignalBlocker(view):
        for row, on in enumerate(ticked):
            item = view.item(row)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)


def narrow(box: Box, letters: int = 8) -> Box:
    """A box that takes the room there is, and not what its longest entry would like."""
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(letters)
    return box


def walk(view: QListWidget, steps: int) -> None:
    """Down or up a list, not beyond its ends."""
    view.setCurrentRow(max(0, min(view.count() - 1, view.currentRow() + steps)))


def listing(name: str, activated: Callable[[int], object] | None = None) -> QListWidget:
    """A list; ``activated`` gets the row that was clicked, or taken by Return."""
    made = named(QListWidget(), name)
    if activated is not None:
        for signal in (made.itemClicked, made.itemActivated):
            signal.connect(lambda _: activated(made.currentRow()))
    return made
