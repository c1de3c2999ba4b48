"""Painting sheets: on the screen, into PDF, SVG and PNG, and on paper, all by the same hand."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import lru_cache
from html import unescape
from math import ceil
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import (
    QBuffer,
    QByteArray,
    QIODevice,
    QMarginsF,
    QPointF,
    QRect,
    QRectF,
    QSize,
    QSizeF,
    Qt,
)
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontMetricsF,
    QGuiApplication,
    QImage,
    QPagedPaintDevice,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QPen,
    QTextLayout,
)
from PySide6.QtSvg import QSvgGenerator, QSvgRenderer

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.files import write_atomically
from yellow_hinge.sheet.page import (
    GAP_MM,
    POINT_MM,
    Block,
    Box,
    Disc,
    Filler,
    Ink,
    Item,
    Options,
    Page,
    Picture,
    Rule,
    Sheet,
    Text,
)
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.theme import FAMILIES, LIGHT, load_fonts, text_scale, wearing

if TYPE_CHECKING:
    from PySide6.QtPrintSupport import QPrinter

#: Everything is drawn in these units and scaled: fine enough for any face.
UNITS_MM = 40.0
_SVG_WORDS = re.compile(r">([^<>]+)<")
_PDF_DPI, _PNG_DPI, _SCREEN_DPI = 1200, 200, 96
#: How large a pixel of the window is on paper: smaller than on the screen, where one sits further away.
_DOT_MM = 25.4 / _SCREEN_DPI * 0.75
#: As the dialogs that save drawings and sheets list them.
FORMATS = "PDF, all pages (*.pdf);;SVG, a file for each page (*.svg);;PNG, a picture of each page (*.png)"
SUFFIXES = (".pdf", ".svg", ".png")


def inks(plain: bool) -> dict[Ink, QColor]:
    """Colours of a printed page; ``plain`` has black and white alone."""
    if plain:
        black, white = QColor("#000000"), QColor("#ffffff")
        return {"ink": black, "quiet": black, "line": black, "left": black, "right": black, "held": white,
                "paper": white, "soft": QColor("#555555")}  # fmt: skip
    return {
        "ink": QColor("#16181b"), "quiet": QColor("#4d5259"), "line": QColor("#9a968c"),
        "left": QColor(LIGHT.left), "right": QColor(LIGHT.right), "held": QColor("#e0b02c"),
        "paper": QColor("#ffffff"), "soft": QColor("#3a3e44"),
    }  # fmt: skip


@lru_cache(maxsize=512)
def _font(size: float, bold: bool, italic: bool) -> QFont:
    made = QFont()
    made.setFeature(QFont.Tag("tnum"), 0)  # figures of another form are not found again in a PDF
    made.setFamilies(FAMILIES)
    made.setPixelSize(max(1, round(size * POINT_MM * UNITS_MM)))
    made.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    made.setItalic(italic)
    made.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return made


class FontMetrics:
    """How wide words are in the face of the application. There has to be an application."""

    def __init__(self) -> None:
        self._known: dict[tuple[str, float, bool], float] = {}

    def width_mm(self, words: str, size: float, bold: bool = False) -> float:
        """The width of words of a size in points."""
        key = (words, size, bold)
        if key not in self._known:
            self._known[key] = QFontMetricsF(_font(size, bold, False)).horizontalAdvance(words) / UNITS_MM
        return self._known[key]


class PagePainter:
    """Paints pages with a painter that counts in millimetres times :data:`UNITS_MM`."""

    def __init__(self, plain: bool = False) -> None:
        self._inks = inks(plain)

    def paint(self, painter: QPainter, page: Page) -> None:
        """One page at the painter's origin."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for item in page.items:
            self._one(painter, item)

    def _one(self, painter: QPainter, item: Item) -> None:
        if isinstance(item, Text):
            self._text(painter, item)
        elif isinstance(item, Rule):
            painter.setPen(self._pen(item.ink, item.width))
            painter.drawLine(_point(item.x1, item.y1), _point(item.x2, item.y2))
        elif isinstance(item, Box):
            self._outlined(painter, item.fill, item.outline, item.width)
            box = QRectF(_point(item.x, item.y), QSizeF(item.w * UNITS_MM, item.h * UNITS_MM))
            painter.drawRoundedRect(box, item.round * UNITS_MM, item.round * UNITS_MM)
        elif isinstance(item, Disc):
            self._outlined(painter, item.fill, item.outline, item.width)
            painter.drawEllipse(_point(item.x, item.y), item.radius * UNITS_MM, item.radius * UNITS_MM)
        else:
            self._picture(painter, item)

    def _pen(self, ink: Ink, width: float) -> QPen:
        return QPen(self._inks[ink], width * UNITS_MM)

    def _outlined(self, painter: QPainter, fill: Ink | None, outline: Ink | None, width: float) -> None:
        painter.setPen(Qt.PenStyle.NoPen if outline is None else self._pen(outline, width))
        painter.setBrush(Qt.BrushStyle.NoBrush if fill is None else self._inks[fill])

    def _text(self, painter: QPainter, item: Text) -> None:
        font = _font(item.size, item.bold, item.italic)
        painter.setFont(font)
        painter.setPen(self._inks[item.ink])
        x = item.x * UNITS_MM
        if item.side != "left":
            wide = QFontMetricsF(font).horizontalAdvance(item.words)
            x -= wide if item.side == "right" else wide / 2
        painter.drawText(QPointF(x, item.y * UNITS_MM), item.words)

    def _picture(self, painter: QPainter, item: Picture) -> None:
        box = QRectF(_point(item.x, item.y), QSizeF(item.w * UNITS_MM, item.h * UNITS_MM))
        _drawing(item.svg).render(painter, box)


