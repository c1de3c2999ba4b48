"""Projects that are bent but can be read are opened in the window, and every page shows them."""

from __future__ import annotations

import os
import random
from pathlib import Path

import pytest
from PySide6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from yellow_hinge.tasks.settings import mistakes
from yellow_hinge.ui.window import Window

from .conftest import forget

pytestmark = pytest.mark.long

COUNT = int(os.environ.get("BENT_PROJECTS", "40"))


def test_bent_projects_break_no_page(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    monkeypatch.syspath_prepend(str(Path(__file__).parents[2] / "tools"))
    import fuzz

    path, opened = tmp_path / "bent.yhinge", 0
    for number, data in enumerate(fuzz.inputs(fuzz.readers()["project"], COUNT, "window")):
        path.write_bytes(data)
        before = window.document.song
        with qtbot.captureExceptions() as caught:
            window.files.open_path(path)
            opened += window.document.song is not before
            for row in random.Random(number).sample(["Song", "Hands", "Hinges", "Swaps"], 2):
                window.go_to(row)
                qtbot.wait(1)
        assert not caught, (number, data[:300])
        assert not mistakes.log_path().exists(), (number, mistakes.log_path().read_text()[-3000:])
        forget(window)
    assert opened > COUNT // 10
