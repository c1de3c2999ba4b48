"""Practising by real keys and clicks, with another process at the simulated keyboard."""

from __future__ import annotations

import csv
import json
import os
import subprocess
import sys
import time
from pathlib import Path
from textwrap import dedent

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFileDialog, QListWidget, QListWidgetItem, QMessageBox, QWidget
from pytestqt.qtbot import QtBot

from yellow_hinge.practice.log import Log, Try
from yellow_hinge.practice.runner import Runner
from yellow_hinge.practice.strokes import Stroke
from yellow_hinge.tasks.practice_desk import CAUTION, log_path
from yellow_hinge.tasks.practice_settings import read_settings, settings_path
from yellow_hinge.theory.pitch import Pitch, name_for_pitch_class
from yellow_hinge.ui.practise_page.map_state import sureness
from yellow_hinge.ui.practise_page.view import PractisePage
from yellow_hinge.ui.song_page.view import SongPage
from yellow_hinge.ui.window import Window

from .conftest import button, click, press, settle, show, type_chart
from .test_devices import Player

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
CHART = (
    "title: Tin Whistle\nkey: F\ntempo: 240\n[Up]\n| Fmaj7 D7 Gm7 C7 | Am7 Dm7 Gm7 C7 |\n"
    "[Down]\n| Bbmaj7 Am7 Gm7 Fmaj7 |\n"
)


@pytest.fixture
def view(window: Window, qtbot: QtBot) -> PractisePage:
    type_chart(window, qtbot, CHART)
    page = show(window, qtbot, PractisePage)
    qtbot.waitUntil(lambda: page.state.ready, timeout=20_000)
    return page


@pytest.fixture
def player(window: Window, view: PractisePage, qtbot: QtBot) -> Player:
    """Another process at the simulated keyboard, chosen in its panel."""
    qtbot.keyClick(window, K.Key_K, CTRL)
    box = window.panel.box
    box.setFocus()
    qtbot.keyClick(box, K.Key_Down)
    box.activated.emit(1)  # what a platform without popups does not send for a key
    qtbot.keyClick(window, K.Key_K, CTRL)
    view.focus.setFocus()
    assert view.keyboard_name == window.devices.simulated.name
    return Player(window.devices)


def tries() -> list[Try]:
    log = Log(log_path())
    try:
        return log.tries() if log_path().exists() else []
    finally:
        log.close()


def written(view: PractisePage) -> list[Try]:
    """The log, once everything is in it."""
    view.keeper.settle()
    return tries()


def down(stroke: Stroke, instead: dict[int, int] | None = None) -> str:
    return "down " + " ".join(str((instead or {}).get(key, key)) for key in stroke.keys)


def said(view: PractisePage) -> str:
    return view.middle.sentence.text()


def place(view: PractisePage) -> int:
    runner = view.state.runner
    return -1 if runner is None or runner.listener is None else runner.listener.place


def drill(view: PractisePage, qtbot: QtBot, number: int) -> None:
    """Take a drill of one's own by keyboard."""
    press_page(view, qtbot, K.Key_D)
    view.drills.list.setCurrentRow(-1)
    press_page(view, qtbot, K.Key_Down, number + 1)
    press_page(view, qtbot, K.Key_Right)


def press_page(view: PractisePage, qtbot: QtBot, key: Qt.Key, times: int = 1) -> None:
    for _ in range(times):
        qtbot.keyClick(view.focus, key)


def next_round(view: PractisePage, qtbot: QtBot, runner: Runner | None) -> None:
    """Wait until another round than this has begun."""
    qtbot.waitUntil(lambda: view.state.runner is not runner, timeout=20_000)


def held(view: PractisePage, qtbot: QtBot, keys: tuple[int, ...]) -> None:
    """Wait until these keys are down."""
    qtbot.waitUntil(lambda: view.middle.held == tuple(sorted(keys)), timeout=20_000)