@lru_cache(maxsize=64)
def _drawing(svg: bytes) -> QSvgRenderer:
    return QSvgRenderer(QByteArray(svg))


def _point(x: float, y: float) -> QPointF:
    return QPointF(x * UNITS_MM, y * UNITS_MM)


# --- files ---------------------------------------------------------------------------------------


class QtPress:
    """Puts sheets into files with the faces of the application."""

    def check(self, path: Path) -> None:
        """Raise :class:`BadInput` for a file of no format that sheets are written in."""
        if path.suffix.lower() not in SUFFIXES:
            what = f"{path.suffix or 'no suffix'} is no format that sheets are written in"
            raise BadInput(Problem(str(path), what, f"use {', '.join(SUFFIXES)}"))

    def metrics(self) -> FontMetrics:
        ensure_application()
        return FontMetrics()

    def strange(self, sheet: Sheet) -> str:
        """As :func:`strange_letters`."""
        ensure_application()
        return strange_letters(sheet)

    def write(self, sheet: Sheet, path: Path, plain: bool = False) -> tuple[Path, ...]:
        """As :func:`write_sheet`."""
        self.check(path)
        ensure_application()
        return write_sheet(sheet, path, plain)


def write_sheet(sheet: Sheet, path: Path, plain: bool = False) -> tuple[Path, ...]:
    """Write a sheet in the format of the suffix: one PDF, or an SVG or PNG for each page (the second is
    NAME-2). Each file is written whole or not at all. Raises :class:`FileTrouble`. There has to be an
    application."""
    suffix = path.suffix.lower()
    if suffix == ".pdf":
        write_atomically(path, pdf_bytes(sheet, plain))
        return (path,)
    made = svg_bytes if suffix == ".svg" else png_bytes
    data = [made(page, sheet.title, plain) for page in sheet.pages]
    paths = [path] + [path.with_stem(f"{path.stem}-{number}") for number in range(2, len(data) + 1)]
    for own, one in zip(paths, data, strict=True):
        write_atomically(own, one)
    return tuple(paths)


