"""What tests of the Practise page share: a chart, and hands that drill."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget
from pytestqt.qtbot import QtBot

from yellow_hinge.practice.log import Log, Try
from yellow_hinge.practice.runner import Runner
from yellow_hinge.practice.strokes import Stroke
from yellow_hinge.tasks.practice.desk import log_path
from yellow_hinge.ui.pages.practise.map_state import sureness
from yellow_hinge.ui.pages.practise.view import PractisePage

from ..conftest import click

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
CHART = (
    "title: Tin Whistle\nkey: F\ntempo: 240\n[Up]\n| Fmaj7 D7 Gm7 C7 | Am7 Dm7 Gm7 C7 |\n"
    "[Down]\n| Bbmaj7 Am7 Gm7 Fmaj7 |\n"
)


def tries() -> list[Try]:
    log = Log(log_path())
    try:
        return log.tries() if log_path().exists() else []
    finally:
        log.close()


def written(view: PractisePage) -> list[Try]:
    """The log, once everything is in it."""
    view.keeper.settle()
    return tries()


def down(stroke: Stroke, instead: dict[int, int] | None = None) -> str:
    return "down " + " ".join(str((instead or {}).get(key, key)) for key in stroke.keys)


def said(view: PractisePage) -> str:
    return view.middle.sentence.text()


def place(view: PractisePage) -> int:
    runner = view.state.runner
    return -1 if runner is None or runner.listener is None else runner.listener.place


def drill(view: PractisePage, qtbot: QtBot, number: int) -> None:
    """Take a drill of one's own by keyboard."""
    press_page(view, qtbot, K.Key_D)
    view.side.drills.list.setCurrentRow(-1)
    press_page(view, qtbot, K.Key_Down, number + 1)
    press_page(view, qtbot, K.Key_Right)


def press_page(view: PractisePage, qtbot: QtBot, key: Qt.Key, times: int = 1) -> None:
    for _ in range(times):
        qtbot.keyClick(view.focus, key)


def next_round(view: PractisePage, qtbot: QtBot, runner: Runner | None) -> None:
    """Wait until another round than this has begun."""
    qtbot.waitUntil(lambda: view.state.runner is not runner, timeout=60_000)


def held(view: PractisePage, qtbot: QtBot, keys: tuple[int, ...]) -> None:
    """Wait until these keys are down."""
    qtbot.waitUntil(lambda: view.room.held == tuple(sorted(keys)), timeout=60_000)


def bars_of(view: PractisePage) -> list[tuple[float, int, str]]:
    """What the map shows."""
    assert view.state.desk is not None
    return sureness(view.state.desk.shelf)


def seen(picture: QWidget) -> str:
    """What a picture shows, in words."""
    return picture.accessibleDescription()


def click_entry(qtbot: QtBot, entries: QListWidget, item: QListWidgetItem) -> None:
    entries.scrollToItem(item)
    click(qtbot, entries.viewport(), entries.visualItemRect(item).center())
