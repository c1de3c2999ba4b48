"""What can be read on a page, so that its words of theory can be explained where they stand."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPoint, Qt
from PySide6.QtWidgets import QAbstractButton, QAbstractItemView, QComboBox, QLabel, QWidget

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.glossary import found_in

#: Of the words under the pointer so many are explained.
_MOST = 2


def text_of(widget: QWidget | None, at: QPoint | None = None) -> str:
    """What a widget says, at a place of it or everywhere."""
    if isinstance(widget, QLabel | QAbstractButton):
        return widget.text()
    if isinstance(widget, QComboBox):
        return widget.currentText()
    view = widget if isinstance(widget, QAbstractItemView) else widget.parent() if widget else None
    if not isinstance(view, QAbstractItemView) or view.model() is None:
        return ""
    if at is not None:
        return _said(view.indexAt(at))
    model = view.model()
    return " ".join(_said(model.index(row, 0)) for row in range(model.rowCount()))


def _said(index: QModelIndex) -> str:
    return str(index.data(Qt.ItemDataRole.DisplayRole) or "")


def everything_on(page: QWidget) -> str:
    """All that is in view on a page."""
    return " ".join(text_of(widget) for widget in page.findChildren(QWidget) if widget.isVisible())


def explained(text: str, chord: ChordSymbol | None) -> str:
    """What its words of theory mean, a line each; nothing where it has none."""
    return "\n".join(f"{word.name}: {word.explained(chord)}" for word in found_in(text)[:_MOST])
