"""The ladder on the Takes page, by real keys and clicks."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.window import Window

from .conftest import button, click, press, settle, show, type_chart, undo

K = Qt.Key
CHART = "title: Slack Water\nkey: C\ntempo: 100\n[A]\n| Cmaj7 | A7 | Dm7 | G7 | Cmaj7 |\n"


def rest(view: TakesPage, window: Window, qtbot: QtBot) -> None:
    settle(window, qtbot)
    qtbot.waitUntil(lambda: not (view.worker.running or view.ladder.worker.running), timeout=30_000)
    qtbot.wait(20)


def climbing(window: Window, qtbot: QtBot) -> TakesPage:
    type_chart(window, qtbot, CHART)
    view = show(window, qtbot, TakesPage)
    rest(view, window, qtbot)
    press(window, qtbot, K.Key_L)
    assert view.climbing
    rest(view, window, qtbot)
    return view


def lines(view: TakesPage) -> list[str]:
    return [view.ladder.list.item(row).text() for row in range(view.ladder.list.count())]


@pytest.mark.long
def test_steps_are_walked_heard_kept_and_undone(window: Window, qtbot: QtBot) -> None:
    view = climbing(window, qtbot)
    names = [one.partition(":")[0] for one in lines(view)]
    assert names[:3] == ["Single bass and triads", "Shells", "Sevenths"]
    assert "new grips" in lines(view)[0] and "effort" in lines(view)[0]
    press(window, qtbot, K.Key_Period)
    assert "third or seventh" in view.ladder.why.text()
    press(window, qtbot, K.Key_D)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    window.playback.stop()
    step = view.ladder.chosen
    assert step is not None
    press(window, qtbot, K.Key_N)
    rest(view, window, qtbot)
    song = window.document.song
    assert [take.name for take in song.takes] == ["First take", "Shells"]
    assert [song.voicing(k) for k in range(len(song.slots))] == list(step.rows)
    assert lines(view)[1].startswith("Shells") and view.ladder.chosen is step  # it goes up from the same take
    undo(window, qtbot)
    rest(view, window, qtbot)
    assert len(window.document.song.takes) == 1


def test_fewer_new_grips_make_more_steps_and_the_comparison_comes_back(window: Window, qtbot: QtBot) -> None:
    view = climbing(window, qtbot)
    before = len(lines(view))
    view.ladder.most.setFocus()
    for _ in range(2):
        qtbot.keyClick(view.ladder.most, K.Key_Up)
    assert view.ladder.most.value() == 2
    rest(view, window, qtbot)
    assert len(lines(view)) > before and any("1 of" in one for one in lines(view))
    click(qtbot, button(view, "Keep the step (N)"))
    rest(view, window, qtbot)
    assert window.document.song.take.name == "Single bass and triads"
    press(window, qtbot, K.Key_L)
    assert not view.climbing.on and not view.ladder.isVisible()
    rest(view, window, qtbot)
    assert (
        not view.pairs_area.isVisible() and "Choose another lane" in view.words.text()
    )  # itself with itself
    press(window, qtbot, K.Key_Up)
    assert view.pairs_area.isVisible() and len(view.pairs.pairs)


@pytest.mark.long
def test_it_can_be_stopped_and_asked_again(window: Window, qtbot: QtBot) -> None:
    type_chart(window, qtbot, CHART)
    view = show(window, qtbot, TakesPage)
    rest(view, window, qtbot)
    press(window, qtbot, K.Key_L)
    assert view.ladder.worker.running and "Working out" in view.ladder.why.text()
    press(window, qtbot, K.Key_Escape)
    assert not view.ladder.worker.running and "Stopped" in view.ladder.why.text() and not lines(view)
    press(window, qtbot, K.Key_L, 2)
    rest(view, window, qtbot)
    assert lines(view)
