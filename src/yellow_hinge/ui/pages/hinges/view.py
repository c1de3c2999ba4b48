"""The workbench: overview, row, keyboard, and the side panel for what is chosen."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.faces import Faces
from yellow_hinge.ui.page import Page, Part, Sounding
from yellow_hinge.ui.pages.hinges.bench_keys import BenchKeys
from yellow_hinge.ui.pages.hinges.changing import Changing
from yellow_hinge.ui.pages.hinges.entering import Entering, voicing_of
from yellow_hinge.ui.pages.hinges.faces import FACES
from yellow_hinge.ui.pages.hinges.grip_state import GripState
from yellow_hinge.ui.pages.hinges.part import Bench, any_chord, can_grip, on_leaf
from yellow_hinge.ui.pages.hinges.row_view import OverviewView, RowView
from yellow_hinge.ui.pages.hinges.rows import Rows
from yellow_hinge.ui.pages.hinges.showing import Showing
from yellow_hinge.ui.pages.hinges.side import BenchSide
from yellow_hinge.ui.pages.hinges.state import HingesState, Selection
from yellow_hinge.ui.pages.hinges.takes_bar import TakesBar
from yellow_hinge.ui.pages.hinges.walking import Trying, Walking
from yellow_hinge.ui.pages.hinges.where_menu import WhereMenu
from yellow_hinge.ui.words import OneLine, Words

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys


class HingesPage(Page):
    """The page: its parts do what is done, here they are wired."""

    name = "Hinges"
    draws = "hinges"
    handy = ("lock", "hear", "try", "face-grip", "keep-where", "better", "vary-round")
    twice = "lock"

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.state = HingesState(document.library)
        self.grips = GripState(document.library)
        self._history = document.history
        super().__init__(document, parent)
        self.row_view = RowView(self.state, document)
        self.overview = OverviewView(self.state, self.row_view)
        self.keyboard = BenchKeys(self.bench)
        self.side = BenchSide(self.bench, self.commands)
        self.takes = TakesBar(document, self.state, self.commands)
        self.where_menu = WhereMenu(self)
        self._build()
        self._wire()
        self._take()  # it is shown with its theme

    def make_parts(self) -> Sequence[Part]:
        self.faces = Faces(self.document, FACES, when=lambda: on_leaf(self.walking))
        self.bench = Bench(self.document, self.state, self.grips, self.faces)
        self.walking, self.trying, self.rows, self.showing, self.entering, self.changing = parts = (
            Walking(self.bench), Trying(self.bench), Rows(self.bench), Showing(self.bench),
            Entering(self.bench, self), Changing(self.bench),
        )  # fmt: skip
        return (*parts[:2], self.faces, *parts[2:])

    def _wire(self) -> None:
        """Who listens to whom."""
        self.trying.listed, self.trying.walk_list = self.side.leaf.listed, self.side.leaf.step_list
        self.showing.picture = self.row_view.grab
        self.walking.moved.connect(self._moved)
        for part in (self.trying, self.changing):
            part.goes_to.connect(self.walking.select)
        self.changing.entered.connect(self.entering.enter)
        self.changing.keeps.connect(self.entering.keep)
        self.entering.to_row.connect(self.row_view.setFocus)
        self.entering.asks_where.connect(self._ask_where)
        self.where_menu.chosen.connect(self.entering.keep_where)
        self.row_view.chosen.connect(self.walking.select)
        self.row_view.dragged.connect(self.changing.drag)
        self.row_view.over.connect(self.changing.over)
        self.row_view.breaks = self.changing.breaks
        self.overview.chosen.connect(self.walking.select)
        self.overview.shaped.connect(self.rows.shape_top)
        self.keyboard.pressed.connect(self._key_clicked)
        self.takes.rows.idClicked.connect(self.rows.show_row)
        self.side.leaf.filter.changed.connect(self.show_all)
        self.side.leaf.filter.field.left.connect(self.row_view.setFocus)
        self.side.grip_made.connect(self._wire_grip)
        self.side.name_wanted.connect(self.entering.name_in_chart)
        self.document.learned.connect(self.state.learn)
        self.document.learned.connect(self.grips.learn)

    def _wire_grip(self) -> None:
        grip, entering = self.side.grip, self.entering
        entering.shape_name = grip.name.text
        entering.names_shape.connect(grip.name.setFocus)
        entering.shape_kept.connect(grip.name.clear)
        entering.kept.connect(grip.forget_text)
        grip.typed.connect(entering.enter)
        grip.field.left.connect(self.row_view.setFocus)
        grip.field.left.connect(grip.forget_text)
        grip.ways.chosen.connect(lambda _: self.trying.audition())

    # --- building ---

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        middle.addLayout(self._build_head())
        for widget in (self.takes, self.total, self.overview):
            middle.addWidget(widget)
        middle.addWidget(self.row_view, 4)
        middle.addWidget(self.keyboard, 1)  # larger keys in a large window
        layout.addLayout(middle, 1)
        layout.addWidget(self.side)

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
        return head

    # --- showing ---

    @property
    def focus(self) -> QWidget:
        return self.row_view

    def close_page(self) -> None:
        self.side.close_side()

    def follow(self) -> None:
        if self.document.chosen != self.state.selection.index:
            self.walking.select(Selection(self.document.chosen))

    def fit_text(self) -> None:
        self.side.fit_text()

    def dress(self) -> None:
        super().dress()
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
        self.walking.put_on_trial()
        self.row_view.follow(self.state.selection.index)

    def _moved(self) -> None:
        self.row_view.follow(self.state.selection.index)
        self.show_all()

    def show_all(self) -> None:
        """Everything from the state."""
        state, solved = self.state, self.document.solved
        self.title.setText(state.song.title or "Untitled")
        state.effort = solved.effort
        self.total.setText(state.total_words(solved.exact and not state.trying))
        self.takes.refresh()
        self.side.refresh()
        if any_chord(self.walking):
            self.row_view.say_chosen(state.chosen_words())
        self.keyboard.refresh()
        self.row_view.update()
        self.overview.update()
        self.commands.refresh()

    # --- while it sounds, and from the keys ---

    def stretch(self) -> Sounding | None:
        return self.walking.around()

    def show_playing(self, slot: int) -> None:
        if slot != self.state.playing:
            self.state.playing = slot
            if slot >= 0:
                self.row_view.follow(slot)
            self.row_view.update()
            self.overview.update()

    def show_held(self, held: HeldKeys) -> None:
        """What a player holds shows on the keys; with the face for one's own grips open it is entered."""
        self.keyboard.show_held(held.sounding)
        if self.faces.open.id == "grip" and can_grip(self.walking):
            self.entering.play(frozenset(held.sounding))

    def _key_clicked(self, key: int, side: str) -> None:
        """A key of the keyboard: into the hand, or out of it."""
        if can_grip(self.walking):
            other = "left" if self.grips.hand == "right" else "right"
            self.entering.click(key, other if side else self.grips.hand)

    def _ask_where(self) -> None:
        voicing = voicing_of(self.entering)
        if voicing is not None:
            song, index = self.document.song, self.state.selection.index
            self.where_menu.ask(song, index, voicing, self.side.grip.where_button, self.row_view)
