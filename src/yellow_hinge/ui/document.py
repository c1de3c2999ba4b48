"""The open song for the pages: history, file, solution. Pages write only through here."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from yellow_hinge.errors import Cancelled, FileTrouble, Problem, YellowHingeError
from yellow_hinge.formats.chart_text import cleaned
from yellow_hinge.formats.project_file import Opened
from yellow_hinge.song.edits import Edit, edit_chart
from yellow_hinge.song.groove_edits import only_rhythm
from yellow_hinge.song.history import History
from yellow_hinge.song.model import Song
from yellow_hinge.song.pairs import in_step
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.files.opening import Unsaved, digest_of, is_project, open_song, save_song
from yellow_hinge.tasks.song.describe_song import Row, row
from yellow_hinge.tasks.song.drafts import changed_lines, checked_as_it_is, draft_remarks, shown_text
from yellow_hinge.tasks.song.known import with_known_schools
from yellow_hinge.tasks.song.solved import NOTHING, Solved
from yellow_hinge.ui.taste import OwnTaste
from yellow_hinge.ui.worker import Deliver, Worker
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.tasks.song.session import Session

#: How many other voicings are listed for a chord.
MOST_ALTERNATIVES = 40
#: A rest of this length while typing begins a new undo step, ms.
_TYPING_REST_MS = 3000
#: Pause after the last key stroke before the chart is read, ms.
_TYPING_PAUSE_MS = 350
#: Of what an edit has to say so much is said.
_MOST_SAID = 3
#: What undo takes back where text was typed.
TYPING = "Change chart"


def make_session(library: Library) -> Session:
    """What keeps a song solved; it brings NumPy."""
    from yellow_hinge.tasks.song.session import Session  # noqa: PLC0415 - off the interface thread

    return Session(library)


class Document(QObject):
    """Holds the song and the text that is typed on it, and keeps the song solved.

    ``changed``: the song, its grips or its file are other ones. ``known``: more is known of the same song and
    grips: reasons, ranks, other rows. ``typed``: the chart text is another;
    ``read``: it was read, and ``checked`` holds what came of it. ``renewed``: what was there before has
    come back, or another song was opened, so that nothing on screen holds. ``troubles``: what stands
    in the way of a solution (a tuple of problems, empty when all is well). ``noted``: an edit could
    not keep everything, in words. ``acted``: something is done now, so that what was noted before has been
    read. ``learned``: there are other recipes now. ``walked``: another chord is :attr:`chosen`.
    ``saved``: a file holds the song.
    """

    changed = Signal()
    known = Signal()
    typed = Signal()
    read = Signal()
    renewed = Signal()
    troubles = Signal(tuple)
    noted = Signal(tuple)
    acted = Signal()
    learned = Signal(object)
    walked = Signal()
    saved = Signal()

    def __init__(self, library: Library, song: Song, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.library = library
        self._session: Session | None = None
        self.path: Path | None = None
        self._digest: str | None = None
        self.history = History(song)
        self.worker = Worker(self)
        self.worker.part.connect(self._take_solution)
        self.worker.done.connect(self._take_solution)
        self.worker.failed.connect(self._take_failure)
        #: What is known of the song; nothing until it is solved.
        self.solved: Solved = NOTHING
        self._failed = False
        self._comes_new = False  # another song was opened: the worker lets go what it kept for the last one
        self._chosen = 0
        self._row: tuple[Song, Row] | None = None
        self.checked = checked_as_it_is(song, None)
        self._typing = QElapsedTimer()
        self._typed_since: Song | None = None
        self._gesture, self._typed_line = 0, 0
        self._lost: frozenset[str] = frozenset()
        self.taste = OwnTaste(self, self)
        self.saved.connect(self.taste.saved)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(_TYPING_PAUSE_MS)
        self._pause.timeout.connect(self.read_draft)

    @property
    def song(self) -> Song:
        return self.history.song

    @property
    def chosen(self) -> int:
        """The slot where the player is, for every page."""
        return self._chosen

    def choose(self, slot: int) -> None:
        """The player goes to another slot; beyond the end to the last one."""
        slot = max(0, min(slot, len(self.song.slots) - 1))
        if slot != self._chosen:
            self._chosen = slot
            self.walked.emit()

    @property
    def text(self) -> str:
        """The chart text as the player sees it: what is being typed, or the song's own."""
        draft = self.history.draft
        return shown_text(self.song.chart) if draft is None else draft

    @property
    def row(self) -> Row:
        """The song's voicings with fingers and hinges, computed once per song."""
        if self._row is None or self._row[0] is not self.song:
            self._row = (self.song, row(self.song, self.library))
        return self._row[1]

    # --- solving ---

    def solve(self) -> None:
        """Search anew for the song as it is."""
        self.solved, self._failed = NOTHING, False
        self._chosen = min(self._chosen, max(0, len(self.song.slots) - 1))  # said by ``changed``
        self.troubles.emit(())
        if not self.song.slots:
            self.worker.cancel()
            return
        self.worker.start(partial(self._run, self.song))

    def learn(self, library: Library) -> None:
        """Other recipes from now on: everything is solved anew with them."""
        self.library, self._session, self._row = library, None, None
        self.learned.emit(library)
        self.solve()
        self.changed.emit()

    def _run(self, song: Song, progress: Progress, deliver: Deliver) -> Solved:
        """The worker's job. The session is made there, when it is first needed."""
        if self._session is None:
            self._session = make_session(self.library)
        if self._comes_new:
            self._comes_new = False
            self._session.rest()
        try:
            return self._session(song, MOST_ALTERNATIVES, progress, deliver)
        except (Cancelled, YellowHingeError):
            raise
        except BaseException:
            self._session = None  # who knows what it holds now
            raise

    def _take_solution(self, solved: Solved) -> None:
        self.solved = solved
        if solved.voiced is not None and solved.voiced.song.takes != self.song.takes:
            self.history.amend(solved.voiced.song)
            self.changed.emit()
        else:
            self.known.emit()

    def _take_failure(self, error: YellowHingeError) -> None:
        self._failed = True
        self.troubles.emit(error.problems)

    @property
    def waits(self) -> bool:
        """Whether it is not known yet which voicings its chords can have."""
        return bool(self.song.slots) and not (self.solved.alternatives or self._failed)

    # --- edits ---

    def apply(self, edit: Edit) -> None:
        """Any edit of the song; what it could not keep is said. Text that is not read stays."""
        if edit.song == self.song:
            return
        self._typed_since = None
        self._push(replace(edit, song=in_step(self.song, edit.song)), self.history.draft, edit.lost)

    def _push(self, edit: Edit, draft: str | None, lost: Sequence[str]) -> None:
        self.acted.emit()
        before = self.song
        self.history.push(edit, draft)
        known = self.solved.voiced is not None and not self.worker.running
        if not (known and only_rhythm(before, self.song)):  # how it is played changes no voicing
            self.solve()
        self.changed.emit()
        if lost or edit.remarks:
            self.noted.emit((_words(lost, edit.remarks),))

    def type_text(self, text: str) -> None:
        """The chart text as it is typed, from the first key on, valid or not; it is read after a
        pause. Typing on in a line without a rest joins one undo step."""
        text = cleaned(text)
        before = self.text
        if text == before:
            return
        self.acted.emit()
        first, last = changed_lines(before, text)
        goes_on = self._typed_since is not None and self._typing.elapsed() <= _TYPING_REST_MS
        if not (goes_on and first == self._typed_line and text.count("\n") == before.count("\n")):
            self._gesture += 1
        self._typed_line = last
        since, rested = self._typed_since, self._typing.elapsed() > _TYPING_REST_MS
        if since is None or (rested and since.title != self.song.title):  # by now it is another song
            self._typed_since, self._lost = self.song, frozenset()
        self._typing.start()
        draft = None if text == shown_text(self.song.chart) else text
        self.history.type(draft, TYPING, self._typing_gesture)
        self._pause.start()
        self.typed.emit()

    def put_text(self, text: str) -> None:
        """Other chart text that was not typed, as an undo step of its own; it is read at once."""
        self._typed_since = None
        self.type_text(text)
        self.read_draft()
        self._typed_since = None

    @property
    def _typing_gesture(self) -> str:
        return f"typing {self._gesture}"

    def read_draft(self) -> None:
        """Read what is typed now; a good chart becomes the song, with what was decided before the
        typing began."""
        self._pause.stop()
        draft = self.history.draft
        self.checked = checked_as_it_is(self.song, draft)
        chart = self.checked.chart
        if draft is not None and chart is not None:
            edit = edit_chart(self.song, chart, self._typing_gesture, self._typed_since)
            new = [words for words in edit.lost if words not in self._lost]
            self._lost |= frozenset(edit.lost)
            self._push(edit, None, new)
        self.read.emit()

    def undo(self) -> None:
        if self.history.undo():
            self._renew()

    def redo(self) -> None:
        if self.history.redo():
            self._renew()

    def _renew(self) -> None:
        self.acted.emit()
        self._typed_since = None
        self._pause.stop()
        self.checked = checked_as_it_is(self.song, self.history.draft)
        self.solve()
        self.renewed.emit()
        self.changed.emit()

    # --- files ---

    def start_over(
        self, song: Song, path: Path | None, draft: str | None = None, digest: str | None = None
    ) -> None:
        """Open a song in place of this one. ``digest`` is that of the file that holds it."""
        self.history, self.path, self._chosen = History(song, draft), path, 0
        self._comes_new = True
        self._digest = digest
        self._renew()

    def open(self, opened: Opened, path: Path) -> tuple[Problem, ...]:
        """Go on with what a file holds; give remarks about it, such as what was left out."""
        song, unknown = with_known_schools(opened.song, self.library, path.name)
        project = is_project(path)
        song = song if project else self.taste.begun(song)
        self.start_over(song, path if project else None, opened.draft, opened.digest)
        return opened.problems + unknown + self._of_the_draft()

    def _of_the_draft(self) -> tuple[Problem, ...]:
        """What to say of chart text that came with a song and is not read."""
        draft = self.history.draft
        return () if draft is None else draft_remarks(self.checked)

    def take_back(self, unsaved: Unsaved) -> tuple[Problem, ...]:
        """Go on with a song that no file holds; give remarks about it."""
        song, unknown = with_known_schools(unsaved.song, self.library, unsaved.song.title)
        self.start_over(song, unsaved.path, unsaved.draft, unsaved.digest)
        self.history.mark_dirty()
        self.changed.emit()
        return unknown + self._of_the_draft()

    @property
    def unsaved(self) -> Unsaved:
        """What would be lost if the program stopped now."""
        return Unsaved(self.song, self.history.draft, self.path, self._digest)

    def changed_by_others(self, path: Path) -> bool:
        """Whether the project's own file is not as it was when it was opened or saved here."""
        if path != self.path or self._digest is None:
            return False
        digest = digest_of(path)
        return digest is not None and digest != self._digest

    def take_theirs(self) -> tuple[Problem, ...]:
        """Read the project's file again in place of what is here, which undo brings back. Raises
        :class:`YellowHingeError`."""
        assert self.path is not None
        opened = open_song(self.path)
        song, unknown = with_known_schools(opened.song, self.library, self.path.name)
        self._typed_since, self._digest = None, opened.digest
        self.history.push(Edit(song, "Keep theirs"), opened.draft)
        self.history.mark_clean(song, opened.draft)
        self._renew()
        return opened.problems + unknown + self._of_the_draft()

    def save(self, path: Path) -> None:
        """Save the project, with text that cannot be read yet. Raises :class:`FileTrouble`; the song
        stays as it is then."""
        self.read_draft()
        song, draft = self.song, self.history.draft
        self._digest = save_song(song, path, self.library, draft)
        self.path = path
        self.history.mark_clean(song, draft)
        self.changed.emit()
        self.saved.emit()

    def ready_for(self, path: Path) -> None:
        """Whether the song can go to a file of another format now. Raises :class:`FileTrouble`."""
        self.read_draft()
        if self.worker.running and not self.song.solved:
            raise FileTrouble(Problem(path.name, "the search is still running", "export when it is done"))


def _words(lost: Sequence[str], remarks: Sequence[str]) -> str:
    """What an edit has to say, in a line."""
    sentences = [f"Not kept: {_few(lost, ', ')}."] if lost else []
    if remarks:
        said = _few(remarks, "; ")
        sentences.append(f"{said[0].upper()}{said[1:]}.")
    return " ".join(sentences)


def _few(words: Sequence[str], between: str) -> str:
    """The first few of some words, and how many more there are."""
    rest = len(words) - _MOST_SAID
    more = (f"and {rest} more",) if rest > 0 else ()
    return between.join((*words[:_MOST_SAID], *more))