def strange_letters(sheet: Sheet) -> str:
    """Letters of a sheet that no face of this machine has, each once: they would be printed as boxes."""
    letters: set[str] = set()
    for page in sheet.pages:
        for item in page.items:
            if isinstance(item, Text):
                letters.update(item.words)
            elif isinstance(item, Picture):
                for words in _SVG_WORDS.findall(item.svg.decode("utf-8", "replace")):
                    letters.update(unescape(words))
    usual = {chr(code) for code in range(0x250)}
    return "".join(sorted(letter for letter in letters - usual if not _is_known(letter)))


@lru_cache(maxsize=4096)
def _is_known(letter: str) -> bool:
    """Whether some face has a letter; its own, or another that Qt falls back to."""
    layout = QTextLayout(letter, _font(10, False, False))
    layout.beginLayout()
    layout.createLine()
    layout.endLayout()
    return all(glyph for run in layout.glyphRuns() for glyph in run.glyphIndexes())


def ensure_application() -> None:
    """Faces need an application; on a machine without a display one that shows nothing."""
    if QGuiApplication.instance() is None:
        import os  # noqa: PLC0415

        if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
            os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        _kept.append(QGuiApplication([]))
        load_fonts()


_kept: list[QGuiApplication] = []


def pdf_bytes(sheet: Sheet, plain: bool = False) -> bytes:
    """All pages as a PDF with its faces inside, so that its text can be searched."""
    data = QBuffer()
    data.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(data)
    writer.setTitle(sheet.title)
    writer.setCreator("Yellow Hinge")
    writer.setResolution(_PDF_DPI)
    _paint_pages(writer, sheet, plain, _PDF_DPI)
    return _with_blanks(bytes(data.data().data()))


def _with_blanks(pdf: bytes) -> bytes:
    """The same PDF with blanks among its words: Qt says that they are tabulators, and so two words in a row
    could not be found."""
    import io  # noqa: PLC0415 - with the library that only PDFs need

    from pypdf import PdfWriter  # noqa: PLC0415
    from pypdf.generic import StreamObject  # noqa: PLC0415

    found = PdfWriter(clone_from=io.BytesIO(pdf))
    for one in found._objects:
        known = one.get("/ToUnicode") if isinstance(one, dict) else None
        stream = None if known is None else known.get_object()
        if isinstance(stream, StreamObject):
            stream.set_data(stream.get_data().replace(b"<0009>", b"<0020>"))
    made = io.BytesIO()
    found.write(made)
    return made.getvalue()


def paint_on_printer(printer: QPrinter, sheet: Sheet, plain: bool = False) -> None:
    """The pages that the printer was asked for, each on a paper of its size."""
    first, last = printer.fromPage() or 1, printer.toPage() or len(sheet.pages)
    wanted = replace(sheet, pages=sheet.pages[first - 1 : last])
    printer.setFullPage(True)
    printer.setDocName(sheet.title)
    _paint_pages(printer, wanted, plain, printer.resolution())


def _paint_pages(device: QPagedPaintDevice, sheet: Sheet, plain: bool, dpi: float) -> None:
    painter, first = QPainter(), True
    for page in sheet.pages:
        size = QPageSize(QSizeF(page.width, page.height), QPageSize.Unit.Millimeter)
        across = page.width > page.height
        if across:
            size = QPageSize(QSizeF(page.height, page.width), QPageSize.Unit.Millimeter)
        way = QPageLayout.Orientation.Landscape if across else QPageLayout.Orientation.Portrait
        device.setPageLayout(QPageLayout(size, way, QMarginsF(0, 0, 0, 0)))
        if first:
            painter.begin(device)
        else:
            device.newPage()
        painter.save()
        painter.scale(dpi / 25.4 / UNITS_MM, dpi / 25.4 / UNITS_MM)
        PagePainter(plain).paint(painter, page)
        painter.restore()
        first = False
    painter.end()


