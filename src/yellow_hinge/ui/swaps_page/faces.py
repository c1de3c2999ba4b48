"""The middle of the Swaps page: the chord's heading, the letters of the faces, and the one that is open."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QAbstractButton,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.tasks.swaps.grid import Row
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.face_row import FaceRow
from yellow_hinge.ui.swaps_page.face import FACES, GripFace
from yellow_hinge.ui.swaps_page.face_commands import FACE_BUTTONS
from yellow_hinge.ui.theme import LIGHT, Theme
from yellow_hinge.ui.words import OneLine


class Faces(QWidget):
    """One face at a time; those that work on the grip are made when they are first wanted."""

    hear = Signal(object)
    said = Signal(tuple)

    def __init__(
        self,
        document: Document,
        proposals: QWidget,
        commands: CommandList,
        marked: dict[int, Row],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._document, self._commands, self._theme = document, commands, LIGHT
        self._marked = marked
        self.made: dict[str, GripFace] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.heading = OneLine("title")
        self.heading.setWordWrap(True)
        layout.addWidget(self.heading)
        layout.addWidget(FaceRow(commands, (face.id for face in FACES)))
        self._stack = QStackedWidget()
        self._first = proposals
        self._stack.addWidget(proposals)
        layout.addWidget(self._stack, 1)
        acts = QHBoxLayout()
        self._buttons: dict[str, list[QAbstractButton]] = {}
        for own, ids in FACE_BUTTONS.items():
            self._buttons[own] = [commands.bind(QPushButton(), one) for one in ids]
            for button in self._buttons[own]:
                if own != FACES[0].id:
                    button.hide()
                acts.addWidget(button)
        layout.addLayout(acts)

    def open(self, name: str) -> None:
        """Show another face."""
        if name not in self.made and name != FACES[0].id:
            self.made[name] = self._make(name)
        face = self.made.get(name)
        self._stack.setCurrentWidget(self._first if face is None else face)
        for own, buttons in self._buttons.items():
            for button in buttons:
                button.setVisible(own == name)

    def _make(self, name: str) -> GripFace:
        """A face; what it works with is loaded with it, the page does not wait for it."""
        face: GripFace
        if name == "bass":
            from yellow_hinge.ui.swaps_page.held_face import HeldFace  # noqa: PLC0415

            face = HeldFace(self._document)
        elif name == "formulas":
            from yellow_hinge.ui.swaps_page.formula_face import FormulaFace  # noqa: PLC0415

            face = FormulaFace(self._document)
        elif name == "board":
            from yellow_hinge.ui.swaps_page.board_face import BoardFace  # noqa: PLC0415

            face = BoardFace(self._document)
        elif name == "grid":
            from yellow_hinge.ui.swaps_page.grid_face import GridFace  # noqa: PLC0415

            face = GridFace(self._document, self._marked)
        else:
            from yellow_hinge.ui.swaps_page.ladder_face import LadderFace  # noqa: PLC0415

            face = LadderFace(self._document, self._commands)
        face.set_theme(self._theme)
        face.hear.connect(self.hear)
        face.said.connect(self.said)
        face.changed.connect(self._commands.refresh)
        self._stack.addWidget(face)
        return face

    def set_theme(self, theme: Theme) -> None:
        """Other colours."""
        self._theme = theme
        for face in self.made.values():
            face.set_theme(theme)

    def close_faces(self) -> None:
        """The window closes."""
        for face in self.made.values():
            face.close_face()
