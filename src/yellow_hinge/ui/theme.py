"""Colours, type and the style sheet. Brass yellow means "held" and nothing else."""

from __future__ import annotations

import re
from contextlib import contextmanager
from functools import lru_cache
from importlib.resources import files
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtCore import QLoggingCategory, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF, QPainter, QPalette
from PySide6.QtWidgets import QApplication

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from PySide6.QtWidgets import QWidget

FAMILIES = ["Atkinson Hyperlegible Next", "Yellow Hinge Signs"]
_FONT_FILES = (
    "AtkinsonHyperlegibleNext-Regular.ttf",
    "AtkinsonHyperlegibleNext-SemiBold.ttf",
    "YellowHingeSigns.ttf",
)
BASE_POINT_SIZE = 10.5


class Theme(Struct, frozen=True):
    """One set of colours, as #rrggbb. ``left`` and ``right`` are the hands."""

    name: str
    ground: str
    surface: str
    raised: str
    ink: str
    muted: str
    line: str
    held: str
    left: str
    left_soft: str
    right: str
    right_soft: str
    on_hand: str
    wrong: str
    key_white: str
    key_black: str


LIGHT = Theme(
    "light", "#e6e3dc", "#f4f2ed", raised="#fbfaf7", ink="#25282c", muted="#5a5f66", line="#c8c3b8",
    held="#c4930a",
    left="#0f6466", left_soft="#cfe3e0", right="#7b2d6c", right_soft="#ecd9e7", on_hand="#ffffff",
    wrong="#a2331b", key_white="#fdfcfa", key_black="#43474d",
)  # fmt: skip
DARK = Theme(
    "dark", "#1b1d20", "#24272b", raised="#2d3136", ink="#ece8df", muted="#a8aba7", line="#41464c",
    held="#e4b43c",
    left="#5bbcb3", left_soft="#22403f", right="#d592c9", right_soft="#46303f", on_hand="#14171a",
    wrong="#ef9078", key_white="#d9d6cf", key_black="#33373c",
)  # fmt: skip
THEMES = {theme.name: theme for theme in (LIGHT, DARK)}
#: What the application wears: one theme, as its palette is one, so that nothing that paints has to be told.
_worn = {"theme": LIGHT}


def worn() -> Theme:
    """The theme that is in force."""
    return _worn["theme"]


@contextmanager
def wearing(theme: Theme) -> Iterator[None]:
    """What is painted within is painted in these colours, whatever the window wears."""
    before = worn()
    _worn["theme"] = theme
    try:
        yield
    finally:
        _worn["theme"] = before


def color(role: str) -> QColor:
    """A colour of the theme that is in force, by its field name."""
    return QColor(getattr(worn(), role))


#: What is written with, and on which grounds: each pair has a contrast of 4.5 to 1 at least.
TEXT_ON: dict[str, tuple[str, ...]] = {
    "ink": ("ground", "surface", "raised", "left_soft", "right_soft"),
    "muted": ("ground", "surface", "raised"),
    "wrong": ("ground", "surface", "raised"),
    "left": ("ground", "surface", "raised"),
    "right": ("ground", "surface", "raised"),
    "surface": ("ink",),
    "raised": ("ink",),
    "on_hand": ("left", "right"),
    "key_black": ("key_white",),
}


def load_fonts() -> None:
    """Register the faces that ship with the application."""
    QLoggingCategory.setFilterRules("qt.text.font.db=false")  # says of each face what it has not
    folder = files("yellow_hinge.ui") / "fonts"
    for name in _FONT_FILES:
        QFontDatabase.addApplicationFontFromData((folder / name).read_bytes())


#: Sizes of text that can be chosen, as shares of the usual one.
TEXT_SCALES = (1.0, 1.25, 1.5, 1.75, 2.0)
_text = {"scale": 1.0}


def text_scale() -> float:
    """How large text is now, as a share of the usual size."""
    return _text["scale"]


