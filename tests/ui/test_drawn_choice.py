"""What is chosen among pictures, by mouse and by keys: on the Song page and on the Feel side of Rhythm."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.drawn_choice import DrawnChoice
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.window import Window

from .conftest import settle, show, undo
from .mouse import LEFT, NONE, drag

K = Qt.Key


@pytest.fixture
def song_page(window: Window, qtbot: QtBot) -> SongPage:
    return show(window, qtbot, SongPage)


def at(choice: DrawnChoice, place: int) -> QPoint:
    """Where a picture is, in the pixels of the widget; the tests' window has text of the usual size."""
    return choice.box_of(place).center().toPoint()


def test_a_picture_is_taken_by_a_click(window: Window, song_page: SongPage, qtbot: QtBot) -> None:
    colour, before = song_page.decisions.colour, window.document.song
    assert colour.currentData() is None and colour.accessibleDescription() == "By school"
    qtbot.mouseClick(colour, LEFT, pos=at(colour, 3))
    settle(window, qtbot)
    assert window.document.song.arrangement.colour == colour.currentData() == 2
    assert colour.accessibleName() == "Colour: Rich" and colour.accessibleDescription() == "Rich"
    undo(window, qtbot)
    assert window.document.song.arrangement == before.arrangement and colour.currentData() is None


@pytest.mark.parametrize(
    ("begin", "end", "wanted"), [(1, 2, "bassist"), (2, 0, None), (1, None, None), (None, 1, None)]
)
def test_where_the_mouse_lets_go_is_taken(
    window: Window, song_page: SongPage, begin: int | None, end: int | None, wanted: str | None
) -> None:
    """Nothing is where it lets go beside the pictures, nor where it began there."""
    bass, beside = song_page.decisions.bass, QPoint(2, 2)
    drag(bass, *(beside if place is None else at(bass, place) for place in (begin, end)))
    assert window.document.song.arrangement.bass == bass.currentData() == wanted


def test_another_button_takes_nothing(window: Window, song_page: SongPage, qtbot: QtBot) -> None:
    bass = song_page.decisions.bass
    qtbot.mouseClick(bass, Qt.MouseButton.RightButton, pos=at(bass, 1))
    assert bass.currentData() is None and window.document.song.arrangement.bass is None


@pytest.mark.long
def test_arrows_walk_and_return_takes(window: Window, song_page: SongPage, qtbot: QtBot) -> None:
    colour, before = song_page.decisions.colour, window.document.song
    colour.setFocus()
    for key, words in (
        (K.Key_Right, "As written"), (K.Key_Up, "Ninths"), (K.Key_Left, "As written"),
        (K.Key_Down, "By school"),
        (K.Key_Left, "By school"), (K.Key_End, "Altered"), (K.Key_Right, "Altered"),
        (K.Key_Home, "By school"),
        (K.Key_End, "Altered"), (K.Key_Escape, "Colour"), (K.Key_Right, "As written"),
    ):  # fmt: skip
        qtbot.keyClick(colour, key)
        assert colour.toolTip().startswith(words), (key, words)
        assert colour.currentData() is None and window.document.song is before
    qtbot.keyClick(colour, K.Key_Return)
    settle(window, qtbot)
    assert window.document.song.arrangement.colour == colour.currentData() == 0
    assert colour.toolTip().startswith("Colour")  # the walk is over


def test_what_was_walked_to_is_forgotten_where_one_leaves(song_page: SongPage, qtbot: QtBot) -> None:
    colour, bass = song_page.decisions.colour, song_page.decisions.bass
    colour.setFocus()
    qtbot.keyClick(colour, K.Key_End)
    bass.setFocus()
    assert colour.toolTip().startswith("Colour")
    QTest.mouseMove(colour, at(colour, 2))
    assert colour.toolTip().startswith("Ninths")
    QTest.mouseMove(song_page.decisions, QPoint(2, 2))
    qtbot.waitUntil(lambda: colour.toolTip().startswith("Colour"))


@pytest.mark.parametrize("moved", [True, False])
def test_escape_calls_a_press_off(window: Window, song_page: SongPage, qtbot: QtBot, moved: bool) -> None:
    bass = song_page.decisions.bass
    if moved:
        QTest.mouseMove(bass, at(bass, 1))
    QTest.mousePress(bass, LEFT, NONE, at(bass, 1))
    qtbot.keyClick(bass, K.Key_Escape)
    QTest.mouseRelease(bass, LEFT, NONE, at(bass, 1))
    assert window.document.song.arrangement.bass is bass.currentData() is None


@pytest.mark.long
def test_the_reach_is_drawn_on_white_keys(window: Window, song_page: SongPage, qtbot: QtBot) -> None:
    """A hand for itself; the two keys before a third are its own and set nothing."""
    left, hands = song_page.decisions.left_reach, window.document.song.hands
    drag(left, at(left, 6), at(left, 7))
    settle(window, qtbot)
    assert window.document.song.hands.left.reach == left.currentData() == 10
    assert window.document.song.hands.right.reach == hands.right.reach
    assert left.accessibleDescription() == "tenth (C to E)"
    qtbot.mouseClick(left, LEFT, pos=at(left, -1))
    assert window.document.song.hands.left.reach == 10
    assert [left.box_of(place + 1).left() - left.box_of(place).left() for place in range(3)] == [11.0] * 3
    assert left.box_of(-2).left() == 0 and left.box_of(len(left.rows) - 1).right() <= left.width()


def test_what_own_grips_do_is_asked_where_there_are_any(
    window: Window, song_page: SongPage, qtbot: QtBot
) -> None:
    assert not song_page.decisions.register.isVisible()
    qtbot.keyClick(show(window, qtbot, HingesPage).focus, K.Key_L)
    show(window, qtbot, SongPage)
    assert song_page.decisions.register.isVisible()
    undo(window, qtbot)
    assert not song_page.decisions.register.isVisible()


def drawn(choice: DrawnChoice, value: object) -> bytes:
    image = QImage(24, 24, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    choice._draw(painter, QRectF(QPointF(2, 2), QPointF(22, 22)), value)
    painter.end()
    return bytes(image.constBits())


def test_no_two_pictures_are_the_same(window: Window, song_page: SongPage, qtbot: QtBot) -> None:
    rhythm = show(window, qtbot, RhythmPage)
    qtbot.keyClick(rhythm.focus, K.Key_F)
    choices = [*rhythm.side.findChildren(DrawnChoice), song_page.decisions.bass, song_page.decisions.colour]
    assert {choice.name for choice in choices} == {
        "Pedal", "Touch", "Fullness", "Swing", "Last chord", "Bass", "Colour"
    }  # fmt: skip
    for choice in choices:
        pictures = [drawn(choice, value) for _, value in choice.rows]
        assert len(set(pictures)) == len(pictures), choice.name
