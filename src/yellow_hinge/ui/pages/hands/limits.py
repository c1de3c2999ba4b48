"""Limits of each hand: notes at once, and its register."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QGridLayout, QLabel, QSpinBox

from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.hinge import SIDES
from yellow_hinge.ui import kit
from yellow_hinge.ui.pages.hands.state import hand_of, hand_words, key_words
from yellow_hinge.ui.quiet import Ground
from yellow_hinge.voicing.handling import HIGHEST_PIANO_KEY, LOWEST_PIANO_KEY

_REGISTER = (LOWEST_PIANO_KEY, HIGHEST_PIANO_KEY)
_LIMITS = (
    ("most_notes", "Most notes at once", (1, 5)),
    ("lowest_key", "Lowest key", _REGISTER),
    ("highest_key", "Highest key", _REGISTER),
)


class LimitsPanel(Ground):
    """A row for each hand; ``changed`` carries side, field and value."""

    changed = Signal(str, str, int)

    def __init__(self) -> None:
        super().__init__("panel")
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 12, 16, 12)
        grid.setHorizontalSpacing(14)
        self.summaries: dict[str, QLabel] = {}
        self.spins: dict[tuple[str, str], QSpinBox] = {}
        for row, side in enumerate(SIDES):
            self.summaries[side] = kit.heading("")
            grid.addWidget(self.summaries[side], 2 * row, 0, 1, 7)
            for column, (field, words, bounds) in enumerate(_LIMITS):
                spin = self.spins[side, field] = self._spin(side, field, words, bounds)
                grid.addWidget(kit.label("quiet", words, wraps=False), 2 * row + 1, 2 * column)
                grid.addWidget(spin, 2 * row + 1, 2 * column + 1)
        grid.setColumnStretch(6, 1)

    def _spin(self, side: str, field: str, words: str, bounds: tuple[int, int]) -> QSpinBox:
        spin = KeySpin() if bounds is _REGISTER else QSpinBox()
        spin.setRange(*bounds)
        spin.setAccessibleName(f"{words}, {side} hand")
        spin.setKeyboardTracking(False)
        spin.valueChanged.connect(lambda value: self.changed.emit(side, field, value))
        return spin

    def show_hands(self, profile: HandProfile) -> None:
        """The hands as they are now."""
        for side in SIDES:
            hand = hand_of(profile, side)
            self.summaries[side].setText(hand_words(side, hand, profile.roll))
            for field, *_ in _LIMITS:
                spin = self.spins[side, field]
                with QSignalBlocker(spin):
                    spin.setValue(getattr(hand, field))


class KeySpin(QSpinBox):
    """A spin box that shows MIDI keys by name."""

    def __init__(self) -> None:
        super().__init__()
        self.lineEdit().setReadOnly(True)

    def textFromValue(self, value: int) -> str:
        return key_words(value)
