"""The window around the pages: commands, menus, files, sound, looks."""

from __future__ import annotations

import errno
import gc
import os
import re
import threading
import time
import weakref
from importlib.resources import files
from itertools import chain
from pathlib import Path

import mido
import pytest
from PySide6.QtCore import QCoreApplication, QEvent, Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QFileDialog,
    QListView,
    QMenu,
    QMessageBox,
    QPlainTextEdit,
    QSlider,
    QSpinBox,
)
from pytestqt.qtbot import QtBot

from conftest import FERRY
from yellow_hinge.errors import Cancelled
from yellow_hinge.formats.project_file import read
from yellow_hinge.song.edits import choose
from yellow_hinge.stopping import ask
from yellow_hinge.tasks.files.opening import demo_song, save_song
from yellow_hinge.tasks.settings import library as library_module
from yellow_hinge.tasks.swaps.desk import SwapDesk
from yellow_hinge.ui import file_desk, theme
from yellow_hinge.ui.commands import Command, CommandList
from yellow_hinge.ui.main import make_window
from yellow_hinge.ui.page import Page
from yellow_hinge.ui.pages.hinges.state import Selection
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.window import Window
from yellow_hinge.ui.worker import Worker

from .conftest import (
    PAGES,
    Rested,
    click,
    click_in_menu,
    colours,
    forget,
    look_at,
    page,
    press,
    settle,
    show,
    type_chart,
)

K = Qt.Key
every_page = pytest.mark.parametrize("kind", PAGES)


def test_the_demo_opens_solved(window: Window) -> None:
    assert window.document.song.solved and window.document.solved.exact
    assert not window.document.history.modified
    view = page(window, HingesPage)
    assert "Least effort" in view.total.text()
    assert {theme.LIGHT.held, theme.LIGHT.left, theme.LIGHT.right} <= colours(view.row_view)


@pytest.mark.long
def test_yellow_means_held_and_nothing_else(window: Window, qtbot: QtBot) -> None:
    show(window, qtbot, SongPage)
    assert theme.LIGHT.held not in colours(window)
    type_chart(window, qtbot, "| C | N.C. |")
    show(window, qtbot, HingesPage)
    assert theme.LIGHT.held not in colours(window)


# --- commands ---


def reachable(window: Window) -> list[Command]:
    """The commands that can be given on the page that is shown."""
    return [*window.commands.as_left(), *window.page.commands]


@every_page
def test_no_key_stands_for_two_commands_on_a_page(still: Window, qtbot: QtBot, kind: type[Page]) -> None:
    look_at(still, qtbot, kind)
    keys = [QKeySequence(key).toString() for command in reachable(still) for key in command.keys]
    assert len(keys) == len(set(keys)) and all(keys)
    ids = [command.id for command in reachable(still)]
    assert len(ids) == len(set(ids))


@every_page
def test_f1_lists_every_command_with_its_key(still: Window, qtbot: QtBot, kind: type[Page]) -> None:
    look_at(still, qtbot, kind)
    qtbot.keyClick(still, K.Key_F1)
    assert still.key_list.isVisible()
    listed = still.key_list.text.toPlainText()
    words = (files(kind.__module__.rpartition(".")[0]) / "words.md").read_text()
    assert re.sub(r"\*\*", "", words.split(".")[0]).split(",")[0] in listed
    assert 60 <= len(words.split()) <= 260  # a screen of words
    for command in reachable(still):
        assert (command.tip or command.words) in listed, command.id
        assert (command.key_words or "menu") in listed
    assert still.key_list.height() < 800  # what is longer is scrolled
    qtbot.keyClick(still.key_list, K.Key_Escape)
    assert not still.key_list.isVisible()


def entries(menu: QMenu) -> list[Command]:
    """The commands of a menu and of the menus within it."""
    found = []
    for action in menu.actions():
        inner = action.menu()
        if isinstance(inner, QMenu):
            found += entries(inner)
        elif isinstance(action.data(), Command):
            found.append(action.data())
    return found


@every_page
def test_every_command_is_in_a_menu(still: Window, qtbot: QtBot, kind: type[Page]) -> None:
    look_at(still, qtbot, kind)
    assert still.page_menu.title() == kind.name
    in_menus = list(chain(*(entries(menu) for menu in (*still.menus.values(), still.page_menu))))
    assert {command.id for command in in_menus} == {command.id for command in reachable(still)}


