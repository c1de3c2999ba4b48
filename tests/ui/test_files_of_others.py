"""Pasting, forms to begin with, files let go over the window, files used last, and sound files."""

from __future__ import annotations

from pathlib import Path

import pytest
import soundfile
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QGuiApplication
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QLabel,
    QMessageBox,
    QWidget,
)
from pytestqt.qtbot import QtBot

from yellow_hinge.tasks.files.sound_file import SoundWishes
from yellow_hinge.tasks.settings.recent import recent_files
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.paste_dialog import PasteDialog
from yellow_hinge.ui.sound_dialog import SoundDialog
from yellow_hinge.ui.window import Window

from .conftest import come_back, settle, show, undo


def let_go(window: Window, point: QPoint, data: QMimeData) -> None:
    """Drag data from another application to a point of the window, and let it go there."""
    copy, left, plain = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    handle = window.windowHandle()
    QApplication.sendEvent(handle, QDragEnterEvent(point, copy, data, left, plain))
    QApplication.sendEvent(handle, QDragMoveEvent(point, copy, data, left, plain))
    QApplication.sendEvent(handle, QDropEvent(QPointF(point), copy, data, left, plain))


OVER = "[Verse]\nC    G7\noh   no\n"


def test_pasted_text_is_shown_as_it_was_taken_and_becomes_a_song(window: Window, qtbot: QtBot) -> None:
    settle(window, qtbot)
    QGuiApplication.clipboard().setText("nothing")
    seen: list[str] = []

    def at_the_dialog() -> None:
        dialog = QApplication.activeModalWidget()
        if dialog is None:
            return
        try:  # a dialog that stays open would hold the test for ever
            type_and_accept(dialog)
        finally:
            if dialog.isVisible():
                dialog.close()

    def type_and_accept(dialog: QWidget) -> None:
        assert isinstance(dialog, PasteDialog)
        seen.append(dialog.words.text())
        assert not dialog.make.isEnabled()
        dialog.text.selectAll()
        for number, line in enumerate(OVER.split("\n")):
            if number:
                qtbot.keyClick(dialog.text, Qt.Key.Key_Return)
            qtbot.keyClicks(dialog.text, line)
        seen.append(dialog.words.text())
        seen.extend(dialog.lines.item(k).text() for k in range(dialog.lines.count()))
        qtbot.mouseClick(dialog.make, Qt.MouseButton.LeftButton)

    QTimer.singleShot(200, at_the_dialog)
    window.commands["paste"].run()
    assert "not understood yet" in seen[0] and "2 chords, 2 bars as played, in G major." in seen[1]
    assert seen[2].startswith("section") and seen[3].startswith("chords") and seen[4].startswith("words")
    settle(window, qtbot)
    assert [str(slot.chord) for slot in window.document.song.slots] == ["C", "G7"]
    assert "no lengths" in window.message.text.text() and window.page.name == "Song"


TWENTY = "title: Twenty\nkey: C\n" + 5 * (
    "Dm7: D3 C4 ; F4 A4 D5\nG7: G2 F3 ; B3 D4 G4\nCmaj7: C3 B3 ; E4 G4\nA7: A2 G3 ; C#4 E4 G4\n"
)


def pasted(window: Window, qtbot: QtBot, text: str, *keys: Qt.Key) -> str:
    """Paste a text by keys; what the dialog said."""
    settle(window, qtbot)
    QGuiApplication.clipboard().setText(text)
    said: list[str] = []

    def at_the_dialog() -> None:
        dialog = QApplication.activeModalWidget()
        if not isinstance(dialog, PasteDialog):
            return
        try:
            said.append(dialog.words.text())
            for key in keys:
                qtbot.keyClick(dialog.focusWidget(), key)
        finally:
            if dialog.isVisible():
                dialog.close()

    QTimer.singleShot(200, at_the_dialog)
    qtbot.keyClick(
        window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    )
    come_back(window, qtbot)
    return said[0]


