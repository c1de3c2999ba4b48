"""Opening, saving and exporting: asks for names, and for what to do with unsaved changes."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files import READ_SUFFIXES, demo_song
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.message import MessageBar

NEW_CHART = """title: Untitled
key: C
meter: 4/4
tempo: 100

[Verse]
| C | Am7 | Dm7 | G7 |
"""


class FileDesk:
    """Everything about files that the window offers. ``before`` is called before another song is
    opened."""

    def __init__(
        self, window: QWidget, document: Document, message: MessageBar, before: Callable[[], object]
    ) -> None:
        self._window, self._document = window, document
        self._message, self._before = message, before

    def may_leave(self) -> bool:
        """Ask what to do with unsaved changes; True when the song may be left."""
        if not self._document.history.modified:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self._window, "Yellow Hinge", "Save the changes to this song?",
            buttons.Save | buttons.Discard | buttons.Cancel,
        )  # fmt: skip
        if answer == buttons.Save:
            return self.save()
        return answer == buttons.Discard

    def new_song(self) -> bool:
        """Begin a new song; whether that was done."""
        if not self.may_leave():
            return False
        return self._open(lambda: self._document.start_over(Song(parse_chart(NEW_CHART)), None))

    def open_demo(self, name: str) -> None:
        if self.may_leave():
            self._open(lambda: self._document.start_over(demo_song(name), None))

    def ask_open(self) -> None:
        if not self.may_leave():
            return
        kinds = " ".join(f"*{suffix}" for suffix in READ_SUFFIXES)
        name, _ = QFileDialog.getOpenFileName(
            self._window, "Open a song", "", f"Songs ({kinds});;All files (*)"
        )
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> None:
        """Open a file; on trouble the song that is open stays."""
        problems: list[Problem] = []
        self._open(lambda: problems.extend(self._document.open(path)))
        if problems:
            self._message.say(problems)

    def _open(self, action: Callable[[], object]) -> bool:
        self._before()
        try:
            action()
        except YellowHingeError as error:
            self._message.say(error.problems)
            return False
        return True

    def save(self) -> bool:
        """Save to the project's file, asking for a name if there is none yet."""
        return self.ask_save() if self._document.path is None else self._save(self._document.path)

    def ask_save(self) -> bool:
        start = self._document.path or Path.home() / f"{self._document.song.title or 'song'}.yhinge"
        name, _ = QFileDialog.getSaveFileName(
            self._window, "Save the project", str(start), "Yellow Hinge project (*.yhinge)"
        )
        if not name:
            return False
        path = Path(name)
        return self._save(path if path.suffix else path.with_suffix(".yhinge"))

    def _save(self, path: Path) -> bool:
        try:
            self._document.save(path)
        except YellowHingeError as error:
            self._message.say(error.problems)
            return False
        return True

    def ask_export(self) -> None:
        title = self._document.song.title or "song"
        name, kind = QFileDialog.getSaveFileName(
            self._window, "Export", str(Path.home() / f"{title}.mid"),
            "MIDI, a track for each hand (*.mid);;MusicXML, two staves (*.musicxml);;Chart text (*.txt)",
        )  # fmt: skip
        if name:
            path = Path(name)
            suffix = kind[kind.rfind("*") + 1 : kind.rfind(")")] or ".mid"
            self.export_path(path if path.suffix else path.with_suffix(suffix))

    def export_path(self, path: Path) -> None:
        """Export and say so, or say what is in the way."""
        try:
            self._document.export(path)
        except YellowHingeError as error:
            self._message.say(error.problems)
            return
        self._message.tell(f"Exported to {path}")
