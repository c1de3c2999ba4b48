"""The side of the Sheet page: kind, paper, and what the sheet shows."""

from __future__ import annotations

from datetime import date
from functools import partial

from PySide6.QtWidgets import QCheckBox

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.reharm.formulas import builtin_formulas
from yellow_hinge.sheet.kinds import KIND_IDS
from yellow_hinge.tasks.swaps.own_formulas import every_formula
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.pages.sheet.paging import Paging
from yellow_hinge.ui.pages.sheet.state import PAPER_WORDS, SHOWN
from yellow_hinge.ui.quiet import SidePanel
from yellow_hinge.ui.words import Words

_PAPER_TICKS = (("across", "across"), ("large", "large print"), ("plain", "black and white"))


class SheetSide(SidePanel):
    """Shows the state; what is chosen goes to the part that decides on the sheet."""

    def __init__(self, paging: Paging, commands: CommandList) -> None:
        super().__init__()
        self._paging, self._state = paging, paging.state
        papers = ((words, paper) for paper, words in PAPER_WORDS.items())
        self.paper_box = kit.choice("Paper", chosen=self._settle_paper, choices=papers)
        self.boxes: dict[str, QCheckBox] = {}
        self.dated = kit.tick("today's date", self._set_date)
        self.shown_heading = kit.heading("It shows")
        tip = "Every grip of the song, one of them, or a formula, in all keys"
        self.shape_box = kit.choice("What is shown in all keys", tip, self._choose_shape)
        for widget in (
            *(kit.button(commands, f"sheet-{kind}", "face") for kind in KIND_IDS), kit.heading("Paper"),
            self.paper_box,
            *(self._tick(name, words) for name, words in _PAPER_TICKS), self.dated, self.shown_heading,
            *(self._tick(name, words) for name, words, _ in SHOWN), self.shape_box,
        ):  # fmt: skip
            self.rows.addWidget(widget)
        self.rows.addStretch(1)
        self.words = Words()
        self.foot.addWidget(self.words)
        for act, look in (("save-sheet", "first"), ("print-sheet", ""), ("copy-sheet", "")):
            self.foot.addWidget(kit.button(commands, act, look))
        paging.kind_chosen.connect(self._kind_chosen)

    def _tick(self, name: str, words: str) -> QCheckBox:
        box = self.boxes[name] = kit.tick(words, partial(self._settle, name))
        box.setChecked(bool(getattr(self._state.options, name)))
        return box

    def _settle(self, name: str, on: bool) -> None:
        self._paging.settle(**{name: on})

    def _settle_paper(self) -> None:
        self._paging.settle(paper=self.paper_box.currentData())

    def _set_date(self, on: bool) -> None:
        today = date.today()
        self._paging.settle(date=f"{today.day} {today:%B %Y}" if on else "")

    def refresh(self) -> None:
        """What belongs to the kind of sheet."""
        kind = self._state.kind
        for name, _, kinds in SHOWN:
            self.boxes[name].setVisible(kind in kinds)
        self.shown_heading.setVisible(any(kind in kinds for _, _, kinds in SHOWN))
        self.shape_box.setVisible(kind == "keys")

    def _kind_chosen(self, kind: str) -> None:
        if kind == "keys":
            self._list_shapes()

    def _list_shapes(self) -> None:
        """Every grip, the chosen chord's, or a formula."""
        song, chosen = self._paging.document.song, self._paging.document.chosen
        self.shape_box.clear()
        self.shape_box.addItem("every grip of the song", "")
        if chosen < len(song.slots) and (chord := song.slots[chosen].chord) is not None:
            bar = song.slots[chosen].bar
            self.shape_box.addItem(f"the grip of {chord.pretty}, bar {bar}", chosen)
        try:
            formulas = every_formula()
        except YellowHingeError as error:
            self._paging.said.emit(error.problems)
            formulas = dict(builtin_formulas())
        self.shape_box.insertSeparator(self.shape_box.count())
        for formula in formulas.values():
            self.shape_box.addItem(formula.name, formula.id)
        self.shape_box.setCurrentIndex(max(0, self.shape_box.findData(self._state.shape)))
        self._state.shape = self.shape_box.currentData()

    def _choose_shape(self) -> None:
        self._state.shape, self._state.page = self.shape_box.currentData(), 0
        self._paging.asks.emit()