def bars_of(view: PractisePage) -> list[tuple[float, int, str]]:
    """What the map shows."""
    assert view.state.desk is not None
    return sureness(view.state.desk.shelf)


def seen(picture: QWidget) -> str:
    """What a picture shows, in words."""
    return picture.accessibleDescription()


def click_entry(qtbot: QtBot, entries: QListWidget, item: QListWidgetItem) -> None:
    entries.scrollToItem(item)
    click(qtbot, entries.viewport(), entries.visualItemRect(item).center())


# --- the plan -----------------------------------------------------------------------------------


def test_todays_blocks_stand_at_the_left_with_their_reasons(view: PractisePage, qtbot: QtBot) -> None:
    shown = [view.today.list.item(k).text() for k in range(view.today.list.count())]
    assert len(shown) == len(view.state.blocks) > 3 and all(" min" in text for text in shown)
    assert sum("new" in text for text in shown) > 2 and "ends on what works" in shown[-1]
    assert view.today.words.text().startswith(f"0 of {len(shown)} done, 20 minutes left")
    assert "Stop at pain" in CAUTION and any(
        label.text() == CAUTION for label in view.today.findChildren(type(view.today.words))
    )
    view.today.minutes.setFocus()
    view.today.minutes.selectAll()
    qtbot.keyClicks(view.today.minutes, "40")
    qtbot.keyClick(view.today.minutes, K.Key_Return)
    qtbot.waitUntil(lambda: abs(sum(block.minutes for block in view.state.blocks) - 40) < 0.1)
    assert sum(block.drill is None for block in view.state.blocks) == 2  # breaks
    assert read_settings()[0].minutes == 40
    view.today.days.setFocus()
    view.today.days.selectAll()
    qtbot.keyClicks(view.today.days, "3")
    qtbot.keyClick(view.today.days, K.Key_Return)
    qtbot.waitUntil(lambda: len(view.state.ahead) == 2)
    rows = [view.today.list.item(k).text() for k in range(view.today.list.count())]
    assert rows[-2].startswith("Tomorrow, as it may be\n") and rows[-1].startswith(
        "In 2 days, as it may be\n"
    )
    click_entry(qtbot, view.today.list, view.today.list.item(len(rows) - 1))
    assert view.state.block == 0  # a guess is no block


def test_another_block_by_a_click_and_by_keys(view: PractisePage, qtbot: QtBot) -> None:
    first = view.middle.title.text()
    item = view.today.list.item(1)
    qtbot.mouseClick(
        view.today.list.viewport(),
        Qt.MouseButton.LeftButton,
        pos=view.today.list.visualItemRect(item).center(),
    )
    assert view.state.block == 1 and view.focus.hasFocus()
    press_page(view, qtbot, K.Key_Up)
    press_page(view, qtbot, K.Key_Right)
    assert view.state.block == 0 and view.middle.title.text() == first
    press_page(view, qtbot, K.Key_N)
    assert view.state.block == 1


def test_there_is_nothing_to_practise_without_chords(window: Window, qtbot: QtBot) -> None:
    type_chart(window, qtbot, "title: Nothing\nkey: C\n[A]\n| N.C. | N.C. |\n")
    page = show(window, qtbot, PractisePage)
    qtbot.waitUntil(lambda: page.state.desk is not None, timeout=20_000)
    assert "Write two chords or more" in page.middle.leaves.accessibleDescription()
    for key in (K.Key_Space, K.Key_A, K.Key_N, K.Key_H, K.Key_Y, K.Key_X, K.Key_B, K.Key_F, K.Key_Right):
        press_page(page, qtbot, key)
    assert not page.rounds.active and not log_path().exists()


# --- a drill from start to verdict --------------------------------------------------------------


