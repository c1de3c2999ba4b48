"""Twelve keys by real keys and clicks."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.pages.keys.view import KeysPage
from yellow_hinge.ui.window import Window

from .conftest import button, click, press, settle, show, type_chart, undo

K = Qt.Key
CHART = "title: Slack Water\nkey: F\ntempo: 100\n[A]\n| Fmaj7 | Dm7 | Gm7 | C7 |\n"


@pytest.fixture
def view(window: Window, qtbot: QtBot) -> KeysPage:
    type_chart(window, qtbot, CHART)
    page = show(window, qtbot, KeysPage)
    qtbot.waitUntil(lambda: bool(page.state.found), timeout=30_000)
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
    qtbot.waitUntil(lambda: bool(view.state.found), timeout=30_000)
    assert str(view.state.rows[0].key) == "G"
    undo(window, qtbot)
    assert str(window.document.song.key) == "F"


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


def test_another_chart_is_surveyed_anew(window: Window, view: KeysPage, qtbot: QtBot) -> None:
    before = view.state.found
    type_chart(window, qtbot, CHART.replace("C7", "C13"))
    show(window, qtbot, KeysPage)
    qtbot.waitUntil(lambda: bool(view.state.found) and view.state.found != before, timeout=30_000)
    assert str(view.state.found[0].voiced.song.slots[3].chord) == "C13"
    view.commands["look"].run()
    assert view.state.found == () or not view.worker.running
    qtbot.waitUntil(lambda: bool(view.state.found), timeout=30_000)


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