@pytest.mark.long
@every_page
def test_every_command_runs_from_its_menu_where_it_can_be_done(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, kind: type[Page]
) -> None:
    """By triggering the very entry that a click triggers; nothing raises, and a switch shows itself."""
    monkeypatch.setattr(SwapDesk, "look", lambda *_: (_ for _ in ()).throw(Cancelled))  # is tested beside
    monkeypatch.setattr(SwapDesk, "curve", lambda *_: (_ for _ in ()).throw(Cancelled))
    show(window, qtbot, kind)
    for command in list(window.page.commands):
        action = next(a for a in actions_in(window.page_menu) if a.data() is command)
        before = command.checked() if command.checked else None
        could = command.enabled()
        action.trigger()
        if command.checked and could:
            first = ("face-others", "face-patterns", "face-today", "face-proposals", "face-reach")
            stays = command.id in first or command.id.startswith("try-")
            if command.id.startswith("sheet-"):  # one of several is chosen, and stays so
                assert command.checked()
            else:
                assert command.checked() != before or stays
            action.trigger()
        window.playback.stop()
        if window.page.name != kind.name:
            show(window, qtbot, kind)
    settle(window, qtbot)


def actions_in(menu: QMenu) -> list[QAction]:
    found: list[QAction] = []
    for action in menu.actions():
        inner = action.menu()
        found += actions_in(inner) if isinstance(inner, QMenu) else [action]
    return found


