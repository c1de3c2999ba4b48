"""The workbench: overview, row, keyboard, and the side panel for what is chosen."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from yellow_hinge.song.edits import (
    choose,
    copy_take,
    drop_take,
    give_back,
    go_to_take,
    keep_row,
    lead_back,
    set_lock,
    vary_with_copy,
)
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.hinges_page.hinge_side import HingeSide
from yellow_hinge.ui.hinges_page.leaf_side import LeafSide
from yellow_hinge.ui.hinges_page.row_view import OverviewView, RowView
from yellow_hinge.ui.hinges_page.state import HingesState, Selection
from yellow_hinge.ui.hinges_page.takes_bar import TakesBar
from yellow_hinge.ui.hinges_page.wishes_view import WishesView
from yellow_hinge.ui.keyboard import KeyboardView
from yellow_hinge.ui.page import Page, Sounding
from yellow_hinge.ui.theme import Theme

#: Lowest and highest key that the keyboard shows at the least.
_SHOWN_KEYS = (41, 79)


class HingesPage(Page):
    """The page."""

    name = "Hinges"

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.state = HingesState(document.library)
        self.wishing = False
        super().__init__(document, parent)
        self.row_view = RowView(self.state, document)
        self.overview = OverviewView(self.state, self.row_view)
        self.keyboard = KeyboardView()
        self.takes = TakesBar(document, self.state, self.commands)
        self.takes.rows.idClicked.connect(self.show_row)
        self.leaf = LeafSide(document, self.state, self.commands)
        self.hinge = HingeSide(document, self.state, self.commands)
        self._build()
        self.row_view.chosen.connect(self.select)
        self.overview.chosen.connect(self.select)
        self.refresh()

    # --- commands --------------------------------------------------------------------------

    def make_commands(self) -> Sequence[Command]:
        return [*self._walking(), *self._trying(), *self._takes_commands(), *self._showing()]

    def _walking(self) -> list[Command]:
        return [
            Command("forward", "Forward", lambda: self.step(1), ("Right",), tip="To the next leaf or hinge"),
            Command("backward", "Backward", lambda: self.step(-1), ("Left",),
                    tip="To the leaf or hinge before"),
            Command("first", "First chord", lambda: self.select(Selection()), ("Home",)),
            Command("last", "Last chord", self._to_last, ("End",)),
            Command("list-down", "Down the list", lambda: self.leaf.step_list(1), ("Down",),
                    tip="Down the other voicings", enabled=self._on_leaf),
            Command("list-up", "Up the list", lambda: self.leaf.step_list(-1), ("Up",),
                    tip="Up the other voicings", enabled=self._on_leaf),
        ]  # fmt: skip

    def _trying(self) -> list[Command]:
        state = self.state
        return [
            Command("hear", "Hear", self.audition, ("H",),
                    tip="Hear the chosen chord between its neighbours, or the chosen change",
                    enabled=self._any_chord),
            Command("try", "Try", self.try_alternative, ("T",),
                    tip="Put the voicing chosen in the list in place, to look and listen",
                    enabled=lambda: state.trial is not None
                    or (self._on_leaf() and self.leaf.listed() is not None)),
            Command("end-trial", "Put back", self.end_trial, ("Escape",), tip="End what is on trial",
                    enabled=lambda: state.trying),
            Command("lock", "Lock", self.toggle_lock, ("L",),
                    tip="Keep this voicing; everything else is solved around it",
                    enabled=self._can_lock, now=lambda: "Unlock" if self._locked() else "Lock"),
            Command("better", "Try the smaller change", self.try_better, ("G",),
                    tip="Go to the chord that would make this change smaller, its voicing on trial",
                    enabled=lambda: state.better(self.document.solved.betterments) is not None),
            Command("give-back", "Give back", self.give_back, ("R",),
                    tip="On a swapped chord: the chart's own comes back", enabled=self._is_swapped),
            Command("wishes", "Wishes", self.toggle_wishes, ("W",),
                    tip="School, colour and melody for this chord, its section or the song; keep a hand",
                    enabled=self._on_leaf, now=lambda: "Back" if self.wishing else "Wishes"),
        ]  # fmt: skip

    def _takes_commands(self) -> list[Command]:
        song = lambda: self.document.song  # noqa: E731 - read anew each time
        offers = lambda: self.document.solved.offers  # noqa: E731
        return [
            Command("next-row", "Another row", self.next_row, ("O",),
                    tip="Another row for the same chords on trial, in turn",
                    enabled=lambda: len(offers()) > 1),
            Command("keep-row", "Keep this row", self.keep_row, ("K",),
                    tip="Keep the row on trial as a take, its chords locked",
                    enabled=lambda: self.state.offer > 0),
            Command("new-take", "New take", lambda: self.document.apply(copy_take(song())), menu="Takes",
                    tip="A copy of this take, to go on with", enabled=self._any_chord),
            Command("next-take", "Next take", self.next_take, ("A",), "Takes", "Work on the next take",
                    enabled=lambda: len(song().takes) > 1),
            Command("drop-take", "Drop this take",
                    lambda: self.document.apply(drop_take(song(), song().current)), menu="Takes",
                    enabled=lambda: len(song().takes) > 1),
            Command("vary-round", "Vary this round", self.vary_round, ("V",), "Takes",
                    "Give the round of the chosen chord a take of its own", enabled=self._can_vary),
            Command("loop", "Lead back", self.toggle_loop, ("B",),
                    tip="A vamp: the last chord leads back to the first, which counts too",
                    enabled=lambda: len(song().slots) > 1, checked=lambda: song().arrangement.loop),
        ]  # fmt: skip

    def _showing(self) -> list[Command]:
        state = self.state
        return [
            Command("labels", "Notes", self.next_label, ("N",),
                    tip="What stands on the notes: names, degrees or fingers",
                    now=lambda: f"Notes: {state.label}"),
            Command("tune", "Tune", self.toggle_melody, ("M",),
                    tip="Show the melody over the leaves: filled is a chord tone, a ring a tension, "
                    "a dash passes, a cross clashes",
                    enabled=lambda: any(state.row.melody), checked=lambda: state.melody),
            Command("lines", "Lines", self.toggle_scale, ("S",),
                    tip="For a solo line: the scale on the keys, guide tones and targets",
                    checked=lambda: state.scale),
        ]  # fmt: skip

    def _any_chord(self) -> bool:
        return bool(self.state.song.slots)

    def _on_leaf(self) -> bool:
        return self._any_chord() and not self.state.selection.on_hinge

    def _can_lock(self) -> bool:
        return self._on_leaf() and bool(self.state.row.held[self.state.selection.index].voicing.keys)

    def _locked(self) -> bool:
        return (
            self._on_leaf()
            and self.state.trial is None
            and self.state.song.locked(self.state.selection.index)
        )

    def _is_swapped(self) -> bool:
        return self._on_leaf() and self.state.song.slots[self.state.selection.index].at.part > 0

    def _can_vary(self) -> bool:
        return self._any_chord() and self.state.can_vary

    # --- building --------------------------------------------------------------------------

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        middle.addLayout(self._build_head())
        middle.addWidget(self.takes)
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
        head.addWidget(self.title)
        head.addStretch(1)
        for command in ("lines", "tune", "labels"):
            button = QPushButton()
            self.commands.bind(button, command)
            head.addWidget(button)
        return head

    def _build_side(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("panel")
        panel.setFixedWidth(318)
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(14, 12, 14, 12)
        self.chosen_title, self.chosen_place, self.warning = QLabel(), QLabel(), QLabel()
        for label, kind in (
            (self.chosen_title, "title"), (self.chosen_place, "quiet"), (self.warning, "wrong"),
        ):  # fmt: skip
            label.setObjectName(kind)
        self.chosen_place.setWordWrap(True)
        self.warning.setWordWrap(True)
        self.side = QStackedWidget()
        self.side.addWidget(self.leaf)
        self.side.addWidget(self.hinge)
        self.wishes_button = QPushButton()
        self.commands.bind(self.wishes_button, "wishes")
        head = QHBoxLayout()
        head.addWidget(self.chosen_title, 1)
        head.addWidget(self.wishes_button)
        layout.addLayout(head)
        for widget in (self.chosen_place, self.warning):
            layout.addWidget(widget)
        layout.addWidget(self.side, 1)
        return panel

    @cached_property
    def wishes(self) -> WishesView:
        """The wishes panel, made when it is first wanted: the leaves come first."""
        panel = WishesView(self.document, self.state)
        self.side.addWidget(panel)
        return panel

    # --- showing ---------------------------------------------------------------------------

    @property
    def focus(self) -> QWidget:
        return self.row_view

    def entered(self) -> None:
        if self.document.chosen != self.state.selection.index:
            self.select(Selection(self.document.chosen))

    def set_theme(self, theme: Theme) -> None:
        super().set_theme(theme)
        self.leaf.set_theme(theme)
        for widget in (self.row_view, self.overview, self.keyboard):
            widget.theme = theme
        self.show_all()

    def refresh(self) -> None:
        """Take over the document as it is now."""
        if self.document.chosen != self.state.selection.index:
            self.state.select(Selection(self.document.chosen))
        self.state.take(self.document.song, self.document.row)
        self.row_view.follow(self.state.selection.index)
        self.show_all()

    def show_all(self) -> None:
        """Everything from the state."""
        song, solved = self.state.song, self.document.solved
        self.title.setText(song.title or "Untitled")
        self.state.effort = solved.effort
        self.total.setText(self.state.total_words(solved.exact and not self.state.trying))
        self.takes.refresh()
        self._show_side()
        self._show_keyboard()
        for view in (self.row_view, self.overview):
            view.update()
        self.commands.refresh()

    def _show_side(self) -> None:
        state = self.state
        self.side.setVisible(bool(state.song.slots))
        self.wishes_button.setVisible(not state.selection.on_hinge)
        if not state.song.slots:
            self.chosen_title.setText("Nothing chosen")
            self.chosen_place.setText("Type a chart on the Song page first.")
            return
        self.chosen_title.setText(state.chosen_title())
        warnings = [] if state.selection.on_hinge or self.wishing else state.warnings(state.song.hands)
        self.warning.setText(" ".join(warnings))
        self.warning.setVisible(bool(warnings))
        if state.selection.on_hinge:
            self.chosen_place.setText("The change from one chord to the next")
            self.side.setCurrentWidget(self.hinge)
            self.hinge.refresh()
            return
        self.chosen_place.setText(state.chosen_place())
        panel = self.wishes if self.wishing else self.leaf
        self.side.setCurrentWidget(panel)
        if self.wishing:
            self.wishes.refresh()
        else:
            self.leaf.refresh(self.theme)

    def _show_keyboard(self) -> None:
        state = self.state
        if not state.song.slots or state.empty_words:
            self.keyboard.show_chord((48, 84), {}, ())
            return
        low, high = state.key_range()
        keys = (min(low, _SHOWN_KEYS[0]), max(high, _SHOWN_KEYS[1]))
        self.keyboard.show_chord(keys, state.key_marks(), state.ghosts(), state.keyboard_words())
        scale = state.scale_here() if state.scale else None
        self.keyboard.show_scale(frozenset() if scale is None else scale.pitch_classes)

    def show_playing(self, slot: int) -> None:
        if slot != self.state.playing:
            self.state.playing = slot
            if slot >= 0:
                self.row_view.follow(slot)
            self.row_view.update()
            self.overview.update()

    # --- walking and hearing ---------------------------------------------------------------

    def select(self, selection: Selection) -> None:
        self.state.select(selection)
        self._follow()

    def step(self, direction: int) -> None:
        self.state.step(direction)
        self._follow()

    def _follow(self) -> None:
        self.document.chosen = self.state.selection.index
        self.row_view.follow(self.state.selection.index)
        self.show_all()

    def _to_last(self) -> None:
        self.select(Selection(max(0, len(self.state.song.slots) - 1)))

    def sounding(self) -> Sounding | None:
        state = self.state
        return Sounding(state.song, state.row, state.selection.index) if state.song.slots else None

    def audition(self) -> None:
        """The chosen leaf between its neighbours, or both sides of the chosen hinge."""
        state = self.state
        if not state.song.slots:
            return
        index, last = state.selection.index, len(state.song.slots) - 1
        first = index if state.selection.on_hinge else max(0, index - 1)
        back = state.selection.on_hinge and index == last
        self.hear.emit(Sounding(state.song, state.row, first, min(last, index + 1), back))

    def next_label(self) -> None:
        self.state.next_label()
        self.show_all()

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
        self.wishing = not self.wishing
        self.show_all()

    # --- trying and locking ----------------------------------------------------------------

    def try_alternative(self) -> None:
        """Put the listed voicing in place on trial, or take the trial back."""
        if self.state.trial is not None:
            self.end_trial()
            return
        voicing = self.leaf.listed()
        if voicing is not None:
            self.state.start_trial(voicing)
            self.show_all()
            self.audition()

    def end_trial(self) -> None:
        self.state.end_trial()
        self.show_all()

    def try_better(self) -> None:
        """Go to the chord that would make this change smaller, with its voicing on trial."""
        better = self.state.better(self.document.solved.betterments)
        if better is not None:
            self.wishing = False
            self.select(Selection(better.at))
            self.state.start_trial(better.voicing)
            self.show_all()
            self.audition()

    def toggle_lock(self) -> None:
        """Lock the trial or the voicing in use; unlock a locked one."""
        index, song = self.state.selection.index, self.document.song
        if self._locked():
            self.document.apply(set_lock(song, index, False))
            return
        voicing = self.state.trial or self.state.song.voicing(index)
        if voicing is not None:
            self.state.end_trial()
            self.document.apply(choose(song, index, voicing))

    def give_back(self) -> None:
        """On a swapped leaf: the chart's own chord comes back."""
        slot = self.document.song.slots[self.state.selection.index]
        self.document.apply(give_back(self.document.song, slot.at.written, slot.take))

    # --- rows and takes --------------------------------------------------------------------

    def next_row(self) -> None:
        """The next row in turn, the song's own after the last."""
        self.show_row((self.state.offer + 1) % len(self.document.solved.offers))

    def show_row(self, number: int) -> None:
        """Another row on trial; 0 is the song's own."""
        offers = self.document.solved.offers
        if 0 < number < len(offers):
            self.state.start_offer(number, offers[number])
        else:
            self.state.end_trial()
        self.show_all()

    def keep_row(self) -> None:
        """Keep the row on trial as a take."""
        offer = self.document.solved.offers[self.state.offer]
        name = f"Row {self.state.offer + 1}"
        self.state.end_trial()
        self.document.apply(keep_row(self.document.song, offer.voicings, name))

    def next_take(self) -> None:
        """Work on the next take in turn."""
        song = self.document.song
        ids = [take.id for take in song.takes]
        self.document.apply(go_to_take(song, ids[(ids.index(song.take.id) + 1) % len(ids)]))

    def vary_round(self) -> None:
        """A copy of the take for the round of the chosen chord."""
        slot = self.document.song.slots[self.state.selection.index]
        self.document.apply(vary_with_copy(self.document.song, slot.section, slot.round))

    def toggle_loop(self) -> None:
        """Lead back to the first chord, or end with the last one."""
        song = self.document.song
        self.document.apply(lead_back(song, not song.arrangement.loop))
