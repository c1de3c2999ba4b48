"""The Takes page: lanes and route above, two takes chord by chord below, what can be done at the side."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QPushButton,
    QSpinBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.song.edits import Edit, copy_take, drop_take, keep_row, move_take, new_take, rename_take
from yellow_hinge.song.model import Song
from yellow_hinge.song.pairs import new_twin, part
from yellow_hinge.tasks.song.describe_song import row, who_has_bass
from yellow_hinge.tasks.takes.arc import laid_arc
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.arc_view import ArcView
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.entry_field import EntryField
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.quiet import QuietScroll, SidePanel
from yellow_hinge.ui.takes_page.ladder_panel import LadderPanel
from yellow_hinge.ui.takes_page.lanes_view import LanesView
from yellow_hinge.ui.takes_page.state import TakesState, pair_words
from yellow_hinge.ui.theme import Theme, scaled, text_scale
from yellow_hinge.ui.words import OneLine, Words
from yellow_hinge.ui.worked_page import WorkedPage
from yellow_hinge.ui.worker import Deliver, Progress

if TYPE_CHECKING:
    from yellow_hinge.tasks.takes.desk import TakeDesk

MakeDesk = Callable[[], "TakeDesk"]


class TakesPage(WorkedPage):
    """The page. What solves takes is made when it is first needed."""

    name = "Takes"

    def __init__(self, document: Document, make_desk: MakeDesk, parent: QWidget | None = None) -> None:
        self.state = TakesState()
        super().__init__(document, parent)
        self._make_desk = make_desk
        self._desk: TakeDesk | None = None
        self._looked: Song | None = None
        self.worker.done.connect(self._take)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))
        document.learned.connect(lambda _: self._forget())
        self._build()

    # --- commands ---

    def make_commands(self) -> Sequence[Command]:
        return [*self._walking(), *self._takes(), *self._others(), *self._ladder()]

    def _walking(self) -> list[Command]:
        some = lambda: bool(self.state.rounds)  # noqa: E731
        return [
            Command("forward", "Next round", lambda: self.step_cell(0, 1), ("Right",), enabled=some),
            Command("backward", "Round before", lambda: self.step_cell(0, -1), ("Left",), enabled=some),
            Command("down", "Lane below", lambda: self.step_cell(1, 0), ("Down",), enabled=some),
            Command("up", "Lane above", lambda: self.step_cell(-1, 0), ("Up",), enabled=some),
            Command("route", "Sounds here", self.route_here, ("Return",),
                    tip="The chosen take sounds in the chosen round", enabled=some),
            Command("work", "Work on it", self.work_on, ("W",), tip="Every page works on the chosen take",
                    enabled=self._is_other),
            Command("hear", "Hear", self.audition, ("H",), tip="Hear the chosen take in the chosen round",
                    enabled=some),
            Command("ab", "A and B", self.hear_other, ("X",),
                    tip="While it plays: the other of the two takes, from the same spot",
                    enabled=self._is_other),
        ]  # fmt: skip

    def _takes(self) -> list[Command]:
        return [
            Command("copy", "Copy", self.copy, ("C",), tip="A new take like the chosen one",
                    enabled=lambda: bool(self.document.song.slots)),
            Command("drop", "Delete", self.drop, ("Delete",), tip="Undo brings it back",
                    enabled=lambda: len(self.document.song.takes) > 1),
            Command("earlier", "Move up", partial(self.reorder, -1), ("Shift+Up",),
                    enabled=lambda: self.state.lane > 0),
            Command("later", "Move down", partial(self.reorder, 1), ("Shift+Down",),
                    enabled=lambda: self.state.lane < len(self.document.song.takes) - 1),
            Command("offer", "From another row", self.from_offer, ("O",),
                    tip="Another row for the same chords that differs audibly becomes a take",
                    enabled=lambda: len(self.document.solved.offers) > 1),
            Command("pair", "With a bassist", self.with_bassist, ("B",),
                    tip="The same take for when somebody else has the bass, or has not; both stay in step: "
                    "swaps, wishes and rhythm of one go into the other",
                    enabled=lambda: bool(self.document.song.slots)),
            Command("in-step", "In step", self.part_from_twin, ("T",),
                    tip="On: what is decided in one of the two goes into the other, the bass and the grips "
                    "apart. Off: each goes its own way",
                    enabled=self._has_twin, checked=self._has_twin),
        ]  # fmt: skip

    def _others(self) -> list[Command]:
        return [
            Command("smooth", "Smooth the joints", self.smooth, ("J",),
                    tip="The chords on both sides of each joint are found anew, everything else is held",
                    enabled=lambda: bool(self.state.joints) and not self.document.worker.running),
            Command("shuffle", "Shuffle", self.shuffle, ("S",),
                    tip="A route by chance through the takes, so that what comes again sounds otherwise",
                    enabled=lambda: len(self.state.lanes) > 1),
            Command("keep", "Keep this round", self.keep_round, ("K",), tip="A shuffle leaves it as it is",
                    enabled=lambda: bool(self.state.rounds),
                    checked=lambda: self.state.round in self.state.kept),
            Command("take-chord", "Take this chord", partial(self.take_over, "chord"), ("1",),
                    tip="The chosen chord comes into the take that is worked on", enabled=self._can_take),
            Command("take-run", "Take from here", partial(self.take_over, "run"), ("2",),
                    tip="From the chosen chord to the end of its section", enabled=self._can_take),
            Command("take-section", "Take the section", partial(self.take_over, "section"), ("3",),
                    tip="All chords of its section", enabled=self._can_take),
        ]  # fmt: skip

    def _ladder(self) -> list[Command]:
        chosen = lambda: self.climbing and self.ladder.chosen is not None  # noqa: E731
        return [
            Command("ladder", "Ladder", self.toggle_ladder, ("L",),
                    tip="Steps from plain to rich for the take that is worked on, each to be heard and kept",
                    enabled=lambda: bool(self.document.song.slots), checked=lambda: self.climbing),
            Command("step-down", "Next step", lambda: self.ladder.step(1), (".",), enabled=chosen),
            Command("step-up", "Step before", lambda: self.ladder.step(-1), (",",), enabled=chosen),
            Command("hear-step", "Hear the step", self.hear_step, ("D",),
                    tip="The step of the ladder, from the chosen round on", enabled=chosen),
            Command("keep-step", "Keep the step", self.keep_step, ("N",),
                    tip="The step becomes a take with its grips locked", enabled=chosen),
            Command("stop", "Cancel", self.stop, ("Escape",), tip="Stop the working out",
                    enabled=lambda: self.ladder.worker.running),
        ]  # fmt: skip

    def _is_other(self) -> bool:
        return bool(self.state.rounds) and self.state.chosen != self.document.song.current

    def _has_twin(self) -> bool:
        return self.document.song.take_of(self.state.chosen).twin is not None

    def _can_take(self) -> bool:
        return self._is_other() and bool(self.state.lanes)

    # --- building ---

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        middle = QVBoxLayout()
        self.title = OneLine("title")
        middle.addWidget(self.title)
        self.drawing = self.lanes = LanesView(self.state)
        self.lanes.chosen.connect(self.choose)
        self.lanes.routed.connect(lambda _, __: self.route_here())
        self.arc = ArcView()
        self.arc.drawn.connect(self.draw_arc)
        middle.addWidget(self.arc)
        self.area = QuietScroll()
        self.area.setWidgetResizable(True)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.area.setWidget(self.lanes)
        middle.addWidget(self.area, 3)
        self.words = Words()
        middle.addWidget(self.words)
        self.list = QListWidget()
        self.list.setAccessibleName("The two takes chord by chord")
        self.list.currentRowChanged.connect(self._chord_chosen)
        self.ladder = LadderPanel(self.document)
        self.ladder.said.connect(self.said)
        self.ladder.changed.connect(self.commands.refresh)
        self.below = QStackedWidget()
        self.below.addWidget(self.list)
        self.below.addWidget(self.ladder)
        for act in ("hear-step", "keep-step"):
            self.ladder.top.addWidget(self.commands.bind(QPushButton(), act))
        middle.addWidget(self.below, 2)
        layout.addLayout(middle, 1)
        layout.addWidget(self._build_side())

    def _build_side(self) -> QWidget:
        self.side = SidePanel()
        self.fit_text()
        layout = self.side.rows
        self.name_field = EntryField()
        self.name_field.setAccessibleName("Name of the take")
        self.name_field.setToolTip("Return keeps the name")
        self.name_field.kept.connect(self.rename)
        layout.addWidget(self.name_field)
        self._row(layout, ("route", "work"))
        self._row(layout, ("hear", "ab"))
        self._heading(layout, "Takes")
        self._row(layout, ("copy", "drop"))
        for command in ("earlier", "later"):
            self._row(layout, (command,))
        self._row(layout, ("offer",))
        school = QHBoxLayout()
        self.school = Choice()
        self.school.setAccessibleName("School of a new take")
        for one in self.document.library.schools.values():
            self.school.addItem(one.name, one.id)
        self.make = QPushButton("New take")
        self.make.setToolTip("A take of this school; locked chords stay")
        self.make.clicked.connect(lambda _=False: self.from_school())
        school.addWidget(self.school, 1)
        school.addWidget(self.make)
        layout.addLayout(school)
        self._row(layout, ("pair", "in-step"))
        self._row(layout, ("ladder",))
        self._heading(layout, "The route")
        self._row(layout, ("smooth",))
        shuffle = QHBoxLayout()
        self.seed = QSpinBox()
        self.seed.setRange(1, 999)
        self.seed.setAccessibleName("Number of the shuffle")
        self.seed.setToolTip("The same number gives the same route")
        shuffle.addWidget(self.commands.bind(QPushButton(), "shuffle"))
        shuffle.addWidget(self.seed)
        layout.addLayout(shuffle)
        self._row(layout, ("keep",))
        self._heading(layout, "From the chosen take")
        for command in ("take-chord", "take-run", "take-section"):
            self._row(layout, (command,))
        layout.addStretch(1)
        return self.side

    @staticmethod
    def _heading(layout: QVBoxLayout, words: str) -> None:
        label = QLabel(words)
        label.setObjectName("heading")
        layout.addWidget(label)

    def _row(self, layout: QVBoxLayout, commands: Sequence[str]) -> None:
        row = QGridLayout()
        for place, command in enumerate(commands):
            row.addWidget(self.commands.bind(QPushButton(), command), 0, place)
        layout.addLayout(row)

    # --- showing ---

    def set_theme(self, theme: Theme) -> None:
        super().set_theme(theme)
        self.arc.theme = theme
        self.arc.update()

    def close_page(self) -> None:
        super().close_page()
        self.ladder.worker.close()

    def _forget(self) -> None:
        self._desk = self._looked = None

    def look(self) -> None:
        from yellow_hinge.tasks.takes.desk import joints, rounds_of  # noqa: PLC0415 - brings NumPy

        song = self.document.song
        self.state.take(song, rounds_of(song), joints(song))
        if song.slots and song is not self._looked and not self.document.worker.running:
            self._looked = song
            self._start(lambda desk, progress: (song, desk.lanes(song, progress)))
        elif self.climbing:
            self.ladder.look()
        self.show_all()

    def _start(self, job: Callable[[TakeDesk, Progress], object]) -> None:
        def run(progress: Progress, _: Deliver) -> object:
            if self._desk is None:
                self._desk = self._make_desk()
            return job(self._desk, progress)

        self.worker.start(run)

    def _take(self, result: Any) -> None:
        if isinstance(result, Edit):
            self.document.apply(result)
            return
        song, lanes = result
        if song is self.document.song:
            self.state.lanes = tuple(lanes)
        self.show_all()

    def show_all(self) -> None:
        """Everything from the state."""
        state, song = self.state, self.document.song
        self.title.setText(song.title or "Untitled")
        self.words.setText(state.words())
        self.drawing.say_chosen(state.words())
        if not self.name_field.hasFocus():
            self.name_field.setText(song.takes[state.lane].name)
        self.arc.take(song)
        self.arc.setVisible(bool(song.slots))
        self.lanes.grow(round(self.area.viewport().width() / text_scale()))
        self.list.blockSignals(True)
        self.list.clear()
        for one in state.compared():
            self.list.addItem(pair_words(one, song.key_here.prefers_flats))
        self.list.setCurrentRow(state.chord if self.list.count() else -1)
        self.list.blockSignals(False)
        if state.rounds:
            box = self.lanes.cell(state.lane, state.round)
            middle = box.center() * text_scale()
            self.area.ensureVisible(int(middle.x()), int(middle.y()), scaled(box.width() / 2), 40)
        self.commands.refresh()

    def _chord_chosen(self, place: int) -> None:
        self.state.chord = max(0, place)

    # --- acting ---

    def _apply(self, edit: Edit | None) -> None:
        if edit is not None:
            self.document.apply(edit)

    def draw_arc(self, levels: tuple[int, ...]) -> None:
        """The arc as it was drawn: a take for each of its levels, and the route through them, one step to
        undo."""
        laid = laid_arc(self.document.song, levels, self.document.library)
        self._apply(Edit(laid, "Arc " + " ".join(map(str, levels))))

    def choose(self, lane: int, place: int) -> None:
        """Another cell."""
        self.lanes.setFocus()
        self.state.move(lane - self.state.lane, place - self.state.round)
        self.show_all()

    def step_cell(self, lanes: int, rounds: int) -> None:
        self.state.move(lanes, rounds)
        self.show_all()

    def route_here(self) -> None:
        """The chosen take sounds in the chosen round."""
        self._apply(self.state.route_here())

    def work_on(self) -> None:
        """Every page works on the chosen take."""
        self._apply(self.state.work_on())

    def _from_chosen(self) -> Song:
        """The song with the chosen take at work, to make another one of it."""
        return replace(self.document.song, current=self.state.chosen)

    def _made(self, edit: Edit) -> None:
        """A new take is there: its lane is chosen."""
        self.document.apply(edit)
        self.state.lane = len(self.document.song.takes) - 1
        self.show_all()

    def copy(self) -> None:
        """A new take like the chosen one."""
        self._made(copy_take(self._from_chosen()))

    def drop(self) -> None:
        """Without the chosen take."""
        self._apply(drop_take(self.document.song, self.state.chosen))

    def rename(self) -> None:
        """The name that was typed."""
        self._apply(rename_take(self.document.song, self.state.chosen, self.name_field.text()))
        self.lanes.setFocus()
        self.show_all()

    def reorder(self, step: int) -> None:
        """The chosen lane further up or down."""
        chosen = self.state.chosen
        self._apply(move_take(self.document.song, chosen, step))
        self.state.lane = [take.id for take in self.document.song.takes].index(chosen)
        self.show_all()

    def from_offer(self) -> None:
        """The next other row that was found becomes a take."""
        song, offers = self.document.song, self.document.solved.offers
        used = sum(take.name.startswith("Row ") for take in song.takes)
        offer = offers[1 + used % (len(offers) - 1)]
        self._made(keep_row(song, offer.voicings, f"Row {2 + used % (len(offers) - 1)}"))

    def from_school(self) -> None:
        """A take of the school in the box."""
        school = self.school.currentData()
        self._made(new_take(self._from_chosen(), self.school.currentText(), school=school))

    def with_bassist(self) -> None:
        """The same take, with the bass in other hands."""
        song = self._from_chosen()
        bass = "self" if who_has_bass(song.arrangement, self.document.library) == "bassist" else "bassist"
        words = "with a bassist" if bass == "bassist" else "alone"
        self._made(new_twin(song, f"{song.take.name} {words}", bass))

    def part_from_twin(self) -> None:
        """The chosen take and its twin go their own ways."""
        self._apply(part(self.document.song, self.state.chosen))

    def smooth(self) -> None:
        """The chords at the joints are found anew."""
        song = self.document.song
        self._start(lambda desk, progress: desk.smooth(song, progress))

    def shuffle(self) -> None:
        """A route by chance."""
        from yellow_hinge.tasks.takes.desk import shuffled  # noqa: PLC0415

        edit = shuffled(self.document.song, self.state.lanes, self.seed.value(), self.state.kept)
        self.seed.setValue(self.seed.value() % 999 + 1)
        self._apply(edit)

    def keep_round(self) -> None:
        """A shuffle leaves the round."""
        self.state.keep_round()
        self.show_all()

    def take_over(self, scope: str) -> None:
        """Chords of the chosen take come into the one that is worked on."""
        self._apply(self.state.taken_over(scope))

    # --- the ladder ---

    @property
    def climbing(self) -> bool:
        """Whether the ladder is shown."""
        return self.below.currentWidget() is self.ladder

    def toggle_ladder(self) -> None:
        """The ladder, or the two takes chord by chord again."""
        self.below.setCurrentWidget(self.list if self.climbing else self.ladder)
        if self.climbing:
            self.ladder.begin()
        self.commands.refresh()

    def hear_step(self) -> None:
        """The chosen step, from the chosen round on."""
        step = self.ladder.chosen
        if step is not None:
            song = step.voiced.song
            self.hear.emit(Sounding(song, row(song, self.document.library), self._first(song)))

    def keep_step(self) -> None:
        """The chosen step becomes a take."""
        from yellow_hinge.tasks.takes.ladder import keep_step  # noqa: PLC0415

        step = self.ladder.chosen
        if step is not None:
            self._made(keep_step(self.document.song, step))

    def stop(self) -> None:
        """No more steps are worked out."""
        self.ladder.stop()

    # --- hearing ---

    def _alone(self, take_id: int) -> Song:
        found = self.state.lane_of(take_id)
        return self.document.song if found is None or found.effort is None else found.song

    def _first(self, song: Song) -> int:
        """The first slot of the chosen round in a song."""
        here = self.state.here
        wanted = None if here is None else (here.section, here.turn)
        own = (slot.index for slot in song.slots if (slot.section, slot.round) == wanted)
        return next(own, 0)

    def audition(self) -> None:
        """The chosen take in the chosen round."""
        self._hear(self.state.chosen, None)

    def hear_other(self) -> None:
        """The other of the two takes, from the spot that sounds now."""
        now = self.document.song.current
        other = self.state.chosen if self.state.hearing in (None, now) else now
        self._hear(other, self.state.playing)

    def _hear(self, take_id: int, place: float | None) -> None:
        song = self._alone(take_id)
        self.state.hearing = take_id
        first = self._first(song)
        self.hear.emit(Sounding(song, row(song, self.document.library), first, at=place))

    def show_playing(self, slot: int) -> None:
        if slot < 0:
            self.state.playing = None

    def show_place(self, quarters: float) -> None:
        self.state.playing = quarters
