"""What every page has to stand, each of its faces too: no mouse, text at twice its size, a small window."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator, Sequence
from itertools import combinations, pairwise, product

import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QAccessible, QImage
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QSlider,
    QStyle,
    QStyleOptionComboBox,
    QWidget,
)
from pytestqt.qtbot import QtBot

from yellow_hinge.tasks.settings.display import Display
from yellow_hinge.ui import theme
from yellow_hinge.ui.page import Page
from yellow_hinge.ui.pages.hands.view import HandsPage
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.keys.view import KeysPage
from yellow_hinge.ui.pages.practise.view import PractisePage
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.sheet.view import SheetPage
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.window import Window
from yellow_hinge.ui.words import OneLine
from yellow_hinge.ui.worker import Worker

from .conftest import PAGES, click_in_menu, press, settle, show, type_chart
from .drawn import troubles, written_on

K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier
CONTROLS = (
    QAbstractButton,
    QComboBox,
    QAbstractSpinBox,
    QLineEdit,
    QPlainTextEdit,
    QSlider,
    QAbstractItemView,
)
#: Every page with every face: (page, key that opens the face).
#: Pages that show one of several things at a time, by the letters of these.
FACED: dict[type[Page], str] = {
    HingesPage: "EYIWS", SwapsPage: "EBFGIO", RhythmPage: "EFL", PractisePage: "TDMWE", SheetPage: "CSLKP",
}  # fmt: skip
SCREENS: list[tuple[type[Page], Qt.Key | None]] = [
    (kind, getattr(K, f"Key_{letter}") if letter else None)
    for kind in PAGES
    for letter in (FACED.get(kind) or ("",))
]
every_screen = pytest.mark.parametrize(
    ("kind", "key"), SCREENS, ids=[f"{kind.name}-{key.name[4:] if key else ''}" for kind, key in SCREENS]
)


@pytest.fixture(autouse=True)
def usual_text(qtbot: QtBot) -> Iterator[None]:
    yield
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    theme.set_text_scale(app, 1.0)


@pytest.fixture(autouse=True)
def in_front(request: pytest.FixtureRequest, qtbot: QtBot) -> None:
    """The window that is looked at has the keyboard, whatever window stood before."""
    if "still" in request.fixturenames:
        made = request.getfixturevalue("still")
        made.activateWindow()
        qtbot.waitUntil(made.isActiveWindow)


def opened(window: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None) -> Page:
    settle(window, qtbot)
    page = show(window, qtbot, kind)
    if key is not None:
        press(window, qtbot, key)
    rest(page, qtbot)
    return page


def rest(page: Page, qtbot: QtBot) -> None:
    """Wait until all that is shown has been worked out, and is laid out."""
    qtbot.waitUntil(lambda: not any(one.running for one in page.findChildren(Worker)), timeout=60_000)
    if isinstance(page, PractisePage):
        qtbot.waitUntil(lambda: page.state.ready, timeout=60_000)
    qtbot.wait(60)


def controls(page: QWidget) -> list[QWidget]:
    """What can be worked with, inner parts of boxes and lists apart."""
    found = [one for kind in CONTROLS for one in page.findChildren(kind) if one.isVisibleTo(page)]
    return [one for one in found if not one.objectName().startswith("qt_")
            and not isinstance(one.parentWidget(), QComboBox | QAbstractSpinBox)]  # fmt: skip


def by_tab(widget: QWidget) -> bool:
    """Of those that exclude each other, Qt stops at one: arrows go to the others."""
    group = widget.group() if isinstance(widget, QAbstractButton) else None
    with_arrows = group.buttons() if group is not None and group.exclusive() else [widget]
    return any(one.focusPolicy() & Qt.FocusPolicy.TabFocus for one in with_arrows)


def name_of(widget: QWidget) -> str:
    return widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton) else "")


@pytest.mark.long
@every_screen
def test_every_control_has_a_name_and_the_keyboard(
    still: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None
) -> None:
    page = opened(still, qtbot, kind, key)
    commands = {one.button_words() for one in page.commands} | {one.said for one in page.commands}
    found = controls(page)
    assert found
    for one in found:
        assert name_of(one), f"{type(one).__name__} {one.objectName()} {one.toolTip()} has no name"
        assert by_tab(one) or name_of(one) in commands, f"{name_of(one)} cannot be reached by the keyboard"


@pytest.mark.long
@every_screen
def test_at_most_six_acts_are_in_view(
    still: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None
) -> None:
    """What most players do next; at most one of them is the first. Faces, which are chosen, do not count."""
    page = opened(still, qtbot, kind, key)
    every = [one for one in page.findChildren(QPushButton) if one.isVisibleTo(page)]
    shown = [one for one in every if one.objectName() != "face"]
    assert len(shown) <= 6, [one.text() for one in shown]
    first = [one.text() for one in shown if one.objectName() == "first"]
    assert len(first) == bool(shown), first


@pytest.mark.long
@every_screen
def test_every_panel_stands_on_its_ground(
    still: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None
) -> None:
    """A class of our own paints none unless it is told to."""
    page = opened(still, qtbot, kind, key)
    shown = still.grab().toImage()
    for panel in page.findChildren(QWidget, "panel"):
        if panel.isVisibleTo(page):
            inside = panel.mapTo(still, QPoint(4, 8))
            assert shown.pixelColor(inside).name() == still.theme.surface, type(panel).__name__


@pytest.mark.long
@every_screen
def test_the_keyboard_goes_round_all_of_them(
    still: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None
) -> None:
    """By real presses of Tab: every control is reached, says what it is, is seen to have the keyboard, and
    comes in the order of reading."""
    page = opened(still, qtbot, kind, key)
    wanted = {one for one in controls(page) if one.isEnabled() and by_tab(one)}
    page.focus.setFocus()
    qtbot.keyClick(page.focus, K.Key_Tab)
    way: list[QWidget] = []
    while (now := QApplication.focusWidget()) is not None and now not in way:
        way.append(now)
        _says_what_it_is(now)
        with_it = _seen_around(still, now)
        qtbot.keyClick(now, K.Key_Tab)
        assert QApplication.focusWidget() is not now, f"{said_of(now)} keeps the keyboard"
        assert _seen_around(still, now) != with_it, f"{said_of(now)} does not show that it has the keyboard"
    seen = {*way, *(one for one in wanted if one.focusProxy() in way)}
    groups = {one for one in wanted if isinstance(one, QAbstractButton) and one.group() is not None}
    assert not {name_of(one) for one in wanted - groups - seen}
    assert page.focus in way or page.focus.focusProxy() in way
    assert out_of_order(page, way) == []


def said_of(widget: QWidget) -> str:
    """What assistive tools are told of it: its name; of a box that is named by its value what it is for."""
    found = QAccessible.queryAccessibleInterface(widget)
    kind = QAccessible.Text.Description if isinstance(widget, QComboBox) else QAccessible.Text.Name
    return str(found.text(kind))


def _says_what_it_is(widget: QWidget) -> None:
    found = QAccessible.queryAccessibleInterface(widget)
    assert said_of(widget), f"{type(widget).__name__} {widget.objectName()} has no name"
    scrolled = isinstance(widget, QScrollArea)  # words to be read, by the keys that scroll
    assert scrolled or found.role() not in (QAccessible.Role.NoRole, QAccessible.Role.Client), said_of(widget)
    assert found.state().focused and found.state().focusable, said_of(widget)


def _seen_around(window: Window, widget: QWidget) -> QImage:
    QApplication.processEvents()
    box = QRect(widget.mapTo(window, QPoint(0, 0)), widget.size()).adjusted(-4, -4, 4, 4) & window.rect()
    return window.grab(box).toImage()


def out_of_order(page: Page, way: list[QWidget]) -> list[str]:
    """Neighbours in one container of which the later one stands above, or before on the same line."""
    bad = []
    for one, after in pairwise(way):
        if one.parentWidget() is after.parentWidget() and page.isAncestorOf(one):
            (x, y), (x2, y2) = one.pos().toTuple(), after.pos().toTuple()
            if y2 + after.height() <= y or (x2 < x and abs(y2 - y) < min(one.height(), after.height()) / 2):
                bad.append(f"{said_of(after)} comes after {said_of(one)}")
    return bad


def cut_off(page: Page) -> list[str]:
    """Words that have less room than they need, or lie beyond what can be scrolled to."""
    bad = []
    every: list[QLabel | QAbstractButton] = [*page.findChildren(QLabel), *page.findChildren(QAbstractButton)]
    for one in every:
        if not one.isVisibleTo(page) or not one.text() or one.objectName().startswith("qt_"):
            continue
        if isinstance(one, OneLine):  # it is cut where it must be, and says all of it where one points
            if (
                one.toolTip() != one.text()
                or one.height() < one.fontMetrics().height() - 2
                or one.width() < 40
            ):
                bad.append(f"{one.text()[:40]} cannot be read")
            continue
        need = one.minimumSizeHint()
        if isinstance(one, QLabel) and one.wordWrap():
            need.setWidth(0)
            need.setHeight(min(one.heightForWidth(one.width()), one.height() + 2))
        if one.width() + 1 < need.width() or one.height() + 1 < need.height():
            bad.append(f"{one.text()[:40]}: {one.size().toTuple()} of {need.toTuple()}")
        if not _can_be_seen(one, page):
            bad.append(f"{one.text()[:40]} lies outside")
    return bad + [words for box in page.findChildren(QComboBox) for words in _longer_than(box, page)]


def _longer_than(box: QComboBox, page: Page) -> list[str]:
    """What can be chosen in a box and could not be read there: names that a player gives apart."""
    if not box.isVisibleTo(page) or box.isEditable() or box.accessibleName() == "Take":
        return []
    option = QStyleOptionComboBox()
    box.initStyleOption(option)
    control, field = QStyle.ComplexControl.CC_ComboBox, QStyle.SubControl.SC_ComboBoxEditField
    room = box.style().subControlRect(control, option, field, box).width() + 1
    every = [box.itemText(row) for row in range(box.count())]
    return [f"{words} in {box.accessibleDescription()}" for words in every
            if box.fontMetrics().horizontalAdvance(words) > room]  # fmt: skip


def _can_be_seen(widget: QWidget, page: Page) -> bool:
    """Within the page, or in an area of it that scrolls."""
    parent = widget.parentWidget()
    while parent is not None and parent is not page:
        if isinstance(parent.parentWidget(), QScrollArea) or isinstance(parent, QAbstractItemView):
            return True
        parent = parent.parentWidget()
    box = QRect(widget.mapTo(page, QPoint(0, 0)), widget.size())
    return page.rect().adjusted(-1, -1, 1, 1).contains(box)


def frames(window: Window) -> tuple[QWidget, QScrollArea]:
    return window.page, window.stage.frame(window.page.name)


LONG = """title: The Unaccountably-Long-Winded Ballad of the Lighthousekeeperswidowerscousin of Underhill
composer: Bartholomew-Maximilian Featherstonehaughcholmondeleymarjori
key: Db
[Instrumentalintroductionwithoutanyrepetitionwhatsoever] x2
| Dbmaj7#11 | Gbm(maj7)/Bbb | Ab13sus4b9 | Dbmaj9#11/F |
melody: F5:4 | Eb5:2 Db5:2 | C5:4 | Ab4:4
lyrics: Incomprehensibilitiesoflighthousekeepers
[Verse with a name that goes on and on and on]
| Dbmaj7 | Ebm11 Ab7#5#9 | Fm7b5 Bb7b9b13 | Ebm9 Ab13 |
"""
SIZES = ((1024, 600), (1280, 720), (1920, 1080), (2560, 1440))
#: Sizes of the window that are looked at with each size of text.
SIZES_AT = {1.0: SIZES, 2.0: (SIZES[0], SIZES[-1])}


@pytest.mark.long
@every_screen
def test_nothing_is_cut_off_at_any_size(
    window: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None
) -> None:
    """The demo song, and one of long names: text from its usual size to twice that, in small windows. At the
    usual size a window beside a title bar and a panel has room for the whole page."""
    page = opened(window, qtbot, kind, key)
    _stands(window, qtbot, page, (1.0, 1.5, 2.0))
    type_chart(window, qtbot, LONG)
    assert not window.unread.isVisible() and window.document.song.title.startswith("The Unacc")
    show(window, qtbot, kind)
    _stands(window, qtbot, page, (1.0, 2.0))


def _stands(window: Window, qtbot: QtBot, page: Page, looked_at: Sequence[float]) -> None:
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    window.message.hide()  # what it says it says for a while
    rest(page, qtbot)  # what is worked out first takes the place of other boxes
    before = {one: one.fontMetrics().height() for one in _with_text(page)}
    for step, scale in enumerate(theme.TEXT_SCALES):
        for size in SIZES_AT.get(scale, SIZES[:1]) if scale in looked_at else ():
            window.resize(*size)
            rest(page, qtbot)
            assert window.size().toTuple() == size
            assert cut_off(page) == [], f"text of {scale:.0%} in {size}"
            assert troubles(written_on(window)) == [], f"text of {scale:.0%} in {size}"
            shown, frame = frames(window)
            _all_of_it_is_reached(shown, frame)
            if scale == 1.0 and size in SIZES[1:]:
                assert shown.width() <= frame.viewport().width(), "the page is too wide"
                assert shown.height() <= frame.viewport().height(), "the page is too high"
        if step + 1 < len(theme.TEXT_SCALES):
            qtbot.keyClick(page.focus, K.Key_Plus, CTRL)
    assert theme.text_scale() == 2.0
    fitted = "Change at hand"  # as large as its place allows, at every size
    grown = {
        f"{type(one).__name__} {one.accessibleName()}{getattr(one, 'text', str)()[:30]}":
            one.fontMetrics().height() / was
        for one, was in before.items() if one.accessibleName() != fitted
    }  # fmt: skip
    assert {words: share for words, share in grown.items() if share < 1.8} == {}
    for _ in theme.TEXT_SCALES:
        qtbot.keyClick(page.focus, K.Key_Minus, CTRL)
    assert theme.text_scale() == 1.0


@pytest.mark.long
@every_screen
def test_a_page_that_is_not_shown_bears_a_shorter_song(
    window: Window, qtbot: QtBot, kind: type[Page], key: Qt.Key | None
) -> None:
    """It stood at the last chord; then the song lost it, text became larger, colours changed, and it is shown
    again: as the song is by then."""
    page = opened(window, qtbot, kind, key)
    window.document.choose(len(window.document.song.slots) - 1)
    page.entered()
    with qtbot.captureExceptions() as caught:
        type_chart(window, qtbot, "| F | C |\n")  # on the Song page
        for pressed in (K.Key_Plus, K.Key_D):
            qtbot.keyClick(window, pressed, CTRL)
        show(window, qtbot, kind)
        rest(page, qtbot)
    assert caught == []
    qtbot.keyClick(window, K.Key_Minus, CTRL)


@pytest.mark.long
def test_the_line_about_an_unread_chart_takes_no_page_its_room(window: Window, qtbot: QtBot) -> None:
    window.resize(1280, 720)
    type_chart(window, qtbot, "| C | Hmmm |")
    high = {}
    for kind in PAGES:
        view = show(window, qtbot, kind)
        rest(view, qtbot)
        assert window.unread.isVisible() == (kind.name != "Song")
        shown, frame = frames(window)
        high[kind.name] = shown.height() - frame.viewport().height()
    assert {name: more for name, more in high.items() if more > 0} == {}


@pytest.mark.long
def test_the_transport_has_room_whatever_runs(window: Window, qtbot: QtBot) -> None:
    """Also while a search runs, and with a band: in two lines where one is too short, and no window is made
    wider for it."""
    bar = window.transport
    high: dict[tuple[float, int], set[int]] = {}
    for scale in theme.TEXT_SCALES:
        for width, busy, band in product((1024, 1280, 1900), (False, True), (False, True)):
            window.resize(width, 600)
            bar.show_band(band)
            bar.show_busy(busy)
            qtbot.wait(20)
            assert window.width() == width
            shown = [one for one in bar.children() if isinstance(one, QWidget) and one.isVisible()]
            assert all(bar.rect().contains(one.geometry()) for one in shown), (scale, width, busy, band)
            apart = [one.geometry() for one in shown if one.width()]
            assert not any(a.intersects(b) for a, b in combinations(apart, 2)), (scale, width, busy, band)
            if not band:
                high.setdefault((scale, width), set()).add(bar.height())
        qtbot.keyClick(window, K.Key_Plus, CTRL)
    assert all(len(heights) == 1 for heights in high.values()), "it jumps when a search begins"
    assert high[1.0, 1024] == high[1.0, 1280] == high[1.0, 1900]
    assert max(high[1.25, 1280]) < min(high[1.25, 1024])  # one line, two lines
    for _ in theme.TEXT_SCALES:
        qtbot.keyClick(window, K.Key_Minus, CTRL)


@pytest.mark.parametrize("kind", [KeysPage, TakesPage, SheetPage, PractisePage])
def test_sides_and_bars_have_their_ground(window: Window, qtbot: QtBot, kind: type[Page]) -> None:
    """What stands beside a page is set off from it, in the colours of the theme."""
    page = show(window, qtbot, kind)
    window.message.tell("A word")
    qtbot.keyClick(window, K.Key_K, CTRL)
    qtbot.wait(60)
    for one in (window.transport, window.panel, window.message, page.side):  # type: ignore[attr-defined]
        seen = one.grab().toImage().pixelColor(5, one.height() // 2)
        assert seen.name() == window.theme.surface, one
    assert window.theme.surface != window.theme.ground


@pytest.mark.long
def test_the_place_one_is_at_is_seen_in_the_rail(window: Window, qtbot: QtBot) -> None:
    window.resize(1024, 600)
    for _ in theme.TEXT_SCALES:
        qtbot.keyClick(window, K.Key_Plus, CTRL)
    for number, kind in ((7, PractisePage), (1, HandsPage)):
        show(window, qtbot, kind)
        qtbot.wait(60)
        place = window.places.button(number)
        top = place.mapTo(window.rail, QPoint(0, 0)).y()
        assert place.isChecked() and top >= 0 and top + place.height() <= window.rail.height()
    for _ in theme.TEXT_SCALES:
        qtbot.keyClick(window, K.Key_Minus, CTRL)


def _with_text(page: QWidget) -> list[QWidget]:
    """What Qt writes on: labels, and all that can be worked with."""
    labels: list[QWidget] = [one for one in page.findChildren(QLabel) if one.isVisibleTo(page)]
    return labels + controls(page)


def _all_of_it_is_reached(page: QWidget, frame: QScrollArea) -> None:
    """What is larger than its frame can be scrolled to."""
    bars = (frame.horizontalScrollBar(), frame.verticalScrollBar())
    beyond = (page.width() - frame.viewport().width(), page.height() - frame.viewport().height())
    for bar, more in zip(bars, beyond, strict=True):
        assert bar.maximum() >= max(0, more)


# --- colours, and what moves ---------------------------------------------------------------------


def _light(colour: str) -> float:
    """Relative luminance, as the Web Content Accessibility Guidelines define it."""
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one: str, other: str) -> float:
    low, high = sorted((_light(one), _light(other)))
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("colours", theme.THEMES.values(), ids=theme.THEMES)
def test_every_text_stands_out_from_its_ground(colours: theme.Theme) -> None:
    """4.5 to 1 for every pair of text and ground; the list of pairs has every role that is written with."""
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
    for text, grounds in theme.TEXT_ON.items():
        for ground in grounds:
            found = contrast(getattr(colours, text), getattr(colours, ground))
            assert found >= 4.5, f"{text} on {ground}: {found:.2f}"
    assert all(contrast(ink, "#ffffff") >= 4.5 for ink in PALETTE)


@pytest.mark.long
def test_the_pairs_are_all_that_is_written(still: Window, qtbot: QtBot) -> None:
    """What the pictures of all pages write with is in the list."""
    known = {getattr(theme.LIGHT, role) for role in theme.TEXT_ON}
    pens: set[str] = set()
    for kind, key in SCREENS:
        opened(still, qtbot, kind, key)
        pens.update(one.colour for one in written_on(still))
    assert pens - known - PALETTE == set()


#: What stands on paper, which is white in every theme.
PALETTE = {"#16181b", "#4d5259"}


def test_nothing_moves_by_itself_when_that_is_wished(window: Window, qtbot: QtBot) -> None:
    """No text cursor blinks, and no page follows what plays; the setting is there the next time."""
    settle(window, qtbot)
    page = show(window, qtbot, HingesPage)
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    menu = window.menus["View"]
    click_in_menu(qtbot, menu, "Nothing moves by itself")
    assert app.cursorFlashTime() == 0 and Display.read()[0].calm
    before = page.grab().toImage()
    qtbot.keyClick(page.focus, K.Key_Space)
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    qtbot.wait(400)
    assert page.grab().toImage() == before
    qtbot.keyClick(page.focus, K.Key_Space)
    click_in_menu(qtbot, menu, "Nothing moves by itself")
    assert app.cursorFlashTime() > 0 and not Display.read()[0].calm


#: Opens 200 songs in turn, a page after each, and says what the process holds after 20 and after all, in
#: pages.
A_DAY = """
import random
from pathlib import Path
from PySide6.QtCore import QEventLoop, QTimer
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.model import Song
from yellow_hinge.ui import theme
from yellow_hinge.ui.main import leave_what_stays, make_window

def wait():
    loop = QEventLoop()
    QTimer.singleShot(10, loop.quit)
    loop.exec()

app, dice = theme.make_application(), random.Random(7)
window = make_window(Song(parse_chart("| C |")))
window.show()
leave_what_stays()
for number in range(1, 201):
    roots, kinds = "C Db D Eb E F F# G Ab A Bb B".split(), ("", "m7", "9")
    row = " | ".join(dice.choice(roots) + dice.choice(kinds) for _ in range(5))
    window.document.start_over(Song(parse_chart(f"title: Song {number}\\n| {row} |")), None)
    wait()
    while window.document.worker.running:
        wait()
    window.go_to(window.page_names[number % len(window.page_names)])
    wait()
    if number in (20, 200):
        print(Path("/proc/self/statm").read_text().split()[1])
"""


@pytest.mark.long
def test_a_day_of_songs_leaves_no_more_than_some_of_them_do() -> None:
    done = subprocess.run([sys.executable, "-c", A_DAY], capture_output=True, text=True, check=True)
    early, late = map(int, done.stdout.split())
    assert late < 1.1 * early
