"""Twelve keys by real keys and clicks."""

from __future__ import annotations

import threading
from functools import partial

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.tasks.keys import survey as survey_module
from yellow_hinge.tasks.keys.survey import KeyFigures
from yellow_hinge.tasks.song.voice_song import Voiced
from yellow_hinge.ui.pages.keys.view import KeysPage
from yellow_hinge.ui.window import Window

from .conftest import button, click, press, settle, show, type_chart, undo

K = Qt.Key
CHART = "title: Slack Water\nkey: F\ntempo: 100\n[A]\n| Fmaj7 | Dm7 | Gm7 | C7 |\n"


@pytest.fixture
def view(window: Window, qtbot: QtBot) -> KeysPage:
    type_chart(window, qtbot, CHART)
    page = show(window, qtbot, KeysPage)
    qtbot.waitUntil(lambda: page.state.whole, timeout=30_000)
    return page


def test_twelve_rows_in_three_orders(window: Window, view: KeysPage, qtbot: QtBot) -> None:
    assert [str(one.key) for one in view.state.rows][:4] == ["F", "Gb", "G", "Ab"]
    press(window, qtbot, K.Key_O)
    assert [str(one.key) for one in view.state.rows][:4] == ["F", "Bb", "Eb", "Ab"]
    press(window, qtbot, K.Key_Down)
    assert (
        view.key_title.text() == "B♭ major" and "of effort" in view.why.text()
    ) or "least" in view.why.text()
    press(window, qtbot, K.Key_O)
    row = view.state.row
    assert row is not None and str(row.key) == "Bb" and view.state.chosen == 11
    point = view.rows.box_of(1).center().toPoint()
    qtbot.mouseClick(view.rows, Qt.MouseButton.LeftButton, pos=point)
    assert view.key_title.text() == "C major"
    assert view.start.text().count(",") == 2 and view.figures.text().startswith("Effort ")


@pytest.mark.long
def test_a_key_is_heard_and_becomes_the_songs_own(window: Window, view: KeysPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Down, 2)
    press(window, qtbot, K.Key_H)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    window.playback.stop()
    wanted = view.state.here()
    assert wanted is not None
    grips = [wanted.voicing(k) for k in range(4)]
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    song = window.document.song
    assert str(song.key) == "G" and "key: G" in window.document.text
    assert [song.voicing(k) for k in range(4)] == grips and not any(song.locked(k) for k in range(4))
    qtbot.waitUntil(lambda: view.state.whole, timeout=30_000)
    assert str(view.state.rows[0].key) == "G"
    undo(window, qtbot)
    assert str(window.document.song.key) == "F"


@pytest.mark.long
def test_grips_are_carried_over_as_they_are(window: Window, view: KeysPage, qtbot: QtBot) -> None:
    assert "own key" in view.carried.text()
    home = [window.document.song.voicing(k) for k in range(4)]
    press(window, qtbot, K.Key_Down, 3)
    assert view.carried.text().startswith("As they are carried over they would cost")
    press(window, qtbot, K.Key_C)
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    song = window.document.song
    assert str(song.key) == "Ab" and all(song.locked(k) for k in range(4))
    for k, before in enumerate(home):
        now = song.voicing(k)
        assert before and now and {b - a for a, b in zip(before.keys, now.keys, strict=True)} == {3}


@pytest.mark.long
def test_another_chart_is_surveyed_anew(window: Window, view: KeysPage, qtbot: QtBot) -> None:
    before = view.state.found
    type_chart(window, qtbot, CHART.replace("C7", "C13"))
    show(window, qtbot, KeysPage)
    qtbot.waitUntil(lambda: view.state.whole and view.state.found != before, timeout=30_000)
    assert str(view.state.found[0].voiced.song.slots[3].chord) == "C13"
    view.commands["look"].run()
    assert not view.state.whole or not view.worker.running
    qtbot.waitUntil(lambda: view.state.whole, timeout=30_000)


