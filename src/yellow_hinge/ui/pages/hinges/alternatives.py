"""The list of other voicings: small keyboards, notes, cost and shapes in words."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter

from yellow_hinge.ui.cards import Cards, framed, write
from yellow_hinge.ui.keyboard import paint_keys, white_bounds
from yellow_hinge.ui.keyboard_values import KeyMark
from yellow_hinge.ui.pages.hinges.state import AlternativeLine
from yellow_hinge.ui.theme import font, scaled


class Alternatives(Cards):
    """The ranked voicings of the chosen leaf; of many the lines are made when they are seen."""

    high = 74
    lines: Sequence[AlternativeLine]

    def __init__(self) -> None:
        super().__init__()
        self.keys = (36, 84)

    def take(self, lines: Sequence[AlternativeLine]) -> None:
        """Show other lines; the same voicings keep the place that is chosen in the list."""
        pairs = zip(lines, self.lines, strict=False)  # of many lines each is made when it is looked at
        if len(lines) == len(self.lines) and all(line.voicing == other.voicing for line, other in pairs):
            self.lines = lines
            self.say_anew()
            return
        keys = [key for line in lines for key in line.voicing.keys]
        self.take_many(lines, (min(keys, default=36), max(keys, default=84)))

    def take_many(self, lines: Sequence[AlternativeLine], keys: tuple[int, int]) -> None:
        """Show other lines, of voicings that lie between these keys."""
        self.keys = white_bounds(*keys)
        super().take(lines)

    def words(self, line: AlternativeLine) -> str:
        return f"{line.notes}: {line.cost}. {line.reason}"

    def tip(self, line: AlternativeLine) -> str:
        return (
            f"{line.reason}\nEffort of the whole song, in half steps, with every other "
            f"chord at its best again: {line.cost}. T tries it, L locks it."
        )

    def draw(self, painter: QPainter, box: QRectF, line: AlternativeLine, chosen: bool) -> None:
        inner = framed(painter, box, chosen).adjusted(-1, 0, 1, 0)
        marks = {
            key: KeyMark(side)
            for side, shape in (("left", line.voicing.left), ("right", line.voicing.right))
            for key in shape.keys
        }
        area = QRectF(inner.x(), inner.y() + scaled(25) - 4, inner.width(), scaled(22))
        paint_keys(painter, area, self.keys, marks)
        top = QRectF(inner.x(), inner.y(), inner.width(), scaled(18))
        write(painter, top.adjusted(0, 0, -scaled(76), 0), line.notes, "ink", font(0.98, bold=True))
        write(painter, top, line.cost, "ink", font(0.98, bold=True), right=True)
        bottom = QRectF(inner.x(), inner.bottom() - scaled(16), inner.width(), scaled(17))
        write(painter, bottom, ("in use: " if line.current else "") + line.reason, "muted", font(0.82))
