"""Opening, saving and exporting: asks for names, and for what to do with unsaved changes."""

from __future__ import annotations

import os
from collections.abc import Callable
from itertools import count
from pathlib import Path
from typing import TYPE_CHECKING, Literal
from uuid import uuid4

from PySide6 import QtWidgets  # dialogs are made known to Python when one is first wanted
from PySide6.QtCore import QCoreApplication

from yellow_hinge.errors import BadInput, Problem, YellowHingeError
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.formats.files import write_atomically
from yellow_hinge.formats.project_file import SUFFIX, Opened
from yellow_hinge.formats.text_in import Asked
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.files.formats import EXPORTS, SONG_FILES, SOUND_SUFFIXES
from yellow_hinge.tasks.files.opening import (
    Unsaved,
    demo_song,
    is_project,
    open_song,
    save_song,
    titles_in,
)
from yellow_hinge.tasks.settings.recent import recent_files, remember
from yellow_hinge.tasks.song.differences import difference
from yellow_hinge.ui import kit
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.message import MessageBar
from yellow_hinge.ui.words import plain
from yellow_hinge.ui.worker import Deliver, Worker

if TYPE_CHECKING:
    from yellow_hinge.sheet.page import Sheet
    from yellow_hinge.tasks.files.pasted import Recognised
    from yellow_hinge.tasks.files.sound_file import SoundWishes

