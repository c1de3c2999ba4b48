"""What the page that is shown is for, and everything that can be done, with its keys: what F1 shows."""

from __future__ import annotations

import re
from collections.abc import Sequence
from html import escape

from PySide6.QtWidgets import QDialog, QFrame, QTextBrowser, QWidget

from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import Command

Groups = Sequence[tuple[str, Sequence[Command]]]


class KeyList(QDialog):
    """A window beside the work, which goes on meanwhile; Escape closes it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("This page")
        self.text = QTextBrowser()  # lays the long table out once, and only what is seen is painted
        self.text.setFrameShape(QFrame.Shape.NoFrame)
        self.text.document().setDocumentMargin(16)
        self.text.setAccessibleName("This page, and all commands with their keys")
        layout = kit.column(self)
        layout.addWidget(self.text)
        self.resize(880, 620)

    def show_page(self, name: str, words: str, groups: Groups, footer: str) -> None:
        """What a page is for; below it all commands with their keys, by groups, in two columns, and a
        line."""
        self.setWindowTitle(f"{name} - this page and its keys")
        rows = "".join(_group(title, commands) for title, commands in groups)
        table = f"<table cellspacing='0' cellpadding='2' width='100%'>{rows}</table>"
        self.text.setHtml(f"<h3>{escape(name)}</h3>{_html(words)}<hr>{table}<p>{escape(footer)}</p>")
        self.show()
        self.raise_()


def _html(words: str) -> str:
    """Paragraphs with their keys in bold, from Markdown."""
    bold = re.sub(r"\*\*(.+?)\*\*", r"<b>\1</b>", escape(words))
    return "".join(f"<p>{paragraph}</p>" for paragraph in bold.split("\n\n"))


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
