"""What a sound file is to have: to play along with, away from the screen."""

from __future__ import annotations

from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.rhythm.time import MAX_TEMPO, MIN_TEMPO
from yellow_hinge.tasks.files.sound_file import MOST_ROUNDS, SoundWishes
from yellow_hinge.ui import kit
from yellow_hinge.ui.words import Label, Words


class SoundDialog(QDialog):
    """Rounds and tempi, and who is heard."""

    def __init__(self, tempo: int, tune: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Sound file")
        layout = QVBoxLayout(self)
        form = QFormLayout()
        self.rounds = self._number(1, MOST_ROUNDS, 1, "Rounds")
        self.first = self._number(MIN_TEMPO, MAX_TEMPO, tempo, "Tempo of the first round")
        self.last = self._number(MIN_TEMPO, MAX_TEMPO, tempo, "Tempo of the last round")
        form.addRow("Rounds", self.rounds)
        form.addRow("Beats a minute, first round", self.first)
        form.addRow("Beats a minute, last round", self.last)
        layout.addLayout(form)
        self.boxes: dict[str, QCheckBox] = {}
        for name, words, on in (
            ("count_in", "count a bar in", True), ("click", "click all through", False),
            ("left", "left hand", True), ("right", "right hand", True), ("tune", "the tune", tune),
            ("band", "drums and bass, where the take has them", True),
        ):  # fmt: skip
            self.boxes[name] = QCheckBox(words)
            self.boxes[name].setChecked(on)
            layout.addWidget(self.boxes[name])
        kit.add_all(
            layout,
            (
                Label("Without a hand it is for that hand to play along."),
                Words("Listen at a low volume, and rest your ears and hands between rounds."),
            ),
        )
        buttons = QDialogButtonBox()
        buttons.addButton("Choose a file...", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout.addWidget(buttons)

    def _number(self, low: int, high: int, now: int, name: str) -> QSpinBox:
        box = QSpinBox()
        box.setRange(low, high)
        box.setValue(now)
        box.setAccessibleName(name)
        return box

    @property
    def wishes(self) -> SoundWishes:
        """What was chosen."""
        on = {name: box.isChecked() for name, box in self.boxes.items()}
        return SoundWishes(self.rounds.value(), self.first.value(), self.last.value(), **on)
