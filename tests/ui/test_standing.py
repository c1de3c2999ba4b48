"""What every page has to stand, each of its faces too: no mouse, text at twice its size, a small window."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QScrollArea,
    QSlider,
    QWidget,
)
from pytestqt.qtbot import QtBot

from yellow_hinge.ui import theme
from yellow_hinge.ui.hands_page.view import HandsPage
from yellow_hinge.ui.hinges_page.view import HingesPage
from yellow_hinge.ui.keys_page.view import KeysPage
from yellow_hinge.ui.page import Page
from yellow_hinge.ui.rhythm_page.view import RhythmPage
from yellow_hinge.ui.sheet_page.view import SheetPage
from yellow_hinge.ui.song_page.view import SongPage
from yellow_hinge.ui.swaps_page.view import SwapsPage
from yellow_hinge.ui.takes_page.view import TakesPage
from yellow_hinge.ui.window import Window
from yellow_hinge.ui.worker import Worker

from .conftest import press, settle, show

K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier
CONTROLS = (
    QAbstractButton,
    QComboBox,
    QAbstractSpinBox,
    QLineEdit,
    QPlainTextEdit,
    QSlider,
    QAbstractItemView,
)
#: Every page with every face: (page, key that opens the face).
SCREENS: list[tuple[type[Page], Qt.Key | None]] = [
    (SongPage, None), (HandsPage, None),
    *((HingesPage, key) for key in (K.Key_E, K.Key_Y, K.Key_I, K.Key_W, K.Key_S)),
    *((SwapsPage, key) for key in (K.Key_E, K.Key_B, K.Key_F, K.Key_G, K.Key_I, K.Key_O)),
    (TakesPage, None), (KeysPage, None),
    *((RhythmPage, key) for key in (K.Key_E, K.Key_F, K.Key_L)),
    *((SheetPage, key) for key in (K.Key_C, K.Key_S, K.Key_L, K.Key_K, K.Key_P)),
]  # fmt: skip
every_screen = pytest.mark.parametrize(
    ("kind", "key"), SCREENS, ids=[f"{kind.name}-{key.name[4:] if key else ''}" for kind, key in SCREENS]
)


@pytest.fixture(autouse=True)
def usual_text(qtbot: QtBot) -> Iterator[None]:
    yield
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    theme.set_text_scale(app, 1.0)


def opened(window: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None) -> Page:
    settle(window, qtbot)
    page = show(window, qtbot, kind)
    if key is not None:
        press(window, qtbot, key)
    rest(page, qtbot)
    return page


def rest(page: Page, qtbot: QtBot) -> None:
    """Wait until all that is shown has been worked out, and is laid out."""
    qtbot.waitUntil(lambda: not any(one.running for one in page.findChildren(Worker)), timeout=20_000)
    qtbot.wait(60)


def controls(page: QWidget) -> list[QWidget]:
    """What can be worked with, inner parts of boxes and lists apart."""
    found = [one for kind in CONTROLS for one in page.findChildren(kind) if one.isVisibleTo(page)]
    return [one for one in found if not one.objectName().startswith("qt_")
            and not isinstance(one.parentWidget(), QComboBox | QAbstractSpinBox)]  # fmt: skip


def by_tab(widget: QWidget) -> bool:
    return bool(widget.focusPolicy() & Qt.FocusPolicy.TabFocus)


def name_of(widget: QWidget) -> str:
    return widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton) else "")


@every_screen
def test_every_control_has_a_name_and_the_keyboard(
    window: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None
) -> None:
    page = opened(window, qtbot, kind, key)
    commands = {one.button_words() for one in page.commands} | {one.said for one in page.commands}
    found = controls(page)
    assert found
    for one in found:
        assert name_of(one), f"{type(one).__name__} {one.objectName()} {one.toolTip()} has no name"
        assert by_tab(one) or name_of(one) in commands, f"{name_of(one)} cannot be reached by the keyboard"


@every_screen
def test_the_keyboard_goes_round_all_of_them(
    window: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None
) -> None:
    page = opened(window, qtbot, kind, key)
    wanted = {
        one for one in controls(page) if one.isEnabled() and one.focusPolicy() & Qt.FocusPolicy.TabFocus
    }
    seen: set[QWidget] = set()
    page.focus.setFocus()
    for _ in range(3 * len(wanted) + 60):
        now = QApplication.focusWidget()
        if now is not None:
            seen.add(now)
            seen.update(one for one in wanted if now.focusProxy() is one or one.focusProxy() is now)
        if not window.focusNextChild():
            break
    groups = {one for one in wanted if isinstance(one, QAbstractButton) and one.group() is not None}
    assert not {name_of(one) for one in wanted - groups - seen}


def cut_off(page: Page) -> list[str]:
    """Words that have less room than they need, or lie beyond what can be scrolled to."""
    bad = []
    every: list[QLabel | QAbstractButton] = [*page.findChildren(QLabel), *page.findChildren(QAbstractButton)]
    for one in every:
        if not one.isVisibleTo(page) or not one.text() or one.objectName().startswith("qt_"):
            continue
        need = one.minimumSizeHint()
        if isinstance(one, QLabel) and one.wordWrap():
            need.setWidth(0)
            need.setHeight(min(one.heightForWidth(one.width()), one.height() + 2))
        if one.width() + 1 < need.width() or one.height() + 1 < need.height():
            bad.append(f"{one.text()[:40]}: {one.size().toTuple()} of {need.toTuple()}")
        if not _can_be_seen(one, page):
            bad.append(f"{one.text()[:40]} lies outside")
    return bad


def _can_be_seen(widget: QWidget, page: Page) -> bool:
    """Within the page, or in an area of it that scrolls."""
    parent = widget.parentWidget()
    while parent is not None and parent is not page:
        if isinstance(parent.parentWidget(), QScrollArea) or isinstance(parent, QAbstractItemView):
            return True
        parent = parent.parentWidget()
    box = QRect(widget.mapTo(page, QPoint(0, 0)), widget.size())
    return page.rect().adjusted(-1, -1, 1, 1).contains(box)


def frames(window: Window) -> tuple[QWidget, QScrollArea]:
    frame = window.stack.currentWidget()
    assert isinstance(frame, QScrollArea)
    return window.page, frame


@every_screen
def test_a_small_window_cuts_nothing_off(
    window: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None
) -> None:
    opened(window, qtbot, kind, key)
    window.resize(1024, 600)
    rest(window.page, qtbot)
    assert (window.width(), window.height()) == (1024, 600)
    page, frame = frames(window)
    assert cut_off(window.page) == []
    _all_of_it_is_reached(page, frame)


def _all_of_it_is_reached(page: QWidget, frame: QScrollArea) -> None:
    """What is larger than its frame can be scrolled to."""
    bars = (frame.horizontalScrollBar(), frame.verticalScrollBar())
    beyond = (page.width() - frame.viewport().width(), page.height() - frame.viewport().height())
    for bar, more in zip(bars, beyond, strict=True):
        assert bar.maximum() >= max(0, more)


@every_screen
def test_text_of_twice_its_size_is_whole(
    window: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None
) -> None:
    opened(window, qtbot, kind, key)
    labels = [one for one in window.page.findChildren(QLabel) if one.isVisibleTo(window.page)]
    before = [one.fontMetrics().height() for one in labels]
    for _ in range(4):
        qtbot.keyClick(window.page.focus, K.Key_Plus, CTRL)
    assert theme.text_scale() == 2.0
    rest(window.page, qtbot)
    assert all(one.fontMetrics().height() > 1.8 * was for one, was in zip(labels, before, strict=True))
    page, frame = frames(window)
    assert cut_off(window.page) == []
    _all_of_it_is_reached(page, frame)
    qtbot.keyClick(window.page.focus, K.Key_Minus, CTRL)
    assert theme.text_scale() == 1.75
