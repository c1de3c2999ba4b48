"""Formulas in the song: where each fits, what the tune says and what it costs, to be heard and taken."""

from __future__ import annotations

from itertools import groupby
from typing import Any

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QListWidget, QVBoxLayout, QWidget

from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.formulas import builtin_formulas
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.describe_song import row
from yellow_hinge.tasks.formula_desk import Fitting, fittings, weigh
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.swaps_page.face import GripFace
from yellow_hinge.ui.swaps_page.held_face import more_words
from yellow_hinge.ui.words import Words

#: So many places are weighed; the others say so.
_MOST_WEIGHED = 24
_HERE, _ANYWHERE = "here", "anywhere"


class FormulaFace(GripFace):
    """A line for each place where a formula can stand."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(document, parent)
        self._planner = Planner(document.library)
        document.learned.connect(lambda library: setattr(self, "_planner", Planner(library)))
        self.found: list[Fitting] = []
        self._costs: list[int | None] = []
        self._song: Song | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        top = QHBoxLayout()
        self.where = QComboBox()
        self.where.setAccessibleName("Where formulas are looked for")
        self.where.addItem("that hold this chord", _HERE)
        self.where.addItem("anywhere in the song", _ANYWHERE)
        self.family = QComboBox()
        self.family.setAccessibleName("Kind of formula")
        self.family.addItem("every kind", "")
        for family in dict.fromkeys(one.family for one in builtin_formulas().values()):
            self.family.addItem(family, family)
        for box in (self.where, self.family):
            box.activated.connect(lambda _: self._ask())
        top.addWidget(QLabel("Formulas"))
        top.addWidget(self.where)
        top.addWidget(self.family)
        top.addStretch(1)
        layout.addLayout(top)
        self.words = Words()
        layout.addWidget(self.words)
        self.list = QListWidget()
        self.list.setAccessibleName("Formulas that fit, each with its place")
        self.list.setWordWrap(True)
        self.list.currentRowChanged.connect(lambda _: self._show_why())
        layout.addWidget(self.list, 1)
        self.why = Words()
        layout.addWidget(self.why)

    # --- looking ---

    def look(self) -> None:
        """What fits the song as it is."""
        self._ask()

    def _ask(self) -> None:
        song, planner, library = self.document.song, self._planner, self.document.library
        if not 0 <= self.index < len(song.slots):
            self._take_in(None)
            return
        written = song.slots[self.index].at.written
        here, family = self.where.currentData() == _HERE, self.family.currentData()

        def job(*_: object) -> object:
            every = [one for formula in builtin_formulas().values() if family in ("", formula.family)
                     for one in fittings(song, formula)]  # fmt: skip
            wanted = [one for one in every if not here or written in one.written]
            wanted.sort(key=lambda one: (one.clashes, one.bar))
            return song, wanted, weigh(song, wanted[:_MOST_WEIGHED], library, planner)

        self.worker.start(job)

    def _take_in(self, result: Any) -> None:
        if result is None:
            self.found, self._costs, self._song = [], [], None
        else:
            self._song, found, costs = result
            rest: list[int | None] = [None] * (len(found) - len(costs))
            rows = sorted(zip(found, [*costs, *rest], strict=True), key=_rank)
            self.found, self._costs = [one for one, _ in rows], [cost for _, cost in rows]
        self._show()

    def _show(self) -> None:
        chosen = max(0, self.list.currentRow())
        self.list.blockSignals(True)
        self.list.clear()
        for one, cost in zip(self.found, self._costs, strict=True):
            self.list.addItem(_line(one, cost))
        self.list.setCurrentRow(min(chosen, len(self.found) - 1))
        self.list.blockSignals(False)
        none = "None fits: look anywhere in the song, or choose another chord."
        self.words.setText(
            f"{len(self.found)} places. Return puts one there as swaps." if self.found else none
        )
        self._show_why()
        self.changed.emit()

    def _show_why(self) -> None:
        one = self._chosen
        self.why.setText("" if one is None else f"{one.formula.name}: {one.formula.why}")

    @property
    def _chosen(self) -> Fitting | None:
        place = self.list.currentRow()
        return self.found[place] if 0 <= place < len(self.found) else None

    # --- acting ---

    def step(self, direction: int) -> None:
        self.list.setCurrentRow(max(0, min(len(self.found) - 1, self.list.currentRow() + direction)))

    @property
    def ready(self) -> bool:
        return self._chosen is not None

    def edit(self, whole: bool) -> Edit | None:
        del whole
        one, song = self._chosen, self.document.song
        return None if one is None or self._song is not song else one.edit(song)

    def audition(self) -> None:
        """The formula in its place, with the chords around it."""
        one, edit = self._chosen, self.edit(whole=True)
        if one is None or edit is None:
            return
        song = edit.song
        own = [slot.index for slot in song.slots if slot.at.written in one.written]
        first, last = own[0], own[0]
        while last + 1 in own:
            last += 1
        shown = row(song, self.document.library)
        self.hear.emit(Sounding(song, shown, max(0, first - 1), min(len(song.slots) - 1, last + 1)))


def _rank(pair: tuple[Fitting, int | None]) -> tuple[int, bool, int]:
    """What fits the tune first, then by effort; what is not weighed last."""
    one, cost = pair
    return one.clashes, cost is None, cost or 0


def _line(one: Fitting, cost: int | None) -> str:
    every = (each.chord for row in one.rows.values() for each in row)
    chords = [("N.C." if chord is None else chord.pretty) for chord, _ in groupby(every)]
    tune = "the tune fits" if not one.clashes else f"{one.clashes} notes of the tune rub"
    effort = "not weighed" if cost is None else f"{more_words(cost)} half steps of effort"
    return f"{one.formula.name}, bar {one.bar}: {' '.join(chords)}. {effort}; {tune}."
