"""Grips of the player's own on the real window: clicked, typed, changed in place, kept and found again."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtWidgets import QApplication, QMenu, QPushButton
from pytestqt.qtbot import QtBot

from yellow_hinge.song.edits import settle as settle_edit
from yellow_hinge.song.grip_edits import alike
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.ui.pages.hinges.state import Selection
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.hinges.ways_out import AllWaysOut
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.window import Window
from yellow_hinge.voicing.candidates import hand_shapes
from yellow_hinge.voicing.shape import Voicing

from .conftest import button, click, come_back, page, pick, press, settle, show, undo

K = Qt.Key
SHIFT = Qt.KeyboardModifier.ShiftModifier
#: F#m7 of the demo song, and a grip for it that no recipe makes.
CHORD = 4
TYPED = "F#2 E3 ; A3 C#4 G#4"
LEFT, RIGHT = (42, 52), (57, 61, 68)


@pytest.fixture
def view(window: Window) -> HingesPage:
    """The workbench on a chord, with the face for one's own grips open."""
    found = page(window, HingesPage)
    found.walking.select(Selection(CHORD))
    return found


def hit(view: HingesPage, qtbot: QtBot, key: int, button: Qt.MouseButton = Qt.MouseButton.LeftButton) -> None:
    qtbot.mouseClick(view.keyboard, button, pos=view.keyboard.place_of(key).toPoint())


def enter(view: HingesPage, qtbot: QtBot, text: str) -> None:
    """Type notes into the field as a player does."""
    click(qtbot, view.side.grip.field)
    view.side.grip.field.setFocus()
    view.side.grip.field.selectAll()
    qtbot.keyClicks(view.side.grip.field, text)


def keys(voicing: Voicing | None) -> tuple[tuple[int, ...], tuple[int, ...]]:
    assert voicing is not None
    return voicing.left.keys, voicing.right.keys


def test_a_grip_is_clicked_read_kept_and_taken_back(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    before = window.document.song
    press(window, qtbot, K.Key_Y)
    press(window, qtbot, K.Key_Backspace)
    assert "Nothing is held yet" in view.side.grip.words.text()
    for key in RIGHT:
        hit(view, qtbot, key)
    press(window, qtbot, K.Key_J)
    hit(view, qtbot, LEFT[0])
    press(window, qtbot, K.Key_J)
    hit(view, qtbot, LEFT[1], Qt.MouseButton.RightButton)
    assert keys(view.state.trial) == (LEFT, RIGHT) and window.document.song is before
    words = view.side.grip.words.text()
    for said in (
        "F♯m9",
        "as the chart has it",
        "left R ♭7",
        "fingers",
        "mm",
        "From before",
        "On to the next",
        "Effort",
    ):
        assert said in words, said
    hit(view, qtbot, RIGHT[0])  # the same key again lets it go
    assert keys(view.state.trial) == (LEFT, RIGHT[1:])
    assert "is missing" in view.side.grip.words.text() or "no third" in view.side.grip.words.text()
    hit(view, qtbot, RIGHT[0])
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    document = window.document
    assert keys(document.song.voicing(CHORD)) == (LEFT, RIGHT) and document.song.locked(CHORD)
    assert view.state.trial is None and view.grips.draft(document.song, CHORD) is None
    undo(window, qtbot)
    assert document.song.voicing(CHORD) == before.voicing(CHORD) and not document.song.locked(CHORD)


@pytest.mark.long
def test_a_grip_is_typed_and_survives_every_search(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, TYPED)
    assert keys(view.state.trial) == (LEFT, RIGHT)
    qtbot.keyClick(view.side.grip.field, K.Key_Return)
    settle(window, qtbot)
    document = window.document
    for school in ("band", "melody"):
        press(window, qtbot, K.Key_W)
        document.apply(settle_edit(document.song, school=school))
        settle(window, qtbot)
        assert keys(document.song.voicing(CHORD)) == (LEFT, RIGHT), school


def test_what_is_no_note_is_said_and_stays(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Y)
    song = window.document.song
    for text, said in (
        ("F#2 ; A3 H4", "'H4' is no note"),
        ("F#2 A3 ; A3", "A is in both hands"),
        ("C2 D2 E2 F2 G2 A2 ;", "6 notes in one hand"),
    ):
        enter(view, qtbot, text)
        assert view.side.grip.trouble.isVisible() and said in view.side.grip.trouble.text()
        assert view.side.grip.field.text() == text
    enter(view, qtbot, "qwLoS")  # letters are typed, and do nothing else
    assert (
        view.side.grip.field.text() == "qwLoS"
        and view.faces.open.id == "grip"
        and window.document.song is song
    )
    qtbot.keyClick(view.side.grip.field, K.Key_Escape)
    assert not view.side.grip.trouble.isVisible() and not view.side.grip.field.hasFocus()


def test_what_is_entered_waits_while_one_looks_elsewhere(
    window: Window, view: HingesPage, qtbot: QtBot
) -> None:
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, TYPED)
    view.row_view.setFocus()
    press(window, qtbot, K.Key_Right, 2)
    assert view.state.trial is None
    press(window, qtbot, K.Key_Left, 2)
    assert keys(view.state.trial) == (LEFT, RIGHT)
    press(window, qtbot, K.Key_Escape)
    assert view.state.trial is None and view.grips.draft(window.document.song, CHORD) is None


