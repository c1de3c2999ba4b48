"""The Swaps page: chords on the left, proposals in the middle, weighing and the curve at the side."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from PySide6.QtCore import QModelIndex, Qt
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QListView,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.reharm.appetite import APPETITES, Appetite
from yellow_hinge.reharm.rules import RULES
from yellow_hinge.reharm.styles import Style
from yellow_hinge.song.edits import (
    Edit,
    give_back,
    keep_as_it_is,
    set_local_key,
    settle,
    switch_rule,
)
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.commands import Command, fill_menu, refresh_menu
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, Sounding
from yellow_hinge.ui.quiet import QuietList, QuietScroll
from yellow_hinge.ui.swaps_page.curve_side import CurveSide
from yellow_hinge.ui.swaps_page.face import FACES, GripFace
from yellow_hinge.ui.swaps_page.faces import Faces
from yellow_hinge.ui.swaps_page.page_commands import MOST_SWAPS, page_commands, rule_commands
from yellow_hinge.ui.swaps_page.painted import BassView, ChipsView
from yellow_hinge.ui.swaps_page.proposals import ProposalDelegate, ProposalsModel
from yellow_hinge.ui.swaps_page.state import Found, SwapsState
from yellow_hinge.ui.theme import Theme, scaled
from yellow_hinge.ui.worker import Deliver, Progress, Worker

if TYPE_CHECKING:
    from yellow_hinge.tasks.swaps.desk import SwapDesk
    from yellow_hinge.tasks.swaps.reharmonise import TradePoint

_CHIPS_WIDTH, _SIDE_WIDTH = 220, 350
MakeDesk = Callable[[], "SwapDesk"]


class _Curve(Struct, frozen=True):
    """A trade curve with what it may touch."""

    appetite: Appetite
    points: Sequence[TradePoint]


def _part(progress: Progress, number: int, parts: int) -> Progress:
    """The progress of one of several pieces of work."""
    return lambda share: progress((number + share) / parts)


class SwapsPage(Page):
    """The page. The desk that weighs swaps is made when it is first needed."""

    name = "Swaps"

    def __init__(self, document: Document, make_desk: MakeDesk, parent: QWidget | None = None) -> None:
        self.state = SwapsState()
        super().__init__(document, parent)
        self._make_desk = make_desk
        self._desk: SwapDesk | None = None
        document.learned.connect(self._begin_anew)
        self.model = ProposalsModel()
        self._delegate = ProposalDelegate(self.model)
        self.worker = Worker(self)
        self.face = FACES[0].id
        self.worker.done.connect(self._take)
        self.worker.part.connect(self._take)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))
        self.worker.busy.connect(self._show_busy)
        self.worker.progress.connect(lambda share: self.curve_side.progress.setValue(int(share * 100)))
        self._build()

    # --- commands ---

    def make_commands(self) -> Sequence[Command]:
        return page_commands(self)

    def rule_on(self, rule: str) -> bool:
        return rule not in self.document.song.arrangement.rules_off

    # --- building ---

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        self.chips = ChipsView(self.state)
        self.chips.chosen.connect(self.choose)
        self.chips_area = scroll = QuietScroll()
        scroll.setWidgetResizable(True)
        scroll.setFixedWidth(scaled(_CHIPS_WIDTH))
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.chips)
        layout.addWidget(scroll)
        proposals = QWidget()
        proposals.setObjectName("bare")
        proposals.setLayout(self._build_middle())
        self.faces = Faces(self.document, proposals, self.commands, self.state.marked)
        self.faces.hear.connect(self.hear)
        self.faces.said.connect(self.said)
        layout.addWidget(self.faces, 1)
        self.heading = self.faces.heading
        self.side = self._build_side()
        layout.addWidget(self.side)

    @property
    def grip_face(self) -> GripFace | None:
        """The face that works on the grip; None while proposals are shown."""
        return None if self.face == FACES[0].id else self.faces.made.get(self.face)

    def open_face(self, name: str) -> None:
        """Show another face."""
        self.face = name
        self.faces.open(name)
        self.side.setVisible(self.grip_face is None)
        self._show_face()
        self.show_all()

    def _show_face(self) -> None:
        if self.grip_face is not None and self.isVisible():
            self.grip_face.show_chord(self.state.sounding_slot)

    def _build_middle(self) -> QVBoxLayout:
        middle = QVBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        bar = QHBoxLayout()
        label = QLabel("Key here")
        label.setObjectName("quiet")
        self.key_box = Choice()
        self.key_box.setMinimumWidth(180)
        self.key_box.setAccessibleName("Local key of the chosen chord")
        self.key_box.setToolTip("The key that the rules count from here; yours goes before what was found")
        self.key_box.activated.connect(lambda _: self._set_key())
        self.rules_button = QPushButton("Rules")
        self.rules_button.setToolTip("Switch single rules on or off")
        self.rules_menu = QMenu(self)
        fill_menu(self.rules_menu, rule_commands(self), "Rules")
        self.rules_button.setMenu(self.rules_menu)
        for widget in (label, self.key_box):
            bar.addWidget(widget)
        bar.addStretch(1)
        bar.addWidget(self.commands.bind(QPushButton(), "keep"))
        bar.addWidget(self.rules_button)
        middle.addLayout(bar)
        self.list = QuietList()
        self.list.setModel(self.model)
        self.list.setItemDelegate(self._delegate)
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.setAccessibleName("Proposals for the chosen chord")
        self.list.clicked.connect(self._clicked)
        self.list.doubleClicked.connect(lambda _: self.commands["accept"].try_run())
        middle.addWidget(self.list, 1)
        self._build_query(middle)
        return middle

    def _build_query(self, middle: QVBoxLayout) -> None:
        """What chords fit this melody note?"""
        query = QHBoxLayout()
        asked = QLabel("Chords that fit a melody note")
        asked.setObjectName("quiet")
        self.note_box = Choice()
        self.note_box.setAccessibleName("Melody note to find chords for")
        self.note_box.setToolTip("Chord tones first, then tensions; chords of the key first in each")
        self.note_box.activated.connect(lambda _: self._show_fitting())
        query.addWidget(asked)
        query.addWidget(self.note_box)
        query.addStretch(1)
        middle.addLayout(query)
        self.fitting = QLabel()
        self.fitting.setWordWrap(True)
        middle.addWidget(self.fitting)

    def _build_side(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("panel")
        panel.setFixedWidth(scaled(_SIDE_WIDTH))
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(14, 12, 14, 12)
        self.title, self.reason = QLabel(), QLabel()
        self.title.setObjectName("title")
        for words in (self.title, self.reason):
            words.setWordWrap(True)
        self.bass_label, self.melody_label, self.motion_label = QLabel(), QLabel(), QLabel()
        for quiet in (self.bass_label, self.melody_label, self.motion_label):
            quiet.setObjectName("quiet")
            quiet.setWordWrap(True)
        self.bass = BassView()
        for widget in (self.title, self.reason, self.bass, self.bass_label, self.melody_label,
                       self.motion_label):  # fmt: skip
            layout.addWidget(widget)
        buttons = QHBoxLayout()
        for command in ("hear", "accept", "back"):
            buttons.addWidget(self.commands.bind(QPushButton(), command))
        layout.addLayout(buttons)
        layout.addWidget(self.commands.bind(QPushButton(), "variant"))
        layout.addStretch(1)
        self.curve_side = CurveSide(self.state, self.commands)
        self.curve_side.touches.connect(self._choose_appetite)
        self.curve_side.styled.connect(self._choose_style)
        self.curve_side.picked.connect(self.take_point)
        layout.addWidget(self.curve_side)
        return panel

    # --- showing ---

    @property
    def focus(self) -> QWidget:
        return self.chips

    def entered(self) -> None:
        self.choose_slot(self.document.chosen)

    def close_page(self) -> None:
        self.worker.close()
        self.faces.close_faces()

    def fit_text(self) -> None:
        self.chips_area.setFixedWidth(scaled(_CHIPS_WIDTH))
        self.side.setFixedWidth(scaled(_SIDE_WIDTH))

    def set_theme(self, theme: Theme) -> None:
        super().set_theme(theme)
        for widget in (self.chips, self.bass, self.curve_side.curve, self._delegate):
            widget.theme = theme
        self.faces.set_theme(theme)
        self.show_all()

    def refresh(self) -> None:
        """Take over the document; search for proposals when the page is seen."""
        self.state.take(self.document.song)
        if self.isVisible():
            self.look()
        self.show_all()

    def look(self) -> None:
        """Find the proposals of the song as it is, unless they are there."""
        song = self.document.song
        self.state.take(song)
        self._show_face()
        at = self.state.at
        if at is not None and song.slots and (self.state.found is None or not self.state.weighed):
            self._start(lambda desk, progress: desk.look(song, at, progress))
        self.show_all()

    def _begin_anew(self) -> None:
        """There are other recipes: the next question makes a new desk."""
        self._desk = None

    def _start(self, job: Callable[[SwapDesk, Progress], object]) -> None:
        self._begin(lambda desk, progress, _: job(desk, progress))

    def _begin(self, job: Callable[[SwapDesk, Progress, Deliver], object]) -> None:
        def run(progress: Progress, deliver: Deliver) -> object:
            if self._desk is None:
                self._desk = self._make_desk()
            return job(self._desk, progress, deliver)

        self.worker.start(run)

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
        self.show_all()

    def _show_busy(self, busy: bool) -> None:
        self.curve_side.show_busy(busy)
        if self.state.proposal is None:
            self._show_proposal()
        self.commands.refresh()

    def show_all(self) -> None:
        """Everything from the state."""
        state = self.state
        self.heading.setText(state.heading())
        self.chips.say_chosen(state.heading())
        self.chips.grow()
        place = self.chips.place_of(state.chosen)
        if place is not None:
            self.chips_area.ensureVisible(0, int(place.center().y()), 0, int(place.height()))
        lines = state.lines()
        if lines != self.model.lines:
            self.model.take(lines)
        proposals = [line.proposal for line in lines]
        chosen = proposals.index(state.proposal) if state.proposal in proposals and state.proposal else -1
        if chosen >= 0:
            self.list.setCurrentIndex(self.model.index(chosen))
        self._show_keys()
        self._show_proposal()
        self.curve_side.refresh()
        self._show_fitting()
        self.commands.refresh()
        refresh_menu(self.rules_menu)

    def _show_keys(self) -> None:
        choices = self.state.key_choices()
        self.key_box.clear()
        for key, words in choices:
            self.key_box.addItem(words, key)
        own = self.state.key_set
        self.key_box.setCurrentIndex(next((i for i, (key, _) in enumerate(choices) if key == own), 0))

    def _show_fitting(self) -> None:
        note = self.note_box.currentIndex()
        choices = self.state.note_choices()
        self.note_box.clear()
        for name, words in choices:
            self.note_box.addItem(words, name)
        self.note_box.setCurrentIndex(max(0, note))
        self.fitting.setText(self.state.fitting_words(choices[max(0, note)][0]) + "...")

    def _show_proposal(self) -> None:
        state, proposal = self.state, self.state.proposal
        if proposal is not None:
            title, reason = RULES[proposal.rule].name, f"{proposal.reason[0].upper()}{proposal.reason[1:]}."
        elif self.worker.running:
            title, reason = "one moment", "What may stand here is being weighed."
        else:
            title, reason = "no proposal here", "Choose another chord on the left, or switch more rules on."
        self.title.setText(title.capitalize())
        self.reason.setText(reason)
        self.bass.show_lines(*((), ()) if proposal is None else (proposal.bass_was, proposal.bass))
        was, now = state.bass_lines()
        self.bass_label.setText(f"Bass now {was}; then {now}" if now else "")
        self.melody_label.setText("\n".join(state.melody_lines()[:4]))
        self.motion_label.setText(state.motion_words())

    # --- acting ---

    def choose(self, place: int) -> None:
        """Another chord, by its place in the chart."""
        self.state.take(self.document.song)
        self.state.choose(place)
        if self.state.first is not None:
            self.document.chosen = self.state.sounding_slot
        self.look()

    def choose_slot(self, slot: int) -> None:
        """The written chord behind a sounding one."""
        song = self.document.song
        self.choose(song.chart.by_id[song.slots[slot].at.written].index if slot < len(song.slots) else 0)

    def step(self, direction: int) -> None:
        self.choose(self.state.chosen + direction)

    def step_list(self, direction: int) -> None:
        if self.grip_face is not None:
            self.grip_face.step(direction)
            return
        self.state.step(direction)
        self.show_all()

    def _clicked(self, index: QModelIndex) -> None:
        proposal = self.model.lines[index.row()].proposal
        if proposal is not None:
            self.state.proposal = proposal
            self.show_all()

    def next_variant(self) -> None:
        """The proposal with other qualities of its twos and dominants."""
        if self.state.next_variant():
            proposal, song = self.state.proposal, self.document.song
            if proposal is not None and proposal not in self.state.weighed:
                self._start(lambda desk, _: {proposal: desk.weigh(song, proposal)})
            self.show_all()

    def show_every(self) -> None:
        """All proposals, or the first dozen again."""
        self.state.every = not self.state.every
        self.show_all()

    def audition(self) -> None:
        """The proposal between its neighbours, voiced as it would be; or what the open face has."""
        if self.grip_face is not None:
            self.grip_face.audition()
            return
        heard = self.state.heard()
        if heard is not None:
            song, first, last = heard
            self.hear.emit(Sounding(song, row(song, self.document.library), first, last))

    def accept(self) -> None:
        """Put the proposal in place, or what is chosen on the open face."""
        if self.grip_face is not None:
            self.grip_face.take(whole=False)
            return
        proposal = self.state.proposal
        if proposal is None:
            return
        if proposal in self.state.weighed:
            label = f"Swap for {proposal.chords[0].chord.pretty}"
            self.document.apply(Edit(self.state.weighed[proposal].song, label))
            return
        self._start(lambda desk, progress: desk.look(self.document.song, proposal.at, progress))

    def give_back(self) -> None:
        """The chart's chord comes back."""
        if self.state.at is not None:
            self.document.apply(give_back(self.document.song, self.state.at))

    def toggle_kept(self) -> None:
        """Keep the chosen chord from swaps, or let it go."""
        if self.state.at is not None:
            self.document.apply(keep_as_it_is(self.document.song, self.state.at, not self.state.kept))

    def toggle_rule(self, rule: str) -> None:
        """Switch a rule on or off."""
        edit = switch_rule(self.document.song, rule, not self.rule_on(rule), RULES[rule].name)
        self.document.apply(edit)

    def _set_key(self) -> None:
        if self.state.at is not None:
            key = self.key_box.currentData()
            self.document.apply(set_local_key(self.document.song, self.state.at, key))

    def work_out(self) -> None:
        """The trade curves of the song as it is, that of the chosen appetite first."""
        song, chosen = self.document.song, self.state.appetite
        if not song.slots:
            return
        order = [chosen, *(name for name in APPETITES if name != chosen)]

        def job(desk: SwapDesk, progress: Progress, deliver: Deliver) -> object:
            found: list[_Curve] = []
            for number, name in enumerate(order):
                share = _part(progress, number, len(order))
                found.append(_Curve(name, desk.curve(song, MOST_SWAPS, share, name)))
                deliver(found[-1])
            return found[-1]

        self._begin(job)

    def _choose_style(self, style: str | None) -> None:
        self.document.apply(settle(self.document.song, style=style))

    def learn_style(self) -> None:
        """A style of the player's own from the swaps of this take."""
        song = self.document.song
        self._start(lambda desk, _: desk.learn_style(song))

    def _learnt(self, style: Style) -> None:
        self.state.found, self.state.curves = None, {}  # one that held already may weigh otherwise now
        self.document.apply(settle(self.document.song, style=style.id))
        self.document.noted.emit((f"The style \u201c{style.name}\u201d holds now: {style.words}.",))
        self.look()

    def _choose_appetite(self, appetite: Appetite) -> None:
        self.state.appetite = appetite
        self.show_all()

    def stop(self) -> None:
        """Nothing more is weighed, on the page and on its open face."""
        self.worker.cancel()
        if self.grip_face is not None:
            self.grip_face.stop()

    @property
    def weighing(self) -> bool:
        face = self.grip_face
        return self.worker.running or (face is not None and face.worker.running)

    def mark(self) -> None:
        """The next line or the rung of the open face; on the proposals: for the grid, or no longer."""
        if self.grip_face is not None:
            self.grip_face.mark()
        elif self.state.mark():
            self.show_all()

    def take_point(self, swaps: int) -> None:
        """Take the swaps of a point on the curve."""
        point = next((one for one in self.state.curve if one.swaps == swaps), None)
        if point is not None:
            kept = self.state.curves
            self.document.apply(Edit(point.voiced.song, f"{swaps} swaps"))
            self.state.curves = kept
            self.show_all()
