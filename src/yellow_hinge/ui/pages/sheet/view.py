"""The Sheet page: the page as it will print in the middle, and at the side what it is and what it shows."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QVBoxLayout, QWidget

from yellow_hinge.sheet.page import Options, Sheet
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.sheets.kinds import sheet_of
from yellow_hinge.ui import kit
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.sheet.paging import Paging
from yellow_hinge.ui.pages.sheet.paper_view import PaperView
from yellow_hinge.ui.pages.sheet.printing import Printing
from yellow_hinge.ui.pages.sheet.side import SheetSide
from yellow_hinge.ui.pages.sheet.state import SheetState
from yellow_hinge.ui.quiet import QuietScroll
from yellow_hinge.ui.sheet_painter import FontMetrics
from yellow_hinge.ui.words import Label
from yellow_hinge.ui.worked_page import WorkedPage

_NOTHING = "There are no chords yet. Go to Song (Ctrl+1) and type a chart."
_WAITING = "Setting the page..."


class SheetPage(WorkedPage):
    """The page. A sheet is made when it is seen."""

    name = "Sheet"
    handy = ("save-sheet", "print-sheet", "copy-sheet", "closer", "further")
    twice = "closer"
    side: SheetSide

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.state = SheetState()
        super().__init__(document, parent, "sheet")
        document.learned.connect(lambda _: self._forget())
        self.metrics = FontMetrics()
        self.worker.busy.connect(lambda _: self.show_all())
        self._build()

    def make_parts(self) -> Sequence[Part]:
        self.paging = Paging(self.document, self.state)
        self.printing = Printing(self.document, self.state, self)
        self.paging.asks.connect(self.look)
        return self.paging, self.printing

    def _build(self) -> None:
        middle = QVBoxLayout()
        self.drawing = self.paper = PaperView(self.state)
        self.paging.zoom = lambda: self.paper.zoom
        self.area = QuietScroll()
        self.area.setWidgetResizable(True)
        self.area.setWidget(self.paper)
        self.area.viewport().installEventFilter(self)
        self.paging.turned.connect(lambda: self.area.verticalScrollBar().setValue(0))
        middle.addWidget(self.area, 1)
        self.where = Label()
        below = kit.row(*(kit.button(self.commands, act) for act in ("back", "forward")), self.where)
        below.addStretch(1)
        middle.addLayout(below)
        self.side = SheetSide(self.paging, self.commands)
        self.printing.done.connect(self.side.words.setText)
        self.printing.done.connect(self.wrote)
        self.fit_text()
        layout = kit.page_row(self)
        layout.addLayout(middle, 1)
        layout.addWidget(self.side)

    # --- working out ---

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
            self.worker.start(partial(self._make, self.state.wanted))
        self.show_all()

    def _forget(self) -> None:
        """Shapes are known anew, or notes have other names: the sheet is made again."""
        self.state.made_of = None

    def _make(self, wanted: tuple[Song, str, Options, str | int], *_: object) -> object:
        song, kind, options, shape = wanted
        return wanted, sheet_of(song, self.document.library, kind, options, self.metrics, shape=shape)

    def take_in(self, result: tuple[object, Sheet]) -> None:
        self.state.take(*result)
        self.show_all()

    # --- showing ---

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self._fit_room()
        return super().eventFilter(watched, event)

    def _fit_room(self) -> None:
        self.paper.room = self.area.viewport().size()
        self.paper.grow()

    def show_all(self) -> None:
        """Everything from the state."""
        state, some = self.state, bool(self.state.song.slots)
        self.paper.said = _WAITING if some else _NOTHING
        self.where.setText(state.words())
        self.paper.say_chosen(state.words())
        self.side.words.setText(_WAITING if some and self.worker.running else "")
        self.side.refresh()
        self._fit_room()
        self.commands.refresh()
