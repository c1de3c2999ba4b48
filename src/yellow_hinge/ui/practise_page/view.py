"""The Practise page: what to drill at the left, the hands at it in the middle."""

from __future__ import annotations

import random
from collections.abc import Sequence
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QStackedWidget, QVBoxLayout, QWidget

from yellow_hinge.errors import Problem
from yellow_hinge.practice.history import weeks
from yellow_hinge.practice.keeping import kept
from yellow_hinge.practice.log import Done, Log, Try
from yellow_hinge.practice.plan import Shelf
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.practice.desk import log_path
from yellow_hinge.tasks.practice.room import KEY_ORDERS, key_row
from yellow_hinge.tasks.settings.practice_settings import Settings, read_settings
from yellow_hinge.theory.pretty import counted
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.face_row import FaceRow
from yellow_hinge.ui.page import Face, Page
from yellow_hinge.ui.practise_page.desk import make_desk
from yellow_hinge.ui.practise_page.filing import Filing
from yellow_hinge.ui.practise_page.keeper import LogKeeper
from yellow_hinge.ui.practise_page.middle import Middle
from yellow_hinge.ui.practise_page.page_commands import FACES, page_commands
from yellow_hinge.ui.practise_page.riddling import Riddling
from yellow_hinge.ui.practise_page.rounds import Rounds
from yellow_hinge.ui.practise_page.setting import Setting
from yellow_hinge.ui.practise_page.sides import DrillsSide, MapSide, SetSide, TodaySide, WeeksSide
from yellow_hinge.ui.practise_page.state import HANDS, RHYTHMS, WAYS, Desk, Plans, PractiseState, make_plans
from yellow_hinge.ui.quiet import QuietSide
from yellow_hinge.ui.theme import Theme, scaled
from yellow_hinge.ui.worker import Deliver, Progress, Worker

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys, KeyEvent

_SIDE_WIDTH = 300
#: How often what a running drill says is shown anew, ms. Keys that are held are shown at once.
_SHOW_MS = 30


def _now() -> datetime:
    return datetime.now().astimezone()


def _planned(shelf: Shelf, settings: Settings, _progress: Progress, _deliver: Deliver) -> object:
    return make_plans(shelf, settings)