def test_twenty_lines_of_grips_are_a_locked_song_in_two_actions(window: Window, qtbot: QtBot) -> None:
    said = pasted(window, qtbot, TWENTY, Qt.Key.Key_Return)
    assert "a page of grips: 20 chords, 20 bars as played, in C major, 20 grips to lock" in said
    song = window.document.song
    assert song.title == "Twenty" and window.page.name == "Hinges"
    assert all(song.locked(slot.index) for slot in song.slots) and len(song.slots) == 20
    assert song.voicing(1).keys == (43, 53, 59, 62, 67)  # type: ignore[union-attr]


def test_grips_are_laid_over_the_chords_that_are_there(window: Window, qtbot: QtBot) -> None:
    settle(window, qtbot)
    before = window.document.song
    text = "F#m7: F#2 E3 ; A3 C#4\nC#m7: C#3 B3 ; E4 G#4\nEb: Eb3 ; G4"
    pasted(window, qtbot, text, Qt.Key.Key_Tab, Qt.Key.Key_Return)
    song = window.document.song
    assert song.title == before.title and song.locked(4) and song.locked(7) and not song.locked(0)
    assert song.voicing(4).keys == (42, 52, 57, 61)  # type: ignore[union-attr]
    assert "the grip of E♭" in window.message.text.text()
    undo(window, qtbot)
    song = window.document.song
    assert not any(song.locked(slot.index) for slot in song.slots) and song.voicing(4) == before.voicing(4)


SONGS = "{t: Reed}\n[Hq]oh\n{ns}\n{t: Slate}\n{key: Bb}\n[B]one [Fis]two\n"


def answered(window: Window, qtbot: QtBot, path: Path, *answers: str) -> list[str]:
    """Open a file, and answer what is asked by keys: rows of a list, buttons, Escape for none; what was
    asked."""
    settle(window, qtbot)
    asked: list[str] = []
    left = list(answers)

    def at_a_dialog() -> None:
        dialog = QApplication.activeModalWidget()
        if dialog is None or not left:
            return
        try:
            QTimer.singleShot(100, at_a_dialog)
            asked.append(" ".join(label.text() for label in dialog.findChildren(QLabel)))
            press(dialog, left.pop(0))
        finally:
            if dialog.isVisible():
                dialog.close()

    def press(dialog: QWidget, answer: str) -> None:
        button = next((one for one in dialog.findChildren(QAbstractButton) if one.text() == answer), None)
        if not answer:
            qtbot.keyClick(dialog, Qt.Key.Key_Escape)
        elif button is not None:
            qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
        else:
            [rows] = dialog.findChildren(QComboBox)
            qtbot.keyClicks(rows, answer)
            qtbot.keyClick(dialog, Qt.Key.Key_Return)

    QTimer.singleShot(100, at_a_dialog)
    window.files.open_path(path)
    settle(window, qtbot)
    return asked


@pytest.mark.parametrize(
    ("answers", "title", "chords"),
    [
        (("2", "B is B flat"), "Slate", ["Bb", "F#"]), (("2", "B is B"), "Slate", ["B", "Fis"]),
        (("2", ""), "", []), (("",), "", []), (("1",), "", []),
    ],
)  # fmt: skip
def test_what_a_file_leaves_open_is_asked(
    window: Window, qtbot: QtBot, tmp_path: Path, answers: tuple[str, ...], title: str, chords: list[str]
) -> None:
    path = tmp_path / "songs.cho"
    path.write_text(SONGS)
    before = window.document.song.title
    asked = answered(window, qtbot, path, *answers)
    assert "songs.cho holds 2 songs" in asked[0] and len(asked) == len(answers)
    song = window.document.song
    assert song.title == (title or before)
    if chords:
        found = [str(slot.chord) for slot in song.slots]
        assert found == chords if "Fis" not in chords else found[0] == "B" and found != ["B", "F#"]
    assert (path in recent_files()) == bool(title)