def test_keys_are_chosen_to_practise_and_kept(window: Window, view: KeysPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Down, 2)
    press(window, qtbot, K.Key_M)
    assert [str(key) for key in window.document.song.keys_chosen] == ["G"]
    assert view.state.found and not view.worker.running  # the survey stays
    assert not window.document.worker.running  # and so do the voicings
    press(window, qtbot, K.Key_Down)
    click(qtbot, button(view, "To practise and print (M)"))
    assert {str(key) for key in window.document.song.keys_chosen} == {"G", "Ab"}
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    assert {str(key) for key in window.document.song.keys_chosen} == {"G", "Ab"}
    undo(window, qtbot, 3)
    assert not window.document.song.keys_chosen and str(window.document.song.key) == "F"


@pytest.mark.long
def test_a_key_is_kept_as_a_take_and_the_song_stays(window: Window, view: KeysPage, qtbot: QtBot) -> None:
    keep = view.commands["take-key"]
    assert not keep.enabled()  # the song's own key
    press(window, qtbot, K.Key_Down)
    wanted = view.state.here()
    assert wanted is not None
    press(window, qtbot, K.Key_K)
    settle(window, qtbot)
    song = window.document.song
    assert str(song.key) == "F" and "key: F" in window.document.text
    assert song.take.name == "First take in G♭ major" and len(song.takes) == 2
    assert [str(slot.chord) for slot in song.slots] == ["Gbmaj7", "Ebm7", "Abm7", "Db7"]
    assert [song.voicing(k) for k in range(4)] == [wanted.voicing(k) for k in range(4)]
    undo(window, qtbot)
    assert len(window.document.song.takes) == 1


def _so_many(view: KeysPage, rows: int) -> bool:
    return len(view.state.rows) == rows


@pytest.mark.long
def test_keys_come_one_by_one_and_one_can_go_on_with_those_that_are_there(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The song's own first, each said as soon as it is solved; what needs all of them waits. A key that is
    chosen meanwhile stays chosen, and nothing begins anew."""
    goes_on, asked = threading.Semaphore(0), []
    figures_of = survey_module.figures_of

    def slow(voiced: Voiced) -> KeyFigures:
        asked.append(voiced.song.key)
        goes_on.acquire()
        return figures_of(voiced)

    monkeypatch.setattr(survey_module, "figures_of", slow)
    type_chart(window, qtbot, CHART)
    view = show(window, qtbot, KeysPage)
    assert view.state.rows == [] and view.figures.text() == ""
    for count in (1, 2, 3):
        goes_on.release()
        qtbot.waitUntil(partial(_so_many, view, count))
    assert [str(row.key) for row in view.state.rows] == ["F", "Gb", "G"] and not view.state.whole
    assert view.why.text() == "Said once all twelve keys are there." and view.state.best is None
    press(window, qtbot, K.Key_Down, 3)
    assert view.key_title.text() == "G major" and view.figures.text().startswith("Effort ")
    press(window, qtbot, K.Key_M)
    press(window, qtbot, K.Key_O, 2)  # fifths: what is there of them
    assert [str(row.key) for row in view.state.rows] == ["F", "G", "Gb"] and view.state.chosen == 1
    for _ in range(9):
        goes_on.release()
    qtbot.waitUntil(lambda: view.state.whole)
    assert len(view.state.rows) == 12 == len(asked) and str(view.state.rows[1].key) == "C"
    assert view.key_title.text() == "G major" and view.state.best is not None
    assert view.why.text() != "Said once all twelve keys are there."
    view.commands["look"].run()
    qtbot.waitUntil(lambda: len(asked) == 13)
    type_chart(window, qtbot, CHART.replace("C7", "C13"))
    show(window, qtbot, KeysPage)
    for _ in range(14):
        goes_on.release()
    qtbot.waitUntil(lambda: view.state.whole, timeout=30_000)
    assert str(view.state.found[0].voiced.song.slots[3].chord) == "C13"