class PractisePage(Page):
    """The page. What it works with is worked out when it is seen."""

    name = "Practise"

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.state = PractiseState(_now, self._write)
        self.face = FACES[0]
        self.riddling, self.filing, self.setting = Riddling(self), Filing(self), Setting(self)
        self._session_id = 0  #: as the log numbers it; set where the log is written
        self._looked_at: object = None
        super().__init__(document, parent)
        self.state.settings, self._trouble = read_settings()
        self.rounds = Rounds(self.state, self.backs.emit, self)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SHOW_MS)
        self._soon.timeout.connect(self.show_now)
        self.rounds.moved.connect(self._show_soon)
        self.rounds.judged.connect(self.show_now)
        self.rounds.ended.connect(self._block_ended)
        self.rounds.measured.connect(self.setting.measured)
        self.keeper = LogKeeper(Log(log_path()), self)
        self.keeper.failed.connect(self.said)
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))
        self.planning = Worker(self)
        self.planning.done.connect(self._take_plans)
        self.planning.failed.connect(lambda error: self.said.emit(error.problems))
        document.worker.busy.connect(self._solved)
        document.learned.connect(lambda _: self.look_again())
        self._build()

    def make_commands(self) -> Sequence[Command]:
        return page_commands(self)

    @property
    def focus(self) -> QWidget:
        return self.middle.leaves

    # --- building ---

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        layout.addWidget(self._build_side())
        self.middle = Middle(self.state, self.rounds, self.commands)
        self.middle.answer.kept.connect(self.riddling.typed)
        layout.addWidget(self.middle, 1)
        self.show_all()

    def _build_side(self) -> QWidget:
        self.side = QWidget()
        self.side.setObjectName("panel")
        self.side.setFixedWidth(scaled(_SIDE_WIDTH))
        layout = QVBoxLayout(self.side)
        layout.setContentsMargins(12, 10, 12, 10)
        layout.addWidget(FaceRow(self.commands, (f"face-{face.id}" for face in FACES)))
        self.today = TodaySide(self.state, self.commands)
        self.today.chosen.connect(self.choose_block)
        self.today.minutes_set.connect(self.setting.set_minutes)
        self.today.days_set.connect(self.setting.set_days)
        self.drills = DrillsSide(self.state, self.commands)
        self.drills.drill_chosen.connect(self.choose_drill)
        self.drills.riddle_chosen.connect(self.riddling.ask)
        self.drills.keys_chosen.connect(self.through_keys)
        self.map = MapSide(self.state)
        self.map.chosen.connect(self.choose_change)
        self.weeks = WeeksSide(self.commands)
        self.set = SetSide(self.commands)
        self.set.changed.connect(self.setting.set_all)
        self.sides = QStackedWidget()
        for one in (self.today, self.drills, self.map, self.weeks, self.set):
            self.sides.addWidget(one)
        scrolled = QuietSide()
        scrolled.rows.addWidget(self.sides)
        layout.addWidget(scrolled, 1)
        return self.side

    def fit_text(self) -> None:
        self.side.setFixedWidth(scaled(_SIDE_WIDTH))
        self.middle.fit_text()

    # --- what is practised ---

    def refresh(self) -> None:
        """The song is another one."""
        self.look()

    def entered(self) -> None:
        trouble = (*self._trouble, *self.filing.evening.take_trouble())
        self._trouble = ()
        if trouble:
            self.said.emit(trouble)
        self.state.chosen = min(self.document.chosen, max(0, len(self.document.song.slots) - 2))
        self.look()

    def left(self) -> None:
        self.rounds.stop()

    def _solved(self, busy: bool) -> None:
        if not busy and self.isVisible():
            self.look()

    def look(self) -> None:
        """Work out what can be practised, unless that is known or under way. A drill that runs is not
        disturbed by what does not concern it."""
        song = self.document.song
        wanted = (song.chart, song.takes, song.current, dict(song.route), song.hands, song.keys_chosen,
                  tuple(self.filing.evening.files))  # fmt: skip
        if self.document.worker.running or not song.solved or wanted == self._looked_at:
            self.show_all()
            return
        self._looked_at = wanted
        self.rounds.reset()
        self.worker.start(partial(self._run, song, list(self.filing.evening.files)))

    def _run(self, song: Song, files: list[Path], progress: Progress, _: Deliver) -> object:
        own = self.state.settings
        return make_desk(song, files, self.document.library, own, log_path(), _now(), progress)

    def _take(self, result: tuple[Desk, tuple[Problem, ...]]) -> None:
        desk, problems = result
        self.state.take(desk)
        self._session_id = self.state.session or 0
        if problems:
            self.said.emit(problems)
        self.show_all()

    def look_again(self) -> None:
        """What is known has changed: read the log anew."""
        self._looked_at = None
        if self.isVisible():
            self.look()

    # --- showing ---

    def show_all(self) -> None:
        """Everything from the state."""
        self.today.show_all()
        self.drills.show_all(self.filing.evening.names)
        self.map.show_all()
        self.set.show_settings(self.state.settings)
        self._show_weeks()
        self.show_now()
        self.commands.refresh()

    def _show_weeks(self) -> None:
        state, desk, now = self.state, self.state.desk, _now()
        every = () if desk is None else desk.tries
        rows = [] if desk is None else weeks(desk.sessions, every, now)
        self.weeks.weeks.show_weeks(rows)
        minutes = sum(week.minutes for week in rows)
        nothing = "Nothing has been practised yet: what you play is kept here."
        self.weeks.words.setText(
            f"{counted(len(every), 'try', 'tries')} in {minutes:.0f} minutes." if every else nothing
        )
        change = state.chosen_change
        own = [] if change is None else [one for one in every if one.change in change.ids]
        self.weeks.passage.show_weeks(weeks((), own, now))
        self.weeks.passage_words.setText(
            "" if change is None else f"{change.words}: {counted(len(own), 'try', 'tries')}."
        )
        self.weeks.weeks.setVisible(bool(every))
        self.weeks.passage.setVisible(bool(own))

    def _show_soon(self) -> None:
        """Many things may happen in one moment: they are shown at once."""
        if not self._soon.isActive():
            self._soon.start()

    def show_now(self) -> None:
        """What changes while a drill runs."""
        middle = self.middle
        middle.asked = self.riddling.asked
        middle.asked_keys = self.riddling.keys
        middle.keyboard_name = self.keyboard_name
        middle.solved = self.document.song.solved
        middle.show_now()
        shown = (
            self.rounds.active,
            self.rounds.waits_for_mark,
            middle.asked,
            self.state.block,
            self.state.own,
        )
        if shown != getattr(self, "_shown", None):
            self._shown = shown
            self.commands.refresh()

    def set_theme(self, theme: Theme) -> None:
        super().set_theme(theme)
        self.middle.set_theme(theme)
        for one in (self.map.map, self.weeks.weeks, self.weeks.passage):
            one.theme = theme
            one.update()

    def show_held(self, held: HeldKeys) -> None:
        self.middle.held = held.sounding
        self.middle.keyboard.show_held(self.middle.held)
        if not self.rounds.active:
            self._show_soon()

    # --- the drill ---

    def start_words(self) -> str:
        if self.riddling.on:
            return "That is it" if not self.riddling.answered else "Another one"
        return "Stop" if self.rounds.active else "Start"

    def start(self) -> None:
        """Begin, or stop; with a riddle: the answer."""
        if self.riddling.on:
            self.riddling.played()
        elif self.rounds.active:
            self.rounds.stop()
        else:
            self._begin_session()
            self.rounds.begin()
        self.show_now()

    def again(self) -> None:
        self.riddling.leave()
        self._begin_session()
        self.rounds.again()

    def _begin_session(self) -> None:
        """The plan goes into the log when its first block is begun."""
        state = self.state
        if state.session is not None or state.own is not None or state.desk is None:
            return
        state.session = 0
        now, pieces = _now(), state.desk.shelf.pieces
        rows = [kept(block, pieces) for block in state.blocks]
        songs = list(dict.fromkeys(piece.id for piece in pieces))
        minutes = state.settings.minutes

        def begin(log: Log) -> None:
            self._session_id = log.begin(now, minutes, songs, rows)

        self.keeper.put(begin)

    def _write(self, tries: Sequence[Try]) -> None:
        """Tries go into the log, and what is known is more."""
        desk = self.state.desk
        titles = (
            []
            if desk is None
            else [(piece.id, piece.title) for piece in desk.shelf.pieces[: desk.shelf.songs]]
        )
        self.keeper.put(lambda log: log.add(tries, titles))
        self.state.learn(tries)
        if self.face.id == "map":
            self.map.show_all()
        self._show_weeks()

    def _block_ended(self, minutes: float, reached: int) -> None:
        """A block is over: it is written down, and the next one is at hand."""
        state = self.state
        done = Done(state.block, _now(), round(minutes, 2), reached)
        if state.own is None:
            last = state.finish(done)
            self.keeper.put(lambda log: log.finish(self._session_id, done))
            if last:
                self.keeper.put(lambda log: log.end(self._session_id, _now()))
        else:
            state.own_over(reached)
        self.show_all()

    def next_block(self) -> None:
        """Leave this block; another riddle."""
        if self.riddling.on:
            self.riddling.another()
            return
        self.rounds.reset()
        self.state.choose_block(self.state.block + 1 if self.state.own is None else self.state.block)
        self.show_all()

    def choose_block(self, place: int) -> None:
        self.riddling.leave()
        self.rounds.reset()
        self.state.choose_block(place)
        self.show_all()
        self.focus.setFocus()

    def plan_anew(self) -> None:
        """Other blocks, by what is known now; beside the window, as many songs take their time."""
        desk = self.state.desk
        if desk is not None:
            self.rounds.reset()
            self.planning.start(partial(_planned, desk.shelf, self.state.settings))

    def _take_plans(self, plans: Plans) -> None:
        self.rounds.reset()
        self.state.take_plans(plans)
        self.show_all()

    def demonstrate(self) -> None:
        """How the round sounds, or what is to be played back."""
        if self.riddling.on:
            self.riddling.hear()
        else:
            self.rounds.demonstrate()

    def can_mark(self) -> bool:
        return self.state.runner is not None and not self.riddling.on

    def mark(self, clean: bool) -> None:
        self.rounds.mark(clean)

    def change_tempo(self, steps: int) -> None:
        self.state.change_tempo(steps)
        self.show_now()

    def next_hands(self) -> None:
        drill = self.state.drill
        if drill is not None:
            self.rounds.stop()
            self.state.hands = HANDS[(HANDS.index(drill.hands) + 1) % len(HANDS)]
            self.show_all()

    def next_way(self) -> None:
        ways = list(WAYS)
        self.setting.set(way=ways[(ways.index(self.state.settings.way) + 1) % len(ways)])

    def next_rhythm(self) -> None:
        rhythms = list(RHYTHMS)
        self.setting.set(rhythm=rhythms[(rhythms.index(self.state.settings.rhythm) + 1) % len(rhythms)])

    # --- own drills and riddles ---

    def choose_change(self, stand: int) -> None:
        """Another change of the open song: it is drilled there and back."""
        self.state.chosen = stand
        drills = self.state.drills()
        if drills:
            self.riddling.leave()
            self.rounds.reset()
            self.state.choose_own(drills[0][1])
        self.show_all()
        self.focus.setFocus()

    def choose_drill(self, place: int) -> None:
        self.riddling.leave()
        self.rounds.reset()
        self.state.choose_own(self.state.drills()[place][1])
        self.show_all()
        self.focus.setFocus()

    def through_keys(self, order: int) -> None:
        """The drill at hand in all keys."""
        self.riddling.leave()
        self.rounds.reset()
        drill = self.state.drill if self.state.own is not None else None
        wanted = drill if drill is not None and drill.piece == 0 else self.state.drills()[0][1]
        row = key_row(KEY_ORDERS[order][0], random.Random())
        self.state.through_keys(wanted, row, self.document.library)
        self.show_all()
        self.focus.setFocus()

    # --- hearing ---

    def key_played(self, event: KeyEvent) -> None:
        key = getattr(event, "key", None)
        if key is None:
            return
        velocity = getattr(event, "velocity", 0)
        own = self.state.settings
        if velocity and key in (own.again_key, own.next_key):
            (self.again if key == own.again_key else self._next_by_key)()
            return
        self.rounds.key(key, velocity, event.at)  # type: ignore[union-attr] # it has a key

    def _next_by_key(self) -> None:
        """From the keyboard: begin, or the next block."""
        if self.rounds.active:
            self.next_block()
        self.start()

    # --- the side ---

    def open_face(self, face: Face) -> None:
        self.face = face
        self.sides.setCurrentIndex(FACES.index(face))
        self.show_all()

    def is_open(self, face: Face) -> bool:
        return self.face == face

    def _side_list(self) -> QListWidget | None:
        lists = {"today": self.today.list, "drills": self.drills.list}
        return lists.get(self.face.id)

    def step(self, by: int) -> None:
        """Another entry of the side; on the map another change."""
        if self.face.id == "map" and self.state.ready:
            last = len(self.state.first.row) - 1
            self.choose_change(max(0, min(last, self.state.chosen + by)))
            return
        shown = self._side_list()
        if shown is not None and shown.count():
            shown.setCurrentRow(max(0, min(shown.count() - 1, shown.currentRow() + by)))

    def take_entry(self) -> None:
        shown = self._side_list()
        if shown is not None and shown.currentItem() is not None:
            shown.itemActivated.emit(shown.currentItem())

    def close_page(self) -> None:
        self.rounds.reset()
        self.worker.close()
        self.planning.close()
        self.keeper.close()
