"""A real window on the first demo song."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.sound import output as output_module
from yellow_hinge.tasks.files import demo_song
from yellow_hinge.ui.main import make_window
from yellow_hinge.ui.window import Window


def settle(window: Window, qtbot: QtBot) -> None:
    """Wait for the search, then for the paint."""
    qtbot.waitUntil(lambda: not window.document.worker.running, timeout=20_000)
    qtbot.wait(20)


def press(window: Window, qtbot: QtBot, key: Qt.Key, times: int = 1) -> None:
    for _ in range(times):
        qtbot.keyClick(window.hinges_view.row_view, key)


@pytest.fixture
def window(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Iterator[Window]:
    monkeypatch.setenv("HOME", str(tmp_path))
    monkeypatch.setattr(output_module, "has_sound_device", lambda: False)
    made = make_window(demo_song("lantern-ferry"))
    qtbot.addWidget(made, before_close_func=forget)
    made.show()
    qtbot.waitExposed(made)
    made.document.solve()
    settle(made, qtbot)
    yield made
    made.playback.stop()


def forget(window: Window) -> None:
    """Nothing to save when the test is over."""
    window.document.history.mark_clean(window.document.song)
