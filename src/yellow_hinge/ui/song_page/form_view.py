"""The form as it was read: sections as ribbons of bars, chords as wide as they last."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from yellow_hinge.song.model import Bar, Section, Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.ui.hinges_page.state import pretty_accidentals
from yellow_hinge.ui.theme import LIGHT, fitting_font, font

_RIBBON, _HEADING, _GAP = 46, 24, 12
_LEAST_CHORD = 46


@dataclass(frozen=True)
class _Line:
    """Some bars of a section that stand on one line."""

    heading: str
    first_bar: int
    bars: tuple[Bar, ...]


class FormView(QWidget):
    """Painted from the song alone; grows as tall as the form needs."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = LIGHT
        self._song = Song()
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
        return QSize(420, self._height())

    def _grow(self) -> None:
        self.setMinimumHeight(self._height())

    def _height(self) -> int:
        lines = self._lines()
        headings = sum(bool(line.heading) for line in lines)
        return len(lines) * (_RIBBON + _GAP) + headings * _HEADING + 8

    def _lines(self) -> list[_Line]:
        lines: list[_Line] = []
        number = 1
        for section in self._song.sections:
            step = self._bars_per_line(section)
            name = section.name or "Form"
            heading = f"{name}, {section.times} times" if section.times > 1 else name
            for start in range(0, len(section.bars), step):
                bars = section.bars[start : start + step]
                lines.append(_Line("" if start else heading, number + start, bars))
            number += len(section.bars) * section.times
        return lines

    def _bars_per_line(self, section: Section) -> int:
        """4 bars to a line where they fit, else 2 or 1; 8 where there is ample room."""
        densest = max((len(bar.chords) for bar in section.bars), default=1)
        room = max(1, (self.width() - 8) // (_LEAST_CHORD * densest))
        return next((count for count in (8, 4, 2) if count <= room), 1)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        y = 2.0
        for line in self._lines():
            if line.heading:
                painter.setFont(font(1.0, bold=True))
                painter.setPen(self.theme.color("ink"))
                painter.drawText(QPointF(2, y + 15), line.heading)
                y += _HEADING
            self._paint_line(painter, line, y)
            y += _RIBBON + _GAP
        painter.end()

    def _paint_line(self, painter: QPainter, line: _Line, y: float) -> None:
        section_width = self.width() - 4
        per_line = max(len(line.bars), self._bars_per_line_of(line))
        width = section_width / per_line
        for place, bar in enumerate(line.bars):
            x = 2 + place * width
            painter.setPen(QPen(self.theme.color("muted"), 1.4))
            painter.drawLine(QPointF(x, y + 2), QPointF(x, y + _RIBBON))
            painter.setFont(font(0.72))
            painter.setPen(self.theme.color("muted"))
            painter.drawText(QPointF(x + 4, y + _RIBBON), str(line.first_bar + place))
            total = float(sum(at.beats for at in bar.chords)) or 1.0
            for at in bar.chords:
                share = width * float(at.beats) / total
                self._paint_chord(painter, QRectF(x, y, share, _RIBBON), at.chord)
                x += share

    def _bars_per_line_of(self, line: _Line) -> int:
        section = next((s for s in self._song.sections if line.bars[0] in s.bars), None)
        return 1 if section is None else min(self._bars_per_line(section), len(section.bars))

    def _paint_chord(self, painter: QPainter, box: QRectF, chord: ChordSymbol | None) -> None:
        symbol = "N.C." if chord is None else chord.pretty
        number = "" if chord is None else pretty_accidentals(self._song.number_of(chord))
        inner = box.adjusted(6, 0, -3, 0)
        for words, size, role, top in ((symbol, 1.12, "ink", 0), (number, 0.82, "muted", 19)):
            painter.setFont(fitting_font(words, size, inner.width(), bold=role == "ink"))
            painter.setPen(self.theme.color(role))
            place = QRectF(inner.x(), inner.y() + top, inner.width(), 20)
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, words)
