"""The Practise page by real keys: the plan, drills, and that a session is kept."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path
from textwrap import dedent

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.practice.drills import Drill
from yellow_hinge.practice.plan import what_words
from yellow_hinge.tasks.practice.desk import CAUTION, log_path
from yellow_hinge.tasks.settings.practice_settings import Settings
from yellow_hinge.ui.pages.practise.view import PractisePage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.window import Window

from ..conftest import HandClock, button, click, show, type_chart
from ..test_devices import Player
from .helpers import (
    CHART,
    K,
    click_entry,
    down,
    drill,
    held,
    next_round,
    place,
    press_page,
    said,
    tries,
    written,
)

# --- the plan -----------------------------------------------------------------------------------


@pytest.mark.long
def test_todays_blocks_stand_at_the_left_with_their_reasons(view: PractisePage, qtbot: QtBot) -> None:
    shown = [view.side.today.list.item(k).text() for k in range(view.side.today.list.count())]
    assert len(shown) == len(view.state.blocks) > 3 and all(" min" in text for text in shown)
    assert sum("new" in text for text in shown) > 2 and "ends on what works" in shown[-1]
    assert view.side.today.words.text().startswith(f"0 of {len(shown)} done, 20 minutes left")
    assert "Stop at pain" in CAUTION and any(
        label.text() == CAUTION for label in view.side.today.findChildren(type(view.side.today.words))
    )
    view.side.today.minutes.setFocus()
    view.side.today.minutes.selectAll()
    qtbot.keyClicks(view.side.today.minutes, "40")
    qtbot.keyClick(view.side.today.minutes, K.Key_Return)
    qtbot.waitUntil(lambda: abs(sum(block.minutes for block in view.state.blocks) - 40) < 0.1)
    assert sum(block.drill is None for block in view.state.blocks) == 2  # breaks
    assert Settings.read()[0].minutes == 40
    view.side.today.days.setFocus()
    view.side.today.days.selectAll()
    qtbot.keyClicks(view.side.today.days, "3")
    qtbot.keyClick(view.side.today.days, K.Key_Return)
    qtbot.waitUntil(lambda: len(view.state.ahead) == 2)
    rows = [view.side.today.list.item(k).text() for k in range(view.side.today.list.count())]
    assert rows[-2].startswith("Tomorrow, as it may be\n") and rows[-1].startswith(
        "In 2 days, as it may be\n"
    )
    click_entry(qtbot, view.side.today.list, view.side.today.list.item(len(rows) - 1))
    assert view.state.block == 0  # a guess is no block


def test_changes_in_turn_are_called_by_their_chords(view: PractisePage) -> None:
    """One song is practised, so that its title goes without saying."""
    state = view.state
    drill = Drill("spots", 0, ((0, 1), (4, 5)))
    state.blocks = (*state.blocks, replace(state.blocks[0], what=what_words(state.first, drill)))
    assert state.blocks[-1].what == "Fmaj7 to D7; Am7 to Dm7, of Tin Whistle"
    assert state.block_words(len(state.blocks) - 1)[0] == "Fmaj7 to D7; Am7 to Dm7"


def test_another_block_by_a_click_and_by_keys(view: PractisePage, qtbot: QtBot) -> None:
    first = view.middle.title.text()
    item = view.side.today.list.item(1)
    qtbot.mouseClick(
        view.side.today.list.viewport(),
        Qt.MouseButton.LeftButton,
        pos=view.side.today.list.visualItemRect(item).center(),
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
    qtbot.waitUntil(lambda: page.state.desk is not None, timeout=60_000)
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
        qtbot.waitUntil(lambda: place(view) == 1, timeout=60_000)
        assert said(view) == "Right."
        qtbot.waitUntil(lambda: not view.room.held)
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
        qtbot.waitUntil(lambda: words in said(view), timeout=60_000)
    assert not view.state.good and view.middle.sentence.styleSheet() == f"color: {view.theme.wrong}"


def play_round(
    view: PractisePage, player: Player, qtbot: QtBot, clock: HandClock, late_s: float = 0.0
) -> None:
    """A whole round in time, each stroke so much late, until the next one has begun."""
    runner = view.state.runner
    assert runner is not None
    quarter = runner.seconds_per_quarter
    for stroke in runner.strokes:
        clock.at = runner.began + float(stroke.at) * quarter + late_s
        player.say(down(stroke))
        held(view, qtbot, stroke.keys)
        clock.at += quarter * 0.5
        player.say("up")
        held(view, qtbot, ())
    clock.at = runner.ends + 0.01
    next_round(view, qtbot, runner)


@pytest.mark.long
def test_a_ladder_is_climbed_and_stepped_back(
    view: PractisePage, player: Player, qtbot: QtBot, clock: HandClock
) -> None:
    press_page(view, qtbot, K.Key_V)
    press_page(view, qtbot, K.Key_E)
    for name in ("early_ms", "late_ms"):
        spin = view.side.set.spins[name]
        spin.setFocus()
        spin.selectAll()
        qtbot.keyClicks(spin, "90")
        qtbot.keyClick(spin, K.Key_Return)
    view.focus.setFocus()
    drill(view, qtbot, 0)
    block = view.state.at_hand
    assert block is not None and Settings.read()[0].late_ms == 90
    with player:
        tempi: list[int] = []
        press_page(view, qtbot, K.Key_Space)
        for late_s in (0.0, 0.08, -0.08):  # within what was set
            assert view.state.runner is not None
            tempi.append(view.state.runner.ladder.tempo)
            play_round(view, player, qtbot, clock, late_s)
    assert tempi[0] == tempi[1] == block.from_tempo < tempi[2], said(view)
    clean = len(written(view))
    assert clean == 12 and all(one.clean for one in tries())
    for _ in range(2):  # nobody plays any more
        runner = view.state.runner
        assert runner is not None
        clock.at = runner.ends + 0.01
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


@pytest.mark.long
def test_who_comes_late_is_told_so(
    view: PractisePage, player: Player, qtbot: QtBot, clock: HandClock
) -> None:
    press_page(view, qtbot, K.Key_V)
    drill(view, qtbot, 0)
    press_page(view, qtbot, K.Key_Space)
    runner = view.state.runner
    assert runner is not None
    late_s = view.state.settings.late_ms / 1000 + 0.03
    with player:
        clock.at = runner.began + late_s
        player.say(down(runner.strokes[0]))
        held(view, qtbot, runner.strokes[0].keys)
        assert "late" not in said(view)  # it may still be rolled
        clock.at = runner.began + float(runner.strokes[1].at) * runner.seconds_per_quarter
        qtbot.waitUntil(lambda: "late" in said(view), timeout=60_000)
    assert not view.state.good and f"{round(late_s * 1000)}" in said(view)


def test_counts_are_shown_while_it_is_counted_in(view: PractisePage, qtbot: QtBot, clock: HandClock) -> None:
    press_page(view, qtbot, K.Key_V)
    drill(view, qtbot, 0)
    press_page(view, qtbot, K.Key_Space)
    runner, counts = view.state.runner, view.middle.counts
    assert runner is not None and runner.count_in == 4
    for count in range(6):  # a bar ahead, then chords of one count each
        clock.at = runner.began + (count - 4 + 0.5) * runner.seconds_per_quarter
        shown = (count + 1, True) if count < 4 else (1, False)
        qtbot.waitUntil(lambda shown=shown: (counts._at, counts._before) == shown, timeout=5000)  # type: ignore[misc]
    assert view._stale is False
    press_page(view, qtbot, K.Key_Space)


@pytest.mark.long
def test_without_a_keyboard_the_player_says_how_it_was(view: PractisePage, qtbot: QtBot) -> None:
    assert "No keyboard is heard" in said(view)
    press_page(view, qtbot, K.Key_V, 3)
    drill(view, qtbot, 2)
    press_page(view, qtbot, K.Key_Space)
    qtbot.waitUntil(lambda: said(view) == "How was it?", timeout=60_000)
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
    from yellow_hinge.ui import main, theme
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
    app = theme.make_application()
    QTimer.singleShot(300, act)
    sys.exit(main.open_window(sys.argv[1:]))
""")


