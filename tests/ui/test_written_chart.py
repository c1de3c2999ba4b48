"""The laid-out chart is written on: by mouse and keys, each one undo."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QGuiApplication, QTextCursor
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.window import Window

from .conftest import type_chart, undo
from .mouse import LEFT, at, drag

K = Qt.Key


@pytest.fixture
def song_page(window: Window, qtbot: QtBot) -> SongPage:
    view = type_chart(window, qtbot, SONG)
    view.form.setFocus()
    return view


SONG = "title: Spindrift\n# ours\nkey: C\n[A]\n| C | Am7 G7 | % |\nmelody: C5:4 | | E5:4\n[B]\n| F | C |\n"


def chord_at(view: SongPage, place: int, at: int = 0) -> QPointF:
    box = next(one for one in view.form.boxes() if (one.place, one.at) == (place, at))
    return box.rect.center()


def bars(window: Window) -> list[str]:
    """The chords of every bar of the text."""
    written = window.document.song.chart.written
    count = max(one.bar for one in written)
    return [" ".join(str(one.chord) for one in written if one.bar == bar) for bar in range(1, count + 1)]


def test_a_chord_is_clicked_and_typed_over(window: Window, song_page: SongPage, qtbot: QtBot) -> None:
    form = song_page.form
    qtbot.mouseClick(form, LEFT, pos=at(chord_at(song_page, 1, 1)))
    assert (form.place, form.at) == (1, 1) and window.document.chosen == 2
    qtbot.keyClicks(form, "D")
    assert form.field.isVisible() and form.field.text() == "D"
    qtbot.keyClicks(form.field, "b7")
    qtbot.keyClick(form.field, K.Key_Return)
    assert bars(window) == ["C", "Am7 Db7", "Am7 G7", "F", "C"]  # the repeat says its own chords from now
    assert "| C | Am7 Db7 | Am7 G7 |" in song_page.editor.toPlainText() and "# ours" in window.document.text
    assert form.hasFocus() and not form.field.isVisible() and (form.place, form.at) == (1, 1)
    qtbot.keyClick(song_page.editor, K.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert bars(window) == ["C", "Am7 G7", "Am7 G7", "F", "C"]


def test_tab_goes_on_and_escape_leaves_what_was(window: Window, song_page: SongPage, qtbot: QtBot) -> None:
    form = song_page.form
    qtbot.mouseDClick(form, LEFT, pos=at(chord_at(song_page, 0)))
    assert form.field.text() == "C" and form.field.selectedText() == "C"
    qtbot.keyClicks(form.field, "Cmaj7")
    qtbot.keyClick(form.field, K.Key_Tab)
    assert (form.place, form.at) == (1, 0) and form.field.isVisible() and form.field.text() == "Am7"
    qtbot.keyClick(form.field, K.Key_Tab)
    qtbot.keyClick(form.field, K.Key_Backtab)
    assert (form.place, form.at) == (1, 0)
    qtbot.keyClicks(form.field, "xyz")
    qtbot.keyClick(form.field, K.Key_Escape)
    assert not form.field.isVisible() and bars(window)[:2] == ["Cmaj7", "Am7 G7"]
    window.message.hide()
    qtbot.keyClick(form, K.Key_Return)
    qtbot.keyClicks(form.field, "Hxx")  # cannot be read: said, and the text stays as it was
    qtbot.keyClick(form.field, K.Key_Return)
    assert "Hxx" in window.message.text.text() and "Hxx" not in window.document.text
    assert bars(window)[:2] == ["Cmaj7", "Am7 G7"]


def test_keys_walk_the_form(window: Window, song_page: SongPage, qtbot: QtBot) -> None:
    form = song_page.form
    walked = []
    for key in (
        K.Key_Home,
        K.Key_Right,
        K.Key_Right,
        K.Key_Down,
        K.Key_Up,
        K.Key_End,
        K.Key_Right,
        K.Key_Left,
    ):
        qtbot.keyClick(form, key)
        walked.append((form.place, form.at))
    assert walked[:3] == [(0, 0), (1, 0), (1, 1)]
    assert walked[5:] == [(4, 0), (4, 0), (3, 0)] and walked[3][0] in (3, 4) and walked[4][0] in (0, 1, 2)
    assert "Bar 4 of the text, F" in form.accessibleDescription()


@pytest.mark.long
def test_a_chord_that_is_walked_to_is_seen(window: Window, qtbot: QtBot) -> None:
    rows = "".join(f"[{name}]\n| C | F | G7 | C |\n" for name in "ABCDEFGHIJKLMN")
    view = type_chart(window, qtbot, f"title: Long Reach\n{rows}")
    view.form.setFocus()
    for key, last in ((K.Key_End, True), (K.Key_Home, False)):
        qtbot.keyClick(view.form, key)
        box = view.form.box
        assert box is not None and (box.place > 0) == last
        seen = view.form_area.viewport().rect()
        assert seen.contains(view.form.mapTo(view.form_area.viewport(), at(box.rect.center())))


def test_bars_are_dragged_over_copied_cut_and_put_in(
    window: Window, song_page: SongPage, qtbot: QtBot
) -> None:
    form, ctrl = song_page.form, Qt.KeyboardModifier.ControlModifier
    drag(form, chord_at(song_page, 0), chord_at(song_page, 1), chord_at(song_page, 2))
    assert form.stretch == range(3)
    qtbot.keyClick(form, K.Key_C, ctrl)
    assert QGuiApplication.clipboard().text() == "| C | Am7 G7 | Am7 G7 |\nmelody: C5:4 |  | E5:4"
    qtbot.mouseClick(form, LEFT, pos=at(chord_at(song_page, 4)))
    assert form.stretch == range(4, 5)
    qtbot.keyClick(form, K.Key_V, ctrl)
    assert bars(window) == ["C", "Am7 G7", "Am7 G7", "F", "C", "C", "Am7 G7", "Am7 G7"]
    tune = [bar.melody != () for section in window.document.song.chart.sections for bar in section.every_bar]
    assert tune == [True, False, True, False, False, True, False, True] and form.place == 7
    undo(window, qtbot)
    assert bars(window) == ["C", "Am7 G7", "Am7 G7", "F", "C"]  # one step
    form.setFocus()
    qtbot.keyClick(form, K.Key_Home)
    qtbot.keyClick(form, K.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert form.stretch == range(2)
    qtbot.keyClick(form, K.Key_X, ctrl)
    assert bars(window) == ["Am7 G7", "F", "C"] and "melody: E5:4" in window.document.text
    qtbot.keyClick(form, K.Key_Delete)
    assert bars(window) == ["F", "C"] and "[B]" in window.document.text


def test_bars_are_put_in_split_and_divided_by_keys(window: Window, song_page: SongPage, qtbot: QtBot) -> None:
    form, alt = song_page.form, Qt.KeyboardModifier.AltModifier
    qtbot.mouseClick(form, LEFT, pos=at(chord_at(song_page, 3)))
    qtbot.keyClick(form, K.Key_Insert, alt)
    assert bars(window)[3:] == ["F", "F", "C"] and form.field.isVisible()
    qtbot.keyClicks(form.field, "Dm7")
    qtbot.keyClick(form.field, K.Key_Return)
    assert bars(window)[3:] == ["F", "Dm7", "C"]
    qtbot.keyClick(form, K.Key_D, alt)
    qtbot.keyClicks(form.field, "G7")
    qtbot.keyClick(form.field, K.Key_Return)
    assert bars(window)[3:] == ["F", "Dm7 G7", "C"]
    qtbot.keyClick(form, K.Key_S, alt)
    assert bars(window)[3:] == ["F", "Dm7", "G7", "C"] and (form.place, form.at) == (5, 0)
    qtbot.keyClick(form, K.Key_Delete, alt)
    assert bars(window)[3:] == ["F", "Dm7", "C"]


def test_what_would_not_read_is_said_and_left(window: Window, song_page: SongPage, qtbot: QtBot) -> None:
    form, before = song_page.form, window.document.text
    drag(form, chord_at(song_page, 0), chord_at(song_page, 4))
    qtbot.keyClick(form, K.Key_Delete)
    assert "the chart has no bars" in window.message.text.text() and window.document.text == before
    QGuiApplication.clipboard().setText("no bars at all")
    qtbot.keyClick(form, K.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert "there are no bars in it" in window.message.text.text() and window.document.text == before
    song_page.editor.setFocus()
    song_page.editor.moveCursor(QTextCursor.MoveOperation.End)
    qtbot.keyClicks(song_page.editor, "| Hxx |")
    form.setFocus()
    qtbot.keyClick(form, K.Key_Delete)
    assert "there are places to mend" in window.message.text.text()
    assert song_page.editor.toPlainText().endswith("| Hxx |")
