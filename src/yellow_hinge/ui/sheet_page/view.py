"""The Sheet page: the page as it will print in the middle, and at the side what it is and what it shows."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.reharm.formulas import builtin_formulas
from yellow_hinge.sheet.page import Options, Sheet
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.sheets.kinds import sheet_of
from yellow_hinge.tasks.swaps.own_formulas import every_formula
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.quiet import QuietScroll, SidePanel
from yellow_hinge.ui.sheet_page.paper_view import PaperView
from yellow_hinge.ui.sheet_page.state import KINDS, PAPER_WORDS, SHOWN, SheetState
from yellow_hinge.ui.sheet_painter import FontMetrics, QtPress, page_image, paint_on_printer
from yellow_hinge.ui.words import Words
from yellow_hinge.ui.worked_page import WorkedPage

#: Dots to a millimetre of a picture for the clipboard: 150 to an inch.
_COPIED_DOTS = 150 / 25.4


class SheetPage(WorkedPage):
    """The page. A sheet is made when it is seen."""

    name = "Sheet"

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.state = SheetState()
        super().__init__(document, parent, "sheet")
        document.learned.connect(lambda _: self._forget())
        self.metrics = FontMetrics()
        self.worker.done.connect(self._take)
        self.worker.failed.connect(self._fail)
        self.worker.busy.connect(lambda _: self._show())
        self._build()

    def make_commands(self) -> Sequence[Command]:
        there = lambda: self.state.sheet is not None and not self.state.stale  # noqa: E731
        kinds = [
            Command(f"sheet-{kind}", words, partial(self.choose, kind), (key,), tip=tip,
                    menu="Kind", checked=partial(self._is_kind, kind))
            for kind, words, key, tip in KINDS
        ]  # fmt: skip
        return [
            *kinds,
            Command("back", "Page before", partial(self.turn, -1), ("Left", "PgUp"),
                    enabled=lambda: there() and self.state.page > 0),
            Command("forward", "Next page", partial(self.turn, 1), ("Right", "PgDown"),
                    enabled=lambda: there() and self.state.page < len(self._pages) - 1),
            Command("closer", "Larger", partial(self.closer, 1), ("+",), enabled=there),
            Command("further", "Smaller", partial(self.closer, -1), ("-",), enabled=there),
            Command("fit", "Whole page", self.fit, ("F",), enabled=there,
                    checked=lambda: self.state.zoom is None),
            Command("save-sheet", "Save it", self.ask_save, ("W",),
                    tip="As PDF, or as SVG or PNG, a file for each page", enabled=there),
            Command("print-sheet", "Print", self.ask_print, ("R",), tip="Through the dialog of the system",
                    enabled=there),
            Command("copy-sheet", "Copy as a picture", self.copy_picture, ("Y",),
                    tip="The page that is shown, for other programs", enabled=there),
        ]  # fmt: skip

    def _is_kind(self, kind: str) -> bool:
        return self.state.kind == kind

    @property
    def _pages(self) -> Sequence[object]:
        return () if self.state.sheet is None else self.state.sheet.pages

    # --- building ---

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        middle = QVBoxLayout()
        self.drawing = self.paper = PaperView(self.state)
        self.area = QuietScroll()
        self.area.setWidgetResizable(True)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.area.setWidget(self.paper)
        self.area.viewport().installEventFilter(self)
        middle.addWidget(self.area, 1)
        row = QHBoxLayout()
        self.where = QLabel()
        for command in ("back", "forward"):
            row.addWidget(self.commands.bind(QPushButton(), command))
        row.addWidget(self.where)
        row.addStretch(1)
        for command in ("further", "closer", "fit"):
            row.addWidget(self.commands.bind(QPushButton(), command))
        middle.addLayout(row)
        layout.addLayout(middle, 1)
        layout.addWidget(self._build_side())

    def _build_side(self) -> QWidget:
        self.side = SidePanel()
        self.fit_text()
        layout = self.side.rows
        for kind, _, _, _ in KINDS:
            layout.addWidget(self.commands.bind(QPushButton(), f"sheet-{kind}"))
        self.paper_box = Choice()
        self.paper_box.setAccessibleName("Paper")
        for paper, words in PAPER_WORDS.items():
            self.paper_box.addItem(words, paper)
        self.paper_box.activated.connect(lambda _: self.settle(paper=self.paper_box.currentData()))
        layout.addWidget(_heading("Paper"))
        layout.addWidget(self.paper_box)
        self.boxes: dict[str, QCheckBox] = {}
        for name, words in (("across", "across"), ("large", "large print"), ("plain", "black and white")):
            layout.addWidget(self._box(name, words))
        self.dated = QCheckBox("today's date")
        self.dated.clicked.connect(self._set_date)
        layout.addWidget(self.dated)
        self.shown_heading = _heading("It shows")
        layout.addWidget(self.shown_heading)
        for name, words, _ in SHOWN:
            layout.addWidget(self._box(name, words))
        self.shape_box = Choice()
        self.shape_box.setAccessibleName("What is shown in all keys")
        self.shape_box.setToolTip("Every grip of the song, one of them, or a formula, in all keys")
        self.shape_box.activated.connect(lambda _: self._choose_shape())
        layout.addWidget(self.shape_box)
        layout.addStretch(1)
        self.words = Words()
        self.side.foot.addWidget(self.words)
        for command in ("save-sheet", "print-sheet", "copy-sheet"):
            self.side.foot.addWidget(self.commands.bind(QPushButton(), command))
        return self.side

    def _box(self, name: str, words: str) -> QCheckBox:
        box = QCheckBox(words)
        box.setChecked(bool(getattr(self.state.options, name)))
        box.clicked.connect(lambda on: self.settle(**{name: on}))
        self.boxes[name] = box
        return box

    # --- showing ---

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self._fit_room()
        return super().eventFilter(watched, event)

    def _fit_room(self) -> None:
        self.paper.room = self.area.viewport().size()
        self.paper.grow()

    def refresh(self) -> None:
        """Take over the document; make the sheet when it is seen."""
        self.state.song = self.document.song
        super().refresh()

    def look(self) -> None:
        """Make the sheet of the song as it is, unless it is there; a song that is being solved first."""
        self.state.song = self.document.song
        if not self.state.song.slots:
            self.state.sheet = None
        elif self.state.stale and not self.document.worker.running:
            wanted = self.state.wanted
            self.worker.start(partial(self._make, wanted))
        self._show()

    def _forget(self) -> None:
        """Shapes are known anew, or notes have other names: the sheet is made again."""
        self.state.made_of = None

    def _make(self, wanted: tuple[Song, str, Options, str | int], *_: object) -> object:
        song, kind, options, shape = wanted
        return wanted, sheet_of(song, self.document.library, kind, options, self.metrics, shape)

    def _take(self, result: tuple[object, Sheet]) -> None:
        self.state.take(*result)
        self._show()

    def _fail(self, error: YellowHingeError) -> None:
        self.said.emit(error.problems)

    def _show(self) -> None:
        state = self.state
        there = bool(state.song.slots)
        self.paper.said = (
            "Setting the page..."
            if there
            else "There are no chords yet. Go to Song (Ctrl+1) and type a chart."
        )
        self.where.setText(state.words())
        self.paper.say_chosen(state.words())
        self.words.setText("" if not (there and self.worker.running) else "Setting the page...")
        for name, _, kinds in SHOWN:
            self.boxes[name].setVisible(state.kind in kinds)
        self.shown_heading.setVisible(any(state.kind in kinds for _, _, kinds in SHOWN))
        self.shape_box.setVisible(state.kind == "keys")
        self._fit_room()
        self.commands.refresh()

    # --- acting ---

    def _list_shapes(self) -> None:
        """Every grip, the chosen chord's, or a formula."""
        song, now = self.document.song, self.document.chosen
        self.shape_box.clear()
        self.shape_box.addItem("every grip of the song", "")
        if now < len(song.slots) and (chord := song.slots[now].chord) is not None:
            self.shape_box.addItem(f"the grip of {chord.pretty}, bar {song.slots[now].bar}", now)
        try:
            formulas = every_formula()
        except YellowHingeError as error:
            self.said.emit(error.problems)
            formulas = dict(builtin_formulas())
        self.shape_box.insertSeparator(self.shape_box.count())
        for one in formulas.values():
            self.shape_box.addItem(one.name, one.id)
        self.shape_box.setCurrentIndex(max(0, self.shape_box.findData(self.state.shape)))
        self.state.shape = self.shape_box.currentData()

    def _choose_shape(self) -> None:
        self.state.shape, self.state.page = self.shape_box.currentData(), 0
        self.look()

    def choose(self, kind: str) -> None:
        """Another kind of sheet."""
        self.state.choose(kind)
        if kind == "keys":
            self._list_shapes()
        self.look()

    def settle(self, **changes: Any) -> None:
        """Another paper, or something more or less on it."""
        self.state.settle(**changes)
        self.look()

    def _set_date(self, on: bool) -> None:
        today = date.today()
        self.settle(date=f"{today.day} {today:%B %Y}" if on else "")

    def turn(self, step: int) -> None:
        self.state.turn(step)
        self.area.verticalScrollBar().setValue(0)
        self._show()

    def closer(self, step: int) -> None:
        self.state.closer(step, self.paper.zoom)
        self._show()

    def fit(self) -> None:
        """The whole page is seen."""
        self.state.zoom = None
        self._show()

    def ask_save(self) -> None:
        """Ask for a name, and save there."""
        title = self.document.song.title or "sheet"
        name, kind = QFileDialog.getSaveFileName(
            self, "Save the sheet", str(Path.home() / f"{title}.pdf"),
            "PDF, all pages (*.pdf);;SVG, a file for each page (*.svg);;PNG, a picture of each page (*.png)",
        )  # fmt: skip
        if name:
            path = Path(name)
            suffix = kind[kind.rfind("*") + 1 : kind.rfind(")")] or ".pdf"
            self.save_to(path if path.suffix else path.with_suffix(suffix))

    def save_to(self, path: Path) -> None:
        """Save the sheet, or say what is in the way."""
        sheet = self.state.sheet
        if sheet is None:
            return
        try:
            QtPress().write(sheet, path, self.state.options.plain)
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return
        self.words.setText(f"Saved as {path}")

    def ask_print(self) -> None:
        """The system's dialog, and then paper."""
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        dialog = QPrintDialog(printer, self)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self.print_with(printer)

    def print_with(self, printer: QPrinter) -> None:
        """All pages, or those that the dialog asked for."""
        if self.state.sheet is not None:
            paint_on_printer(printer, self.state.sheet, self.state.options.plain)
            self.words.setText("Sent to the printer.")

    def copy_picture(self) -> None:
        """The page that is shown as a picture in the clipboard."""
        sheet = self.state.sheet
        if sheet is not None:
            image = page_image(sheet.pages[self.state.page], _COPIED_DOTS, self.state.options.plain)
            QGuiApplication.clipboard().setImage(image)
            self.words.setText("The page is in the clipboard.")


def _heading(words: str) -> QLabel:
    label = QLabel(words)
    label.setObjectName("heading")
    return label
