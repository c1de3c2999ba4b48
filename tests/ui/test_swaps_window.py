"""The Swaps page, driven in the real window."""

from __future__ import annotations

from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.song.model import Song
from yellow_hinge.ui.hinges_page.state import Selection
from yellow_hinge.ui.window import HINGES, SWAPS, Window

from .conftest import press, settle


def weighed(window: Window, qtbot: QtBot) -> None:
    """Wait until the Swaps page has weighed the chosen chord."""
    qtbot.waitUntil(lambda: not window.swaps_view.worker.running, timeout=30_000)
    settle(window, qtbot)


def test_a_swap_is_weighed_heard_taken_shown_and_given_back(window: Window, qtbot: QtBot) -> None:
    document = window.document
    window.hinges_view.select(Selection(4))
    window.go_to(SWAPS)
    view = window.swaps_view
    weighed(window, qtbot)
    assert view.state.chosen == document.song.slots[4].written
    assert "bar" in view.heading.text().lower() and view.model.rowCount() > 3
    press(window, qtbot, Qt.Key.Key_Down)
    proposal = view.state.proposal
    assert proposal is not None and proposal in view.state.weighed
    assert view.reason.text() and view.melody_label.text() and "Bass now" in view.bass_label.text()
    press(window, qtbot, Qt.Key.Key_H)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    window.playback.stop()
    before = document.song.slots
    press(window, qtbot, Qt.Key.Key_Return)
    weighed(window, qtbot)
    song = document.song
    assert [at.chord for at in song.swaps[proposal.at]] == [one.chord for one in proposal.chords]
    first = next(slot.index for slot in song.slots if slot.was is not None)
    window.go_to(HINGES)
    window.hinges_view.select(Selection(first))
    assert "the chart has" in window.hinges_view.chosen_place.text()
    press(window, qtbot, Qt.Key.Key_R)
    settle(window, qtbot)
    assert document.song.slots == before
    window.undo()
    settle(window, qtbot)
    assert document.song.swaps == song.swaps


def test_the_trade_curve_is_worked_out_and_a_point_taken(window: Window, qtbot: QtBot) -> None:
    document = window.document
    window.go_to(SWAPS)
    view = window.swaps_view
    weighed(window, qtbot)
    press(window, qtbot, Qt.Key.Key_X)
    weighed(window, qtbot)
    assert document.song.untouched == {0} and view.keep_button.isChecked()
    for rule in list(view.rule_actions)[:14]:
        view.set_rule(rule, False)
    weighed(window, qtbot)
    press(window, qtbot, Qt.Key.Key_C)
    qtbot.waitUntil(lambda: len(view.state.curve) > 2, timeout=60_000)
    point = view.curve._places()[2]
    qtbot.mouseClick(view.curve, Qt.MouseButton.LeftButton, pos=point.toPoint())
    weighed(window, qtbot)
    assert len(document.song.swaps) == 2 and 0 not in document.song.swaps
    assert view.curve_label.text().count("for") == 2
    view.grab()
    window.switch_theme()
    view.grab()
    window.switch_theme()


def test_a_key_set_by_the_player_and_a_song_without_chords(window: Window, qtbot: QtBot) -> None:
    document = window.document
    window.go_to(SWAPS)
    view = window.swaps_view
    weighed(window, qtbot)
    view.choose(2)
    weighed(window, qtbot)
    row = next(i for i in range(view.key_box.count()) if view.key_box.itemText(i) == "B♭ major")
    view.key_box.setCurrentIndex(row)
    view.key_box.activated.emit(row)
    weighed(window, qtbot)
    assert {at: str(key) for at, key in document.song.keys_set.items()} == {2: "Bb"}
    assert "B♭" in view.heading.text()
    view.note_box.setCurrentIndex(4)
    view.note_box.activated.emit(4)
    assert view.note_box.currentText() == "E" and "E" in view.fitting.text()
    document.start_over(Song(), None)
    weighed(window, qtbot)
    assert "type a chart" in view.heading.text()
    press(window, qtbot, Qt.Key.Key_Return)
    press(window, qtbot, Qt.Key.Key_C)
    press(window, qtbot, Qt.Key.Key_R)
    assert not view.worker.running