def test_a_drill_from_start_to_verdict(view: PractisePage, player: Player, qtbot: QtBot) -> None:
    drill(view, qtbot, 1)
    assert view.state.settings.way == "wait"
    press_page(view, qtbot, K.Key_Space)
    runner = view.state.runner
    assert (
        runner is not None and len(runner.strokes) == 3 and said(view) == "Play the leaf with the heavy edge."
    )
    one, two, three = runner.strokes
    wrong = two.right[0] + 1
    with player:
        player.say(down(one), "wait 0.2", "up")
        qtbot.waitUntil(lambda: place(view) == 1, timeout=20_000)
        assert said(view) == "Right."
        qtbot.waitUntil(lambda: not view.middle.held)
        player.say(down(two, {two.right[0]: wrong}))
        qtbot.waitUntil(lambda: "wanted" in said(view) or "besides" in said(view), timeout=5000)
        assert place(view) == 1 and not view.state.good
        assert two.who(two.right[0]).capitalize()[:5] in said(view)
        assert view.state.marks()[wrong].side == "wrong"
        player.say(f"up {wrong}", f"down {two.right[0]}", "wait 0.2", "up")
        qtbot.waitUntil(lambda: place(view) == 2, timeout=5000)
        player.say(down(three), "wait 0.1", "up")
        qtbot.waitUntil(lambda: len(written(view)) == 2, timeout=5000)
    assert [one.clean for one in tries()] == [False, True]
    assert {one.drill for one in tries()} == {"chain"} and all(one.hands == "both" for one in tries())
    assert view.rounds.active  # the next round waits already
    press_page(view, qtbot, K.Key_Space)
    assert not view.rounds.active and len(written(view)) == 2


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ("octave", "an octave too high"),
        ("missing", "was missing"),
        ("extra", "was struck besides"),
        ("wrong", "a half step too"),
    ],
)
def test_each_kind_of_slip_is_said(
    view: PractisePage, player: Player, qtbot: QtBot, change: str, words: str
) -> None:
    press_page(view, qtbot, K.Key_V, 2)
    assert view.state.settings.way == "free"
    drill(view, qtbot, 0)
    press_page(view, qtbot, K.Key_Space)
    runner = view.state.runner
    assert runner is not None
    stroke = runner.strokes[0]
    top = stroke.keys[-1]
    keys = {
        "octave": [*stroke.keys[:-1], top + 12],
        "missing": [*stroke.keys[:-1]],
        "extra": [*stroke.keys, top + 20],
        "wrong": [*stroke.keys[:-1], top + 1],
    }[change]
    with player:
        player.say("down " + " ".join(map(str, keys)))
        qtbot.waitUntil(lambda: words in said(view), timeout=20_000)
    assert not view.state.good and view.middle.sentence.styleSheet() == f"color: {view.theme.wrong}"


def test_a_ladder_is_climbed_and_stepped_back(view: PractisePage, player: Player, qtbot: QtBot) -> None:
    press_page(view, qtbot, K.Key_V)
    press_page(view, qtbot, K.Key_E)
    for name in ("early_ms", "late_ms"):
        spin = view.set.spins[name]
        spin.setFocus()
        spin.selectAll()
        qtbot.keyClicks(spin, "170")
        qtbot.keyClick(spin, K.Key_Return)
    view.focus.setFocus()
    drill(view, qtbot, 0)
    block = view.state.at_hand
    assert block is not None and read_settings()[0].late_ms == 170
    with player:
        player.say("wait 0")
        qtbot.wait(1500)  # it has to be there before the first count
        tempi: list[int] = []
        press_page(view, qtbot, K.Key_Space)
        while len(tempi) < 3:
            runner = view.state.runner
            assert runner is not None
            tempi.append(runner.ladder.tempo)
            quarter = runner.seconds_per_quarter
            for (
                stroke
            ) in runner.strokes:  # each at its own time: what one comes late by is not the next one's
                at = runner.began + float(stroke.at) * quarter
                qtbot.wait(max(0, round((at - time.perf_counter()) * 1000)))
                player.say(down(stroke), f"wait {quarter * 0.5:.3f}", "up")
            next_round(view, qtbot, runner)
    assert tempi[0] == tempi[1] == block.from_tempo < tempi[2], said(view)
    clean = len(written(view))
    assert clean == 12 and all(one.clean for one in tries())
    for _ in range(2):  # nobody plays any more
        runner = view.state.runner
        next_round(view, qtbot, runner)
    runner = view.state.runner
    assert runner is not None and runner.ladder.tempo < tempi[2]
    qtbot.waitUntil(lambda: "One step back" in view.middle.advice.text(), timeout=2000)
    assert said(view) == "Nothing was played here."
    press_page(view, qtbot, K.Key_Space)
    assert sum(not one.clean for one in written(view)) == 8


