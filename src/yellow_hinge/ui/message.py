"""What stands in the way and what was done, in place, never a box to click away; and a chart that waits."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Sequence
from datetime import datetime

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from yellow_hinge.errors import Problem
from yellow_hinge.ui import kit
from yellow_hinge.ui.quiet import Ground

#: Problems that are shown; the first few are enough to go on with.
_MOST_SHOWN = 4
#: Messages that can be looked up.
_MOST_KEPT = 100
#: The words of an answer, and what it does.
Answer = tuple[str, Callable[[], object]]


class MessageBar(Ground):
    """Hidden until there is something to say; it leaves with the next act. ``happened``: what was said, with
    the time of day, the last one first."""

    def __init__(self, undo: Callable[[], object], parent: QWidget | None = None) -> None:
        super().__init__("panel", parent)
        self.happened: deque[tuple[str, str]] = deque(maxlen=_MOST_KEPT)
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
        self.answers = QHBoxLayout()
        layout.addLayout(self.answers)
        for button in (self.undo, close):
            layout.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        self.hide()

    def tell(self, words: str, undo: bool = False, answers: Sequence[Answer] = ()) -> None:
        """Show plain words, with a button for undo where that helps, and one for each answer to a question;
        closed, it is not answered."""
        self.happened.appendleft((f"{datetime.now():%H:%M}", words))
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.text.setText(words)
        self.undo.setVisible(undo)
        while (item := self.answers.takeAt(0)) is not None:
            old = item.widget()
            if old is not None:
                old.deleteLater()
        for label, answered in answers:
            button = QPushButton(label)
            button.clicked.connect(self.hide)
            button.clicked.connect(lambda _=False, answered=answered: answered())
            self.answers.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        self.show()

    def say(self, problems: Sequence[Problem]) -> None:
        """Show problems: place, what, remedy."""
        lines = [
            f"{problem.place}: {problem.what}.  → {problem.remedy}." for problem in problems[:_MOST_SHOWN]
        ]
        if len(problems) > _MOST_SHOWN:
            lines.append(f"... and {len(problems) - _MOST_SHOWN} more.")
        self.tell("\n".join(lines))


class UnreadBar(Ground):
    """On every page but the chart's own, while the chart that is typed cannot be read."""

    def __init__(self, button: QPushButton, parent: QWidget | None = None) -> None:
        super().__init__("panel", parent)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 3, 12, 3)  # what it takes the page lacks
        self.text = kit.label("wrong")
        layout.addWidget(self.text, 1)
        layout.addWidget(button)
        self.hide()

    def show_draft(self, problems: Sequence[Problem], title: str) -> None:
        """What stands in the way of reading it, and which song is shown meanwhile; nothing hides the bar."""
        self.setVisible(bool(problems))
        if problems:
            shown = f"Shown is \u201c{title}\u201d as it was before."
            self.text.setText(f"The chart cannot be read at {problems[0].place}. {shown}")
