"""What happens when things go wrong: the window is killed, a search or a painter fails, a file is
changed by somebody else."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from textwrap import dedent

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QMessageBox, QPushButton
from pytestqt.qtbot import QtBot

from yellow_hinge.errors import Cancelled, YellowHingeError
from yellow_hinge.song.edits import settle as decide
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.files import recovery
from yellow_hinge.tasks.files.opening import open_song
from yellow_hinge.tasks.files.recovery import find, recovery_folder
from yellow_hinge.tasks.settings import mistakes
from yellow_hinge.ui import document as document_module
from yellow_hinge.ui.file_desk import free_name
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.safety_net import SafetyNet
from yellow_hinge.ui.window import Window
from yellow_hinge.ui.worker import Deliver, Worker

from .conftest import click, settle, show, type_chart, undo

CTRL = Qt.KeyboardModifier.ControlModifier

#: A window of its own process: types a bar into the song that is open, and ends as it is told.
ON_ITS_OWN = dedent("""
    import os, signal, sys, time
    from PySide6.QtCore import Qt, QTimer
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication
    from yellow_hinge.ui import main, theme
    how, words = sys.argv[1:3]
    def act():
        window = next(w for w in QApplication.topLevelWidgets() if hasattr(w, "document"))
        window.go_to("Song")
        editor = window.page.editor
        QTest.keyClick(editor, Qt.Key.Key_End, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClicks(editor, words)
        if how == "kill":
            QTimer.singleShot(2000, lambda: os.kill(os.getpid(), signal.SIGKILL))
        elif how == "fail":
            QTimer.singleShot(300, fail)
        elif how == "close":
            QTimer.singleShot(1500, lambda: (give_up(window), window.close()))
        elif how == "busy":
            give_up(window)
            window.document.worker.start(lambda progress, deliver: time.sleep(60))
            QTimer.singleShot(300, lambda: (print(time.monotonic(), flush=True), window.close()))
    def give_up(window):
        window.document.history.mark_clean(window.document.song, window.document.history.draft)
    def fail():
        QTimer.singleShot(0, lambda: os._exit(9))
        raise RuntimeError("a wrong turn")
    app = theme.make_application()
    QTimer.singleShot(500, act)
    sys.exit(main.open_window(sys.argv[3:]))
""")


def on_its_own(how: str, words: str, *files: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-c", ON_ITS_OWN, how, words, *files]
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen"}
    return subprocess.run(command, env=environment, capture_output=True, text=True, timeout=60, check=False)


def buttons(window: Window, words: str) -> list[QPushButton]:
    """The buttons of the songs that are offered."""
    every = window.found.findChildren(QPushButton)
    return [one for one in every if one.text() == words and one.isVisible()]


def look(window: Window, qtbot: QtBot, count: int) -> None:
    window.found.look()
    qtbot.waitUntil(lambda: len(buttons(window, "Open it")) == count)


@pytest.mark.long
def test_a_killed_window_loses_nothing_two_at_a_time(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "t.yhinge"
    type_chart(window, qtbot, "title: Tarred Rope\n| C | F |")
    window.document.save(path)
    assert on_its_own("kill", " Am |", str(path)).returncode == -9
    assert on_its_own("kill", " Qx").returncode == -9
    window.files.open_demo("copper-kite")
    look(window, qtbot, 2)
    found = {one.unsaved.song.title: one.words for one in window.found._found}
    assert found["Tarred Rope"].endswith(": 1 chord new") and "place to mend" in found["Lantern Ferry"]

    first = [one.unsaved.song.title for one in window.found._found].index("Tarred Rope")
    click(qtbot, buttons(window, "Open it")[first])
    settle(window, qtbot)
    document = window.document
    assert [str(slot.chord) for slot in document.song.slots] == ["C", "F", "Am"]
    assert document.path == path and document.history.modified and window.windowTitle().startswith("*")
    assert window.copies._keeper.copy.exists()  # its own, before the other went
    assert len(find()) == 1 and len(buttons(window, "Open it")) == 1
    document.save(path)
    assert str(open_song(path).song.slots[-1].chord) == "Am"
    qtbot.waitUntil(lambda: not window.copies._keeper.copy.exists())

    click(qtbot, buttons(window, "Open it")[0])
    settle(window, qtbot)
    page = show(window, qtbot, SongPage)
    assert page.editor.toPlainText().endswith(" Qx") and page.chart.problems.count() == 1
    assert find() == [] and not window.found.isVisible()


@pytest.mark.long
def test_deleting_asks_and_later_leaves(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    for words in (" A |", " D |"):
        on_its_own("kill", words)
    look(window, qtbot, 2)
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.No)
    click(qtbot, buttons(window, "Delete it")[0])
    assert len(find()) == 2
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Yes)
    click(qtbot, buttons(window, "Delete it")[0])
    assert len(find()) == 1
    qtbot.waitUntil(lambda: len(buttons(window, "Later")) == 1)
    click(qtbot, buttons(window, "Later")[0])
    assert len(find()) == 1 and not window.found.isVisible()


@pytest.mark.long
def test_a_clean_end_leaves_no_copy() -> None:
    assert on_its_own("close", " Am |").returncode == 0
    assert list(recovery_folder().iterdir()) == []


@pytest.mark.long
def test_closing_does_not_wait_for_a_search_that_does_not_listen() -> None:
    begun = on_its_own("busy", " |")
    closed = time.monotonic()
    assert begun.returncode == 0
    assert closed - float(begun.stdout.split()[-1]) < 5  # and not sixty


@pytest.mark.long
def test_a_mistake_on_the_interface_thread_keeps_a_copy() -> None:
    assert on_its_own("fail", " Am |").returncode == 9
    assert [(one.unsaved.draft or "")[-5:] for one in find()] == [" Am |"]
    assert "a wrong turn" in mistakes.log_path().read_text()


# --- in this window ---


def test_a_copy_is_there_within_two_seconds_and_goes_when_undone(window: Window, qtbot: QtBot) -> None:
    copy = window.copies._keeper.copy
    page = show(window, qtbot, SongPage)
    assert not copy.exists()
    qtbot.keyClicks(page.editor, "x")
    qtbot.waitUntil(copy.exists, timeout=10_000)
    while window.document.history.undo_label is not None:
        undo(window, qtbot)
    qtbot.waitUntil(lambda: not copy.exists(), timeout=3000)


def test_copies_are_written_beside_the_interface_thread(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    threads: list[bool] = []
    monkeypatch.setattr(
        recovery.Keeper,
        "keep",
        lambda *_: threads.append(threading.current_thread() is threading.main_thread()),
    )
    page = show(window, qtbot, SongPage)
    qtbot.keyClicks(page.editor, "# x")
    qtbot.waitUntil(lambda: bool(threads))
    assert threads == [False]


@pytest.mark.long
def test_a_folder_without_room_is_said_once(window: Window, qtbot: QtBot) -> None:
    recovery_folder().parent.mkdir(parents=True, exist_ok=True)
    recovery_folder().write_text("in the way")
    page = show(window, qtbot, SongPage)
    qtbot.keyClicks(page.editor, "# x")
    qtbot.waitUntil(lambda: "no recovery copies" in window.message.text.text())
    window.message.hide()
    qtbot.keyClicks(page.editor, "y")
    qtbot.wait(900)
    assert not window.message.isVisible()


@pytest.fixture
def others(window: Window, qtbot: QtBot, tmp_path: Path) -> Path:
    """A project with a change of ours in the window and one of theirs on disk."""
    path = tmp_path / "t.yhinge"
    type_chart(window, qtbot, "title: T\n| C | F |")
    window.document.save(path)
    theirs = path.read_bytes().replace(b"| C | F |", b"| C | Eb |")
    type_chart(window, qtbot, "title: T\n| C | F | Am |")
    path.write_bytes(theirs)
    return path


@pytest.fixture
def answer(qtbot: QtBot) -> Iterator[list[str]]:
    """Clicks the button of the box that comes up that begins with these words; keeps what it said."""
    said: list[str] = []

    def look_for_it() -> None:
        box = QApplication.activeModalWidget()
        if isinstance(box, QMessageBox) and said:
            begin = said[0]
            said.append(f"{box.text()} {box.informativeText()}")
            button = next(one for one in box.buttons() if one.text().replace("&", "").startswith(begin))
            qtbot.mouseClick(button, Qt.MouseButton.LeftButton)

    timer = QTimer()
    timer.timeout.connect(look_for_it)
    timer.start(30)
    yield said
    timer.stop()


def chords(window: Window) -> list[str]:
    return [str(slot.chord) for slot in window.document.song.slots]


def test_keep_theirs_can_be_undone(window: Window, qtbot: QtBot, others: Path, answer: list[str]) -> None:
    answer.append("Keep theirs")
    assert not window.files.save()
    settle(window, qtbot)
    assert "changed by somebody else" in answer[1] and "Theirs against yours" in answer[1]
    assert chords(window) == ["C", "Eb"] and not window.document.history.modified
    window.activateWindow()  # without a window manager nobody else does, once the box is gone
    qtbot.waitUntil(window.isActiveWindow)
    undo(window, qtbot)
    assert chords(window) == ["C", "F", "Am"] and window.document.history.modified
    assert window.files.save() and chords(window) == ["C", "F", "Am"]  # theirs was seen: no second question


def test_keep_mine(window: Window, qtbot: QtBot, others: Path, answer: list[str]) -> None:
    answer.append("Keep mine")
    assert window.files.save()
    assert len(open_song(others).song.slots) == 3 and not window.document.history.modified


def test_save_beside(window: Window, qtbot: QtBot, others: Path, answer: list[str]) -> None:
    theirs = others.read_bytes()
    answer.append("Save mine beside")
    assert window.files.save()
    assert others.read_bytes() == theirs
    assert window.document.path == others.with_name("t (2).yhinge")
    assert len(open_song(others.with_name("t (2).yhinge")).song.slots) == 3
    assert free_name(others).name == "t (3).yhinge"


def test_think_again(window: Window, qtbot: QtBot, others: Path, answer: list[str]) -> None:
    theirs = others.read_bytes()
    answer.append("Cancel")
    assert not window.files.save()
    assert others.read_bytes() == theirs and window.document.history.modified


def test_their_file_may_be_unreadable_or_gone(
    window: Window, qtbot: QtBot, others: Path, answer: list[str]
) -> None:
    others.write_bytes(b"{")
    answer.append("Keep theirs")
    assert not window.files.save()
    assert "cannot be read" in answer[1] and chords(window) == ["C", "F", "Am"]
    others.unlink()
    assert window.files.save() and len(answer) == 2


# --- mistakes ---


@pytest.mark.long
def test_a_mistake_of_the_search_is_said_and_the_next_search_works(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    def wrong(*_: object) -> object:
        raise ZeroDivisionError("by nothing")

    document = window.document
    made = document_module.make_session
    monkeypatch.setattr(document, "_session", None)
    monkeypatch.setattr(document_module, "make_session", lambda _: wrong)
    document.apply(decide(document.song, colour=3))
    settle(window, qtbot)
    words = window.message.text.text()
    assert "our mistake" in words and str(mistakes.log_path()) in words and not document.worker.running
    assert "ZeroDivisionError" in mistakes.log_path().read_text()
    monkeypatch.setattr(document_module, "make_session", made)
    document.apply(decide(document.song, colour=1))
    settle(window, qtbot)
    assert document.solved.voiced is not None


@pytest.mark.parametrize("kind", [MemoryError, RecursionError, KeyError, SystemExit, GeneratorExit])
def test_nothing_goes_through_the_border(qtbot: QtBot, kind: type[BaseException]) -> None:
    worker = Worker()
    failed: list[YellowHingeError] = []
    busy: list[bool] = []
    worker.failed.connect(failed.append)
    worker.busy.connect(busy.append)

    def job(*_: object) -> None:
        raise kind("x")

    with qtbot.waitSignal(worker.failed):
        worker.start(job)
    assert "our mistake" in failed[0].problems[0].what and busy == [True, False]
    with qtbot.waitSignal(worker.done):
        worker.start(lambda *_: 1)
    worker.close()


def test_a_cancelled_job_says_nothing_and_the_thread_goes_on(qtbot: QtBot) -> None:
    worker = Worker()
    heard: list[object] = []
    worker.done.connect(heard.append)
    worker.failed.connect(heard.append)

    def job(progress: object, _: object) -> None:
        raise Cancelled

    worker.start(job)
    worker.cancel()
    with qtbot.waitSignal(worker.done):
        worker.start(lambda *_: "last")
    assert heard == ["last"]
    worker.close()
    assert worker._thread is not None and not worker._thread.is_alive()


def test_a_thread_may_outlive_its_window(qtbot: QtBot) -> None:
    go, worker = threading.Event(), Worker()

    def job(progress: Progress, deliver: Deliver) -> None:
        go.wait(5)
        progress(0.5)
        deliver(1)

    worker.start(job)
    begun = time.monotonic()
    worker.close()
    assert time.monotonic() - begun < 3  # and not five
    thread = worker._thread
    worker.deleteLater()
    QApplication.sendPostedEvents(worker, 52)  # deletes it now
    go.set()
    assert thread is not None
    thread.join(5)
    assert not thread.is_alive()


@pytest.fixture
def net(window: Window) -> Iterator[SafetyNet]:
    made = SafetyNet(window)
    yield made
    made.take_down()


def test_the_net_says_it_once_and_from_any_thread(window: Window, qtbot: QtBot, net: SafetyNet) -> None:
    def wrong() -> None:
        raise LookupError("nothing there")

    said: list[str] = []
    for _ in range(3):
        try:
            wrong()
        except LookupError as error:
            sys.excepthook(type(error), error, error.__traceback__)
    said.append(window.message.text.text())
    assert "our mistake" in said[0]
    assert mistakes.log_path().read_text().count("LookupError: nothing there") == 1
    thread = threading.Thread(target=lambda: 1 / 0, name="the side line")
    thread.start()
    thread.join()
    qtbot.waitUntil(lambda: "the side line" in window.message.text.text())


def test_f1_says_where_mistakes_are_written(window: Window, qtbot: QtBot) -> None:
    show(window, qtbot, HingesPage)
    qtbot.keyClick(window.page.focus, Qt.Key.Key_F1)
    assert str(mistakes.log_path()) in window.key_list.text.toPlainText()
    window.key_list.close()