def test_a_drill_that_reached_its_goal_climbs_anew(view: PractisePage, qtbot: QtBot) -> None:
    drill(view, qtbot, 0)
    runner = view.state.make_runner()
    assert runner is not None
    while not runner.ladder.at_top:
        runner.ladder.fed(0, 4)
    same = view.state.make_runner()
    assert same is not None and same.ladder is runner.ladder  # within its block it goes on
    view.state.own_over(runner.ladder.reached)
    again = view.state.make_runner()
    assert again is not None and not again.ladder.at_top and again.ladder.tempo < runner.ladder.tempo


def test_counts_are_shown_while_it_is_counted_in(view: PractisePage, qtbot: QtBot) -> None:
    press_page(view, qtbot, K.Key_V)
    drill(view, qtbot, 0)
    seen = set()
    press_page(view, qtbot, K.Key_Space)
    for _ in range(60):
        qtbot.wait(20)
        seen.add((view.middle.counts._at, view.middle.counts._before))
    assert {(k, True) for k in (1, 2, 3)} <= seen
    assert view._stale is False
    press_page(view, qtbot, K.Key_Space)


def test_without_a_keyboard_the_player_says_how_it_was(view: PractisePage, qtbot: QtBot) -> None:
    assert "No keyboard is heard" in said(view)
    press_page(view, qtbot, K.Key_V, 3)
    drill(view, qtbot, 2)
    press_page(view, qtbot, K.Key_Space)
    qtbot.waitUntil(lambda: said(view) == "How was it?", timeout=20_000)
    assert view.rounds.waits_for_mark and written(view) == []
    click(qtbot, button(view, "It was clean (Y)"))
    assert [one.clean for one in written(view)] == [True, True, True]
    press_page(view, qtbot, K.Key_X)  # in the middle of the next one: it slipped, wherever
    assert len(written(view)) == 3
    press_page(view, qtbot, K.Key_Space)
    drill(view, qtbot, 0)
    press_page(view, qtbot, K.Key_Space)
    press_page(view, qtbot, K.Key_X)
    assert [one.clean for one in written(view)][3:] == [False]


def test_leaving_the_page_stops_the_drill(window: Window, view: PractisePage, qtbot: QtBot) -> None:
    press_page(view, qtbot, K.Key_V)
    press_page(view, qtbot, K.Key_Space)
    assert view.rounds.active
    show(window, qtbot, SongPage)
    assert not view.rounds.active and not window.playback.playing
    back = show(window, qtbot, PractisePage)
    assert back.state.block == 0 and not back.rounds.active


def test_hands_rhythm_and_tempo_by_keys(view: PractisePage, qtbot: QtBot) -> None:
    drill(view, qtbot, 0)
    press_page(view, qtbot, K.Key_B)
    assert "left hand alone" in view.middle.under.text()
    assert all(mark.side == "left" for mark in view.state.marks().values())
    press_page(view, qtbot, K.Key_B)
    assert "right hand alone" in view.middle.under.text()
    press_page(view, qtbot, K.Key_P)
    assert "as the take plays" in view.middle.under.text()
    press_page(view, qtbot, K.Key_V)
    press_page(view, qtbot, K.Key_Space)
    runner = view.state.runner
    assert runner is not None
    tempo = runner.ladder.tempo
    press_page(view, qtbot, K.Key_F)
    assert runner.ladder.tempo > tempo
    press_page(view, qtbot, K.Key_S, 2)
    assert runner.ladder.tempo < tempo
    press_page(view, qtbot, K.Key_A)
    assert view.rounds.active
    press_page(view, qtbot, K.Key_Space)
    press_page(view, qtbot, K.Key_H)
    assert not view.rounds.active


