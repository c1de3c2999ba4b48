"""Formulas on the Swaps page, by real keys."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.tasks.swaps.own_formulas import own_formulas, own_formulas_path
from yellow_hinge.ui.pages.swaps.formula_face import FormulaFace
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.window import Window

from .conftest import pick, press, settle, show, type_chart, undo

K = Qt.Key
CHART = "title: Slack Water\nkey: C\ntempo: 100\n[A]\n| C | Am7 | Dm7 | G7 | C |\n"


def opened(window: Window, qtbot: QtBot) -> FormulaFace:
    type_chart(window, qtbot, CHART)
    view = show(window, qtbot, SwapsPage)
    press(window, qtbot, K.Key_F)
    face = view.on_face.face
    assert isinstance(face, FormulaFace)
    rest(face, qtbot)
    return face


def rest(face: FormulaFace, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not face.worker.running, timeout=30_000)
    qtbot.wait(20)


@pytest.mark.long
def test_a_formula_is_found_heard_taken_and_given_back(window: Window, qtbot: QtBot) -> None:
    face = opened(window, qtbot)
    view = window.page
    assert isinstance(view, SwapsPage)
    view.swapping.choose(2)
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


@pytest.mark.long
def test_what_fits_is_listed_before_it_is_weighed(window: Window, qtbot: QtBot) -> None:
    """What is chosen meanwhile stays chosen, wherever its weight puts it."""
    face = opened(window, qtbot)
    listed: list[str] = []

    def choose_the_third(_: object) -> None:
        listed.extend(face.list.item(row).text() for row in range(face.list.count()))
        face.list.setCurrentRow(2)

    face.worker.part.connect(choose_the_third)
    pick(qtbot, face.where, "anywhere")
    rest(face, qtbot)
    assert len(listed) == len(face.found) > 3 and all("not weighed" in line for line in listed)
    chosen = face._chosen
    assert chosen is not None and listed[2].startswith(f"{chosen.formula.name}, bar {chosen.bar}:")
    assert "not weighed" not in face.list.item(0).text() and face.words.text().endswith("in twelve keys.")


def test_weighing_that_is_stopped_leaves_the_list(window: Window, qtbot: QtBot) -> None:
    face = opened(window, qtbot)
    face.worker.part.connect(lambda _: face.stop())
    pick(qtbot, face.where, "anywhere")
    rest(face, qtbot)
    assert face.list.count() == len(face.found) > 3 and "not weighed" in face.list.item(0).text()
    assert "Weighing" not in face.words.text() and face.words.text().startswith(f"{len(face.found)} places")


@pytest.mark.long
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


@pytest.mark.long
def test_a_run_is_kept_found_shown_in_all_keys_and_forgotten(window: Window, qtbot: QtBot) -> None:
    face = opened(window, qtbot)
    view = window.page
    assert isinstance(view, SwapsPage)
    pick(qtbot, face.family, "mine")
    rest(face, qtbot)
    assert "You have none yet" in face.words.text()
    view.swapping.choose(1)
    rest(face, qtbot)
    assert not view.commands["keep-run"].enabled()  # it has no name
    face.name.setFocus()
    qtbot.keyClicks(face.name, "Way home")
    assert "Am7 Dm7 G7 C:" in face.run_words.text()
    qtbot.keyClick(face.name, K.Key_Return)
    rest(face, qtbot)
    assert [one.name for one in own_formulas().values()] == ["Way home"]
    assert {one.formula.name for one in face.found} == {"Way home"} and face.name.text() == ""
    assert "brings its grips and its rhythm" in face.why.text()
    before = [window.document.song.voicing(k) for k in range(1, 5)]
    view.chips.setFocus()
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    song = window.document.song
    assert [song.locked(k) for k in range(5)] == [False, True, True, True, True]
    assert [song.voicing(k) for k in range(1, 5)] == before
    rest(face, qtbot)
    press(window, qtbot, K.Key_U)
    rest(face, qtbot)
    assert face.list.count() == 12 and face.list.item(1).text().startswith("F major: Dm7 Gm7 C7 F.")
    press(window, qtbot, K.Key_Down, 3)
    press(window, qtbot, K.Key_H)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    window.playback.stop()
    assert face.edit(whole=False) is None  # a key is no place in this song
    press(window, qtbot, K.Key_U)
    rest(face, qtbot)
    press(window, qtbot, K.Key_Delete)
    rest(face, qtbot)
    assert own_formulas() == {} and window.document.song.locked(1)


@pytest.mark.long
def test_a_broken_file_is_said_and_left_alone(window: Window, qtbot: QtBot) -> None:
    own_formulas_path().parent.mkdir(parents=True, exist_ok=True)
    own_formulas_path().write_text("schema = 7")
    face = opened(window, qtbot)
    face.name.setText("Other")
    heard: list[object] = []
    face.said.connect(heard.append)
    face.name.setFocus()
    qtbot.keyClick(face.name, K.Key_Return)
    assert heard and own_formulas_path().read_text() == "schema = 7"
    assert face.name.text() == "Other"
