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
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.window import Window

from .conftest import PAGES, come_back, forget, look_at, settle, show


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


@pytest.mark.long
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


def test_the_right_button_has_what_is_done_with_the_thing(window: Window, qtbot: QtBot) -> None:
    """First what applies there, then the whole menu of the page; keys are said and not listened to twice."""
    view = show(window, qtbot, HingesPage)
    row = view.row_view
    at = row._leaf_rect(1).center().toPoint()
    qtbot.mouseClick(row, Qt.MouseButton.RightButton, pos=at)
    row.customContextMenuRequested.emit(at)
    menu = window.thing_menu
    assert menu.isVisible() and view.state.selection.index == 1
    words = [action.text().partition("\t")[0] for action in menu.actions() if not action.isSeparator()]
    assert words[:3] == ["Lock", "Hear", "Try"] and words[-1] == "All of Hinges" and len(words) <= 9
    assert not any(action.shortcuts() for _, action in every_entry(menu))
    inside = {action.data().id for _, action in every_entry(menu) if action.data() is not None}
    assert inside == {command.id for command in view.commands}
    lock = menu.actions()[0]
    qtbot.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(lock).center())
    assert window.document.song.locked(1)
    menu.close()
    come_back(window, qtbot)


@pytest.mark.parametrize("kind", PAGES)
def test_handy_acts_are_acts_of_the_page(still: Window, qtbot: QtBot, kind: type[Page]) -> None:
    view = look_at(still, qtbot, kind)
    assert len(view.handy) <= 8 and all(view.commands[act].words for act in view.handy)
    assert bool(view.twice) == bool(view.handy) and view.twice in (*view.handy, "")


def test_bars_of_the_laid_out_chart_have_a_menu(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, SongPage)
    menu = view.form.findChild(QMenu)
    assert isinstance(menu, QMenu)
    words = [action.text().partition("\t")[0] for action in menu.actions()]
    assert words[:3] == ["Put in a bar", "Split the bar", "Divide the chord"] and len(words) == 7
