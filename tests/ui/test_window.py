"""The window as a player uses it: typing, choosing, locking, hearing, saving."""

from __future__ import annotations

import errno
import os
from dataclasses import replace
from pathlib import Path

import mido
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox, QWidget
from pytestqt.qtbot import QtBot

from conftest import FERRY
from yellow_hinge.formats.project_file import read
from yellow_hinge.ui import theme
from yellow_hinge.ui.hands_page.state import TRY_KEYS
from yellow_hinge.ui.hinges_page.state import Selection
from yellow_hinge.ui.keyboard import key_rect
from yellow_hinge.ui.window import HANDS, HINGES, SONG, Window

from .conftest import press, settle


def type_chart(window: Window, qtbot: QtBot, text: str) -> None:
    """Replace the chart by typing over it, and wait for the live check."""
    window.go_to(SONG)
    editor = window.song_view.editor
    editor.selectAll()
    editor.insertPlainText(text)
    qtbot.wait(450)
    settle(window, qtbot)


def colours(widget: QWidget) -> set[str]:
    image: QImage = widget.grab().toImage()
    return {
        QColor(image.pixel(x, y)).name()
        for x in range(0, image.width(), 2)
        for y in range(0, image.height(), 2)
    }


def test_the_demo_opens_solved(window: Window) -> None:
    assert window.document.song.solved and window.document.exact
    assert not window.document.history.modified
    assert "Least effort" in window.hinges_view.total.text()
    assert {theme.LIGHT.held, theme.LIGHT.left, theme.LIGHT.right} <= colours(window.hinges_view.row_view)


def test_yellow_means_held_and_nothing_else(window: Window, qtbot: QtBot) -> None:
    window.go_to(SONG)
    assert theme.LIGHT.held not in colours(window)
    type_chart(window, qtbot, "| C | N.C. |")
    window.go_to(HINGES)
    assert theme.LIGHT.held not in colours(window)


def test_an_own_chart_is_typed_and_solved(window: Window, qtbot: QtBot) -> None:
    type_chart(window, qtbot, "title: Tar Barrel\nkey: F\n| Fmaj7 | Dm7 | Gm7 | C9sus |")
    song = window.document.song
    assert song.title == "Tar Barrel" and song.solved
    assert "Read: 4 bars, 4 chords in F major" in window.song_view.verdict.text()
    assert window.windowTitle().startswith("* Tar Barrel")
    assert window.hinges_view.title.text() == "Tar Barrel"


def test_errors_stand_at_their_place_and_nothing_is_lost(window: Window, qtbot: QtBot) -> None:
    before = window.document.song
    type_chart(window, qtbot, "| C | Hm |\n| Cfoo |")
    view = window.song_view
    assert window.document.song is before
    assert view.problems.count() == 2 and "line 1, column 7" in view.problems.item(0).text()
    marks = view.editor.extraSelections()
    assert [mark.cursor.selectedText() for mark in marks] == ["Hm", "foo"]
    view.problems.itemActivated.emit(view.problems.item(1))
    assert view.editor.textCursor().blockNumber() == 1
    type_chart(window, qtbot, "| C | Hm |\n| C |")  # mended in part: the text stays
    assert view.editor.toPlainText() == "| C | Hm |\n| C |"
    type_chart(window, qtbot, "| C | Bm |")
    assert not view.editor.extraSelections() and len(window.document.song.slots) == 2


def test_arrows_walk_leaves_and_hinges(window: Window, qtbot: QtBot) -> None:
    view = window.hinges_view
    press(window, qtbot, Qt.Key.Key_Right)
    assert view.state.selection == Selection(0, True)
    assert "Left hand" in view.words.text() and view.chosen_title.text() == "Aadd9 → C♯m11"
    press(window, qtbot, Qt.Key.Key_Right)
    assert view.state.selection == Selection(1) and view.chosen_title.text() == "C♯m11"
    press(window, qtbot, Qt.Key.Key_End)
    assert view.state.selection == Selection(31) and view.row_view.first > 20
    press(window, qtbot, Qt.Key.Key_Right)
    assert view.state.selection == Selection(31)
    press(window, qtbot, Qt.Key.Key_Home)
    press(window, qtbot, Qt.Key.Key_Left)
    assert view.state.selection == Selection(0)


