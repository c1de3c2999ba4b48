"""Opening, saving and exporting: asks for names, and for what to do with unsaved changes."""

from __future__ import annotations

import os
from collections.abc import Callable
from itertools import count
from pathlib import Path
from typing import Literal

from PySide6.QtWidgets import QFileDialog, QMessageBox

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.differences import difference
from yellow_hinge.tasks.files import READ_SUFFIXES, SUFFIX, Unsaved, demo_song, is_project, open_song
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.message import MessageBar

Whose = Literal["theirs", "mine", "beside", ""]
NEW_CHART = """title: Untitled
key: C
meter: 4/4
tempo: 100

[Verse]
| C | Am7 | Dm7 | G7 |
"""


class FileDesk:
    """Everything about files that the window offers. Its dialogs belong to the message bar, and wear
    what that wears. ``before`` is called before another song is opened."""

    def __init__(self, document: Document, message: MessageBar, before: Callable[[], object]) -> None:
        self._document, self._message, self._before = document, message, before

    def may_leave(self) -> bool:
        """Ask what to do with unsaved changes; True when the song may be left."""
        if not self._document.history.modified:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self._message, "Yellow Hinge", "Save the changes to this song?",
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
            self._message, "Open a song", "", f"Songs ({kinds});;All files (*)"
        )
        if name:
            self.open_path(Path(name))

    def take_back(self, unsaved: Unsaved) -> bool:
        """Go on with a song that was left behind; whether that was done."""
        if not self.may_leave():
            return False
        problems: list[Problem] = []
        done = self._open(lambda: problems.extend(self._document.take_back(unsaved)))
        if problems:
            self._message.say(problems)
        return done

    def open_path(self, path: Path) -> None:
        """Open a file; on trouble the song that is open stays."""
        problems: list[Problem] = []
        self._open(lambda: problems.extend(self._document.open(path)))
        if problems:
            self._message.say(problems)

    def _open(self, action: Callable[[], object]) -> bool:
        self._before()
        return self._tried(action)

    def save(self) -> bool:
        """Save to the project's file, asking for a name if there is none yet."""
        return self.ask_save() if self._document.path is None else self._save(self._document.path)

    def ask_save(self) -> bool:
        start = self._document.path or Path.home() / f"{self._document.song.title or 'song'}.yhinge"
        name, _ = QFileDialog.getSaveFileName(
            self._message, "Save the project", str(start), "Yellow Hinge project (*.yhinge)"
        )
        if not name:
            return False
        path = Path(name)
        return self._save(path if is_project(path) else path.with_name(f"{path.name}{SUFFIX}"))

    def _save(self, path: Path) -> bool:
        """Save, unless somebody else changed the file and the player wants it otherwise."""
        document = self._document
        if not document.changed_by_others(path):
            return self._tried(lambda: document.save(path))
        answer = self._ask_whose(path)
        if answer == "theirs":
            self._tried(lambda: self._message.say(document.take_theirs()))
            return False  # to be looked at, before anything is closed over it
        if answer == "beside":
            path = free_name(path)
        done = answer != "" and self._tried(lambda: document.save(path))
        if done and answer == "beside":
            self._message.tell(
                f"Saved beside it, as {path.name}; the other file is as somebody else left it."
            )
        return done

    def _ask_whose(self, path: Path) -> Whose:
        """What is to become of a file that somebody else changed."""
        box = QMessageBox(self._message)
        box.setWindowTitle("Yellow Hinge")
        box.setIcon(QMessageBox.Icon.Question)
        box.setText(f"{path.name} was changed by somebody else since you opened it.")
        box.setInformativeText(_theirs(path, self._document))
        role = QMessageBox.ButtonRole.ActionRole
        rows: tuple[tuple[str, Whose], ...] = (
            (f"Save mine beside it, as {free_name(path).name}", "beside"),
            ("Keep theirs: undo brings mine back", "theirs"), ("Keep mine: theirs is lost", "mine"),
        )  # fmt: skip
        buttons = {box.addButton(words, role): whose for words, whose in rows}
        box.setDefaultButton(next(iter(buttons)))
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        clicked = box.clickedButton()
        return next((whose for button, whose in buttons.items() if button is clicked), "")

    def _tried(self, action: Callable[[], object]) -> bool:
        try:
            action()
        except YellowHingeError as error:
            self._message.say(error.problems)
            return False
        return True

    def ask_export(self) -> None:
        title = self._document.song.title or "song"
        name, kind = QFileDialog.getSaveFileName(
            self._message, "Export", str(Path.home() / f"{title}.mid"),
            "MIDI, a track for each hand (*.mid);;MusicXML, two staves (*.musicxml);;Chart text (*.txt)",
        )  # fmt: skip
        if name:
            path = Path(name)
            suffix = kind[kind.rfind("*") + 1 : kind.rfind(")")] or ".mid"
            self.export_path(path if path.suffix else path.with_suffix(suffix))

    def export_path(self, path: Path) -> None:
        """Export and say so, or say what is in the way."""
        if self._tried(lambda: self._document.export(path)):
            self._message.tell(f"Exported to {path}")


def free_name(path: Path) -> Path:
    """A name beside a file that no file has."""
    names = (path.with_name(f"{path.stem} ({number}){path.suffix}") for number in count(2))
    return next(name for name in names if not os.path.lexists(name))


def _theirs(path: Path, document: Document) -> str:
    """What the file has that the window has not, in words."""
    try:
        theirs = open_song(path)
    except YellowHingeError as error:
        return f"What it holds now cannot be read: {error.problems[0]}."
    return f"Theirs against yours: {difference(document.song, theirs.song, theirs.draft) or 'no difference'}."
