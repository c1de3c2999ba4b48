"""The arc over the form, by mouse and keys, on Rhythm and Takes; places compared; strokes named."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from yellow_hinge.rhythm.patterns import WAYS, WHAT
from yellow_hinge.tasks.takes.arc import levels_of
from yellow_hinge.ui.arc_view import ArcView
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.window import Window

from .conftest import pick, press, settle, show, type_chart, undo
from .drawn import written_on

K, SHIFT = Qt.Key, Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton
CHART = """title: Low Water
key: G
[Verse] x2
| Gmaj7 | Em7 | Am7 | D7 |
[Bridge]
| Cmaj7 | D7 | Bm7 E7 | G6 |
"""


@pytest.fixture
def rhythm(window: Window, qtbot: QtBot) -> RhythmPage:
    type_chart(window, qtbot, CHART)
    settle(window, qtbot)
    return show(window, qtbot, RhythmPage)


def drag(arc: ArcView, *row: tuple[int, int]) -> None:
    """Press on the first point of round and level, go through the others, and let go."""
    points = [QPoint(round(arc.place_of(*one).x()), round(arc.place_of(*one).y())) for one in row]
    QTest.mousePress(arc, LEFT, Qt.KeyboardModifier.NoModifier, points[0])
    for point in points[1:]:
        QTest.mouseMove(arc, point)
    QTest.mouseRelease(arc, LEFT, Qt.KeyboardModifier.NoModifier, points[-1])


def solved(window: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not window.document.worker.running, timeout=30_000)


@pytest.mark.long
def test_an_arc_is_drawn_by_mouse_and_is_one_step(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    before = window.document.song
    assert levels_of(before) == (None, None, None) and "not drawn yet" in rhythm.arc.accessibleName()
    drag(rhythm.arc, (0, 1), (1, 2), (2, 5))
    solved(window, qtbot)
    song = window.document.song
    assert levels_of(song) == (1, 2, 5) and len(song.takes) == 4 and song.solved
    assert window.document.history.undo_label == "Arc 1 2 5"
    assert {"Verse", "Verse 2", "Bridge"} <= {one.text for one in written_on(window)}
    undo(window, qtbot)
    assert window.document.song == before and levels_of(window.document.song) == (None, None, None)
    assert rhythm.arc.levels == (3, 3, 3)


def test_an_arc_is_drawn_by_keys(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_A)
    assert rhythm.arc.hasFocus()
    arc = rhythm.arc
    for key in (K.Key_1, K.Key_Right, K.Key_Up, K.Key_Right, K.Key_Right, K.Key_Up, K.Key_Up, K.Key_Up):
        qtbot.keyClick(arc, key)
    assert arc.levels == (1, 4, 5) and levels_of(window.document.song) == (None, None, None)
    assert "Bridge, 5 of 5: fullest" in arc.accessibleName()
    qtbot.keyClick(arc, K.Key_Escape)
    assert arc.levels == (3, 3, 3)
    for key in (K.Key_Down, K.Key_Down, K.Key_Down, K.Key_Left, K.Key_4, K.Key_Return):
        qtbot.keyClick(arc, key)
    solved(window, qtbot)
    assert levels_of(window.document.song) == (3, 4, 1)
    qtbot.keyClick(arc, K.Key_Return)  # the same again is nothing new
    assert window.document.history.undo_label == "Arc 3 4 1"
    label = window.document.history.undo_label
    qtbot.keyClick(arc, K.Key_6)
    assert arc.levels == (3, 4, 1) and window.document.history.undo_label == label


@pytest.mark.long
def test_arcs_that_ship_and_none(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    before = window.document.song
    rows = {one.id: one for one in rhythm.commands}
    assert not rows["arc-away"].enabled()
    rows["arc-rising"].run()
    solved(window, qtbot)
    assert levels_of(window.document.song) == (1, 3, 5) and rows["arc-away"].enabled()
    rows["arc-quiet"].run()
    solved(window, qtbot)
    assert levels_of(window.document.song) == (3, 4, 1) and len(window.document.song.takes) == 4
    rows["arc-away"].run()
    solved(window, qtbot)
    assert len(window.document.song.takes) == 1 and window.document.song.chart == before.chart


@pytest.mark.long
def test_the_arc_stands_over_the_takes(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    takes = show(window, qtbot, TakesPage)
    drag(takes.arc, (0, 2), (1, 4), (2, 3))
    solved(window, qtbot)
    assert levels_of(window.document.song) == (2, 4, 3)
    qtbot.waitUntil(lambda: not takes.worker.running, timeout=30_000)
    assert [one.take for one in takes.state.rounds] == [take.id for take in (
        window.document.song.take_in("Verse", 1), window.document.song.take_in("Verse", 2),
        window.document.song.take_in("Bridge", 1))]  # fmt: skip
    lane = takes.state.lane_of(window.document.song.take_in("Verse", 2).id)
    assert lane is not None and len(takes.state.strokes(lane, 0)) > 1  # lanes show when something is struck


def test_bars_and_rounds_are_compared(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    rhythm.strip.setFocus()
    press(window, qtbot, K.Key_B)
    assert rhythm.compared.text() == "Bar 1 is marked: go to another one and ask again, to compare them."
    qtbot.keyClick(rhythm.strip, K.Key_Right, SHIFT)
    press(window, qtbot, K.Key_B)
    assert rhythm.compared.text().startswith("Bar 2 differs from bar 1 in notes")
    assert "Em7 for Gmaj7" in rhythm.compared.text()
    for _ in range(3):
        qtbot.keyClick(rhythm.strip, K.Key_Right, SHIFT)
    qtbot.keyClick(rhythm.strip, K.Key_B, SHIFT)
    assert "Verse, round 2 is Verse, round 1" in rhythm.compared.text()


def test_what_is_struck_and_comes_next_is_named(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    rhythm.strip.setFocus()
    names = list(WHAT.values())
    for k in range(4):
        assert f"Here {names[k]} is struck" in rhythm.cycle.text()
        assert (
            f"Next (.): {names[k + 1]}, then {names[k + 2]}. Back (,): {names[k - 1]}." in rhythm.cycle.text()
        )
        press(window, qtbot, K.Key_Period)
        solved(window, qtbot)
    press(window, qtbot, K.Key_Right)
    assert "nothing is struck" in rhythm.cycle.text()
    press(window, qtbot, K.Key_Up)
    assert rhythm.cycle.text() == ""
    assert "Aloud, left: 1 chord; right: 1 low." in rhythm.words.text()


@pytest.mark.long
def test_a_stroke_is_rolled_crushed_and_slid_by_key(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    rhythm.strip.setFocus()
    found = []
    for _ in WAYS:
        press(window, qtbot, K.Key_W)
        found.append(rhythm.state.way_here())
    assert found == [*WAYS[1:], WAYS[0]]
    press(window, qtbot, K.Key_W)
    assert "rolled from the bottom" in rhythm.cycle.text()
    press(window, qtbot, K.Key_Right)
    before = window.document.song
    press(window, qtbot, K.Key_W)  # where nothing is struck nothing changes
    assert window.document.song == before


@pytest.mark.long
def test_fullness_unevenness_and_scales_at_the_side(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_F)
    feel = rhythm.side.feel
    pick(qtbot, feel.boxes["level"], 5)
    solved(window, qtbot)
    assert window.document.song.texture(0).level == 5
    pick(qtbot, feel.boxes["person"], 2)
    assert window.document.song.arrangement.groove.person == 2
    press(window, qtbot, K.Key_L)
    lines = rhythm.side.lines
    assert lines.scale.count() == 7 and not lines.care.isVisible()
    lines.scale.setCurrentIndex(lines.scale.findText("G blues scale"))
    lines.scale.activated.emit(lines.scale.currentIndex())
    assert lines.care.isVisible() and "take care over" in lines.care.text()
    lines.kind.setCurrentIndex(lines.kind.findData("run"))
    rhythm.strip.setFocus()
    press(window, qtbot, K.Key_P)
    solved(window, qtbot)
    riffs = window.document.song.arrangement.groove.riffs
    blues = {7, 10, 0, 1, 2, 5}
    assert riffs and all(note.key % 12 in blues for row in riffs.values() for note in row)