def test_what_cannot_be_done_is_grey_in_its_menu_and_does_nothing(window: Window, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    window.page_menu.popup(window.pos())
    grey = {a.data().id for a in actions_in(window.page_menu) if not a.isEnabled()}
    window.page_menu.close()
    assert {"keep-row", "better", "give-back"} <= grey and "lock" not in grey
    before = window.document.song
    for command in grey:
        assert not view.commands[command].try_run()
    assert window.document.song is before


def test_a_button_a_menu_and_a_key_say_the_same(window: Window, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    lock = view.commands["lock"]
    assert view.side.leaf.lock_button.text() == "Lock (L)" == lock.button_words()
    assert view.side.leaf.lock_button.toolTip() == lock.tooltip and "(L)" in lock.tooltip
    click_in_menu(qtbot, window.page_menu, "Lock")
    settle(window, qtbot)
    assert window.document.song.locked(0) and view.side.leaf.lock_button.text() == "Unlock (L)"
    click(qtbot, view.side.leaf.lock_button)
    settle(window, qtbot)
    assert not window.document.song.locked(0)
    press(window, qtbot, K.Key_L)
    settle(window, qtbot)
    assert window.document.song.locked(0)
    assert window.commands["undo"].said == "Undo: Lock Aadd9"


def test_two_commands_on_one_key_are_a_mistake() -> None:
    one = Command("one", "One", lambda: None, ("X",))
    with pytest.raises(AssertionError, match="two commands on X"):
        CommandList([one, Command("two", "Two", lambda: None, ("X",))])


# --- pages ---


@pytest.mark.long
def test_switching_light_and_dark_builds_no_page(window: Window, qtbot: QtBot) -> None:
    assert set(window._pages) == {"Hinges"}
    qtbot.keyClick(window, K.Key_D, Qt.KeyboardModifier.ControlModifier)
    assert set(window._pages) == {"Hinges"} and window.theme is theme.DARK
    view = page(window, HingesPage)
    assert {theme.DARK.held, theme.DARK.left, theme.DARK.ground} <= colours(view.row_view)
    assert show(window, qtbot, SwapsPage).theme is theme.DARK  # also one that is made later
    qtbot.keyClick(window, K.Key_D, Qt.KeyboardModifier.ControlModifier)
    assert theme.LIGHT.ground in colours(window)


@pytest.mark.long
def test_a_page_is_reached_by_its_place_its_key_and_its_menu(window: Window, qtbot: QtBot) -> None:
    for number, kind in enumerate(PAGES):
        click(qtbot, window.places.button(number))
        assert isinstance(window.page, kind)
        assert window.places.button(number).isChecked()
        assert window.page.focus.hasFocus() or window.page.focus is window.focusWidget()
    for kind in PAGES:
        click_in_menu(qtbot, window.menus["View"], kind.name)
        assert isinstance(window.page, kind)


@pytest.mark.long
def test_the_place_in_the_song_is_the_same_on_every_page(window: Window, qtbot: QtBot) -> None:
    page(window, HingesPage)
    press(window, qtbot, K.Key_Right, 8)
    swaps = show(window, qtbot, SwapsPage)
    qtbot.waitUntil(lambda: not swaps.weighing.worker.running, timeout=30_000)
    assert swaps.state.chosen == 4
    press(window, qtbot, K.Key_Right, 2)
    qtbot.waitUntil(lambda: not swaps.weighing.worker.running, timeout=30_000)
    assert show(window, qtbot, HingesPage).state.selection == Selection(6)


# --- sound ---


def test_space_plays_and_marks_the_leaf(window: Window, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    view.walking.select(Selection(5))
    window.transport.tempo.setValue(400)
    press(window, qtbot, K.Key_Space)
    assert window.playback.playing and window.transport.play_button.text() == "Stop (Space)"
    qtbot.waitUntil(lambda: view.state.playing == 5, timeout=5000)
    qtbot.waitUntil(lambda: view.state.playing == 7, timeout=5000)
    press(window, qtbot, K.Key_Space)
    assert not window.playback.playing and view.state.playing == -1
    assert window.transport.play_button.text() == "Play (Space)"
    assert "silent stand-in" in window.transport.sound_label.text()


def test_ctrl_space_plays_while_typing(window: Window, qtbot: QtBot) -> None:
    view = show(window, qtbot, SongPage)
    text = view.editor.toPlainText()
    qtbot.keyClick(view.editor, K.Key_Space, Qt.KeyboardModifier.ControlModifier)
    assert window.playback.playing and view.editor.toPlainText() == text


@pytest.mark.long
def test_audition_ends_by_itself(window: Window, qtbot: QtBot) -> None:
    page(window, HingesPage).walking.select(Selection(0, True))
    window.transport.tempo.setValue(400)
    press(window, qtbot, K.Key_H)
    assert window.playback.playing
    qtbot.waitUntil(lambda: not window.playback.playing, timeout=6000)
    assert window.transport.volume.value() == 50
    window.transport.volume.setValue(20)
    assert window.playback.volume == pytest.approx(0.2)


# --- files ---


@pytest.mark.long
def test_save_export_and_reopen(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    type_chart(window, qtbot, FERRY)
    document = window.document
    document.apply(choose(document.song, 1, document.solved.alternatives[1][2].voicing))
    settle(window, qtbot)
    path = tmp_path / "own.yhinge"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path.with_suffix("")), ""))
    qtbot.keyClick(window, K.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert not document.history.modified and document.path == path
    song = document.song
    assert read(path.read_bytes()).song == song
    window.files.export_path(tmp_path / "own.mid")
    qtbot.waitUntil(lambda: not window.files.export_worker.running, timeout=60_000)
    assert len(mido.MidiFile(tmp_path / "own.mid").tracks) == 4
    window.files.export_path(tmp_path / "own.musicxml")
    assert "Exporting own.musicxml" in window.message.text.text()
    window.files.export_path(tmp_path / "second.mid")
    assert "another export is still being written" in window.message.text.text()
    qtbot.waitUntil(lambda: not window.files.export_worker.running, timeout=60_000)
    assert "own.musicxml" in window.message.text.text() and not (tmp_path / "second.mid").exists()
    demos = next(a.menu() for a in window.menus["File"].actions() if a.text() == "Open demo song")
    assert isinstance(demos, QMenu)
    click_in_menu(qtbot, demos, "Copper Kite")
    settle(window, qtbot)
    assert document.song.title == "Copper Kite"
    window.files.open_path(path)
    settle(window, qtbot)
    assert document.song == song and document.path == path
    assert not document.history.modified


@pytest.mark.parametrize("fails", [False, True])
def test_an_export_that_has_begun_ends_or_says_why_not_when_the_window_was_closed_meanwhile(
    window: Window, monkeypatch: pytest.MonkeyPatch, tmp_path: Path, fails: bool
) -> None:
    begun, may, said = threading.Event(), threading.Event(), []

    def no_space(_: int) -> None:
        raise OSError(errno.ENOSPC, "No space left")

    def slow(*given: object) -> str:
        begun.set()
        assert may.wait(30)
        ask()  # nobody called it off
        if fails:
            monkeypatch.setattr(
                os, "fsync", lambda _: (_ for _ in ()).throw(OSError(errno.ENOSPC, "No space"))
            )
        return save_song(*given)  # type: ignore[arg-type]

    monkeypatch.setattr(file_desk, "save_song", slow)
    monkeypatch.setattr(QMessageBox, "critical", lambda *words: said.append(words[-1]))
    window.files.export_path(tmp_path / "late.mid")
    assert begun.wait(30)
    forget(window)
    assert window.close() and not (tmp_path / "late.mid").exists()
    may.set()
    window.files.finish()
    assert not window.files.export_worker._thread.is_alive()  # type: ignore[union-attr]
    if fails:
        assert len(said) == 1 and "late.mid" in said[0] and "no space" in said[0]
        assert not list(tmp_path.glob("late*"))
    else:
        assert not said and len(mido.MidiFile(tmp_path / "late.mid").tracks) == 5


def test_a_full_disk_is_said_and_the_song_stays(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    type_chart(window, qtbot, "| C | F |")
    window.document.path = tmp_path / "x.yhinge"
    monkeypatch.setattr(os, "fsync", lambda _: (_ for _ in ()).throw(OSError(errno.ENOSPC, "No space left")))
    assert not window.files.save()
    assert "no space left" in window.message.text.text() and window.document.history.modified
    assert list(tmp_path.glob("*.yhinge*")) == []


def test_bad_files_leave_the_open_song(window: Window, tmp_path: Path) -> None:
    before = window.document.song
    for name, data in (
        ("x.txt", b"\x00\x01"), ("x.musicxml", b"<a"), ("x.yhinge", b"{}"), ("y.txt", b"| H |"),
    ):  # fmt: skip
        (tmp_path / name).write_bytes(data)
        window.files.open_path(tmp_path / name)
        assert window.document.song is before
        assert window.message.isVisible()
        window.message.hide()


def test_unsaved_changes_are_asked_about(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    type_chart(window, qtbot, "| C | F |")
    own = window.document.song
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Cancel)
    qtbot.keyClick(window, K.Key_N, Qt.KeyboardModifier.ControlModifier)
    assert window.document.song is own
    assert not window.close()
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    show(window, qtbot, HingesPage)
    qtbot.keyClick(window, K.Key_N, Qt.KeyboardModifier.ControlModifier)
    settle(window, qtbot)
    assert window.document.song.title == "Untitled" and isinstance(window.page, SongPage)
    assert "title: Untitled" in window.page.editor.toPlainText()


def test_a_bad_file_of_own_recipes_does_not_keep_the_window_shut(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "recipes.toml"
    path.write_text("schema = 3")
    monkeypatch.setattr(library_module, "own_recipes_path", lambda: path)
    window = make_window(demo_song("lantern-ferry"))
    qtbot.addWidget(window)
    window.show()
    assert window.message.isVisible() and "recipes.toml" in window.message.text.text()


# --- looks ---


@every_page
def test_every_control_has_a_name_or_words(still: Window, qtbot: QtBot, kind: type[Page]) -> None:
    look_at(still, qtbot, kind)
    for sort in (QAbstractButton, QComboBox, QListView, QPlainTextEdit, QSlider, QSpinBox):
        for control in still.findChildren(sort):
            if control.isVisible() and not control.objectName().startswith("qt_"):
                assert control.accessibleName() or getattr(control, "text", str)() or control.toolTip()


def test_contrast_of_text_is_readable() -> None:
    def luminance(color: str) -> float:
        parts = [int(color[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        r, g, b = (p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
        return 0.2126 * r + 0.7152 * g + 0.0722 * b

    def contrast(a: str, b: str) -> float:
        high, low = sorted((luminance(a), luminance(b)), reverse=True)
        return (high + 0.05) / (low + 0.05)

    for one in theme.THEMES.values():
        for text, ground in (
            (one.ink, one.ground), (one.ink, one.raised), (one.muted, one.ground), (one.muted, one.surface),
            (one.on_hand, one.left), (one.on_hand, one.right), (one.wrong, one.surface),
            (one.left, one.ground), (one.right, one.ground),
        ):  # fmt: skip
            assert contrast(text, ground) >= 4.5, (one.name, text, ground)


@every_page
def test_the_window_fits_1280_by_800(still: Window, qtbot: QtBot, kind: type[Page]) -> None:
    look_at(still, qtbot, kind)
    QApplication.processEvents()
    hint = still.minimumSizeHint()
    assert hint.width() <= 1280 and hint.height() <= 800


@pytest.mark.long
def test_the_window_answers_while_a_long_song_is_solved(window: Window, qtbot: QtBot) -> None:
    """500 chords in wide hands: the event loop keeps turning, and cancel ends it at once."""
    view = show(window, qtbot, SongPage)
    view.editor.setPlainText("| Dm7 | G13 | Cmaj9 | A7b9 |\n" * 125)
    window.document.read_draft()
    longest, last, ticks = 0.0, time.monotonic(), 0
    while window.document.worker.running and ticks < 4000:
        qtbot.wait(1)
        now = time.monotonic()
        longest, last, ticks = max(longest, now - last), now, ticks + 1
    assert ticks > 3 and longest < 3
    view.editor.setPlainText("| Dm7 | G13 | Cmaj9 | A7b9 |\n" * 124)
    window.document.read_draft()
    click(qtbot, window.transport.cancel)
    assert not window.document.worker.running
    settle(window, qtbot)
    assert not window.transport.progress.isVisible()


def test_a_closed_window_is_let_go(window: Window, qtbot: QtBot) -> None:
    """With its pages, their parts and workers, and the song."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("yellow_hinge.tasks.song.session.Session", Rested)
        made = make_window(demo_song("lantern-ferry"))
    made.show()
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    for kind in PAGES:
        show(made, qtbot, kind)
        settle(made, qtbot)
    kept = [
        weakref.ref(one)
        for one in (made, made.document, *made.findChildren(Page), *made.findChildren(Worker))
    ]
    kept += [weakref.ref(part) for page in made.findChildren(Page) for part in page.parts]
    assert len(kept) > 30
    forget(made)
    made.close()
    made.deleteLater()
    del made
    qtbot.wait(50)
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.collect()
    assert [one() for one in kept if one() is not None] == []
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
