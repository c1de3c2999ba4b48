"""The monkey plays for a while; nothing may break. MONKEY_STEPS and MONKEY_SEED let it play longer."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler
from pytestqt.qtbot import QtBot

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.edits import settle as decide
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.settings import mistakes
from yellow_hinge.ui.window import Window
from yellow_hinge.voicing.shape import Hands

from .conftest import forget, settle
from .monkey import Monkey

pytestmark = pytest.mark.long

STEPS = int(os.environ.get("MONKEY_STEPS", "200"))
SEED = int(os.environ.get("MONKEY_SEED", "1"))
#: Songs that a monkey begins with: chart text and which hands play; None: the demo song.
STARTS: dict[str, tuple[str, Hands] | None] = {
    "demo": None,
    "left hand alone": (
        "title: Lee Side\nkey: F\n[A]\n| F | Dm7 | Gm7 | C7 |\nmelody: A4:4 | A4:4\n",
        "left",
    ),
    "right hand alone": ("title: Lee Side\nkey: F\n[A]\n| F | Dm7:2 N.C.:2 | Gm7 | C7 |\n", "right"),
    "one chord": ("key: C\n[A]\n| Cm9 |\n", "both"),
    "only rests": ("key: C\n[A] x2\n| N.C. | N.C. |\n", "both"),
}
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


@pytest.mark.parametrize("start", list(STARTS))
def test_nothing_breaks(
    window: Window,
    qtbot: QtBot,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    warnings: list[str],
    start: str,
) -> None:
    (tmp_path / "files" / "folder").mkdir(parents=True)
    monkey = Monkey(window, tmp_path / "files", SEED)
    song = STARTS[start]
    if song is not None:
        begun = decide(Song(parse_chart(song[0])), hands=song[1]).song
        window.document.start_over(begun, None)
        settle(window, qtbot)
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
