"""The Takes page: lanes and route above, two takes chord by chord below, what can be done at the side."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from yellow_hinge.song.edits import Edit
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress
from yellow_hinge.ui import kit
from yellow_hinge.ui.arc_view import ArcView, lay_arc
from yellow_hinge.ui.desk import Desk
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.takes.climbing import Climbing
from yellow_hinge.ui.pages.takes.lanes_view import LanesView
from yellow_hinge.ui.pages.takes.making import Making
from yellow_hinge.ui.pages.takes.pairs_view import PairsView
from yellow_hinge.ui.pages.takes.side import TakesSide
from yellow_hinge.ui.pages.takes.state import TakesState
from yellow_hinge.ui.pages.takes.walking import Route, Walking
from yellow_hinge.ui.quiet import QuietScroll
from yellow_hinge.ui.theme import scaled, text_scale
from yellow_hinge.ui.words import OneLine, Words
from yellow_hinge.ui.worked_page import WorkedPage
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.tasks.takes.desk import TakeDesk


def _take_desk(library: Library) -> TakeDesk:
    from yellow_hinge.tasks.takes.desk import TakeDesk  # noqa: PLC0415 - brings NumPy

    return TakeDesk(library)


#: What Qt takes for no limit.
_ANY_HEIGHT = 16777215


class TakesPage(WorkedPage):
    """The page: its parts do what is done, here they are wired."""

    name = "Takes"
    draws = "takes and route"
    handy = ("route", "hear", "work", "copy", "keep", "take-section", "drop")
    twice = "work"
    side: TakesSide

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.state = TakesState()
        super().__init__(document, parent)
        self._desk = Desk(document, _take_desk)
        self._looked: Song | None = None
        document.learned.connect(lambda _: setattr(self, "_looked", None))
        self._build()

    def make_parts(self) -> Sequence[Part]:
        given = self.document, self.state
        self.walking, self.making, self.route = Walking(*given), Making(*given), Route(*given)
        self.climbing = Climbing(*given)
        self.route.asks.connect(self._start)
        return self.walking, self.making, self.route, self.climbing

    def _build(self) -> None:
        middle = QVBoxLayout()
        self.title, self.words = OneLine("title"), Words()
        self.drawing = self.pictured = self.lanes = LanesView(self.state)
        self.lanes.chosen.connect(self._clicked)
        self.lanes.routed.connect(self.route.lead)
        self.lanes.brought.connect(self.route.bring)
        self.lanes.moved.connect(self.making.place_at)
        self.lanes.dropped.connect(lambda _: self.making.drop_it())
        self.arc = ArcView()
        self.arc.drawn.connect(partial(lay_arc, self.document))
        self.area = QuietScroll()
        self.area.setWidgetResizable(True)
        self.area.setWidget(self.lanes)
        self.pairs = PairsView()
        self.pairs.chosen.connect(self.walking.choose_chord)
        self.pairs_area = QuietScroll()
        self.pairs_area.setWidgetResizable(True)
        self.pairs_area.setWidget(self.pairs)
        self.ladder = self.climbing.panel
        self.ladder.said.connect(self.said)
        self.ladder.changed.connect(self.commands.refresh)
        for act in ("hear-step", "keep-step"):
            self.ladder.top.addWidget(kit.button(self.commands, act))
        self.below = QStackedWidget()
        self.below.addWidget(self.pairs_area)
        self.below.addWidget(self.ladder)
        for widget, share in (
            (self.title, 0), (self.words, 0), (self.arc, 0), (self.area, 2), (self.below, 3),
        ):  # fmt: skip
            middle.addWidget(widget, share)
        self.side = TakesSide(self.document, self.making, self.commands)
        self.side.name_field.kept.connect(self.lanes.setFocus)
        self.route.seed = self.side.seed.value
        self.route.shuffled.connect(self.side.next_seed)
        self.fit_text()
        layout = kit.page_row(self)
        layout.addLayout(middle, 1)
        layout.addWidget(self.side)

    # --- working out ---

    def look(self) -> None:
        from yellow_hinge.tasks.takes.desk import joints, rounds_of  # noqa: PLC0415 - brings NumPy

        song = self.document.song
        self.state.take(song, rounds_of(song), joints(song))
        if song.slots and song is not self._looked and not self.document.worker.running:
            self._looked = song
            self._start(lambda desk, progress: (song, desk.lanes(song, progress)))
        elif self.climbing.on:
            self.ladder.look()
        self.show_all()

    def _start(self, job: Callable[[TakeDesk, Progress], object]) -> None:
        self.worker.start(lambda progress, _: job(self._desk(), progress))

    def take_in(self, result: Any) -> None:
        if isinstance(result, Edit):
            self.document.apply(result)
            return
        song, lanes = result
        if song is self.document.song:
            self.state.lanes = tuple(lanes)
        self.show_all()

    # --- showing ---

    def close_page(self) -> None:
        super().close_page()
        self.ladder.worker.close()

    def show_all(self) -> None:
        """Everything from the state."""
        state, song = self.state, self.document.song
        self.title.setText(song.title or "Untitled")
        self.words.setText(state.words())
        self.drawing.say_chosen(state.words())
        if not self.side.name_field.hasFocus():
            self.side.name_field.setText(song.takes[state.lane].name)
        self.arc.take(song)
        self.arc.setVisible(bool(song.slots))
        bar = self.area.verticalScrollBar().sizeHint().width()  # it may come when there are more lanes
        self.lanes.grow(round((self.area.width() - bar) / text_scale()))
        below = self.climbing.on or bool(state.compared())
        self.area.setMaximumHeight(self.lanes.minimumHeight() + 2 if below else _ANY_HEIGHT)
        self.side.show_takes(len(song.takes) > 1)
        self.below.setCurrentWidget(self.ladder if self.climbing.on else self.pairs_area)
        if not below and self.below.isAncestorOf(self.focusWidget()):
            self.focus.setFocus()  # else the next box would have it, and take the letters
        self.below.setVisible(below)
        self._show_pairs(song)
        if state.rounds:
            box = self.lanes.cell(state.lane, state.round)
            middle = box.center() * text_scale()
            self.area.ensureVisible(int(middle.x()), int(middle.y()), scaled(box.width() / 2), 40)
        self.commands.refresh()

    def _show_pairs(self, song: Song) -> None:
        state = self.state
        names = song.take.name, song.takes[state.lane].name
        self.pairs.show_pairs(state.compared(), names, state.chord, song.key_here.prefers_flats)
        if self.pairs.pairs:
            leaf = self.pairs.leaf(min(state.chord, len(self.pairs.pairs) - 1))
            middle = leaf.center() * text_scale()
            self.pairs_area.ensureVisible(int(middle.x()), int(middle.y()), scaled(leaf.width()), 0)

    def _clicked(self, lane: int, place: int) -> None:
        self.lanes.setFocus()
        self.walking.choose(lane, place)

    def show_playing(self, slot: int) -> None:
        if slot < 0:
            self.state.playing = None

    def show_place(self, quarters: float) -> None:
        self.state.playing = quarters