@pytest.mark.long
def test_notes_come_back_spelled_as_they_were_typed(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, "Gb2 E3 ; A3 Db4")
    qtbot.keyClick(view.side.grip.field, K.Key_Return)
    settle(window, qtbot)
    assert keys(window.document.song.voicing(CHORD)) == ((42, 52), (57, 61))
    assert view.side.grip.field.text() == "Gb2 E3 ; A3 Db4"
    press(window, qtbot, K.Key_Right, 2)
    press(window, qtbot, K.Key_Left, 2)
    assert view.side.grip.field.text() == "Gb2 E3 ; A3 Db4"
    press(window, qtbot, K.Key_U)  # an octave up: other keys, spelled as the chord has them
    settle(window, qtbot)
    assert view.side.grip.field.text() == "F#2 E3 ; A4 C#5"


def test_what_cannot_be_read_whole_is_refused_and_stays(
    window: Window, view: HingesPage, qtbot: QtBot
) -> None:
    before = window.document.song
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, "C3 X4")
    for _ in range(2):
        qtbot.keyClick(view.side.grip.field, K.Key_Return)
        assert view.side.grip.field.text() == "C3 X4" and view.side.grip.trouble.isVisible()
        said = view.side.grip.trouble.text()
        assert said.startswith("Nothing is kept: 'X4' is no note") and said.count("Nothing") == 1
    assert window.document.song is before and view.side.grip.field.hasFocus()
    qtbot.keyClick(view.side.grip.field, K.Key_Backspace)
    qtbot.keyClick(view.side.grip.field, K.Key_Backspace)
    assert not view.side.grip.trouble.isVisible()
    qtbot.keyClick(view.side.grip.field, K.Key_Return)
    settle(window, qtbot)
    assert keys(window.document.song.voicing(CHORD)) == ((), (48,))


def asked_where(window: Window, view: HingesPage, qtbot: QtBot) -> QMenu:
    """The menu that asks where to keep the grip."""
    press(window, qtbot, K.Key_P)
    menu = view.where_menu
    qtbot.waitUntil(menu.isVisible)
    return menu


@pytest.mark.parametrize(("key", "chords", "label"), [
    (K.Key_1, 1, "round 1"), (K.Key_2, 2, "Grip for"), (K.Key_3, 2, "Grip for"), (K.Key_Escape, 0, ""),
])  # fmt: skip
def test_where_it_is_kept_is_asked_and_as_many_change_as_it_says(
    window: Window, view: HingesPage, qtbot: QtBot, key: Qt.Key, chords: int, label: str
) -> None:
    document = window.document
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, TYPED)
    view.row_view.setFocus()
    menu = asked_where(window, view, qtbot)
    words = [action.text() for action in menu.actions()]
    assert "1 chord, bar 4" in words[0] and "2 chords, bars 4, 12" in words[1]
    qtbot.keyClick(menu, key)
    come_back(window, qtbot)
    song = document.song
    assert sum(song.locked(slot.index) for slot in song.slots) == chords
    assert label in (document.history.undo_label or "")
    if chords:
        assert song.locked(CHORD) and keys(song.voicing(CHORD)) == (LEFT, RIGHT)
        undo(window, qtbot)
    assert not any(document.song.locked(slot.index) for slot in document.song.slots)


