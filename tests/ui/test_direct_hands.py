"""What is done on the drawings themselves: pressed, dragged, let go; each is one undo, and each has its
keys."""

from __future__ import annotations

from collections.abc import Sequence

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.theme import color
from yellow_hinge.ui.window import Window
from yellow_hinge.voicing import handling
from yellow_hinge.voicing.handling import Keys

from .conftest import colours, press, settle, show, type_chart, undo
from .drawn import written_on
from .test_takes_page import CHART, rest

K = Qt.Key
LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def at(point: QPointF | QPoint) -> QPoint:
    return point if isinstance(point, QPoint) else point.toPoint()


def press_at(widget: QWidget, point: QPointF | QPoint) -> None:
    QTest.mousePress(widget, LEFT, NONE, at(point))


def drag(widget: QWidget, *points: QPointF | QPoint) -> None:
    """Press on the first, go over the others, let go on the last."""
    press_at(widget, points[0])
    for point in points[1:]:
        QTest.mouseMove(widget, at(point))
    QTest.mouseRelease(widget, LEFT, NONE, at(points[-1]))


# --- Takes ---


@pytest.fixture
def three(window: Window, qtbot: QtBot) -> TakesPage:
    """Three takes; the first one is worked on and chosen."""
    type_chart(window, qtbot, CHART)
    view = show(window, qtbot, TakesPage)
    rest(window, view, qtbot)
    for key in (K.Key_B, K.Key_C):
        press(window, qtbot, key)
        rest(window, view, qtbot)
    press(window, qtbot, K.Key_Up, 2)
    press(window, qtbot, K.Key_W)
    rest(window, view, qtbot)
    return view


def line(view: TakesPage, lane: int, place: int) -> QPointF:
    """Where the route lies in a cell, or would."""
    box = view.lanes.cell(lane, place)
    return QPointF(box.center().x(), box.y() + 6)


def test_the_route_is_dragged_through_lanes(window: Window, three: TakesPage, qtbot: QtBot) -> None:
    ids = [take.id for take in window.document.song.takes]
    drag(three.lanes, line(three, 0, 0), line(three, 1, 0), line(three, 1, 1), line(three, 2, 2))
    assert window.document.song.route == {("A", 1): ids[1], ("A", 2): ids[1], ("B", 1): ids[2]}
    assert window.document.history.undo_label == "Lead the route"
    rest(window, three, qtbot)
    undo(window, qtbot)
    assert window.document.song.route == {}  # one step
    rest(window, three, qtbot)
    drag(three.lanes, line(three, 0, 1), line(three, 2, 1))
    assert window.document.song.route == {("A", 2): ids[2]}
    rest(window, three, qtbot)
    drag(three.lanes, line(three, 2, 1), line(three, 0, 1))  # back
    assert window.document.song.route == {}


def test_the_route_that_comes_back_to_its_place_changes_nothing(
    window: Window, three: TakesPage, qtbot: QtBot
) -> None:
    before = window.document.song
    drag(three.lanes, line(three, 0, 1), line(three, 2, 1), line(three, 0, 1))
    assert window.document.song is before
    press_at(three.lanes, line(three, 0, 1))
    QTest.mouseMove(three.lanes, at(line(three, 1, 1)))
    dashed = three.lanes.grab().toImage()
    QTest.mouseMove(three.lanes, QPoint(5, 5))  # outside: what it passed last stays
    QTest.mouseMove(three.lanes, at(line(three, 0, 1)))
    assert three.lanes.grab().toImage() != dashed
    QTest.mouseRelease(three.lanes, LEFT, NONE, at(line(three, 0, 1)))
    assert window.document.song is before


def test_a_section_is_dragged_from_one_lane_onto_another(
    window: Window, three: TakesPage, qtbot: QtBot
) -> None:
    song = window.document.song
    middle = three.lanes.cell(1, 0).center()
    drag(three.lanes, middle, three.lanes.cell(0, 0).center())
    after = window.document.song
    mine, theirs = after.take_of(0).arrangement, song.takes[1].arrangement
    assert after.current == 0 and window.document.history.undo_label == "From First take with a bassist"
    section = [slot.at for slot in song.slots if slot.section == "A" and slot.round == 1]
    assert all(mine.voicing(one) == theirs.voicing(one) and mine.locked(one) for one in section)
    outside = [slot.at for slot in song.slots if slot.section == "B"]
    assert not any(mine.locked(one) for one in outside)
    rest(window, three, qtbot)
    undo(window, qtbot)
    assert window.document.song.take_of(0) == song.take_of(0)
    rest(window, three, qtbot)
    drag(three.lanes, three.lanes.cell(0, 2).center(), three.lanes.cell(2, 2).center())  # into another one
    after = window.document.song
    assert after.current == 0 and after.takes[0] == song.takes[0] and after.takes[2] != song.takes[2]
    rest(window, three, qtbot)
    before = window.document.song
    drag(three.lanes, three.lanes.cell(0, 0).center(), three.lanes.cell(0, 1).center())  # along its own lane
    assert window.document.song is before


