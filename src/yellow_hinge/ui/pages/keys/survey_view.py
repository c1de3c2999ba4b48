"""Twelve rows, a key each: its name, the profile of its hinges, and what it asks of the hands."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen

from yellow_hinge.tasks.keys.survey import KeyFigures, note_name
from yellow_hinge.theory.pretty import pretty_accidentals
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.pages.keys.state import KeysState
from yellow_hinge.ui.theme import color, drawn_font, scaled

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

_ROW, _HEAD = 46.0, 26.0
#: Where the columns begin, in pixels; the profile has what is left of them.
_COLUMNS = (
    ("Key", 12),
    ("Effort", 74),
    ("Half steps", 142),
    ("Largest", 226),
    ("Lowest", 296),
    ("Stretch", 366),
)
_PROFILE = 446.0
#: The box for the chosen keys: its height, so many in a row, how wide each.
_CHOSEN, _IN_A_ROW, _WIDE = 60.0, 6, 48.0


class SurveyView(Painted):
    """Draws the rows; ``chosen`` carries the row that was pressed. It can be dragged elsewhere: ``over``
    carries where the pointer is then, on the screen, ``let_go`` where it was let go."""

    enlarged = True
    chosen = Signal(int)
    over = Signal(QPoint)
    let_go = Signal(QPoint)

    def __init__(self, state: KeysState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.state = state
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The song in twelve keys")

    def fit_text(self) -> None:
        self.setMinimumSize(scaled(_PROFILE + 220), scaled(_HEAD + 12 * _ROW + 8))

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def box_of(self, row: int) -> QRectF:
        """Where a row lies."""
        return QRectF(2, _HEAD + row * _ROW + 2, self.wide - 4, _ROW - 4)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = int((self.place_in(event).y() - _HEAD) // _ROW)
        if 0 <= row < len(self.state.found):
            self.chosen.emit(row)
            self._drag = row if event.button() == Qt.MouseButton.LeftButton else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self.over.emit(event.globalPosition().toPoint())

    def call_off(self) -> None:
        super().call_off()
        self.over.emit(_NOWHERE)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag = None
            self.let_go.emit(event.globalPosition().toPoint())

    def paint(self, painter: QPainter, _: QRect) -> None:
        painter.setPen(color("muted"))
        painter.setFont(drawn_font(0.8))
        for words, x in (*_COLUMNS, ("Half steps of each change", int(_PROFILE))):
            painter.drawText(QPointF(x, 17), words)
        rows = self.state.rows
        if not self.state.whole:
            painter.drawText(QPointF(12, self.box_of(len(rows)).y() + 28), self._waiting())
        if not rows:
            return
        highest = max((step for row in rows for step in row.profile), default=1) or 1
        for number, row in enumerate(rows):
            self._paint_row(painter, number, row, highest)

    def _waiting(self) -> str:
        if not self.state.song.slots:
            return "Type a chart on the Song page first: then it stands here in twelve keys."
        done = len(self.state.rows)
        return f"The song is being solved in twelve keys: {done} of them so far..."

    def _paint_row(self, painter: QPainter, number: int, row: KeyFigures, highest: int) -> None:
        box, chosen = self.box_of(number), number == self.state.chosen
        painter.setBrush(color("raised"))
        painter.setPen(QPen(color("ink" if chosen else "line"), 2 if chosen else 1))
        painter.drawRoundedRect(box, 5, 5)
        painter.setPen(color("ink"))
        own = row.key == self.state.song.key
        best = row.key == self.state.best
        notes = (("own", own), ("least", best), ("practise", self.state.marked(row.key)))
        said = [words for words, there in notes if there][-2:]
        painter.setFont(drawn_font(1.15, bold=own or chosen))
        painter.drawText(
            QRectF(12, box.y(), 62, box.height() - (12 if said else 0)),
            _LEFT,
            row.key.pretty.split()[0],
        )
        if said:
            painter.setFont(drawn_font(0.68))
            painter.setPen(color("muted"))
            painter.drawText(QRectF(12, box.y() + 24, 62, 16), _LEFT, ", ".join(said))
        painter.setPen(color("ink"))
        painter.setFont(drawn_font(1.0, bold=best))
        low = pretty_accidentals(note_name(row.lowest, row.key))
        values = (
            f"{row.effort / 100:.0f}",
            f"{row.motion}",
            f"{row.largest}",
            low,
            f"{row.stretch_mm:.0f} mm",
        )
        for value, (_, x) in zip(values, _COLUMNS[1:], strict=True):
            painter.drawText(QRectF(x, box.y(), 76, box.height()), _LEFT, value)
            painter.setFont(drawn_font(1.0))
        self._paint_profile(painter, box, row, highest)

    def _paint_profile(self, painter: QPainter, box: QRectF, row: KeyFigures, highest: int) -> None:
        """A mark for each change, as high as its motion."""
        count = max(1, len(row.profile))
        room = box.right() - 10 - _PROFILE
        step = room / count
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color("muted"))
        foot = box.bottom() - 5
        for place, motion in enumerate(row.profile):
            height = max(1.5, (box.height() - 10) * motion / highest)
            painter.drawRect(
                QRectF(_PROFILE + place * step, foot - height, max(1.0, min(4.0, step - 1)), height)
            )


class ChosenKeys(Painted):
    """The keys to practise and to print; a row that is dragged here becomes one of them, a click takes one
    away. ``given_up`` carries its place."""

    enlarged = True
    given_up = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Keys to practise and to print")
        self.setToolTip("Drag a row here, or press M. A click takes a key away again.")
        self.names: Sequence[str] = ()
        self.open = False  #: whether a row would fall here now

    def fit_text(self) -> None:
        self.setFixedHeight(scaled(_CHOSEN))

    def show_keys(self, names: Sequence[str]) -> None:
        """The names of the keys that are chosen."""
        self.names = names
        self.say_chosen(", ".join(names) or "none yet")
        self.update()

    def take_over(self, at: QPoint) -> bool:
        """A row is dragged over a place of the screen: whether it would fall here."""
        self.open = self.rect().contains(self.mapFromGlobal(at))
        self.update()
        return self.open

    def box_of(self, place: int) -> QRectF:
        """Where a key stands."""
        return QRectF(6 + place % _IN_A_ROW * _WIDE, 5 + place // _IN_A_ROW * 26, _WIDE - 6, 22)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = self.place_in(event)
        place = next((k for k in range(len(self.names)) if self.box_of(k).contains(at)), None)
        if place is not None:
            self.given_up.emit(place)

    def paint(self, painter: QPainter, _: QRect) -> None:
        painter.setBrush(color("surface" if self.open else "raised"))
        style = Qt.PenStyle.DashLine if self.open or not self.names else Qt.PenStyle.SolidLine
        painter.setPen(QPen(color("ink" if self.open else "line"), 2 if self.open else 1, style))
        painter.drawRoundedRect(self.room_inside.adjusted(1, 1, -1, -1), 5, 5)
        painter.setFont(drawn_font(0.9))
        if not self.names:
            painter.setPen(color("muted"))
            painter.drawText(self.room_inside.adjusted(8, 0, -8, 0), _LEFT, "Drag a row here, or press M.")
        for place, name in enumerate(self.names):
            box = self.box_of(place)
            painter.setPen(QPen(color("line"), 1))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(color("ink"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)


#: No place of any screen.
_NOWHERE = QPoint(-1_000_000, -1_000_000)
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
