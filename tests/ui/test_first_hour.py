"""The first hour: seven steps on the real pages, pages without a song, words that explain themselves, and two
pages in view."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QLabel, QPushButton
from pytestqt.qtbot import QtBot

from yellow_hinge.song.model import Song
from yellow_hinge.tasks.settings.display import Display
from yellow_hinge.ui import main
from yellow_hinge.ui.first_steps import STEPS, FirstSteps, Seen, next_step
from yellow_hinge.ui.main import make_window
from yellow_hinge.ui.pages.hands.view import HandsPage
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.keys.view import KeysPage
from yellow_hinge.ui.pages.practise.view import PractisePage
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.sheet.view import SheetPage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.window import Window
from yellow_hinge.ui.words import Label

from .conftest import button, click, click_in_menu, come_back, forget, press, settle, show, type_chart
from .test_finder import ask

K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier


def help_menu(window: Window, qtbot: QtBot, words: str) -> None:
    click_in_menu(qtbot, window.menus["Help"], words)
    come_back(window, qtbot)


def shown(card: FirstSteps) -> list[str]:
    """Each step as it is marked, and its name, which stands there for the one that comes next."""
    next_one = [mark.text()[3:] for mark in card.marks if len(mark.text()) > 1]
    names = [mark.toolTip() for mark in card.marks]
    assert next_one == [name for name, mark in zip(names, card.marks, strict=True) if mark.text()[1:]]
    assert len(next_one) <= 1
    return [f"{mark.text()[0]}  {name}" for name, mark in zip(names, card.marks, strict=True)]


@pytest.mark.long
def test_seven_steps_are_done_by_doing_them(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    help_menu(window, qtbot, "First steps")
    card = window.steps.made[0]
    assert card.isVisible() and shown(card)[0] == "1  Your song" and len(STEPS) == 7
    assert card.go.text() == "Go to Song" and card.agree.text() == "Stay with ours"
    click(qtbot, card.go)
    assert isinstance(window.page, SongPage) and not card.go.isVisible()
    type_chart(window, qtbot, "title: Mooring\n| Dm7 | G7 | Cmaj7 | Am7 |\n")
    assert shown(card)[:2] == ["✓  Your song", "2  Your hands"]
    show(window, qtbot, HandsPage)
    assert card.agree.text() == "They fit as they are"
    click(qtbot, card.agree)
    assert shown(card)[1] == "✓  Your hands" and isinstance(window.page, HingesPage)
    show(window, qtbot, HingesPage)
    for _ in range(5):
        press(window, qtbot, K.Key_Right)
    assert shown(card)[2] == "3  Walk the hinges"  # two chords further
    press(window, qtbot, K.Key_Right)
    assert shown(card)[2:4] == ["✓  Walk the hinges", "4  Choose a voicing"]
    press(window, qtbot, K.Key_L)
    assert shown(card)[3] == "✓  Choose a voicing"
    settle(window, qtbot)
    swaps = show(window, qtbot, SwapsPage)
    qtbot.waitUntil(lambda: not swaps.weighing.worker.running, timeout=60_000)
    press(window, qtbot, K.Key_H)
    qtbot.waitUntil(lambda: shown(card)[4] == "✓  Hear a swap", timeout=5000)
    window.playback.stop()
    show(window, qtbot, RhythmPage)
    assert card.words.text().startswith("Click a pattern")
    press(window, qtbot, K.Key_Space)
    qtbot.waitUntil(lambda: shown(card)[5] == "✓  Give it rhythm", timeout=5000)
    window.playback.stop()
    path = str(tmp_path / "mooring.pdf")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (path, "PDF (*.pdf)"))
    sheet = show(window, qtbot, SheetPage)
    qtbot.waitUntil(lambda: sheet.state.sheet is not None, timeout=30_000)
    press(window, qtbot, K.Key_W)
    assert shown(card)[6] == "✓  Write it down" and card.words.text().startswith("All seven are done.")
    assert not card.go.isVisible() and not card.agree.isVisible() and Path(path).exists()


@pytest.mark.long
def test_the_steps_are_left_and_found_again(window: Window, qtbot: QtBot) -> None:
    help_menu(window, qtbot, "First steps")
    card = window.steps.made[0]
    click(qtbot, card.agree)
    assert shown(card)[0] == "✓  Your song" and isinstance(window.page, HandsPage)  # where the next one is
    click(qtbot, button(card, "Leave the steps"))
    assert not card.isVisible() and not window.steps.on
    show(window, qtbot, HingesPage)
    press(window, qtbot, K.Key_L)
    settle(window, qtbot)
    finder = ask(window, qtbot, "first steps")
    qtbot.keyClick(finder.field, K.Key_Return)
    assert card.isVisible() and shown(card)[0] == "1  Your song"  # from the beginning
    assert shown(card)[3] == "4  Choose a voicing"  # what was locked before does not count
    help_menu(window, qtbot, "First steps")
    assert not card.isVisible()


def test_a_step_that_was_done_later_does_not_skip_those_before() -> None:
    seen = Seen(Song(), Song(), walked={1, 2, 3}, written=True)
    assert next_step(seen) == 0
    seen.agreed |= {"Your song", "Your hands"}
    assert next_step(seen) == 3
    seen.walked = {1, 2}
    assert next_step(seen) == 2


@pytest.mark.parametrize("first", [True, False])
def test_the_card_comes_at_the_first_start_only(
    qapp: QApplication, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path, first: bool
) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    if not first:
        Display.path().parent.mkdir(parents=True)
        Display.path().write_text("{}")
    made: list[Window] = []

    def noted(song: Song) -> Window:
        made.append(make_window(song))
        return made[0]

    monkeypatch.setattr(main, "make_window", noted)
    monkeypatch.setattr("yellow_hinge.ui.theme.make_application", lambda _: qapp)
    monkeypatch.setattr(QApplication, "exec", lambda *_: 0)
    monkeypatch.setattr(main, "_leave", lambda _: None)
    assert main.open_window([]) == 0
    assert made[0].steps.on == first
    forget(made[0])
    made[0].close()


PLACES = [HingesPage, SwapsPage, TakesPage, KeysPage, RhythmPage, PractisePage, SheetPage]


def test_a_page_without_a_song_says_what_it_is_for(window: Window, qtbot: QtBot) -> None:
    for kind in PLACES:
        window.document.start_over(Song(), None)
        number = [row.name for row in window._rows].index(kind.name) + 1
        qtbot.keyClick(window, Qt.Key(Qt.Key.Key_0 + number), CTRL)
        face = window.stage.made[0]
        assert face.isVisible() and not window.page.isVisible() and face.name.text() == kind.name
        assert face.sentence.text().endswith(". There is no song yet: write or open one first.")
        assert len(face.sentence.text()) > 60 and face.picture._svg.startswith("<svg")
        before = face.picture.grab().toImage()
        assert {before.pixel(x, 40) for x in range(before.width())} != {before.pixel(0, 0)}
        assert face.buttons[0].hasFocus()
        for command in window.page.commands:  # what cannot be done is not done, whatever key is pressed
            if command.keys:
                command.try_run()
        assert window.document.song == Song() and window.page.name == kind.name
        click(qtbot, face.buttons[1])  # ours
        assert window.page.isVisible() and not face.isVisible() and window.page.name == kind.name
        settle(window, qtbot)


def test_song_and_hands_are_for_beginning(window: Window, qtbot: QtBot) -> None:
    window.document.start_over(Song(), None)
    for kind in (SongPage, HandsPage):
        assert show(window, qtbot, kind).isVisible()
    show(window, qtbot, HingesPage)
    qtbot.keyClick(window.stage.made[0].buttons[0], K.Key_Space)
    assert isinstance(window.page, SongPage) and window.page.isVisible()


# --- words ---


def test_words_of_theory_are_found_explained_and_heard(window: Window, qtbot: QtBot) -> None:
    show(window, qtbot, HingesPage)
    press(window, qtbot, K.Key_Question)
    finder = window.finding.finder
    listed = [thing.words for thing in finder.cards.lines]
    assert finder.isVisible() and {"guide tones", "drop 2", "rootless", "tritone substitution"} <= set(listed)
    assert listed[0] in ("close position", "inversion", "degree", "mud", "rootless", "shell")  # on the page
    assert "drop 2" in finder.field.placeholderText() and finder.said.text().endswith("with its notes.")
    qtbot.keyClicks(finder.field, "guide")
    struck: list[list[int]] = []
    window.playback.strike = lambda keys: struck.append(list(keys))  # type: ignore[method-assign]
    qtbot.keyClick(finder.field, K.Key_Return)
    assert window.message.text.text().startswith("guide tones: Third and seventh")
    assert "In Aadd9" not in window.message.text.text() and struck == [[]]  # it has no seventh
    come_back(window, qtbot)
    press(window, qtbot, K.Key_Right, 2)
    press(window, qtbot, K.Key_Question)
    qtbot.keyClicks(finder.field, "guide")
    struck.clear()
    qtbot.keyClick(finder.field, K.Key_Return)
    assert window.message.text.text().endswith("In C♯m11: E B.") and struck == [[64, 71]]


def test_words_of_theory_are_explained_under_the_pointer(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, HingesPage)
    label = next(one for one in view.findChildren(QLabel) if one.isVisible() and "inversion" in one.text())
    assert "inversion: The same notes with another one lowest" in label.toolTip()
    assert "In Aadd9: C♯ E A." in label.toolTip()
    press(window, qtbot, K.Key_Right, 2)
    said = [one.toolTip() for one in view.findChildren(QLabel) if one.isVisible()]
    assert any("In C♯m11: " in words for words in said) and not any("In Aadd9: " in words for words in said)
    title = next(one for one in view.findChildren(QLabel) if one.text() == "Lantern Ferry")
    assert "In " not in title.toolTip()
    rows = view.side.leaf.alternatives
    tip = str(rows.data(rows.index(0), Qt.ItemDataRole.ToolTipRole))
    assert "In C♯m11: " in tip


def test_a_tip_of_its_own_goes_before_words(qapp: QApplication) -> None:
    label = Label("a shell")
    assert label.toolTip().startswith("shell: Only what says the chord")
    label.setText("nothing of the kind")
    assert label.toolTip() == ""
    label.setToolTip("Mine")
    label.setText("a shell")
    assert label.toolTip() == "Mine"


def test_help_is_found_by_its_words(window: Window, qtbot: QtBot) -> None:
    finder = ask(window, qtbot, "help ladder plain rich")
    assert finder.chosen is not None and (finder.chosen.kind, finder.chosen.where) == ("help", "Takes")
    qtbot.keyClick(finder.field, K.Key_Return)
    assert isinstance(window.page, TakesPage) and window.key_list.isVisible()
    window.key_list.close()


# --- two pages in view ---


@pytest.mark.long
def test_a_page_is_kept_in_view_beside_others(window: Window, qtbot: QtBot) -> None:
    window.resize(2000, 1000)
    rhythm = show(window, qtbot, RhythmPage)
    hinges = show(window, qtbot, HingesPage)
    qtbot.keyClick(hinges.focus, K.Key_B, CTRL)
    assert hinges.isVisible() and rhythm.isVisible() and window.page is rhythm
    assert rhythm.mapTo(window, QPoint()).x() < hinges.mapTo(window, QPoint()).x()
    takes = show(window, qtbot, TakesPage)
    assert takes.isVisible() and hinges.isVisible() and not rhythm.isVisible()
    click(qtbot, hinges.row_view, hinges.row_view._leaf_rect(1).center().toPoint())
    assert window.page is hinges and window.places.checkedId() == window.page_names.index("Hinges")
    assert takes.isVisible() and window.document.chosen == 1
    press(window, qtbot, K.Key_L)  # keys go to the page that was clicked
    assert window.document.song.locked(1)
    settle(window, qtbot)
    show(window, qtbot, TakesPage)
    assert window.page is takes and hinges.isVisible()
    view = window.menus["View"]
    click_in_menu(qtbot, view, "Two pages above each other")
    assert takes.mapTo(window, QPoint()).y() < hinges.mapTo(window, QPoint()).y()
    click_in_menu(qtbot, view, "Keep this page in view")
    assert takes.isVisible() and not hinges.isVisible() and window.stage.beside == ""
    show(window, qtbot, HingesPage)
    assert hinges.isVisible() and not takes.isVisible()


def test_a_song_that_comes_back_is_shown_on_both_pages(window: Window, qtbot: QtBot) -> None:
    window.resize(2000, 1000)
    rhythm = show(window, qtbot, RhythmPage)
    hinges = show(window, qtbot, HingesPage)
    qtbot.keyClick(hinges.focus, K.Key_B, CTRL)
    song = window.document.song
    window.document.start_over(Song(), None)
    assert window.stage.empty
    hinges.row_view.setFocus()
    assert window.page is hinges
    window.document.start_over(song, None)
    assert not window.stage.empty and rhythm.isVisible() and hinges.isVisible()
    settle(window, qtbot)


def test_two_pages_in_view_are_remembered(window: Window, qtbot: QtBot) -> None:
    window.resize(2000, 1000)
    show(window, qtbot, RhythmPage)
    qtbot.keyClick(window.page.focus, K.Key_B, CTRL)
    window.stage.setSizes([700, 1100])
    sizes = window.stage.sizes()
    forget(window)
    window.close()
    display, _ = Display.read()
    assert (display.beside, display.above, display.split) == ("Rhythm", False, tuple(sizes))
    again = make_window(window.document.song)
    assert again.stage.beside == "Rhythm" and again.page.name == "Hinges"
    forget(again)
    again.close()


def test_a_page_that_no_longer_is_there_is_not_kept(window: Window, qtbot: QtBot) -> None:
    Display.path().parent.mkdir(parents=True, exist_ok=True)
    Display.path().write_text('{"beside": "Herring"}')
    again = make_window(window.document.song)
    assert again.stage.beside == "" and not again.findChildren(QPushButton, "Herring")
    forget(again)
    again.close()
