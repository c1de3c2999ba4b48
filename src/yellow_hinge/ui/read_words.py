"""What can be read on a page, so that its words of theory are explained where they stand."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QListView, QWidget

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.glossary import found_in

#: Of the words of a text so many are explained.
_MOST = 3
#: The chord that the player looks at, in whichever window.
_view: dict[str, ChordSymbol | None] = {"chord": None}


def look_at(chord: ChordSymbol | None) -> None:
    """Words are explained with their notes in this chord from now on."""
    _view["chord"] = chord


def explained(text: str) -> str:
    """What its words of theory mean, a line each, with notes in the chord in view; nothing where it has
    none."""
    return "\n".join(f"{word.name}: {word.explained(_view['chord'])}" for word in found_in(text)[:_MOST])


def everything_on(page: QWidget) -> str:
    """All that is in view on a page."""
    return " ".join(_text_of(widget) for widget in page.findChildren(QWidget) if widget.isVisible())


def _text_of(widget: QWidget) -> str:
    if isinstance(widget, QLabel | QAbstractButton):
        return widget.text()
    if isinstance(widget, QComboBox):
        return widget.currentText()
    model = widget.model() if isinstance(widget, QListView) else None
    if model is None:
        return ""
    rows = (model.index(row, 0) for row in range(model.rowCount()))
    return " ".join(str(row.data(Qt.ItemDataRole.DisplayRole) or "") for row in rows)
