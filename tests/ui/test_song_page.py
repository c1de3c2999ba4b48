"""The Song page as a player uses it: typing, mending, hands and school, another key."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.song.form_state import before_the_form
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.window import Window

from .conftest import click, page, pick, redo, settle, show, type_chart, undo


def test_an_own_chart_is_typed_and_solved(window: Window, qtbot: QtBot) -> None:
    view = type_chart(window, qtbot, "title: Tar Barrel\nkey: F\n| Fmaj7 | Dm7 | Gm7 | C9sus |")
    song = window.document.song
    assert song.title == "Tar Barrel" and song.solved
    assert "Read: 4 bars, 4 chords in F major" in view.chart.verdict.text()
    assert window.windowTitle().startswith("* Tar Barrel")
    hinges = page(window, HingesPage)  # made, and hidden: it catches up when it is shown
    assert hinges.title.text() == "Lantern Ferry"
    assert show(window, qtbot, HingesPage) is hinges and hinges.title.text() == "Tar Barrel"


def test_single_letters_are_typed_and_do_nothing_else(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, SongPage)
    view.editor.selectAll()
    qtbot.keyClicks(view.editor, "| C | Bm7 l h b o k |")
    assert view.editor.toPlainText() == "| C | Bm7 l h b o k |"
    assert not window.playback.playing and window.document.song.title == "Lantern Ferry"


def test_errors_stand_at_their_place_and_nothing_is_lost(window: Window, qtbot: QtBot) -> None:
    before = window.document.song
    view = type_chart(window, qtbot, "| C | Hm |\n| Cfoo |")
    assert window.document.song is before
    assert view.chart.problems.count() == 2 and "line 1, column 7" in view.chart.problems.item(0).text()
    marks = view.editor.extraSelections()
    assert [mark.cursor.selectedText() for mark in marks] == ["Hm", "foo"]
    box = view.chart.problems.visualItemRect(view.chart.problems.item(1)).center()
    click(qtbot, view.chart.problems.viewport(), box)
    assert view.editor.textCursor().blockNumber() == 1
    type_chart(window, qtbot, "| C | Hm |\n| C |")  # mended in part: the text stays
    assert view.editor.toPlainText() == "| C | Hm |\n| C |"
    type_chart(window, qtbot, "| C | Bm |")
    assert not view.editor.extraSelections() and len(window.document.song.slots) == 2


def test_f8_goes_from_one_wrong_place_to_the_next(window: Window, qtbot: QtBot) -> None:
    view = type_chart(window, qtbot, "| C | Hm |\n| Cfoo |")
    view.editor.moveCursor(view.editor.textCursor().MoveOperation.Start)
    seen = []
    for _ in range(3):
        qtbot.keyClick(window, Qt.Key.Key_F8)
        cursor = view.editor.textCursor()
        seen.append((cursor.blockNumber(), cursor.positionInBlock()))
    assert seen == [(0, 6), (1, 3), (0, 6)]


@pytest.mark.long
def test_text_that_is_being_mended_outlives_the_search(window: Window, qtbot: QtBot) -> None:
    view = type_chart(window, qtbot, "| C | Hm |")
    pick(qtbot, view.decisions.school, "band")
    settle(window, qtbot)
    assert window.document.song.arrangement.school == "band"
    assert view.editor.toPlainText() == "| C | Hm |"


def test_what_was_typed_last_is_read_before_anything_else(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, SongPage)
    view.editor.selectAll()
    view.editor.insertPlainText("| C | F |")  # and no pause for the live check
    pick(qtbot, view.decisions.school, "band")
    settle(window, qtbot)
    assert [str(slot.chord) for slot in window.document.song.slots] == ["C", "F"]
    assert view.editor.toPlainText() == "| C | F |"


@pytest.mark.long
def test_reach_changes_the_voicings_and_impossible_hands_say_so(window: Window, qtbot: QtBot) -> None:
    view, document = show(window, qtbot, SongPage), window.document
    before = document.song.arrangement.choices
    pick(qtbot, view.decisions.left_reach, 3)
    pick(qtbot, view.decisions.right_reach, 3)
    settle(window, qtbot)
    assert window.message.isVisible() and "bar 2, C#m11" in window.message.text.text()
    assert document.song.arrangement.choices == before  # nothing is lost
    pick(qtbot, view.decisions.left_reach, 10)
    pick(qtbot, view.decisions.right_reach, 9)
    settle(window, qtbot)
    assert not window.message.isVisible() and document.song.arrangement.choices != before
    assert document.history.undo_label == "Change reach"


def test_undo_and_redo_bring_back_text_hands_and_voicings(window: Window, qtbot: QtBot) -> None:
    document, start = window.document, window.document.song
    view = type_chart(window, qtbot, "| C | F | G7 |")
    typed = document.song
    pick(qtbot, view.decisions.school, "band")
    settle(window, qtbot)
    banded = document.song
    assert banded.arrangement.school == "band" and document.row.bassist[0] is not None
    undo(window, qtbot)
    assert document.song == typed and view.decisions.school.currentData() == "solo"
    undo(window, qtbot)
    assert document.song == start and "Lantern Ferry" in view.editor.toPlainText()
    redo(window, qtbot)
    redo(window, qtbot)
    assert document.song == banded and view.editor.toPlainText() == "| C | F | G7 |"


@pytest.mark.long
def test_another_key_moves_the_chart_and_keeps_what_was_decided(window: Window, qtbot: QtBot) -> None:
    document = window.document
    hinges = show(window, qtbot, HingesPage)
    qtbot.keyClick(hinges.focus, Qt.Key.Key_L)
    settle(window, qtbot)
    lowest = document.song.voicing(0).keys[0]  # type: ignore[union-attr]
    view = show(window, qtbot, SongPage)
    pick(qtbot, view.decisions.key, "Bb")
    settle(window, qtbot)
    assert "| Bbadd9 | Dm11 | Ebmaj9:2 F9sus:1 | Gm7 |" in view.editor.toPlainText()
    assert str(document.song.key) == "Bb" and document.song.solved and document.song.locked(0)
    assert document.song.voicing(0).keys[0] == lowest + 1  # type: ignore[union-attr]
    pick(qtbot, view.decisions.register, "shifted")
    pick(qtbot, view.decisions.key, "G#m" if view.decisions.key.findData("G#m") < 0 else "G")
    settle(window, qtbot)
    assert document.song.voicing(0).keys[0] == lowest + 10  # type: ignore[union-attr]
    assert window.message.isVisible() == bool(window.message.text.text())
    undo(window, qtbot, 2)
    assert str(document.song.key) == "A" and document.song.voicing(0).keys[0] == lowest  # type: ignore[union-attr]


def test_a_chart_to_be_mended_does_not_move(window: Window, qtbot: QtBot) -> None:
    view = type_chart(window, qtbot, "| C | Hm |")
    view.decisions.key.setFocus()
    qtbot.keyClick(view.decisions.key, Qt.Key.Key_Down)
    assert "mend them" in window.message.text.text() and window.message.isVisible()
    assert view.decisions.key.currentData() == "A" and view.editor.toPlainText() == "| C | Hm |"


@pytest.mark.long
def test_what_an_edit_cannot_keep_is_said_with_undo_beside_it(window: Window, qtbot: QtBot) -> None:
    document = window.document
    hinges = show(window, qtbot, HingesPage)
    qtbot.keyClick(hinges.focus, Qt.Key.Key_L)
    settle(window, qtbot)
    locked = document.song
    view = show(window, qtbot, SongPage)
    text = view.editor.toPlainText()
    type_chart(window, qtbot, text.replace("| Aadd9 |", "| B7 |"))
    assert "Not kept: the locked voicing of Aadd9 in bar 1." in window.message.text.text()
    assert window.message.undo.isVisible()
    click(qtbot, window.message.undo)
    settle(window, qtbot)
    assert document.song == locked and view.editor.toPlainText() == text
    assert not window.message.isVisible()
    type_chart(window, qtbot, text.replace("| Aadd9 |", "| B7 |"))
    assert window.message.isVisible() and "\n" not in window.message.text.text()
    qtbot.keyClick(view.editor, Qt.Key.Key_Space)  # the next thing that is done: it has been read
    assert not window.message.isVisible()
    window.message.tell("What is no edit goes too.")
    qtbot.keyClick(view.editor, Qt.Key.Key_Space)
    assert not window.message.isVisible()
    assert window.message.happened[0][1] == "What is no edit goes too." and len(window.message.happened) > 1


def test_what_was_said_of_an_edit_stays_on_its_page(window: Window, qtbot: QtBot) -> None:
    hinges = show(window, qtbot, HingesPage)
    qtbot.keyClick(hinges.focus, Qt.Key.Key_L)
    settle(window, qtbot)
    view = show(window, qtbot, SongPage)
    type_chart(window, qtbot, view.editor.toPlainText().replace("| Aadd9 |", "| B7 |"))
    assert window.message.isVisible()
    show(window, qtbot, HingesPage)
    assert not window.message.isVisible()


def test_an_empty_chart_says_what_to_do(window: Window, qtbot: QtBot) -> None:
    view = type_chart(window, qtbot, "")
    assert "no bars" in view.chart.problems.item(0).text()
    assert window.document.song.slots  # the last good song stays


FORMED = """title: Rope Walk
composer: A. Maker
key: G
meter: 3/4
pickup: 1
form: Walk Bridge Walk
[Walk]
melody: D4:1
lyrics: Oh
| G | Em |1. Am | D7 |2. (2/4) Am D7 | G |
lyrics: tar-red _ | rope | | | | home
[Bridge]
meter: 4/4
key: Bb
| Bb | Eb |
"""


def test_form_endings_words_and_odd_bars_are_shown(window: Window, qtbot: QtBot) -> None:
    view = type_chart(window, qtbot, FORMED.replace("tar-red _", "tar"))
    assert not window.document.checked.problems
    assert view.form_order.isVisible()
    assert view.form_order.text() == ("Order: Walk, Bridge, Walk. Pickup: 1 beat before the first bar (Oh).")
    assert "by A. Maker" in view.form_facts.text()
    lines = view.form.lines()
    assert [line.heading for line in lines] == ["Walk, 2 endings", "", "Bridge"]
    first, second, bridge = lines
    assert [bar.words for bar in first.bars] == [("tar",), ("rope",), (), ()]
    assert [bar.number for line in lines for bar in line.bars] == [1, 2, 3, 4, 9, 10, 5, 6]
    assert [bar.ending for bar in (*first.bars, *second.bars)] == ["", "", "1.", "", "2.", ""]
    two = second.bars[0]
    assert two.change == "2/4" and two.share < second.bars[1].share
    assert bridge.bars[0].change == "B♭ major, 4/4"
    assert before_the_form(window.document.song.chart) == view.form_order.text()
    view.form.grab()
