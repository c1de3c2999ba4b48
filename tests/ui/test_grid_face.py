"""The grid of combinations on the Swaps page, by real keys and clicks."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.song.model import Song
from yellow_hinge.ui.pages.swaps.grid_face import GridFace
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.window import Window

from .conftest import button, click, press, settle, show, type_chart, undo
from .drawn import written_on

K = Qt.Key
CHART = "title: Slack Water\nkey: C\ntempo: 100\n[A]\n| Cmaj7 | A7 | Dm7 | G7 | Cmaj7 |\n"


def swaps_page(window: Window, qtbot: QtBot) -> SwapsPage:
    type_chart(window, qtbot, CHART)
    view = show(window, qtbot, SwapsPage)
    rest(view, qtbot)
    return view


def rest(view: SwapsPage, qtbot: QtBot) -> None:
    faces = (view.on_face.first, view.on_face.face)
    qtbot.waitUntil(lambda: not any(face.weighs for face in faces), timeout=30_000)
    qtbot.wait(20)


def grid(view: SwapsPage, window: Window, qtbot: QtBot) -> GridFace:
    press(window, qtbot, K.Key_G)
    rest(view, qtbot)
    face = view.on_face.face
    assert isinstance(face, GridFace)
    return face


def mark(view: SwapsPage, window: Window, qtbot: QtBot, chord: int) -> str:
    """Choose a chord and mark its first proposal; the words of what would stand there."""
    view.swapping.choose(chord)
    rest(view, qtbot)
    press(window, qtbot, K.Key_M)
    assert view.state.is_marked
    proposal = view.state.proposal
    assert proposal is not None
    return " ".join(timed.chord.pretty for timed in proposal.chords)


def chords(window: Window) -> list[str]:
    return [slot.chord.pretty for slot in window.document.song.slots if slot.chord is not None]


@pytest.mark.long
def test_marked_proposals_are_switches_taken_kept_and_given_back(window: Window, qtbot: QtBot) -> None:
    view = swaps_page(window, qtbot)
    plain = chords(window)
    one, other = mark(view, window, qtbot, 1), mark(view, window, qtbot, 3)
    assert any("marked for the grid" in line.melody for line in view.on_face.first.model.lines)
    face = grid(view, window, qtbot)
    assert [box.text() for box in face.boxes] == [f"bar 2: {one} for A7", f"bar 4: {other} for G7"]
    assert len(face.view.tiles()) == 4 and "how the song is now" in face.sum.text()
    press(window, qtbot, K.Key_Down)
    assert "One swap" in face.sum.text() and "best of its size" in face.sum.text()
    press(window, qtbot, K.Key_Period)
    assert "best of its size" not in face.sum.text()
    press(window, qtbot, K.Key_Down)
    assert [box.isChecked() for box in face.boxes] == [True, True]
    press(window, qtbot, K.Key_H)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    window.playback.stop()
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    rest(view, qtbot)
    assert chords(window) == [plain[0], *one.split(), plain[2], *other.split(), plain[4]]
    assert "how the song is now" in face.sum.text() and "2 swaps" in face.sum.text()
    undo(window, qtbot)
    settle(window, qtbot)
    assert chords(window) == plain and len(window.document.song.takes) == 1


def test_a_click_on_a_tile_and_on_a_switch_and_a_take_of_its_own(window: Window, qtbot: QtBot) -> None:
    view = swaps_page(window, qtbot)
    mark(view, window, qtbot, 1)
    mark(view, window, qtbot, 3)
    face = grid(view, window, qtbot)
    box, last = face.view.tiles()[-1]
    click(qtbot, face.view, box.center().toPoint())
    assert face.chosen is last and last.on == (True, True)
    face.boxes[0].click()
    assert face.chosen is not None and face.chosen.on == (False, True)
    assert [one.isChecked() for one in face.boxes] == [False, True]
    click(qtbot, button(view, "Keep as a take (Shift+Return)"))
    settle(window, qtbot)
    song = window.document.song
    assert len(song.takes) == 2 and song.take.name.endswith("one swap")
    assert [len(take.arrangement.swaps) for take in song.takes] == [0, 1]


@pytest.mark.long
def test_a_mark_is_taken_off_again_and_with_none_it_finds_its_own(window: Window, qtbot: QtBot) -> None:
    view = swaps_page(window, qtbot)
    mark(view, window, qtbot, 1)
    press(window, qtbot, K.Key_M)
    assert not view.state.marked
    assert not any("marked for the grid" in line.melody for line in view.on_face.first.model.lines)
    face = grid(view, window, qtbot)
    assert face.grid is not None and len(face.boxes) == len(face.grid.switches) >= 1
    assert "M on Proposals (E)" in face.words.text()


@pytest.mark.long
def test_it_stops_when_told(window: Window, qtbot: QtBot) -> None:
    view = swaps_page(window, qtbot)
    press(window, qtbot, K.Key_G)
    face = view.on_face.face
    assert isinstance(face, GridFace) and face.worker.running
    press(window, qtbot, K.Key_Escape)
    assert not face.worker.running and "Stopped" in face.words.text()
    assert not face.ready
    press(window, qtbot, K.Key_E)
    face = grid(view, window, qtbot)
    assert face.ready


@pytest.mark.long
def test_the_right_hands_are_held_and_the_best_is_by_the_way_of_the_bass(
    window: Window, qtbot: QtBot
) -> None:
    view = swaps_page(window, qtbot)
    before = rights(window.document.song)
    mark(view, window, qtbot, 1)
    mark(view, window, qtbot, 3)
    face = grid(view, window, qtbot)
    hold = button(view, "Hold the right hands (M)")
    assert not hold.isChecked() and "the one that the song has now" not in face.words.text()
    press(window, qtbot, K.Key_M)
    rest(view, qtbot)
    assert hold.isChecked() and "the one that the song has now" in face.words.text()
    assert face.grid is not None and len(face.grid.combinations) == 4
    press(window, qtbot, K.Key_U)
    assert "then the way of the bass" in face.words.text()
    ways = [one.bass_st for one in face.grid.of_size(1)]
    assert ways == sorted(ways)
    press(window, qtbot, K.Key_Down)
    press(window, qtbot, K.Key_Down)
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    rest(view, qtbot)
    assert rights(window.document.song) == before and len(window.document.song.arrangement.swaps) == 2
    undo(window, qtbot)
    settle(window, qtbot)
    press(window, qtbot, K.Key_M)
    press(window, qtbot, K.Key_U)
    rest(view, qtbot)
    assert "then effort" in face.words.text() and not hold.isChecked()


def rights(song: Song) -> list[tuple[int, ...]]:
    """What the right hand holds, a place of the chart each, before a swap divides it."""
    grips = {slot.place: song.voicing(slot.index) for slot in reversed(song.slots)}
    return [() if (grip := grips[place]) is None else grip.right.keys for place in sorted(grips)]


@pytest.mark.long
def test_tiles_are_wide_enough_to_be_read_and_the_others_are_counted(window: Window, qtbot: QtBot) -> None:
    """Those around the chosen one have room; walking brings the others into it."""
    settle(window, qtbot)
    view = show(window, qtbot, SwapsPage)
    face = grid(view, window, qtbot)
    assert face.grid is not None and len(face.grid.switches) == 6
    seen = [one for _, one in face.view.tiles()]
    assert min(box.width() for box, _ in face.view.tiles()) > 95 and len(seen) < len(face.grid.combinations)
    row = face.grid.of_size(3)
    left = sum(one not in seen for one in row)
    assert f"{left} more" in [one.text for one in written_on(face.view)]
    press(window, qtbot, K.Key_Down, 3)
    press(window, qtbot, K.Key_Period, len(row))
    assert face.chosen is row[-1] and row[-1] in [one for _, one in face.view.tiles()]
    assert row[0] not in [one for _, one in face.view.tiles()]
    press(window, qtbot, K.Key_Comma, len(row))
    assert face.chosen is row[0] and row[0] in [one for _, one in face.view.tiles()]
