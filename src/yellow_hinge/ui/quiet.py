"""Lists and scrolled areas whose keys belong to the page, so that they do what they do everywhere."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QSize, Qt
from PySide6.QtWidgets import QAbstractScrollArea, QFrame, QListView, QScrollArea, QVBoxLayout, QWidget

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent, QResizeEvent


def _give_ground(area: QAbstractScrollArea) -> None:
    """A viewport of our own making: what one of Qt's making is, the binding finds out by going through every
    kind of widget there is."""
    area.setViewport(QWidget())


class QuietList(QListView):
    """A list without keys of its own."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        _give_ground(self)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()


class QuietScroll(QScrollArea):
    """A scrolled area without keys of its own: what is in it has them, and is scrolled to."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        _give_ground(self)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()


class PageFrame(QuietScroll):
    """A page as large as there is room, and never smaller than it can be: then it is scrolled. Qt's own way
    would give a page the height that it would like to have, and scroll where nothing is short."""

    def __init__(self, page: QWidget) -> None:
        super().__init__()
        self.setFrameShape(QFrame.Shape.NoFrame)
        self._page = page
        self.setWidget(page)
        self.viewport().setAutoFillBackground(False)
        page.setAutoFillBackground(False)  # setting it filled it: it has a ground of its own
        page.installEventFilter(self)

    def fit(self) -> None:
        """Give the page its size."""
        layout, room = self._page.layout(), self.viewport().size()
        assert layout is not None
        width = max(room.width(), layout.minimumSize().width())
        height = layout.totalMinimumHeightForWidth(width) if layout.hasHeightForWidth() else 0
        self._page.resize(QSize(width, height).expandedTo(layout.minimumSize()).expandedTo(room))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.LayoutRequest and watched is self._page:
            self.fit()
        return super().eventFilter(watched, event)


class QuietSide(QuietScroll):
    """What stands at the side of a page, one below the other in ``rows``; scrolled where there is little
    room."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        inside = QWidget()
        inside.setObjectName("bare")
        self.rows = QVBoxLayout(inside)
        self.rows.setContentsMargins(0, 0, 6, 0)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidget(inside)


class Ground(QWidget):
    """A widget with the ground that the style sheet has for its name: classes of our own have none."""

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName(name)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)


class SidePanel(Ground):
    """The panel at the side of a page: ``rows`` one below the other, scrolled where there is little room, and
    in ``foot`` what is always seen."""

    def __init__(self) -> None:
        super().__init__("panel")
        around = QVBoxLayout(self)
        around.setContentsMargins(14, 12, 8, 12)
        inside = QuietSide()
        around.addWidget(inside, 1)
        self.rows, self.foot = inside.rows, QVBoxLayout()
        self.foot.setContentsMargins(self.rows.contentsMargins())
        around.addLayout(self.foot)
