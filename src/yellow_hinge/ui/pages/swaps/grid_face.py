"""Swaps as switches: every combination as a tile with its bass, what it costs and what the tune says."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QCheckBox, QGridLayout

from yellow_hinge.motion.figures import amount_words, half_steps, more_words
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.edits import Edit
from yellow_hinge.tasks.keys.survey import note_name
from yellow_hinge.tasks.swaps.grid import (
    MOST_SWITCHES,
    Combination,
    Row,
    SwapGrid,
    Switch,
    swap_grid,
    swaps_words,
    switches_of,
)
from yellow_hinge.theory.pretty import counted, pretty_accidentals
from yellow_hinge.ui import kit
from yellow_hinge.ui.desk import Desk
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.pages.swaps.face import ChordFace, Given
from yellow_hinge.ui.pages.swaps.grid_view import GridView
from yellow_hinge.ui.words import Words


class GridFace(ChordFace):
    """Up to six switches, a tile for each of their combinations, and words on the chosen one. ``marked``
    are the page's marked proposals, by written chord; it changes them, this reads them."""

    acts = frozenset(("take_whole", "across"))

    def __init__(self, given: Given) -> None:
        super().__init__(given)
        document = given.document
        self._marked = given.state.marked
        self._planner = Desk(document, Planner)
        self.grid: SwapGrid | None = None
        self.chosen: Combination | None = None
        self._for: tuple[Chart, dict[int, Row]] | None = None
        self.boxes: list[QCheckBox] = []
        self._hold = self._by_bass = False
        layout = kit.column(self)
        heading = kit.heading("Every combination of a few swaps")
        layout.addWidget(heading)
        self.words = Words()
        layout.addWidget(self.words)
        self._switches = QGridLayout()
        layout.addLayout(self._switches)
        self.view = GridView()
        self.view.picked.connect(self.choose)
        layout.addWidget(self.view, 1)
        self.sum = Words()
        layout.addWidget(self.sum)
        self.worker.progress.connect(self._show_share)

    # --- looking ---

    def look(self) -> None:
        """The grid of the song as it is; the switches stay while chart and marks do."""
        song, planner, library = self.document.song, self._planner(), self.document.library
        if not song.slots:
            self._take_in(None)
            return
        same = self.grid is not None and self.grid.song is song and self.grid.held == self._hold
        if same and self._for == (song.chart, self._marked):
            return
        marked = dict(self._marked)
        kept = self.grid.switches if self.grid is not None and self._for == (song.chart, marked) else ()
        hold = self._hold

        def job(progress: Any, _: object) -> object:
            switches = kept or switches_of(song, marked, library, planner, progress)
            return marked, swap_grid(song, switches, library, planner, progress, hold=hold)

        self.worker.start(job)

    def _take_in(self, result: Any) -> None:
        if result is None:
            self.grid, self.chosen, self._for = None, None, None
        else:
            marked, grid = result
            self.grid = replace(grid, by_bass=self._by_bass)
            self._for = grid.song.chart, marked
            before = None if self.chosen is None else self.chosen.on
            same = (combination for combination in self.grid.combinations if combination.on == before)
            self.chosen = self.grid.now or next(same, None) or next(iter(self.grid.combinations), None)
        self._show()

    def _show_share(self, share: float) -> None:
        self.words.setText(f"Weighing the combinations: {share:.0%}. Escape stops it.")

    def _show(self) -> None:
        grid = self.grid
        self._show_switches(() if grid is None else grid.switches)
        self.view.show_grid(grid, self.chosen)
        self.words.setText(_grid_words(grid, len(self._marked), bool(self.document.song.slots)))
        words = "" if grid is None or self.chosen is None else combination_words(grid, self.chosen)
        self.sum.setText(f"{words}{self.kept_words()}")
        self.changed.emit()

    def _show_switches(self, switches: tuple[Switch, ...]) -> None:
        if [box.text() for box in self.boxes] != [switch.words for switch in switches]:
            for box in self.boxes:
                box.deleteLater()
            self.boxes = [QCheckBox(switch.words) for switch in switches]
            for place, box in enumerate(self.boxes):
                box.setToolTip("With this swap or without it: goes to that combination")
                box.clicked.connect(lambda _, place=place: self._switch(place))
                self._switches.addWidget(box, place // 2, place % 2)
        on = () if self.chosen is None else self.chosen.on
        for box, there in zip(self.boxes, on, strict=False):
            box.setChecked(there)

    def _switch(self, place: int) -> None:
        """The combination with one switch turned; where these hands cannot play it, nothing changes."""
        if self.grid is not None and self.chosen is not None:
            on = tuple(there != (at == place) for at, there in enumerate(self.chosen.on))
            combination = next((one for one in self.grid.combinations if one.on == on), None)
            self.choose(combination or self.chosen)

    def choose(self, combination: Combination) -> None:
        """Another combination."""
        self.chosen = combination
        self._show()

    # --- acting ---

    def stop(self) -> None:
        super().stop()
        self._show()

    def step(self, direction: int) -> None:
        """The best with one swap more or fewer."""
        if self.grid is not None and self.chosen is not None:
            best = self.grid.best(self.chosen.swaps + direction)
            self.choose(best or self.chosen)

    def across(self, direction: int) -> None:
        """The next of the same size."""
        if self.grid is not None and self.chosen is not None:
            same = self.grid.of_size(self.chosen.swaps)
            place = same.index(self.chosen) + direction
            self.choose(same[max(0, min(len(same) - 1, place))])

    def turn(self) -> None:
        """The best first by how far the bass moves, or by effort."""
        self._by_bass = not self._by_bass
        if self.grid is not None:
            self.grid = replace(self.grid, by_bass=self._by_bass)
        self._show()

    def mark(self) -> None:
        """The right hands of the song in every combination, or each as it is best."""
        self._hold = not self._hold
        self.look()

    @property
    def holds(self) -> bool:
        return self._hold

    def can(self, act: str) -> bool:
        return act == "mark" or (self.grid is not None if act == "turn" else super().can(act))

    @property
    def ready(self) -> bool:
        return self.chosen is not None and self.grid is not None and self.grid.song is self.document.song

    def edit(self, whole: bool) -> Edit | None:
        """The combination in this take; ``whole`` makes a take of its own of it."""
        if not self.ready or self.grid is None or self.chosen is None:
            return None
        return self.grid.as_take(self.chosen) if whole else self.grid.edit(self.chosen)

    def audition(self) -> None:
        """The whole song with the combination, from the chosen chord on."""
        if self.chosen is not None and self.ready:
            song = self.chosen.voiced.song
            place = self.document.song.slots[self.index].place if self.index >= 0 else 0
            first = next((slot.index for slot in song.slots if slot.place >= place), 0)
            self.hear.emit(Sounding(song, first, len(song.slots) - 1))


def _grid_words(grid: SwapGrid | None, marked: int, there: bool) -> str:
    if grid is None and there:
        return "Stopped. Open the grid again (E, then G) to weigh the combinations."
    if grid is None:
        return "There are no chords yet. Go to Song (Ctrl+1) and type a chart."
    if not grid.switches:
        return "No swap fits here. Open Proposals (E), choose one and press M to mark it for the grid."
    left = marked - MOST_SWITCHES
    more = f" {left} marked ones are left out: six is the most." if left > 0 else ""
    out = f" {grid.unplayable} cannot be played by these hands." if grid.unplayable else ""
    words = "" if marked else " M on Proposals (E) marks swaps of your own choice."
    first = "the way of the bass" if grid.by_bass else "effort"
    hold = " Every right hand is the one that the song has now." if grid.held else ""
    return (
        f"A row for each number of swaps, the best at the left: first what the tune says, then {first}. "
        "Up and Down, comma and full stop walk. In a tile: the bass around each swap, heavy where taken, "
        f"and half steps of effort against no swaps.{hold}{words}{more}{out}"
    )


def combination_words(grid: SwapGrid, combination: Combination) -> str:
    """A combination in words: effort against none, half steps, bass and tune."""
    plain = grid.best(0)
    against = (
        "" if plain is None or plain is combination else f" ({more_words(combination.cost - plain.cost)})"
    )
    ends = (min(combination.bass, default=0), max(combination.bass, default=0))
    low, high = (pretty_accidentals(note_name(key, grid.song.key_here)) for key in ends)
    bass = (
        f"the bass moves {half_steps(combination.bass_st)}, between {low} and {high}"
        if combination.bass
        else "no bass"
    )
    tune = (
        "nothing in the tune clashes" if not combination.clashes
        else "one note of the tune clashes"
        if combination.clashes == 1
        else f"{combination.clashes} notes of the tune clash"
    )  # fmt: skip
    held = (
        f" {counted(combination.rubs, 'note')} of the held hands rub against a swap."
        if combination.rubs
        else ""
    )
    now = " This is how the song is now." if grid.now is combination else ""
    best = (
        " The best of its size." if combination.swaps and grid.best(combination.swaps) is combination else ""
    )
    return (
        f"{swaps_words(combination.swaps)}: effort {amount_words(combination.cost)}{against}, "
        f"{half_steps(combination.motion_st)} moved; {bass}; {tune}.{held}{best}{now}"
    )
