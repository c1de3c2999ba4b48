"""Keys of the player's own: given in the finder, kept, taken from others when asked twice, given back."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from pytestqt.qtbot import QtBot

from made import song_of
from yellow_hinge.tasks.settings.own_keys import OwnKeys
from yellow_hinge.ui.commands import Command, CommandList, pressed_key
from yellow_hinge.ui.main import make_window
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.window import Window

from .conftest import come_back, page, press, settle
from .test_finder import ask

K = Qt.Key
NONE, SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier,
)  # fmt: skip


def give(window: Window, qtbot: QtBot, words: str, key: Qt.Key, modifiers: Qt.KeyboardModifier = NONE) -> str:
    """Give the act that is found first a key; what the finder says then."""
    finder = ask(window, qtbot, words)
    qtbot.keyClick(finder.field, K.Key_F2)
    assert "Press the key for" in finder.said.text()
    qtbot.keyClick(finder.field, key, modifiers)
    assert finder.field.text() == words  # it is not typed
    return finder.said.text()


def closed(window: Window, qtbot: QtBot) -> None:
    qtbot.keyClick(window.finding.finder.field, K.Key_Escape)
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)


@pytest.mark.parametrize(
    ("key", "modifiers", "words"),
    [
        (K.Key_L, NONE, "L"), (K.Key_L, SHIFT, "Shift+L"), (K.Key_L, CTRL | SHIFT, "Ctrl+Shift+L"),
        (K.Key_Greater, SHIFT, ">"), (K.Key_Greater, CTRL | SHIFT, "Ctrl+>"), (K.Key_Enter, NONE, "Return"),
        (K.Key_Left, SHIFT, "Shift+Left"), (K.Key_F7, ALT, "Alt+F7"), (K.Key_Shift, SHIFT, ""),
        (K.Key_Control, CTRL, ""),
    ],
)  # fmt: skip
def test_what_is_pressed_in_words(key: Qt.Key, modifiers: Qt.KeyboardModifier, words: str) -> None:
    assert pressed_key(QKeyEvent(QKeyEvent.Type.KeyPress, key, modifiers)) == words


def test_own_keys_go_before_those_that_came() -> None:
    one, two = Command("one", "One", list, ("A", "B")), Command("two", "Two", list, ("C",))
    commands = CommandList([one, two])
    commands.rekey({"two": ("A",), "gone": ("B",)})
    assert (one.keys, two.keys) == (("B",), ("A",)) and commands.on_key("A") is two
    assert commands.on_key("C") is None and commands.came_with("one") == ("A", "B")
    commands.rekey({"one": ()})
    assert (one.keys, two.keys) == ((), ("C",))
    commands.rekey({"one": ("C",), "two": ("C",)})  # a file may say so: the first has it
    assert (one.keys, two.keys) == (("C",), ())


def test_what_is_kept_says_only_what_differs() -> None:
    own = OwnKeys().given("Takes", "copy", ("X",)).given("", "find", ())
    assert own.keys == {"Takes": {"copy": ("X",)}, "": {"find": ()}} and own.of("Keys") == {}
    assert own.given("Takes", "copy", None).keys == {"": {"find": ()}}


def test_an_act_gets_another_key_and_keeps_it(window: Window, qtbot: QtBot) -> None:
    hinges = page(window, HingesPage)
    assert "places" in give(window, qtbot, "lock", K.Key_F8)
    assert hinges.commands["lock"].keys == ("F8",)
    chosen = window.finding.finder.chosen
    assert chosen is not None and (chosen.words, chosen.keys) == ("Lock", "F8")
    closed(window, qtbot)
    press(window, qtbot, K.Key_L)
    assert not window.document.song.locked(0)
    press(window, qtbot, K.Key_F8)
    assert window.document.song.locked(0)
    settle(window, qtbot)
    assert any("Unlock (F8)" in one.text() for one in hinges.findChildren(type(window.find_button)))
    assert OwnKeys.read() == (OwnKeys({"Hinges": {"lock": ("F8",)}}), ())
    other = make_window(song_of("| C | G7 | C |\n"))
    assert other.page_named("Hinges").commands["lock"].keys == ("F8",)
    other.close()


def test_a_key_that_does_something_is_taken_only_when_pressed_twice(window: Window, qtbot: QtBot) -> None:
    hinges = page(window, HingesPage)
    hear, lock = hinges.commands["hear"], hinges.commands["lock"]
    said = give(window, qtbot, "lock", K.Key_H)
    assert said == "H does “Hear” now. Press it again to take it from there." and lock.keys == ("L",)
    finder = window.finding.finder
    qtbot.keyClick(finder.field, K.Key_F8)  # another one, which is free
    assert (lock.keys, hear.keys) == (("F8",), ("H",))
    qtbot.keyClick(finder.field, K.Key_F2)
    for _ in range(2):
        qtbot.keyClick(finder.field, K.Key_H)
    assert (lock.keys, hear.keys) == (("H",), ())
    qtbot.keyClick(finder.field, K.Key_F2, SHIFT)  # its own again
    assert lock.keys == ("L",)
    closed(window, qtbot)


@pytest.mark.long
def test_a_key_that_is_written_in_two_ways_is_one(window: Window, qtbot: QtBot) -> None:
    """Qt says "Del" for Delete; the act that had it loses it, and has it back when it is given back."""
    commands = page(window, HingesPage).commands
    had, lock = commands["note-drop"], commands["lock"]
    assert had.keys == ("Delete",) and "Press it again" in give(window, qtbot, "lock", K.Key_Delete)
    finder = window.finding.finder
    qtbot.keyClick(finder.field, K.Key_Delete)
    assert had.keys == () and lock.keys == ("Del",) and commands.on_key("Delete") is lock
    qtbot.keyClick(finder.field, K.Key_Escape)
    finder = ask(window, qtbot, "drop the note")
    assert finder.chosen is not None and finder.chosen.act == "note-drop"
    qtbot.keyClick(finder.field, K.Key_F2, SHIFT)
    assert had.keys == ("Delete",) and lock.keys == ("L",)
    closed(window, qtbot)


@pytest.mark.long
def test_keys_of_every_page_stay_and_escape_changes_nothing(window: Window, qtbot: QtBot) -> None:
    lock = page(window, HingesPage).commands["lock"]
    for key, name in ((K.Key_F2, "F2"), (K.Key_F2, "F2")):
        finder = ask(window, qtbot, "lock")
        qtbot.keyClick(finder.field, K.Key_F2)
        for _ in range(2):
            qtbot.keyClick(finder.field, key)
            assert finder.said.text() == f"{name} is needed by every page. Take another one."
        qtbot.keyClick(finder.field, K.Key_Escape)
        assert finder.isVisible() and lock.keys == ("L",)  # the first Escape leaves the question
        closed(window, qtbot)
    finder = ask(window, qtbot, "lantern verse")
    qtbot.keyClick(finder.field, K.Key_F2)
    closed(window, qtbot)
    finder = ask(window, qtbot, "section verse")
    qtbot.keyClick(finder.field, K.Key_F2)
    assert finder.said.text() == "Only acts have keys: choose one."
    closed(window, qtbot)


def test_a_key_that_menus_listen_to_is_one_act_in_page_and_window(window: Window, qtbot: QtBot) -> None:
    lock = page(window, HingesPage).commands["lock"]
    assert give(window, qtbot, "lock", K.Key_D, CTRL).startswith("Ctrl+D does “Light or dark” now.")
    finder = window.finding.finder
    qtbot.keyClick(finder.field, K.Key_D, CTRL)
    assert lock.keys == ("Ctrl+D",) and window.commands["theme"].keys == ()
    closed(window, qtbot)
    before = window.theme
    qtbot.keyClick(window.page.focus, K.Key_D, CTRL)
    assert window.document.song.locked(0) and window.theme is before
    settle(window, qtbot)
    finder = ask(window, qtbot, "all keys came")
    qtbot.keyClick(finder.field, K.Key_Return)
    assert lock.keys == ("L",) and window.commands["theme"].keys == ("Ctrl+D",)
    come_back(window, qtbot)
    qtbot.keyClick(window.page.focus, K.Key_D, CTRL)
    assert window.theme is not before and OwnKeys.read()[0] == OwnKeys()


def test_a_file_that_cannot_be_read_leaves_keys_as_they_came(window: Window) -> None:
    path = OwnKeys.path()
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text('{"keys": {"Hinges": {"lock": "X"}}}')
    own, problems = OwnKeys.read()
    assert own == OwnKeys() and str(path) in problems[0].place
    other = make_window(song_of("| C | G7 | C |\n"))
    assert other.page_named("Hinges").commands["lock"].keys == ("L",) and other.message.happened
    other.close()
