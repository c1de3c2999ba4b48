"""Two takes beside each other: their grips lie one over the other on each leaf, so that what differs
shows."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from itertools import accumulate
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen

from yellow_hinge.theory.pitch import pitch_for_key
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.pages.takes.state import pair_words
from yellow_hinge.ui.theme import color, cut, drawn_fitting_font, drawn_font, scaled, text_scale

if TYPE_CHECKING:
    from yellow_hinge.tasks.takes.desk import Pair
    from yellow_hinge.voicing.shape import Voicing

#: Widths of a leaf where the takes differ, and where they are the same; of the words at the left.
_DIFFERENT, _SAME, _NAMES, _GAP = 84.0, 40.0, 92.0, 6.0
_HEAD, _FOOT, _TAB = 24.0, 36.0, 13.0
_NAME_HIGH = 48.0
_LEAST = 190


class PairsView(Painted):
    """Leaves of two takes, the one that is worked on at the left of each leaf, the chosen one at the right;
    what they share is one bar across. ``chosen`` carries the place of a leaf that is clicked."""

    enlarged = True
    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("The two takes chord by chord, one over the other")
        self.pairs: Sequence[Pair] = ()
        self._names: tuple[str, str] = ("", "")
        self._place, self._flats = 0, False
        self._lefts, self._range = [_NAMES], (48, 72)

    def show_pairs(self, pairs: Sequence[Pair], names: tuple[str, str], place: int, flats: bool) -> None:
        """Chord by chord, with the names of both takes and the chosen place."""
        self.pairs, self._names, self._flats = pairs, names, flats
        self._place = max(0, min(place, len(pairs) - 1))
        widths = [(_DIFFERENT if pair.differ else _SAME) + _GAP for pair in pairs]
        self._lefts = list(accumulate(widths, initial=_NAMES))
        keys = [key for pair in pairs for grip in pair.grips if grip is not None for key in grip.keys]
        self._range = min(keys, default=48), max(keys, default=72)
        self.setMinimumSize(scaled(self._lefts[-1]), scaled(_LEAST))
        if pairs:
            self.say_chosen(pair_words(pairs[self._place], flats))
        self.update()

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def leaf(self, place: int) -> QRectF:
        """Where a leaf lies."""
        wide = self._lefts[place + 1] - self._lefts[place] - _GAP
        return QRectF(self._lefts[place], _HEAD, wide, self.high - _HEAD - _FOOT)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = bisect_right(self._lefts, self.place_in(event).x()) - 1
        if 0 <= place < len(self.pairs):
            self.chosen.emit(place)

    # --- drawing ---

    def _y(self, key: int) -> float:
        low, high = self._range
        leaf = self.leaf(0)
        return leaf.bottom() - 11 - (key - low) / max(1, high - low) * (leaf.height() - 22)

    def paint(self, painter: QPainter, seen: QRect) -> None:
        if not self.pairs:
            return
        self._paint_names(painter)
        first, last = (bisect_right(self._lefts, x / text_scale()) - 1 for x in (seen.left(), seen.right()))
        for place in range(max(0, first), min(len(self.pairs), last + 1)):
            pair, leaf = self.pairs[place], self.leaf(place)
            chosen = place == self._place
            painter.setBrush(color("raised"))
            painter.setPen(QPen(color("ink" if chosen else "line"), 2 if chosen else 1))
            painter.drawRoundedRect(leaf, 5, 5)
            self._write(
                painter, QRectF(leaf.x() - 2, 2, leaf.width() + 4, 20), self._symbol(pair), 1.0, chosen
            )
            self._paint_grips(painter, leaf, pair)
            if pair.differ:
                self._write(painter, QRectF(leaf.x(), leaf.bottom() + 1, leaf.width(), 16),
                            f"{pair.motion[0]}  |  {pair.motion[1]}", 0.8)  # fmt: skip
        words = pair_words(self.pairs[self._place], self._flats)
        painter.setPen(color("ink"))
        painter.setFont(drawn_font(0.85))
        foot = QRectF(6, self.high - 18, self.wide - 12, 16)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, cut(painter, words, foot.width()))

    @staticmethod
    def _symbol(pair: Pair) -> str:
        return " | ".join(dict.fromkeys(pair.symbols))

    @staticmethod
    def _write(painter: QPainter, box: QRectF, words: str, size: float, bold: bool = False) -> None:
        painter.setPen(color("ink"))
        painter.setFont(drawn_fitting_font(words, size, box.width(), bold=bold))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, cut(painter, words, box.width()))

    def _paint_names(self, painter: QPainter) -> None:
        middle = _HEAD + (self.high - _HEAD - _FOOT) / 2
        for words, name, y in zip(
            ("at the left:", "at the right:"), self._names, (-_NAME_HIGH - 12, 16), strict=True
        ):
            painter.setPen(color("muted"))
            painter.setFont(drawn_font(0.78))
            painter.drawText(QPointF(6, middle + y), words)
            painter.setPen(color("ink"))
            painter.setFont(drawn_font(0.82, bold=True))
            room = QRectF(6, middle + y + 3, _NAMES - 12, _NAME_HIGH)
            painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap, name)

    def _paint_grips(self, painter: QPainter, leaf: QRectF, pair: Pair) -> None:
        """A note of one take alone stands in its half in the hand's colour; one of both is a quiet bar."""
        a, b = (_notes(grip) for grip in pair.grips)
        inner = leaf.adjusted(4, 0, -4, 0)
        for key, side in sorted(a | b):
            box = QRectF(inner.x(), self._y(key) - _TAB / 2, inner.width(), _TAB)
            both = (key, side) in a and (key, side) in b
            if not both:
                box.setWidth(inner.width() / 2 - 1)
                if (key, side) in b:
                    box.moveRight(inner.right())
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(color(f"{side}_soft" if both else side))
            round_by = 1 if side == "left" else 7
            painter.drawRoundedRect(box, round_by, round_by)
            word = pitch_for_key(key, self._flats).pretty
            painter.setPen(color("ink" if both else "on_hand"))
            painter.setFont(drawn_fitting_font(word, 0.78, box.width() - 4, bold=True))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)


def _notes(grip: Voicing | None) -> set[tuple[int, str]]:
    """The keys of a grip, each with its hand."""
    if grip is None:
        return set()
    return {(key, side) for side in ("left", "right") for key in grip.hand(side).keys}
