"""The Swaps page, driven in the real window."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.reharm.appetite import APPETITES
from yellow_hinge.reharm.rules import RULES
from yellow_hinge.song.model import Song
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.ui.pages.hinges.state import Selection
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.window import Window

from .conftest import click, click_in_menu, page, pick, press, settle, show, undo

K = Qt.Key
#: Rules that are left on where the rest would only take time.
FEW = {"tritone", "relative", "backdoor", "two-five", "upper"}


def opened(window: Window, qtbot: QtBot) -> SwapsPage:
    view = show(window, qtbot, SwapsPage)
    weighed(window, qtbot)
    return view


def weighed(window: Window, qtbot: QtBot) -> None:
    """Wait until the page has weighed the chosen chord."""
    view = page(window, SwapsPage)
    qtbot.waitUntil(lambda: not view.weighing.worker.running, timeout=30_000)
    settle(window, qtbot)
    qtbot.waitUntil(lambda: not view.weighing.worker.running, timeout=30_000)


@pytest.mark.long
def test_a_swap_is_weighed_heard_taken_shown_and_given_back(window: Window, qtbot: QtBot) -> None:
    document, hinges = window.document, page(window, HingesPage)
    hinges.walking.select(Selection(4))
    view = opened(window, qtbot)
    at = document.song.slots[4].at.written
    assert view.state.at == at
    assert "bar" in view.face_stack.heading.text().lower() and view.on_face.first.model.rowCount() > 3
    press(window, qtbot, K.Key_Down)
    proposal = view.state.proposal
    assert proposal is not None and proposal in view.state.weighed
    assert (
        view.side.reason.text()
        and view.side.melody_label.text()
        and "Bass now" in view.side.bass_label.text()
    )
    press(window, qtbot, K.Key_H)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    window.playback.stop()
    before = document.song.slots
    press(window, qtbot, K.Key_Return)
    weighed(window, qtbot)
    song = document.song
    assert [one.chord for one in song.arrangement.swaps[at]] == [one.chord for one in proposal.chords]
    swapped = [slot.index for slot in song.slots if slot.was is not None]
    assert len({song.slots[index].round for index in swapped}) == 2  # in both rounds of the verse
    show(window, qtbot, HingesPage)
    hinges.walking.select(Selection(swapped[0]))
    assert "the chart has" in hinges.side.place.text()
    press(window, qtbot, K.Key_R)
    settle(window, qtbot)
    assert document.song.slots == before
    undo(window, qtbot)
    assert document.song.arrangement.swaps == song.arrangement.swaps


@pytest.mark.long
def test_a_swap_on_the_second_take_stays_on_the_second_take(window: Window, qtbot: QtBot) -> None:
    document, hinges = window.document, page(window, HingesPage)
    press(window, qtbot, K.Key_X)
    press(window, qtbot, K.Key_K)
    settle(window, qtbot)
    row = document.song
    assert row.take.name == "Row 2"
    hinges.walking.select(Selection(0))
    press(window, qtbot, K.Key_L)  # let one chord go
    settle(window, qtbot)
    view = opened(window, qtbot)
    press(window, qtbot, K.Key_Return)
    weighed(window, qtbot)
    song = document.song
    assert song.take.name == "Row 2" and set(song.arrangement.swaps) == {view.state.at}
    assert song.takes[0] == row.takes[0]
    for at, choice in row.arrangement.choices.items():
        if at.written != view.state.at:
            assert song.arrangement.choices[at] == choice


@pytest.mark.long
def test_a_rule_is_switched_by_a_click_in_its_menu(window: Window, qtbot: QtBot) -> None:
    view, document = opened(window, qtbot), window.document
    rules = {one.rule for one in view.state.here}
    rule = RULES[next(iter(sorted(rules)))]
    click_in_menu(qtbot, view.on_face.first.rules_menu, rule.name)
    weighed(window, qtbot)
    assert document.song.arrangement.rules_off == (rule.id,)
    assert rule.id not in {one.rule for one in view.state.here}
    assert document.history.undo_label == f"Switch off {rule.name}"
    action = next(a for a in view.on_face.first.rules_menu.actions() if a.text() == rule.name)
    assert action.isCheckable() and not action.isChecked()
    click_in_menu(qtbot, view.on_face.first.rules_menu, rule.name)
    weighed(window, qtbot)
    assert document.song.arrangement.rules_off == () and action.isChecked()
    assert {one.rule for one in view.state.here} == rules
    within = next(a.menu() for a in window.page_menu.actions() if a.text() == "Rules")
    click_in_menu(qtbot, within, rule.name)  # type: ignore[arg-type]
    weighed(window, qtbot)
    assert document.song.arrangement.rules_off == (rule.id,)


@pytest.mark.long
def test_the_trade_curve_is_worked_out_and_a_point_taken(window: Window, qtbot: QtBot) -> None:
    view, document = opened(window, qtbot), window.document
    press(window, qtbot, K.Key_X)
    weighed(window, qtbot)
    assert document.song.arrangement.untouched == {view.state.at}
    assert view.commands["keep"].checked and view.commands["keep"].checked()
    for rule in set(RULES) - FEW:
        view.commands[f"rule-{rule}"].try_run()
    weighed(window, qtbot)
    press(window, qtbot, K.Key_C)
    qtbot.waitUntil(lambda: len(view.state.curve) > 2, timeout=60_000)
    weighed(window, qtbot)
    click(qtbot, view.side.curve.curve, view.side.curve.curve._places()[2].toPoint())
    weighed(window, qtbot)
    swaps = document.song.arrangement.swaps
    assert len(swaps) == 2 and view.state.at not in swaps
    assert view.side.curve.words.text().count("for") == 2
    assert len(view.state.curve) > 2  # the curve is still there to choose from
    view.grab()


@pytest.mark.long
def test_the_turning_point_is_taken_by_a_key(window: Window, qtbot: QtBot) -> None:
    view = opened(window, qtbot)
    for rule in set(RULES) - FEW:
        view.commands[f"rule-{rule}"].try_run()
    weighed(window, qtbot)
    assert not view.commands["turn"].enabled()
    press(window, qtbot, K.Key_C)
    qtbot.waitUntil(lambda: len(view.state.curve) > 2, timeout=60_000)
    weighed(window, qtbot)
    least = view.state.least
    assert least > 0
    press(window, qtbot, K.Key_T)
    weighed(window, qtbot)
    assert len(window.document.song.arrangement.swaps) == least


@pytest.mark.long
def test_a_local_key_set_by_the_player(window: Window, qtbot: QtBot) -> None:
    view, document = opened(window, qtbot), window.document
    press(window, qtbot, K.Key_Right, 2)
    weighed(window, qtbot)
    pick(qtbot, view.on_face.first.key_box, parse_key("Bb"))
    weighed(window, qtbot)
    assert document.song.arrangement.keys_set == {view.state.at: parse_key("Bb")}
    assert "B♭" in view.face_stack.heading.text() and document.history.undo_label == "Local key B♭ major"
    pick(qtbot, view.on_face.first.note_box, view.state.note_choices()[4][0])
    assert view.on_face.first.note_box.currentText() == "E" and "E" in view.on_face.first.words.text()


def test_a_chip_chooses_and_the_list_is_walked_and_clicked(window: Window, qtbot: QtBot) -> None:
    view = opened(window, qtbot)
    box = next(box for box, index, _ in view.chips._layout()[0] if index == 4)
    click(qtbot, view.chips, box.center().toPoint())
    weighed(window, qtbot)
    assert view.state.chosen == 4
    row = view.on_face.first.list.visualRect(view.on_face.first.model.index(2)).center()
    click(qtbot, view.on_face.first.list.viewport(), row)
    assert view.state.proposal == view.state.shown[2]
    press(window, qtbot, K.Key_Up)
    assert view.state.proposal == view.state.shown[1]
    assert view.on_face.first.model.lines[-1].proposal is None  # how many more there are
    press(window, qtbot, K.Key_A)
    assert (
        all(line.proposal for line in view.on_face.first.model.lines)
        and view.on_face.first.model.rowCount() > 12
    )
    press(window, qtbot, K.Key_V)
    weighed(window, qtbot)


def test_a_song_without_chords(window: Window, qtbot: QtBot) -> None:
    view = opened(window, qtbot)
    window.document.start_over(Song(), None)
    weighed(window, qtbot)
    assert "type a chart" in view.face_stack.heading.text()
    for key in (K.Key_Return, K.Key_C, K.Key_R, K.Key_X, K.Key_H, K.Key_V, K.Key_T, K.Key_Right, K.Key_Down):
        press(window, qtbot, key)
    assert not view.weighing.worker.running and window.document.song == Song()


@pytest.mark.long
def test_an_appetite_and_a_style_are_chosen_and_one_s_own_is_learnt(window: Window, qtbot: QtBot) -> None:
    view, document = opened(window, qtbot), window.document
    press(window, qtbot, K.Key_C)
    qtbot.waitUntil(lambda: len(view.state.curves) == len(APPETITES), timeout=90_000)
    weighed(window, qtbot)
    fits = view.state.curve
    pick(qtbot, view.side.curve.appetite, "dominants")
    assert view.state.appetite == "dominants" and view.state.curve != fits
    written = view.state.curve[-1].voiced.song.arrangement.swaps
    chords = [document.song.chart.by_id[at].chord for at in written]
    assert chords and all(one is not None and one.seventh == "b7" for one in chords)
    pick(qtbot, view.side.curve.style_box, "bebop")
    weighed(window, qtbot)
    assert (
        document.song.arrangement.style == "bebop" and "tritone roots" in view.side.curve.style_box.toolTip()
    )
    assert view.state.curves == {}  # another style is another question
    undo(window, qtbot)
    weighed(window, qtbot)
    assert document.song.arrangement.style is None and view.side.curve.style_box.currentData() is None
    assert not view.commands["learn-style"].enabled()
    for chord in (0, 4, 5, 6):
        view.swapping.choose(chord)
        weighed(window, qtbot)
        press(window, qtbot, K.Key_Return)
        settle(window, qtbot)
        weighed(window, qtbot)
    view.commands["learn-style"].run()
    weighed(window, qtbot)
    assert document.song.arrangement.style == "mine" and "4 swaps" in window.message.text.text()
    assert view.side.curve.style_box.currentText() == "as I swap"
    before = view.state.found
    view.commands["learn-style"].run()  # it holds already: what it learnt now is weighed anew
    weighed(window, qtbot)
    assert view.state.found is not before and view.state.found is not None
