"""The Practise page by real keys: riddles, the map, weeks, settings, and the evening."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox
from pytestqt.qtbot import QtBot

from yellow_hinge.tasks.practice.desk import log_path
from yellow_hinge.tasks.settings.practice_settings import Settings
from yellow_hinge.theory.pitch import pitch_for_key
from yellow_hinge.ui.pages.practise.view import PractisePage
from yellow_hinge.ui.window import Window

from ..conftest import HandClock, button, click, click_in_menu, colours, press, settle, show
from ..test_devices import Player
from .helpers import (
    CTRL,
    K,
    bars_of,
    click_entry,
    down,
    drill,
    held,
    press_page,
    said,
    seen,
    tries,
    written,
)

# --- riddles --------------------------------------------------------------------------------------


def ask(view: PractisePage, qtbot: QtBot, words: str) -> None:
    press_page(view, qtbot, K.Key_D)
    shown = [view.side.drills.list.item(k).text() for k in range(view.side.drills.list.count())]
    item = view.side.drills.list.item(next(k for k, text in enumerate(shown) if text.startswith(words)))
    click_entry(qtbot, view.side.drills.list, item)


@pytest.mark.parametrize("kind", ["notes", "degrees", "chord as a number"])
def test_naming_what_is_asked(view: PractisePage, qtbot: QtBot, kind: str) -> None:
    ask(view, qtbot, "Name the " + kind)
    riddle = view.riddling.riddles.riddle
    assert riddle is not None and view.middle.answer.isVisible() and view.middle.answer.hasFocus()
    held = view.state.first.stands[riddle.stand].held
    shown = view.room.riddles.shown(view.state.first)
    assert set(shown) == (set() if kind.startswith("chord") else set(held.voicing.keys))
    assert not any(mark.word or mark.small for mark in shown.values())  # that would be the answer
    song = view.document.song
    chord = song.slots[riddle.stand].chord
    assert chord is not None
    right = {
        "notes": " ".join(str(held.name(side, key)) for side in ("left", "right")
                          for key in held.voicing.hand(side).keys),
        "degrees": " ".join(held.voicing.degrees),
        "chord as a number": song.number_of(chord),
    }[kind]  # fmt: skip
    qtbot.keyClicks(view.middle.answer, right)
    qtbot.keyClick(view.middle.answer, K.Key_Return)
    assert said(view).startswith("Right:") and view.middle.title.text() == "Riddle · 1 of 1 right"
    qtbot.keyClick(view.middle.answer, K.Key_Return)  # another one
    qtbot.keyClicks(view.middle.answer, "F F F")
    qtbot.keyClick(view.middle.answer, K.Key_Return)
    assert not view.state.good and view.middle.title.text() == "Riddle · 1 of 2 right"
    assert written(view) == []
    view.focus.setFocus()
    press_page(view, qtbot, K.Key_T)
    press_page(view, qtbot, K.Key_Down)
    press_page(view, qtbot, K.Key_Right)
    assert not view.riddling.on and not view.middle.answer.isVisible()


def test_riddles_that_are_played(view: PractisePage, player: Player, qtbot: QtBot) -> None:
    with player:
        for words in ("The same grip", "Call and answer"):
            ask(view, qtbot, words)
            riddle = view.riddling.riddles.riddle
            assert riddle is not None and riddle.wanted is not None
            names = [str(pitch_for_key(k, flats=True)) for k in riddle.wanted.keys]
            shown = view.middle.leaves.accessibleDescription()
            assert words != "Call and answer" or not any(name in shown for name in names)
            player.say(down(riddle.wanted))
            held(view, qtbot, riddle.wanted.keys)
            press_page(view, qtbot, K.Key_Space)
            assert said(view) == "Right." and view.state.good
            player.say("up")
            qtbot.waitUntil(lambda: not view.room.held)
        ask(view, qtbot, "Find it")
        riddle = view.riddling.riddles.riddle
        assert riddle is not None
        after = view.state.first.stands[riddle.stand + 1].voicing
        player.say("down " + " ".join(map(str, after.keys)))
        held(view, qtbot, after.keys)
        press_page(view, qtbot, K.Key_Space)
        assert said(view).startswith("You moved ") and "the nearest is" in said(view)
    assert view.riddling.riddles.asked == 3 and view.riddling.riddles.right >= 2


def test_through_the_keys_in_fourths(view: PractisePage, qtbot: QtBot) -> None:
    press_page(view, qtbot, K.Key_V, 3)
    ask(view, qtbot, "In all keys, in fourths")
    block = view.state.at_hand
    assert block is not None and block.minutes >= 15  # time for twelve of them
    press_page(view, qtbot, K.Key_Space)
    keys = []
    for _ in range(4):
        piece = view.state.piece
        assert piece is not None
        keys.append(piece.key)
        qtbot.waitUntil(lambda: view.rounds.waits_for_mark or view.rounds.active)
        press_page(view, qtbot, K.Key_Y)
    assert keys == ["F", "Bb", "Eb", "Ab"]
    assert [one.change.key for one in written(view)] == ["F", "Bb", "Eb", "Ab"]
    press_page(view, qtbot, K.Key_X)
    press_page(view, qtbot, K.Key_Space)
    assert len(view.state.desk.shelf.own) == len(view.state.first.changes) if view.state.desk else False


# --- map, weeks, settings -------------------------------------------------------------------------


def test_the_map_shows_how_sure_each_change_is(view: PractisePage, qtbot: QtBot) -> None:
    press_page(view, qtbot, K.Key_M)
    bars = bars_of(view)
    assert len(bars) == len(view.state.first.row) and all(
        0 < sure < 1 and not tries for sure, tries, _ in bars
    )
    assert "not tried yet" in view.side.map.words.text()
    weakest = [view.side.map.list.item(k).text() for k in range(view.side.map.list.count())]
    assert "slips expected, not tried yet" in weakest[0]
    wide = view.side.map.map.width() / len(bars)
    qtbot.mouseClick(view.side.map.map, Qt.MouseButton.LeftButton, pos=QPoint(int(4 + wide * 5.4), 60))
    assert view.state.chosen == 5 and view.state.drill is not None and view.state.drill.first == 5
    press_page(view, qtbot, K.Key_Up)
    assert view.state.chosen == 4
    press_page(view, qtbot, K.Key_V, 3)
    press_page(view, qtbot, K.Key_Space)
    before = bars_of(view)[4][0]
    press_page(view, qtbot, K.Key_Y)
    after = bars_of(view)[4]
    assert after[0] > before and after[1] == 1 and ", 1 try" in view.side.map.words.text()
    press_page(view, qtbot, K.Key_Space)


def test_the_log_is_saved_and_deleted(
    window: Window, view: PractisePage, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    press_page(view, qtbot, K.Key_V, 3)
    drill(view, qtbot, 0)
    press_page(view, qtbot, K.Key_Space)
    press_page(view, qtbot, K.Key_Y)
    press_page(view, qtbot, K.Key_Space)
    press_page(view, qtbot, K.Key_W)
    assert view.side.weeks.words.text().startswith("1 try in") and "100% clean" in seen(view.side.weeks.weeks)
    assert view.side.weeks.passage_words.text().endswith(": 1 try.") and "100% clean" in seen(
        view.side.weeks.passage
    )
    view.state.chosen = 5
    view.show_all()
    assert view.side.weeks.passage_words.text().endswith(": 0 tries.") and "100%" not in seen(
        view.side.weeks.passage
    )
    written(view)
    for name in ("log.csv", "log.json"):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, to=name: (str(tmp_path / to), ""))
        click(qtbot, button(view, "Save the log..."))
        assert said(view) == f"Saved as {name}."
    rows = list(csv.DictReader((tmp_path / "log.csv").read_text().splitlines()))
    assert len(rows) == 1 and rows[0]["title"] == "Tin Whistle"
    assert json.loads((tmp_path / "log.json").read_text())[0]["clean"] is True
    answers = [QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Yes]
    monkeypatch.setattr(QMessageBox, "question", lambda *_: answers.pop(0))
    click(qtbot, button(view, "Delete this song's log..."))
    assert len(tries()) == 1
    click(qtbot, button(view, "Delete this song's log..."))
    assert tries() == []
    qtbot.waitUntil(lambda: "Nothing has been practised" in view.side.weeks.words.text(), timeout=10_000)


@pytest.mark.long
def test_keys_at_the_ends_of_the_keyboard_act(view: PractisePage, player: Player, qtbot: QtBot) -> None:
    press_page(view, qtbot, K.Key_E)
    for name, row in (("again_key", 1), ("next_key", view.side.set.ends["next_key"].count() - 1)):
        box = view.side.set.ends[name]
        box.setCurrentIndex(row)
        box.activated.emit(row)  # what a platform without popups does not send for a key
    assert (Settings.read()[0].again_key, Settings.read()[0].next_key) == (21, 108)
    view.focus.setFocus()
    with player:
        player.say("down 108", "up 108")
        qtbot.waitUntil(lambda: view.rounds.active, timeout=60_000)
        player.say("down 108", "up 108")
        qtbot.waitUntil(lambda: view.state.block == 1, timeout=5000)
        runner = view.state.runner
        player.say("down 21", "up 21")
        qtbot.waitUntil(lambda: view.state.runner is not runner, timeout=5000)
    assert view.rounds.active and written(view) == []
    press_page(view, qtbot, K.Key_Space)


@pytest.mark.long
def test_latency_is_measured_and_taken_off(
    view: PractisePage, player: Player, qtbot: QtBot, clock: HandClock
) -> None:
    press_page(view, qtbot, K.Key_E)
    assert "not measured yet" in view.side.set.latency.text()
    with player:
        click(qtbot, button(view, "Measure latency"))
        for count, at in enumerate(list(view.rounds._clicks), 1):
            clock.at = at + 0.1 + (count % 3 - 1) * 0.004  # nobody strikes like a machine
            player.say("down 60", "up 60")
            qtbot.waitUntil(lambda count=count: len(view.rounds._struck) == count)  # type: ignore[misc]
        clock.at += 1.2
        qtbot.waitUntil(lambda: view.state.settings.latency_ms is not None, timeout=60_000)
    measured = view.state.settings.latency_ms
    assert measured == 100 and "are taken off" in said(view)
    assert Settings.read()[0].latency_ms == measured
    click(qtbot, button(view, "Measure latency"))
    clock.at += 30  # and nothing is struck
    qtbot.waitUntil(lambda: "too little to go by" in said(view), timeout=60_000)
    assert view.state.settings.latency_ms == measured


def test_settings_that_cannot_be_read_are_said(window: Window, qtbot: QtBot) -> None:
    Settings.path().parent.mkdir(parents=True, exist_ok=True)
    Settings.path().write_text('{"late_ms": -4}')
    page = show(window, qtbot, PractisePage)
    assert "late_ms must be 20..1000" in window.message.text.text() and page.state.settings.late_ms == 120
    assert Settings.path().read_text() == '{"late_ms": -4}'


def test_a_damaged_log_is_set_aside_and_playing_goes_on(window: Window, qtbot: QtBot) -> None:
    log_path().parent.mkdir(parents=True, exist_ok=True)
    log_path().write_bytes(b"no database at all" * 100)
    page = show(window, qtbot, PractisePage)
    qtbot.waitUntil(lambda: "it was set aside as" in window.message.text.text(), timeout=60_000)
    [aside] = log_path().parent.glob("*damaged*")
    assert aside.read_bytes().startswith(b"no database")
    assert page.state.ready
    press_page(page, qtbot, K.Key_V, 3)
    press_page(page, qtbot, K.Key_Space)
    press_page(page, qtbot, K.Key_Y)
    assert page.rounds.active
    press_page(page, qtbot, K.Key_Space)


# --- the evening ----------------------------------------------------------------------------------


def test_songs_of_the_evening_share_a_plan_and_their_sheets(
    window: Window, view: PractisePage, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    files = []
    for name, chords in (("Gravel Tide", "| C6 Am7 Dm7 G7 |"), ("Iron Gull", "| Ebmaj7 | Abmaj7 |")):
        files.append(tmp_path / f"{name}.txt")
        files[-1].write_text(f"title: {name}\nkey: C\ntempo: 100\n[A]\n{chords}\n")
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(one) for one in files], ""))
    press_page(view, qtbot, K.Key_D)
    click(qtbot, button(view, "Add a song..."))
    qtbot.waitUntil(lambda: view.state.desk is not None and view.state.desk.shelf.songs == 3, timeout=60_000)
    assert view.filing.evening.names == ["Gravel Tide", "Iron Gull"]
    assert {"Gravel Tide", "Tin Whistle"} <= {view.state.desk.shelf.pieces[b.drill.piece].title  # type: ignore[union-attr]
                                              for b in view.state.blocks if b.drill is not None}  # fmt: skip
    view.side.drills.shelf.setCurrentRow(1)
    click_in_menu(qtbot, view.side.drills.shelf_menu, "Move up")
    assert view.filing.evening.names == ["Iron Gull", "Gravel Tide"]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "evening"), ""))
    click_in_menu(qtbot, view.side.drills.shelf_menu, "Save their sheets...")
    assert (tmp_path / "evening.pdf").read_bytes().startswith(b"%PDF") and said(
        view
    ) == "Saved as evening.pdf."
    files[1].unlink()
    view.look_again()
    qtbot.waitUntil(lambda: "Iron Gull" in window.message.text.text(), timeout=60_000)
    view.side.drills.shelf.setCurrentRow(0)
    click_in_menu(qtbot, view.side.drills.shelf_menu, "Take away")
    qtbot.waitUntil(lambda: view.state.desk is not None and view.state.desk.shelf.songs == 2, timeout=60_000)
    assert view.filing.evening.names == ["Gravel Tide"] and files[0].exists()
    settle(window, qtbot)


@pytest.mark.long
def test_all_of_it_in_the_dark(window: Window, view: PractisePage, qtbot: QtBot) -> None:
    qtbot.keyClick(window, K.Key_D, CTRL)
    assert view.theme.name == "dark" and {view.theme.ground, view.theme.key_white} <= colours(view)
    for key in (K.Key_M, K.Key_W, K.Key_E, K.Key_D, K.Key_T):
        press_page(view, qtbot, key)
    press(window, qtbot, K.Key_Space)
    press(window, qtbot, K.Key_Space)