def set_text_scale(app: QApplication, scale: float) -> None:
    """Text of another size; what is visible has to be dressed anew, and painted."""
    _text["scale"] = scale
    app.setFont(font())


def scaled(px: float) -> int:
    """A length that has to hold text, in pixels, at the size that text has now."""
    return round(px * text_scale())


def font(scale: float = 1.0, bold: bool = False) -> QFont:
    """The application's face with tabular figures, at the size that text has now."""
    return drawn_font(scale * text_scale(), bold)


def drawn_font(scale: float = 1.0, bold: bool = False) -> QFont:
    """The same face for what stands in a drawing of fixed size."""
    made = QFont()
    made.setFamilies(FAMILIES)
    made.setPointSizeF(BASE_POINT_SIZE * scale)
    made.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    made.setFeature(QFont.Tag("tnum"), 1)
    return made


@lru_cache(maxsize=4096)
def _fitting_scale(word: str, scale: float, width: int, bold: bool) -> float:
    """The largest scale, from ``scale`` down to a half, at which the word fits."""
    while scale > 0.5:
        if QFontMetricsF(drawn_font(scale, bold)).horizontalAdvance(word) <= width:
            return scale
        scale -= 0.06
    return 0.5


def fitting_font(word: str, scale: float, width: float, bold: bool = True) -> QFont:
    """The face at the largest scale, from ``scale`` at the size that text has now down to a half of the
    usual one, at which the word fits."""
    return drawn_fitting_font(word, scale * text_scale(), width, bold)


def drawn_fitting_font(word: str, scale: float, width: float, bold: bool = True) -> QFont:
    """The same for what stands in a drawing of fixed size."""
    return drawn_font(_fitting_scale(word, scale, int(width), bold), bold)


def cut(painter: QPainter, words: str, width: float) -> str:
    """Words in the painter's face, cut where they have no room."""
    return painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(width))


def make_application(arguments: Sequence[str] = ()) -> QApplication:
    """The application, or the one there is. Its style is said here: asked for later it comes with its tables
    of all there is to draw, which nobody looks into."""
    there = QApplication.instance()
    if isinstance(there, QApplication):
        return there
    return QApplication(["yellow-hinge", "-style", "Fusion", *arguments])


def apply(app: QApplication, theme: Theme) -> None:
    """Give the whole application the colours of this theme; :func:`dress` does what is visible."""
    if not app.property("dressed"):  # each of these goes through every widget
        app.setProperty("dressed", True)
        app.setFont(font())
    _worn["theme"] = theme
    palette = QPalette()
    for role, name in (
        (QPalette.ColorRole.Window, "ground"),
        (QPalette.ColorRole.Base, "raised"),
        (QPalette.ColorRole.AlternateBase, "surface"),
        (QPalette.ColorRole.Button, "surface"),
        (QPalette.ColorRole.ToolTipBase, "ink"),
        (QPalette.ColorRole.ToolTipText, "surface"),
        (QPalette.ColorRole.Text, "ink"),
        (QPalette.ColorRole.WindowText, "ink"),
        (QPalette.ColorRole.ButtonText, "ink"),
        (QPalette.ColorRole.PlaceholderText, "muted"),
        (QPalette.ColorRole.Light, "raised"),
        (QPalette.ColorRole.Mid, "line"),
        (QPalette.ColorRole.Dark, "muted"),
        (QPalette.ColorRole.Accent, "ink"),
        (QPalette.ColorRole.Highlight, "ink"),
        (QPalette.ColorRole.HighlightedText, "surface"),
    ):
        palette.setColor(role, color(name))
    app.setPalette(palette)


def dress(widget: QWidget) -> None:
    """Give a widget and all in it the style of the theme in force. A sheet for the whole application would go
    through every widget of every page at once, which takes a fifth of a second."""
    widget.setStyleSheet(_style_sheet(worn(), text_scale()))


