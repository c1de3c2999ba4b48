"""Every entry of every menu, by a click on it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QDialog, QFileDialog, QMenu, QMessageBox
from pytestqt.qtbot import QtBot

from yellow_hinge.errors import Cancelled
from yellow_hinge.tasks.swaps.desk import SwapDesk
from yellow_hinge.ui.page import Page
from yellow_hinge.ui.window import Window

from .conftest import PAGES, forget, settle, show


def every_entry(menu: QMenu) -> Iterator[tuple[QMenu, QAction]]:
    """The entries of a menu and of those within it, each with the menu that it stands in."""
    for action in menu.actions():
        inner = action.menu()
        if isinstance(inner, QMenu):
            yield from every_entry(inner)
        elif not action.isSeparator():
            yield menu, action


def click_on(qtbot: QtBot, menu: QMenu, action: QAction) -> None:
    """Open the menu and click; what is grey does nothing."""
    menu.popup(QPoint(0, 0))
    place = menu.actionGeometry(action).center()
    if action.isEnabled():
        with qtbot.waitSignal(action.triggered, timeout=1000):
            qtbot.mouseClick(menu, Qt.MouseButton.LeftButton, pos=place)
    else:
        with qtbot.assertNotEmitted(action.triggered):
            qtbot.mouseClick(menu, Qt.MouseButton.LeftButton, pos=place)
    menu.close()


@pytest.fixture
def quiet(monkeypatch: pytest.MonkeyPatch) -> None:
    """Dialogs are called off; swaps are weighed elsewhere."""
    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, lambda *_: ("", ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([], ""))
    monkeypatch.setattr(QDialog, "exec", lambda *_: QDialog.DialogCode.Rejected)
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    for name in ("look", "curve"):
        monkeypatch.setattr(SwapDesk, name, lambda *_: (_ for _ in ()).throw(Cancelled))


@pytest.mark.parametrize("kind", PAGES)
@pytest.mark.usefixtures("quiet")
def test_every_entry_of_a_page_s_menu(window: Window, qtbot: QtBot, kind: type[Page]) -> None:
    show(window, qtbot, kind)
    wanted = [action.data().id for _, action in every_entry(window.page_menu)]
    assert len(wanted) == len(set(wanted)) == len(list(window.page.commands))
    for name in wanted:
        if window.page.name != kind.name:
            show(window, qtbot, kind)
        # the menu is filled anew where a page is shown anew
        menu, action = next(pair for pair in every_entry(window.page_menu) if pair[1].data().id == name)
        click_on(qtbot, menu, action)
        window.playback.stop()
    settle(window, qtbot)


@pytest.mark.usefixtures("quiet")
def test_every_entry_of_the_window_s_menus(window: Window, qtbot: QtBot) -> None:
    clicked = set()
    for menu in window.menus.values():
        for inner, action in list(every_entry(menu)):
            if action.data().id != "quit":
                click_on(qtbot, inner, action)
                clicked.add(action.data().id)
                window.playback.stop()
                window.key_list.close()
    assert clicked == {command.id for command in window.commands} - {"quit"}
    settle(window, qtbot)
    forget(window)
    menu, action = next(pair for pair in every_entry(window.menus["File"]) if pair[1].data().id == "quit")
    click_on(qtbot, menu, action)
    assert not window.isVisible()