def test_a_take_is_dragged_to_another_place_or_out(window: Window, three: TakesPage, qtbot: QtBot) -> None:
    names = lambda: [take.name for take in window.document.song.takes]  # noqa: E731
    first, second, third = names()
    grasp = [QPointF(20, three.lanes.cell(lane, 0).center().y()) for lane in range(3)]
    drag(three.lanes, grasp[0], grasp[2])
    assert names() == [second, third, first] and three.state.lane == 2
    rest(window, three, qtbot)
    undo(window, qtbot)
    assert names() == [first, second, third]
    rest(window, three, qtbot)
    below = QPointF(20, three.lanes.cell(2, 0).bottom() + 30)
    press_at(three.lanes, grasp[1])
    QTest.mouseMove(three.lanes, at(below))
    assert any("let go here, it is deleted" in one.text for one in written_on(three.lanes))
    QTest.mouseRelease(three.lanes, LEFT, NONE, at(below))
    assert names() == [first, third]
    rest(window, three, qtbot)
    undo(window, qtbot)
    rest(window, three, qtbot)
    drag(three.lanes, grasp[1], grasp[1] + QPointF(6, 2))  # not moved
    assert names() == [first, second, third]


def test_the_last_take_stays(window: Window, qtbot: QtBot) -> None:
    type_chart(window, qtbot, CHART)
    view = show(window, qtbot, TakesPage)
    rest(window, view, qtbot)
    before = window.document.song
    drag(view.lanes, QPointF(20, view.lanes.cell(0, 0).center().y()), QPointF(20, 5))
    assert window.document.song is before


def test_two_takes_lie_one_over_the_other(window: Window, three: TakesPage, qtbot: QtBot) -> None:
    """What they share is quiet and said once, what differs stands at its side in the hand's colour."""
    press(window, qtbot, K.Key_Down)
    pairs = three.pairs
    assert pairs.isVisible() and "A half" not in pairs.accessibleDescription()
    texts = [one.text for one in written_on(pairs)]
    pair = pairs.pairs[0]
    grips = [set(grip.keys) for grip in pair.grips if grip is not None]
    both, either = grips[0] & grips[1], grips[0] | grips[1]
    assert pair.differ and both != either
    assert color("left").name() in colours(pairs) or color("right").name() in colours(pairs)
    assert {"First take", "First take with a bassist", pair.symbols[0]} <= set(texts)
    assert any(text.startswith(f"{pair.symbols[0]}: ") for text in texts)
    before = pairs.accessibleDescription()
    qtbot.mouseClick(pairs, LEFT, pos=at(pairs.leaf(2).center()))
    assert three.state.chord == 2 and pairs.accessibleDescription() != before
    qtbot.mouseClick(pairs, LEFT, pos=QPoint(3, 30))  # on the names
    assert three.state.chord == 2
    press(window, qtbot, K.Key_BracketRight, 99)
    assert three.state.chord == len(pairs.pairs) - 1
    press(window, qtbot, K.Key_BracketLeft, 99)
    assert three.state.chord == 0


def test_a_chord_that_is_the_same_in_both_takes_is_narrow_and_quiet(
    window: Window, three: TakesPage, qtbot: QtBot
) -> None:
    press(window, qtbot, K.Key_Down)
    press(window, qtbot, K.Key_1)  # the first chord as the other take has it
    rest(window, three, qtbot)
    pairs = three.pairs
    wide = next(place for place, pair in enumerate(pairs.pairs) if pair.differ)
    assert not pairs.pairs[0].differ and pairs.leaf(0).width() < pairs.leaf(wide).width() / 2 + 1
    assert pairs.leaf(1).left() > pairs.leaf(0).right()
    assert pairs.accessibleDescription().startswith("Fmaj7: the same")


# --- Hinges ---


@pytest.fixture
def hinges(window: Window, qtbot: QtBot) -> HingesPage:
    settle(window, qtbot)
    return show(window, qtbot, HingesPage)


def up_by(view: HingesPage, point: QPoint, steps: int) -> QPoint:
    """A place so many half steps above another one."""
    row = view.row_view
    return point - QPoint(0, round(row._y(60) - row._y(60 + steps)))


def test_a_dragged_note_is_heard_on_its_way_and_its_place_shown(
    window: Window, hinges: HingesPage, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    struck: list[Sequence[int]] = []
    monkeypatch.setattr(window.playback, "strike", lambda keys: struck.append(tuple(keys)))
    song = window.document.song
    voicing = song.voicing(0)
    assert voicing is not None
    top = max(voicing.keys)
    tab = at(hinges.row_view._tabs(0)[-1].rect.center())
    press_at(hinges.row_view, tab)
    assert not struck
    styles: list[Qt.PenStyle] = []
    real = QPainter.drawRoundedRect

    def noted(painter: QPainter, *given: object) -> None:
        styles.append(painter.pen().style())
        real(painter, *given)  # type: ignore[call-overload]

    monkeypatch.setattr(QPainter, "drawRoundedRect", noted)
    QTest.mouseMove(hinges.row_view, up_by(hinges, tab, 3))
    near = struck[-1]
    assert max(near) > top and set(near) - {max(near)} == set(voicing.keys) - {top}
    QTest.mouseMove(hinges.row_view, up_by(hinges, tab, 3) + QPoint(0, 1))
    assert len(struck) == 1  # the same key again
    seen = set()
    for steps in (-5, -2, 5, 8, 20):
        QTest.mouseMove(hinges.row_view, up_by(hinges, tab, steps))
        over = hinges.row_view._drag
        assert over is not None
        grip = handling.moved(Keys(voicing.left.keys, voicing.right.keys), top, over.to)
        tried = None if grip is None else hinges.grips.desk.tried(song, 0, grip)
        broken = tried is None or bool(tried.judged.broken)
        styles.clear()
        hinges.row_view.grab()
        assert (Qt.PenStyle.DashLine in styles) == broken, steps
        seen.add(broken)
    assert seen == {True, False}
    QTest.mouseMove(hinges.row_view, tab)
    QTest.mouseRelease(hinges.row_view, LEFT, NONE, tab)
    assert window.document.song is song and struck[-1] == tuple(voicing.keys)
