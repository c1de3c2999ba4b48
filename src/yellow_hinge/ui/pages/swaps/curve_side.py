"""What swaps buy in the whole song: what they may touch, in which style, and the trade curve."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from yellow_hinge.reharm.appetite import APPETITES
from yellow_hinge.tasks.settings.own_styles import known_styles
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.pages.swaps.painted import CurveView
from yellow_hinge.ui.pages.swaps.state import SwapsState

if TYPE_CHECKING:
    from yellow_hinge.tasks.swaps.reharmonise import TradePoint

#: Swaps of the take that are listed.
_MOST_LISTED = 6


class CurveSide(QWidget):
    """``touches`` carries the appetite that was chosen, ``styled`` the id of a style or None, ``picked`` a
    number of swaps."""

    touches = Signal(str)
    styled = Signal(object)
    picked = Signal(int)

    def __init__(self, state: SwapsState, commands: CommandList, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._state = state
        layout = kit.column(self)
        tip = "Exact over the best swaps that fit the melody, and over all voicings"
        layout.addWidget(kit.heading("What swaps buy in the whole song", tip))
        layout.addLayout(self._build_choices())
        self.curve = CurveView()
        self.curve.picked.connect(self.picked)
        layout.addWidget(self.curve)
        self.words = kit.label("quiet")
        layout.addWidget(self.words)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.cancel = kit.button(commands, "stop")
        self._work = kit.button(commands, "curve")
        layout.addLayout(kit.row(self._work, kit.button(commands, "turn", shy=True)))
        layout.addLayout(kit.row(self.progress, self.cancel))
        self.show_busy(False)

    def _build_choices(self) -> QHBoxLayout:
        self.appetite = kit.choice(
            "What swaps may touch", "The song keeps its first and last chords, the goals of its phrases, its "
            "loops, pedal points and lines, unless anything may be touched",
            lambda: self.touches.emit(self.appetite.currentData()),
            ((f"{words[0].upper()}{words[1:]}", name) for name, words in APPETITES.items()),
        )  # fmt: skip
        self.appetite.choose(self._state.appetite)
        self.style_box = kit.choice(
            "Style of swaps", "", lambda: self.styled.emit(self.style_box.currentData())
        )
        row = QHBoxLayout()
        for box, share in ((self.appetite, 3), (self.style_box, 2)):
            row.addWidget(kit.narrow(box), share)
        return row

    def refresh(self) -> None:
        """Everything from the state."""
        state = self._state
        self._show_styles()
        points = _points(state.curve)
        others = [
            _points(trade_points) for trade_points in state.curves.values() if trade_points is not state.curve
        ]
        self.curve.show_points(points, state.turn, others)
        self.curve.setVisible(bool(points))
        swaps = state.swapped_words()
        rest = len(swaps) - _MOST_LISTED
        words = "\n".join((*swaps[:_MOST_LISTED], *([f"... and {rest} more"] if rest > 0 else ())))
        hint = "Click a point to take that many swaps." if points else "Not worked out yet: press C."
        self.words.setText(words or hint)

    def _show_styles(self) -> None:
        """The styles there are, each with what it does."""
        box, role = self.style_box, Qt.ItemDataRole.ToolTipRole
        styles = known_styles().values()
        own = self._state.song.arrangement.style
        box.offer([("no style", None), *((style.name, style.id) for style in styles)], own)
        for number, style in enumerate(styles, 1):
            box.setItemData(number, style.words, role)
        words = box.currentData(role) or ""
        box.setToolTip(f"Which swaps are near; for a section: Rules and wishes on Hinges. {words}")

    def show_busy(self, busy: bool) -> None:
        """Whether something is being weighed."""
        self.progress.setVisible(busy)
        self.cancel.setVisible(busy)
        self._work.setVisible(not busy)


def _points(curve: Sequence[TradePoint]) -> list[tuple[int, int]]:
    return [(point.swaps, round(point.cost / 100)) for point in curve]
