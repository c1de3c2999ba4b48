"""The workbench: overview, row, keyboard, and the side panel for what is chosen."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from yellow_hinge.song.edits import (
    choose,
    give_back,
    go_to_take,
    keep_row,
    set_lock,
    vary_with_copy,
)
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.face_row import FaceRow
from yellow_hinge.ui.hinges_page.faces import FACES
from yellow_hinge.ui.hinges_page.filter_bar import MakeDesk
from yellow_hinge.ui.hinges_page.grip_state import GripState
from yellow_hinge.ui.hinges_page.hands_on import HandsOn, grip_commands
from yellow_hinge.ui.hinges_page.leaf_side import LeafSide
from yellow_hinge.ui.hinges_page.page_commands import page_commands
from yellow_hinge.ui.hinges_page.row_view import OverviewView, RowView
from yellow_hinge.ui.hinges_page.state import HingesState, Selection
from yellow_hinge.ui.hinges_page.takes_bar import TakesBar
from yellow_hinge.ui.keyboard import KeyboardView
from yellow_hinge.ui.page import Face, Page, Sounding
from yellow_hinge.ui.theme import Theme, scaled
from yellow_hinge.ui.words import OneLine, Words
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys
    from yellow_hinge.ui.hinges_page.grip_side import GripSide
    from yellow_hinge.ui.hinges_page.hinge_side import HingeSide
    from yellow_hinge.ui.hinges_page.names_side import NamesSide
    from yellow_hinge.ui.hinges_page.rules_panel import MakeRules
    from yellow_hinge.ui.hinges_page.solo_side import SoloSide
    from yellow_hinge.ui.hinges_page.wishes_view import WishesView

_SIDE_WIDTH, _MY_GRIP = 330, FACES[1]
#: Lowest and highest key that the keyboard shows at the least.
_SHOWN_KEYS = (41, 79)


class HingesPage(Page):
    """The page."""

    name = "Hinges"

    def __init__(
        self, document: Document, make_desk: MakeDesk, make_rules: MakeRules, parent: QWidget | None = None
    ) -> None:
        self.state = HingesState(document.library)
        self.grips = GripState(document.library)
        self.face = FACES[0]
        self._history = document.history
        super().__init__(document, parent)
        self.row_view = RowView(self.state, document)
        self.overview = OverviewView(self.state, self.row_view)
        self.keyboard = KeyboardView()
        self.keyboard.pressed.connect(self.key_clicked)
        self.takes = TakesBar(document, self.state, self.commands)
        self.takes.rows.idClicked.connect(self.show_row)
        self._make_rules = make_rules
        self.leaf = LeafSide(document, self.state, self.commands, make_desk)
        self.leaf.filter.changed.connect(self.show_all)
        self.leaf.filter.field.left.connect(self.row_view.setFocus)
        self.hands_on = HandsOn(self)
        self._build()
        self.row_view.chosen.connect(self.select)
        self.row_view.dragged.connect(self.hands_on.drag)
        document.learned.connect(self._learn)
        self.overview.chosen.connect(self.select)
        self._take()  # it is shown with its theme

    # --- commands --------------------------------------------------------------------------

    def make_commands(self) -> Sequence[Command]:
        return [*page_commands(self), *grip_commands(self)]

    def any_chord(self) -> bool:
        return bool(self.state.song.slots)

    def on_leaf(self) -> bool:
        return self.any_chord() and not self.state.selection.on_hinge

    def can_lock(self) -> bool:
        return self.on_leaf() and bool(self.state.row.held[self.state.selection.index].voicing.keys)

    def locked(self) -> bool:
        return (
            self.on_leaf() and self.state.trial is None and self.state.song.locked(self.state.selection.index)
        )

    def is_swapped(self) -> bool:
        return self.on_leaf() and self.state.song.slots[self.state.selection.index].at.part > 0

    def can_vary(self) -> bool:
        return self.any_chord() and self.state.can_vary

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
        self.title = OneLine("title")
        self.total = Words()
        self.total.setToolTip(
            "What the search made least, in half steps: the moving of both hands over all changes "
            "(a bass that goes to another note counts less, large moves more), notes that come or go, "
            "how it sounds, how it lies in the hands, and style. Every chord and change says its own share."
        )
        head.addWidget(self.title, 1)
        for command in ("tune", "labels"):
            button = QPushButton()
            self.commands.bind(button, command)
            head.addWidget(button)
        return head

    def _build_side(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("panel")
        self.side_panel = panel
        self.fit_text()
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
        layout.addWidget(self.chosen_title)
        self.tabs = FaceRow(self.commands, (f"face-{face.id}" for face in FACES))
        layout.addWidget(self.tabs)
        for widget in (self.chosen_place, self.warning):
            layout.addWidget(widget)
        layout.addWidget(self.side, 1)
        return panel

    @cached_property
    def hinge(self) -> HingeSide:
        """The change to the next chord, made when one is first chosen."""
        from yellow_hinge.ui.hinges_page.hinge_side import HingeSide  # noqa: PLC0415 - the leaves come first

        panel = HingeSide(self.document, self.state, self.commands)
        self.side.addWidget(panel)
        return panel

    @cached_property
    def grip(self) -> GripSide:
        """The player's own grips."""
        from yellow_hinge.ui.hinges_page.grip_side import GripSide  # noqa: PLC0415 - the leaves come first

        panel = GripSide(self.document, self.state, self.grips, self.commands)
        panel.typed.connect(self.hands_on.enter)
        panel.field.left.connect(self._field_left)
        panel.ways.set_theme(self.theme)
        panel.ways.chosen.connect(lambda _: self.audition())
        self.side.addWidget(panel)
        return panel

    @cached_property
    def names(self) -> NamesSide:
        """Names and basses, made when they are first wanted."""
        from yellow_hinge.ui.hinges_page.names_side import NamesSide  # noqa: PLC0415 - the leaves come first

        panel = NamesSide(self.document, self.state, self.grips)
        panel.wanted.connect(self.hands_on.name_in_chart)
        self.side.addWidget(panel)
        return panel

    @cached_property
    def solo(self) -> SoloSide:
        """For a line over the chords, made when it is first wanted."""
        from yellow_hinge.ui.hinges_page.solo_side import SoloSide  # noqa: PLC0415 - the leaves come first

        panel = SoloSide(self.state)
        self.side.addWidget(panel)
        return panel

    @cached_property
    def wishes(self) -> WishesView:
        """The wishes panel, made when it is first wanted."""
        from yellow_hinge.ui.hinges_page.wishes_view import WishesView  # noqa: PLC0415 - the leaves come first

        panel = WishesView(self.document, self.state, self._make_rules)
        self.side.addWidget(panel)
        return panel

    # --- showing ---------------------------------------------------------------------------

    @property
    def focus(self) -> QWidget:
        return self.row_view

    def _learn(self, library: Library) -> None:
        self.state.library = library
        self.grips.learn(library)
        self.leaf.filter.learn()

    def close_page(self) -> None:
        self.leaf.filter.close_bar()
        if "wishes" in vars(self):  # it has been made
            self.wishes.rules.worker.close()

    def entered(self) -> None:
        if self.document.chosen != self.state.selection.index:
            self.select(Selection(self.document.chosen))

    def fit_text(self) -> None:
        self.side_panel.setFixedWidth(scaled(_SIDE_WIDTH))

    def set_theme(self, theme: Theme) -> None:
        super().set_theme(theme)
        self.leaf.set_theme(theme)
        if "grip" in vars(self):  # it has been made
            self.grip.ways.set_theme(theme)
        for widget in (self.row_view, self.overview, self.keyboard):
            widget.theme = theme
        self.show_all()

    def refresh(self) -> None:
        """Take over the document as it is now."""
        self._take()
        self.show_all()

    def _take(self) -> None:
        if self.document.history is not self._history:  # another song was opened
            self._history = self.document.history
            self.grips.forget()
        if self.document.chosen != self.state.selection.index:
            self.state.select(Selection(self.document.chosen))
        self.state.take(self.document.song, self.document.row)
        self.hands_on.put_on_trial()
        self.row_view.follow(self.state.selection.index)

    def show_all(self) -> None:
        """Everything from the state."""
        solved = self.document.solved
        self.title.setText(self.state.song.title or "Untitled")
        self.state.effort = solved.effort
        self.total.setText(self.state.total_words(solved.exact and not self.state.trying))
        self.takes.refresh()
        self._show_side()
        self._show_keyboard()
        self.row_view.update()
        self.overview.update()
        self.commands.refresh()

    def _show_side(self) -> None:
        state = self.state
        self.side.setVisible(bool(state.song.slots))
        self.tabs.setVisible(self.on_leaf())
        if not state.song.slots:
            self.chosen_title.setText("Nothing chosen")
            self.chosen_place.setText("Type a chart on the Song page first.")
            return
        self.chosen_title.setText(state.chosen_title())
        warnings = [] if state.selection.on_hinge else state.warnings(state.song.hands)
        self.warning.setText(" ".join(warnings))
        self.warning.setVisible(bool(warnings))
        if state.selection.on_hinge:
            self.chosen_place.setText("The change from one chord to the next")
            self.row_view.say_chosen(
                f"{state.chosen_title()}: {state.row.hinges[state.selection.index].words}"
            )
            self.side.setCurrentWidget(self.hinge)
            self.hinge.refresh()
            return
        self.chosen_place.setText(state.chosen_place())
        self.row_view.say_chosen(f"{state.chosen_title()}, {state.chosen_place()}: {state.grip_words()}")
        if self.face.id == "others":
            self.side.setCurrentWidget(self.leaf)
            self.leaf.refresh(self.theme)
            return
        shown = "wishes" if self.face.id == "rules" else self.face.id
        panel: GripSide | NamesSide | SoloSide | WishesView = getattr(self, shown)
        self.side.setCurrentWidget(panel)
        panel.refresh()

    def _show_keyboard(self) -> None:
        state = self.state
        if not state.song.slots or state.empty_words:
            self.keyboard.show_chord((48, 84), {}, ())
            return
        low, high = state.key_range()
        keys = (min(low, _SHOWN_KEYS[0]), max(high, _SHOWN_KEYS[1]))
        self.keyboard.show_chord(keys, state.key_marks(), state.ghosts(), state.keyboard_words())
        self.keyboard.show_chosen(self.grips.note if self.on_leaf() else None)
        free = state.free_hand() if self.on_leaf() else None
        scale = state.scale_here() if (self.face.id == "solo" or free) and self.on_leaf() else None
        hand = getattr(self.document.song.hands, free) if free else None
        self.keyboard.show_scale(scale.pitch_classes if scale else frozenset(), hand)

    def show_playing(self, slot: int) -> None:
        if slot != self.state.playing:
            self.state.playing = slot
            if slot >= 0:
                self.row_view.follow(slot)
            self.row_view.update()
            self.overview.update()

    # --- walking and hearing ---------------------------------------------------------------

    def show_held(self, held: HeldKeys) -> None:
        """What a player holds shows on the keys; with the face for one's own grips open it is entered."""
        self.keyboard.show_held(held.sounding)
        if self.face is _MY_GRIP and self.can_grip():
            self.hands_on.play(frozenset(held.sounding))

    def select(self, selection: Selection) -> None:
        self.state.select(selection)
        self._follow()

    def step(self, direction: int) -> None:
        self.state.step(direction)
        self._follow()

    def _follow(self) -> None:
        self.document.chosen = self.state.selection.index
        self.grips.note = None
        self.hands_on.put_on_trial()
        self.row_view.follow(self.state.selection.index)
        self.show_all()

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

    def show_face(self, face: Face) -> None:
        """Another face of the side, or the first one again."""
        self.face = FACES[0] if face is self.face else face
        self.show_all()

    def shows(self, face: Face) -> bool:
        return self.face is face

    def invert(self, side: str, up: bool) -> None:
        """The next or the previous inversion of a hand."""
        self.hands_on.invert(side, up)

    def octave(self, side: str, octaves: int) -> None:
        """A hand so many octaves higher."""
        self.hands_on.octave(side, octaves)

    def _field_left(self) -> None:
        self.row_view.setFocus()
        self.grip.forget_text()

    def can_grip(self) -> bool:
        """Whether the chosen leaf has a chord that hands can hold."""
        return self.on_leaf() and self.state.song.slots[self.state.selection.index].chord is not None

    def can_keep(self) -> bool:
        """Whether there is a grip to keep."""
        if not self.can_grip():
            return False
        keys = self.grips.keys(self.document.song, self.state.selection.index)
        return bool(keys.left or keys.right)

    def entering(self) -> bool:
        """Whether a grip is being entered that could be kept."""
        draft = self.grips.draft(self.document.song, self.state.selection.index)
        return draft is not None and self.can_keep()

    def switch_hand(self) -> None:
        """Keys that are clicked go to the other hand."""
        self.grips.switch_hand()
        self.show_all()

    def keep_shape(self) -> None:
        """Write the shape of one hand into the player's own recipes."""
        self.face = _MY_GRIP
        self.show_all()
        self.hands_on.keep_shape(self.grip.name.text())

    def key_clicked(self, key: int, side: str) -> None:
        """A key of the keyboard: into the hand, or out of it."""
        if self.can_grip():
            other = "left" if self.grips.hand == "right" else "right"
            self.hands_on.click(key, other if side else self.grips.hand)

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
        self.hands_on.give_up()
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
        if self.locked():
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
