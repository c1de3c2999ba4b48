"""The monkey plays for a while; nothing may break. MONKEY_STEPS and MONKEY_SEED let it play longer."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler
from pytestqt.qtbot import QtBot

from yellow_hinge.song.edits import settle as decide
from yellow_hinge.tasks import mistakes
from yellow_hinge.ui.window import Window

from .conftest import forget, settle
from .monkey import Monkey

pytestmark = pytest.mark.long

STEPS = int(os.environ.get("MONKEY_STEPS", "200"))
SEEDS = [int(os.environ["MONKEY_SEED"])] if "MONKEY_SEED" in os.environ else [1, 2]
#: What the offscreen platform says of itself.
_NOT_OURS = "This plugin does not support"


@pytest.fixture
def warnings() -> Iterator[list[str]]:
    """What Qt has to complain of."""
    said: list[str] = []

    def note(kind: QtMsgType, _context: QMessageLogContext, words: str) -> None:
        if kind not in (QtMsgType.QtDebugMsg, QtMsgType.QtInfoMsg) and _NOT_OURS not in words:
            said.append(words)

    before = qInstallMessageHandler(note)
    yield said
    qInstallMessageHandler(before)


@pytest.mark.parametrize("seed", SEEDS)
def test_nothing_breaks(
    window: Window,
    qtbot: QtBot,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    warnings: list[str],
    seed: int,
) -> None:
    (tmp_path / "files" / "folder").mkdir(parents=True)
    monkey = Monkey(window, tmp_path / "files", seed)
    monkey.answer(monkeypatch.setattr)
    for step in range(STEPS):
        with qtbot.captureExceptions() as caught:
            monkey.act()
        assert not caught and not warnings, (step, monkey.done[-5:], caught, warnings)
        assert not mistakes.log_path().exists(), (monkey.done[-5:], mistakes.log_path().read_text()[-3000:])
    window.document.apply(decide(window.document.song, colour=2))  # a search runs while it closes
    forget(window)
    assert window.close()
    assert not warnings and not mistakes.log_path().exists()


def test_after_the_monkey_the_song_still_solves(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkey = Monkey(window, tmp_path, 3)
    monkey.answer(monkeypatch.setattr)
    for _ in range(60):
        monkey.act()
    forget(window)
    window.document.start_over(window.document.song, None)
    settle(window, qtbot)
    assert not window.document.worker.running
