"""The ladder on the Takes page: steps from plain to rich, each to be heard and kept as a take."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QSpinBox, QWidget

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.motion.figures import half_steps
from yellow_hinge.stopping import Progress
from yellow_hinge.ui import kit
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.words import Label, Words
from yellow_hinge.ui.worker import Deliver, Worker

if TYPE_CHECKING:
    from yellow_hinge.tasks.takes.ladder import LadderStep

#: More new grips than this at a time are no step any more.
_MOST_NEW = 32


class LadderPanel(QWidget):
    """The steps of the take that was worked on when the ladder was opened, worked out beside everything else.

    ``changed`` says that other things can be done now; in the row ``top`` is room for buttons.
    """

    changed = Signal()
    said = Signal(tuple)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._foot = 0  #: id of the take from which it goes up
        self._asked: object = None  #: what the steps that are shown, or under way, hang on
        self.steps: tuple[LadderStep, ...] = ()
        self.worker = Worker(self, "ladder")
        self.worker.done.connect(self._show)
        self.worker.failed.connect(self._fail)
        self.worker.busy.connect(lambda _: self.changed.emit())
        layout = kit.column(self)
        self.top = top = QHBoxLayout()
        top.addWidget(Label("New grips that a step may bring"))
        self.most = QSpinBox()
        self.most.setRange(0, _MOST_NEW)
        self.most.setSpecialValueText("as many as it takes")
        kit.named(
            self.most,
            "New grips that a step may bring",
            "A kind of grips that needs more comes in parts, in the order of the song; the first comes whole",
        )
        self.most.valueChanged.connect(lambda _: self.look())
        top.addWidget(self.most)
        top.addStretch(1)
        layout.addLayout(top)
        self.list = kit.named(QListWidget(), "Steps from plain to rich")
        self.list.currentRowChanged.connect(lambda _: self._show_why())
        layout.addWidget(self.list, 1)
        self.why = Words()
        layout.addWidget(self.why)

    # --- working out ---

    def begin(self) -> None:
        """The ladder goes up from the take that is worked on now."""
        self._foot = self._document.song.current
        if not self.steps:
            self._asked = None
        self.look()

    def look(self) -> None:
        """Work the steps out, unless they are shown or under way, or were stopped."""
        song, library, most = self._document.song, self._document.library, self.most.value() or None
        question = self._question()
        if question == self._asked:
            return
        self._asked = question
        if not song.slots:
            self.worker.cancel()
            self._show((), "There are no chords yet. Go to Song (Ctrl+1) and type a chart.")
            return
        self._show((), "Working out the steps. Escape stops it.")
        if any(take.id == self._foot for take in song.takes):
            song = replace(song, current=self._foot)

        def job(progress: Progress, _: Deliver) -> object:
            from yellow_hinge.tasks.takes.ladder import ladder  # noqa: PLC0415 - brings NumPy

            return ladder(song, library, most, progress)

        self.worker.start(job)

    def _question(self) -> object:
        """What the steps hang on: their take without voicings that the search may change. Steps that are kept
        beside it ask nothing new."""
        song = self._document.song
        found = next((take for take in song.takes if take.id == self._foot), song.take)
        locked = {at: choice for at, choice in found.arrangement.choices.items() if choice.locked}
        arrangement = replace(found.arrangement, choices=locked)
        return song.chart, song.hands, found.id, arrangement, self.most.value(), id(self._document.library)

    def stop(self) -> None:
        """Nothing more is worked out."""
        self.worker.cancel()
        if not self.steps:
            self._show((), "Stopped. L, and L again, works the steps out.")

    def _fail(self, error: YellowHingeError) -> None:
        """The steps cannot be worked out: say why where they would stand."""
        self._show((), str(error))
        self.said.emit(error.problems)

    # --- showing ---

    @property
    def chosen(self) -> LadderStep | None:
        row = self.list.currentRow()
        return self.steps[row] if 0 <= row < len(self.steps) else None

    def _show(self, steps: Sequence[LadderStep], words: str = "") -> None:
        """The steps, or why there are none (yet)."""
        row = max(0, self.list.currentRow())
        self.steps = tuple(steps)
        kit.fill(self.list, map(step_words, steps), row)
        self._show_why()
        if words:
            self.why.setText(words)

    def step(self, direction: int) -> None:
        """To the next step up or down."""
        kit.walk(self.list, direction)

    def _show_why(self) -> None:
        step = self.chosen
        self.why.setText("" if step is None else f"{step.name}: {step.why}.")
        self.changed.emit()


def step_words(step: LadderStep) -> str:
    """A step in a line."""
    if not step.new and not step.changed:
        return f"{step.name}: the same grips"
    new = "no new grip" if not step.new else "1 new grip" if step.new == 1 else f"{step.new} new grips"
    chords = "1 chord changes" if step.changed == 1 else f"{step.changed} chords change"
    return f"{step.name}: {new}, {chords}; effort {step.effort / 100:.0f}, {half_steps(step.motion_st)}"
