"""The faces of the Swaps page that work on the grip, driven in the real window."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.tasks.swaps.colour_ladder import FORMS
from yellow_hinge.tasks.swaps.held_hand import Run
from yellow_hinge.theory.identify import identify
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.pages.swaps.face import ChordFace
from yellow_hinge.ui.pages.swaps.held_face import HeldFace
from yellow_hinge.ui.pages.swaps.ladder_face import LadderFace, rung_name
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.window import Window

from .conftest import button, click, pick, press, settle, show, type_chart, undo
from .drawn import written_on

K = Qt.Key


def opened(window: Window, qtbot: QtBot, key: Qt.Key, chord: int = 4) -> ChordFace:
    """The Swaps page on a chord, with a face opened by its letter."""
    settle(window, qtbot)
    view = show(window, qtbot, SwapsPage)
    view.swapping.choose(0)
    press(window, qtbot, K.Key_Right, chord)
    press(window, qtbot, key)
    rest(view, qtbot)
    assert view.on_face.face is not None
    return view.on_face.face


def rest(view: SwapsPage, qtbot: QtBot) -> None:
    """Wait until everything on the page is worked out."""
    qtbot.waitUntil(
        lambda: (
            not view.document.worker.running
            and not any(face.worker.running for face in view.on_face.made.values())
        ),
        timeout=60_000,
    )
    qtbot.wait(20)


def held(window: Window, qtbot: QtBot, chord: int = 4) -> HeldFace:
    face = opened(window, qtbot, K.Key_B, chord)
    assert isinstance(face, HeldFace) and face.looked is not None
    return face


def ladder(window: Window, qtbot: QtBot, chord: int = 4) -> LadderFace:
    face = opened(window, qtbot, K.Key_O, chord)
    assert isinstance(face, LadderFace) and face.ladder is not None
    return face


def page(window: Window) -> SwapsPage:
    assert isinstance(window.page, SwapsPage)
    return window.page


@pytest.mark.long
def test_another_bass_goes_under_the_hand(window: Window, qtbot: QtBot) -> None:
    face, document = held(window, qtbot), window.document
    assert face.looked is not None
    index, right = face.index, face.looked.right
    press(window, qtbot, K.Key_Up, 2)
    bass = face.looked.line(face.places)[0]
    assert bass.chord.pretty in face.sum.text() and bass.chord.pretty in face.drawing.accessibleDescription()
    press(window, qtbot, K.Key_H)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    window.playback.stop()
    before = document.song
    press(window, qtbot, K.Key_Return)
    rest(page(window), qtbot)
    song = document.song
    assert song.slots[index].chord == bass.chord and song.locked(index)
    voicing = song.voicing(index)
    assert voicing is not None and voicing.right.keys == right and voicing.left.keys == (bass.key,)
    undo(window, qtbot)
    assert [slot.chord for slot in document.song.slots] == [slot.chord for slot in before.slots]


@pytest.mark.long
def test_a_line_walks_down_through_a_chord_and_is_taken_whole(window: Window, qtbot: QtBot) -> None:
    face, document = held(window, qtbot), window.document
    assert not face.lines.isVisible()
    press(window, qtbot, K.Key_U)
    rest(page(window), qtbot)
    assert face.run == Run(1, 2) and face.lines.isVisible()
    press(window, qtbot, K.Key_M)
    assert face.looked is not None and face.places == face.looked.descents[0].places
    press(window, qtbot, K.Key_Period)
    assert face.spot == 1
    press(window, qtbot, K.Key_Comma)
    assert face.spot == 0
    wanted, index = [bass.chord for bass in face.looked.line(face.places)], face.index
    qtbot.keyClick(page(window).focus, K.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    rest(page(window), qtbot)
    assert [slot.chord for slot in document.song.slots[index : index + 2]] == wanted
    assert all(document.song.locked(k) for k in (index, index + 1))
    undo(window, qtbot)


@pytest.mark.long
def test_one_place_of_a_run_is_taken_and_the_rest_stays(window: Window, qtbot: QtBot) -> None:
    face, document = held(window, qtbot), window.document
    pick(qtbot, face.run_box, Run(2))
    rest(page(window), qtbot)
    assert face.looked is not None and len(face.looked.spots) == 2
    box = face.drawing._box(1, 3)
    click(qtbot, face.drawing, QPoint(int(box.center().x()), int(box.center().y())))
    assert (face.spot, face.places[1]) == (1, 3)
    index, bass, before = face.index, face.looked.line(face.places)[1], document.song
    click(qtbot, button(page(window), "Take (Return)"))
    rest(page(window), qtbot)
    assert document.song.slots[index + 1].chord == bass.chord
    assert document.song.slots[index].chord == before.slots[index].chord
    assert document.song.locked(index) == before.locked(index)
    undo(window, qtbot)


@pytest.mark.long
def test_rungs_are_climbed_heard_in_turn_and_taken(window: Window, qtbot: QtBot) -> None:
    face, document = ladder(window, qtbot), window.document
    assert face.ladder is not None and face.place == face.ladder.start
    press(window, qtbot, K.Key_Up)
    rung = face.ladder.rungs[face.place]
    assert rung.step == 1 and rung.chord.pretty in face.sum.text()
    heard: list[Sounding] = []
    page(window).hear.connect(heard.append)
    press(window, qtbot, K.Key_H)
    window.playback.stop()
    [sounding] = heard  # as it is, then the rung
    chords = [sounding.song.slots[k].chord for k in range(sounding.first, (sounding.last or 0) + 1)]
    assert chords == [document.song.slots[face.index].chord, rung.chord]
    index = face.index
    press(window, qtbot, K.Key_Return)
    rest(page(window), qtbot)
    assert document.song.slots[index].chord == rung.chord
    assert document.song.voicing(index) == rung.voicing
    undo(window, qtbot)


@pytest.mark.long
def test_a_rung_is_spelled_by_the_chord_that_it_makes(window: Window, qtbot: QtBot) -> None:
    face = ladder(window, qtbot)  # F sharp minor seventh, A on top
    assert face.ladder is not None
    up = face.ladder.rungs[face.ladder.start + 1]
    assert up.chord.pretty.startswith("F♯7") and face.note(up.key, up.chord) == "A♯4"
    assert [one.text for one in written_on(window) if one.text in ("A♯4", "B♭4")] == ["A♯4"]


@pytest.mark.long
def test_what_is_asked_about_another_song_is_dropped(window: Window, qtbot: QtBot) -> None:
    """The face is not shown, its answer on the way, when the song loses the chord."""
    face = ladder(window, qtbot)
    before = face.ladder
    show(window, qtbot, SongPage)
    face.look()
    assert face.worker.running and before is not None
    page_of_song = window.page
    assert isinstance(page_of_song, SongPage)
    page_of_song.editor.selectAll()
    page_of_song.editor.insertPlainText("| C | F |\n")
    window.document.read_draft()
    assert not face.worker.running and face.ladder is before
    assert face.note(before.voices[-1]) and face.index >= len(window.document.song.slots)
    show(window, qtbot, SwapsPage)
    rest(page(window), qtbot)
    assert face.ladder is not None and face.ladder.song is window.document.song


@pytest.mark.long
def test_a_rung_that_nothing_is_called_by_has_no_name(window: Window, qtbot: QtBot) -> None:
    """A tone that contradicts the chart's chord: its name would say what does not sound."""
    type_chart(window, qtbot, "title: Bilge\nkey: F\n[A]\n| Fmaj7 | Dm7 | Gm9 | C13 |\n")
    face = ladder(window, qtbot, chord=0)
    assert face.ladder is not None
    unnamed = [rung for rung in face.ladder.rungs if not identify(rung.voicing.keys)]
    assert unnamed and all(rung_name(rung) == "no usual name" for rung in unnamed)
    named = [rung for rung in face.ladder.rungs if rung not in unnamed]
    assert named and all(rung_name(rung) == rung.chord.pretty for rung in named)
    while face.ladder.rungs[face.place] not in unnamed:
        press(window, qtbot, K.Key_Up)
    assert face.sum.text().startswith("No usual name") and "Fmaj7" not in face.sum.text()