def svg_bytes(page: Page, title: str, plain: bool = False) -> bytes:
    """A page as SVG; its words are text."""
    data = QBuffer()
    data.open(QIODevice.OpenModeFlag.WriteOnly)
    generator = QSvgGenerator()
    generator.setOutputDevice(data)
    generator.setTitle(title)
    generator.setResolution(round(25.4 * UNITS_MM))
    size = QSize(round(page.width * UNITS_MM), round(page.height * UNITS_MM))
    generator.setSize(size)
    generator.setViewBox(QRect(0, 0, size.width(), size.height()))
    painter = QPainter(generator)
    painter.fillRect(QRect(0, 0, size.width(), size.height()), QColor("#ffffff"))
    PagePainter(plain).paint(painter, page)
    painter.end()
    return bytes(data.data().data())


def png_bytes(page: Page, title: str, plain: bool = False) -> bytes:
    """A page as a picture, 200 dots to an inch."""
    image = page_image(page, _PNG_DPI / 25.4, plain)
    image.setText("Title", title)
    image.setDotsPerMeterX(round(_PNG_DPI / 0.0254))
    image.setDotsPerMeterY(round(_PNG_DPI / 0.0254))
    data = QBuffer()
    data.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(data, "PNG")  # type: ignore[call-overload] # bytes are not taken
    return bytes(data.data().data())


def drawn_sheet(view: Painted, title: str, joints: Sequence[float] = ()) -> Sheet:
    """A drawing of the window, all of it and in the light colours, on paper that lies across. What is wider
    is cut into rows at its ``joints``, places in its own pixels, or gets smaller where it has none."""
    filler = Filler(title, "", "", Options(across=True), FontMetrics())
    room = filler.inner / _DOT_MM
    whole = view.width() / (text_scale() if view.enlarged else 1.0)
    height = view.height() / (text_scale() if view.enlarged else 1.0)
    blocks = []
    for start, end in _rows(joints, whole, room):
        scale = min(1.0, room / (end - start)) * _DOT_MM
        picture = Picture(0, 0, (end - start) * scale, height * scale, _band(view, start, end, height))
        blocks.append(Block(picture.h + GAP_MM, (picture,)))
    filler.add(blocks)
    return filler.sheet()


def _rows(joints: Sequence[float], whole: float, room: float) -> Iterator[tuple[float, float]]:
    """From where to where each row of a drawing is: as many of its pieces as there is room for."""
    start = 0.0
    places = [*(place for place in joints if 0 < place < whole), whole]
    for place, behind in zip(places, [*places[1:], None], strict=True):
        if behind is None or behind - start > room:
            yield start, place
            start = place


def _band(view: Painted, start: float, end: float, height: float) -> bytes:
    """A stretch of a drawing as SVG."""
    data = QBuffer()
    data.open(QIODevice.OpenModeFlag.WriteOnly)
    generator = QSvgGenerator()
    generator.setOutputDevice(data)
    generator.setResolution(_SCREEN_DPI)  # so that letters are as large as on the screen
    box = QRect(0, 0, round(end - start), round(height))
    generator.setSize(box.size())
    generator.setViewBox(box)
    with wearing(LIGHT):
        painter = QPainter(generator)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(-start, 0)
        view.paint(painter, QRect(ceil(start) + 1, 0, box.width() - 2, box.height()))
        painter.end()
    # A family of faces in one string is none to those who draw it.
    return bytes(data.data().data()).replace(",".join(FAMILIES).encode(), FAMILIES[0].encode())


def page_image(page: Page, dots_mm: float, plain: bool = False) -> QImage:
    """A page with so many dots to a millimetre."""
    image = QImage(round(page.width * dots_mm), round(page.height * dots_mm), QImage.Format.Format_RGB32)
    image.fill(QColor("#ffffff"))
    painter = QPainter(image)
    painter.scale(dots_mm / UNITS_MM, dots_mm / UNITS_MM)
    PagePainter(plain).paint(painter, page)
    painter.end()
    return image