@lru_cache(maxsize=12)
def _style_sheet(theme: Theme, scale: float) -> str:
    sheet = re.sub(r"([\d.]+)pt", lambda size: f"{float(size[1]) * scale:g}pt", _SHEET)
    for name in sorted(theme.__struct_fields__, key=len, reverse=True):
        sheet = sheet.replace(f"@{name}", getattr(theme, name))
    return sheet


_SHEET = """
QWidget { color: @ink; }
QMainWindow, QWidget#page { background: @ground; }
QWidget#panel { background: @surface; border: 1px solid @line; border-radius: 6px; }
QLabel#heading { font-weight: 600; }
QLabel#title { font-size: 15pt; font-weight: 600; }
QLabel#quiet, QCheckBox#quiet { color: @muted; }
QLabel#wrong { color: @wrong; font-weight: 600; }
QLabel#figure { font-size: 17pt; font-weight: 600; }
QPushButton, QToolButton { background: @raised; border: 1px solid @line; border-radius: 5px;
  padding: 5px 11px; }
QPushButton:hover, QToolButton:hover { border-color: @muted; }
QPushButton:pressed, QPushButton:checked, QToolButton:checked { background: @ink; color: @surface;
  border-color: @ink; }
QPushButton:disabled { color: @muted; background: @surface; }
QPushButton:focus, QPlainTextEdit:focus, QListView:focus,
QToolButton:focus { border: 2px solid @ink; }
QPushButton#first { border: 2px solid @ink; font-weight: 600; padding: 4px 10px; }
QPushButton#first:disabled { border: 1px solid @line; font-weight: 400; }
QPushButton#take { padding: 2px 8px; }
QPushButton#face { padding: 3px 2px; font-size: 9pt; border-radius: 0; }
QListWidget::item { padding: 3px; }
QWidget#bare { background: transparent; }
QPushButton#place { border: none; border-radius: 0; background: transparent; text-align: left;
  padding: 12px 14px; font-size: 12pt; border-left: 4px solid transparent; }
QPushButton#place:checked { background: @ground; color: @ink; border-left: 4px solid @ink;
  font-weight: 600; }
QPushButton#place:focus { border: none; border-left: 4px solid @muted; text-decoration: underline; }
QScrollArea#rail { background: @surface; border-right: 1px solid @line; }
QWidget#transport { background: @surface; border-top: 1px solid @line; }
QPlainTextEdit { font-size: 11.5pt;
  background: @raised; border: 1px solid @line; border-radius: 6px; padding: 8px;
  selection-background-color: @ink; selection-color: @surface; }
QListView { background: @raised; border: 1px solid @line; border-radius: 6px; outline: none; }
QScrollArea { border: none; background: transparent; }
QMenuBar { background: @surface; border-bottom: 1px solid @line; }
QMenuBar::item { padding: 4px 10px; background: transparent; }
QMenuBar::item:selected, QMenu::item:selected { background: @ink; color: @surface; }
QMenu { background: @raised; border: 1px solid @line; padding: 4px; }
QMenu::item { padding: 5px 26px 5px 14px; }
QMenu::item:disabled { color: @muted; }
QToolTip { background: @ink; color: @surface; border: none; padding: 4px 6px; }
QProgressBar { background: @ground; border: 1px solid @line; border-radius: 4px; height: 8px; }
QProgressBar::chunk { background: @muted; border-radius: 3px; }
QSlider::groove:horizontal { height: 4px; background: @line; border-radius: 2px; }
QSlider::handle:horizontal { width: 14px; margin: -6px 0; border-radius: 7px; background: @ink; }
QScrollBar:vertical { width: 10px; background: transparent; }
QScrollBar::handle:vertical { background: @line; border-radius: 5px; min-height: 24px; }
QScrollBar:horizontal { height: 10px; background: transparent; }
QScrollBar::handle:horizontal { background: @line; border-radius: 5px; min-width: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QCheckBox { spacing: 6px; }
"""
