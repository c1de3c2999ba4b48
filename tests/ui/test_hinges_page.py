"""The workbench: walking, trying, locking, wishes, rows and takes, by keys and clicks."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import change_hands, choose
from yellow_hinge.song.edits import settle as settle_song
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.ui import theme
from yellow_hinge.ui.pages.hinges.state import Selection
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.window import Window

from .conftest import click, colours, page, pick, press, redo, settle, show, type_chart, undo

K = Qt.Key


def test_arrows_walk_leaves_and_hinges(window: Window, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    press(window, qtbot, K.Key_Right)
    assert view.state.selection == Selection(0, True)
    assert "Left hand" in view.side.hinge.words.text() and view.side.title.text() == "Aadd9 → C♯m11"
    press(window, qtbot, K.Key_Right)
    assert view.state.selection == Selection(1) and view.side.title.text() == "C♯m11"
    press(window, qtbot, K.Key_End)
    assert view.state.selection == Selection(31) and view.row_view.first > 20
    press(window, qtbot, K.Key_Right)
    assert view.state.selection == Selection(31)
    press(window, qtbot, K.Key_Home)
    press(window, qtbot, K.Key_Left)
    assert view.state.selection == Selection(0)


def test_mouse_chooses_in_both_rows(window: Window, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    click(qtbot, view.row_view, view.row_view._leaf_rect(2).center().toPoint())
    assert view.state.selection == Selection(2)
    click(qtbot, view.row_view, view.row_view._hinge_rect(3).center().toPoint())
    assert view.state.selection == Selection(3, True)
    click(qtbot, view.overview, QPoint(view.overview.width() - 12, 40))
    assert view.state.selection == Selection(31)


def test_labels_turn_from_names_to_degrees_to_fingers(window: Window, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    for words in ("names", "degrees", "fingers", "names"):
        assert view.commands["labels"].said == f"Notes: {words}"
        press(window, qtbot, K.Key_N)


@pytest.mark.long
def test_try_and_lock_an_alternative(window: Window, qtbot: QtBot) -> None:
    view, document = page(window, HingesPage), window.document
    press(window, qtbot, K.Key_Right, 4)
    own = document.song.voicing(2)
    press(window, qtbot, K.Key_Down, 3)
    press(window, qtbot, K.Key_T)
    tried = view.state.trial
    assert tried and tried != own and document.song.voicing(2) == own
    assert view.state.row.held[2].voicing == tried and not document.history.modified
    press(window, qtbot, K.Key_Escape)
    assert view.state.trial is None and view.state.row.held[2].voicing == own
    press(window, qtbot, K.Key_T)
    press(window, qtbot, K.Key_L)
    settle(window, qtbot)
    assert document.song.voicing(2) == tried and document.song.locked(2)
    assert document.history.undo_label == "Lock D♭maj9".replace("♭", "")
    assert view.side.leaf.lock_button.text() == "Unlock (L)"
    second_round = next(s.index for s in document.song.slots if s.round == 2) + 2
    assert document.song.locked(second_round)  # all rounds of it
    press(window, qtbot, K.Key_L)
    settle(window, qtbot)
    assert not document.song.locked(2) and document.song.voicing(2) == own


def test_a_trial_that_is_left_is_over(window: Window, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    press(window, qtbot, K.Key_Down, 2)
    press(window, qtbot, K.Key_T)
    assert view.state.trial is not None
    press(window, qtbot, K.Key_Right)
    assert view.state.trial is None and not window.document.history.modified
    assert view.state.row is window.document.row


def test_a_lock_costs_what_the_list_said(window: Window, qtbot: QtBot) -> None:
    document = window.document
    listed = document.solved.alternatives[20][6]
    before = document.solved.effort
    document.apply(choose(document.song, 20, listed.voicing))
    settle(window, qtbot)
    assert before is not None and document.solved.effort is not None
    assert document.solved.effort.cost == before.cost + listed.extra
    assert voice_song(document.song, document.library, Planner(document.library)).answer.cost == (
        document.solved.effort.cost
    )


@pytest.mark.long
def test_the_row_is_shown_before_its_ranks_and_other_rows(window: Window, qtbot: QtBot) -> None:
    seen: list[tuple[bool, bool, bool]] = []

    def look() -> None:
        solved = window.document.solved
        seen.append((solved.voiced is not None, bool(solved.alternatives), bool(solved.offers)))

    window.document.changed.connect(look)
    window.document.known.connect(look)
    press(window, qtbot, K.Key_B)  # leads back: solved anew
    assert window.document.song.arrangement.loop
    settle(window, qtbot)
    steps = list(dict.fromkeys(seen))
    assert steps == [
        (False, False, False), (True, False, False), (True, True, False), (True, True, True),
    ]  # fmt: skip


@pytest.mark.long
def test_a_vamp_leads_back_to_the_first_chord(window: Window, qtbot: QtBot) -> None:
    type_chart(window, qtbot, "| Dm9 | G13 | Cmaj9 | A7 |")
    view, document = show(window, qtbot, HingesPage), window.document
    press(window, qtbot, K.Key_B)
    settle(window, qtbot)
    assert document.song.arrangement.loop and document.solved.exact
    assert document.history.undo_label == "Lead back to the beginning"
    assert len(document.row.hinges) == 4
    press(window, qtbot, K.Key_End)
    press(window, qtbot, K.Key_Right)
    assert view.state.selection == Selection(3, True)
    assert view.side.title.text() == "A7 → Dm9"
    assert theme.LIGHT.held in colours(view.row_view)
    window.transport.tempo.setValue(400)
    press(window, qtbot, K.Key_H)
    qtbot.waitUntil(lambda: view.state.playing == 0, timeout=5000)
    window.playback.stop()
    press(window, qtbot, K.Key_B)
    settle(window, qtbot)
    assert not document.song.arrangement.loop and view.state.selection == Selection(3)


@pytest.mark.long
def test_another_row_is_looked_at_and_kept_as_a_take(window: Window, qtbot: QtBot) -> None:
    view, document = page(window, HingesPage), window.document
    first = document.song
    press(window, qtbot, K.Key_X)
    assert view.state.offer == 1 and "Row 2 on trial" in view.total.text()
    assert document.song is first and not document.history.modified
    press(window, qtbot, K.Key_X, len(document.solved.offers) - 1)
    assert view.state.offer == 0 and view.state.row is document.row
    click(qtbot, view.takes.rows.button(1))
    assert view.state.offer == 1
    voicings = document.solved.offers[1].voicings
    press(window, qtbot, K.Key_K)
    settle(window, qtbot)
    song = document.song
    assert [take.name for take in song.takes] == ["First take", "Row 2"] and song.take.name == "Row 2"
    assert tuple(song.voicing(column[0]) for column in song.columns) == voicings
    assert view.takes.box.currentText() == "Row 2" and view.state.offer == 0
    press(window, qtbot, K.Key_A)
    settle(window, qtbot)
    assert document.song.take.name == "First take"
    assert document.song.arrangement == first.arrangement
    undo(window, qtbot, 2)
    assert document.song == first
    redo(window, qtbot)
    assert document.song.take.name == "Row 2"


def test_a_take_is_named_by_writing(window: Window, qtbot: QtBot) -> None:
    view, document = page(window, HingesPage), window.document
    edit = view.takes.box.lineEdit()
    assert edit is not None
    edit.setFocus()
    edit.selectAll()
    qtbot.keyClicks(edit, "Plain, low")
    qtbot.keyClick(edit, K.Key_Return)
    settle(window, qtbot)
    assert document.song.take.name == "Plain, low"
    assert document.history.undo_label == "Rename take to Plain, low"
    assert len(document.song.takes) == 1 and not document.song.locked(0)


@pytest.mark.long
def test_one_round_is_varied_and_only_that(window: Window, qtbot: QtBot) -> None:
    view, document = page(window, HingesPage), window.document
    start = next(slot.index for slot in document.song.slots if slot.round == 2)
    click(qtbot, view.overview, QPoint(view.overview.width() // 2, 40))
    view.walking.select(Selection(start))
    assert "round 2 of 2 alike" in view.side.place.text()
    press(window, qtbot, K.Key_V)
    settle(window, qtbot)
    song = document.song
    assert song.route == {("Verse", 2): 1} and song.takes[1].name == "Verse 2"
    assert "take Verse 2" in view.side.place.text() and not view.commands["vary-round"].enabled()
    press(window, qtbot, K.Key_Down, 4)
    press(window, qtbot, K.Key_T)
    press(window, qtbot, K.Key_L)
    settle(window, qtbot)
    assert document.song.locked(start) and not document.song.locked(0)
    assert document.song.voicing(start) != document.song.voicing(0)
    press(window, qtbot, K.Key_W)
    click(qtbot, view.side.wishes.scopes.button(1))
    pick(qtbot, view.side.wishes.boxes["round"], None)
    settle(window, qtbot)
    assert document.song.route == {} and document.song.voicing(start) == document.song.voicing(0)


@pytest.mark.long
def test_wishes_are_taken_shown_and_undone(window: Window, qtbot: QtBot) -> None:
    view, document = page(window, HingesPage), window.document
    view.walking.select(Selection(2))
    press(window, qtbot, K.Key_W)
    wishes = view.side.wishes
    assert view.side.stack.currentWidget() is wishes
    top = document.song.voicing(2).right.keys[-1]  # type: ignore[union-attr]
    wishes.ticks["top"].click()
    settle(window, qtbot)
    assert document.song.ask(2).hold.top == top
    assert document.song.voicing(2).right.keys[-1] == top  # type: ignore[union-attr]
    wishes.register_tick.click()
    settle(window, qtbot)
    assert document.song.ask(2).hold.lowest is not None
    click(qtbot, wishes.scopes.button(1))
    pick(qtbot, wishes.boxes["school"], "band")
    settle(window, qtbot)
    assert document.song.arrangement.tastes[document.song.slots[2].section].school == "band"
    click(qtbot, wishes.scopes.button(2))
    pick(qtbot, wishes.levels["top"], 2)
    pick(qtbot, wishes.boxes["inverted"], True)
    settle(window, qtbot)
    assert document.song.arrangement.levels == (("top", 2),)
    assert document.song.arrangement.inverted
    undo(window, qtbot, 5)
    arrangement = document.song.arrangement
    assert not arrangement.tastes and not arrangement.asks and not arrangement.levels
    press(window, qtbot, K.Key_W)
    assert view.side.stack.currentWidget() is view.side.leaf


@pytest.mark.long
def test_the_top_line_is_drawn_for_the_song_and_for_a_section(window: Window, qtbot: QtBot) -> None:
    view, document = page(window, HingesPage), window.document
    press(window, qtbot, K.Key_W)
    wishes, first = view.side.wishes, document.song.slots[0].section
    before = [document.song.voicing(k) for k in range(len(document.song.slots))]
    click(qtbot, wishes.scopes.button(2))
    box = wishes.boxes["top_line"]
    assert "held" not in [box.itemData(k) for k in range(box.count())]  # a whole song is never held
    pick(qtbot, box, "still")
    settle(window, qtbot)
    assert document.song.arrangement.top_line == "still" and document.song.arrangement.plan is None
    still = [document.song.voicing(k) for k in range(len(document.song.slots))]
    assert still != before
    click(qtbot, wishes.scopes.button(1))
    pick(qtbot, box, "rising")
    settle(window, qtbot)
    taste = document.song.arrangement.tastes[first]
    assert (taste.top_line, taste.plan) == ("sings", "rising") and box.currentData() == "rising"
    tops = [v.right.keys[-1] for v in map(document.song.voicing, range(8)) if v is not None]
    assert max(tops[4:]) > max(tops[:4])
    undo(window, qtbot, 2)
    assert [document.song.voicing(k) for k in range(len(document.song.slots))] == before


def test_a_change_that_could_be_smaller_is_tried_by_a_key(window: Window, qtbot: QtBot) -> None:
    view, document = page(window, HingesPage), window.document
    found = document.solved.betterments
    index, better = next((i, one) for i, one in enumerate(found) if one is not None)
    view.walking.select(Selection(index, True))
    assert str(better.saved_st) in view.side.hinge.better_label.text()
    press(window, qtbot, K.Key_G)
    assert view.state.trial == better.voicing and view.state.selection == Selection(better.at)
    window.playback.stop()
    press(window, qtbot, K.Key_Escape)
    assert view.state.trial is None


def test_the_tune_is_shown_over_the_leaves(window: Window, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    low, high = view.state.key_range()
    press(window, qtbot, K.Key_M)
    assert view.state.melody and view.state.key_range() != (low, high)
    assert (
        "chord tone" in view.side.leaf.melody_label.text() or "tension" in view.side.leaf.melody_label.text()
    )
    view.row_view.grab()
    press(window, qtbot, K.Key_M)
    assert view.state.key_range() == (low, high)


def test_lines_for_a_solo_are_shown_on_the_keys(window: Window, qtbot: QtBot) -> None:
    view = page(window, HingesPage)
    view.walking.select(Selection(1))
    press(window, qtbot, K.Key_S)
    words = view.side.solo.words.text()
    assert view.side.solo.words.isVisible() and "Guide-tone line" in words and "Whole song" in words
    assert len(view.keyboard._scale) >= 6
    view.keyboard.grab()
    press(window, qtbot, K.Key_S)
    assert not view.side.solo.words.isVisible() and not view.keyboard._scale


def test_a_locked_chord_out_of_reach_is_offered_ways_to_play_it(window: Window, qtbot: QtBot) -> None:
    view, document = page(window, HingesPage), window.document
    wide = 7  # C#m7 over a seventh, with its third and root on top
    view.walking.select(Selection(wide))
    press(window, qtbot, K.Key_L)
    settle(window, qtbot)
    assert len(view.side.leaf.alternatives.lines) > 1 and "Unlock" in view.side.leaf.lock_button.text()
    document.apply(change_hands(document.song, document.song.hands.with_reach(7, 5), "Reach"))
    settle(window, qtbot)
    assert view.side.warning.isVisible() and "out of reach" in view.side.warning.text()
    ways = document.solved.ways_out(wide)
    assert ways, document.solved.reductions
    lines = view.side.leaf.alternatives.lines
    assert ways and [line.cost for line in lines[: len(ways)]] == ["fits"] * len(ways)
    assert "Out of reach" in view.side.leaf.list_heading.text()


def test_a_small_note_on_the_way_is_ticked_and_undone(window: Window, qtbot: QtBot) -> None:
    view, document = page(window, HingesPage), window.document
    fills = view.side.hinge.fills
    for index in range(len(document.row.hinges)):
        view.walking.select(Selection(index, True))
        if fills.count():
            break
    box = fills.visualItemRect(fills.item(0))
    click(qtbot, fills.viewport(), QPoint(box.left() + 12, box.center().y()))
    settle(window, qtbot)
    assert document.song.ask(index).fills
    assert fills.item(0).checkState() == Qt.CheckState.Checked
    undo(window, qtbot)
    assert not document.song.arrangement.asks


def test_a_song_without_chords_offers_nothing_that_needs_some(window: Window, qtbot: QtBot) -> None:
    from yellow_hinge.song.model import Song

    view = page(window, HingesPage)
    window.document.start_over(Song(), None)
    settle(window, qtbot)
    for key in (K.Key_L, K.Key_T, K.Key_H, K.Key_W, K.Key_O, K.Key_K, K.Key_A, K.Key_V, K.Key_B, K.Key_R,
                K.Key_G, K.Key_Down, K.Key_Right, K.Key_End, K.Key_Space, K.Key_M, K.Key_S):  # fmt: skip
        press(window, qtbot, key)
    assert window.document.song == Song() and not window.playback.playing
    assert view.side.title.text() == "Nothing chosen"
    view.grab()


def test_the_leaves_are_copied_as_a_picture(window: Window, qtbot: QtBot) -> None:
    from PySide6.QtGui import QGuiApplication

    settle(window, qtbot)
    view = show(window, qtbot, HingesPage)
    press(window, qtbot, Qt.Key.Key_O)
    image = QGuiApplication.clipboard().image()
    assert image.width() >= view.row_view.width() and "picture" in window.message.text.text()


@pytest.mark.long
def test_an_edit_is_taken_over_once_and_its_new_grips_once(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The row comes first, then reasons, ranks and other rows, part by part: they are shown, and the song is
    not taken over again."""
    view = show(window, qtbot, HingesPage)
    taken: list[Song] = []
    refresh = view.refresh

    def counted() -> None:
        taken.append(window.document.song)
        refresh()

    monkeypatch.setattr(view, "refresh", counted)
    parts: list[object] = []
    window.document.worker.part.connect(parts.append)
    window.document.apply(settle_song(window.document.song, colour=3))
    settle(window, qtbot)
    assert len(parts) >= 3 and len(taken) == 2 and taken[0] != taken[1]
    assert view.takes.rows.button(0).text().startswith("1: ")  # what came last is shown
    press(window, qtbot, K.Key_L)
    settle(window, qtbot)
    assert len(taken) == 3  # the voicing in use is locked: no other grips come of it