@pytest.mark.long
def test_alike_chords_keep_it_through_another_key_a_file_and_back(
    window: Window, view: HingesPage, qtbot: QtBot, tmp_path: Path
) -> None:
    document = window.document
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, TYPED)
    view.row_view.setFocus()
    same = alike(document.song, CHORD)
    count = sum(len(document.song.columns[document.song.column_of[index]]) for index in same)
    menu = asked_where(window, view, qtbot)
    assert f"{count} chords" in menu.actions()[3].text() and len(same) > 1
    qtbot.keyClick(menu, K.Key_4)
    come_back(window, qtbot)
    kept = {k: document.song.voicing(k) for k in same}
    assert all(document.song.locked(k) for k in same) and keys(kept[CHORD]) == (LEFT, RIGHT)
    song_page = show(window, qtbot, SongPage)
    home = document.song.key
    pick(qtbot, song_page.decisions.key, "C")
    settle(window, qtbot)
    moved = document.song.voicing(CHORD)
    assert moved is not None and moved.degrees == kept[CHORD].degrees  # type: ignore[union-attr]
    assert moved.keys != kept[CHORD].keys  # type: ignore[union-attr]
    pick(qtbot, song_page.decisions.key, str(home))
    settle(window, qtbot)
    assert {k: document.song.voicing(k) for k in same} == kept
    path = tmp_path / "mine.yhinge"
    document.save(path)
    window.files.open_path(path)
    settle(window, qtbot)
    assert {k: document.song.voicing(k) for k in same} == kept and document.song.locked(CHORD)


#: Keys, whether with Shift, and what the change is called.
CHANGES = [
    (K.Key_PageUp, False, "Next inversion, right hand"),
    (K.Key_PageDown, False, "Previous inversion, right hand"),
    (K.Key_PageDown, True, "Previous inversion, left hand"),
    (K.Key_U, False, "Right hand an octave up"),
    (K.Key_D, True, "Left hand an octave down"),
    (K.Key_Insert, False, "Add a note"),
    (K.Key_Up, True, "Grip up, half step"),
    (K.Key_Down, True, "Grip down, half step"),
    (K.Key_Greater, True, "Grip up, scale"),
    (K.Key_Less, False, "Grip down, scale"),
    (K.Key_ParenRight, True, "Grip up, inversion"),
    (K.Key_ParenLeft, True, "Grip down, inversion"),
]


