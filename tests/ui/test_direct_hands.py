"""What is done on the drawings themselves: pressed, dragged, let go; each is one undo, and each has its
keys."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from yellow_hinge.rhythm.patterns import Pattern, Stroke
from yellow_hinge.song.groove_edits import use_pattern
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.keys.view import KeysPage
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.theme import color
from yellow_hinge.ui.window import Window
from yellow_hinge.voicing import handling
from yellow_hinge.voicing.handling import Keys

from .conftest import colours, press, settle, show, type_chart, undo
from .drawn import written_on
from .mouse import LEFT, NONE, at, drag, press_at
from .test_takes_page import CHART, rest

K = Qt.Key


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


@pytest.mark.long
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


@pytest.mark.long
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


@pytest.mark.long
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


@pytest.mark.long
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


@pytest.mark.long
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


# --- Keys ---


@pytest.mark.long
def test_a_key_is_dragged_to_those_to_practise(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, KeysPage)
    qtbot.waitUntil(lambda: view.state.whole, timeout=60_000)
    box = view.chosen_keys
    there = view.rows.mapFrom(window, box.mapTo(window, box.rect().center()))
    drag(view.rows, view.rows.box_of(3).center(), view.rows.box_of(5).center())  # within the rows
    assert window.document.song.keys_chosen == set() and view.state.chosen == 3
    press_at(view.rows, view.rows.box_of(3).center())
    QTest.mouseMove(view.rows, there)
    assert box.open
    QTest.mouseMove(view.rows, at(view.rows.box_of(5).center()))
    assert not box.open
    QTest.mouseMove(view.rows, there)
    QTest.mouseRelease(view.rows, LEFT, NONE, there)
    key = view.state.rows[3].key
    assert window.document.song.keys_chosen == {key} and not box.open
    assert box.accessibleDescription() == key.pretty.split()[0]
    drag(view.rows, view.rows.box_of(3).center(), there)  # once more: it stays
    assert window.document.song.keys_chosen == {key}
    qtbot.mouseClick(box, LEFT, pos=box.rect().bottomRight() - QPoint(3, 3))  # beside it
    assert window.document.song.keys_chosen == {key}
    qtbot.mouseClick(box, LEFT, pos=at(box.box_of(0).center()))
    assert window.document.song.keys_chosen == set()
    undo(window, qtbot)
    assert window.document.song.keys_chosen == {key}


# --- Rhythm ---


@pytest.fixture
def rhythm(window: Window, qtbot: QtBot) -> RhythmPage:
    type_chart(window, qtbot, "title: Capstan\nmeter: 4/4\n| C | F |\n")
    view = show(window, qtbot, RhythmPage)
    window.document.apply(use_pattern(window.document.song, None, "left", BEATS, own=True))
    settle(window, qtbot)
    return view


BEATS = Pattern("beats", "Beats", tuple(Stroke(Fraction(k)) for k in (0, 2)))


def strokes(view: RhythmPage, index: int = 0) -> list[tuple[float, float]]:
    """Where the left hand strikes on a chord, and how long each lasts, in quarters."""
    return [(float(mark.at), float(mark.lasts)) for mark in view.state.strokes(index, "left")]


def place(view: RhythmPage, quarters: int | Fraction, index: int = 0) -> QPointF:
    return view.strip.place_of(index, Fraction(quarters), "left", rung=0)


def bar(view: RhythmPage, quarters: float) -> QPointF:
    """A place on the bar below the ladders of the left hand."""
    return QPointF(view.strip.x_of(0, Fraction(quarters)) + 2, view.strip._foot("left"))


def test_a_stroke_is_dragged_to_another_count(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    assert strokes(rhythm) == [(0, 2), (2, 2)]
    drag(rhythm.strip, place(rhythm, 2), place(rhythm, 3))
    assert strokes(rhythm) == [(0, 3), (3, 1)] and rhythm.state.place == 3
    qtbot.waitUntil(lambda: window.playback.heard is not None)  # heard at once
    undo(window, qtbot)
    assert strokes(rhythm) == [(0, 2), (2, 2)]
    drag(rhythm.strip, place(rhythm, 2), place(rhythm, 0))  # what was there gives way
    assert strokes(rhythm) == [(0, 4)]
    undo(window, qtbot)
    before = window.document.song
    drag(rhythm.strip, place(rhythm, 2), place(rhythm, 2) + QPointF(5, 0))  # a shaking hand: a click
    drag(rhythm.strip, place(rhythm, 1), place(rhythm, 3))  # nothing is there to be moved
    assert window.document.song is before and rhythm.state.place == 1


def test_the_length_of_a_stroke_is_dragged(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    drag(rhythm.strip, bar(rhythm, 0), bar(rhythm, 1))
    assert strokes(rhythm) == [(0, 1), (2, 2)]
    drag(rhythm.strip, bar(rhythm, 2), bar(rhythm, 9))  # not beyond the chord
    assert strokes(rhythm)[1] == (2, 2)
    drag(rhythm.strip, bar(rhythm, 2), bar(rhythm, 0))  # at the least to the next place
    assert strokes(rhythm)[1][0] == 2 and 0 < strokes(rhythm)[1][1] <= 1
    undo(window, qtbot)
    assert strokes(rhythm) == [(0, 1), (2, 2)]


def test_strokes_are_moved_and_lengthened_by_keys(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    qtbot.mouseClick(rhythm.strip, LEFT, pos=at(place(rhythm, 2)))
    step = float(rhythm.state.grid(0))
    press(window, qtbot, K.Key_BracketRight)
    assert strokes(rhythm)[1][0] == 2 + step
    press(window, qtbot, K.Key_BracketLeft)
    assert strokes(rhythm) == [(0, 2), (2, 2)]
    press(window, qtbot, K.Key_Less)
    assert strokes(rhythm)[1] == (2, 2 - step)
    press(window, qtbot, K.Key_Greater)
    assert strokes(rhythm)[1] == (2, 2)
    press(window, qtbot, K.Key_Greater)  # the chord ends there
    assert strokes(rhythm)[1] == (2, 2)
    press(window, qtbot, K.Key_Home)
    while rhythm.state.lane != "left":
        press(window, qtbot, K.Key_Down)
    before = window.document.song
    press(window, qtbot, K.Key_BracketLeft)  # nothing is before the first place
    assert window.document.song is before


def test_a_change_of_the_pedal_is_dragged(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    pedal = lambda at: rhythm.strip.place_of(0, Fraction(at), "pedal")  # noqa: E731
    qtbot.mouseClick(rhythm.strip, LEFT, pos=at(pedal(2)))
    qtbot.mouseClick(rhythm.strip, LEFT, pos=at(pedal(2)))  # again: a change there
    assert 2 in rhythm.state.pedal(0)[0]
    drag(rhythm.strip, pedal(2), pedal(3))
    assert 3 in rhythm.state.pedal(0)[0] and 2 not in rhythm.state.pedal(0)[0]
    undo(window, qtbot)
    assert 2 in rhythm.state.pedal(0)[0]


@pytest.mark.long
@pytest.mark.parametrize(
    ("share", "up", "way"),
    [
        (0.5, -8, "flat"), (0.9, 8, "rising"), (0.9, -8, "falling"), (0.1, 8, "falling"), (0.1, -8, "rising"),
        (0.5, 8, None), (0.5, 3, None), (0.9, 3, None),
    ],
)  # fmt: skip
def test_the_way_of_the_top_line_is_dragged(
    window: Window, hinges: HingesPage, qtbot: QtBot, share: float, up: int, way: str | None
) -> None:
    """Of one section, whatever round is pressed; it sings in an arc already."""
    over, song = hinges.overview, window.document.song
    first = over.sections()[1][0]
    assert song.slots[first].section == "Verse" and hinges.state.top_way(first) == "arc"
    begin = over.way_at(first, share)
    drag(over, begin, begin - QPointF(0, up / 2), begin - QPointF(0, up))
    after = window.document.song
    if way is None:
        assert after is song
        return
    assert hinges.state.top_way(first) == hinges.state.top_way(0) == way
    assert hinges.state.top_way(len(song.slots) - 1) == "arc"  # another section
    taste = after.arrangement.tastes["Verse"]
    assert (taste.top_line, taste.plan) == ("sings", way)
    settle(window, qtbot)
    begin = over.way_at(first, 0.5)
    drag(over, begin, begin - QPointF(0, 9))
    assert hinges.state.top_way(first) == "arc"
    settle(window, qtbot)
    undo(window, qtbot, 2)
    assert window.document.song.arrangement == song.arrangement


def test_a_click_on_the_overview_still_goes_there(window: Window, hinges: HingesPage, qtbot: QtBot) -> None:
    over = hinges.overview
    qtbot.mouseClick(over, LEFT, pos=at(over.way_at(over.sections()[2][0], 0.5)))
    assert window.document.chosen > over.sections()[2][0]
    chosen = window.document.chosen
    drag(over, QPointF(40, over.high - 8), QPointF(40, over.high - 30))  # on the marks: nothing is dragged
    assert window.document.chosen < chosen and not window.document.song.arrangement.tastes


# --- called off ---


def call_off(widget: QWidget, qtbot: QtBot, begin: QPointF, over: QPointF) -> None:
    """Press, go over another place, press Escape, and let go there."""
    press_at(widget, begin)
    QTest.mouseMove(widget, at(over))
    qtbot.keyClick(widget, K.Key_Escape)
    QTest.mouseMove(widget, at(over))
    QTest.mouseRelease(widget, LEFT, NONE, at(over))


def test_escape_calls_a_drag_off(window: Window, three: TakesPage, qtbot: QtBot) -> None:
    before = window.document.song
    call_off(three.lanes, qtbot, line(three, 0, 0), line(three, 1, 1))
    call_off(three.lanes, qtbot, three.lanes.cell(1, 0).center(), three.lanes.cell(0, 0).center())
    call_off(three.lanes, qtbot, QPointF(20, three.lanes.cell(1, 0).center().y()), QPointF(20, 5))
    assert window.document.song is before


def test_escape_calls_the_drag_of_a_stroke_off(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    before = window.document.song
    call_off(rhythm.strip, qtbot, place(rhythm, 2), place(rhythm, 3))
    call_off(rhythm.strip, qtbot, bar(rhythm, 0), bar(rhythm, 1))
    assert window.document.song is before


def test_escape_calls_the_drag_of_a_note_off(window: Window, hinges: HingesPage, qtbot: QtBot) -> None:
    before = window.document.song
    tab = hinges.row_view._tabs(0)[-1].rect.center()
    call_off(hinges.row_view, qtbot, tab, QPointF(up_by(hinges, at(tab), 4)))
    assert window.document.song is before


def test_escape_calls_the_way_of_the_top_line_off(window: Window, hinges: HingesPage, qtbot: QtBot) -> None:
    """The picture of the song has no keys of its own: while it is dragged they go to it."""
    over, before = hinges.overview, window.document.song
    begin = over.way_at(over.sections()[1][0], 0.9)
    press_at(over, begin)
    QTest.mouseMove(over, at(begin + QPointF(0, 9)))
    QTest.keyClick(window.windowHandle(), K.Key_Escape)
    QTest.mouseRelease(over, LEFT, NONE, at(begin + QPointF(0, 9)))
    assert window.document.song is before
    QTest.keyClick(window.windowHandle(), K.Key_L)  # the row has them again
    settle(window, qtbot)
    assert window.document.song.locked(window.document.chosen)


@pytest.mark.long
def test_escape_calls_the_drag_of_a_key_off(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, KeysPage)
    qtbot.waitUntil(lambda: view.state.whole, timeout=60_000)
    box = view.chosen_keys
    there = view.rows.mapFrom(window, box.mapTo(window, box.rect().center()))
    press_at(view.rows, view.rows.box_of(3).center())
    QTest.mouseMove(view.rows, there)
    assert box.open
    qtbot.keyClick(view.rows, K.Key_Escape)
    assert not box.open
    QTest.mouseMove(view.rows, there)
    QTest.mouseRelease(view.rows, LEFT, NONE, there)
    assert window.document.song.keys_chosen == set() and not box.open


# --- double clicks ---


def click_twice(widget: QWidget, qtbot: QtBot, where: QPoint, button: Qt.MouseButton = LEFT) -> None:
    """The first press is one of its own."""
    qtbot.mouseClick(widget, button, pos=where)
    qtbot.mouseDClick(widget, button, pos=where)


@pytest.mark.long
def test_a_double_click_does_what_is_strong_in_the_menu(
    window: Window, hinges: HingesPage, qtbot: QtBot
) -> None:
    leaf = at(hinges.row_view._leaf_rect(1).center())
    click_twice(hinges.row_view, qtbot, leaf)
    settle(window, qtbot)
    assert window.document.song.locked(1) and hinges.state.selection.index == 1
    hinges.row_view.customContextMenuRequested.emit(leaf)
    assert window.thing_menu.defaultAction().text().startswith("Unlock")
    window.thing_menu.close()
    click_twice(hinges.row_view, qtbot, leaf, Qt.MouseButton.RightButton)
    assert window.document.song.locked(1)


def test_a_double_click_on_a_lane_works_on_it(window: Window, three: TakesPage, qtbot: QtBot) -> None:
    before = window.document.song.current
    other = next(place for place in range(3) if window.document.song.takes[place].id != before)
    click_twice(three.lanes, qtbot, at(three.lanes.cell(other, 0).center()))
    assert window.document.song.current == window.document.song.takes[other].id != before


@pytest.mark.long
def test_a_double_click_on_a_key_opens_it(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, KeysPage)
    qtbot.waitUntil(lambda: view.state.whole, timeout=60_000)
    key = view.state.rows[4].key
    click_twice(view.rows, qtbot, at(view.rows.box_of(4).center()))
    assert window.document.song.slots[0].key == key
