"""The open song for the pages: history, file, solution. Pages write only through here."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QElapsedTimer, QObject, Signal

from yellow_hinge.errors import FileTrouble, Problem, YellowHingeError
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.edits import Edit, edit_chart
from yellow_hinge.song.history import History
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.describe_song import Row, row
from yellow_hinge.tasks.files import open_song, save_song
from yellow_hinge.tasks.solved import NOTHING, Solved
from yellow_hinge.ui.worker import Deliver, Progress, Worker
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.tasks.session import Session

#: How many other voicings are listed for a chord.
MOST_ALTERNATIVES = 40
#: A rest of this length while typing begins a new undo step, ms.
_TYPING_REST_MS = 3000

MakeSession = Callable[[], "Session"]


class Document(QObject):
    """Holds the song and keeps it solved.

    ``changed``: the song, its solution or its file is another. ``renewed``: what was there before has
    come back, or another song was opened, so that nothing on screen holds. ``troubles``: what stands
    in the way of a solution (a tuple of problems, empty when all is well). ``noted``: an edit could
    not keep everything, in words.
    """

    changed = Signal()
    renewed = Signal()
    troubles = Signal(tuple)
    noted = Signal(tuple)

    def __init__(
        self, library: Library, song: Song, make_session: MakeSession, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self.library = library
        self._make_session = make_session
        self._session: Session | None = None
        self.path: Path | None = None
        self.history = History(song)
        self.worker = Worker(self)
        self.worker.part.connect(self._take_solution)
        self.worker.done.connect(self._take_solution)
        self.worker.failed.connect(self._take_failure)
        #: What is known of the song; nothing until it is solved.
        self.solved: Solved = NOTHING
        #: The slot where the player is, for every page.
        self.chosen = 0
        self._row: tuple[Song, Row] | None = None
        self._typing = QElapsedTimer()
        self._typed_since: Song | None = None
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
        self.solved = NOTHING
        self.chosen = min(self.chosen, max(0, len(self.song.slots) - 1))
        self.troubles.emit(())
        if not self.song.slots:
            self.worker.cancel()
            return
        self.worker.start(partial(self._run, self.song))

    def _run(self, song: Song, progress: Progress, deliver: Deliver) -> Solved:
        """The worker's job. The session is made there, when it is first needed."""
        if self._session is None:
            self._session = self._make_session()
        return self._session(song, MOST_ALTERNATIVES, progress, deliver)

    def _take_solution(self, solved: Solved) -> None:
        self.solved = solved
        if solved.voiced is not None and solved.voiced.song.takes != self.song.takes:
            self.history.amend(solved.voiced.song)
        self.changed.emit()

    def _take_failure(self, error: YellowHingeError) -> None:
        self.troubles.emit(error.problems)

    # --- edits ---

    def apply(self, edit: Edit) -> None:
        """Any edit; what it could not keep is said."""
        if edit.song == self.song:
            return
        self.history.push(edit)
        self._typed_since = self._typed_since if edit.gesture else None
        self.solve()
        self.changed.emit()
        if edit.lost or edit.remarks:
            self.noted.emit(_words(edit))

    def edit_chart(self, read: Chart) -> None:
        """Take over a chart that was read without problems; typing on without a rest joins one
        undo step, and decisions are carried from its beginning."""
        if read.text == self.song.chart.text:
            return
        if self._typed_since is None or self._typing.elapsed() > _TYPING_REST_MS:
            self._typed_since = self.song
            self._gesture += 1
        self._typing.start()
        self.apply(edit_chart(self.song, read, f"typing {self._gesture}", self._typed_since))

    def undo(self) -> None:
        if self.history.undo():
            self._renew()

    def redo(self) -> None:
        if self.history.redo():
            self._renew()

    def _renew(self) -> None:
        self._typed_since = None
        self.solve()
        self.renewed.emit()
        self.changed.emit()

    # --- files ---

    def start_over(self, song: Song, path: Path | None) -> None:
        """Open a song in place of this one."""
        self.history, self.path, self.chosen = History(song), path, 0
        self._renew()

    def open(self, path: Path) -> tuple[Problem, ...]:
        """Open a file; give remarks about what was left out. Raises :class:`YellowHingeError`."""
        opened = open_song(path)
        self.start_over(opened.song, path if path.suffix == ".yhinge" else None)
        return opened.problems

    def save(self, path: Path) -> None:
        """Save the project. Raises :class:`FileTrouble`; the song stays as it is then."""
        save_song(self.song, path, self.library)
        self.path = path
        self.history.mark_clean(self.song)
        self.changed.emit()

    def export(self, path: Path) -> None:
        """Write another format. Raises :class:`YellowHingeError`."""
        if self.worker.running and not self.song.solved:
            raise FileTrouble(Problem(path.name, "the search is still running", "export when it is done"))
        save_song(self.song, path, self.library)


def _words(edit: Edit) -> tuple[str, ...]:
    """What an edit has to say."""
    lines = [f"Not kept: {', '.join(edit.lost)}."] if edit.lost else []
    lines += [f"In the new key {words}." for words in edit.remarks[:3]]
    if len(edit.remarks) > 3:
        lines.append(f"... and {len(edit.remarks) - 3} more.")
    return tuple(lines)