def test_mouse_chooses_in_both_rows(window: Window, qtbot: QtBot) -> None:
    view = window.hinges_view
    centre = view.row_view._leaf_rect(2).center().toPoint()
    qtbot.mouseClick(view.row_view, Qt.MouseButton.LeftButton, pos=centre)
    assert view.state.selection == Selection(2)
    centre = view.row_view._hinge_rect(3).center().toPoint()
    qtbot.mouseClick(view.row_view, Qt.MouseButton.LeftButton, pos=centre)
    assert view.state.selection == Selection(3, True)
    qtbot.mouseClick(view.overview, Qt.MouseButton.LeftButton, pos=QPoint(view.overview.width() - 12, 40))
    assert view.state.selection == Selection(31)


def test_labels_turn_from_names_to_degrees_to_fingers(window: Window, qtbot: QtBot) -> None:
    seen = [window.hinges_view.label_button.text()]
    for _ in range(3):
        press(window, qtbot, Qt.Key.Key_N)
        seen.append(window.hinges_view.label_button.text())
    assert seen[0] == seen[3] and len(set(seen)) == 3


def test_try_and_lock_an_alternative(window: Window, qtbot: QtBot) -> None:
    view, document = window.hinges_view, window.document
    window.hinges_view.select(Selection(2))
    own = document.song.voicing(2)
    press(window, qtbot, Qt.Key.Key_Down, 3)
    press(window, qtbot, Qt.Key.Key_T)
    tried = view.state.trial
    assert tried and tried != own and document.song.voicing(2) == own
    assert view.state.row.held[2].voicing == tried and not document.history.modified
    press(window, qtbot, Qt.Key.Key_Escape)
    assert view.state.trial is None and view.state.row.held[2].voicing == own
    press(window, qtbot, Qt.Key.Key_T)
    press(window, qtbot, Qt.Key.Key_L)
    settle(window, qtbot)
    assert document.song.voicing(2) == tried and document.song.locked(2)
    assert document.history.undo_label == "Lock Dmaj9"
    assert view.lock_button.text() == "Unlock (L)"
    press(window, qtbot, Qt.Key.Key_L)
    settle(window, qtbot)
    assert not document.song.locked(2) and document.song.voicing(2) == own


def test_a_lock_costs_what_the_list_said(window: Window, qtbot: QtBot) -> None:
    document = window.document
    listed = document.alternatives[4][6]
    before = motion_cost(window)
    document.lock(4, listed.voicing)
    settle(window, qtbot)
    assert motion_cost(window) == before + listed.extra


def motion_cost(window: Window) -> int:
    from yellow_hinge.motion.plan import Planner
    from yellow_hinge.tasks.voice_song import voice_song

    return voice_song(
        window.document.song, window.document.library, Planner(window.document.library)
    ).answer.cost


def test_undo_and_redo_bring_back_text_hands_and_voicings(window: Window, qtbot: QtBot) -> None:
    document, start = window.document, window.document.song
    type_chart(window, qtbot, "| C | F | G7 |")
    typed = document.song
    view = window.song_view
    view.school.setCurrentIndex(view.school.findData("band"))
    view.school.activated.emit(view.school.currentIndex())
    settle(window, qtbot)
    banded = document.song
    assert banded.settings.school == "band" and document.row.bassist[0] is not None
    window.undo()
    settle(window, qtbot)
    assert document.song == typed and view.school.currentData() == "solo"
    window.undo()
    settle(window, qtbot)
    assert document.song == start and "Lantern Ferry" in view.editor.toPlainText()
    window.redo()
    window.redo()
    settle(window, qtbot)
    assert document.song == banded and view.editor.toPlainText() == "| C | F | G7 |"


def test_reach_changes_the_voicings_and_impossible_hands_say_so(window: Window, qtbot: QtBot) -> None:
    view, document = window.song_view, window.document
    before = document.song.choices
    for box, reach in ((view.left_reach, 3), (view.right_reach, 3)):
        box.setCurrentIndex(box.findData(reach))
    view.right_reach.activated.emit(0)
    settle(window, qtbot)
    assert window.message_bar.isVisible() and "bar 2, C#m11" in window.message.text()
    assert document.song.choices == before  # nothing is lost
    for box, reach in ((view.left_reach, 10), (view.right_reach, 9)):
        box.setCurrentIndex(box.findData(reach))
    view.right_reach.activated.emit(0)
    settle(window, qtbot)
    assert not window.message_bar.isVisible() and document.song.choices != before
    assert document.history.undo_label == "Change reach"


