"""Keeps a copy of what is unsaved, and offers what was left behind."""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import suppress
from functools import partial

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QMessageBox, QPushButton, QVBoxLayout, QWidget

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.tasks.files.opening import Unsaved
from yellow_hinge.tasks.files.recovery import Found, Keeper, discard, find
from yellow_hinge.tasks.settings.state_folder import clean_up
from yellow_hinge.ui import kit
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.quiet import Ground
from yellow_hinge.ui.words import Label, plain
from yellow_hinge.ui.worker import Worker

#: From a change to the writing of its copy, ms; changes in between go into the same copy. The player
#: is promised 2 s.
_WAIT_MS = 600
#: How long closing waits for a copy that is being written, s.
_PATIENCE_S = 0.1
#: How many songs are offered at once; the others come up when these are dealt with.
_MOST_OFFERED = 3


class CopyKeeper(QObject):
    """Writes the copy soon after a change, on a thread of its own, and removes it when all is saved.
    ``failed`` says once that no copy can be kept."""

    failed = Signal(tuple)
    _trouble = Signal(object)

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._keeper = Keeper()
        self._writing = threading.Lock()
        self._wanted: Unsaved | None = None
        self._closed = self._failed = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_WAIT_MS)
        self._timer.timeout.connect(self._begin)
        self._trouble.connect(self._say)
        document.changed.connect(self._soon)
        document.typed.connect(self._soon)

    def _soon(self) -> None:
        if not self._timer.isActive():
            self._timer.start()

    def _begin(self) -> None:
        self._wanted = self._document.unsaved if self._document.history.modified else None
        threading.Thread(target=self._write, name="recovery copy", daemon=True).start()

    def _write(self) -> None:
        """On the thread: what is wanted by now."""
        with self._writing:
            try:
                self._write_now()
            except YellowHingeError as error:
                with suppress(RuntimeError):
                    self._trouble.emit(error)

    def _write_now(self) -> None:
        wanted = self._wanted
        if wanted is None or self._closed:
            self._keeper.drop()
        else:
            self._keeper.keep(wanted)

    def _say(self, error: YellowHingeError) -> None:
        if not self._failed:
            self._failed = True
            self.failed.emit(error.problems)

    def now(self) -> None:
        """Write the copy at once, on this thread. Raises :class:`FileTrouble`."""
        self._timer.stop()
        self._wanted = self._document.unsaved if self._document.history.modified else None
        if self._writing.acquire(timeout=_PATIENCE_S):
            try:
                self._write_now()
            finally:
                self._writing.release()

    def close(self) -> None:
        """The song was saved, or its player gave it up."""
        self._timer.stop()
        self._closed = True  # whoever is writing now removes it
        if self._writing.acquire(timeout=_PATIENCE_S):
            self._keeper.drop()
            self._writing.release()


class FoundBar(Ground):
    """Hidden until something was found: a row for each song, to be opened, deleted, or left for later.

    ``wants`` carries what is to be opened; when that was done, :meth:`settle` is called.
    """

    wants = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("panel", parent)
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(16, 8, 12, 8)
        self._found: list[Found] = []
        self._scan = Worker(self, "looking for unsaved songs")
        self._scan.done.connect(self.offer)
        self.hide()

    def look(self) -> None:
        """Look for what was left behind; nothing waits for it."""
        self._scan.start(lambda _progress, _deliver: _look())

    def offer(self, copies: list[Found]) -> None:
        """Show these."""
        self._found = list(copies)
        self._show()

    def settle(self, recovered: Found) -> None:
        """This one is dealt with."""
        discard(recovered)
        self._found.remove(recovered)
        self._show()

    def close_bar(self) -> None:
        """Nothing is looked for any more."""
        self._scan.close()

    def _show(self) -> None:
        while (item := self._rows.takeAt(0)) is not None:
            if (row := item.widget()) is not None:
                row.hide()
                row.deleteLater()
        for recovered in self._found[:_MOST_OFFERED]:
            self._rows.addWidget(self._row(recovered))
        if (more := len(self._found) - _MOST_OFFERED) > 0:
            self._rows.addWidget(Label(f"... and {more} more."))
        self.setVisible(bool(self._found))

    def _row(self, recovered: Found) -> QWidget:
        row = QWidget()
        layout = kit.row(owner=row)
        label = kit.label("", f"Not saved when the program stopped: {recovered.words}")
        layout.addWidget(label, 1)
        for button in self._buttons(recovered):
            layout.addWidget(button)
        return row

    def _buttons(self, recovered: Found) -> list[QPushButton]:
        title = recovered.unsaved.song.title or "Untitled"
        rows: tuple[tuple[str, str, Callable[[], object]], ...] = (
            ("Open it", f"Go on with {title} as it was", partial(self.wants.emit, recovered)),
            ("Delete it", f"Give up what was not saved of {title}", partial(self._delete, recovered)),
            ("Later", "Ask again at the next start", partial(self._leave, recovered)),
        )
        buttons = []
        for words, tip, action in rows:
            button = QPushButton(words)
            button.setToolTip(plain(tip))
            button.setAccessibleName(f"{words}: {title}")
            button.clicked.connect(lambda _=False, action=action: action())
            buttons.append(button)
        return buttons

    def _delete(self, recovered: Found) -> None:
        kinds = QMessageBox.StandardButton
        asked = f"Delete what was not saved of this song for good?\n\n{recovered.words}"
        both = kinds.Yes | kinds.No
        if QMessageBox.question(self, "Yellow Hinge", plain(asked), both, kinds.No) == kinds.Yes:
            self.settle(recovered)

    def _leave(self, recovered: Found) -> None:
        self._found.remove(recovered)
        self._show()


def _look() -> list[Found]:
    clean_up()
    return find()
