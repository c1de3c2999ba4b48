"""The finder: what is wanted is typed, and gone to or done, from any page."""

from __future__ import annotations

from itertools import chain

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from made import song_of
from yellow_hinge.rhythm.patterns import builtin_patterns
from yellow_hinge.song.groove_edits import change_groove
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.ui.finder import Finder
from yellow_hinge.ui.finding import MOST_FOUND, Thing, in_song, ranked, spoken
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.song.view import SongPage
from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.window import Window

from .conftest import PAGES, look_at, page, press, settle, show

K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier


def things(*rows: str) -> list[Thing]:
    """``Lock|act|Hinges|keep this voicing``."""
    split = (row.split("|") for row in rows)
    return [Thing(words, kind, where, list, more=more) for words, kind, where, more in split]


ROWS = things(
    "Lock|act|Hinges|keep this voicing", "Keep this row|act|Hinges|lock the whole row", "Padlock|act|Takes|",
    "A♭maj7, bar 3|chord|Hinges|Abmaj7 A flat major", "Am7, bar 4|chord|Hinges|Am7 A minor",
    "bar 3|bar|Hinges|Verse", "Verse|section|Hinges|bar 1", "Waltz, lifted|pattern|Rhythm|waltz left hand",
)  # fmt: skip


@pytest.mark.parametrize(
    ("query", "found"),
    [
        ("lock", ["Lock", "Keep this row"]),  # a name goes before what is said of it
        ("LOCK row", ["Keep this row"]), ("loc", ["Lock", "Keep this row"]), ("ock", []),
        ("a flat", ["A♭maj7, bar 3"]), ("abmaj", ["A♭maj7, bar 3"]), ("bar 3", ["bar 3", "A♭maj7, bar 3"]),
        ("hinges verse", ["Verse", "bar 3"]), ("waltz left", ["Waltz, lifted"]), ("waltz right", []),
        ("act takes", ["Padlock"]), ("nothing", []),
    ],
)  # fmt: skip
def test_every_word_begins_a_word(query: str, found: list[str]) -> None:
    assert [thing.words for thing in ranked(query, ROWS)] == found


def test_without_words_all_come_as_they_are_and_no_more_than_can_be_read() -> None:
    assert ranked("", ROWS) == ROWS and ranked(" , ", ROWS) == ROWS and ranked("lock", ROWS, 1) == ROWS[:1]
    assert len(ranked("x", things(*["x|act||"] * (MOST_FOUND + 5)))) == MOST_FOUND
    assert [spoken(NoteName(5, alter)) for alter in (-2, -1, 0, 1, 2)] == [
        "A double flat", "A flat", "A", "A sharp", "A double sharp",
    ]  # fmt: skip


def test_what_a_song_has_is_listed_once_where_it_is() -> None:
    song = song_of("[A] x2\n| C G7 | C C |\n[B]\n| F | N.C. |\n")
    gone: list[object] = []
    found = list(in_song(song, gone.append, lambda take: gone.append(("take", take))))
    rows = [(thing.kind, thing.words) for thing in found]
    assert [words for kind, words in rows if kind == "chord"] == [
        "C, bar 1", "G7, bar 1", "C, bar 2", "C, bar 3", "G7, bar 3", "C, bar 4", "F, bar 5",
    ]  # fmt: skip
    assert [words for kind, words in rows if kind == "bar"] == [f"bar {number}" for number in range(1, 7)]
    assert [kind for kind, _ in rows].count("section") >= 2 and rows[-1][0] == "take"
    next(thing for thing in found if thing.words == "F, bar 5").go()
    found[-1].go()
    assert gone == [8, ("take", 0)]


def opened(window: Window, qtbot: QtBot, key: Qt.Key = K.Key_Slash) -> Finder:
    """Open it by its key, and wait until it knows every page."""
    press(window, qtbot, key)
    finder = window.finding.finder
    assert finder.isVisible()
    qtbot.waitUntil(lambda: len(window._pages) == len(PAGES), timeout=20_000)
    qtbot.wait(50)
    return finder


def ask(window: Window, qtbot: QtBot, words: str) -> Finder:
    finder = opened(window, qtbot)
    qtbot.keyClicks(finder.field, words)
    return finder


@pytest.mark.long
def test_every_act_is_found_by_its_words(window: Window, qtbot: QtBot) -> None:
    """Of all pages and of the window, each by what stands on its button; first where no other begins so."""
    finder = opened(window, qtbot)
    known = finder._things
    every = [(one.name, one.commands) for one in window._pages.values()]
    for name, command in chain(
        *([(name, command) for command in commands] for name, commands in every),
        (("", command) for command in window.commands if not command.id.startswith("recent-")),
    ):
        words = command.said.replace("...", "")
        found = ranked(f"{words} {name}", known)
        assert any(thing.words == words and thing.where == name for thing in found), f"{name}: {words}"
    qtbot.keyClick(finder.field, K.Key_Escape)
    assert not finder.isVisible()


@pytest.mark.parametrize(
    ("words", "first"),
    [("lock", "Lock"), ("print", "Print"), ("tenth", "Root, fifth, tenth in three"), ("verse", "Verse"),
     ("c sharp", "C♯m7, bar 7"), ("bar 12", "bar 12"), ("melody with", "With melody")],
)  # fmt: skip
def test_what_the_readme_types_is_found(still: Window, qtbot: QtBot, words: str, first: str) -> None:
    look_at(still, qtbot, HingesPage)
    finder = ask(still, qtbot, words)
    qtbot.waitUntil(lambda: finder.chosen is not None and finder.chosen.words == first)
    qtbot.keyClick(finder.field, K.Key_Escape)


