"""The form as it was read: sections as ribbons of bars, as wide as they last, chords in them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from PySide6.QtCore import QEvent, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QKeySequence, QMouseEvent, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from yellow_hinge.song.chart import Chart
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol, pretty_symbol, symbol_text
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pretty import pretty_accidentals
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.entry_field import EntryField
from yellow_hinge.ui.pages.song.form_state import FormBar, FormLine, form_lines
from yellow_hinge.ui.theme import color, cut, drawn_fitting_font, drawn_font, scaled, text_scale

_RIBBON, _HEADING, _GAP, _CHANGE, _WORDS = 46, 24, 12, 15, 16
_LEAST_CHORD = 46
#: A field to type a chord in is so wide at the least.
_LEAST_FIELD = 72
_KEYS = QKeySequence.StandardKey
#: What is done with the chosen bars by the keys that do so everywhere.
_ACTS = {
    "bars-copy": (_KEYS.Copy,), "bars-cut": (_KEYS.Cut,), "bars-paste": (_KEYS.Paste,),
    "bars-out": (_KEYS.Delete, _KEYS.Backspace),
}  # fmt: skip
_STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}


class WordField(EntryField):
    """Where a chord is typed; Tab takes it and goes on, leaving takes it too. ``goes_on`` carries the way."""

    goes_on = Signal(int)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            steps = {Qt.Key.Key_Tab: 1, Qt.Key.Key_Backtab: -1}.get(Qt.Key(event.key()))
            if steps is not None:
                self.goes_on.emit(steps)
                return True
        return super().event(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.hide()


class Box(NamedTuple):
    """Where a chord of a written bar is drawn: both count from 0, ``word`` is how it is written."""

    place: int
    at: int
    rect: QRectF
    word: str


class FormView(Painted):
    """Painted from the song alone; grows as tall as the form needs. A chord can be chosen with keys or the
    mouse and bars dragged over; what is typed then replaces the chord. ``moved``: another chord is chosen;
    ``asked``: something is to be done with the bars; ``typed`` carries the bar, the chord in it and the
    word."""

    enlarged = True
    moved = Signal()
    asked = Signal(str)
    typed = Signal(int, int, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._song = Song()
        self._lines: tuple[Chart, int, list[FormLine]] | None = None
        self._boxes: tuple[list[FormLine], float, list[Box]] | None = None
        self.place, self.at = 0, 0  #: the chosen bar and the chord in it
        self._anchor: int | None = None  #: the bar where a stretch began
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.setAccessibleName("The form as it was read")
        self.setToolTip("Click a chord and type another one; drag over bars to copy, cut or delete them.")
        self.field = WordField(self)
        self.field.hide()
        self.field.kept.connect(self._keep)
        self.field.left.connect(self.setFocus)
        self.field.goes_on.connect(self._go_on)

    def show_song(self, song: Song) -> None:
        self._song = song
        self.choose(self.place, self.at)
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

    @property
    def stretch(self) -> range:
        """The bars that are chosen."""
        first = self.place if self._anchor is None else self._anchor
        return range(min(first, self.place), max(first, self.place) + 1)

    def boxes(self) -> list[Box]:
        """Where every chord is drawn."""
        lines, wide = self.lines(), self.wide
        if self._boxes is None or self._boxes[0] is not lines or self._boxes[1] != wide:
            self._boxes = lines, wide, list(self._every_box(lines))
        return self._boxes[2]

    def _every_box(self, lines: list[FormLine]) -> Iterator[Box]:
        y = 2.0
        for line in lines:
            top, x = y + (_HEADING if line.heading else 0) + (_CHANGE if line.changes else 0), 2.0
            for bar in line.bars:
                width = (self.wide - 4) * bar.share
                yield from self._boxes_of(bar, QRectF(x, top, width, _RIBBON))
                x += width
            y += _height_of(line)

    @staticmethod
    def _boxes_of(bar: FormBar, box: QRectF) -> list[Box]:
        found, x = [], box.x()
        total = float(sum(at.beats for at in bar.bar.chords)) or 1.0
        for at, chord in enumerate(bar.bar.chords):
            share = box.width() * float(chord.beats) / total
            found.append(Box(bar.place, at, QRectF(x, box.y(), share, _RIBBON), symbol_text(chord.chord)))
            x += share
        return found

    @property
    def box(self) -> Box | None:
        """That of the chosen chord."""
        return next((one for one in self.boxes() if (one.place, one.at) == (self.place, self.at)), None)

    @property
    def _number(self) -> int:
        """The place of the chosen chord among all."""
        places = [(one.place, one.at) for one in self.boxes()]
        return places.index((self.place, self.at)) if (self.place, self.at) in places else 0

    def choose(self, place: int, at: int, *, extend: bool = False) -> None:
        """Another chord; ``extend``: the bars up to it are chosen too."""
        bars = [bar for line in self.lines() for bar in line.bars]
        if extend and self._anchor is None:
            self._anchor = self.place
        elif not extend:
            self._anchor = None
        self.place = max(0, min(len(bars) - 1, place))
        count = len(bars[self.place].bar.chords) if bars else 1
        self.at = max(0, min(count - 1, at))
        if bars:
            chord = bars[self.place].bar.chords[self.at].chord
            self.say_chosen(f"Bar {self.place + 1} of the text, {pretty_symbol(chord)}")
        self.update()

    # --- mouse and keys ---

    def _box_at(self, point: QPointF) -> Box | None:
        return next((one for one in self.boxes() if one.rect.contains(point)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        box = self._box_at(self.place_in(event))
        if box is not None:
            shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.choose(box.place, box.at, extend=shift)
            self.moved.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        box = self._box_at(self.place_in(event))
        if box is not None and box.place != self.place:
            self.choose(box.place, box.at, extend=True)

    def mouseDoubleClickEvent(self, _: QMouseEvent) -> None:
        self.write("")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, boxes = Qt.Key(event.key()), self.boxes()
        here = self._number
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        strong = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        act = next((act for act, keys in _ACTS.items() if any(event.matches(one) for one in keys)), "")
        if act and boxes:
            self.asked.emit(act)
        elif strong or not boxes:
            event.ignore()
        elif key in _STEPS and shift:
            self.choose(self.place + _STEPS[key], 0, extend=True)
        elif key in (*_STEPS, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_Up, Qt.Key.Key_Down):
            box = boxes[self._next(boxes, here, key)]
            self.choose(box.place, box.at)
            self.moved.emit()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.write("")
        elif event.text().isprintable() and event.text().strip():
            self.write(event.text())
        else:
            event.ignore()

    @staticmethod
    def _next(boxes: list[Box], here: int, key: Qt.Key) -> int:
        """The chord that a key leads to."""
        if key in _STEPS:
            return max(0, min(len(boxes) - 1, here + _STEPS[key]))
        if key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            return 0 if key == Qt.Key.Key_Home else len(boxes) - 1
        below, mine = key == Qt.Key.Key_Down, boxes[here].rect
        tops = {
            one.rect.y() for one in boxes if (one.rect.y() > mine.y() if below else one.rect.y() < mine.y())
        }
        if not tops:
            return here
        top = min(tops) if below else max(tops)
        line = [k for k, one in enumerate(boxes) if one.rect.y() == top]
        return min(line, key=lambda k: abs(boxes[k].rect.x() - mine.x()))

    def write(self, begun: str) -> None:
        """A field over the chosen chord, with what was typed, or with what stands there."""
        box = self.box
        if box is None:
            return
        rect = box.rect.adjusted(2, 1, 0, -22)
        place = QRectF(rect.topLeft() * text_scale(), rect.size() * text_scale()).toRect()
        place.setWidth(max(place.width(), scaled(_LEAST_FIELD)))
        place.moveRight(min(place.right(), self.width() - 2))
        self.field.setGeometry(place)
        self.field.setText(begun or box.word)
        if not begun:
            self.field.selectAll()
        self.field.show()
        self.field.setFocus()

    def _keep(self) -> None:
        box, word = self.box, self.field.text().strip()
        self.setFocus()  # which hides the field
        if box is not None and word and word != box.word:
            self.typed.emit(self.place, self.at, word)

    def _go_on(self, steps: int) -> None:
        """The word is taken, and the next chord is written."""
        self._keep()
        boxes = self.boxes()
        here = self._number
        if 0 <= here + steps < len(boxes):
            self.choose(boxes[here + steps].place, boxes[here + steps].at)
            self.moved.emit()
            self.write("")

    # --- drawing ---

    def paint(self, painter: QPainter, seen: QRect) -> None:
        self._paint_chosen(painter)
        y = 2.0
        for line in self.lines():
            height = _height_of(line)
            if y <= seen.bottom() and y + height >= seen.top():
                self._paint_line(painter, line, y)
            y += height

    def _paint_chosen(self, painter: QPainter) -> None:
        """The chosen bars as a quiet ground, the chosen chord framed while the form has the keyboard."""
        stretch = self.stretch
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color("raised"))
        for box in self.boxes():
            if box.place in stretch and (len(stretch) > 1 or self.hasFocus()):
                painter.drawRect(box.rect)
        chosen = self.box
        if chosen is not None and self.hasFocus():
            painter.setPen(QPen(color("ink"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(chosen.rect.adjusted(2, 1, -1, -2), 4, 4)

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
        for at, place in zip(bar.bar.chords, self._boxes_of(bar, box), strict=True):
            self._paint_chord(painter, place.rect, at.chord, bar.bar.key)
        for row, words in enumerate(bar.words):
            self._paint_words(painter, QRectF(box.x() + 4, box.bottom() + 2 + row * _WORDS,
                                              box.width() - 6, _WORDS), words)  # fmt: skip

    def _paint_words(self, painter: QPainter, box: QRectF, words: str) -> None:
        painter.setPen(color("ink"))
        painter.setFont(drawn_fitting_font(words, 0.85, box.width(), bold=False))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, cut(painter, words, box.width()))

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
