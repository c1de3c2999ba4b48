"""For those who do without a mouse, or without the picture: what has the keyboard is ringed, and painted
views say what they are and what is chosen in them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Any

from PySide6.QtCore import QEvent, QMetaMethod, QObject, QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPaintDevice,
    QPainter,
    QPaintEvent,
    QPen,
    QRegion,
)
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QScrollArea,
    QWidget,
)
from shiboken6 import isValid

from yellow_hinge.ui.theme import text_scale

_WIDTH = 2
#: What changes where a ring has to be.
_MOVED = (QEvent.Type.Move, QEvent.Type.Resize, QEvent.Type.Show, QEvent.Type.Hide)


class Choice(QComboBox):
    """A box to choose from. Where a box is named by a label Qt gives its value as its name: what it is
    for is its description as well."""

    def setAccessibleName(self, name: str) -> None:
        super().setAccessibleName(name)
        self.setAccessibleDescription(name)

    def offer(self, choices: Iterable[tuple[str, object]], value: object = None) -> None:
        """Other things to choose from, (words, value) each; chosen is that of ``value``, else the first."""
        rows = list(choices)
        self.clear()
        for words, own in rows:
            self.addItem(words, own)
        self.setCurrentIndex(next((place for place, (_, own) in enumerate(rows) if own == value), 0))

    def choose(self, value: object) -> None:
        """The one with a value; the first where none has it."""
        self.setCurrentIndex(max(0, self.findData(value)))


class Painted(QWidget):
    """A view that is painted and can be walked with keys: to assistive tools a picture with a name, which
    says what is chosen in it. ``enlarged``: it is drawn in the measures of text of the usual size."""

    enlarged = False
    twice = Signal()  #: a double click, where somebody listens; elsewhere it is two presses
    _drag: Any = None  #: what is being dragged in it

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape calls a drag off."""
        if self._drag is not None and event.key() == Qt.Key.Key_Escape:
            self.call_off()
        else:
            super().keyPressEvent(event)

    def call_off(self) -> None:
        """What is being dragged stays where it was."""
        self._drag = None
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        left = event.button() == Qt.MouseButton.LeftButton
        if left and self.isSignalConnected(QMetaMethod.fromSignal(self.twice)):
            self.twice.emit()
        else:
            super().mouseDoubleClickEvent(event)

    @property
    def joints(self) -> Sequence[float]:
        """Places, in its own pixels, at which it may be cut into rows on paper."""
        return ()

    def paint(self, painter: QPainter, seen: QRect) -> None:
        """Draw it, or what is to be seen of it."""

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin() if self.enlarged else QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.paint(painter, event.rect())
        painter.end()

    @property
    def wide(self) -> float:
        """Its width, in the pixels that it would have with text of the usual size: a drawing of fixed
        measures is drawn as it is, and enlarged with the text (:meth:`begin`)."""
        return self.width() / text_scale()

    @property
    def high(self) -> float:
        """Its height, as :attr:`wide`."""
        return self.height() / text_scale()

    @property
    def room_inside(self) -> QRectF:
        return QRectF(0, 0, self.wide, self.high)

    def begin(self, on: QPaintDevice | None = None) -> QPainter:
        """A painter in these pixels."""
        painter = QPainter(on or self)
        painter.scale(text_scale(), text_scale())
        return painter

    @staticmethod
    def place_in(event: QMouseEvent) -> QPointF:
        """Where the mouse is, in these pixels."""
        return event.position() / text_scale()

    def fit_text(self) -> None:
        """Text has another size: what is as high as its text takes another height."""

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            self.fit_text()

    def say_chosen(self, words: str) -> None:
        """What is chosen now, in words."""
        if words != self.accessibleDescription():
            self.setAccessibleDescription(words)


def tell_what_is_painted() -> None:
    """Painted views have their own place among what assistive tools see. Once, when the window stands."""
    from PySide6.QtGui import QAccessible, QAccessibleInterface  # noqa: PLC0415 - the first leaf comes first
    from PySide6.QtWidgets import QAccessibleWidget  # noqa: PLC0415

    def interface(_: str, thing: QObject) -> QAccessibleInterface | None:
        if not isinstance(thing, Painted):
            return None
        return QAccessibleWidget(thing, QAccessible.Role.Canvas, thing.accessibleName())

    QAccessible.installFactory(interface)


class FocusRing(QWidget):
    """A line around what has the keyboard, once somebody goes from control to control by keys. It lies
    over the window, so that it looks the same around everything."""

    def __init__(self, window: QWidget, colours: Callable[[], tuple[QColor, QColor]]) -> None:
        super().__init__(window)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self._window, self._colours = window, colours
        self._around: QWidget | None = None
        self._watched: list[QWidget] = []
        self.hide()
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._follow)

    def _follow(self, _: QWidget | None, now: QWidget | None) -> None:
        for widget in filter(isValid, self._watched):  # what had the keyboard may be gone
            widget.removeEventFilter(self)
        self._watched = []
        if now is not None and isinstance(now.parentWidget(), QAbstractSpinBox):
            now = now.parentWidget()
        window = self._window
        self._around = now if now is not None and now.window() is window and now is not window else None
        while now is not None and self._around is not None:
            now.installEventFilter(self)
            self._watched.append(now)
            now = now.parentWidget()
        self._place()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in _MOVED and watched is not self:
            self._place()
        return False

    def _place(self) -> None:
        window, around = self._window, self._around
        if not isValid(window):
            return
        by_keys = window.testAttribute(Qt.WidgetAttribute.WA_KeyboardFocusChange)
        shown = QRect() if around is None or not by_keys or not around.isVisible() else _seen(around, window)
        if shown.isEmpty():
            self.hide()
            return
        self.setGeometry(shown)
        inside = QRegion(self.rect().adjusted(_WIDTH + 1, _WIDTH + 1, -_WIDTH - 1, -_WIDTH - 1))
        self.setMask(QRegion(self.rect()).subtracted(inside))
        self.raise_()
        self.show()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        line, beside = self._colours()
        painter.setPen(QPen(beside, 1))
        painter.drawRect(self.rect().adjusted(_WIDTH, _WIDTH, -_WIDTH - 1, -_WIDTH - 1))
        painter.setPen(QPen(line, _WIDTH))
        painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()


def _seen(widget: QWidget, window: QWidget) -> QRect:
    """The part of a widget that is in sight, in the window's coordinates, with a little room."""
    seen = QRect(widget.mapTo(window, QPoint(0, 0)), widget.size()).adjusted(-_WIDTH, -_WIDTH, _WIDTH, _WIDTH)
    parent = widget.parentWidget()
    while parent is not None and parent is not window:
        if isinstance(parent.parentWidget(), QScrollArea):
            seen &= QRect(parent.mapTo(window, QPoint(0, 0)), parent.size())
        parent = parent.parentWidget()
    return seen & window.rect()
