"""The Sheet page by real keys and clicks, and what it writes, read by others."""

from __future__ import annotations

import io
from pathlib import Path
from xml.etree import ElementTree as ET

import pypdf
import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QCheckBox, QFileDialog, QMenu
from pytestqt.qtbot import QtBot

from made import song_of
from yellow_hinge.errors import Problem
from yellow_hinge.motion.plan import Planner
from yellow_hinge.sheet.kinds import KIND_IDS
from yellow_hinge.sheet.page import MARGIN_MM, PAPERS, Disc, Options
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.sheets.kinds import sheet_of
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.ui.page import Page
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.sheet.view import SheetPage
from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.sheet_painter import (
    QtPress,
    inks,
    page_image,
    pdf_bytes,
    png_bytes,
    strange_letters,
    svg_bytes,
)
from yellow_hinge.ui.theme import DARK, worn
from yellow_hinge.ui.window import Window
from yellow_hinge.voicing.recipes import builtin_library

from .conftest import button, click, click_in_menu, pick, press, settle, show, type_chart, undo

K = Qt.Key
LIBRARY = builtin_library()


def rest(window: Window, view: SheetPage, qtbot: QtBot) -> None:
    settle(window, qtbot)
    qtbot.waitUntil(lambda: not view.worker.running and not view.state.stale, timeout=8_000)
    qtbot.wait(20)


def tick(qtbot: QtBot, box: QCheckBox) -> None:
    click(qtbot, box, QPoint(8, box.height() // 2))


@pytest.fixture
def view(window: Window, qtbot: QtBot) -> SheetPage:
    settle(window, qtbot)
    page = show(window, qtbot, SheetPage)
    rest(window, page, qtbot)
    return page


def test_kinds_are_chosen_by_letter_and_pages_turned(window: Window, view: SheetPage, qtbot: QtBot) -> None:
    assert view.state.kind == "crib" and view.where.text() == "page 1 of 2"
    press(window, qtbot, K.Key_Right)
    assert view.where.text() == "page 2 of 2" and not view.commands["forward"].enabled()
    press(window, qtbot, K.Key_PageUp)
    assert view.where.text() == "page 1 of 2"
    for key, kind in ((K.Key_S, "score"), (K.Key_L, "lead"), (K.Key_K, "keys"), (K.Key_P, "practice")):
        press(window, qtbot, key)
        rest(window, view, qtbot)
        assert view.state.kind == kind
        assert view.side.boxes["keyboards"].isVisible() == (kind == "crib")


def test_what_it_shows_and_its_paper_are_chosen(window: Window, view: SheetPage, qtbot: QtBot) -> None:
    first = view.state.sheet
    tick(qtbot, view.side.boxes["keyboards"])
    rest(window, view, qtbot)
    assert view.state.sheet is not None and first is not None and view.state.sheet != first
    assert not any(isinstance(item, Disc) for item in view.state.sheet.pages[0].items)
    pick(qtbot, view.side.paper_box, "letter")
    rest(window, view, qtbot)
    assert view.state.sheet is not None and view.state.sheet.pages[0].width == PAPERS["letter"][0]
    tick(qtbot, view.side.boxes["across"])
    rest(window, view, qtbot)
    assert view.state.sheet.pages[0].height == PAPERS["letter"][0]
    tick(qtbot, view.side.dated)
    rest(window, view, qtbot)
    assert view.state.options.date


def test_zoom_by_keys(window: Window, view: SheetPage, qtbot: QtBot) -> None:
    fitting = view.paper.zoom
    assert view.paper.height() <= view.area.viewport().height() + 2
    press(window, qtbot, K.Key_Plus)
    assert view.paper.zoom > fitting
    press(window, qtbot, K.Key_Minus, 2)
    press(window, qtbot, K.Key_F)
    assert view.paper.zoom == fitting


def test_it_follows_the_song(window: Window, view: SheetPage, qtbot: QtBot) -> None:
    type_chart(window, qtbot, "title: Other\nkey: C\n[A]\n| Dm9 | G13 |\n")
    show(window, qtbot, SheetPage)
    rest(window, view, qtbot)
    assert view.state.sheet is not None and view.state.sheet.title == "Other"
    undo(window, qtbot)
    rest(window, view, qtbot)
    assert view.state.sheet.title == "Lantern Ferry"


def test_an_empty_song_says_what_to_do(window: Window, view: SheetPage, qtbot: QtBot) -> None:
    type_chart(window, qtbot, "title: None\nkey: C\n")
    show(window, qtbot, SheetPage)
    qtbot.wait(50)
    if not window.document.song.slots:
        assert "type a chart" in view.paper.said and view.state.sheet is None
        assert not view.commands["save-sheet"].enabled()


@pytest.mark.long
def test_it_is_saved_copied_and_printed(
    window: Window, view: SheetPage, qtbot: QtBot, tmp_path: Path
) -> None:
    view.printing.save_to(tmp_path / "crib.pdf")
    assert len(pypdf.PdfReader(tmp_path / "crib.pdf").pages) == 2
    assert "crib.pdf" in view.side.words.text()
    view.printing.save_to(tmp_path / "crib.png")
    assert (tmp_path / "crib.png").exists() and (tmp_path / "crib-2.png").exists()
    said: list[object] = []
    view.said.connect(said.append)
    view.printing.save_to(tmp_path / "no" / "crib.pdf")
    assert said and not (tmp_path / "no").exists()
    click(qtbot, button(view, "Copy as a picture (Y)"))
    image = QGuiApplication.clipboard().image()
    assert abs(image.width() / image.height() - 210 / 297) < 0.01
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "printed.pdf"))
    view.printing.print_with(printer)
    assert len(pypdf.PdfReader(tmp_path / "printed.pdf").pages) == 2


