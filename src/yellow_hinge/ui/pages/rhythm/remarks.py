"""What is to be looked at in the rhythm: worked out beside the window, a line each, with the way out."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QLabel, QListWidget

from yellow_hinge.rhythm.patterns import HANDS, Hand, Pattern
from yellow_hinge.song.groove_edits import use_pattern
from yellow_hinge.tasks.rhythm.checks import Remark, check_rhythm
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.pages.rhythm.part import RhythmPart
from yellow_hinge.ui.pages.rhythm.state import RhythmState
from yellow_hinge.ui.worker import Worker

#: Worked out for so many chords around the chosen one.
_AROUND = 24


class Remarks(RhythmPart):
    """``gone_to`` carries a chord and a place in it that a remark is about."""

    gone_to = Signal(int, object)

    def __init__(self, document: Document, state: RhythmState, parent: QObject | None = None) -> None:
        super().__init__(document, state, parent)
        self.found: list[Remark] = []
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))

    def build(self, heading: QLabel, list_: QListWidget) -> None:
        """The widgets that show them."""
        self.heading, self.list = heading, list_
        heading.setObjectName("heading")
        list_.setAccessibleName("What to look at in the rhythm")
        list_.setWordWrap(True)
        list_.itemActivated.connect(lambda _: self._go())
        list_.itemClicked.connect(lambda _: self._go())
        list_.setMinimumHeight(48)

    def look(self) -> None:
        """Ask for what is to be said around the chosen chord."""
        song = self.state.song
        if not song.slots:
            return
        first = max(0, self.state.index - _AROUND)
        slots = range(first, min(len(song.slots), first + 2 * _AROUND))

        self.worker.start(lambda *_: (song, check_rhythm(song, slots)))

    def _take(self, found: tuple[object, list[Remark]]) -> None:
        song, remarks = found
        if song is self.state.song:
            self.found = remarks
            self.shown.emit()

    def show(self) -> None:
        """What is known of the song as it is."""
        song = self.state.song
        here = [remark for remark in self.found if remark.slot < len(song.slots)]
        self.heading.setText(f"To look at ({len(here)})")
        self.heading.setVisible(bool(here))
        kit.fill(self.list, map(self._line, here), self.list.currentRow())
        self.list.setVisible(bool(here))

    def _line(self, remark: Remark) -> str:
        slot = self.state.song.slots[remark.slot]
        symbol = "" if slot.chord is None else slot.chord.pretty
        simpler = self._known(_hand(remark)).get(remark.simpler)
        way = "" if simpler is None else f". Would do: {simpler.name}"
        return f"Bar {slot.bar}, {symbol}: {remark.words}{way}"

    def _known(self, hand: Hand) -> dict[str, Pattern]:
        return {pattern.id: pattern for pattern in self.state.listed_for(hand)}

    def _go(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.found):
            remark = self.found[row]
            if remark.hand in HANDS:
                self.state.to_lane(_hand(remark))
            self.gone_to.emit(remark.slot, Fraction(0))

    def _here(self) -> Remark | None:
        """The one about the chosen chord that has a simpler pattern, of the hand at the cursor first."""
        remarks = [remark for remark in self.found if remark.slot == self.state.index and remark.simpler]
        of_hand = (remark for remark in remarks if remark.hand == self.state.hand)
        return next(of_hand, remarks[0] if remarks else None)

    @command(
        "simpler",
        "Simpler pattern",
        "G",
        when=lambda self: self._here() is not None,
        tip="What is said below goes away with it",
    )
    def simpler(self) -> None:
        """The simpler pattern that would do on the chosen chord."""
        remark = self._here()
        if remark is None:
            return
        simpler = self._known(_hand(remark)).get(remark.simpler)
        if simpler is not None:
            self.state.other = None
            slot, own = self.state.slot, self.state.is_own(simpler)
            self.apply(use_pattern(self.state.song, slot.at, _hand(remark), simpler, own, take_id=slot.take))


def _hand(remark: Remark) -> Hand:
    return "left" if remark.hand == "left" else "right"
