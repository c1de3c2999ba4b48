"""What is typed is never lost: not by a finished search, by saving, by closing, or by another page."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox
from pytestqt.qtbot import QtBot

from yellow_hinge.formats import project_file
from yellow_hinge.tasks.files.opening import open_song
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.window import Window

from .conftest import redo, settle, show, type_chart, undo

CTRL = Qt.KeyboardModifier.ControlModifier


def at_the_end(window: Window, qtbot: QtBot) -> SongPage:
    """The Song page, with the caret behind the last bar."""
    page = show(window, qtbot, SongPage)
    qtbot.keyClick(page.editor, Qt.Key.Key_End, CTRL)
    return page


def test_a_search_that_ends_while_one_types_leaves_text_and_caret(window: Window, qtbot: QtBot) -> None:
    type_chart(window, qtbot, "title: T\n| C | F |")
    page = at_the_end(window, qtbot)
    window.document.solve()
    for letter in " Am7 |":
        qtbot.keyClick(page.editor, letter)
        qtbot.wait(25)  # answers of the search come in between
    assert page.editor.toPlainText() == "title: T\n| C | F | Am7 |"
    assert page.editor.textCursor().position() == len(page.editor.toPlainText())
    qtbot.wait(450)
    settle(window, qtbot)
    assert page.editor.toPlainText() == "title: T\n| C | F | Am7 |"
    assert [str(slot.chord) for slot in window.document.song.slots] == ["C", "F", "Am7"]


def test_saving_right_after_typing_saves_what_is_typed(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    type_chart(window, qtbot, "title: T\n| C | F |")
    window.document.path = tmp_path / "t.yhinge"
    page = at_the_end(window, qtbot)
    qtbot.keyClicks(page.editor, " G7 |")
    qtbot.keyClick(page.editor, Qt.Key.Key_S, CTRL)
    opened = open_song(tmp_path / "t.yhinge")
    assert [str(slot.chord) for slot in opened.song.slots] == ["C", "F", "G7"] and opened.draft is None
    assert page.editor.toPlainText().endswith("| G7 |") and not window.document.history.modified


def test_text_that_cannot_be_read_is_saved_and_found_again(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "t.yhinge"
    type_chart(window, qtbot, "title: T\n| C | F |")
    window.document.path = path
    page = at_the_end(window, qtbot)
    qtbot.keyClicks(page.editor, " Qx |")
    assert window.windowTitle().startswith("*")
    qtbot.keyClick(page.editor, Qt.Key.Key_S, CTRL)
    assert not window.windowTitle().startswith("*")
    assert project_file.read(path.read_bytes()).draft == "title: T\n| C | F | Qx |"

    window.files.open_demo("copper-kite")
    window.files.open_path(path)
    settle(window, qtbot)
    assert page.editor.toPlainText() == "title: T\n| C | F | Qx |"
    assert page.chart.problems.count() == 1 and "F8" in window.message.text.text()
    assert [str(slot.chord) for slot in window.document.song.slots] == ["C", "F"]
    assert not window.document.history.modified

    qtbot.keyClick(page.editor, Qt.Key.Key_F8)
    qtbot.keyClick(page.editor, Qt.Key.Key_Delete)  # the letter that names no note is chosen
    qtbot.keyClick(page.editor, Qt.Key.Key_Delete)
    qtbot.keyClicks(page.editor, "Am")
    qtbot.keyClick(page.editor, Qt.Key.Key_S, CTRL)
    opened = open_song(path)
    assert opened.draft is None and str(opened.song.slots[-1].chord) == "Am"


def test_closing_and_opening_ask_for_a_draft(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = at_the_end(window, qtbot)
    qtbot.keyClicks(page.editor, " Qx")
    asked: list[str] = []

    def cancel(*arguments: object) -> QMessageBox.StandardButton:
        asked.append(str(arguments[2]))
        return QMessageBox.StandardButton.Cancel

    monkeypatch.setattr(QMessageBox, "question", cancel)
    assert not window.close()
    qtbot.keyClick(page.editor, Qt.Key.Key_N, CTRL)
    qtbot.keyClick(page.editor, Qt.Key.Key_O, CTRL)
    window.files.open_demo("copper-kite")
    assert len(asked) == 4 and page.editor.toPlainText().endswith(" Qx")


@pytest.mark.long
def test_undo_in_the_text_takes_back_what_was_typed_and_keeps_the_caret(window: Window, qtbot: QtBot) -> None:
    page = type_chart(window, qtbot, "title: T\n| C | F |\n| G | C |")
    before = page.editor.toPlainText()
    qtbot.keyClick(page.editor, Qt.Key.Key_Home, CTRL)
    qtbot.keyClick(page.editor, Qt.Key.Key_End)
    qtbot.keyClicks(page.editor, "ree")
    undo(window, qtbot)
    assert page.editor.toPlainText() == before and page.editor.textCursor().position() == len("title: T")
    redo(window, qtbot)
    assert page.editor.toPlainText() == before.replace("title: T", "title: Tree")
    undo(window, qtbot)
    undo(window, qtbot)
    assert "Lantern Ferry" in page.editor.toPlainText()


def test_a_draft_outlives_other_pages_edits_there_and_their_undo(window: Window, qtbot: QtBot) -> None:
    page = at_the_end(window, qtbot)
    text = page.editor.toPlainText() + " Qx"
    qtbot.keyClicks(page.editor, " Qx")
    hinges = show(window, qtbot, HingesPage)
    qtbot.keyClick(hinges.focus, Qt.Key.Key_L)  # lock a grip
    settle(window, qtbot)
    assert window.document.history.undo_label != "Change chart"
    assert show(window, qtbot, SongPage).editor.toPlainText() == text
    show(window, qtbot, HingesPage)
    undo(window, qtbot)
    assert show(window, qtbot, SongPage).editor.toPlainText() == text
    assert page.chart.problems.count() == 1


def test_typing_to_another_page_and_back_reads_at_once(window: Window, qtbot: QtBot) -> None:
    type_chart(window, qtbot, "title: T\n| C | F |")
    page = at_the_end(window, qtbot)
    qtbot.keyClicks(page.editor, " Am |")
    show(window, qtbot, HingesPage)
    assert [str(slot.chord) for slot in window.document.song.slots] == ["C", "F", "Am"]


def test_text_is_cleaned_of_what_no_file_can_hold(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    page = type_chart(window, qtbot, "title: T\n| C |\n")
    page.editor.insertPlainText("# \ud800\u2028| F |")
    window.document.save(tmp_path / "t.yhinge")
    text = open_song(tmp_path / "t.yhinge").song.chart.text
    assert text == "title: T\n| C |\n# \ufffd\n| F |" or text.startswith("title: T\n| C |\n# ")
    text.encode("utf-8")


def test_a_project_is_saved_as_a_project_whatever_its_name(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    name = str(tmp_path / "song.v2.txt")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (name, ""))
    assert window.files.ask_save()
    assert [one.name for one in tmp_path.glob("song*")] == ["song.v2.txt.yhinge"]
    assert window.document.path == tmp_path / "song.v2.txt.yhinge"


def test_a_quick_typist_gets_one_step_a_line(window: Window, qtbot: QtBot) -> None:
    page = type_chart(window, qtbot, "title: T\n| C |")
    at_the_end(window, qtbot)
    qtbot.keyClick(page.editor, Qt.Key.Key_Return)
    qtbot.keyClicks(page.editor, "| F |")
    qtbot.keyClick(page.editor, Qt.Key.Key_Return)
    qtbot.keyClicks(page.editor, "| G |")
    undo(window, qtbot)
    assert page.editor.toPlainText().startswith("title: T\n| C |\n| F |")
    assert "G" not in page.editor.toPlainText()
    undo(window, qtbot)
    assert page.editor.toPlainText() == "title: T\n| C |"


@pytest.mark.long
@pytest.mark.parametrize("rounds", range(3))
def test_nothing_typed_during_searches_goes(window: Window, qtbot: QtBot, rounds: int) -> None:
    """Six words, each in the middle of the search that the word before began."""
    page = type_chart(window, qtbot, "title: T\n| C |")
    typed = "title: T\n| C |"
    for word in (" Am |", " Dm7 |", " G7 |", " Em |", " A7 |", " Dm |"):
        qtbot.keyClicks(page.editor, word)
        typed += word
        qtbot.wait(360 + 40 * rounds)
        assert page.editor.toPlainText() == typed
    settle(window, qtbot)
    assert page.editor.toPlainText() == typed and len(window.document.song.slots) == 7
