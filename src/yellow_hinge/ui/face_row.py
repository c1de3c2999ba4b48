"""The row of faces that a page can show in one place: a letter and a word each."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from yellow_hinge.ui.commands import CommandList


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