def test_a_grip_is_changed_in_place(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    document = window.document
    for key, shift, label in CHANGES:
        if label == "Previous inversion, right hand":  # as it stands the left hand is in its way
            press(window, qtbot, K.Key_PageUp)
        before = document.song.voicing(CHORD)
        qtbot.keyClick(view.focus, key, SHIFT if shift else Qt.KeyboardModifier.NoModifier)
        after = document.song.voicing(CHORD)
        assert keys(after) != keys(before) and document.song.locked(CHORD), label
        assert document.history.undo_label is not None and document.history.undo_label.startswith(label)
        assert window.playback.playing, label  # heard at once
        window.playback.stop()
        undo(window, qtbot)
        assert document.song.voicing(CHORD) == before, label
        if label == "Previous inversion, right hand":
            undo(window, qtbot)


@pytest.mark.long
def test_one_shape_slides_along_the_roots_of_a_row(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    document = window.document
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, TYPED)
    view.row_view.setFocus()
    for _ in range(2):  # F#m7, then Bm9 and E13
        qtbot.keyClick(view.focus, K.Key_Right, SHIFT)
        settle(window, qtbot)
    song = document.song
    assert view.state.selection.index == CHORD + 2 and [song.locked(k) for k in range(4, 8)] == [True] * 3 + [
        False
    ]
    first = keys(song.voicing(CHORD))
    for k, root in ((5, 5), (6, 10)):  # half steps from F# to B and to E
        moved = keys(song.voicing(k))
        steps = {
            to - key
            for hand, other in zip(first, moved, strict=True)
            for key, to in zip(hand, other, strict=True)
        }
        assert len(steps) == 1 and steps.pop() % 12 == root
    qtbot.keyClick(view.focus, K.Key_Left, SHIFT)
    settle(window, qtbot)
    assert view.state.selection.index == 5
    undo(window, qtbot, 4)
    assert not any(document.song.locked(slot.index) for slot in document.song.slots)


def test_one_note_is_chosen_moved_handed_over_and_dropped(
    window: Window, view: HingesPage, qtbot: QtBot
) -> None:
    document = window.document
    (left, right) = keys(document.song.voicing(CHORD))
    assert not view.commands["note-up"].enabled()
    press(window, qtbot, K.Key_Period, len(left) + 1)
    assert view.grips.note == right[0]
    press(window, qtbot, K.Key_Minus)
    stepped = keys(document.song.voicing(CHORD))
    assert stepped[0] == left and stepped[1][1:] == right[1:] and stepped[1][0] < right[0]
    assert view.grips.note == stepped[1][0]
    press(window, qtbot, K.Key_C)
    over = keys(document.song.voicing(CHORD))
    assert over == (tuple(sorted((*left, stepped[1][0]))), right[1:])
    press(window, qtbot, K.Key_Delete)
    assert keys(document.song.voicing(CHORD)) == (left, right[1:])
    undo(window, qtbot, 3)
    assert keys(document.song.voicing(CHORD)) == (left, right)


def test_a_note_is_dragged_to_another_chord_tone(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    document = window.document
    (left, right) = keys(document.song.voicing(CHORD))
    top = view.row_view._tabs(CHORD)[-1].rect.center().toPoint()
    up = round(view.row_view._y(right[-1]) - view.row_view._y(right[-1] + 3))
    qtbot.mousePress(view.row_view, Qt.MouseButton.LeftButton, pos=top)
    qtbot.mouseMove(view.row_view, top - QPoint(0, up))
    qtbot.mouseRelease(view.row_view, Qt.MouseButton.LeftButton, pos=top - QPoint(0, up))
    after = keys(document.song.voicing(CHORD))
    assert after[0] == left and after[1][:-1] == right[:-1] and after[1][-1] > right[-1]
    chord = document.song.slots[CHORD].chord
    assert chord is not None and chord.label_of(after[1][-1] % 12) is not None
    undo(window, qtbot)
    click(qtbot, view.row_view, top)  # a click moves nothing
    assert keys(document.song.voicing(CHORD)) == (left, right)


def right_hands(window: Window) -> set[tuple[int, ...]]:
    """What the search looks at for the right hand on the chord."""
    song, library = window.document.song, window.document.library
    wish = progression(song, library).places[song.column_of[CHORD]].wish
    assert wish is not None
    return {shape.keys for shape in hand_shapes(wish, library, "right")}


@pytest.mark.long
def test_a_shape_of_ones_own_is_written_down_and_used(
    window: Window, view: HingesPage, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    assert (61, 64, 66) not in right_hands(window)
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, "F#2 A3 ; C#4 E4 F#4")
    view.row_view.setFocus()
    press(window, qtbot, K.Key_F)
    assert "no name yet" in window.message.text.text() and view.side.grip.name.hasFocus()
    qtbot.keyClicks(view.side.grip.name, "tea deck nine")
    click(qtbot, button(view.side.grip, "Keep as my shape (F)"))
    settle(window, qtbot)
    text = (tmp_path / "yellow-hinge" / "recipes.toml").read_text("utf-8")
    assert 'name = "tea deck nine"' in text
    document = window.document
    recipe = next(one for one in document.library.recipes.values() if one.name == "tea deck nine")
    assert recipe.hands == ("right",) and document.song.locked(CHORD)
    kept = document.song.voicing(CHORD)
    assert kept is not None
    press(window, qtbot, K.Key_L)  # unlocked, it is one of the shapes that are looked at
    settle(window, qtbot)
    assert document.solved.exact and not document.song.locked(CHORD)
    assert {(61, 64, 66), (64, 66, 73)} <= right_hands(window)  # it is there, in another inversion too


@pytest.mark.long
def test_a_name_goes_into_the_chart(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, TYPED)
    qtbot.keyClick(view.side.grip.field, K.Key_Return)
    settle(window, qtbot)
    press(window, qtbot, K.Key_I)
    names = [view.side.names.names.item(k).text() for k in range(view.side.names.names.count())]
    assert names[0].startswith("F♯m9") and view.side.names.agreement.text() == "as the chart has it: F♯m7"
    assert view.side.names.basses.count() == 12
    view.side.names.names.setFocus()
    view.side.names.names.setCurrentRow(0)
    qtbot.keyClick(view.side.names.names, K.Key_Return)
    settle(window, qtbot)
    document = window.document
    assert str(document.song.slots[CHORD].chord) == "F#m9" and "F#m9" in document.text
    assert keys(document.song.voicing(CHORD)) == (LEFT, RIGHT)
    assert "as the chart has it" in view.side.names.agreement.text()
    undo(window, qtbot)
    assert str(document.song.slots[CHORD].chord) == "F#m7"
    shown = view.side.names.names
    place = shown.visualItemRect(shown.item(0)).center()
    qtbot.mouseClick(shown.viewport(), Qt.MouseButton.LeftButton, pos=place)  # one is enough
    settle(window, qtbot)
    assert str(document.song.slots[CHORD].chord) == "F#m9"


@pytest.mark.long
def test_another_song_knows_nothing_of_what_was_being_entered(
    window: Window, view: HingesPage, qtbot: QtBot
) -> None:
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, TYPED)
    view.row_view.setFocus()
    window.document.history.mark_clean(window.document.song, None)
    window.files.open_demo("salt-stairs")
    settle(window, qtbot)
    assert not any(view.grips.draft(window.document.song, slot.index) for slot in window.document.song.slots)
    assert view.state.trial is None


def test_faces_are_one_place_and_each_a_letter(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    for key, panel in (
        (K.Key_Y, "grip"), (K.Key_I, "names"), (K.Key_W, "wishes"), (K.Key_S, "solo"), (K.Key_E, "leaf"),
    ):  # fmt: skip
        press(window, qtbot, key)
        assert view.side.stack.currentWidget() is getattr(view.side, panel)
        shown = [b for b in view.side.tabs.findChildren(QPushButton) if b.isChecked()]
        assert len(shown) == 1 and shown[0].toolTip()
    press(window, qtbot, K.Key_Right)
    assert not view.side.tabs.isVisible()  # a hinge has one face


def test_no_finger_free_is_said(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, "F#2 ; A3 C#4 E4 F#4 A4")
    view.row_view.setFocus()
    hit(view, qtbot, 71)
    assert "no finger left" in window.message.text.text()
    assert keys(view.state.trial) == ((42,), (57, 61, 64, 66, 69))


def test_every_shape_is_filtered_by_typing_and_clicking(
    window: Window, view: HingesPage, qtbot: QtBot
) -> None:
    bar, model = view.side.leaf.filter, view.side.leaf.alternatives
    best = list(model.lines)
    assert len(best) == 40
    bar.field.setFocus()
    qtbot.keyClicks(bar.field, "root position")
    qtbot.waitUntil(lambda: "voicings, the least effort first" in bar.words.text(), timeout=60_000)
    count = model.rowCount()
    assert count > 40 and f"{count:,} of " in bar.words.text()
    words, left = next((b.text().split(": ")) for b in bar.offers if b.isVisible())
    click(qtbot, next(b for b in bar.offers if b.isVisible()))
    assert bar.field.text() == f"root position, {words}" and model.rowCount() == int(left.replace(",", ""))
    qtbot.keyClick(bar.field, K.Key_Escape)
    press(window, qtbot, K.Key_Down, 3)
    row = view.side.leaf.list.currentIndex().row()
    wanted = model.lines[row].voicing
    press(window, qtbot, K.Key_T)
    assert view.state.trial == wanted and view.side.leaf.list.currentIndex().row() == row
    press(window, qtbot, K.Key_Escape)
    bar.field.setFocus()
    bar.field.selectAll()
    qtbot.keyClicks(bar.field, "purple")
    assert "'purple' is not understood" in bar.words.text()
    qtbot.keyClick(bar.field, K.Key_Escape)
    press(window, qtbot, K.Key_Right, 2)
    assert not model.rowCount()  # nothing of the chord before stays in the list
    press(window, qtbot, K.Key_Left, 2)
    bar.field.clear()
    assert [line.voicing for line in model.lines] == [line.voicing for line in best]


@pytest.mark.long
def test_a_wide_grip_has_its_ways_out_side_by_side(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Y)
    assert not view.side.grip.ways.isVisible()
    enter(view, qtbot, "F#2 C#3 A3 ; A4 C#5 E5")
    ways = view.side.grip.ways
    caution = ways.caution.text()
    assert ways.isVisible() and "Do not force it" in caution and "clinician" in caution
    cards = [card for card in ways.cards if card.isVisible()]
    assert "as entered" in cards[0].accessibleName() and "(chosen)" in cards[0].accessibleName()
    tops = next(card for card in cards if "drop the left hand's top note" in card.accessibleName())
    alone = next(card for card in cards if "alone" in card.accessibleName())
    assert tops.keys.left == (42, 49) and alone.keys.left == (42,)
    click(qtbot, tops)
    assert window.playback.playing  # it is heard at once
    window.playback.stop()
    assert keys(view.state.trial) == ((42, 49), (69, 73, 76))
    assert ways.isVisible() and "(chosen)" in tops.accessibleName()  # the others stay to be compared
    alone.setFocus()
    qtbot.keyClick(alone, K.Key_Space)
    assert keys(view.state.trial) == ((42,), (69, 73, 76))
    view.keyboard.setFocus()
    press(window, qtbot, K.Key_Return)
    settle(window, qtbot)
    assert window.document.song.locked(CHORD) and not ways.isVisible()
    assert keys(window.document.song.voicing(CHORD)) == ((42,), (69, 73, 76))


@pytest.mark.long
def test_all_grips_out_of_reach_are_shown_and_then_taken_in_one_step(
    window: Window, view: HingesPage, qtbot: QtBot
) -> None:
    shown: list[list[str]] = []

    def answer(take: bool) -> None:
        dialog = QApplication.activeModalWidget()
        if isinstance(dialog, AllWaysOut):
            shown.append([dialog.list.item(row).text() for row in range(dialog.list.count())])
            qtbot.keyClick(dialog.take, K.Key_Return if take else K.Key_Escape)
            dialog.close()  # one that stays open would hold the test for ever

    qtbot.keyClick(window.page.focus, K.Key_W, Qt.KeyboardModifier.ShiftModifier)
    assert not shown  # nothing is out of reach
    for chord, text in ((CHORD, "F#2 C#3 A3 ; A4 C#5 E5"), (CHORD + 1, "B1 F#2 D3 ; A3 D4 F#4")):
        view.walking.select(Selection(chord))
        press(window, qtbot, K.Key_Y)
        enter(view, qtbot, text)
        view.keyboard.setFocus()
        press(window, qtbot, K.Key_Return)
        settle(window, qtbot)
    wide = [window.document.song.voicing(chord) for chord in (CHORD, CHORD + 1)]
    for take in (False, True):
        QTimer.singleShot(200, lambda take=take: answer(take))
        qtbot.keyClick(window.page.focus, K.Key_W, Qt.KeyboardModifier.ShiftModifier)
        settle(window, qtbot)
        now = [window.document.song.voicing(chord) for chord in (CHORD, CHORD + 1)]
        assert (now != wide) is take
    assert len(shown[0]) == 2 and shown[0] == shown[1] and all("Bar " in line for line in shown[0])
    assert window.document.solved.reductions == ()
    come_back(window, qtbot)
    undo(window, qtbot)
    assert [window.document.song.voicing(chord) for chord in (CHORD, CHORD + 1)] == wide


@pytest.mark.long
def test_the_solo_guide_takes_the_place_of_a_free_hand(
    window: Window, view: HingesPage, qtbot: QtBot
) -> None:
    assert view.keyboard._scale == frozenset()
    press(window, qtbot, K.Key_W)
    click(qtbot, view.side.wishes.scopes.button(1))
    pick(qtbot, view.side.wishes.boxes["hands"], "left")
    settle(window, qtbot)
    press(window, qtbot, K.Key_E)
    right, hand = view.side.leaf.hand_labels["right"].text(), window.document.song.hands.right
    assert "is free" in right and "natural minor" in right and "guide tone" in right
    assert len(view.keyboard._scale) == 7 and view.keyboard._register == (hand.lowest_key, hand.highest_key)
    last = len(window.document.song.slots) - 1
    view.walking.select(Selection(last))  # in another section both hands play
    assert view.keyboard._scale == frozenset() and "is free" not in view.side.leaf.hand_labels["right"].text()


def test_each_hand_is_named_by_itself(window: Window, view: HingesPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, "E3 A3 ; C#4 F#4 A4")
    view.keyboard.setFocus()
    press(window, qtbot, K.Key_I)
    said = [view.side.names.hands.item(row).text() for row in range(view.side.names.hands.count())]
    assert any(line.startswith("Right: F♯m/C♯") or line.startswith("Right: F♯m") for line in said)
    assert any(line.startswith("Left: ") for line in said)
    press(window, qtbot, K.Key_Y)
    enter(view, qtbot, "A3 E4 ; A4")  # b3 and b7 of F#m7: its guide tones
    view.keyboard.setFocus()
    press(window, qtbot, K.Key_I)
    said = [view.side.names.hands.item(row).text() for row in range(view.side.names.hands.count())]
    assert said and all(line.startswith("Left: ") for line in said)
    assert any("F♯m7" in line and "third and seventh" in line for line in said)