@pytest.mark.long
@pytest.mark.parametrize(
    ("kind", "rows"), [(HingesPage, "Aadd9"), (TakesPage, "First take"), (RhythmPage, "Aadd9")]
)
@pytest.mark.parametrize("suffix", ["pdf", "svg", "png"])
def test_what_a_page_draws_is_saved_whole_and_in_light_colours(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, kind: type[Page],
    rows: str, suffix: str,
) -> None:  # fmt: skip
    settle(window, qtbot)
    window.commands["theme"].run()
    show(window, qtbot, kind)
    settle(window, qtbot)
    qtbot.wait(100)
    path = tmp_path / f"drawn.{suffix}"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    window.commands["save-drawing"].run()
    assert f"Saved as {path}" in window.message.text.text()
    if suffix == "pdf":
        found = pypdf.PdfReader(path)
        assert rows in " ".join(page.extract_text() for page in found.pages)
        assert worn().name == "dark"
    elif suffix == "svg":
        assert rows in path.read_text("utf-8") and QSvgRenderer(str(path)).isValid()
    else:
        image = QImage(str(path))
        assert image.pixelColor(2, 2).name() == "#ffffff"
        seen = {image.pixelColor(x, y).name() for x in range(0, image.width(), 5) for y in range(0, 1200, 5)}
        assert DARK.raised not in seen and len(seen) > 5


def test_a_page_that_draws_nothing_saves_none(window: Window, qtbot: QtBot) -> None:
    settle(window, qtbot)
    show(window, qtbot, SheetPage)
    assert not window.commands["save-drawing"].enabled() and window.page.picture() is None
    type_chart(window, qtbot, "title: None\nkey: C\n")
    show(window, qtbot, RhythmPage)
    if not window.document.song.slots:
        assert not window.commands["save-drawing"].enabled() and window.page.picture() is None


@pytest.mark.parametrize(
    ("title", "strange"), [("Quay ♯ Λ", ""), ("Quay \U000f1234\U000f1234", "\U000f1234")]
)
def test_letters_that_no_face_has_are_said(
    view: SheetPage, qtbot: QtBot, tmp_path: Path, title: str, strange: str
) -> None:
    for kind in ("crib", "lead"):
        words = f"melody: C5:4 | C5:4\nlyrics: {title.split()[1]} | on\n"
        song = song_of(f"title: {title}\nkey: C\n[A]\n| C | F |\n{words}")
        sheet = sheet_of(song, LIBRARY, kind, Options(), QtPress().metrics())
        assert strange_letters(sheet) == strange
    view.state.sheet = sheet
    said: list[tuple[Problem, ...]] = []
    view.said.connect(said.append)
    view.printing.save_to(tmp_path / "lead.svg")
    assert [row[0].what[:27] for row in said] == (["no face on this machine has"] if strange else [])


LONG = """title: A very long title that goes on about lanterns, ferries and the slow river in the evening
composer: Somebody With A Very Long Name And Several Surnames
key: Gb
meter: 6/8
[The verse that has a very long name, as arrangers write them down for a band when nobody asks them to] x2
| Gbmaj9#11/Ab | Ebm7b5(b9):3 Abbm7b5:3 | Bbb//Cb7 | Cbm(maj7)/Ebb |
melody: Db5:1 Eb5:1 F5:1 Gb5:1 Ab5:1 Bb5:1 | Db6:6 | Gb4:2 Bb4:2 Db5:2 | Cb5:6
lyrics: ex-tra-or-di-na-ry | moon- | light on wa- | ter
lyrics: and an-oth-er verse now | here | so it goes | on
[Bridge with another extraordinarily long name]
| Gb7alt | Cb69/Gb | N.C. | Dbsus |
"""
#: Ink may go so far into the margin: the brace of a score stands before its staves.
_INTO_MM = 3.6


