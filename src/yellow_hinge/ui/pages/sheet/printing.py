"""Where a sheet goes: files, paper, the clipboard."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QDialog, QWidget

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.sheet.page import Sheet, strange_problem
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.sheet.paging import is_there
from yellow_hinge.ui.pages.sheet.state import SheetState
from yellow_hinge.ui.sheet_painter import FORMATS, QtPress, page_image, paint_on_printer, strange_letters

#: Dots to a millimetre of a picture for the clipboard: 150 to an inch.
_COPIED_DOTS = 150 / 25.4


class Printing(Part):
    """``done`` carries in words what has become of the sheet."""

    done = Signal(str)

    def __init__(self, document: Document, state: SheetState, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.state, self._window = state, parent

    @command(
        "save-sheet", "Save it", "W", tip="As PDF, or as SVG or PNG, a file for each page", when=is_there
    )
    def ask_save(self) -> None:
        """Ask for a name, and save there."""
        title = self.document.song.title or "sheet"
        path = kit.file_to_write(self._window, "Save the sheet", title, FORMATS)
        if path is not None:
            self.save_to(path)

    def save_to(self, path: Path) -> None:
        """Save the sheet, or say what is in the way."""
        if self.state.sheet is None:
            return
        try:
            QtPress().write(self.state.sheet, path, self.state.options.plain)
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return
        self._say_strange(self.state.sheet, path.name)
        self.done.emit(f"Saved as {path}")

    def _say_strange(self, sheet: Sheet, place: str) -> None:
        """Letters that came out as boxes are said."""
        strange = strange_letters(sheet)
        if strange:
            self.said.emit((strange_problem(strange, place),))

    @command("print-sheet", "Print", "R", tip="Through the dialog of the system", when=is_there)
    def ask_print(self) -> None:
        """The system's dialog, and then paper."""
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        dialog = QPrintDialog(printer, self._window)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self.print_with(printer)

    def print_with(self, printer: QPrinter) -> None:
        """All pages, or those that the dialog asked for."""
        if self.state.sheet is not None:
            paint_on_printer(printer, self.state.sheet, self.state.options.plain)
            self._say_strange(self.state.sheet, "the printer")
            self.done.emit("Sent to the printer.")

    @command("copy-sheet", "Copy as a picture", "Y", tip="The page that is shown, for other programs",
             when=is_there)  # fmt: skip
    def copy_picture(self) -> None:
        sheet = self.state.sheet
        if sheet is not None:
            image = page_image(sheet.pages[self.state.page], _COPIED_DOTS, self.state.options.plain)
            QGuiApplication.clipboard().setImage(image)
            self.done.emit("The page is in the clipboard.")
