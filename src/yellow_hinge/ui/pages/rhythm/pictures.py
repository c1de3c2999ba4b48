"""The list of patterns, each with its picture."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter

from yellow_hinge.rhythm.counts import fits
from yellow_hinge.rhythm.patterns import Pattern
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.ui.cards import Cards, framed, write
from yellow_hinge.ui.pages.rhythm.rungs import paint_picture
from yellow_hinge.ui.pages.rhythm.state import LEVELS
from yellow_hinge.ui.theme import font, scaled

_PICTURE = 64


class Patterns(Cards):
    """The patterns for a hand in a meter."""

    lines: Sequence[Pattern]

    def __init__(self) -> None:
        super().__init__()
        self.meter, self.side, self.now = Meter(), "right", ""

    def show(self, patterns: Sequence[Pattern], meter: Meter, side: str, now: str) -> None:
        """Show other patterns, or another one in use."""
        same = list(patterns) == list(self.lines) and (meter, side) == (self.meter, self.side)
        again = same and now == self.now
        self.meter, self.side, self.now = meter, side, now
        if not same:
            self.take(patterns)
        elif not again:
            self.say_anew()

    def _about(self, pattern: Pattern) -> str:
        """What stands beside its name."""
        fitted = "" if fits(pattern, self.meter) else f"fitted to {self.meter}"
        mine = "mine" if pattern.family == "mine" else LEVELS[pattern.level]
        return ", ".join(part for part in ("in use" if pattern.id == self.now else "", mine, fitted) if part)

    def words(self, line: Pattern) -> str:
        return f"{line.name}: {self._about(line)}"

    def tip(self, line: Pattern) -> str:
        made = ", ".join(line.meters) or "any meter"
        said = f"{line.name} ({line.family}). Made for {made}; elsewhere it is fitted."
        return f"{said}\n{self._about(line)}"

    def height(self, _: Pattern) -> float:
        return scaled(40) + _PICTURE + 10

    def draw(self, painter: QPainter, box: QRectF, line: Pattern, chosen: bool) -> None:
        inner = framed(painter, box, chosen)
        below = QRectF(inner.x(), inner.y() + scaled(16), inner.width(), scaled(15))
        write(painter, below, self._about(line), "muted", font(0.82))
        top = QRectF(inner.x(), inner.y(), inner.width(), scaled(17))
        write(painter, top, line.name, "ink", font(0.95, bold=line.id == self.now))
        area = QRectF(inner.x(), inner.bottom() - _PICTURE, inner.width(), _PICTURE)
        paint_picture(painter, area, line, self.meter, self.side)
