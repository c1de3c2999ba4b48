"""Limits of each hand: notes at once, and its register, drawn over the keys of a piano."""

from __future__ import annotations

from functools import partial
from typing import Literal

from PySide6.QtCore import QLineF, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QGridLayout, QLabel

from yellow_hinge.hands.geometry import is_black
from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.motion.hinge import SIDES
from yellow_hinge.ui import kit
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.drawn_choice import DrawnChoice, bar
from yellow_hinge.ui.keyboard import key_rect
from yellow_hinge.ui.pages.hands.state import hand_of, hand_words, key_words
from yellow_hinge.ui.quiet import Ground
from yellow_hinge.ui.theme import color, drawn_font, scaled
from yellow_hinge.voicing.handling import HIGHEST_PIANO_KEY, LOWEST_PIANO_KEY

End = Literal["lowest_key", "highest_key"]
_ENDS: tuple[End, End] = ("lowest_key", "highest_key")
_MOST_NOTES = 5
#: Heights in pixels: of the keys, and of the words above them.
_HIGH, _LINE = 30.0, 16.0
_STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
_TIP = (
    "The keys that the hand plays in: drag an end. By keys: Down and Up choose the lowest and the highest "
    "key, Left and Right move it, Return takes it"
)


class RegisterView(Painted):
    """The register of a hand on a piano's keys; ``taken`` carries which end, and its key. What is dragged or
    walked to is only shown until the mouse lets go, or Return."""

    enlarged = True
    taken = Signal(str, int)

    def __init__(self, side: str) -> None:
        super().__init__()
        self._side = side
        self.ends: dict[End, int] = {"lowest_key": LOWEST_PIANO_KEY, "highest_key": HIGHEST_PIANO_KEY}
        self.end: End = "lowest_key"
        self._drag: int | None = None  #: the key that the chosen end would go to
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(_TIP)

    def fit_text(self) -> None:
        self.setFixedHeight(scaled(_HIGH + _LINE + 4))
        self.setMinimumWidth(scaled(420))

    def sizeHint(self) -> QSize:
        return QSize(scaled(620), self.minimumHeight())

    def show_register(self, hand: Hand) -> None:
        """The hand as it is now."""
        self.ends = {"lowest_key": hand.lowest_key, "highest_key": hand.highest_key}
        self._drag = None
        self._say()

    @property
    def shown(self) -> tuple[int, int]:
        """Lowest and highest key, with what is dragged."""
        ends = self.ends if self._drag is None else {**self.ends, self.end: self._drag}
        return ends["lowest_key"], ends["highest_key"]

    def _say(self) -> None:
        low, high = map(key_words, self.shown)
        self.setAccessibleName(f"Register of the {self._side} hand")
        self.say_chosen(f"{low} to {high}")
        self.update()

    # --- where keys are ---

    def box_of(self, key: int) -> QRectF:
        """Where a key lies."""
        area = QRectF(1, self.high - _HIGH - 1, self.wide - 2, _HIGH)
        return key_rect(key, LOWEST_PIANO_KEY, HIGHEST_PIANO_KEY, area)

    def _key_at(self, event: QMouseEvent) -> int:
        x = self.place_in(event).x()
        keys = range(LOWEST_PIANO_KEY, HIGHEST_PIANO_KEY + 1)
        return min(keys, key=lambda key: abs(self.box_of(key).center().x() - x))

    # --- moving an end ---

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        key = self._key_at(event)
        self.end = min(_ENDS, key=lambda end: abs(self.ends[end] - key))
        self._move_to(key)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._move_to(self._key_at(event))

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        self._take()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.end = _ENDS[key == Qt.Key.Key_Up]
            self.call_off()
        elif key in _STEPS:
            self._move_to((self.ends[self.end] if self._drag is None else self._drag) + _STEPS[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.call_off()
        super().focusOutEvent(event)

    def call_off(self) -> None:
        super().call_off()
        self._say()

    def _move_to(self, key: int) -> None:
        """Not beyond the piano, nor to the other end."""
        low, high = LOWEST_PIANO_KEY, HIGHEST_PIANO_KEY
        if self.end == "lowest_key":
            high = self.ends["highest_key"] - 1
        else:
            low = self.ends["lowest_key"] + 1
        self._drag = max(low, min(high, key))
        self._say()

    def _take(self) -> None:
        key, self._drag = self._drag, None
        self._say()
        if key is not None and key != self.ends[self.end]:
            self.taken.emit(self.end, key)

    # --- drawing ---

    def paint(self, painter: QPainter, _: QRect) -> None:
        low, high = self.shown
        keys = sorted(range(LOWEST_PIANO_KEY, HIGHEST_PIANO_KEY + 1), key=is_black)  # black ones over white
        for key in keys:
            inside = low <= key <= high
            painter.setPen(QPen(color("line"), 0.7))
            painter.setBrush(color(self._side if inside else "key_black" if is_black(key) else "key_white"))
            if inside and not is_black(key):
                painter.setBrush(color(f"{self._side}_soft"))
            painter.drawRect(self.box_of(key))
        painter.setFont(drawn_font(0.82))
        for end, key in zip(_ENDS, (low, high), strict=True):
            self._paint_end(painter, end, key)

    def _paint_end(self, painter: QPainter, end: End, key: int) -> None:
        """A line to pull at, with the key's name above; the end that keys would move is strong."""
        box = self.box_of(key)
        x = box.left() if end == "lowest_key" else box.right()
        chosen = self.hasFocus() and end == self.end
        painter.setPen(QPen(color("ink"), 3 if chosen else 2))
        painter.drawLine(QLineF(QPointF(x, _LINE), QPointF(x, self.high - 1)))
        words = QRectF(max(0.0, min(self.wide - 40, x - 20)), 0, 40, _LINE - 1)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, key_words(key))


def _draw_notes(side: str, painter: QPainter, box: QRectF, count: int) -> None:
    """So many notes, one over the other."""
    high = box.height() / _MOST_NOTES
    for note in range(count):
        bar(painter, QRectF(box.x(), box.bottom() - (note + 1) * high, box.width(), high - 1.5), side)


class LimitsPanel(Ground):
    """A row for each hand; ``changed`` carries side, field and value."""

    changed = Signal(str, str, int)

    def __init__(self) -> None:
        super().__init__("panel")
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 10, 16, 10)
        grid.setHorizontalSpacing(24)
        self.summaries: dict[str, QLabel] = {}
        self.notes: dict[str, DrawnChoice] = {}
        self.registers: dict[str, RegisterView] = {}
        for row, side in enumerate(SIDES):
            self.summaries[side] = kit.heading("")
            tip = "The most notes that the hand plays at once"
            notes = DrawnChoice("Most notes", partial(_draw_notes, side), tip, 24, above=True)
            notes.offer((str(count), count) for count in range(1, _MOST_NOTES + 1))
            notes.activated.connect(partial(self._notes_taken, side))
            register = RegisterView(side)
            register.taken.connect(partial(self.changed.emit, side))
            self.notes[side], self.registers[side] = notes, register
            grid.addWidget(self.summaries[side], 2 * row, 0, 1, 2)
            grid.addWidget(notes, 2 * row + 1, 0)
            grid.addWidget(register, 2 * row + 1, 1)
        grid.setColumnStretch(1, 1)

    def _notes_taken(self, side: str, _: int) -> None:
        self.changed.emit(side, "most_notes", self.notes[side].currentData())

    def show_hands(self, profile: HandProfile) -> None:
        """The hands as they are now."""
        for side in SIDES:
            hand = hand_of(profile, side)
            self.summaries[side].setText(hand_words(side, hand, profile.roll))
            self.notes[side].choose(hand.most_notes)
            self.registers[side].show_register(hand)
