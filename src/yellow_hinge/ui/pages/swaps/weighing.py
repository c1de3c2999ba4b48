"""What the Swaps page works out: proposals with their weights, variants, trade curves, styles."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from PySide6.QtCore import QObject

from yellow_hinge.reharm.appetite import APPETITES, Appetite
from yellow_hinge.reharm.proposals import Proposal
from yellow_hinge.reharm.styles import Style
from yellow_hinge.song.edits import Edit, settle
from yellow_hinge.stopping import Progress
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.desk import Desk
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.swaps.state import Found, SwapsState
from yellow_hinge.ui.worker import Deliver, Worker
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.tasks.swaps.desk import SwapDesk
    from yellow_hinge.tasks.swaps.reharmonise import TradePoint

#: The trade curve goes up to so many swaps.
MOST_SWAPS = 8


class _Curve(Struct, frozen=True):
    """A trade curve with what it may touch."""

    appetite: Appetite
    points: Sequence[TradePoint]


def _swap_desk(library: Library) -> SwapDesk:
    from yellow_hinge.tasks.swaps.desk import SwapDesk  # noqa: PLC0415 - off the interface thread

    return SwapDesk(library)


def _part(progress: Progress, number: int, parts: int) -> Progress:
    """The progress of one of several pieces of work."""
    return lambda share: progress((number + share) / parts)


class Weighing(Part):
    """One question at a time, on a thread of its own; what comes is put into the state."""

    def __init__(self, document: Document, state: SwapsState, parent: QObject | None = None) -> None:
        super().__init__(document, parent)
        self.state = state
        self._desk = Desk(document, _swap_desk)
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.part.connect(self._take)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))

    def _start(self, job: Callable[[SwapDesk, Progress], object]) -> None:
        self.worker.start(lambda progress, _: job(self._desk(), progress))

    def look(self, again: bool = False) -> None:
        """Find the proposals of the song as it is, unless they are there."""
        song, at = self.document.song, self.state.at
        if at is not None and song.slots and (again or self.state.found is None or not self.state.weighed):
            self.worker.start(lambda progress, deliver: self._desk().look(song, at, progress, deliver))

    def weigh(self, proposal: Proposal) -> None:
        """What one proposal costs."""
        song = self.document.song
        self._start(lambda desk, _: {proposal: desk.weigh(song, proposal)})

    @command("curve", "Work it out", "C", tip=f"The least effort with 0 to {MOST_SWAPS} swaps",
             when=lambda self: bool(self.state.song.slots))  # fmt: skip
    def work_out(self) -> None:
        """The trade curves of the song as it is, that of the chosen appetite first."""
        song, chosen = self.document.song, self.state.appetite
        if not song.slots:
            return
        order = [chosen, *(name for name in APPETITES if name != chosen)]

        def job(progress: Progress, deliver: Deliver) -> object:
            curves: list[_Curve] = []
            for number, name in enumerate(order):
                share = _part(progress, number, len(order))
                curves.append(_Curve(name, self._desk().curve(song, MOST_SWAPS, share, name)))
                deliver(curves[-1])
            return curves[-1]

        self.worker.start(job)

    @command("turn", "Take the turning point", "T", tip="As many swaps as lower the effort, all at once",
             when=lambda self: self.state.least > 0)  # fmt: skip
    def take_turning_point(self) -> None:
        self.take_point(self.state.least)

    def take_point(self, swaps: int) -> None:
        """Take the swaps of a point on the curve."""
        point = next((trade_point for trade_point in self.state.curve if trade_point.swaps == swaps), None)
        if point is not None:
            kept = self.state.curves
            self.apply(Edit(point.voiced.song, f"{swaps} swaps"))
            self.state.curves = kept
            self.shown.emit()

    @command("learn-style", "Learn my style",
             tip="From the swaps of this take that you took, and those beside them that you left",
             when=lambda self: bool(self.state.song.arrangement.swaps))  # fmt: skip
    def learn_style(self) -> None:
        song = self.document.song
        self._start(lambda desk, _: desk.learn_style(song))

    def choose_style(self, style: str | None) -> None:
        """A style for the song, or none."""
        self.apply(settle(self.document.song, style=style))

    def choose_appetite(self, appetite: Appetite) -> None:
        """What swaps may touch."""
        self.state.appetite = appetite
        self.shown.emit()

    def _take(self, result: Any) -> None:
        if isinstance(result, Style):
            self._learnt(result)
        elif isinstance(result, dict):  # a variant that was weighed
            self.state.weighed = {**self.state.weighed, **result}
        elif isinstance(result, tuple):
            found, base, weighed = result
            self.state.take_found(Found(*found), base, weighed)
        else:
            self.state.curves = {**self.state.curves, result.appetite: result.points}
        self.shown.emit()

    def _learnt(self, style: Style) -> None:
        self.state.found, self.state.curves = None, {}  # one that held already may weigh otherwise now
        self.apply(settle(self.document.song, style=style.id))
        self.document.noted.emit((f"The style \u201c{style.name}\u201d holds now: {style.words}.",))
        self.look()