Whose = Literal["theirs", "mine", "beside", ""]
#: How long an export may go on once the window is closed.
_MOST_WAITED_S = 60
_SOUNDS = "FLAC, without loss (*.flac);;WAV (*.wav);;OGG, small (*.ogg)"
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
        self.sound_worker = Worker(document, "sound file")
        self.sound_worker.done.connect(lambda path: message.tell(f"Saved as {path}"))
        self.sound_worker.failed.connect(lambda error: message.say(error.problems))
        self.sound_worker.progress.connect(self._show_share)
        self.export_worker = Worker(document, "export")
        self.export_worker.done.connect(lambda path: message.tell(f"Exported to {path}"))
        self.export_worker.failed.connect(lambda error: message.say(error.problems))
        self.recent = recent_files()  #: those that were used last

    def _show_share(self, share: float) -> None:
        self._message.tell(f"Writing the sound file: {share:.0%}. The File menu cancels it.")

    def _remember(self, path: Path) -> None:
        remember(path)
        self.recent = recent_files()

    def may_leave(self) -> bool:
        """Ask what to do with unsaved changes; True when the song may be left."""
        if not self._document.history.modified:
            return True
        buttons = QtWidgets.QMessageBox.StandardButton
        answer = QtWidgets.QMessageBox.question(
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
        return self._open(
            lambda: self._document.start_over(self._document.taste.begun(_begun(NEW_CHART)), None)
        )

    def new_from(self, text: str) -> bool:
        """Begin a new song with a chart; whether that was done."""
        if not self.may_leave():
            return False
        return self._open(lambda: self._document.start_over(self._document.taste.begun(_begun(text)), None))

    def ask_paste(self, text: str) -> bool:
        """Show what a text is taken for, and begin a song with it, or lay its grips over the chords that are
        there; whether that was done."""
        from yellow_hinge.tasks.grips.page import laid_over  # noqa: PLC0415 - rarely wanted
        from yellow_hinge.ui.paste_dialog import PasteDialog  # noqa: PLC0415

        dialog = PasteDialog(text, bool(self._document.song.slots), self._message)
        if not dialog.exec() or dialog.found.chart is None:
            return False
        if dialog.over is not None:
            self._document.apply(laid_over(self._document.song, dialog.over, self._document.library))
            return True
        return self.may_leave() and self.take_pasted(dialog.found)

    def take_pasted(self, recognised: Recognised) -> bool:
        """Begin a song with what was recognised; what was left out is said."""
        if recognised.chart is None:
            return False
        done = self._open(lambda: self._document.start_over(recognised.song(self._document.library), None))
        if done and recognised.problems:
            self._message.say(recognised.problems)
        return done

    def ask_sound(self) -> None:
        """What a sound file is to have, and where it goes; it is written beside everything else."""
        from yellow_hinge.ui.sound_dialog import SoundDialog  # noqa: PLC0415 - brings the sound libraries

        song = self._document.song
        dialog = SoundDialog(song.tempo, bool(song.tune), self._message)
        if not dialog.exec():
            return
        path = kit.file_to_write(self._message, "Sound file", song.title or "song", _SOUNDS)
        if path is not None:
            self.write_sound(path, dialog.wishes)

    def write_sound(self, path: Path, wishes: SoundWishes) -> None:
        """Write a sound file; it can be cancelled, and nothing is left half written."""
        song, library = self._document.song, self._document.library

        def job(progress: Progress, _: Deliver) -> object:
            from yellow_hinge.tasks.files.sound_file import sound_file  # noqa: PLC0415

            suffix = path.suffix.lower()
            if suffix not in SOUND_SUFFIXES:
                what = f"{suffix or 'no suffix'} is no sound file"
                raise BadInput(Problem(path.name, what, f"use {', '.join(SOUND_SUFFIXES)}"))
            write_atomically(path, sound_file(song, library, suffix, wishes, progress))
            return path

        self._message.tell("Writing the sound file. The File menu cancels it.")
        self.sound_worker.start(job)

    def open_recent(self, place: int) -> None:
        """Open one of the files that were used last."""
        if place < len(self.recent) and self.may_leave():
            self.open_path(self.recent[place])

    def open_demo(self, name: str) -> None:
        if self.may_leave():
            self._open(lambda: self._document.start_over(demo_song(name), None))

    def ask_open(self) -> None:
        if not self.may_leave():
            return
        name, _ = QtWidgets.QFileDialog.getOpenFileName(
            self._message, "Open a song", "", f"{SONG_FILES};;All files (*)"
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
        """Open a file; on trouble, and where the player would rather not, the song that is open stays."""
        problems: list[Problem] = []
        done = False

        def open_it() -> None:
            nonlocal done
            opened = self._read(path)
            if opened is not None:
                problems.extend(self._document.open(opened, path))
                done = True

        if self._open(open_it) and done:
            self._remember(path)
        if problems:
            self._message.say(problems)

    def _read(self, path: Path) -> Opened | None:
        """What a file holds; the player is asked what it leaves open, and None where they give no answer."""
        titles, number = titles_in(path), None
        if len(titles) > 1:
            rows = [f"{place}. {title}" for place, title in enumerate(titles, 1)]
            question = f"{path.name} holds {len(titles)} songs. Open"
            row, chosen = QtWidgets.QInputDialog.getItem(
                self._message, "Yellow Hinge", question, rows, editable=False
            )
            if not chosen:
                return None
            number = rows.index(row)
        opened = open_song(path, Asked(number))
        if not opened.names_b_flat:
            return opened
        german = self._ask_german(path)
        return None if german is None else open_song(path, Asked(number, german))

    def _ask_german(self, path: Path) -> bool | None:
        """Whether B is B flat, where an H or an -is makes it likely; None: rather not open it."""
        box = QtWidgets.QMessageBox(self._message)
        box.setWindowTitle("Yellow Hinge")
        box.setIcon(QtWidgets.QMessageBox.Icon.Question)
        box.setText(plain(f"{path.name} has chords in German names and chords on B."))
        box.setInformativeText("There H is B, and B is B flat. Which B is meant here?")
        role = QtWidgets.QMessageBox.ButtonRole.ActionRole
        flat = box.addButton("B is B flat", role)
        box.addButton("B is B", role)
        cancel = box.addButton(QtWidgets.QMessageBox.StandardButton.Cancel)
        box.setDefaultButton(flat)
        box.exec()
        clicked = box.clickedButton()
        return None if clicked in (None, cancel) else clicked is flat

    def _open(self, action: Callable[[], object]) -> bool:
        self._before()
        return self._tried(action)

    def save(self) -> bool:
        """Save to the project's file, asking for a name if there is none yet."""
        return self.ask_save() if self._document.path is None else self._save(self._document.path)

    def ask_save(self) -> bool:
        start = self._document.path or Path.home() / f"{self._document.song.title or 'song'}.yhinge"
        name, _ = QtWidgets.QFileDialog.getSaveFileName(
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
            done = self._tried(lambda: document.save(path))
            if done:
                self._remember(path)
            return done
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
        box = QtWidgets.QMessageBox(self._message)
        box.setWindowTitle("Yellow Hinge")
        box.setIcon(QtWidgets.QMessageBox.Icon.Question)
        box.setText(plain(f"{path.name} was changed by somebody else since you opened it."))
        box.setInformativeText(plain(_theirs(path, self._document)))
        role = QtWidgets.QMessageBox.ButtonRole.ActionRole
        rows: tuple[tuple[str, Whose], ...] = (
            (f"Save mine beside it, as {free_name(path).name}", "beside"),
            ("Keep theirs: undo brings mine back", "theirs"), ("Keep mine: theirs is lost", "mine"),
        )  # fmt: skip
        buttons = {box.addButton(words, role): whose for words, whose in rows}
        box.setDefaultButton(next(iter(buttons)))
        box.addButton(QtWidgets.QMessageBox.StandardButton.Cancel)
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
        path = kit.file_to_write(self._message, "Export", title, ";;".join(EXPORTS))
        if path is not None:
            self.export_path(path)

    def ask_forget(self, question: str) -> None:
        """Delete what the program stored, if the player agrees."""
        from yellow_hinge.tasks.settings.stored import forget_everything  # noqa: PLC0415 - rarely wanted

        buttons = QtWidgets.QMessageBox.StandardButton
        answer = QtWidgets.QMessageBox.question(
            self._message, "Forget everything", question, buttons.Yes | buttons.Cancel, buttons.Cancel
        )
        if answer == buttons.Yes and self._tried(forget_everything):
            self.recent = recent_files()
            self._message.tell("All of it is deleted. Start the program anew to work without it.")

    def ask_picture(self, sheet: Sheet) -> None:
        """A drawing goes to a file that the player names."""
        from yellow_hinge.ui.sheet_painter import FORMATS, QtPress  # noqa: PLC0415 - rarely wanted

        path = kit.file_to_write(self._message, "Save the drawing", sheet.title, FORMATS)
        if path is not None and self._tried(lambda: QtPress().write(sheet, path)):
            self._message.tell(f"Saved as {path}")

    def export_path(self, path: Path) -> None:
        """Export beside everything else and say so, or say what is in the way."""
        if self.export_worker.running:  # another job would take its place
            self._message.say([Problem(path.name, "another export is still being written", "wait a moment")])
            return
        if not self._tried(lambda: self._document.ready_for(path)):
            return
        song, library = self._document.song, self._document.library

        def job(_: Progress, __: Deliver) -> object:
            save_song(song, path, library)
            return path

        self._message.tell(f"Exporting {path.name}...")
        self.export_worker.start(job)

    def close(self) -> None:
        """The window closes: an export that has begun goes on to its end (:meth:`finish`), a sound file,
        which takes long, is given up."""
        self.sound_worker.close()
        self.export_worker.let_finish()

    def finish(self) -> None:
        """Wait for an export that had begun when the window closed; what went wrong is asked to be read, as
        nothing else is left that could say it."""
        failed: list[YellowHingeError] = []
        self.export_worker.failed.connect(failed.append)
        self.export_worker.let_finish()
        self.export_worker.wait(_MOST_WAITED_S)
        QCoreApplication.sendPostedEvents(self.export_worker)  # its answer, if it came after the window went
        for error in failed:
            words = "\n".join(str(problem) for problem in error.problems)
            QtWidgets.QMessageBox.critical(None, "Not exported", plain(words))


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


def _begun(text: str) -> Song:
    """A new song, which the practice log knows from any other, whatever it is called."""
    return Song(parse_chart(text), id=uuid4().hex)
