"""Formulas on the Swaps page, by real keys."""

from __future__ import annotations

from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.swaps_page.formula_face import FormulaFace
from yellow_hinge.ui.swaps_page.view import SwapsPage
from yellow_hinge.ui.window import Window

from .conftest import pick, press, settle, show, type_chart, undo

K = Qt.Key
CHART = "title: Slack Water\nkey: C\ntempo: 100\n[A]\n| C | Am7 | Dm7 | G7 | C |\n"


def opened(window: Window, qtbot: QtBot) -> FormulaFace:
    type_chart(window, qtbot, CHART)
    view = show(window, qtbot, SwapsPage)
    press(window, qtbot, K.Key_F)
    face = view.grip_face
    assert isinstance(face, FormulaFace)
    rest(face, qtbot)
    return face


def rest(face: FormulaFace, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not face.worker.running, timeout=30_000)
    qtbot.wait(20)


def test_a_formula_is_found_heard_taken_and_given_back(window: Window, qtbot: QtBot) -> None:
    face = opened(window, qtbot)
    view = window.page
    assert isinstance(view, SwapsPage)
    view.choose(2)
    pick(qtbot, face.family, "cadences")
    rest(face, qtbot)
    names = [one.formula.id for one in face.found]
    chosen = window.document.song.slots[2].at.written
    assert "two-flat-two-one" in names and all(chosen in one.written for one in face.found)
    view.chips.setFocus()
    while face._chosen is None or face._chosen.formula.id != "two-flat-two-one":
        press(window, qtbot, K.Key_Down)
    assert "falls by half steps" in face.why.text()
    assert "half steps of effort" in face.list.currentItem().text()
    press(window, qtbot, K.Key_H)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    window.playback.stop()
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    assert [str(slot.chord) for slot in window.document.song.slots] == ["C", "Am7", "Dm9", "Db9", "Cmaj9"]
    assert window.document.history.undo_label == "Two, flat two, one"
    undo(window, qtbot)
    assert [str(slot.chord) for slot in window.document.song.slots] == ["C", "Am7", "Dm7", "G7", "C"]


def test_anywhere_there_are_more_and_none_is_said(window: Window, qtbot: QtBot) -> None:
    face = opened(window, qtbot)
    here = len(face.found)
    pick(qtbot, face.where, "anywhere")
    rest(face, qtbot)
    assert len(face.found) >= here > 0 and face.words.text().startswith(f"{len(face.found)} places")
    pick(qtbot, face.family, "line cliches")
    rest(face, qtbot)
    assert all(one.formula.family == "line cliches" for one in face.found)
    if not face.found:
        assert "None fits" in face.words.text() and not face.ready
