"""What stands in place of a page while there is no song: what the page is for, and the act to begin."""

from __future__ import annotations

import re

from PySide6.QtCore import QByteArray, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QVBoxLayout, QWidget

from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.quiet import Ground
from yellow_hinge.ui.theme import color, scaled
from yellow_hinge.ui.words import Words

#: Pixels that a sentence is wide.
_SENTENCE = 480
#: Colours in a picture by their names in the theme.
_COLOUR = re.compile(r'"(ink|muted|line|raised|held|left|right|left_soft|right_soft)"')


class Picture(QWidget):
    """A drawing that ships, in the colours of the theme."""

    def __init__(self) -> None:
        super().__init__()
        self._svg = ""

    def show_svg(self, svg: str) -> None:
        self._svg = svg
        self.setVisible(bool(svg))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(scaled(320), scaled(150))

    def paintEvent(self, _: QPaintEvent) -> None:
        painted = _COLOUR.sub(lambda match: f'"{color(match[1]).name()}"', self._svg)
        renderer = QSvgRenderer(QByteArray(painted.encode()))
        size = renderer.defaultSize().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        box = QRectF((self.width() - size.width()) / 2, 0, size.width(), size.height())
        painter = QPainter(self)
        renderer.render(painter, box)
        painter.end()


class EmptyFace(Ground):
    """One for all pages: its name, a picture, a sentence, and where a song comes from."""

    def __init__(self, commands: CommandList, *ways: str) -> None:
        super().__init__("page")
        self.name, self.sentence = kit.label("title", wraps=False), Words()
        self.sentence.setFixedWidth(scaled(_SENTENCE))
        self.sentence.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.picture = Picture()
        self.picture.setFixedSize(self.picture.sizeHint())
        self.buttons = [kit.button(commands, way, "" if place else "first") for place, way in enumerate(ways)]
        layout = QVBoxLayout(self)
        layout.addStretch(2)
        for widget in (self.picture, self.name, self.sentence):
            layout.addWidget(widget, 0, Qt.AlignmentFlag.AlignHCenter)
        row = kit.row(*self.buttons)
        row.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        layout.addSpacing(scaled(12))
        layout.addLayout(row)
        layout.addStretch(3)

    def show_page(self, name: str, words: str, svg: str) -> None:
        """What a page is for: the first sentence of what is said of it."""
        sentence = re.split(r"(?<=[.:])\s", words.replace("**", ""), maxsplit=1)[0].rstrip(":.")
        self.name.setText(name)
        self.sentence.setText(f"{sentence}. There is no song yet: write or open one first.")
        self.picture.show_svg(svg)
