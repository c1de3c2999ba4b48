"""The workbench: overview, row, keyboard, and the side panel for what is chosen."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListView,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.motion.hinge import SIDES
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.hinges_page.alternatives import AlternativeDelegate, AlternativesModel
from yellow_hinge.ui.hinges_page.row_view import OverviewView, RowView
from yellow_hinge.ui.hinges_page.state import (
    HINGE_REASONS,
    VOICING_REASONS,
    HingesState,
    Selection,
    pretty_degree,
    take_words,
)
from yellow_hinge.ui.hinges_page.wishes_view import WishesView
from yellow_hinge.ui.keyboard import Ghost, KeyboardView, KeyMark
from yellow_hinge.ui.theme import Theme
from yellow_hinge.voicing.shape import Voicing

if TYPE_CHECKING:
    from yellow_hinge.tasks.solver import Betterment

#: Takes that one can go through.
MOST_TAKES = 4


class HingesView(QWidget):
    """The page. ``audition`` asks for a sound of the chosen leaf or hinge."""

    audition = Signal()

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self._document = document
        self.state = HingesState(document.library)
        self.row_view = RowView(self.state, document)
        self.overview = OverviewView(self.state, self.row_view)
        self.keyboard = KeyboardView()
        self.alternatives = AlternativesModel()
        self._delegate = AlternativeDelegate(self.alternatives)
        self._build()
        self.row_view.chosen.connect(self.select)
        self.overview.chosen.connect(self.select)
        document.changed.connect(self.refresh)
        self.refresh()

    # --- building ---

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        middle.addLayout(self._build_head())
        middle.addLayout(self._build_takes())
        middle.addWidget(self.total)
        middle.addWidget(self.overview)
        middle.addWidget(self.row_view, 1)
        middle.addWidget(self.keyboard)
        layout.addLayout(middle, 1)
        layout.addWidget(self._build_side())

    def _build_head(self) -> QHBoxLayout:
        head = QHBoxLayout()
        self.title = QLabel()
        self.title.setObjectName("title")
        self.total = QLabel()
        self.total.setObjectName("quiet")
        self.total.setMinimumWidth(60)
        self.total.setToolTip(
            "What the search made least, in half steps: the moving of both hands over all changes "
            "(a bass that goes to another note counts less, large moves more), notes that come or go, "
            "how it sounds, how it lies in the hands, and style. Every chord and change says its own share."
        )
        self.melody_button = QPushButton("Tune (M)")
        self.melody_button.setCheckable(True)
        self.melody_button.setToolTip(
            "Show the melody over the leaves: filled is a chord tone, a ring a tension, a dash "
            "passes, a cross clashes (M)"
        )
        self.melody_button.clicked.connect(self.toggle_melody)
        self.label_button = QPushButton()
        self.label_button.setToolTip("What stands on the notes: names, degrees or fingers (N)")
        self.label_button.clicked.connect(self.next_label)
        head.addWidget(self.title)
        head.addStretch(1)
        self.scale_button = QPushButton("Lines (S)")
        self.scale_button.setCheckable(True)
        self.scale_button.setToolTip("For a solo line: the scale on the keys, guide tones and targets (S)")
        self.scale_button.clicked.connect(self.toggle_scale)
        for shown in (self.scale_button, self.melody_button, self.label_button):
            head.addWidget(shown)
        return head

    def _build_takes(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        self.takes = QButtonGroup(self)
        for number in range(MOST_TAKES):
            button = QPushButton()
            button.setCheckable(True)
            button.setObjectName("take")
            self.takes.addButton(button, number)
            row.addWidget(button)
        self.takes.idClicked.connect(self.choose_take)
        row.addStretch(1)
        self.loop_button = QPushButton("Lead back (B)")
        self.loop_button.setObjectName("take")
        self.loop_button.setCheckable(True)
        self.loop_button.setToolTip("A vamp: the last chord leads back to the first, which counts too (B)")
        self.loop_button.clicked.connect(self.toggle_loop)
        row.addWidget(self.loop_button)
        return row

    def _build_side(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("panel")
        panel.setFixedWidth(318)
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(14, 12, 14, 12)
        self.chosen_title = QLabel()
        self.chosen_title.setObjectName("title")
        self.chosen_place = QLabel()
        self.chosen_place.setObjectName("quiet")
        self.chosen_place.setWordWrap(True)
        self.warning = QLabel()
        self.warning.setObjectName("wrong")
        self.warning.setWordWrap(True)
        self.stack = QStackedWidget()
        self.stack.addWidget(self._build_leaf_side())
        self.stack.addWidget(self._build_hinge_side())
        self.wishing = False
        self.wishes_button = QPushButton()
        self.wishes_button.setToolTip(
            "School, colour and melody for this chord, its section or the song; keep a hand or a note (W)"
        )
        self.wishes_button.clicked.connect(self.toggle_wishes)
        head = QHBoxLayout()
        head.addWidget(self.chosen_title, 1)
        head.addWidget(self.wishes_button)
        layout.addLayout(head)
        for widget in (self.chosen_place, self.warning):
            layout.addWidget(widget)
        layout.addWidget(self.stack, 1)
        return panel

    def _build_leaf_side(self) -> QWidget:
        side = QWidget()
        layout = QVBoxLayout(side)
        layout.setContentsMargins(0, 0, 0, 0)
        self.hand_labels = {name: QLabel() for name in SIDES}
        for label in self.hand_labels.values():
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.RichText)
            layout.addWidget(label)
        self.pair_label, self.melody_label = QLabel(), QLabel()
        for label in (self.pair_label, self.melody_label):
            label.setObjectName("quiet")
            label.setWordWrap(True)
            layout.addWidget(label)
        buttons = QHBoxLayout()
        self.lock_button = QPushButton("Lock (L)")
        self.lock_button.setToolTip("Keep this voicing; everything else is solved around it (L)")
        self.lock_button.clicked.connect(self.toggle_lock)
        self.try_button = QPushButton("Try (T)")
        self.try_button.setToolTip(
            "Put the voicing chosen below in place, to look and listen; Esc takes it back (T)"
        )
        self.try_button.clicked.connect(self.try_alternative)
        self.hear_button = QPushButton("Hear (H)")
        self.hear_button.setToolTip("Hear this chord between its neighbours (H)")
        self.hear_button.clicked.connect(self.audition)
        for button in (self.lock_button, self.try_button, self.hear_button):
            buttons.addWidget(button)
        layout.addLayout(buttons)
        self.lines_label = QLabel()
        self.lines_label.setWordWrap(True)
        layout.addWidget(self.lines_label)
        self.leaf_reasons = self._reasons_label(layout, "What the voicing itself weighs")
        self.list_heading = QLabel()
        self.list_heading.setObjectName("heading")
        self.list_heading.setToolTip("The number: what each adds to the effort of the song, in half steps.")
        layout.addWidget(self.list_heading)
        self.list = QListView()
        self.list.setModel(self.alternatives)
        self.list.setItemDelegate(self._delegate)
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.setAccessibleName("Other voicings of the chosen chord")
        self.list.doubleClicked.connect(self.try_alternative)
        layout.addWidget(self.list, 1)
        return side

    def _build_hinge_side(self) -> QWidget:
        side = QWidget()
        layout = QVBoxLayout(side)
        layout.setContentsMargins(0, 0, 0, 0)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        layout.addWidget(self.words)
        hear = QPushButton("Hear the change (H)")
        hear.setToolTip("Hear the two chords, one after the other (H)")
        hear.clicked.connect(self.audition)
        layout.addWidget(hear)
        grid = QGridLayout()
        grid.setVerticalSpacing(1)
        self.figures: list[tuple[QLabel, QLabel]] = []
        for row in range(6):
            figure, label = QLabel(), QLabel()
            figure.setObjectName("figure")
            label.setObjectName("quiet")
            grid.addWidget(figure, row, 0, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label, row, 1, Qt.AlignmentFlag.AlignLeft)
            self.figures.append((figure, label))
        grid.setColumnStretch(1, 1)
        grid.setHorizontalSpacing(12)
        layout.addSpacing(10)
        layout.addLayout(grid)
        self.hinge_reasons = self._reasons_label(layout, "Its share of the effort")
        self.better_label = QLabel()
        self.better_label.setWordWrap(True)
        self.better_button = QPushButton("Try the smaller change (G)")
        self.better_button.setToolTip("Go to that chord with the other voicing on trial (G)")
        self.better_button.clicked.connect(self.try_better)
        layout.addSpacing(10)
        layout.addWidget(self.better_label)
        layout.addWidget(self.better_button)
        self._build_fills(layout)
        layout.addStretch(1)
        side.setObjectName("bare")
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(side)
        return scroll

    def _build_fills(self, layout: QVBoxLayout) -> None:
        self.fills_heading = QLabel("Small notes on the way")
        self.fills_heading.setObjectName("heading")
        self.fills_heading.setToolTip("Ticked ones are played and exported to MIDI with the chords")
        self.fills = QListWidget()
        self.fills.setAccessibleName("Small notes on the way to the next chord")
        self.fills.setWordWrap(True)
        self.fills.itemChanged.connect(self._fill_ticked)
        layout.addSpacing(6)
        layout.addWidget(self.fills_heading)
        layout.addWidget(self.fills)

    @staticmethod
    def _reasons_label(layout: QVBoxLayout, words: str) -> QLabel:
        """A heading with a label under it for the reasons."""
        heading = QLabel(words)
        heading.setObjectName("heading")
        heading.setToolTip("Reasons with their shares, in half steps: what the search has added up here.")
        label = QLabel()
        label.setObjectName("quiet")
        label.setWordWrap(True)
        layout.addSpacing(4)
        layout.addWidget(heading)
        layout.addWidget(label)
        return label

    # --- showing ---

    def set_theme(self, theme: Theme) -> None:
        for widget in (self.row_view, self.overview, self.keyboard, self._delegate):
            widget.theme = theme
        self.show_all()

    def refresh(self) -> None:
        """Take over the document as it is now."""
        self.state.take(self._document.song, self._document.row)
        self.row_view.follow(self.state.selection.index)
        self.show_all()

    def show_all(self) -> None:
        """Everything from the state."""
        song = self.state.song
        self.title.setText(song.title or "Untitled")
        self.state.effort = self._document.effort
        self.total.setText(self.state.total_words(self._document.exact and self.state.trial is None))
        self.label_button.setText(f"Notes: {self.state.label} (N)")
        self._show_takes()
        self.scale_button.setChecked(self.state.scale)
        self.melody_button.setChecked(self.state.melody)
        self.melody_button.setEnabled(any(self.state.row.melody))
        self.loop_button.setChecked(song.settings.loop)
        self.loop_button.setEnabled(len(song.slots) > 1)
        self._show_side()
        self._show_keyboard()
        for view in (self.row_view, self.overview):
            view.update()
        self.list.viewport().update()

    def _show_side(self) -> None:
        state = self.state
        if not state.song.slots:
            self.chosen_title.setText("Nothing chosen")
            self.chosen_place.setText("Type a chart on the Song page first.")
            self.stack.setVisible(False)
            return
        self.stack.setVisible(True)
        self.chosen_title.setText(state.chosen_title())
        self.wishes_button.setText("Back (W)" if self.wishing else "Wishes (W)")
        self.wishes_button.setVisible(not state.selection.on_hinge)
        if state.selection.on_hinge:
            self.stack.setCurrentIndex(1)
            self._show_hinge()
        elif self.wishing:
            self.stack.setCurrentWidget(self.wishes)
            self.warning.hide()
            self.chosen_place.setText(state.chosen_place())
            self.wishes.refresh()
        else:
            self.stack.setCurrentIndex(0)
            self._show_leaf()

    @cached_property
    def wishes(self) -> WishesView:
        """The wishes panel, made when it is first wanted: the leaves come first."""
        panel = WishesView(self._document, self.state)
        self.stack.addWidget(panel)
        return panel

    def _show_takes(self) -> None:
        """Each take with its effort; one button at the least."""
        song, takes = self.state.song, self._document.takes
        for number, button in enumerate(self.takes.buttons()):
            known = number < len(takes)
            button.setVisible(bool(song.slots) and (known or number == song.settings.take))
            button.setChecked(number == song.settings.take)
            words = f"Take {number + 1}"
            if known:
                lines = take_words(takes[number], len(song.slots))
                words = f"{words}: effort {lines[0]}"
                button.setToolTip("\n".join(("K goes to the next take.", *lines[1:])))
            button.setText(words)

    def _show_hinge(self) -> None:
        report = self.state.row.hinges[self.state.selection.index]
        self.chosen_place.setText("The change from one chord to the next")
        self.warning.hide()
        self.words.setText(report.pretty_words.replace("\n", "\n\n"))
        self.hinge_reasons.setText(self.state.reasons(self._document.hinge_terms, HINGE_REASONS) or "nothing")
        self._show_fills()
        better = self._better()
        self.better_label.setText(self.state.betterment_words(better))
        self.better_button.setVisible(better is not None)
        numbers = self.state.hinge_numbers(report)
        for (figure, label), (value, words, how) in zip(self.figures, numbers, strict=True):
            figure.setText(value.replace("-", "−"))
            label.setText(words)
            figure.setToolTip(how)
            label.setToolTip(how)

    def _show_fills(self) -> None:
        self.fills.blockSignals(True)
        self.fills.clear()
        for connection, taken in self.state.fill_choices():
            item = QListWidgetItem(connection.words)
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if taken else Qt.CheckState.Unchecked)
            item.setData(Qt.ItemDataRole.UserRole, connection)
            self.fills.addItem(item)
        self.fills.blockSignals(False)
        any_found = self.fills.count() > 0
        self.fills.setFixedHeight(min(150, 16 + 40 * self.fills.count()))
        self.fills.setVisible(any_found)
        self.fills_heading.setVisible(any_found)

    def _fill_ticked(self, item: QListWidgetItem) -> None:
        connection = item.data(Qt.ItemDataRole.UserRole)
        on = item.checkState() == Qt.CheckState.Checked
        self._document.ask(self.state.selection.index, self.state.with_fill(connection, on))

    def _show_leaf(self) -> None:
        state, index = self.state, self.state.selection.index
        self.chosen_place.setText(state.chosen_place())
        warnings = state.warnings(state.song.settings.profile)
        self.warning.setText(" ".join(warnings))
        self.warning.setVisible(bool(warnings))
        for side, words in state.hand_lines(self._document.families):
            color = getattr(self.row_view.theme, side)
            self.hand_labels[side].setText(f'<b style="color:{color}">{side.capitalize()}</b> {words}')
        self.lines_label.setVisible(state.scale)
        self.lines_label.setText(state.soloing_words() if state.scale else "")
        self.pair_label.setText(state.pair_line(self._document.families))
        melody = state.melody_line()
        self.melody_label.setText(f"Melody: {melody}" if melody else "")
        self.melody_label.setVisible(bool(melody))
        self.leaf_reasons.setText(state.reasons(self._document.voicing_terms, VOICING_REASONS) or "nothing")
        trial = state.trial is not None
        locked = state.song.locked(index) and not trial
        self.lock_button.setText("Unlock (L)" if locked else "Lock (L)")
        self.lock_button.setEnabled(bool(state.row.held[index].voicing.keys))
        self.try_button.setText("Put back (Esc)" if trial else "Try (T)")
        ranked = self._document.alternatives
        ways_out = self._document.reductions.get(index, [])
        lines = state.alternative_lines(ranked[index], ways_out) if index < len(ranked) else []
        if lines != self.alternatives.lines:
            self.alternatives.take(lines)
        self.list_heading.setText(_list_heading(bool(ways_out), bool(lines), self._document.worker.running))
        self.try_button.setEnabled(trial or len(lines) > 1)

    def _show_keyboard(self) -> None:
        state = self.state
        if not state.song.slots or state.empty_words:
            self.keyboard.show_chord((48, 84), {}, ())
            return
        index = state.selection.index
        held = state.row.held[index]
        marks: dict[int, KeyMark] = {}
        bass = state.row.bassist[index]
        if bass is not None and held.chord is not None:
            marks[bass] = KeyMark("bass", held.chord.bass_name.pretty, "bass")
        for side in SIDES:
            shape, fingers = held.hand(side)
            for key, degree, finger in zip(shape.keys, shape.degrees, fingers, strict=True):
                marks[key] = KeyMark(side, pretty_degree(degree), str(finger))
        ghosts = []
        if index < len(state.row.hinges):
            for side in SIDES:
                motion = state.row.hinges[index].hand(side)
                ghosts += [Ghost(side, start, to) for start, to in motion.pairs]
                ghosts += [Ghost(side, None, key) for key in motion.entered]
                ghosts += [Ghost(side, key, None) for key in motion.left]
        low, high = state.key_range()
        caption = f"On the keys: degree, and finger below. {state.stretch_words()}"
        if ghosts:
            after = state.song.slots[state.after(index)].chord
            caption += f" Above: the way to {'N.C.' if after is None else after.pretty}; yellow stays."
        self.keyboard.show_chord((min(low, 41), max(high, 79)), marks, ghosts, caption)
        scale = state.scale_here() if state.scale else None
        self.keyboard.show_scale(frozenset() if scale is None else scale.pitch_classes)

    # --- acting ---

    def select(self, selection: Selection) -> None:
        self.state.select(selection)
        self.row_view.follow(selection.index)
        self.show_all()

    def step(self, direction: int) -> None:
        self.state.step(direction)
        self.row_view.follow(self.state.selection.index)
        self.show_all()

    def next_label(self) -> None:
        self.state.next_label()
        self.show_all()

    def next_take(self) -> None:
        """The next take in turn, the first after the last."""
        count = len(self._document.takes)
        if count > 1:
            self.choose_take((self._document.song.settings.take + 1) % count)

    def choose_take(self, take: int) -> None:
        """Show one of the takes."""
        settings = self._document.song.settings
        if take != settings.take:
            self._document.change_settings(replace(settings, take=take), f"Take {take + 1}")

    def toggle_melody(self) -> None:
        """Show or hide the tune over the leaves."""
        self.state.melody = not self.state.melody and any(self.state.row.melody)
        self.show_all()

    def toggle_scale(self) -> None:
        """Show or hide what a solo line needs."""
        self.state.scale = not self.state.scale
        self.show_all()

    def toggle_wishes(self) -> None:
        """The wishes panel, or back to the chosen leaf."""
        if self.state.song.slots and not self.state.selection.on_hinge:
            self.wishing = not self.wishing
            self.show_all()

    def give_back(self) -> None:
        """On a swapped leaf: the chart's own chord comes back."""
        song, selection = self._document.song, self.state.selection
        if song.slots and not selection.on_hinge:
            self._document.give_back(song.slots[selection.index].written)

    def _better(self) -> Betterment | None:
        index, found = self.state.selection.index, self._document.betterments
        return found[index] if self.state.selection.on_hinge and index < len(found) else None

    def try_better(self) -> None:
        """Go to the chord that would make this change smaller, with its voicing on trial."""
        better = self._better()
        if better is not None:
            self.wishing = False
            self.select(Selection(better.at))
            self.state.start_trial(better.voicing)
            self.show_all()
            self.audition.emit()

    def toggle_loop(self) -> None:
        """Lead back to the first chord, or end with the last one."""
        settings = self._document.song.settings
        changed = replace(settings, loop=not settings.loop, take=0)
        self._document.change_settings(changed, "Lead back" if changed.loop else "End the loop")

    def show_playing(self, slot: int) -> None:
        """Mark the leaf that sounds; -1 for none."""
        if slot != self.state.playing:
            self.state.playing = slot
            if slot >= 0:
                self.row_view.follow(slot)
            self.row_view.update()
            self.overview.update()

    def _listed(self) -> Voicing | None:
        """The voicing chosen in the list, else the first that is not in use."""
        lines = self.alternatives.lines
        row = self.list.currentIndex().row()
        if 0 <= row < len(lines):
            return lines[row].voicing
        return next((line.voicing for line in lines if not line.current), None)

    def try_alternative(self) -> None:
        """Put the listed voicing in place on trial, or take the trial back."""
        if self.state.trial is not None:
            self.end_trial()
            return
        voicing = self._listed()
        if voicing is not None and not self.state.selection.on_hinge:
            self.state.start_trial(voicing)
            self.show_all()
            self.audition.emit()

    def end_trial(self) -> None:
        self.state.end_trial()
        self.show_all()

    def toggle_lock(self) -> None:
        """Lock the trial or the voicing in use; unlock a locked one."""
        index = self.state.selection.index
        if self.state.selection.on_hinge or not self.state.song.slots:
            return
        trial = self.state.trial
        if trial is None and self.state.song.locked(index):
            self._document.unlock(index)
            return
        voicing = trial or self.state.song.voicing(index)
        if voicing is not None and voicing.keys:
            self.state.end_trial()
            self._document.lock(index, voicing)

    def step_list(self, direction: int) -> None:
        """Walk the list of other voicings."""
        count = self.alternatives.rowCount()
        if count and not self.state.selection.on_hinge:
            row = max(0, min(count - 1, self.list.currentIndex().row() + direction))
            self.list.setCurrentIndex(self.alternatives.index(row))


def _list_heading(reduced: bool, any_lines: bool, running: bool) -> str:
    if running:
        return "Looking for other voicings..."
    if reduced:
        return "Out of reach: ways to play it, then others"
    return "Other voicings, and effort they add" if any_lines else "No other voicing fits here"
