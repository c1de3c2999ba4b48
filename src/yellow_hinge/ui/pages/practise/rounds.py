"""Rounds of a drill in time: begins them, hears keys, ends blocks. Nothing else of the page counts time."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction

from msgspec.structs import replace
from PySide6.QtCore import QObject, Qt, QTimer, Signal

from yellow_hinge.practice.listening import Verdict, latency
from yellow_hinge.practice.strokes import backing, clicks, demonstration
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.sound import clock
from yellow_hinge.ui.page import Backing
from yellow_hinge.ui.pages.practise.state import PractiseState

_TICK_MS = 12
#: Clicks with which latency is measured, at this many a minute, after a pause of some quarters.
_LATENCY_CLICKS, _LATENCY_TEMPO, _LATENCY_REST = 12, 90, 2


class Rounds(QObject):
    """``judged``: something was judged; ``moved``: something is to be shown anew before long; ``ended``: a
    block is over, with minutes and reached tempo; ``measured``: the latency in seconds, or None."""

    judged = Signal()
    moved = Signal()
    ended = Signal(float, int)
    measured = Signal(object)

    def __init__(
        self, state: PractiseState, play: Callable[[Backing], None], parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._state, self._play = state, play
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self.tick)
        self._block_began = 0.0
        self._spent = 0.0
        self.resting_until: float | None = None
        self.waits_for_mark = False
        self._clicks: list[float] = []
        self._struck: list[float] = []

    @property
    def active(self) -> bool:
        """Whether a drill or a break runs."""
        return self._timer.isActive()

    @property
    def measuring(self) -> bool:
        return bool(self._clicks)

    def begin(self) -> None:
        """Begin the block at hand, or go on with it."""
        block, now = self._state.at_hand, clock.now()
        if block is None:
            return
        self._block_began = now
        if block.drill is None:
            self.resting_until = now + block.minutes * 60 - self._spent
            self._timer.start()
        else:
            self._begin_round()
        self.moved.emit()

    def _begin_round(self) -> None:
        self.waits_for_mark = False
        runner = self._state.make_runner()
        if runner is None:
            return
        timed = runner.way == "time"
        settings = self._state.settings
        events = backing(runner.piece, runner.drill, settings.bass, settings.click) if timed else []
        count_in = (
            clicks(Fraction(0), runner.count_in, runner.piece.stands[runner.drill.first].meter)
            if timed
            else []
        )
        events = [*count_in, *_later(events, runner.count_in)]
        rate = Fraction(runner.ladder.tempo) * runner.piece.quarters_per_beat
        if events:
            self._play(Backing(tuple(events), rate))
        runner.begin(clock.now())
        self._timer.start()

    def stop(self) -> None:
        """Stop where it is; the time of the block goes on when it is begun again."""
        if self.active:
            self._spent += clock.now() - self._block_began
        self._halt()
        self.moved.emit()

    def reset(self) -> None:
        """Another block: its time begins anew."""
        self._halt()
        self._spent = 0.0

    def _halt(self) -> None:
        self._timer.stop()
        self._clicks, self._struck = [], []
        self.resting_until, self.waits_for_mark = None, False
        if self._state.runner is not None:
            self._state.runner.stop()
        self._play(Backing())

    def again(self) -> None:
        """The round from its beginning."""
        if self._state.runner is not None:
            self._state.runner.stop()
        if not self.active:
            self._block_began = clock.now()
        self._begin_round()
        self.moved.emit()

    def demonstrate(self) -> None:
        """How the round sounds."""
        runner = self._state.make_runner()
        if runner is not None:
            rate = Fraction(runner.ladder.tempo) * runner.piece.quarters_per_beat
            self._play(Backing(tuple(demonstration(runner.strokes)), rate))

    # --- hearing ---

    def key(self, key: int, velocity: int, at: float) -> None:
        """A key went down or up."""
        if self.measuring:
            if velocity:
                self._struck.append(at)
            return
        runner = self._state.runner
        if runner is None or not runner.running or self._state.settings.way == "mark":
            return
        verdicts = runner.feed(key, velocity, at)
        self._heard(verdicts)
        if velocity and runner.way == "wait" and not verdicts:
            self._state.hinted()
            self.moved.emit()
        self._look_over(clock.now())

    def _heard(self, verdicts: Sequence[Verdict]) -> None:
        if verdicts and self._state.settings.way != "mark":
            self._state.heard(verdicts)
            self.judged.emit()

    def tick(self) -> None:
        """Time passes."""
        now = clock.now()
        if self.measuring:
            self._measure(now)
            return
        if self.resting_until is not None:
            if now >= self.resting_until:
                self._end_block()
            self.moved.emit()
            return
        runner = self._state.runner
        if runner is not None and runner.running:
            self._heard(runner.tick(now))
            self._look_over(now)
        self.moved.emit()

    def _look_over(self, now: float) -> None:
        runner = self._state.runner
        if runner is None or not runner.over(now):
            return
        if self._state.settings.way == "mark":
            runner.stop()
            self.waits_for_mark = True
            self._state.ask_for_mark()
            self.moved.emit()
            return
        self._state.round_over(runner.finish())
        self._go_on()
        self.judged.emit()

    def mark(self, clean: bool) -> None:
        """The player says how the round was."""
        runner = self._state.runner
        if runner is None:
            return
        self._state.round_over(runner.mark(clean))
        if self.active:
            self._go_on()
        self.moved.emit()

    def _go_on(self) -> None:
        """The next round, or the end of the block: at its goal, or when its time is over and the last round
        was clean. Half as long again is enough in any case."""
        runner, block = self._state.runner, self._state.at_hand
        if runner is None or block is None:
            return
        spent = self.spent
        over = spent >= block.minutes * 60
        clean = bool(runner.rounds) and runner.rounds[-1].slips == 0
        if runner.ladder.at_top or (over and clean) or spent >= block.minutes * 90:
            self._end_block()
        else:
            self._state.next_key()
            self._begin_round()
        self.moved.emit()

    @property
    def spent(self) -> float:
        """How long the block at hand has been practised, in seconds."""
        return self._spent + (clock.now() - self._block_began if self.active else 0.0)

    def _end_block(self) -> None:
        runner = self._state.runner
        minutes = self.spent / 60
        reached = runner.ladder.reached if runner is not None else 0
        self.reset()
        self.ended.emit(minutes, reached)

    # --- latency ---

    def measure(self) -> None:
        """Clicks to be played with."""
        self._halt()
        quarter = 60 / _LATENCY_TEMPO
        events = _later(clicks(Fraction(0), Fraction(_LATENCY_CLICKS), Meter(4, 4)), Fraction(_LATENCY_REST))
        self._play(Backing(tuple(events), Fraction(_LATENCY_TEMPO)))
        now = clock.now()
        self._clicks = [now + (k + _LATENCY_REST) * quarter for k in range(_LATENCY_CLICKS)]
        self._struck = []
        self._timer.start()

    def _measure(self, now: float) -> None:
        if now > self._clicks[-1] + 1:
            found = latency(self._clicks, self._struck)
            self._halt()
            self.measured.emit(found)


def _later(events: Sequence[NoteEvent], quarters: Fraction) -> list[NoteEvent]:
    return [replace(event, start_quarters=event.start_quarters + quarters) for event in events]
