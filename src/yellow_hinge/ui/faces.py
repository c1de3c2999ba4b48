"""Several things that one place of a page can show, one open at a time: a letter and a word each."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import partial
from typing import Generic, TypeVar

from msgspec import Struct
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from yellow_hinge.ui.commands import Command, CommandList, always
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part


class Face(Struct, frozen=True):
    """One of them: by id, words, letter and what it is for."""

    id: str
    words: str
    key: str
    tip: str


Row = TypeVar("Row", bound=Face)


class Faces(Part, Generic[Row]):
    """Which of them is open. Opened again, the first one comes back."""

    def __init__(
        self, document: Document, faces: Sequence[Row], menu: str = "Side", when: Callable[[], bool] = always
    ) -> None:
        super().__init__(document)
        self.faces, self._menu, self._when = tuple(faces), menu, when
        self.open = self.faces[0]

    def make_commands(self) -> Sequence[Command]:
        return [
            Command(f"face-{face.id}", face.words, partial(self.turn_to, face), keys=(face.key,),
                    menu=self._menu,
            tip=face.tip, enabled=self._when, checked=partial(self.shows,
                                                              face)) for face in self.faces ]  # fmt: skip

    def turn_to(self, face: Row) -> None:
        """Open it; the first one where it is open already."""
        self.show(self.faces[0].id if face is self.open else face.id)

    def show(self, name: str) -> None:
        """Open the one of that id."""
        self.open = next(face for face in self.faces if face.id == name)
        self.shown.emit()

    def shows(self, face: Row) -> bool:
        return face is self.open

    def row(self, commands: CommandList) -> FaceRow:
        """The buttons that open them."""
        return FaceRow(commands, (f"face-{face.id}" for face in self.faces))


class FaceRow(QWidget):
    """A button for each face, bound to the command that opens it."""

    def __init__(self, commands: CommandList, ids: Iterable[str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("bare")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 2)
        row.setSpacing(3)
        for one in ids:
            button = QPushButton()
            button.setObjectName("face")
            row.addWidget(commands.bind(button, one), 1)