def test_changing_the_key_moves_the_chart(window: Window, qtbot: QtBot) -> None:
    view = window.song_view
    view.key.setCurrentIndex(view.key.findData("Bb"))
    view.key.activated.emit(0)
    settle(window, qtbot)
    assert "| Bbadd9 | Dm11 | Ebmaj9:2 F9sus:1 | Gm7 |" in view.editor.toPlainText()
    assert str(window.document.song.key) == "Bb" and window.document.song.solved


def test_an_empty_chart_says_what_to_do(window: Window, qtbot: QtBot) -> None:
    type_chart(window, qtbot, "")
    assert "no bars" in window.song_view.problems.item(0).text()
    assert window.document.song.slots  # the last good song stays


# --- sound ---


def test_space_plays_and_marks_the_leaf(window: Window, qtbot: QtBot) -> None:
    window.hinges_view.select(Selection(5))
    window.tempo.setValue(400)
    press(window, qtbot, Qt.Key.Key_Space)
    assert window.playback.playing and window.play_button.text() == "Stop"
    state = window.hinges_view.state
    qtbot.waitUntil(lambda: state.playing == 5, timeout=5000)
    qtbot.waitUntil(lambda: state.playing == 7, timeout=5000)
    press(window, qtbot, Qt.Key.Key_Space)
    assert not window.playback.playing and state.playing == -1
    assert window.play_button.text() == "Play" and "silent stand-in" in window.sound_label.text()


def test_audition_ends_by_itself(window: Window, qtbot: QtBot) -> None:
    window.hinges_view.select(Selection(0, True))
    window.tempo.setValue(400)
    press(window, qtbot, Qt.Key.Key_H)
    qtbot.waitUntil(lambda: not window.playback.playing, timeout=6000)
    assert window.volume.value() == 50
    window.volume.setValue(20)
    assert window.playback.volume == pytest.approx(0.2)


# --- files ---


def test_save_export_and_reopen(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    type_chart(window, qtbot, FERRY)
    window.document.lock(1, window.document.alternatives[1][2].voicing)
    settle(window, qtbot)
    path = tmp_path / "own.yhinge"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path.with_suffix("")), ""))
    assert window.save() and not window.document.history.modified
    song = window.document.song
    assert read(path.read_bytes()).song == song
    window.export_path(tmp_path / "own.mid")
    assert len(mido.MidiFile(tmp_path / "own.mid").tracks) == 4
    window.export_path(tmp_path / "own.musicxml")
    assert "Exported" in window.message.text()
    window.open_demo("copper-kite")
    settle(window, qtbot)
    assert window.document.song.title == "Copper Kite"
    window.open_path(path)
    settle(window, qtbot)
    assert window.document.song == song and window.document.path == path
    assert not window.document.history.modified


