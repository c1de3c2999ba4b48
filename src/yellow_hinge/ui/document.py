"""The open song for the pages: history, file, solution. Pages write only through here."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QElapsedTimer, QObject, Signal

from yellow_hinge.errors import FileTrouble, Problem, YellowHingeError
from yellow_hinge.song.edits import (
    Edit,
    ask_of_chord,
    change_settings,
    choose,
    give_back,
    replace_chart,
    set_lock,
    taste_of_section,
)
from yellow_hinge.song.history import History
from yellow_hinge.song.model import Ask, Settings, Song, Taste
from yellow_hinge.tasks.describe_song import Row, row
from yellow_hinge.tasks.files import open_song, save_song
from yellow_hinge.ui.worker import Progress, Worker
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

if TYPE_CHECKING:
    from yellow_hinge.motion.explain import Term
    from yellow_hinge.motion.figures import Effort
    from yellow_hinge.motion.plan import Alternative
    from yellow_hinge.tasks.solver import Betterment, Solved, Solver, TakeFigures
    from yellow_hinge.voicing.reductions import Reduction

#: How many other voicings are listed for a chord.
MOST_ALTERNATIVES = 40
#: A rest of this length while typing begins a new undo step, ms.
_TYPING_REST_MS = 3000


MakeSolver = Callable[[Library], "Solver"]


class Document(QObject):
    """Holds the song and keeps it solved.

    ``changed``: the song, its solution or its file is another. ``troubles``: what stands in
    the way of a solution (a tuple of problems, empty when all is well).
    """

    changed = Signal()
    troubles = Signal(tuple)

    def __init__(
        self,
        library: Library,
        song: Song,
        make_solver: MakeSolver,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.library = library
        self._make_solver = make_solver
        self._solver: Solver | None = None
        self.path: Path | None = None
        self.history = History(song)
        self.worker = Worker(self)
        self.worker.done.connect(self._take_solution)
        self.worker.failed.connect(self._take_failure)
        self.alternatives: list[list[Alternative]] = []
        self.voicing_terms: list[tuple[Term, ...]] = []
        self.hinge_terms: list[tuple[Term, ...]] = []
        self.families: list[tuple[str, str, str]] = []
        self.betterments: list[Betterment | None] = []
        self.takes: list[TakeFigures] = []
        self.effort: Effort | None = None
        self.reductions: dict[int, list[Reduction]] = {}
        self.exact = False
        self._row: tuple[Song, Row] | None = None
        self._typing = QElapsedTimer()
        self._gesture = 0

    @property
    def song(self) -> Song:
        return self.history.song

    @property
    def row(self) -> Row:
        """The song's voicings with fingers and hinges, computed once per song."""
        if self._row is None or self._row[0] is not self.song:
            self._row = (self.song, row(self.song, self.library))
        return self._row[1]

    # --- solving ---

    def solve(self) -> None:
        """Search anew for the song as it is."""
        self.exact, self.alternatives = False, []
        self.voicing_terms, self.hinge_terms, self.families = [], [], []
        self.betterments, self.takes, self.reductions = [], [], {}
        self.effort = None
        self.troubles.emit(())
        if not self.song.slots:
            self.worker.cancel()
            return
        self.worker.start(partial(self._run, self.song))

    def _run(self, song: Song, progress: Progress) -> Solved:
        """The worker's job. The solver is made there, when it is first needed."""
        if self._solver is None:
            self._solver = self._make_solver(self.library)
        return self._solver(song, MOST_ALTERNATIVES, progress)

    def _take_solution(self, solved: Solved) -> None:
        before, after = self.song, solved.voiced.song
        self.alternatives, self.exact = solved.alternatives, solved.voiced.answer.optimal
        self.voicing_terms, self.hinge_terms = solved.voicing_terms, solved.hinge_terms
        self.families, self.betterments, self.takes = solved.families, solved.betterments, solved.takes
        self.reductions, self.effort = solved.reductions, solved.effort
        if after.choices != before.choices:
            self.history.amend(after)
        self.changed.emit()

    def _take_failure(self, error: YellowHingeError) -> None:
        self.troubles.emit(error.problems)

    # --- edits ---

    def _push(self, edit: Edit) -> None:
        self.history.push(edit)
        self.solve()
        self.changed.emit()

    def replace_chart(self, read: Song) -> None:
        """Take over a chart that was read without problems; typing on without a rest joins one
        undo step."""
        if read.chart == self.song.chart:
            return
        if not self._typing.isValid() or self._typing.restart() > _TYPING_REST_MS:
            self._typing.start()
            self._gesture += 1
        self._push(Edit(replace_chart(self.song, read), "Change chart", f"typing {self._gesture}"))

    def change_settings(self, settings: Settings, label: str) -> None:
        if settings != self.song.settings:
            self._push(Edit(change_settings(self.song, settings), label))

    def lock(self, index: int, voicing: Voicing) -> None:
        """Fix a voicing; the rest is solved around it."""
        symbol = self.song.slots[index].chord
        self._push(Edit(choose(self.song, index, voicing, True), f"Lock {symbol}"))

    def unlock(self, index: int) -> None:
        symbol = self.song.slots[index].chord
        self._push(Edit(set_lock(self.song, index, False), f"Unlock {symbol}"))

    def ask(self, index: int, ask: Ask) -> None:
        """Wishes for one chord; the song is solved around them."""
        self._push(Edit(ask_of_chord(self.song, index, ask), f"Wishes for {self.song.slots[index].chord}"))

    def section_taste(self, section: str, taste: Taste) -> None:
        """Wishes for a section."""
        self._push(Edit(taste_of_section(self.song, section, taste), f"Wishes for {section}"))

    def apply(self, edit: Edit) -> None:
        """Any edit that a page has made."""
        if edit.song != self.song:
            self._push(edit)

    def give_back(self, written: int) -> None:
        """The chart's own chord in place of a swap."""
        if written in self.song.swaps:
            self._push(Edit(give_back(self.song, written), "Give back"))

    def undo(self) -> None:
        if self.history.undo():
            self.solve()
            self.changed.emit()

    def redo(self) -> None:
        if self.history.redo():
            self.solve()
            self.changed.emit()

    # --- files ---

    def start_over(self, song: Song, path: Path | None) -> None:
        """Open a song in place of this one."""
        self.history, self.path = History(song), path
        self.solve()
        self.changed.emit()

    def open(self, path: Path) -> tuple[Problem, ...]:
        """Open a file; give remarks about what was left out. Raises :class:`YellowHingeError`."""
        imported = open_song(path)
        self.start_over(imported.song, path if path.suffix == ".yhinge" else None)
        return imported.problems

    def save(self, path: Path) -> None:
        """Save the project. Raises :class:`FileTrouble`; the song stays as it is then."""
        save_song(self.song, path, self.library)
        self.path = path
        self.history.mark_clean(self.song)
        self.changed.emit()

    def export(self, path: Path) -> None:
        """Write another format. Raises :class:`YellowHingeError`."""
        if self.worker.running:
            raise FileTrouble(Problem(path.name, "the search is still running", "export when it is done"))
        save_song(self.song, path, self.library)
