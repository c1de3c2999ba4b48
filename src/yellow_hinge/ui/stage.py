"""Where pages stand: one at a time, or two beside or above each other; without a song what a page is for."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter, QStackedWidget, QWidget

from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.page import Page
from yellow_hinge.ui.quiet import PageFrame

if TYPE_CHECKING:
    from yellow_hinge.ui.empty_face import EmptyFace


class Stage(QSplitter):
    """Pages by name, each in a frame that scrolls it in a small window. One is ``front``; another may be kept
    in view ``beside`` it ("": none)."""

    def __init__(self, commands: CommandList, ways: tuple[str, ...]) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.setChildrenCollapsible(False)
        self._commands, self._ways = commands, ways
        self._stack = QStackedWidget()
        self.addWidget(self._stack)
        self._frames: dict[str, PageFrame] = {}
        self.front, self.beside = "", ""
        self.made: list[EmptyFace] = []  #: once it was wanted

    def add(self, name: str, page: Page) -> None:
        """One more page."""
        self._frames[name] = PageFrame(page)
        self._stack.addWidget(self._frames[name])

    def frame(self, name: str) -> PageFrame:
        """What scrolls a page where there is too little room."""
        return self._frames[name]

    @property
    def in_view(self) -> list[str]:
        """The pages that are seen, the front one first."""
        return [name for name in (self.front, self.beside) if name]

    def show_page(self, name: str) -> None:
        """A page comes to the front, unless it is in view beside it; then the one before comes back."""
        if name != self.beside:
            self.front = name
        if self.front:
            self._stack.setCurrentWidget(self._frames[self.front])

    def show_empty(self, name: str, words: str, picture: str) -> QWidget:
        """What a page is for stands in its place; what has the keyboard there."""
        if not self.made:
            from yellow_hinge.ui.empty_face import EmptyFace  # noqa: PLC0415 - most windows have a song

            self.made.append(EmptyFace(self._commands, *self._ways))
            self._stack.addWidget(self.made[0])
        self.front = name
        self.made[0].show_page(name, words, picture)
        self._stack.setCurrentWidget(self.made[0])
        return self.made[0].buttons[0]

    @property
    def empty(self) -> bool:
        """Whether a page stands for itself, without a song."""
        return bool(self.made) and self._stack.currentWidget() is self.made[0]

    def keep_beside(self, name: str) -> None:
        """A page stays in view while others come to the front; none for ""."""
        if self.beside:
            self._stack.addWidget(self._frames[self.beside])
        self.beside = name
        if name:
            frame = self._frames[name]
            self.addWidget(frame)
            frame.show()
            self.setSizes([self.width() // 2, self.width() // 2])

    @property
    def above(self) -> bool:
        """Whether two pages stand above each other."""
        return self.orientation() == Qt.Orientation.Vertical

    def turn(self) -> None:
        """Above each other instead of beside, or the other way."""
        self.setOrientation(Qt.Orientation.Horizontal if self.above else Qt.Orientation.Vertical)

    def page_at(self, widget: QWidget | None) -> str:
        """The page that a widget belongs to; empty for none in view."""
        if widget is None:
            return ""
        return next((name for name in self.in_view if self._frames[name].isAncestorOf(widget)), "")
