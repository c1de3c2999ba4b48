"""Everything that can be done, with its keys: what F1 shows."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QFrame, QLabel, QScrollArea, QVBoxLayout, QWidget

from yellow_hinge.ui.commands import Command

Groups = Sequence[tuple[str, Sequence[Command]]]


class KeyList(QDialog):
    """A window beside the work, which goes on meanwhile; Escape closes it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.text = QLabel()
        self.text.setTextFormat(Qt.TextFormat.RichText)
        self.text.setWordWrap(True)
        self.text.setContentsMargins(16, 12, 16, 12)
        self.text.setAlignment(Qt.AlignmentFlag.AlignTop)
        area = QScrollArea()
        area.setWidget(self.text)
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setAccessibleName("Keys and commands")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(area)
        self.resize(880, 620)

    def show_groups(self, groups: Groups, footer: str) -> None:
        """All commands with their keys, by groups, in two columns, and a line below them."""
        rows = "".join(_group(title, commands) for title, commands in groups)
        table = f"<table cellspacing='0' cellpadding='2' width='100%'>{rows}</table>"
        self.text.setText(f"{table}<p>{escape(footer)}</p>")
        self.show()
        self.raise_()


def _group(title: str, commands: Sequence[Command]) -> str:
    """A heading and two commands a line."""
    cells = [_cell(command) for command in commands]
    if len(cells) % 2:
        cells.append("<td></td><td></td>")
    lines = [f"<tr>{a}{b}</tr>" for a, b in zip(cells[::2], cells[1::2], strict=True)]
    return f"<tr><td colspan='4'><b>{escape(title)}</b></td></tr>{''.join(lines)}"


def _cell(command: Command) -> str:
    words = escape(command.tip or command.words)
    keys = escape(command.key_words or "menu")
    return f"<td><b>{keys}</b>&nbsp;&nbsp;</td><td>{words}&nbsp;&nbsp;&nbsp;</td>"
