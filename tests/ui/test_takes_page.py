"""Takes, the route and two takes beside each other, by real keys and clicks."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.song.edits import settle as settle_wishes
from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.window import Window

from .conftest import button, pick, press, settle, show, type_chart, undo

K = Qt.Key
SHIFT = Qt.KeyboardModifier.ShiftModifier
CHART = "title: Slack Water\nkey: F\ntempo: 100\n[A] x2\n| Fmaj7 | Dm7 | Gm7 | C7 |\n[B]\n| Bbmaj7 | C7 |\n"


def rest(window: Window, view: TakesPage, qtbot: QtBot) -> None:
    settle(window, qtbot)
    qtbot.waitUntil(
        lambda: not view.worker.running and view._looked is window.document.song and bool(view.state.lanes),
        timeout=30_000,
    )


@pytest.fixture
def view(window: Window, qtbot: QtBot) -> TakesPage:
    type_chart(window, qtbot, CHART)
    page = show(window, qtbot, TakesPage)
    rest(window, page, qtbot)
    return page


@pytest.fixture
def two(window: Window, view: TakesPage, qtbot: QtBot) -> TakesPage:
    """Another take for a bassist; the first one is worked on."""
    press(window, qtbot, K.Key_B)
    rest(window, view, qtbot)
    press(window, qtbot, K.Key_Up)
    press(window, qtbot, K.Key_W)
    rest(window, view, qtbot)
    press(window, qtbot, K.Key_Down)
    return view


def test_with_one_take_it_is_said_how_to_get_another(window: Window, view: TakesPage, qtbot: QtBot) -> None:
    assert "A take is one whole way to play the song. Copy this one (C)" in view.words.text()
    assert not view.below.isVisible() and button(view, "Copy (C)").isVisible()
    assert not button(view, "Sounds here (Return)").isVisible()
    press(window, qtbot, K.Key_B)  # the new one is worked on
    rest(window, view, qtbot)
    assert view.words.text().endswith("Choose another lane to compare it.")
    assert button(view, "Sounds here (Return)").isVisible()


@pytest.mark.long
def test_a_take_for_a_bassist_is_made_and_compared(window: Window, two: TakesPage, qtbot: QtBot) -> None:
    song = window.document.song
    assert [take.name for take in song.takes] == ["First take", "First take with a bassist"]
    assert song.takes[1].arrangement.bass == "bassist" and song.current == 0
    assert "of 6 chords differ" in two.words.text() and len(two.pairs.pairs) == 6
    said = two.pairs.accessibleDescription()
    assert said.startswith("Fmaj7: ") and "half steps on" in said


@pytest.mark.long
def test_the_route_goes_through_another_take_by_key_and_by_click(
    window: Window, two: TakesPage, qtbot: QtBot
) -> None:
    press(window, qtbot, K.Key_Right)
    press(window, qtbot, K.Key_Return)
    rest(window, two, qtbot)
    other = window.document.song.takes[1].id
    assert window.document.song.route == {("A", 2): other}
    assert [one.slot for one in two.state.joints] == [4, 8]
    point = two.lanes.cell(0, 1).center().toPoint()
    qtbot.mouseClick(two.lanes, Qt.MouseButton.LeftButton, pos=point)
    assert window.document.song.route == {("A", 2): other}  # choosing changes nothing
    qtbot.mouseClick(two.lanes, Qt.MouseButton.LeftButton, pos=point)
    rest(window, two, qtbot)
    assert window.document.song.route == {} and two.state.joints == ()
    undo(window, qtbot)
    assert window.document.song.route == {("A", 2): other}


def test_joints_are_made_smooth(window: Window, two: TakesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Right)
    press(window, qtbot, K.Key_Return)
    rest(window, two, qtbot)
    before = window.document.song
    press(window, qtbot, K.Key_J)
    qtbot.waitUntil(lambda: not two.worker.running, timeout=60_000)
    rest(window, two, qtbot)
    after = window.document.song
    seams = {3, 4, 7, 8}
    held = [k for k in range(10) if before.slots[k].at not in {before.slots[s].at for s in seams}]
    assert all(after.voicing(k) == before.voicing(k) for k in held)


@pytest.mark.long
def test_takes_are_copied_named_moved_and_deleted(window: Window, view: TakesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_C)
    rest(window, view, qtbot)
    assert view.state.lane == 1
    view.side.name_field.setFocus()
    view.side.name_field.selectAll()
    qtbot.keyClicks(view.side.name_field, "Rich")
    qtbot.keyClick(view.side.name_field, K.Key_Return)
    assert [take.name for take in window.document.song.takes] == ["First take", "Rich"]
    qtbot.keyClick(view.lanes, K.Key_Up, SHIFT)
    assert [take.name for take in window.document.song.takes] == [
        "Rich",
        "First take",
    ] and view.state.lane == 0
    rest(window, view, qtbot)
    press(window, qtbot, K.Key_Delete)
    rest(window, view, qtbot)
    assert [take.name for take in window.document.song.takes] == ["First take"]
    undo(window, qtbot)
    assert [take.name for take in window.document.song.takes] == ["Rich", "First take"]
    rest(window, view, qtbot)
    pick(qtbot, view.side.school, "spread", stays=False)
    rest(window, view, qtbot)
    assert window.document.song.arrangement.school == "spread" and len(window.document.song.takes) == 3


def test_another_row_becomes_a_take(window: Window, view: TakesPage, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: len(window.document.solved.offers) > 1, timeout=60_000)
    offer = window.document.solved.offers[1]
    press(window, qtbot, K.Key_O)
    rest(window, view, qtbot)
    song = window.document.song
    assert song.take.name == "Row 2" and song.voicing(0) == offer.voicings[0] and song.locked(0)


def test_chords_come_into_the_take_that_is_worked_on(window: Window, two: TakesPage, qtbot: QtBot) -> None:
    song = window.document.song
    theirs = song.takes[1].arrangement
    press(window, qtbot, K.Key_BracketRight)
    press(window, qtbot, K.Key_1)
    rest(window, two, qtbot)
    mine, at = window.document.song.take_of(0).arrangement, song.slots[1].at
    assert mine.voicing(at) == theirs.voicing(at) and mine.locked(at)
    assert not mine.locked(song.slots[0].at)
    undo(window, qtbot)
    rest(window, two, qtbot)
    press(window, qtbot, K.Key_3)
    rest(window, two, qtbot)
    mine = window.document.song.take_of(0).arrangement
    assert [mine.locked(song.slots[k].at) for k in (0, 1, 2, 3, 8)] == [True] * 4 + [False]
    assert window.document.history.undo_label == "From First take with a bassist"


@pytest.mark.long
def test_a_shuffle_keeps_what_is_kept(window: Window, two: TakesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_K)
    assert two.state.kept == {0}
    first = window.document.song.route.get(("A", 1))
    for _ in range(3):
        press(window, qtbot, K.Key_S)
        rest(window, two, qtbot)
        assert window.document.song.route.get(("A", 1)) == first
    assert two.side.seed.value() == 4 and ("A", 2) in window.document.song.route


def test_a_and_b_are_heard_from_the_same_spot(window: Window, two: TakesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_H)
    qtbot.waitUntil(lambda: (two.state.playing or 0) > 0.5, timeout=10_000)
    other = two.state.hearing
    spot = two.state.playing
    press(window, qtbot, K.Key_X)
    assert window.playback.playing and two.state.hearing != other
    assert window.playback._ready().quarters >= (spot or 0) - 0.01
    press(window, qtbot, K.Key_X)
    assert two.state.hearing == other
    press(window, qtbot, K.Key_Space)
    qtbot.waitUntil(lambda: two.state.playing is None, timeout=5000)


@pytest.mark.long
def test_the_pair_stays_in_step_until_it_is_parted(window: Window, two: TakesPage, qtbot: QtBot) -> None:
    assert [take.twin for take in window.document.song.takes] == [1, 0]
    window.document.apply(settle_wishes(window.document.song, colour=2))  # as any page does
    rest(window, two, qtbot)
    assert [take.arrangement.colour for take in window.document.song.takes] == [2, 2]
    press(window, qtbot, K.Key_T)
    assert [take.twin for take in window.document.song.takes] == [None, None]
    assert not two.commands["in-step"].enabled()
    window.document.apply(settle_wishes(window.document.song, colour=1))
    rest(window, two, qtbot)
    assert sorted(take.arrangement.colour or 0 for take in window.document.song.takes) == [1, 2]
