"""The function board on the Swaps page: a degree, where it goes, and what may stand over it."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QHBoxLayout

from yellow_hinge.motion.figures import half_steps
from yellow_hinge.reharm.regions import function_of
from yellow_hinge.song.edits import Edit
from yellow_hinge.tasks.swaps.function_board import (
    UPPER,
    Board,
    Cell,
    Lying,
    board,
    degrees_of,
    goals,
    inversions,
    put,
)
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pretty import counted, pretty_accidentals, pretty_degree
from yellow_hinge.ui import kit
from yellow_hinge.ui.pages.swaps.board_view import BoardView
from yellow_hinge.ui.pages.swaps.face import ChordFace, Given
from yellow_hinge.ui.words import Label, Words


class BoardFace(ChordFace):
    """Bass and goal are chosen above; the arrows walk the board; an inversion is chosen, heard and taken."""

    def __init__(self, given: Given) -> None:
        super().__init__(given)
        self.board: Board | None = None
        self.at = (0, 0)
        self.lying: list[Lying] = []
        self._turned = 0
        self._goals: list[tuple[ChordSymbol, bool]] = []
        layout = kit.column(self)
        top = QHBoxLayout()
        self.bass = kit.choice("Degree in the bass", "", lambda: self._ask(keep_bass=True))
        self.goal = kit.choice(
            "Where it goes", "The next chord of the song; or this chord itself or another one, which then "
            "takes the second half of this chord's time", lambda: self._ask(keep_bass=False),
        )  # fmt: skip
        for words, box in (("Over", self.bass), ("going to", self.goal)):
            top.addWidget(Label(words))
            top.addWidget(kit.narrow(box), 1 + (box is self.goal))
        layout.addLayout(top)
        self.words = Words()
        layout.addWidget(self.words)
        self.view = BoardView()
        self.view.picked.connect(self._pick)
        layout.addWidget(self.view, 1)
        self.sum = Words()
        layout.addWidget(self.sum)

    # --- looking ---

    def look(self) -> None:
        """The chosen chord on its way to the next one."""
        song = self.document.song
        if self.board is not None and (self.board.song, self.board.index) == (song, self.index):
            return
        there = 0 <= self.index < len(song.slots) and song.slots[self.index].chord is not None
        self._goals = goals(song, self.index) if there else []
        said: list[tuple[str, int]] = []
        for chord, stands in self._goals:
            own = chord == song.slots[self.index].chord and not stands
            words = "the next chord" if stands else "this chord itself" if own else "in its second half"
            said.append((f"{chord.pretty}, {words}", len(said)))
        self.goal.offer(said)
        self._ask(keep_bass=False)

    def _ask(self, keep_bass: bool) -> None:
        song, index, place = self.document.song, self.index, self.goal.currentIndex()
        if not self._goals:
            self._take_in(None)
            return
        goal = self._goals[max(0, place)]
        bass = degrees_of(self.board)[self.bass.currentIndex()].name if keep_bass and self.board else None
        self.worker.start(lambda *_: board(song, index, goal, bass))

    def _take_in(self, result: Any) -> None:
        self.board = result
        rows = []
        if self.board is not None:
            self.at = self.board.best
            rows = [
                (f"{pretty_accidentals(degree.number)} ({degree.name.pretty}): {degree.job}", degree.number)
                for degree in degrees_of(self.board)
            ]
        self.bass.offer(rows)
        if self.board is not None:
            self.bass.setCurrentIndex((self.board.bass.pitch_class - self.board.key.tonic.pitch_class) % 12)
        self._choose()

    def _choose(self) -> None:
        cell, board = self.cell, self.board
        self._turned = 0
        self.lying = [] if cell is None or board is None else inversions(board, cell, self.document.library)
        self._show()

    def _show(self) -> None:
        self.view.show_board(self.board, self.at)
        if self.board is None:
            self.words.setText("Choose a chord at the left: what may stand over its bass is shown here.")
            self.sum.setText("")
        else:
            goal = "" if self.board.goal is None else f" on its way to {self.board.goal.pretty}"
            job = function_of(self.board.base, self.board.goal, self.board.key).words
            self.words.setText(
                f"{self.board.bass.pretty} taken for {self.board.base.pretty}{goal}: it {job}. Up and Down "
                "walk the kinds, comma and full stop the roots; U turns to the next inversion."
            )
            self.sum.setText(self._cell_words() + self.kept_words())
        self.changed.emit()

    def _cell_words(self) -> str:
        cell, board = self.cell, self.board
        assert cell is not None and board is not None
        over = f"{cell.upper.pretty} over {board.bass.pretty}"
        degrees = ", ".join(pretty_degree(degree) for degree in cell.degrees)
        why = [
            words
            for words, there in (
                (f"belongs to {board.base.pretty}", cell.inside),
                ("third and seventh without the root", cell.rootless),
                (f"half steps to {board.goal.pretty if board.goal else ''}", cell.leads),
                ("half steps from the chord before", cell.comes),
            )
            if there
        ] or ["no reason to play it here but your ear"]
        why.insert(0, function_of(cell.chord, board.goal, board.key).words)
        tune = f" It clashes with {counted(cell.clashes, 'note')} of the tune." if cell.clashes else ""
        lying = self._lying
        if lying is None:
            hands = "These hands cannot play it so."
        else:
            notes = " ".join(pitch.name.pretty for pitch in lying.voicing.right.pitches(cell.chord))
            place = f"inversion {self._turned + 1} of {len(self.lying)}"
            hands = f"{notes} ({place}): {half_steps(lying.from_st)} from the chord before, {lying.to_st} on."
        return f"{over}: {cell.chord.pretty} ({degrees}); {', '.join(why)}.{tune} {hands}"

    @property
    def cell(self) -> Cell | None:
        """The chosen cell."""
        return None if self.board is None else self.board.cells[self.at[0]][self.at[1]]

    @property
    def _lying(self) -> Lying | None:
        return self.lying[self._turned] if self._turned < len(self.lying) else None

    # --- acting ---

    def _pick(self, row: int, column: int) -> None:
        self.at = (row, column)
        self._choose()

    def step(self, direction: int) -> None:
        self._pick(max(0, min(len(UPPER) - 1, self.at[0] + direction)), self.at[1])

    def across(self, direction: int) -> None:
        self._pick(self.at[0], (self.at[1] + direction) % 12)

    def turn(self) -> None:
        """The next inversion."""
        if self.lying:
            self._turned = (self._turned + 1) % len(self.lying)
            self._show()

    def can(self, act: str) -> bool:
        return (act == "turn" and len(self.lying) > 1) or (act == "across" and self.board is not None)

    @property
    def ready(self) -> bool:
        return self._lying is not None

    def edit(self, whole: bool) -> Edit | None:
        del whole
        cell, lying, board = self.cell, self._lying, self.board
        if cell is None or lying is None or board is None or board.song is not self.document.song:
            return None
        return put(board, cell, lying.voicing, self.document.library)