@pytest.mark.long
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
    qtbot.waitUntil(lambda: page.state.ready, timeout=60_000)
    assert len(page.state.blocks) == int(line.split()[-1]) and set(page.state.done) == {0}
    assert page.state.block == 1 and page.side.today.words.text().startswith("1 of ")
    assert page.side.today.list.item(0).text().startswith("✓ ")
    known = [one for one in page.state.desk.shelf.sure if one.tries] if page.state.desk else []
    assert sum(one.tries for one in known) == len(before)


@pytest.mark.long
def test_tries_stay_with_their_change_when_the_chart_is_edited(
    window: Window, view: PractisePage, qtbot: QtBot
) -> None:
    press_page(view, qtbot, K.Key_V, 3)
    drill(view, qtbot, 0)
    press_page(view, qtbot, K.Key_Space)
    press_page(view, qtbot, K.Key_Y)
    press_page(view, qtbot, K.Key_Space)
    first = written(view)[0].change
    qtbot.wait(3_100)  # typing has rested: what was typed before is the song now
    type_chart(
        window,
        qtbot,
        CHART.replace("title: Tin Whistle", "title: Tin Flute").replace("| Bbmaj7 Am7", "| Bb6 Am7"),
    )
    page = show(window, qtbot, PractisePage)
    qtbot.waitUntil(lambda: page.state.first.title == "Tin Flute", timeout=60_000)
    assert first in page.state.first.by_id
    assert page.state.desk is not None
    assert page.state.desk.shelf.sureness(0, page.state.first.by_id[first]).tries >= 1


@pytest.mark.parametrize(
    ("at", "spans"),
    [
        (0, [(0, 1), (0, 2), (0, 3), (0, 4)]), (5, [(5, 6), (5, 7), (5, 8), (5, 9)]),
        (8, [(8, 9), (8, 10), (8, 11), (7, 11)]), (11, [(10, 11), (9, 11), (8, 11), (7, 11)]),
    ],
)  # fmt: skip
def test_chains_of_changes_begin_at_the_chosen_chord_and_stay_in_the_song(
    view: PractisePage, at: int, spans: list[tuple[int, int]]
) -> None:
    view.state.chosen = at
    drills = view.state.drills()
    assert [words for words, _ in drills][:4] == [
        "This change, there and back",
        "Two changes",
        "Three",
        "Four",
    ]
    assert [drill.spans for _, drill in drills[:4]] == [(span,) for span in spans]
    named = {words: drill.spans for words, drill in drills}
    assert named["The whole song"] == ((0, 11),)
    section = next(words for words in named if words.startswith("The section"))
    assert named[section] == (((0, 7) if at < 8 else (8, 11)),)
