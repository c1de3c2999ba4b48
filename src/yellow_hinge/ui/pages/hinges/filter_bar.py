"""Filters over all voicings of the chosen leaf: typed or clicked, with how many each would leave."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING, overload

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QPushButton, QWidget

from yellow_hinge.errors import BadInput
from yellow_hinge.stopping import Progress
from yellow_hinge.theory.pitch import as_letters
from yellow_hinge.theory.pretty import counted
from yellow_hinge.ui import kit
from yellow_hinge.ui.desk import Desk
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.entry_field import EntryField
from yellow_hinge.ui.pages.hinges.alternatives import Alternatives
from yellow_hinge.ui.pages.hinges.state import AlternativeLine, HingesState
from yellow_hinge.ui.worker import Worker
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.song.model import Song
    from yellow_hinge.tasks.grips.shape_desk import Everything, ShapeDesk, Shown

#: Filters that are offered at once, in two columns.
_MOST_OFFERED = 6


class _Lines(Sequence[AlternativeLine]):
    """Lines that are made when they are seen."""

    def __init__(self, shown: Shown, state: HingesState) -> None:
        self._shown, self._state = shown, state
        self._made: dict[int, AlternativeLine] = {}

    def forget(self) -> None:
        """Make them anew: something else is in use."""
        self._made.clear()

    def __len__(self) -> int:
        return len(self._shown)

    @overload
    def __getitem__(self, place: int) -> AlternativeLine: ...
    @overload
    def __getitem__(self, place: slice) -> Sequence[AlternativeLine]: ...
    def __getitem__(self, place: int | slice) -> AlternativeLine | Sequence[AlternativeLine]:
        if isinstance(place, slice):
            return [self[k] for k in range(*place.indices(len(self)))]
        if place not in self._made:
            self._made[place] = self._state.alternative_line(self._shown[place])
        return self._made[place]


def _shapes(library: Library) -> ShapeDesk:
    from yellow_hinge.tasks.grips.shape_desk import ShapeDesk  # noqa: PLC0415 - brings NumPy

    return ShapeDesk(library)


class FilterBar(QWidget):
    """With a filter the list holds everything that it keeps, without one the best voicings.
    ``changed``: another list is to be shown."""

    changed = Signal()

    def __init__(
        self, document: Document, state: HingesState, model: Alternatives, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._state, self._model = state, model
        self._desk = Desk(document, _shapes)
        document.learned.connect(lambda _: self.learn())
        self._found: Everything | None = None
        self.worker = Worker(self, "all shapes")
        self.worker.done.connect(self._take)
        self.worker.failed.connect(lambda error: self._say(str(error.problems[0].what)))
        layout = kit.column(self, spacing=4)
        self.field = EntryField()
        self.field.setPlaceholderText("All shapes: root position, 3 on top...")
        kit.named(
            self.field,
            "Filter all voicings of this chord",
            "Looks through every voicing of this chord, not only the best. Several filters with commas: "
            "root position, 3 on top, contains A4, without 9, left octave, four notes, right two notes, "
            "or the name of a shape.",
        )
        self.field.setClearButtonEnabled(True)
        self.field.textChanged.connect(lambda _: self.changed.emit())
        layout.addWidget(self.field)
        self.words = kit.label("quiet")
        layout.addWidget(self.words)
        grid = QGridLayout()
        grid.setSpacing(3)
        self.offers = [QPushButton() for _ in range(_MOST_OFFERED)]
        for number, button in enumerate(self.offers):
            button.setObjectName("face")
            button.clicked.connect(partial(self._add, number))
            grid.addWidget(button, number // 2, number % 2)
        layout.addLayout(grid)
        self._offered: tuple[str, ...] = ()
        self._shown: tuple[Everything | None, str] = (None, "")

    @property
    def on(self) -> bool:
        """Whether anything is asked for."""
        return bool(self.field.text().strip())

    def learn(self) -> None:
        """There are other recipes."""
        self._found = None

    def _add(self, number: int, _: bool = False) -> None:
        typed = self.field.text().strip().rstrip(",")
        words = self._offered[number]
        self.field.setText(f"{typed}, {words}" if typed else words)

    def _say(self, words: str) -> None:
        self.words.setText(words)
        self.words.setVisible(bool(words))

    def refresh(self, song: Song, index: int) -> None:
        """Show what the filter keeps of a chord."""
        if not self.on:
            self._say("")
            self._show_offers(())
            return
        everything = self._found
        if everything is None or everything.song is not song or everything.index != index:
            self._say("Looking at every shape...")
            self._show((), (None, ""))  # what is listed belongs to another chord
            self.worker.start(lambda progress, _: self._look(song, index, progress))
            return
        text = as_letters(self.field.text())
        if (everything, text) == self._shown and isinstance(self._model.lines, _Lines):
            self._model.lines.forget()
            self._model.say_anew()
            return
        try:
            shown = everything.filtered(text)
        except BadInput as error:
            problem = error.problems[0]
            self._say(f"{problem.what}: {problem.remedy}.")
            return
        self._say(f"{len(shown):,} of {counted(len(everything), 'voicing')}, the least effort first")
        self._show(_Lines(shown, self._state), (everything, text))
        self._show_offers(everything.counts(text))

    def _show(self, lines: Sequence[AlternativeLine], what: tuple[Everything | None, str]) -> None:
        self._model.take_many(lines, self._state.key_range())
        self._shown = what

    def _look(self, song: Song, index: int, progress: Progress) -> object:
        return self._desk().everything(song, index, progress)

    def _take(self, everything: Everything) -> None:
        self._found = everything
        self.changed.emit()

    def _show_offers(self, counts: Sequence[tuple[str, int]]) -> None:
        asked = {words.strip() for words in self.field.text().split(",")}
        rows = [(words, count) for words, count in counts if words not in asked][:_MOST_OFFERED]
        self._offered = tuple(words for words, _ in rows)
        for number, button in enumerate(self.offers):
            button.setVisible(number < len(rows))
            if number < len(rows):
                words, count = rows[number]
                button.setText(f"{words}: {count:,}")
                button.setToolTip(f"Only voicings with {words}: {count:,} of them")

    def close_bar(self) -> None:
        """The window closes."""
        self.worker.close()
