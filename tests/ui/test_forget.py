"""Everything that the program stored is forgotten from the Help menu, once that was agreed to."""

from __future__ import annotations

import pytest
from PySide6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from yellow_hinge.tasks.settings.own_keys import OwnKeys
from yellow_hinge.tasks.settings.stored import stored
from yellow_hinge.ui.window import Window

from .conftest import click_in_menu, come_back


def test_it_asks_says_where_and_deletes(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    OwnKeys().keep()
    asked: list[str] = []
    answers = iter((QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Yes))

    def question(*words: object) -> QMessageBox.StandardButton:
        asked.append(str(words[2]))
        return next(answers)

    monkeypatch.setattr(QMessageBox, "question", question)
    for there in (True, False):
        click_in_menu(qtbot, window.menus["Help"], "Forget everything...")
        come_back(window, qtbot)
        assert OwnKeys.path().exists() == there
    assert all(str(folder) in asked[0] and what in asked[0] for folder, what in stored().items())
    assert "All of it is deleted" in window.message.text.text()
