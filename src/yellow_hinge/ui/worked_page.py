"""A page whose contents are worked out beside the window once it is seen: a drawing with its side."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page
from yellow_hinge.ui.theme import scaled
from yellow_hinge.ui.worker import Worker

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget


class WorkedPage(Page):
    """A page builds its ``drawing`` and its ``side``, says in :meth:`look` what it works out of the song, and
    takes what came of it in :meth:`take_in`.

    It looks when it is shown, and when the song or its solved row is another one while it is shown.
    """

    side_width = 300
    drawing: Painted
    side: QWidget

    def __init__(self, document: Document, parent: QWidget | None = None, thread: str = "search") -> None:
        super().__init__(document, parent)
        self.worker = Worker(self, thread)
        self.worker.done.connect(self.take_in)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))
        document.worker.busy.connect(self._solved)

    def look(self) -> None:
        """Work the song out as it is, unless that is known or under way."""

    def take_in(self, result: Any) -> None:
        """What was worked out is here."""

    @property
    def focus(self) -> QWidget:
        return self.drawing

    def fit_text(self) -> None:
        self.side.setFixedWidth(scaled(self.side_width))

    def close_page(self) -> None:
        self.worker.close()

    def entered(self) -> None:
        super().entered()
        self.look()

    def refresh(self) -> None:
        """Take over the document; it is worked out when the page is seen."""
        if self.isVisible():
            self.look()

    def _solved(self, busy: bool) -> None:
        """The song's own row is there: now what follows from it."""
        if not busy and self.isVisible():
            self.look()
