"""Walking through lanes and rounds, hearing them, and the route."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Literal

from PySide6.QtCore import Signal

from yellow_hinge.stopping import Progress
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.pages.takes.part import TakesPart, any_round, can_take_over, is_other

if TYPE_CHECKING:
    from yellow_hinge.tasks.takes.desk import TakeDesk


class Walking(TakesPart):
    """Which take and round are chosen, and how they sound."""

    @command("forward", "Next round", "Right", given=(0, 1), when=any_round)
    @command("backward", "Round before", "Left", given=(0, -1), when=any_round)
    @command("down", "Lane below", "Down", given=(1, 0), when=any_round)
    @command("up", "Lane above", "Up", given=(-1, 0), when=any_round)
    def step(self, lanes: int, rounds: int) -> None:
        self.state.move(lanes, rounds)
        self.shown.emit()
        lane = self.state.lane_of(self.state.chosen)
        if lane is not None and lane.voicings:
            self.strikes.emit(lane.voicings[self.first_slot(lane.song)].keys)

    @command("pair-next", "Next chord of the two", "]", given=(1,), when=can_take_over,
             tip="Where two takes are compared: the next chord, heard as the chosen take has it")  # fmt: skip
    @command("pair-before", "Chord before of the two", "[", given=(-1,), when=can_take_over,
             tip="Where two takes are compared: the chord before, heard so too")  # fmt: skip
    def step_chord(self, direction: Literal[-1, 1]) -> None:
        self.choose_chord(self.state.chord + direction)

    def choose_chord(self, place: int) -> None:
        """Another chord of the comparison."""
        pairs = self.state.compared()
        if pairs:
            self.state.chord = max(0, min(len(pairs) - 1, place))
            self.shown.emit()
            grip = pairs[self.state.chord].grips[1]
            if grip is not None:
                self.strikes.emit(grip.keys)

    def choose(self, lane: int, place: int) -> None:
        """Another cell."""
        self.step(lane - self.state.lane, place - self.state.round)

    @command("route", "Sounds here", "Return", tip="The chosen take sounds in the chosen round",
             when=any_round)  # fmt: skip
    def route_here(self) -> None:
        self.apply(self.state.route_here())

    @command("work", "Work on it", "W", tip="Every page works on the chosen take", when=is_other)
    def work_on(self) -> None:
        self.apply(self.state.work_on())

    @command("hear", "Hear", "H", tip="Hear the chosen take in the chosen round", when=any_round)
    def audition(self) -> None:
        self._hear(self.state.chosen, None)

    @command("ab", "A and B", "X", tip="While it plays: the other of the two takes, from the same spot",
             when=is_other)  # fmt: skip
    def hear_other(self) -> None:
        current = self.document.song.current
        other = self.state.chosen if self.state.hearing in (None, current) else current
        self._hear(other, self.state.playing)

    def _hear(self, take_id: int, place: float | None) -> None:
        lane = self.state.lane_of(take_id)
        song = self.document.song if lane is None or lane.effort is None else lane.song
        self.state.hearing = take_id
        self.hear.emit(Sounding(song, self.first_slot(song), at=place))


class Route(TakesPart):
    """What sounds in which round, and chords that one take has from another. ``asks`` carries what the page
    is to work out, ``seed`` is the number of the shuffle; ``shuffled``: it was used."""

    asks = Signal(object)
    shuffled = Signal()
    seed: Callable[[], int]

    def lead(self, lanes: Mapping[int, int]) -> None:
        """The route goes through these lanes, by round."""
        self.apply(self.state.led(lanes))

    def bring(self, lane: int, place: int, to: int) -> None:
        """The section of a round comes from a lane into another one."""
        self.apply(self.state.brought(lane, place, to))

    @command("smooth", "Smooth the joints", "J",
             tip="The chords on both sides of each joint are found anew, everything else is held",
             when=lambda self: bool(self.state.joints) and not self.document.worker.running)  # fmt: skip
    def smooth(self) -> None:
        song = self.document.song

        def job(desk: TakeDesk, progress: Progress) -> object:
            return desk.smooth(song, progress)

        self.asks.emit(job)

    @command("shuffle", "Shuffle", "S",
             tip="A route by chance through the takes, so that what comes again sounds otherwise",
             when=lambda self: len(self.state.lanes) > 1)  # fmt: skip
    def shuffle(self) -> None:
        from yellow_hinge.tasks.takes.desk import shuffled  # noqa: PLC0415 - brings NumPy

        edit = shuffled(self.document.song, self.state.lanes, self.seed(), self.state.kept)
        self.shuffled.emit()
        self.apply(edit)

    @command("keep", "Keep this round", "K", tip="A shuffle leaves it as it is", when=any_round,
             checked=lambda self: self.state.round in self.state.kept)  # fmt: skip
    def keep_round(self) -> None:
        self.state.keep_round()
        self.shown.emit()

    @command("take-chord", "Take this chord", "1", given=("chord",), when=can_take_over,
             tip="The chosen chord comes into the take that is worked on")  # fmt: skip
    @command("take-run", "Take from here", "2", given=("run",), when=can_take_over,
             tip="From the chosen chord to the end of its section")  # fmt: skip
    @command("take-section", "Take the section", "3", given=("section",), when=can_take_over,
             tip="All chords of its section")  # fmt: skip
    def take_over(self, scope: Literal["chord", "run", "section"]) -> None:
        """Chords of the chosen take come into the one that is worked on."""
        self.apply(self.state.taken_over(scope))
