"""Ways to play a grip that is out of reach, side by side, with the caution where the choice is made."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QListWidget,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.hands.geometry import is_black, span_mm
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.ui import kit
from yellow_hinge.ui.keyboard import key_rect, white_bounds
from yellow_hinge.ui.pages.hinges.grip_state import keys_of
from yellow_hinge.ui.theme import color, font, scaled
from yellow_hinge.voicing.handling import Keys

if TYPE_CHECKING:
    from yellow_hinge.tasks.song.ways_out import WayOut
    from yellow_hinge.voicing.reductions import Reduction

_CAUTION = (
    "Out of reach. Do not force it: stop where it pulls, and ask a teacher, or a clinician if it hurts. "
    "Ways to play it, in the order of the school:"
)
_MOST, _COLUMNS, _CARD = 6, 2, QSize(140, 86)


class WaysOut(QWidget):
    """The wide grip and its ways out as cards; a click lets one be heard and looked at, My grip keeps it.
    ``chosen`` carries its :class:`Keys`."""

    chosen = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        layout = kit.column(self, spacing=4)
        self.caution = kit.label("", _CAUTION)
        layout.addWidget(self.caution)
        self._grid = QGridLayout()
        self._grid.setSpacing(4)
        layout.addLayout(self._grid)
        self.cards = [WayCard() for _ in range(_MOST)]
        for number, card in enumerate(self.cards):
            card.clicked.connect(lambda _=False, card=card: self.chosen.emit(card.keys))
            self._grid.addWidget(card, number // _COLUMNS, number % _COLUMNS)
        self.hide()

    def show_ways(
        self, found: tuple[Keys, tuple[Reduction, ...]] | None, keys: Keys, hands: HandProfile
    ) -> None:
        """The wide grip first, then its ways; None hides all of it."""
        self.setVisible(found is not None)
        if found is None:
            return
        wide, ways = found
        rows = [(wide, "as entered"), *((keys_of(way), way.words) for way in ways)][:_MOST]
        every = (*wide.left, *wide.right)
        bounds = white_bounds(min(every), max(every))
        for number, card in enumerate(self.cards):
            card.setVisible(number < len(rows))
            if number < len(rows):
                card.show_way(*rows[number], bounds, hands, rows[number][0] == keys)


class AllWaysOut(QDialog):
    """What would be done to every grip that is out of reach, before it is done."""

    def __init__(self, rows: Sequence[WayOut], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Ways out for all grips out of reach")
        self.resize(640, 420)
        layout = QVBoxLayout(self)
        layout.addWidget(kit.label("", _CAUTION))
        self.list = kit.named(QListWidget(), "What would be done, grip by grip")
        self.list.setWordWrap(True)
        self.list.setSpacing(4)
        self.list.addItems([out.words for out in rows])
        layout.addWidget(self.list, 1)
        buttons = QDialogButtonBox()
        self.take = buttons.addButton(
            f"Take {'it' if len(rows) == 1 else f'all {len(rows)}'}", QDialogButtonBox.ButtonRole.AcceptRole
        )
        buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout.addWidget(buttons)
        self.take.setFocus()


class WayCard(QAbstractButton):
    """A grip as a small keyboard, with what was done to it and how wide it is."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.keys = Keys()
        self._bounds, self._words, self._now = (48, 72), "", False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_way(
        self, keys: Keys, words: str, bounds: tuple[int, int], hands: HandProfile, now: bool
    ) -> None:
        """Keys with what was done, on the keys from and to the bounds."""
        widest = max(
            (span_mm(row[0], row[-1], hands.octave_mm) for row in (keys.left, keys.right) if row), default=0.0
        )
        self.keys, self._bounds, self._now = keys, bounds, now
        steps = Counter(words.split(", "))
        said = [step if count == 1 else f"{step} ({count} times)" for step, count in steps.items()]
        self._words = f"{widest:.0f} mm, {', '.join(said)}"
        self.setAccessibleName(f"{self._words}{' (chosen)' if now else ''}")
        self.setToolTip(f"{self._words}: click to hear it")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(scaled(_CARD.width() - 24), scaled(_CARD.height()))

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        strong = self._now or self.hasFocus()
        painter.setPen(QPen(color("ink" if strong else "line"), 2 if strong else 1))
        painter.setBrush(color("raised"))
        painter.drawRoundedRect(box, 5, 5)
        area = QRectF(box.x() + 6, box.y() + 5, box.width() - 12, 24)
        for black in (False, True):
            for key in range(self._bounds[0], self._bounds[1] + 1):
                if is_black(key) == black:
                    side = self.keys.side_of(key)
                    plain = "key_black" if black else "key_white"
                    painter.setBrush(color(side or plain))
                    painter.setPen(QPen(color("muted"), 0.6))
                    painter.drawRect(key_rect(key, *self._bounds, area))
        painter.setPen(color("ink"))
        painter.setFont(font(0.78, bold=self._now))
        words = QRectF(box.x() + 6, area.bottom() + 3, box.width() - 12, box.bottom() - area.bottom() - 5)
        flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
        painter.drawText(words, int(flags), self._words)
        painter.end()