@pytest.mark.long
def test_voices_and_forms_are_chosen_by_key_and_box(window: Window, qtbot: QtBot) -> None:
    face = ladder(window, qtbot)
    assert face.ladder is not None
    count = len(face.ladder.voices)
    press(window, qtbot, K.Key_Comma)
    rest(page(window), qtbot)
    assert face.ladder.voice == count - 2
    pick(qtbot, face.voice_box, 0)
    rest(page(window), qtbot)
    assert face.ladder.voice == 0
    press(window, qtbot, K.Key_U)
    rest(page(window), qtbot)
    assert face.ladder.form == FORMS[1] == face.form_box.currentData()


@pytest.mark.long
def test_marked_rungs_and_ready_walks_are_taken(window: Window, qtbot: QtBot) -> None:
    face, document = ladder(window, qtbot), window.document
    press(window, qtbot, K.Key_M)
    press(window, qtbot, K.Key_Up)
    press(window, qtbot, K.Key_M)
    assert face.ladder is not None and len(face.marks) == 2
    assert "2 of the walk" in str(
        face.model.data(face.list.currentIndex(), Qt.ItemDataRole.AccessibleTextRole)
    )
    wanted, index = [face.ladder.rungs[place].chord for place in face.marks], face.index
    qtbot.keyClick(page(window).focus, K.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    rest(page(window), qtbot)
    assert [slot.chord for slot in document.song.slots[index : index + 2]] == wanted
    undo(window, qtbot)
    rest(page(window), qtbot)
    assert face.walk is not None
    rows = dict(face.walk.rows)
    press(window, qtbot, K.Key_D)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    window.playback.stop()
    press(window, qtbot, K.Key_W)
    rest(page(window), qtbot)
    voicings = [document.song.voicing(index + k) for k in range(len(rows[index]))]
    assert voicings == [one.voicing for one in rows[index]]
    undo(window, qtbot)


def test_letters_switch_the_faces_and_proposals_are_there_again(window: Window, qtbot: QtBot) -> None:
    held(window, qtbot)
    view = page(window)
    assert not view.side.isVisible() and not view.on_face.first.list.isVisible()
    press(window, qtbot, K.Key_E)
    assert view.side.isVisible() and view.on_face.first.list.isVisible() and not view.on_face.face.alone
    click(qtbot, button(view, "Colour ladder (O)"))
    assert isinstance(view.on_face.face, LadderFace) and view.on_face.face.isVisible()
    assert not view.commands["next-place"].enabled() or view.on_face.face.ready
