"""What the Rhythm page does over a stretch: lines and small notes of a section, the arc, places compared."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from PySide6.QtCore import Signal

from yellow_hinge.errors import BadInput
from yellow_hinge.rhythm.fullness import ARCS
from yellow_hinge.rhythm.patterns import Hand
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.groove_edits import set_riff, set_riffs
from yellow_hinge.tasks.rhythm.line_desk import propose_line
from yellow_hinge.tasks.rhythm.riff_text import read_riff_text
from yellow_hinge.tasks.rhythm.small_notes import leave_small_notes, take_small_notes
from yellow_hinge.tasks.takes.arc import levels_of, shaped_arc, without_arc
from yellow_hinge.ui.arc_view import lay_arc
from yellow_hinge.ui.commands import Command, command
from yellow_hinge.ui.pages.rhythm.part import RhythmPart, any_chord


def _has_riffs(part: RhythmPart) -> bool:
    return any_chord(part) and bool(part.state.song.decided(part.state.index).groove.riffs)


class Lines(RhythmPart):
    """Lines and small notes. ``proposed``: a line is there to be looked at."""

    proposed = Signal()
    wishes: Callable[[], dict[str, Any]]  #: for a line that is proposed

    def _section(self) -> list[int]:
        """The slots of the round of the chosen chord's section."""
        slots, chosen = self.state.song.slots, self.state.slot
        return [slot.index for slot in slots if (slot.section, slot.round) == (chosen.section, chosen.round)]

    def keep_typed(self, text: str, hand: Hand) -> str:
        """The typed riff over the chosen chord; what is wrong with it in words, empty where nothing is."""
        try:
            notes = read_riff_text(text, hand)
        except BadInput as error:
            return " ".join(f"{problem.what}: {problem.remedy}." for problem in error.problems[:2])
        slot = self.state.slot
        self.apply_and_hear(set_riff(self.state.song, slot.at, notes, slot.take))
        return ""

    @command("line", "Propose a line", "P", when=any_chord, tip="A line over this section, as the side says")
    def propose_line(self) -> None:
        rows = propose_line(self.state.song, self._section(), **self.wishes())
        self.apply_and_hear(set_riffs(self.state.song, rows, "Line"))
        self.proposed.emit()

    @command("line-away", "No line", when=_has_riffs, tip="No riffs over this section")
    def drop_line(self) -> None:
        ats = {self.state.song.slots[index].at for index in self._section()}
        self.apply(set_riffs(self.state.song, dict.fromkeys(ats, ()), "No line"))

    @command(
        "small-all",
        "Small notes",
        "N",
        when=any_chord,
        tip="All small notes on the way that fit this section",
    )
    def small_notes(self) -> None:
        self.apply_and_hear(take_small_notes(self.state.song, self._section()))

    @command("small-none", "None of them", when=any_chord, tip="No small notes in this section")
    def no_small_notes(self) -> None:
        self.apply(leave_small_notes(self.state.song, self._section()))


class Arc(RhythmPart):
    """The arc over the form, and places of it beside each other. ``wanted``: the keyboard is for the arc now;
    ``compared`` carries what two places differ in, in words."""

    wanted = Signal()
    compared = Signal(str)

    @command(
        "arc",
        "Draw the arc",
        "A",
        menu="Arc",
        when=any_chord,
        tip="How full each section is: arrows, 1 to 5, Return",
    )
    def go_to_arc(self) -> None:
        self.wanted.emit()

    def make_commands(self) -> Sequence[Command]:
        first, *others = super().make_commands()
        shapes = [
            Command(f"arc-{kind}", f"Arc: {words}", partial(self._shape, kind), (), "Arc",
                    tip="Every level has texture, notes, register and touch of its own",
                    enabled=partial(any_chord, self))
            for kind, words in ARCS.items()
        ]  # fmt: skip
        return [first, *shapes, *others]

    def _shape(self, kind: str) -> None:
        lay_arc(self.document, shaped_arc(self.state.song, kind))

    @command("arc-away", "No arc", menu="Arc", tip="The take again of which it was made",
             when=lambda self: any(level is not None for level in levels_of(self.state.song)))  # fmt: skip
    def drop_arc(self) -> None:
        self.apply(Edit(without_arc(self.state.song), "No arc"))

    @command(
        "compare-bar",
        "Compare bars",
        "B",
        given=(False,),
        menu="Compare",
        when=any_chord,
        tip="Mark this bar; in another one: what it has otherwise",
    )
    @command(
        "compare-round",
        "Compare sections",
        "Shift+B",
        given=(True,),
        menu="Compare",
        when=any_chord,
        tip="Mark this round of the section; in another one: what it has otherwise",
    )
    def compare(self, whole: bool) -> None:
        """Mark the bar (or the round) at the cursor, or say what it has otherwise than the marked one."""
        self.compared.emit(self.state.compared(self.document.row.held, whole))