# --- a session is kept ----------------------------------------------------------------------------

PRACTISING = dedent("""
    import sys
    from PySide6.QtCore import Qt, QTimer
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication
    from yellow_hinge.ui import main
    def act():
        window = next(w for w in QApplication.topLevelWidgets() if hasattr(w, "document"))
        window.go_to("Practise")
        page = window.page
        while not page.state.ready:
            QTest.qWait(20)
        QTest.keyClick(page.focus, Qt.Key.Key_V)
        QTest.keyClick(page.focus, Qt.Key.Key_V)
        QTest.keyClick(page.focus, Qt.Key.Key_V)
        block = page.state.at_hand
        QTest.keyClick(page.focus, Qt.Key.Key_Space)
        while not page.state.done:
            page.rounds._spent = 1000.0  # time flies
            QTest.keyClick(page.focus, Qt.Key.Key_Y)
            QTest.qWait(10)
        QTest.keyClick(page.focus, Qt.Key.Key_Space)
        QTest.keyClick(page.focus, Qt.Key.Key_Y)
        QTest.qWait(400)
        print("practised:" + block.what, len(page.state.blocks), flush=True)
    app = QApplication(["yellow-hinge"])
    QTimer.singleShot(300, act)
    sys.exit(main.open_window(sys.argv[1:]))
""")