def test_what_pasted_text_leaves_open_stands_below_it(window: Window, qtbot: QtBot) -> None:
    text = "{t: Reed}\n[C]oh\n{ns}\n{t: Slate}\n[B]one [H7]two\n"
    back, tab, down, space, enter = (
        Qt.Key.Key_Backtab, Qt.Key.Key_Tab, Qt.Key.Key_Down, Qt.Key.Key_Space, Qt.Key.Key_Return,
    )  # fmt: skip
    for keys, title, chords in (
        ((enter,), "Reed", ["C"]),
        ((back, back, down, enter), "Slate", ["Bb", "B7"]),
        ((back, back, down, tab, space, enter), "Slate", ["B", "None"]),
    ):
        pasted(window, qtbot, text, *keys)
        song = window.document.song
        assert (song.title, [str(slot.chord) for slot in song.slots]) == (title, chords)


def test_the_chart_text_goes_to_the_clipboard(window: Window, qtbot: QtBot) -> None:
    settle(window, qtbot)
    window.commands["copy-chart"].run()
    assert QGuiApplication.clipboard().text() == window.document.text != ""


@pytest.mark.long
def test_a_new_song_from_a_form(window: Window, qtbot: QtBot) -> None:
    settle(window, qtbot)
    window.commands["template-1"].run()
    settle(window, qtbot)
    assert len(window.document.song.chart.played) == 24 and window.page.name == "Song"


def test_a_file_let_go_over_the_window_is_opened_and_remembered(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    settle(window, qtbot)
    path = tmp_path / "quay.cho"
    path.write_text("{title: Quay}\n[C]oh [G7]no\n")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    chart = show(window, qtbot, SongPage).editor
    let_go(window, chart.mapTo(window, chart.rect().center()), data)  # over the text, which takes no files
    settle(window, qtbot)
    assert window.document.song.title == "Quay" and recent_files() == [path]
    assert window.commands["recent-0"].said == "quay.cho" or window.files.recent == [path]
    window.commands["template-0"].run()
    settle(window, qtbot)
    window.commands["recent-0"].run()
    settle(window, qtbot)
    assert window.document.song.title == "Quay"


@pytest.mark.long
def test_a_sound_file_is_written_with_progress(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    settle(window, qtbot)
    target = tmp_path / "song.flac"
    window.files.write_sound(target, SoundWishes(rounds=2, count_in=True))
    qtbot.waitUntil(lambda: target.exists() and not window.files.sound_worker.running, timeout=60_000)
    assert "Saved as" in window.message.text.text()
    assert soundfile.info(str(target)).duration > 30
    window.files.write_sound(tmp_path / "song.mp9", SoundWishes())
    qtbot.waitUntil(lambda: "no sound file" in window.message.text.text(), timeout=10_000)
    window.files.write_sound(tmp_path / "long.wav", SoundWishes(rounds=20))
    window.commands["stop-sound"].run()
    qtbot.wait(100)
    assert not (tmp_path / "long.wav").exists() and not window.files.sound_worker.running


def test_what_a_sound_file_has_is_chosen(qtbot: QtBot) -> None:
    dialog = SoundDialog(90, tune=False)
    qtbot.addWidget(dialog)
    assert dialog.wishes == SoundWishes(1, 90, 90, count_in=True, tune=False)
    dialog.rounds.setValue(5)
    dialog.last.setValue(120)
    dialog.boxes["left"].click()
    wishes = dialog.wishes
    assert (wishes.rounds, wishes.last_tempo, wishes.left) == (5, 120, False)
    assert dialog.result() == QDialog.DialogCode.Rejected


@pytest.fixture(autouse=True)
def never_asked(monkeypatch: pytest.MonkeyPatch) -> None:
    """What is not saved is let go: these tests are not about that."""
    discard = QMessageBox.StandardButton.Discard
    monkeypatch.setattr(QMessageBox, "question", lambda *_, **__: discard)
