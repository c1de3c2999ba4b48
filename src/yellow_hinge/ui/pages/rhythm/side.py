"""The side of the Rhythm page: patterns, feel or lines."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QStackedWidget, QVBoxLayout

from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.faces import Face, Faces
from yellow_hinge.ui.pages.rhythm.feel_side import FeelSide
from yellow_hinge.ui.pages.rhythm.line_side import LineSide
from yellow_hinge.ui.pages.rhythm.pattern_side import PatternSide
from yellow_hinge.ui.pages.rhythm.state import RhythmState
from yellow_hinge.ui.quiet import Ground
from yellow_hinge.ui.theme import scaled

_SIDE_WIDTH = 330


class RhythmSide(Ground):
    """Shows the open face; feel and lines are made when they are first wanted. ``typed`` carries a riff."""

    typed = Signal(str)

    def __init__(
        self, document: Document, state: RhythmState, faces: Faces[Face], commands: CommandList
    ) -> None:
        super().__init__("panel")
        self._document, self._state, self._faces, self._commands = document, state, faces, commands
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.addWidget(faces.row(commands))
        self.stack = QStackedWidget()
        self.patterns = PatternSide(state, commands)
        self.stack.addWidget(self.patterns)
        layout.addWidget(self.stack, 1)
        self._held: frozenset[int] = frozenset()
        self.fit_text()

    @cached_property
    def feel(self) -> FeelSide:
        """Pedal, touch, swing and endings."""
        panel = FeelSide(self._state)
        panel.changed.connect(self._document.apply)
        self.stack.addWidget(panel)
        return panel

    @cached_property
    def lines(self) -> LineSide:
        """Riffs, lines and small notes."""
        panel = LineSide(self._state, self._commands)
        panel.typed.connect(self.typed)
        self.stack.addWidget(panel)
        return panel

    def fit_text(self) -> None:
        self.setFixedWidth(scaled(_SIDE_WIDTH))

    def refresh(self) -> None:
        """Everything from the state."""
        panel: PatternSide | FeelSide | LineSide = getattr(self, self._faces.open.id)
        self.stack.setCurrentWidget(panel)
        panel.refresh()

    def type_riff(self) -> None:
        """The field for a riff is open, with the keyboard."""
        self._faces.show("lines")
        self.lines.field.setFocus()

    def play_riff(self, down: Iterable[int]) -> None:
        """Keys that are struck while the riff is typed go into it."""
        struck = frozenset(down)
        if self._faces.open.id == "lines" and "lines" in vars(self):
            for key in sorted(struck - self._held):
                self.lines.add_played(key)
        self._held = struck