def test_a_full_disk_is_said_and_the_song_stays(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    type_chart(window, qtbot, "| C | F |")
    window.document.path = tmp_path / "x.yhinge"
    monkeypatch.setattr(os, "fsync", lambda _: (_ for _ in ()).throw(OSError(errno.ENOSPC, "No space left")))
    assert not window.save()
    assert "no space left" in window.message.text() and window.document.history.modified
    assert list(tmp_path.glob("*.yhinge*")) == []


def test_bad_files_leave_the_open_song(window: Window, tmp_path: Path) -> None:
    before = window.document.song
    for name, data in (
        ("x.txt", b"\x00\x01"),
        ("x.musicxml", b"<a"),
        ("x.yhinge", b"{}"),
        ("y.txt", b"| H |"),
    ):
        (tmp_path / name).write_bytes(data)
        window.open_path(tmp_path / name)
        assert window.document.song is before
        assert window.message_bar.isVisible()
        window.message_bar.hide()


def test_unsaved_changes_are_asked_about(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    type_chart(window, qtbot, "| C | F |")
    own = window.document.song
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Cancel)
    window.new_song()
    assert window.document.song is own
    assert not window.close()
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    window.new_song()
    settle(window, qtbot)
    assert window.document.song.title == "Untitled" and window.place == SONG


# --- looks ---


def test_light_and_dark(window: Window, qtbot: QtBot) -> None:
    window.switch_theme()
    assert {theme.DARK.held, theme.DARK.left, theme.DARK.ground} <= colours(window.hinges_view.row_view)
    window.switch_theme()
    assert theme.LIGHT.ground in colours(window)


def test_every_control_has_a_name_or_words(window: Window) -> None:
    from PySide6.QtWidgets import QAbstractButton, QComboBox, QListView, QPlainTextEdit, QSlider, QSpinBox

    window.go_to(SONG)
    for kind in (QAbstractButton, QComboBox, QListView, QPlainTextEdit, QSlider, QSpinBox):
        for control in window.findChildren(kind):
            if control.isVisible() and not control.objectName().startswith("qt_"):
                assert control.accessibleName() or getattr(control, "text", str)() or control.toolTip()


def test_f1_lists_the_keys(window: Window) -> None:
    window.show_keys()
    assert "walk leaves and hinges" in window.message.text()
    window.show_about()
    assert "MIT" in window.message.text()


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


def test_the_window_fits_1280_by_800(window: Window) -> None:
    for place in (SONG, HANDS, HINGES):
        window.go_to(place)
        QApplication.processEvents()
        hint = window.minimumSizeHint()
        assert hint.width() <= 1280 and hint.height() <= 800


def test_the_window_answers_while_a_long_song_is_solved(window: Window, qtbot: QtBot) -> None:
    """500 chords in wide hands: the event loop keeps turning, and cancel ends it at once."""
    import time

    view = window.song_view
    window.go_to(SONG)
    view.editor.setPlainText("| Dm7 | G13 | Cmaj9 | A7b9 |\n" * 125)
    view.read_text()
    longest, last, ticks = 0.0, time.monotonic(), 0
    while window.document.worker.running and ticks < 4000:
        qtbot.wait(1)
        now = time.monotonic()
        longest, last, ticks = max(longest, now - last), now, ticks + 1
    assert ticks > 3 and longest < 1.5
    view.editor.setPlainText("| Dm7 | G13 | Cmaj9 | A7b9 |\n" * 124)
    view.read_text()
    window.cancel.click()
    assert not window.document.worker.running
    settle(window, qtbot)
    assert not window.progress.isVisible()


def test_a_vamp_leads_back_to_the_first_chord(window: Window, qtbot: QtBot) -> None:
    type_chart(window, qtbot, "| Dm9 | G13 | Cmaj9 | A7 |")
    window.go_to(HINGES)
    press(window, qtbot, Qt.Key.Key_B)
    settle(window, qtbot)
    document, view = window.document, window.hinges_view
    assert document.song.settings.loop and document.exact
    assert len(document.row.hinges) == 4
    press(window, qtbot, Qt.Key.Key_End)
    press(window, qtbot, Qt.Key.Key_Right)
    assert view.state.selection == Selection(3, True)
    assert view.chosen_title.text() == "A7 → Dm9"
    assert theme.LIGHT.held in colours(view.row_view)
    window.tempo.setValue(400)
    press(window, qtbot, Qt.Key.Key_H)
    qtbot.waitUntil(lambda: view.state.playing == 0, timeout=5000)
    window.playback.stop()
    press(window, qtbot, Qt.Key.Key_B)
    settle(window, qtbot)
    assert not document.song.settings.loop and view.state.selection == Selection(3)


def test_takes_are_switched_by_a_key_and_undone(window: Window, qtbot: QtBot) -> None:
    document, view = window.document, window.hinges_view
    first = document.song.choices
    press(window, qtbot, Qt.Key.Key_K)
    settle(window, qtbot)
    second = document.song.choices
    assert second != first and view.takes.checkedId() == 1
    assert "Take 2" in view.total.text()
    assert document.history.undo_label == "Take 2"
    window.undo()
    settle(window, qtbot)
    assert document.song.choices == first
    window.redo()
    settle(window, qtbot)
    assert document.song.choices == second


def test_a_bad_file_of_own_recipes_does_not_keep_the_window_shut(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from yellow_hinge.tasks import library as library_module
    from yellow_hinge.tasks.files import demo_song
    from yellow_hinge.ui.main import make_window

    path = tmp_path / "recipes.toml"
    path.write_text("schema = 3")
    monkeypatch.setattr(library_module, "own_recipes_path", lambda: path)
    window = make_window(demo_song("lantern-ferry"))
    qtbot.addWidget(window)
    window.show()
    assert window.message_bar.isVisible() and "recipes.toml" in window.message.text()


def test_the_guided_try_sets_the_reach(window: Window, qtbot: QtBot) -> None:
    window.go_to(HANDS)
    view, document = window.hands_view, window.document
    assert "click one end" in view.instruction.text()
    board = view.keyboard
    for key in (48, 64):
        rect = key_rect(key, *TRY_KEYS, board._area())
        qtbot.mouseClick(
            board, Qt.MouseButton.LeftButton, pos=QPoint(int(rect.center().x()), int(rect.bottom() - 9))
        )
    settle(window, qtbot)
    assert "C3 to E4" in view.instruction.text()
    assert document.song.settings.profile.left.reach == 10
    assert document.history.undo_label == "Reach of the left hand"
    view.choose_side(1)
    board.setFocus()
    for key, times in (
        (Qt.Key.Key_Left, 4),
        (Qt.Key.Key_Return, 1),
        (Qt.Key.Key_Right, 9),
        (Qt.Key.Key_Return, 1),
    ):
        for _ in range(times):
            qtbot.keyClick(board, key)
    settle(window, qtbot)
    assert document.song.settings.profile.right.reach_mm < 164.5
    window.undo()
    settle(window, qtbot)
    assert document.song.settings.profile.right.reach == 8


def test_notes_register_and_narrow_keys(window: Window, qtbot: QtBot) -> None:
    window.go_to(HANDS)
    view, document = window.hands_view, window.document
    view.spins["right", "most_notes"].setValue(3)
    settle(window, qtbot)
    assert all(len(held.voicing.right.keys) <= 3 for held in document.row.held)
    view.spins["left", "lowest_key"].setValue(36)
    settle(window, qtbot)
    assert all(held.voicing.left.keys[0] >= 36 for held in document.row.held)
    before = document.song.settings
    view.spins["left", "lowest_key"].setValue(100)  # above the highest key: not taken
    assert document.song.settings == before and view.spins["left", "lowest_key"].value() == 36
    view.octave.setCurrentIndex(2)
    view.octave.activated.emit(2)
    settle(window, qtbot)
    assert document.song.settings.profile.octave_mm == 140.0
    assert "mm" in view.summaries["left"].text()


def test_wishes_are_taken_shown_and_undone(window: Window, qtbot: QtBot) -> None:
    view, document = window.hinges_view, window.document
    view.select(Selection(2))
    press(window, qtbot, Qt.Key.Key_W)
    wishes = view.wishes
    assert view.stack.currentWidget() is wishes
    top = document.song.voicing(2).right.keys[-1]  # type: ignore[union-attr]
    wishes.ticks["top"].click()
    settle(window, qtbot)
    assert document.song.ask(2).hold.top == top
    assert document.song.voicing(2).right.keys[-1] == top  # type: ignore[union-attr]
    wishes.choose_scope(1)
    box = wishes.boxes["school"]
    box.setCurrentIndex(box.findData("band"))
    box.activated.emit(box.currentIndex())
    settle(window, qtbot)
    section = document.song.slots[2].section
    assert document.song.tastes[section].school == "band"
    wishes.choose_scope(2)
    level = wishes.levels["top"]
    level.setCurrentIndex(level.findData(2))
    level.activated.emit(level.currentIndex())
    settle(window, qtbot)
    assert document.song.settings.levels == (("top", 2),)
    for _ in range(3):
        window.undo()
    settle(window, qtbot)
    assert not document.song.tastes and not document.song.asks and not document.song.settings.levels
    press(window, qtbot, Qt.Key.Key_W)
    assert view.stack.currentIndex() == 0


def test_a_change_that_could_be_smaller_is_tried_by_a_key(window: Window, qtbot: QtBot) -> None:
    view, document = window.hinges_view, window.document
    index, better = next((i, b) for i, b in enumerate(document.betterments) if b is not None)
    before = document.row.hinges[index].motion_st
    view.select(Selection(index, True))
    assert str(better.saved_st) in view.better_label.text()
    press(window, qtbot, Qt.Key.Key_G)
    assert view.state.trial == better.voicing
    assert view.state.row.hinges[index].motion_st == before - better.saved_st
    window.playback.stop()
    press(window, qtbot, Qt.Key.Key_Escape)
    assert view.state.trial is None


def test_the_tune_is_shown_over_the_leaves(window: Window, qtbot: QtBot) -> None:
    view = window.hinges_view
    low, high = view.state.key_range()
    press(window, qtbot, Qt.Key.Key_M)
    assert view.melody_button.isChecked() and view.state.key_range() != (low, high)
    assert "chord tone" in view.melody_label.text() or "tension" in view.melody_label.text()
    view.row_view.grab()
    press(window, qtbot, Qt.Key.Key_M)
    assert view.state.key_range() == (low, high)


def test_a_locked_chord_out_of_reach_is_offered_ways_to_play_it(window: Window, qtbot: QtBot) -> None:
    view, document = window.hinges_view, window.document
    wide = next(
        i for i, slot in enumerate(document.song.slots)
        if len(document.song.voicing(slot.index).right.keys) >= 3  # type: ignore[union-attr]
    )  # fmt: skip
    voicing = document.song.voicing(wide)
    assert voicing is not None
    document.lock(wide, voicing)
    settle(window, qtbot)
    view.select(Selection(wide))
    assert len(view.alternatives.lines) > 1 and "Unlock" in view.lock_button.text()
    profile = document.song.settings.profile.with_reach(6, 5)
    document.change_settings(replace(document.song.settings, profile=profile), "Reach")
    settle(window, qtbot)
    assert view.warning.isVisible() and "out of reach" in view.warning.text()
    ways = document.reductions.get(wide, [])
    assert [line.cost for line in view.alternatives.lines[: len(ways)]] == ["fits"] * len(ways)


def test_rolled_reach_habits_and_kept_hands(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setattr("yellow_hinge.tasks.profiles.profiles_path", lambda: tmp_path / "x" / "hands.json")
    window.go_to(HANDS)
    view, document = window.hands_view, window.document
    view.choose_side(2)
    for key in (48, 65):
        view.play(key)
    settle(window, qtbot)
    profile = document.song.settings.profile
    assert profile.roll and profile.left.widest_mm > profile.left.reach_mm
    assert "rolled" in view.summaries["left"].text()
    view.interlock.click()
    view.profile_box.setCurrentText("  Own  hands ")
    view.keep_profile()
    kept = document.song.settings.profile
    assert kept.interlock and view.profile_box.currentText() == "Own hands"
    view.roll.click()
    assert not document.song.settings.profile.roll
    view.take_profile()
    assert document.song.settings.profile == kept
    view.drop_profile()
    assert view.profile_box.count() == 0
    view.profile_box.setCurrentText(" ")
    view.keep_profile()
    assert window.message_bar.isVisible() and "no name" in window.message.text()
    (tmp_path / "x" / "hands.json").write_text('{"schema": 3}')
    view.keep_profile()
    assert "hands.json" in window.message.text() or "no name" in window.message.text()
    settle(window, qtbot)


def test_lines_for_a_solo_are_shown_on_the_keys(window: Window, qtbot: QtBot) -> None:
    view = window.hinges_view
    view.select(Selection(1))
    press(window, qtbot, Qt.Key.Key_S)
    words = view.lines_label.text()
    assert view.lines_label.isVisible() and "Guide-tone line" in words and "Whole song" in words
    assert len(view.keyboard._scale) >= 6
    view.keyboard.grab()
    press(window, qtbot, Qt.Key.Key_S)
    assert not view.lines_label.isVisible() and not view.keyboard._scale


def test_a_small_note_on_the_way_is_ticked_and_undone(window: Window, qtbot: QtBot) -> None:
    view, document = window.hinges_view, window.document
    for index in range(len(document.row.hinges)):
        view.select(Selection(index, True))
        if view.fills.count():
            break
    view.fills.item(0).setCheckState(Qt.CheckState.Checked)
    settle(window, qtbot)
    assert document.song.ask(index).fills
    assert view.fills.item(0).checkState() == Qt.CheckState.Checked
    window.undo()
    settle(window, qtbot)
    assert not document.song.asks
