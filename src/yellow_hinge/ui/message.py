"""The message bar: what stands in the way and what was done, in place, never a box to click away."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from yellow_hinge.errors import Problem
from yellow_hinge.ui.commands import Command

#: Problems that are shown; the first few are enough to go on with.
_MOST_SHOWN = 4


class MessageBar(QWidget):
    """Hidden until there is something to say."""

    def __init__(self, undo: Callable[[], object], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 8, 12, 8)
        self.text = QLabel()
        self.text.setWordWrap(True)
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.undo = QPushButton("Undo")
        self.undo.setToolTip("Take the change back")
        self.undo.clicked.connect(self.hide)
        self.undo.clicked.connect(lambda _=False: undo())
        close = QPushButton("Close")
        close.clicked.connect(self.hide)
        layout.addWidget(self.text, 1)
        for button in (self.undo, close):
            layout.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        self.hide()

    def tell(self, words: str, undo: bool = False) -> None:
        """Show plain words, with a button for undo where that helps."""
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self._show(words, undo)

    def _show(self, words: str, undo: bool) -> None:
        self.text.setText(words)
        self.undo.setVisible(undo)
        self.show()

    def say(self, problems: Sequence[Problem]) -> None:
        """Show problems: place, what, remedy."""
        lines = [f"{one.place}: {one.what}.  → {one.remedy}." for one in problems[:_MOST_SHOWN]]
        if len(problems) > _MOST_SHOWN:
            lines.append(f"... and {len(problems) - _MOST_SHOWN} more.")
        self.tell("\n".join(lines))

    def list_keys(self, groups: Sequence[tuple[str, Sequence[Command]]]) -> None:
        """All commands with their keys, by groups, in two columns."""
        rows = "".join(_group(title, commands) for title, commands in groups)
        self.text.setTextFormat(Qt.TextFormat.RichText)
        self._show(f"<table cellspacing='0' cellpadding='1'>{rows}</table>", False)


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
