"""The songs of the evening, and the log as files: what asks for names of files."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.formats.files import write_atomically
from yellow_hinge.practice.log import Log, as_rows
from yellow_hinge.sheet.page import Options
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.formats import SONG_FILES
from yellow_hinge.tasks.practice.desk import log_csv, log_path
from yellow_hinge.tasks.practice.shelf import added, keep_shelf, moved, read_shelf
from yellow_hinge.tasks.sheets.kinds import sheets_of
from yellow_hinge.ui.sheet_painter import QtPress
from yellow_hinge.ui.words import plain
from yellow_hinge.voicing.recipes import Library


class Evening:
    """The shelf of the page. Every method raises what the player is to be told."""

    def __init__(self, parent: QWidget) -> None:
        self._parent = parent
        self.files: list[Path] = []
        self._trouble: tuple[Problem, ...] = ()
        try:
            self.files = read_shelf()
        except YellowHingeError as error:
            self._trouble = error.problems

    def take_trouble(self) -> tuple[Problem, ...]:
        """What is to be said of the list of files, once."""
        trouble, self._trouble = self._trouble, ()
        return trouble

    @property
    def names(self) -> list[str]:
        return [file.stem for file in self.files]

    def ask_add(self, here: Path | None) -> bool:
        """Files for the shelf, the open one first offered; whether any came."""
        start = str(here or "")
        names, _ = QFileDialog.getOpenFileNames(self._parent, "Songs of the evening", start, SONG_FILES)
        files = self.files
        for name in names:
            files = added(files, Path(name))
        return self._keep(files)

    def take_away(self, place: int) -> bool:
        return self._keep([file for k, file in enumerate(self.files) if k != place])

    def move(self, place: int, by: int) -> bool:
        return self._keep(moved(self.files, place, by))

    def _keep(self, files: list[Path]) -> bool:
        if files == self.files:
            return False
        keep_shelf(files)
        self.files = files
        return True

    def ask_print(self, songs: Sequence[Song], library: Library) -> Path | None:
        """The crib sheets of songs in one file."""
        name, _ = QFileDialog.getSaveFileName(
            self._parent, "Crib sheets of the evening", "evening.pdf", "PDF (*.pdf)"
        )
        if not name:
            return None
        press, target = QtPress(), Path(name).with_suffix(".pdf")
        press.check(target)
        press.write(sheets_of(songs, library, "crib", Options(), press.metrics()), target, False)
        return target

    def ask_export(self) -> Path | None:
        """The log as CSV or JSON."""
        name, _ = QFileDialog.getSaveFileName(
            self._parent, "Save the log", "practice.csv", "CSV (*.csv);;JSON (*.json)"
        )
        if not name:
            return None
        log = Log(log_path())
        try:
            there = log.path.exists()
            tries, titles = (log.tries(), log.titles()) if there else ([], {})
        finally:
            log.close()
        target = Path(name)
        as_json = target.suffix.lower() == ".json"
        text = json.dumps(as_rows(tries, titles), indent=1) if as_json else log_csv(tries, titles)
        write_atomically(target, text.encode())
        return target

    def ask_forget(self, title: str) -> bool:
        """Whether a song's log is really to be deleted."""
        buttons = QMessageBox.StandardButton
        words = (
            f"Delete everything that is known of practising {title}? It cannot be taken back; save the log "
            "first if you want to keep it."
        )
        both = buttons.Yes | buttons.Cancel
        answer = QMessageBox.question(self._parent, "Delete the log", plain(words), both, buttons.Cancel)
        return answer == buttons.Yes
