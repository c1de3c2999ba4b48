"""The form as it was read: sections as ribbons of bars, as wide as they last, chords in them."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from yellow_hinge.song.chart import Chart
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol, pretty_symbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pretty import pretty_accidentals
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.pages.song.form_state import FormBar, FormLine, form_lines
from yellow_hinge.ui.theme import color, drawn_fitting_font, drawn_font, scaled

_RIBBON, _HEADING, _GAP, _CHANGE, _WORDS = 46, 24, 12, 15, 16
_LEAST_CHORD = 46


class FormView(Painted):
    """Painted from the song alone; grows as tall as the form needs."""

    enlarged = True

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._song = Song()
        self._lines: tuple[Chart, int, list[FormLine]] | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.setAccessibleName("The form as it was read")

    def show_song(self, song: Song) -> None:
        self._song = song
        self._grow()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._grow()

    def sizeHint(self) -> QSize:
        return QSize(scaled(420), scaled(self._height()))

    def _grow(self) -> None:
        self.setMinimumHeight(scaled(self._height()))

    def _height(self) -> int:
        return 8 + sum(int(_height_of(line)) for line in self.lines())

    def lines(self) -> list[FormLine]:
        """What is shown at the present width."""
        chart, columns = self._song.chart, max(1, int((self.wide - 8) // _LEAST_CHORD))
        if self._lines is None or self._lines[0] is not chart or self._lines[1] != columns:
            self._lines = chart, columns, form_lines(chart, columns)
        return self._lines[2]

    def paint(self, painter: QPainter, seen: QRect) -> None:
        y = 2.0
        for line in self.lines():
            height = _height_of(line)
            if y <= seen.bottom() and y + height >= seen.top():
                self._paint_line(painter, line, y)
            y += height

    def _paint_line(self, painter: QPainter, line: FormLine, y: float) -> None:
        if line.heading:
            painter.setFont(drawn_font(1.0, bold=True))
            painter.setPen(color("ink"))
            painter.drawText(QPointF(2, y + 15), line.heading)
            y += _HEADING
        above, x = _CHANGE if line.changes else 0, 2.0
        for bar in line.bars:
            width = (self.wide - 4) * bar.share
            self._paint_over(painter, bar, QRectF(x, y, width, above))
            self._paint_bar(painter, bar, QRectF(x, y + above, width, _RIBBON))
            x += width

    def _paint_over(self, painter: QPainter, bar: FormBar, box: QRectF) -> None:
        """An ending as a bracket with its number; what changes in the bar beside it."""
        if box.height() == 0:
            return
        painter.setPen(QPen(color("muted"), 1.2))
        words = "  ".join(filter(None, (bar.ending, bar.change)))
        if bar.ending:
            painter.drawLine(box.topLeft(), box.topRight() - QPointF(8, 0))
            painter.drawLine(box.topLeft(), box.bottomLeft())
        if words:
            painter.setPen(color("ink"))
            inner = box.adjusted(5, 1, 0, 0)
            painter.setFont(drawn_fitting_font(words, 0.82, inner.width()))
            painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_bar(self, painter: QPainter, bar: FormBar, box: QRectF) -> None:
        painter.setPen(QPen(color("muted"), 1.4))
        painter.drawLine(box.topLeft() + QPointF(0, 2), box.bottomLeft())
        painter.setFont(drawn_font(0.72))
        painter.setPen(color("muted"))
        if bar.number:
            painter.drawText(box.bottomLeft() + QPointF(4, 0), str(bar.number))
        x = box.x()
        total = float(sum(at.beats for at in bar.bar.chords)) or 1.0
        for at in bar.bar.chords:
            share = box.width() * float(at.beats) / total
            self._paint_chord(painter, QRectF(x, box.y(), share, _RIBBON), at.chord, bar.bar.key)
            x += share
        for row, words in enumerate(bar.words):
            self._paint_words(painter, QRectF(box.x() + 4, box.bottom() + 2 + row * _WORDS,
                                              box.width() - 6, _WORDS), words)  # fmt: skip

    def _paint_words(self, painter: QPainter, box: QRectF, words: str) -> None:
        painter.setPen(color("ink"))
        painter.setFont(drawn_fitting_font(words, 0.85, box.width(), bold=False))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_chord(self, painter: QPainter, box: QRectF, chord: ChordSymbol | None, key: Key) -> None:
        symbol = pretty_symbol(chord)
        number = "" if chord is None else pretty_accidentals(self._song.number_of(chord, key))
        inner = box.adjusted(6, 0, -3, 0)
        for words, size, role, top in ((symbol, 1.12, "ink", 0), (number, 0.82, "muted", 19)):
            painter.setFont(drawn_fitting_font(words, size, inner.width(), bold=role == "ink"))
            painter.setPen(color(role))
            place = QRectF(inner.x(), inner.y() + top, inner.width(), 20)
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, words)


def _height_of(line: FormLine) -> float:
    over = (_HEADING if line.heading else 0) + (_CHANGE if line.changes else 0)
    return over + _RIBBON + line.rows * _WORDS + _GAP
