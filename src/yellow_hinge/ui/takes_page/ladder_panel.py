"""The ladder on the Takes page: steps from plain to rich, each to be heard and kept as a take."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QSpinBox, QVBoxLayout, QWidget

from yellow_hinge.motion.figures import half_steps
from yellow_hinge.ui.words import Words

if TYPE_CHECKING:
    from yellow_hinge.tasks.take_ladder import LadderStep

#: More new grips than this at a time are no step any more.
_MOST_NEW = 32


class LadderPanel(QWidget):
    """``asked`` says that another number of new grips is wanted; in the row ``top`` is room for buttons."""

    asked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.steps: tuple[LadderStep, ...] = ()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.top = top = QHBoxLayout()
        top.addWidget(QLabel("New grips that a step may bring"))
        self.most = QSpinBox()
        self.most.setRange(0, _MOST_NEW)
        self.most.setSpecialValueText("as many as it takes")
        self.most.setAccessibleName("New grips that a step may bring")
        self.most.setToolTip("A kind of grips that needs more comes in parts, in the order of the song")
        self.most.valueChanged.connect(lambda _: self.asked.emit())
        top.addWidget(self.most)
        top.addStretch(1)
        layout.addLayout(top)
        self.list = QListWidget()
        self.list.setAccessibleName("Steps from plain to rich")
        self.list.currentRowChanged.connect(lambda _: self._show_why())
        layout.addWidget(self.list, 1)
        self.why = Words()
        layout.addWidget(self.why)

    @property
    def most_new(self) -> int | None:
        """The limit; None: as many as it takes."""
        return self.most.value() or None

    @property
    def chosen(self) -> LadderStep | None:
        row = self.list.currentRow()
        return self.steps[row] if 0 <= row < len(self.steps) else None

    def show_steps(self, steps: Sequence[LadderStep], words: str = "") -> None:
        """The steps, or why there are none (yet)."""
        row = max(0, self.list.currentRow())
        self.steps = tuple(steps)
        self.list.clear()
        for one in steps:
            self.list.addItem(step_words(one))
        self.list.setCurrentRow(min(row, len(steps) - 1))
        if words:
            self.why.setText(words)
        else:
            self._show_why()

    def step(self, direction: int) -> None:
        """To the next step up or down."""
        self.list.setCurrentRow(max(0, min(len(self.steps) - 1, self.list.currentRow() + direction)))

    def _show_why(self) -> None:
        one = self.chosen
        self.why.setText("" if one is None else f"{one.name}: {one.why}.")


def step_words(one: LadderStep) -> str:
    """A step in a line."""
    if not one.new and not one.changed:
        return f"{one.name}: the same grips"
    new = "no new grip" if not one.new else "1 new grip" if one.new == 1 else f"{one.new} new grips"
    chords = "1 chord changes" if one.changed == 1 else f"{one.changed} chords change"
    return f"{one.name}: {new}, {chords}; effort {one.effort / 100:.0f}, {half_steps(one.motion_st)}"
