"""The Keys page: twelve rows, and at the side what speaks for the chosen key."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget

from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.theory.pretty import pretty_accidentals
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.keys_page.state import ORDERS, KeysState
from yellow_hinge.ui.keys_page.survey_view import SurveyView
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.quiet import QuietScroll, SidePanel
from yellow_hinge.ui.theme import scaled
from yellow_hinge.ui.words import OneLine, Words
from yellow_hinge.ui.worked_page import WorkedPage
from yellow_hinge.ui.worker import Deliver, Progress
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.tasks.keys.survey import KeyFigures

Survey = Callable[[Song, Library, Progress], "list[KeyFigures]"]


class KeysPage(WorkedPage):
    """The page. The survey is worked out when it is seen."""

    name = "Keys"
    side_width = 330

    def __init__(self, document: Document, survey: Survey, parent: QWidget | None = None) -> None:
        self.state = KeysState()
        super().__init__(document, parent)
        self._survey = survey
        self.worker.done.connect(self._take)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))
        self.worker.busy.connect(self._show_busy)
        self.worker.progress.connect(lambda share: self.progress.setValue(int(share * 100)))
        document.learned.connect(lambda _: self._forget())
        self._build()

    def make_commands(self) -> Sequence[Command]:
        some = lambda: self.state.row is not None  # noqa: E731
        return [
            Command("down", "Key below", lambda: self.step(1), ("Down",), enabled=some),
            Command("up", "Key above", lambda: self.step(-1), ("Up",), enabled=some),
            Command("order", "Order", self.next_order, ("O",),
                    tip="Half steps, fourths or fifths from row to row",
                    now=lambda: f"Order: {ORDERS[self.state.order][1]}"),
            Command("carried", "Carried over", self.toggle_carried, ("C",),
                    tip="The grips of the song's own key as they are, or those solved for this key",
                    enabled=some, checked=lambda: self.state.carried),
            Command("hear", "Hear", self.audition, ("H",), tip="Hear the beginning in this key",
                    enabled=some),
            Command("open-key", "Make it the song's key", self.open_key, ("Return",),
                    tip="The chart and all takes go to this key, with the grips that are looked at; "
                    "undo brings the old one back", enabled=some),
            Command("take-key", "Keep as a take", self.keep_as_take, ("K",),
                    tip="A take that sounds in this key, with the grips that are looked at; the chart stays "
                    "in its own. On the Takes page a round can go through it: the last one a half step up",
                    enabled=self._elsewhere),
            Command("mark", "To practise and print", self.mark, ("M",),
                    tip="One of the keys to practise and to print, or no longer; the project keeps it",
                    enabled=some,
                    checked=lambda: self.state.row is not None and self.state.marked(self.state.row.key)),
            Command("look", "Look again", self.look_again, (), tip="Solve the song in twelve keys anew",
                    enabled=lambda: bool(self.document.song.slots)),
        ]  # fmt: skip

    def _elsewhere(self) -> bool:
        row = self.state.row
        return row is not None and row.key != self.document.song.key

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        middle = QVBoxLayout()
        head = QHBoxLayout()
        self.title = OneLine("title")
        head.addWidget(self.title, 1)
        head.addWidget(self.commands.bind(QPushButton(), "order"))
        middle.addLayout(head)
        self.drawing = self.rows = SurveyView(self.state)
        self.rows.chosen.connect(self.choose)
        self.area = QuietScroll()
        self.area.setWidgetResizable(True)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.area.setWidget(self.rows)
        middle.addWidget(self.area, 1)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        middle.addWidget(self.progress)
        layout.addLayout(middle, 1)
        layout.addWidget(self._build_side())
        self._show_busy(False)

    def _build_side(self) -> QWidget:
        self.side = SidePanel()
        self.fit_text()
        layout = self.side.rows
        self.key_title = QLabel()
        self.key_title.setObjectName("title")
        self.figures, self.why, self.carried = Words(), Words(), Words()
        layout.addWidget(self.key_title)
        layout.addWidget(self.figures)
        for words, label in (
            ("It begins", None),
            ("Why", self.why),
            ("The grips of the song's own key", self.carried),
        ):
            heading = QLabel(words)
            heading.setObjectName("heading")
            layout.addWidget(heading)
            if label is None:
                self.start = Words()
                layout.addWidget(self.start)
            else:
                layout.addWidget(label)
        layout.addWidget(self.commands.bind(QPushButton(), "carried"))
        for command in ("hear", "mark", "take-key", "open-key"):
            layout.addWidget(self.commands.bind(QPushButton(), command))
        layout.addStretch(1)
        return self.side

    # --- showing ---

    def refresh(self) -> None:
        """Take over the document; survey it when the page is seen."""
        self.state.take(self.document.song)
        super().refresh()
        self.show_all()

    def _forget(self) -> None:
        self.state.found = ()

    def look_again(self) -> None:
        """Solve the song in twelve keys anew."""
        self._forget()
        self.look()

    def look(self) -> None:
        """Survey the song as it is, unless that is known or under way; a song that is still being solved
        first."""
        self.state.take(self.document.song)
        song, library = self.state.song, self.document.library
        if song.slots and not self.state.found and not self.document.worker.running:
            self.worker.start(partial(self._run, song, library))
        self.show_all()

    def _run(self, song: Song, library: Library, progress: Progress, _: Deliver) -> object:
        return song, self._survey(song, library, progress)

    def _take(self, result: tuple[Song, list[KeyFigures]]) -> None:
        self.state.take_found(*result)
        self.show_all()

    def _show_busy(self, busy: bool) -> None:
        self.progress.setVisible(busy)
        self.commands.refresh()

    def show_all(self) -> None:
        """Everything from the state."""
        state, found = self.state, self.state.row
        self.title.setText(self.document.song.title or "Untitled")
        self.key_title.setText("Twelve keys" if found is None else found.key.pretty)
        self.figures.setText(state.figures_words())
        self.drawing.say_chosen(f"{self.key_title.text()}: {state.figures_words()}")
        self.start.setText("" if found is None else _sentence(found.start))
        self.why.setText("" if found is None else _sentence(found.why))
        self.carried.setText(state.carried_words())
        self.rows.update()
        if found is not None:
            box = self.rows.box_of(state.chosen)
            self.area.ensureVisible(10, scaled(box.center().y()), 0, scaled(box.height()))
        self.commands.refresh()

    # --- acting ---

    def choose(self, number: int) -> None:
        """Another row."""
        self.rows.setFocus()
        self.state.chosen = number
        self.show_all()

    def step(self, direction: int) -> None:
        self.state.step(direction)
        self.show_all()

    def next_order(self) -> None:
        """Rows in another order."""
        self.state.next_order()
        self.show_all()

    def toggle_carried(self) -> None:
        """The other grips."""
        self.state.carried = not self.state.carried
        self.show_all()

    def open_key(self) -> None:
        """The song goes to the chosen key."""
        edit = self.state.opened()
        if edit is not None:
            self.state.chosen = 0
            self.document.apply(edit)

    def keep_as_take(self) -> None:
        """A take in the chosen key."""
        edit = self.state.as_take()
        if edit is not None:
            self.document.apply(edit)

    def mark(self) -> None:
        """The chosen key is one to practise and to print, or no longer."""
        edit = self.state.mark()
        if edit is not None:
            self.document.apply(edit)

    def sounding(self) -> Sounding | None:
        song = self.state.here()
        return super().sounding() if song is None else Sounding(song, row(song, self.document.library), 0)

    def audition(self) -> None:
        """The first chords in the chosen key."""
        song = self.state.here()
        if song is not None:
            last = min(len(song.slots) - 1, 3)
            self.hear.emit(Sounding(song, row(song, self.document.library), 0, last))


def _sentence(words: str) -> str:
    return f"{words[:1].upper()}{pretty_accidentals(words[1:])}."
