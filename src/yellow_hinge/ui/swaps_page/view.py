"""The Swaps page: chords on the left, proposals in the middle, weighing and the curve at the side."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QAction, QPainter, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QListView,
    QMenu,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.reharm.rules import RULES
from yellow_hinge.song.edits import Edit, with_rule
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.describe_song import row
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.swaps_page.painted import BassView, ChipsView, CurveView
from yellow_hinge.ui.swaps_page.state import Found, Line, SwapsState
from yellow_hinge.ui.theme import LIGHT, Theme, font
from yellow_hinge.ui.worker import Progress, Worker
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.tasks.reharmonise import TradePoint
    from yellow_hinge.tasks.swap_desk import SwapDesk

MOST_SWAPS = 8
_Index = QModelIndex | QPersistentModelIndex
MakeDesk = Callable[[Library], "SwapDesk"]


class ProposalsModel(QAbstractListModel):
    """The lines of the chosen chord."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: list[Line] = []

    def take(self, lines: list[Line]) -> None:
        self.beginResetModel()
        self.lines = lines
        self.endResetModel()

    def rowCount(self, _: _Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return len(self.lines)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        line = self.lines[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return " ".join(filter(None, (line.title, line.figure, line.melody, line.detail)))
        if role == Qt.ItemDataRole.ToolTipRole and line.proposal is not None:
            return f"{line.detail}\nThe figure: what it adds to the effort of the song, in half steps."
        return None

    def flags(self, index: _Index) -> Qt.ItemFlag:
        if self.lines[index.row()].proposal is None:
            return Qt.ItemFlag.ItemIsEnabled
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable


class ProposalDelegate(QStyledItemDelegate):
    """Draws a proposal with its figure, reason, group and the melody's verdict, or how many more."""

    def __init__(self, model: ProposalsModel) -> None:
        super().__init__()
        self._model = model
        self.theme = LIGHT

    def sizeHint(self, _: QStyleOptionViewItem, index: _Index) -> QSize:
        return QSize(200, 28 if self._model.lines[index.row()].proposal is None else 60)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        line = self._model.lines[index.row()]
        rect = QRectF(option.rect).adjusted(3, 2, -3, -2)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if line.proposal is None:
            painter.setFont(font(0.95, bold=True))
            painter.setPen(self.theme.color("muted"))
            painter.drawText(rect.adjusted(4, 4, 0, 0), Qt.AlignmentFlag.AlignVCenter, line.title)
        else:
            self._paint_proposal(painter, rect, line, bool(option.state & QStyle.StateFlag.State_Selected))
        painter.restore()

    def _paint_proposal(self, painter: QPainter, rect: QRectF, line: Line, selected: bool) -> None:
        clash = line.proposal is not None and not line.proposal.safe
        painter.setBrush(self.theme.color("surface"))
        painter.setPen(QPen(self.theme.color("ink" if selected else "line"), 2 if selected else 1))
        painter.drawRoundedRect(rect, 5, 5)
        inner = rect.adjusted(9, 5, -9, -5)
        top = QRectF(inner.x(), inner.y(), inner.width(), 20)
        painter.setPen(self.theme.color("ink"))
        painter.setFont(font(1.08, bold=True))
        painter.drawText(top, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, line.title)
        painter.drawText(top, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, line.figure)
        painter.setFont(font(0.85, bold=clash))
        painter.setPen(self.theme.color("wrong" if clash else "muted"))
        middle = top.adjusted(0, 0, -44, 0)
        painter.drawText(middle, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, line.melody)
        painter.setFont(font(0.88))
        painter.setPen(self.theme.color("muted"))
        bottom = QRectF(inner.x(), inner.bottom() - 19, inner.width(), 19)
        words = painter.fontMetrics().elidedText(
            line.detail, Qt.TextElideMode.ElideRight, int(bottom.width())
        )
        painter.drawText(bottom, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)


class SwapsView(QWidget):
    """The page. ``audition`` carries (song, row, first slot, last slot); ``said`` problems."""

    audition = Signal(object, object, int, int)
    said = Signal(tuple)

    def __init__(self, document: Document, make_desk: MakeDesk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._document, self._make_desk = document, make_desk
        self._desk: SwapDesk | None = None
        self.state = SwapsState()
        self.model = ProposalsModel()
        self._delegate = ProposalDelegate(self.model)
        self.worker = Worker(self)
        self.worker.done.connect(self._take)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))
        self.worker.busy.connect(self._show_busy)
        self.worker.progress.connect(lambda share: self.progress.setValue(int(share * 100)))
        self._build()
        document.changed.connect(self.refresh)

    # --- building ---

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        self.chips = ChipsView(self.state)
        self.chips.chosen.connect(self.choose)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFixedWidth(290)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.chips)
        layout.addWidget(scroll)
        layout.addLayout(self._build_middle(), 1)
        layout.addWidget(self._build_side())

    def _build_middle(self) -> QVBoxLayout:
        middle = QVBoxLayout()
        self.heading = QLabel()
        self.heading.setObjectName("title")
        self.heading.setWordWrap(True)
        middle.addWidget(self.heading)
        bar = QHBoxLayout()
        label = QLabel("Key here")
        label.setObjectName("quiet")
        self.key_box = QComboBox()
        self.key_box.setMinimumWidth(180)
        self.key_box.setAccessibleName("Local key of the chosen chord")
        self.key_box.setToolTip("The key that the rules count from here; yours goes before what was found")
        self.key_box.activated.connect(lambda _: self._set_key())
        self.keep_button = QPushButton("Keep as it is (X)")
        self.keep_button.setCheckable(True)
        self.keep_button.setToolTip("No swap ever takes this chord (X)")
        self.keep_button.clicked.connect(self.toggle_kept)
        self.rules_button = QPushButton("Rules")
        self.rules_button.setToolTip("Switch single rules on or off")
        self.rules_menu = QMenu(self)
        self.rule_actions: dict[str, QAction] = {}
        for rule in RULES.values():
            action = self.rules_menu.addAction(rule.name)
            action.setCheckable(True)
            action.triggered.connect(partial(self.set_rule, rule.id))
            self.rule_actions[rule.id] = action
        self.rules_button.setMenu(self.rules_menu)
        for widget in (label, self.key_box):
            bar.addWidget(widget)
        bar.addStretch(1)
        bar.addWidget(self.keep_button)
        bar.addWidget(self.rules_button)
        middle.addLayout(bar)
        self.list = QListView()
        self.list.setModel(self.model)
        self.list.setItemDelegate(self._delegate)
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.setAccessibleName("Proposals for the chosen chord")
        self.list.clicked.connect(self._clicked)
        self.list.doubleClicked.connect(lambda _: self.accept())
        middle.addWidget(self.list, 1)
        self._build_query(middle)
        return middle

    def _build_query(self, middle: QVBoxLayout) -> None:
        """What chords fit this melody note?"""
        query = QHBoxLayout()
        asked = QLabel("Chords that fit a melody note")
        asked.setObjectName("quiet")
        self.note_box = QComboBox()
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
        panel.setFixedWidth(330)
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
        self.hear_button = QPushButton("Hear (H)")
        self.hear_button.setToolTip("Hear it between its neighbours, before anything is changed (H)")
        self.hear_button.clicked.connect(self.hear)
        self.accept_button = QPushButton("Take (Return)")
        self.accept_button.setToolTip("Put it in place; undo takes it back (Return)")
        self.accept_button.clicked.connect(self.accept)
        self.back_button = QPushButton("Give back (R)")
        self.back_button.setToolTip("The chart's own chord comes back (R)")
        self.back_button.clicked.connect(self.give_back)
        for button in (self.hear_button, self.accept_button, self.back_button):
            buttons.addWidget(button)
        layout.addLayout(buttons)
        self.variant_button = QPushButton("Other qualities (V)")
        self.variant_button.setToolTip(
            "The same roots with a half-diminished two, a flat ninth, a raised fifth... in turn (V)"
        )
        self.variant_button.clicked.connect(self.next_variant)
        layout.addWidget(self.variant_button)
        layout.addStretch(1)
        self._build_curve(layout)
        return panel

    def _build_curve(self, layout: QVBoxLayout) -> None:
        heading = QLabel("What swaps buy in the whole song")
        heading.setObjectName("heading")
        heading.setToolTip("Exact over the best swaps that fit the melody, and over all voicings")
        layout.addWidget(heading)
        self.curve = CurveView()
        self.curve.picked.connect(self.take_point)
        layout.addWidget(self.curve)
        self.curve_label = QLabel()
        self.curve_label.setObjectName("quiet")
        self.curve_label.setWordWrap(True)
        layout.addWidget(self.curve_label)
        row_of = QHBoxLayout()
        self.curve_button = QPushButton("Work it out (C)")
        self.curve_button.setToolTip(f"The least effort with 0 to {MOST_SWAPS} swaps (C)")
        self.curve_button.clicked.connect(self.work_out)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.cancel = QPushButton("Cancel")
        self.cancel.clicked.connect(self.worker.cancel)
        for shown in (self.curve_button, self.progress, self.cancel):
            row_of.addWidget(shown)
        layout.addLayout(row_of)
        self._show_busy(False)

    # --- showing ---

    def set_theme(self, theme: Theme) -> None:
        for widget in (self.chips, self.bass, self.curve, self._delegate):
            widget.theme = theme
        self.show_all()

    def refresh(self) -> None:
        """Take over the document; search for proposals when the page is seen."""
        self.state.take(self._document.song)
        if self.isVisible():
            self.look()
        self.show_all()

    def look(self) -> None:
        """Find the proposals of the song as it is, unless they are there."""
        song = self._document.song
        self.state.take(song)
        if song.slots and (self.state.found is None or not self.state.weighed):
            self._start(lambda desk, progress: desk.look(song, self.state.chosen, progress))
        self.show_all()

    def _start(self, job: Callable[[SwapDesk, Progress], object]) -> None:
        def run(progress: Progress) -> object:
            if self._desk is None:
                self._desk = self._make_desk(self._document.library)
            return job(self._desk, progress)

        self.worker.start(run)

    def _take(self, result: object) -> None:
        if isinstance(result, dict):  # a variant that was weighed
            self.state.weighed = {**self.state.weighed, **result}
        elif isinstance(result, tuple):
            found, base, weighed = result
            self.state.take_found(Found(*found))
            if self.state.found is not None and self.state.found.song is found[0]:
                self.state.base, self.state.weighed = base, weighed
        else:
            self.state.curve = result  # type: ignore[assignment]
        self.show_all()

    def _show_busy(self, busy: bool) -> None:
        self.progress.setVisible(busy)
        self.cancel.setVisible(busy)

    def show_all(self) -> None:
        """Everything from the state."""
        state = self.state
        self.heading.setText(state.heading())
        self.chips.grow()
        lines = state.lines()
        if lines != self.model.lines:
            self.model.take(lines)
        proposals = [line.proposal for line in lines]
        chosen = proposals.index(state.proposal) if state.proposal in proposals and state.proposal else -1
        if chosen >= 0:
            self.list.setCurrentIndex(self.model.index(chosen))
        self.key_box.clear()
        for key, words in state.key_choices():
            self.key_box.addItem(words, key)
        set_key = state.song.keys_set.get(state.chosen)
        self.key_box.setCurrentIndex(
            next((i for i, (key, _) in enumerate(state.key_choices()) if key == set_key), 0)
        )
        self.keep_button.setChecked(state.chosen in state.song.untouched)
        for rule, action in self.rule_actions.items():
            action.setChecked(rule not in state.song.settings.rules_off)
        self._show_proposal()
        self._show_curve()
        self._show_fitting()

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
        self.title.setText("No proposal here" if proposal is None else RULES[proposal.rule].name.capitalize())
        self.reason.setText(
            "Choose another chord on the left, or switch more rules on."
            if proposal is None
            else proposal.reason[0].upper() + proposal.reason[1:] + "."
        )
        self.bass.show_lines(*((), ()) if proposal is None else (proposal.bass_was, proposal.bass))
        was, now = state.bass_lines()
        self.bass_label.setText(f"Bass now {was}; then {now}" if now else "")
        self.melody_label.setText("\n".join(state.melody_lines()[:4]))
        self.motion_label.setText(state.motion_words())
        self.variant_button.setEnabled(proposal is not None)
        self.hear_button.setEnabled(proposal is not None and proposal in state.weighed)
        self.accept_button.setEnabled(proposal is not None)
        self.back_button.setEnabled(state.swapped)

    def _show_curve(self) -> None:
        points = [(point.swaps, round(point.cost / 100)) for point in self.state.curve]
        self.curve.show_points(points, self.state.turn)
        self.curve.setVisible(bool(points))
        swaps = self.state.swapped_words()
        words = "\n".join(swaps[:6] + ([f"... and {len(swaps) - 6} more"] if len(swaps) > 6 else []))
        hint = "Click a point to take that many swaps." if points else "Not worked out yet: press C."
        self.curve_label.setText(words or hint)
        self.curve_button.setEnabled(bool(self.state.song.slots))

    # --- acting ---

    def choose(self, written: int) -> None:
        """Another chord."""
        self.state.take(self._document.song)
        self.state.choose(written)
        self.look()

    def choose_slot(self, slot: int) -> None:
        """The written chord behind a sounding one."""
        slots = self._document.song.slots
        self.choose(slots[slot].written if slot < len(slots) else 0)

    def step(self, direction: int) -> None:
        self.choose(self.state.chosen + direction)

    def step_list(self, direction: int) -> None:
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
            proposal, song = self.state.proposal, self._document.song
            if proposal is not None and proposal not in self.state.weighed:
                self._start(lambda desk, _: {proposal: desk.weigh(song, proposal)})
            self.show_all()

    def show_every(self) -> None:
        """All proposals, or the first dozen again."""
        self.state.every = not self.state.every
        self.show_all()

    def hear(self) -> None:
        """The proposal between its neighbours, voiced as it would be."""
        proposal = self.state.proposal
        if proposal is None or proposal not in self.state.weighed:
            return
        song = self.state.weighed[proposal].song
        slots = [slot.index for slot in song.slots if abs(slot.written - proposal.at) <= 1]
        self.audition.emit(song, row(song, self._document.library), slots[0], slots[-1])

    def _edit(self, song: Song, label: str) -> None:
        self._document.apply(Edit(song, label))

    def accept(self) -> None:
        """Put the proposal in place."""
        proposal = self.state.proposal
        if proposal is None:
            return
        if proposal in self.state.weighed:
            self._edit(self.state.weighed[proposal].song, f"Swap for {proposal.chords[0].chord}")
            return
        self._start(lambda desk, progress: desk.look(self._document.song, proposal.at, progress))

    def give_back(self) -> None:
        """The chart's chord comes back."""
        self._document.give_back(self.state.chosen)

    def toggle_kept(self) -> None:
        """Keep the chosen chord from swaps, or let it go."""
        song = self._document.song
        if song.written:
            self._edit(replace(song, untouched=song.untouched ^ {self.state.chosen}), "Keep the chord")

    def set_rule(self, rule: str, on: bool) -> None:
        """Switch a rule on or off."""
        self._edit(with_rule(self._document.song, rule, on), "Rules")

    def _set_key(self) -> None:
        song, key = self._document.song, self.key_box.currentData()
        kept = {at: own for at, own in song.keys_set.items() if at != self.state.chosen}
        if key is not None:
            kept[self.state.chosen] = key
        self._edit(replace(song, keys_set=kept), "Key here")

    def work_out(self) -> None:
        """The trade curve of the song as it is."""
        song = self._document.song
        if song.slots:
            self._start(lambda desk, progress: desk.curve(song, MOST_SWAPS, progress))

    def take_point(self, swaps: int) -> None:
        """Take the swaps of a point on the curve."""
        point: TradePoint | None = next((one for one in self.state.curve if one.swaps == swaps), None)
        if point is not None:
            kept = self.state.curve
            self._edit(point.voiced.song, f"{swaps} swaps")
            self.state.curve = kept
            self.show_all()
