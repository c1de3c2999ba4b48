"""The Keys page: twelve rows, and at the side what speaks for the chosen key."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QVBoxLayout, QWidget

from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress
from yellow_hinge.theory.pretty import pretty_accidentals
from yellow_hinge.ui import kit
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part, Sounding
from yellow_hinge.ui.pages.keys.state import KeysState
from yellow_hinge.ui.pages.keys.survey_view import ChosenKeys, SurveyView
from yellow_hinge.ui.pages.keys.walking import Rows
from yellow_hinge.ui.quiet import QuietScroll, SidePanel
from yellow_hinge.ui.theme import scaled
from yellow_hinge.ui.words import OneLine, Words
from yellow_hinge.ui.worked_page import WorkedPage
from yellow_hinge.ui.worker import Deliver
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.tasks.keys.survey import KeyFigures


class KeysPage(WorkedPage):
    """The page. The survey is worked out when it is seen."""

    name = "Keys"
    handy = ("open-key", "hear", "mark", "take-key")
    twice = "open-key"
    side_width = 330

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.state = KeysState()
        self._asked: Song | None = None  #: what is being surveyed, or was last
        super().__init__(document, parent)
        self.worker.busy.connect(self._show_busy)
        self.worker.progress.connect(lambda share: self.progress.setValue(int(share * 100)))
        document.learned.connect(lambda _: self._forget())
        self.worker.part.connect(self._take_part)
        self._build()

    def make_parts(self) -> Sequence[Part]:
        self.acts = Rows(self.document, self.state)
        self.acts.looks_again.connect(self._look_again)
        return (self.acts,)

    def _build(self) -> None:
        middle, head = QVBoxLayout(), QHBoxLayout()
        self.title = OneLine("title")
        head.addWidget(self.title, 1)
        head.addWidget(kit.button(self.commands, "order"))
        middle.addLayout(head)
        self.drawing = self.rows = SurveyView(self.state)
        self.rows.chosen.connect(self._clicked)
        self.chosen_keys = ChosenKeys()
        self.chosen_keys.given_up.connect(self.acts.give_up)
        self.rows.over.connect(self.chosen_keys.take_over)
        self.rows.let_go.connect(self._let_go)
        self.area = QuietScroll()
        self.area.setWidgetResizable(True)
        self.area.setWidget(self.rows)
        middle.addWidget(self.area, 1)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        middle.addWidget(self.progress)
        layout = kit.page_row(self)
        layout.addLayout(middle, 1)
        layout.addWidget(self._build_side())
        self._show_busy(False)

    def _build_side(self) -> QWidget:
        self.side = SidePanel()
        self.fit_text()
        self.key_title = kit.label("title", wraps=False)
        self.figures, self.start, self.why, self.carried = Words(), Words(), Words(), Words()
        for widget in (
            self.key_title, self.figures, kit.heading("It begins"), self.start, kit.heading("Why"), self.why,
            kit.heading("The grips of the song's own key"), self.carried,
            kit.heading("To practise and print"), self.chosen_keys,
        ):  # fmt: skip
            self.side.rows.addWidget(widget)
        for act in ("open-key", "hear", "mark", "take-key", "carried"):
            self.side.rows.addWidget(kit.button(self.commands, act, "first" if act == "open-key" else ""))
        self.side.rows.addStretch(1)
        return self.side

    # --- working out ---

    def refresh(self) -> None:
        """Take over the document; survey it when the page is seen."""
        self.state.take(self.document.song)
        super().refresh()
        self.show_all()

    def _forget(self) -> None:
        self.state.forget()
        self._asked = None

    def _look_again(self) -> None:
        self._forget()
        self.look()

    def look(self) -> None:
        """Survey the song as it is, unless that is known or under way; a song that is still being solved
        first."""
        self.state.take(self.document.song)
        song, library = self.state.song, self.document.library
        under_way = self.worker.running and self._asked is not None and self.state.same(self._asked)
        if song.slots and not (self.state.whole or under_way or self.document.worker.running):
            self._asked = song
            self.worker.start(partial(_survey, song, library))
        self.show_all()

    def take_in(self, result: tuple[Song, list[KeyFigures]]) -> None:
        self.state.take_found(*result)
        self.show_all()

    def _take_part(self, result: tuple[Song, list[KeyFigures]]) -> None:
        """Some of the keys."""
        self.state.take_found(*result, whole=False)
        self.show_all()

    def _let_go(self, at: QPoint) -> None:
        """A row was dragged to a place of the screen."""
        if self.chosen_keys.take_over(at):
            self.acts.choose_key()
        self.chosen_keys.open = False
        self.chosen_keys.update()

    # --- showing ---

    def _show_busy(self, busy: bool) -> None:
        self.progress.setVisible(busy)
        self.commands.refresh()

    def show_all(self) -> None:
        """Everything from the state."""
        state, figures = self.state, self.state.row
        self.title.setText(self.document.song.title or "Untitled")
        self.key_title.setText("Twelve keys" if figures is None else figures.key.pretty)
        self.figures.setText(state.figures_words())
        self.drawing.say_chosen(f"{self.key_title.text()}: {state.figures_words()}")
        self.start.setText("" if figures is None else _sentence(figures.start))
        later = "Said once all twelve keys are there."
        self.why.setText("" if figures is None else _sentence(figures.why) if state.whole else later)
        self.carried.setText(state.carried_words())
        self.chosen_keys.show_keys([key.pretty.split()[0] for key in state.keys_chosen])
        self.rows.update()
        if figures is not None:
            box = self.rows.box_of(state.chosen)
            self.area.ensureVisible(10, scaled(box.center().y()), 0, scaled(box.height()))
        self.commands.refresh()

    def _clicked(self, number: int) -> None:
        self.rows.setFocus()
        self.acts.choose(number)

    def sounding(self) -> Sounding | None:
        song = self.state.here()
        return super().sounding() if song is None else Sounding(song, 0)


def _survey(song: Song, library: Library, progress: Progress, deliver: Deliver) -> object:
    from yellow_hinge.tasks.keys.survey import survey  # noqa: PLC0415 - brings NumPy

    return song, survey(song, library, progress, deliver=lambda found: deliver((song, found)))


def _sentence(words: str) -> str:
    return f"{words[:1].upper()}{pretty_accidentals(words[1:])}."