@pytest.mark.long
@pytest.mark.parametrize("options", [Options(), Options(paper="a5", large=True, degrees=True, numbers=True)])
@pytest.mark.parametrize("kind", KIND_IDS)
def test_no_ink_lies_outside_the_margins(kind: str, options: Options, qtbot: QtBot) -> None:
    """Whatever is long."""
    song = voice_song(song_of(LONG), LIBRARY, Planner(LIBRARY)).song
    sheet, dots = sheet_of(song, LIBRARY, kind, options, QtPress().metrics()), 5
    for page in sheet.pages:
        image = page_image(page, dots)
        edge = round((MARGIN_MM - _INTO_MM) * dots)
        wide, high = image.width(), image.height()
        around = [QRect(0, 0, wide, edge), QRect(0, high - edge, wide, edge), QRect(0, 0, edge, high),
                  QRect(wide - edge, 0, edge, high)]  # fmt: skip
        for strip in (image.copy(box) for box in around):
            blank = QImage(strip.size(), strip.format())
            blank.fill(0xFFFFFFFF)
            assert strip == blank


@pytest.mark.long
@pytest.mark.parametrize("kind", KIND_IDS)
def test_a_pdf_has_its_size_its_faces_and_its_words(kind: str, qtbot: QtBot) -> None:
    song = demo_song("salt-stairs")
    sheet = sheet_of(song, LIBRARY, kind, Options(paper="a5"), QtPress().metrics())
    found = pypdf.PdfReader(io.BytesIO(pdf_bytes(sheet)))
    assert found.metadata is not None and found.metadata.title == sheet.title
    assert len(found.pages) == len(sheet.pages)
    for page in found.pages:
        size = [float(side) / 72 * 25.4 for side in (page.mediabox.width, page.mediabox.height)]
        assert size == pytest.approx(PAPERS["a5"], abs=0.5)
        fonts = page["/Resources"]["/Font"]  # type: ignore[index]
        for font in fonts.values():
            inner = font.get_object()["/DescendantFonts"][0].get_object()
            assert "/FontFile2" in inner["/FontDescriptor"].get_object()
    text = " ".join(page.extract_text() for page in found.pages)
    assert "Salt Stairs" in text
    assert ("phrase" if kind == "practice" else "E♭maj9") in "".join(text.split())


def test_svg_and_png_show_the_same_page(qtbot: QtBot) -> None:
    sheet = sheet_of(demo_song("lantern-ferry"), LIBRARY, "crib", Options(), QtPress().metrics())
    page = sheet.pages[0]
    root = ET.fromstring(svg_bytes(page, sheet.title))
    words = ["".join(one.itertext()).strip() for one in root.iter("{http://www.w3.org/2000/svg}text")]
    assert "Lantern Ferry" in words and "Aadd9" in words and "C♯m11" in "".join(words)
    image = QImage.fromData(png_bytes(page, sheet.title))
    assert (image.width(), image.height()) == (1654, 2339)
    dark = sum(image.pixelColor(x, y).lightness() < 100 for x in range(0, 1654, 7) for y in range(0, 2339, 7))
    assert dark > 300


def test_black_and_white_has_no_colour(qtbot: QtBot) -> None:
    assert all(color.saturation() == 0 for color in inks(True).values())
    sheet = sheet_of(demo_song("lantern-ferry"), LIBRARY, "crib", Options(plain=True), QtPress().metrics())
    image = QImage.fromData(png_bytes(sheet.pages[0], "", plain=True))
    colours = {image.pixelColor(x, y).saturation() for x in range(0, 1654, 5) for y in range(0, 2339, 5)}
    assert colours == {0}


@pytest.mark.long
def test_one_grip_or_a_formula_in_all_keys(window: Window, view: SheetPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_K)
    rest(window, view, qtbot)
    assert view.state.sheet is not None and len(view.state.sheet.pages) > 3
    place = next(
        k
        for k in range(view.side.shape_box.count())
        if view.side.shape_box.itemText(k).startswith("the grip of")
    )
    pick(qtbot, view.side.shape_box, view.side.shape_box.itemData(place))
    rest(window, view, qtbot)
    assert len(view.state.sheet.pages) == 1
    pick(qtbot, view.side.shape_box, "two-five-one")
    rest(window, view, qtbot)
    assert "in all keys" in view.state.sheet.title and len(view.state.sheet.pages) >= 2


def test_a_sheet_is_written_in_the_readers_names(window: Window, qtbot: QtBot) -> None:
    settle(window, qtbot)
    page = show(window, qtbot, SheetPage)
    made = lambda: page.state.sheet is not None and not page.state.stale and not page.worker.running  # noqa: E731
    qtbot.waitUntil(made, timeout=60_000)
    assert "C♯m11" in repr(page.state.sheet)
    try:
        click_in_menu(qtbot, menu_within(window.menus["View"], "Note names"), "do re mi fa sol la si")
        settle(window, qtbot)
        qtbot.waitUntil(made, timeout=60_000)
        assert "Do♯m11" in repr(page.state.sheet) and "C♯m11" not in repr(page.state.sheet)
    finally:
        window.looks.name_as("letters")


def menu_within(menu: QMenu, name: str) -> QMenu:
    """A further menu in a menu."""
    found = next(one.menu() for one in menu.actions() if one.text() == name)
    assert isinstance(found, QMenu)
    return found
