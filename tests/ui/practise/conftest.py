"""The Practise page with a song of its own, and a player at the simulated keyboard."""

from __future__ import annotations

import pytest
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.pages.practise.view import PractisePage
from yellow_hinge.ui.window import Window

from ..conftest import show, type_chart
from ..test_devices import Player
from .helpers import (
    CHART,
    CTRL,
    K,
)


@pytest.fixture
def view(window: Window, qtbot: QtBot) -> PractisePage:
    type_chart(window, qtbot, CHART)
    page = show(window, qtbot, PractisePage)
    qtbot.waitUntil(lambda: page.state.ready, timeout=60_000)
    return page


@pytest.fixture
def player(window: Window, view: PractisePage, qtbot: QtBot) -> Player:
    """Another process at the simulated keyboard, chosen in its panel."""
    qtbot.keyClick(window, K.Key_K, CTRL)
    box = window.panel.box
    box.setFocus()
    qtbot.keyClick(box, K.Key_Down)
    box.activated.emit(1)  # what a platform without popups does not send for a key
    qtbot.keyClick(window, K.Key_K, CTRL)
    view.focus.setFocus()
    assert view.keyboard_name == window.devices.simulated.name
    return Player(window.devices)