def test_what_comes_later_is_first_unless_one_has_walked(window: Window, qtbot: QtBot) -> None:
    """Pages tell their acts one after the other while one types."""
    finder = opened(window, qtbot)
    far, near, last = things("To practise and print|act|Keys|", "Print|act|Sheet|", "Print it all|act|Sheet|")
    finder.ask([far])
    qtbot.keyClicks(finder.field, "print")
    finder.add([near])
    assert finder.chosen is near
    qtbot.keyClick(finder.field, K.Key_Down)
    finder.add([last])
    assert finder.chosen is far and finder.cards.lines == [near, last, far]
    qtbot.keyClick(finder.field, K.Key_Escape)


def test_a_switch_of_the_transport_is_turned_from_anywhere(window: Window, qtbot: QtBot) -> None:
    finder = ask(window, qtbot, "click count")
    assert finder.chosen is not None and finder.chosen.words == "Click"
    qtbot.keyClick(finder.field, K.Key_Return)
    assert window.playback.with_click and window.transport.click.isChecked()
    qtbot.keyClick(window.transport.click, K.Key_Space)
    assert not window.playback.with_click and not window.transport.click.isChecked()


@pytest.mark.long
def test_patterns_of_the_take_are_found_too(window: Window, qtbot: QtBot) -> None:
    groove = window.document.song.arrangement.groove
    mine = replace(builtin_patterns()["waltz-lifted"], id="mine", name="Herring gutters")
    window.document.apply(change_groove(window.document.song, "Mine", patterns=(*groove.patterns, mine)))
    finder = ask(window, qtbot, "herring")
    assert finder.chosen is not None and finder.chosen.kind == "pattern"
    qtbot.keyClick(finder.field, K.Key_Escape)
    settle(window, qtbot)


@pytest.mark.long
def test_an_act_is_done_from_another_page(window: Window, qtbot: QtBot) -> None:
    show(window, qtbot, RhythmPage)
    finder = ask(window, qtbot, "lock")
    assert finder.chosen is not None and (finder.chosen.words, finder.chosen.where) == ("Lock", "Hinges")
    qtbot.keyClick(finder.field, K.Key_Return)
    assert window.page.name == "Hinges" and window.document.song.locked(0) and not finder.isVisible()
    settle(window, qtbot)


@pytest.mark.long
def test_what_is_not_possible_now_is_said_and_gone_to(window: Window, qtbot: QtBot) -> None:
    finder = ask(window, qtbot, "give back swapped")
    assert finder.chosen is not None and not finder.chosen.can()
    assert "not possible now" in finder.cards.words(finder.chosen)
    before = window.document.song
    qtbot.keyClick(finder.field, K.Key_Return)
    assert window.page.name == "Hinges" and window.document.song is before
    assert window.message.isVisible() and window.message.text.text().startswith(
        "Give back: not possible here now."
    )


@pytest.mark.long
def test_chords_bars_takes_schools_and_patterns_are_gone_to(window: Window, qtbot: QtBot) -> None:
    show(window, qtbot, SongPage)
    qtbot.keyClick(window, K.Key_F, CTRL)  # a slash is typed into the chart
    finder = window.finding.finder
    qtbot.keyClicks(finder.field, "bar 12")
    qtbot.keyClick(finder.field, K.Key_Return)
    song = window.document.song
    assert window.page.name == "Hinges" and song.slots[window.document.chosen].bar == 12
    finder = ask(window, qtbot, "chord bar")
    qtbot.keyClick(finder.field, K.Key_Down)
    assert finder.list.currentIndex().row() == 1
    qtbot.keyClick(finder.field, K.Key_Up)
    qtbot.keyClick(finder.field, K.Key_Up)
    assert finder.list.currentIndex().row() == 0
    qtbot.keyClick(finder.field, K.Key_Escape)
    finder = ask(window, qtbot, "play band")
    qtbot.keyClick(finder.field, K.Key_Return)
    assert window.document.song.arrangement.school == "band"
    settle(window, qtbot)
    name = builtin_patterns()["waltz-lifted"].name
    finder = ask(window, qtbot, f"{name} pattern")
    qtbot.keyClick(finder.field, K.Key_Return)
    patterns = page(window, RhythmPage).side.patterns
    assert window.page.name == "Rhythm"
    qtbot.waitUntil(patterns.list.hasFocus)
    assert patterns.model.lines[0].name == patterns.filter.text() == name
    finder = ask(window, qtbot, "first take")
    row = next(place for place, thing in enumerate(finder.cards.lines) if thing.kind == "take")
    place = finder.list.visualRect(finder.cards.index(row)).center()
    qtbot.mouseClick(finder.list.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(place))
    assert isinstance(window.page, TakesPage)
    finder = ask(window, qtbot, "zzz")
    assert finder.chosen is None and "Nothing is called so" in finder.said.text()
    qtbot.keyClick(finder.field, K.Key_Return)
    assert finder.isVisible()
    qtbot.keyClick(finder.field, K.Key_Escape)
    assert page(window, HingesPage) is not window.page
