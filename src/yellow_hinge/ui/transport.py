"""The transport along the bottom: play, tempo, melody, volume, and what the search is doing."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QSignalBlocker, QSize, Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QProgressBar,
    QPushButton,
    QSlider,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.rhythm.time import MAX_TEMPO, MIN_TEMPO
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.playback import Playback
from yellow_hinge.ui.quiet import Ground
from yellow_hinge.ui.theme import scaled
from yellow_hinge.ui.words import OneLine
from yellow_hinge.ui.worker import Worker

if TYPE_CHECKING:
    from PySide6.QtGui import QResizeEvent

_PLAY_WIDTH, _PROGRESS_WIDTH = 148, 90
_MARGIN = 14
#: A tempo holds after so much rest, ms.
_REST_MS = 250
#: Slower and faster by a step, in hundredths.
_PACE_STEP = 5


class Transport(Ground):
    """Follows the playback and the search. ``paced``: the player wants another tempo."""

    paced = Signal()

    def __init__(
        self, playback: Playback, worker: Worker, commands: CommandList, parent: QWidget | None = None
    ) -> None:
        super().__init__("transport", parent)
        self._playback = playback
        self._rest = QTimer(self)  # a number that is being typed is not played digit by digit
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.paced)
        lines = QVBoxLayout(self)
        lines.setContentsMargins(_MARGIN, 7, _MARGIN, 7)
        self._upper, self._lower = QHBoxLayout(), QHBoxLayout()
        for line in (self._upper, self._lower):
            line.setSpacing(10)
            lines.addLayout(line)
        self._build_sound(commands)
        self.devices_button = kit.button(commands, "devices")
        self._build_search(worker)
        self._first = (self.play_button, self.tempo, self.melody, self.click, self.band)
        self._second = (
            self.volume_label, self.volume, self.sound_label, self.status, self.progress, self.cancel,
            self.devices_button,
        )  # fmt: skip
        self._written = 0  #: the tempo of the song that is shown
        self._in_two: bool | None = None
        self.fit()

    def _build_sound(self, commands: CommandList) -> None:
        self.play_button = kit.button(commands, "play")
        self.tempo = QSpinBox()
        self.tempo.setRange(MIN_TEMPO, MAX_TEMPO)
        self.tempo.setSuffix(" beats/min")
        self.tempo.setToolTip("Tempo for playing; the chart keeps its own until you change it there")
        self.tempo.setAccessibleName("Tempo")
        self.melody, self.click, self.band = (
            _switch(commands, name) for name in ("with-melody", "with-click", "with-band")
        )
        self.volume_label = kit.label("quiet", "Volume", wraps=False)
        self.volume = QSlider(Qt.Orientation.Horizontal)
        self.volume.setRange(0, 100)
        self.volume.setValue(int(self._playback.volume * 100))
        self.volume.setFixedWidth(110)
        self.volume.setToolTip("Begins at half. With headphones begin lower: loud sound harms the ears.")
        self.volume.setAccessibleName("Volume")
        self.volume.valueChanged.connect(lambda value: self._playback.set_volume(value / 100))
        self.sound_label = OneLine()
        self.tempo.valueChanged.connect(lambda _: self._rest.start())
        for widget in (self.play_button, self.tempo, self.melody, self.click, self.band):
            self._upper.addWidget(widget)

    def _build_search(self, worker: Worker) -> None:
        self.status = OneLine()
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.cancel = QPushButton("Cancel")
        self.cancel.setToolTip("Stop the search; the voicings stay as they are")
        self.cancel.clicked.connect(worker.cancel)
        worker.busy.connect(self.show_busy)
        worker.progress.connect(lambda share: self.progress.setValue(int(share * 100)))
        self.show_busy(worker.running)

    def fit(self) -> None:
        """Text has another size now."""
        self.play_button.setFixedWidth(scaled(_PLAY_WIDTH))
        self.progress.setFixedWidth(scaled(_PROGRESS_WIDTH))
        self._lay_out()
        self.updateGeometry()

    def _lay_out(self) -> None:
        """In one line where there is room for all of it, whether a search is running or not; else in two."""
        needed = self._wide(self._first) + self._wide(self._second)
        in_two = self.width() < needed + 2 * _MARGIN
        if in_two == self._in_two:
            return
        self._in_two = in_two
        line = self._lower if in_two else self._upper
        for widget in self._second:
            self._upper.removeWidget(widget)
            self._lower.removeWidget(widget)
            line.addWidget(widget, int(isinstance(widget, OneLine)))

    def _wide(self, widgets: Sequence[QWidget]) -> int:
        """How wide they are in a line, with the space behind them, also those that wait to be shown."""
        shown = [widget for widget in widgets if widget is not self.band or widget.isVisibleTo(self)]
        return len(shown) * self._upper.spacing() + sum(
            max(widget.minimumWidth(), min(widget.sizeHint().width(), widget.maximumWidth()))
            for widget in shown
            if not isinstance(widget, OneLine)  # that one takes what is left
        )

    def minimumSizeHint(self) -> QSize:
        """As narrow as two lines."""
        width = max(self._wide(self._first), self._wide(self._second))
        return QSize(width + 2 * _MARGIN, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def show_busy(self, busy: bool) -> None:
        """Whether the search is running."""
        self.progress.setVisible(busy)
        self.cancel.setVisible(busy)
        self.status.setVisible(busy)
        self.status.setText("Finding the row of least effort..." if busy else "")

    def show_band(self, there: bool) -> None:
        """Whether there is a band that can be switched off."""
        self.band.setVisible(there)
        self._lay_out()

    def show_song(self, song: Song) -> None:
        """What can be set for a song."""
        if song.tempo != self._written and not self.tempo.hasFocus():  # else the player's own stays
            self._written = song.tempo
            with QSignalBlocker(self.tempo):
                self.tempo.setValue(song.tempo)
        groove = song.arrangement.groove
        self.show_band(bool(groove.drums or groove.bass_line))

    def show_place(self, song: Song, index: int) -> None:
        """The bar and chord of a slot, what comes next, and what makes the sound."""
        place = place_words(song, index) if song.slots else ""
        self.sound_label.setText(" \u00b7 ".join(filter(None, (place, self._playback.description))))

    def change_pace(self, direction: int) -> None:
        """A twentieth slower (-1) or faster (1)."""
        step = max(1, round(self.tempo.value() * _PACE_STEP / 100))
        self.tempo.setValue(self.tempo.value() + direction * step)

    def pace(self, song: Song) -> float:
        """How much faster than its own tempo a song is to be played."""
        return self.tempo.value() / song.tempo


def place_words(song: Song, index: int) -> str:
    """Where a slot is, and what comes behind it: "bar 12: Dm7, then G7"."""
    slot = song.slots[min(index, len(song.slots) - 1)]
    following = song.slots[slot.index + 1 :][:1]
    then = f", then {pretty_symbol(following[0].chord)}" if following else ", the last"
    return f"Bar {slot.bar}: {pretty_symbol(slot.chord)}{then}"


def _switch(commands: CommandList, command_id: str) -> QCheckBox:
    box = QCheckBox()
    box.setObjectName("quiet")
    commands.bind(box, command_id)
    return box
