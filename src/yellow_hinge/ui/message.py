"""The message bar: what stands in the way and what was done, in place, never a box to click away."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from yellow_hinge.errors import Problem
from yellow_hinge.ui import kit
from yellow_hinge.ui.quiet import Ground

#: Problems that are shown; the first few are enough to go on with.
_MOST_SHOWN = 4


class MessageBar(Ground):
    """Hidden until there is something to say."""

    def __init__(self, undo: Callable[[], object], parent: QWidget | None = None) -> None:
        super().__init__("panel", parent)
        self._passing = False
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 8, 12, 8)
        self.text = kit.label()
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
        """Show plain words, with a button for undo where that helps; with it they pass by."""
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self._passing = undo
        self._show(words, undo)

    def pass_by(self) -> None:
        """Something else is done: what an edit had to say has been said."""
        if self._passing:
            self.hide()

    def _show(self, words: str, undo: bool) -> None:
        self.text.setText(words)
        self.undo.setVisible(undo)
        self.show()

    def say(self, problems: Sequence[Problem]) -> None:
        """Show problems: place, what, remedy."""
        lines = [
            f"{problem.place}: {problem.what}.  → {problem.remedy}." for problem in problems[:_MOST_SHOWN]
        ]
        if len(problems) > _MOST_SHOWN:
            lines.append(f"... and {len(problems) - _MOST_SHOWN} more.")
        self.tell("\n".join(lines))