def test_a_session_is_found_again_after_a_kill(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    type_chart(window, qtbot, CHART)
    path = tmp_path / "tin.yhinge"
    window.document.save(path)
    other = subprocess.Popen(
        [sys.executable, "-c", PRACTISING, str(path)], stdout=subprocess.PIPE, text=True,
        env=os.environ | {"QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip
    assert other.stdout is not None
    line = other.stdout.readline()
    other.kill()
    other.communicate()
    assert line.startswith("practised:"), line
    before = tries()
    assert before and all(one.clean for one in before)
    page = show(window, qtbot, PractisePage)
    qtbot.waitUntil(lambda: page.state.ready, timeout=20_000)
    assert len(page.state.blocks) == int(line.split()[-1]) and set(page.state.done) == {0}
    assert page.state.block == 1 and page.today.words.text().startswith("1 of ")
    assert page.today.list.item(0).text().startswith("✓ ")
    known = [one for one in page.state.desk.shelf.sure if one.tries] if page.state.desk else []
    assert sum(one.tries for one in known) == len(before)


def test_tries_stay_with_their_change_when_the_chart_is_edited(
    window: Window, view: PractisePage, qtbot: QtBot
) -> None:
    press_page(view, qtbot, K.Key_V, 3)
    drill(view, qtbot, 0)
    press_page(view, qtbot, K.Key_Space)
    press_page(view, qtbot, K.Key_Y)
    press_page(view, qtbot, K.Key_Space)
    first = written(view)[0].change
    type_chart(
        window,
        qtbot,
        CHART.replace("title: Tin Whistle", "title: Tin Flute").replace("| Bbmaj7 Am7", "| Bb6 Am7"),
    )
    page = show(window, qtbot, PractisePage)
    qtbot.waitUntil(lambda: page.state.first.title == "Tin Flute", timeout=20_000)
    assert first in page.state.first.by_id
    assert page.state.desk is not None
    assert page.state.desk.shelf.sureness(0, page.state.first.by_id[first]).tries >= 1


# --- riddles --------------------------------------------------------------------------------------


def ask(view: PractisePage, qtbot: QtBot, words: str) -> None:
    press_page(view, qtbot, K.Key_D)
    shown = [view.drills.list.item(k).text() for k in range(view.drills.list.count())]
    item = view.drills.list.item(next(k for k, text in enumerate(shown) if text.startswith(words)))
    click_entry(qtbot, view.drills.list, item)


@pytest.mark.parametrize("kind", ["notes", "degrees", "chord as a number"])
def test_naming_what_is_asked(view: PractisePage, qtbot: QtBot, kind: str) -> None:
    ask(view, qtbot, "Name the " + kind)
    riddle = view.riddling.state.riddle
    assert riddle is not None and view.middle.answer.isVisible() and view.middle.answer.hasFocus()
    held = view.state.first.stands[riddle.stand].held
    shown = view.middle.asked_keys
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
            riddle = view.riddling.state.riddle
            assert riddle is not None and riddle.wanted is not None
            names = [str(Pitch(k, name_for_pitch_class(k % 12, flats=True))) for k in riddle.wanted.keys]
            shown = view.middle.leaves.accessibleDescription()
            assert words != "Call and answer" or not any(name in shown for name in names)
            player.say(down(riddle.wanted))
            held(view, qtbot, riddle.wanted.keys)
            press_page(view, qtbot, K.Key_Space)
            assert said(view) == "Right." and view.state.good
            player.say("up")
            qtbot.waitUntil(lambda: not view.middle.held)
        ask(view, qtbot, "Find it")
        riddle = view.riddling.state.riddle
        assert riddle is not None
        after = view.state.first.stands[riddle.stand + 1].voicing
        player.say("down " + " ".join(map(str, after.keys)))
        held(view, qtbot, after.keys)
        press_page(view, qtbot, K.Key_Space)
        assert said(view).startswith("You moved ") and "the nearest is" in said(view)
    assert view.riddling.state.asked == 3 and view.riddling.state.right >= 2


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
    assert "not tried yet" in view.map.words.text()
    weakest = [view.map.list.item(k).text() for k in range(view.map.list.count())]
    assert "slips expected, not tried yet" in weakest[0]
    wide = view.map.map.width() / len(bars)
    qtbot.mouseClick(view.map.map, Qt.MouseButton.LeftButton, pos=QPoint(int(4 + wide * 5.4), 60))
    assert view.state.chosen == 5 and view.state.drill is not None and view.state.drill.first == 5
    press_page(view, qtbot, K.Key_Up)
    assert view.state.chosen == 4
    press_page(view, qtbot, K.Key_V, 3)
    press_page(view, qtbot, K.Key_Space)
    before = bars_of(view)[4][0]
    press_page(view, qtbot, K.Key_Y)
    after = bars_of(view)[4]
    assert after[0] > before and after[1] == 1 and ", 1 tries" in view.map.words.text()
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
    assert view.weeks.words.text().startswith("1 tries in") and "100% clean" in seen(view.weeks.weeks)
    assert view.weeks.passage_words.text().endswith(": 1 tries.") and "100% clean" in seen(view.weeks.passage)
    view.state.chosen = 5
    view.show_all()
    assert view.weeks.passage_words.text().endswith(": 0 tries.") and "100%" not in seen(view.weeks.passage)
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
    qtbot.waitUntil(lambda: "Nothing has been practised" in view.weeks.words.text(), timeout=10_000)


def test_keys_at_the_ends_of_the_keyboard_act(view: PractisePage, player: Player, qtbot: QtBot) -> None:
    press_page(view, qtbot, K.Key_E)
    for name, row in (("again_key", 1), ("next_key", view.set.ends["next_key"].count() - 1)):
        box = view.set.ends[name]
        box.setCurrentIndex(row)
        box.activated.emit(row)  # what a platform without popups does not send for a key
    assert (read_settings()[0].again_key, read_settings()[0].next_key) == (21, 108)
    view.focus.setFocus()
    with player:
        player.say("down 108", "up 108")
        qtbot.waitUntil(lambda: view.rounds.active, timeout=20_000)
        player.say("down 108", "up 108")
        qtbot.waitUntil(lambda: view.state.block == 1, timeout=5000)
        runner = view.state.runner
        player.say("down 21", "up 21")
        qtbot.waitUntil(lambda: view.state.runner is not runner, timeout=5000)
    assert view.rounds.active and written(view) == []
    press_page(view, qtbot, K.Key_Space)


def test_latency_is_measured_and_taken_off(view: PractisePage, player: Player, qtbot: QtBot) -> None:
    press_page(view, qtbot, K.Key_E)
    assert "not measured yet" in view.set.latency.text()
    with player:
        player.say("wait 0")
        qtbot.wait(1500)
        click(qtbot, button(view, "Measure latency"))
        for at in list(view.rounds._clicks):
            qtbot.wait(max(0, round((at + 0.1 - time.perf_counter()) * 1000)))
            player.say("down 60", "up 60")
        qtbot.waitUntil(lambda: view.state.settings.latency_ms is not None, timeout=20_000)
    measured = view.state.settings.latency_ms
    assert measured is not None and 60 <= measured <= 220 and "are taken off" in said(view)
    assert read_settings()[0].latency_ms == measured
    click(qtbot, button(view, "Measure latency"))
    qtbot.waitUntil(lambda: "too little to go by" in said(view), timeout=20_000)
    assert view.state.settings.latency_ms == measured


def test_settings_that_cannot_be_read_are_said(window: Window, qtbot: QtBot) -> None:
    settings_path().parent.mkdir(parents=True, exist_ok=True)
    settings_path().write_text('{"late_ms": -4}')
    page = show(window, qtbot, PractisePage)
    assert "late_ms must be 20..1000" in window.message.text.text() and page.state.settings.late_ms == 120
    assert settings_path().read_text() == '{"late_ms": -4}'


def test_a_log_that_cannot_be_used_is_said_and_playing_goes_on(window: Window, qtbot: QtBot) -> None:
    log_path().parent.mkdir(parents=True, exist_ok=True)
    log_path().write_bytes(b"no database at all" * 100)
    page = show(window, qtbot, PractisePage)
    qtbot.waitUntil(lambda: "practice log" in window.message.text.text(), timeout=20_000)
    assert log_path().read_bytes().startswith(b"no database")
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
    qtbot.waitUntil(lambda: view.state.desk is not None and view.state.desk.shelf.songs == 3, timeout=20_000)
    assert view.filing.evening.names == ["Gravel Tide", "Iron Gull"]
    assert {"Gravel Tide", "Tin Whistle"} <= {view.state.desk.shelf.pieces[b.drill.piece].title  # type: ignore[union-attr]
                                              for b in view.state.blocks if b.drill is not None}  # fmt: skip
    view.drills.shelf.setCurrentRow(1)
    click(qtbot, button(view, "Move up"))
    assert view.filing.evening.names == ["Iron Gull", "Gravel Tide"]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "evening"), ""))
    click(qtbot, button(view, "Save their sheets..."))
    assert (tmp_path / "evening.pdf").read_bytes().startswith(b"%PDF") and said(
        view
    ) == "Saved as evening.pdf."
    files[1].unlink()
    view.look_again()
    qtbot.waitUntil(lambda: "Iron Gull" in window.message.text.text(), timeout=20_000)
    view.drills.shelf.setCurrentRow(0)
    click(qtbot, button(view, "Take away"))
    qtbot.waitUntil(lambda: view.state.desk is not None and view.state.desk.shelf.songs == 2, timeout=20_000)
    assert view.filing.evening.names == ["Gravel Tide"] and files[0].exists()
    settle(window, qtbot)


def test_all_of_it_in_the_dark(window: Window, view: PractisePage, qtbot: QtBot) -> None:
    qtbot.keyClick(window, K.Key_D, CTRL)
    assert view.middle.leaves.theme is view.theme and view.theme.name == "dark"
    for key in (K.Key_M, K.Key_W, K.Key_E, K.Key_D, K.Key_T):
        press_page(view, qtbot, key)
    press(window, qtbot, K.Key_Space)
    press(window, qtbot, K.Key_Space)
