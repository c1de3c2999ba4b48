"""The tune of the chart played in on a keyboard: note by note, or to the click."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QPushButton, QSpinBox, QWidget

from yellow_hinge.rhythm.played_in import Played, TuneNote, on_grid
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import tempo_map
from yellow_hinge.sound import clock
from yellow_hinge.tasks.song.tune_in import play_in
from yellow_hinge.theory.pitch import pitch_for_key
from yellow_hinge.ui import kit
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.document import Document

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent

    from yellow_hinge.sound.keyboards import HeldKeys

#: Lengths of a step, or the grid that playing to the click is put on, in quarters.
LENGTHS = (
    (Fraction(4), "whole"),
    (Fraction(2), "half"),
    (Fraction(3, 2), "quarter, dotted"),
    (Fraction(1), "quarter"),
    (Fraction(1, 2), "eighth"),
    (Fraction(1, 3), "eighth, triplet"),
    (Fraction(1, 4), "sixteenth"),
)
_QUARTER, _EIGHTH = 3, 4
#: What is struck is heard so much later, and played to what is heard, seconds: what the output keeps ready
#: where the machine keeps up (:attr:`sound.output.Output.ahead_s`).
_HEARD_AFTER_S = 0.016


class TuneStrip(QWidget):
    """Takes notes while it is open. ``starts`` carries the slot from which the click is wanted, ``over``
    says that nothing more is taken."""

    starts = Signal(int)
    over = Signal()

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._since: Song | None = None
        self._steps: list[tuple[Fraction, int | None]] = []
        self._down: dict[int, float] = {}
        self._played: list[Played] = []
        self._waits = False  # for what was started to sound
        self._begun: float | None = None
        self._session = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Play the tune in")
        self._build()
        self.hide()

    def _build(self) -> None:
        row = kit.row(owner=self, spacing=6)
        self.how = kit.named(Choice(), "How the tune is played in")
        self.how.addItem("by step", False)
        self.how.addItem("to the click", True)
        self.how.activated.connect(lambda _: self._how_chosen())
        self.length = kit.named(
            Choice(),
            "Length of a note, or the grid",
            "By step: how long the next note is. To the click: the finest place of a note",
        )
        for quarters, words in LENGTHS:
            self.length.addItem(words, quarters)
        self.length.setCurrentIndex(_QUARTER)
        self.bar = QSpinBox()
        self.bar.setPrefix("from bar ")
        self.bar.setAccessibleName("Bar where the tune begins")
        self.bar.valueChanged.connect(lambda _: self._restart())
        self.start_button = QPushButton("Start")
        self.start_button.clicked.connect(self.start)
        self.rest_button, self.back_button = QPushButton("Rest (R)"), QPushButton("Back (Backspace)")
        self.rest_button.clicked.connect(self.rest)
        self.back_button.clicked.connect(self.back)
        self.done_button = QPushButton("Done (Esc)")
        self.done_button.clicked.connect(self.close_strip)
        self.words = kit.label("quiet")
        for widget in (self.how, self.length, self.bar, self.start_button, self.rest_button, self.back_button,
                       self.done_button):  # fmt: skip
            row.addWidget(widget)
        row.addWidget(self.words, 1)

    # --- opening, closing ---

    @property
    def to_click(self) -> bool:
        return bool(self.how.currentData())

    def open_strip(self) -> None:
        """Take notes from now."""
        self.bar.setRange(1, max(1, self._document.song.chart.bars_played))
        self.show()
        self._how_chosen()
        self.setFocus()

    def close_strip(self) -> None:
        """Take no more; what was taken stays."""
        self.finish()
        self._since = None
        self.hide()
        self.over.emit()

    def _how_chosen(self) -> None:
        self.length.setCurrentIndex(_EIGHTH if self.to_click else _QUARTER)
        self.start_button.setVisible(self.to_click)
        for button in (self.rest_button, self.back_button):
            button.setVisible(not self.to_click)
        self._restart()

    def _restart(self) -> None:
        """What follows is something new, to be undone by itself."""
        self._since, self._steps, self._begun, self._waits = self._document.song, [], None, False
        self._session += 1
        self._show()

    # --- what is played ---

    def show_held(self, held: HeldKeys) -> None:
        """Other keys are down on the keyboard."""
        if not self.isVisible():
            return
        now = clock.now()
        down = set(held.down)
        for key in sorted(down - set(self._down)):
            self._down[key] = now
            if not self.to_click:
                self._step(key)
        for key in sorted(set(self._down) - down):
            began = self._down.pop(key)
            if self._begun is not None:
                self._played.append(Played(key, self._quarters(began), self._quarters(now)))

    def _step(self, key: int | None) -> None:
        self._steps.append((self.length.currentData(), key))
        self._take_over()

    def rest(self) -> None:
        """A rest of the chosen length."""
        if not self.to_click:
            self._step(None)

    def back(self) -> None:
        """Without the last note or rest."""
        if self._steps and not self.to_click:
            self._steps.pop()
            self._take_over()

    def _notes(self) -> tuple[list[TuneNote], Fraction]:
        """The notes of all steps, and where the next one would begin."""
        at, notes = self._from(), []
        for quarters, key in self._steps:
            if key is not None:
                notes.append(TuneNote(at, at + quarters, key))
            at += quarters
        return notes, at

    def _from(self) -> Fraction:
        """Where the chosen bar begins."""
        played = self._document.song.chart.played
        return played[min(self.bar.value(), len(played)) - 1].start_quarters if played else Fraction(0)

    def _take_over(self) -> None:
        notes, at = self._notes()
        self._apply(notes, self._from(), max(at, self._from() + Fraction(1, 8)))
        self._show()

    def _apply(self, notes: list[TuneNote], start: Fraction, end: Fraction) -> None:
        if self._since is None or not self._since.chart.played:
            return
        end = min(end, self._since.chart.length_quarters)
        inside = [note for note in notes if note.start < end]
        gesture = f"tune {self._session}"
        self._document.apply(play_in(self._document.song, inside, start, end, gesture, since=self._since))

    # --- to the click ---

    def start(self) -> None:
        """The click begins, a bar ahead."""
        song = self._document.song
        if not song.slots:
            return
        self._restart()
        start = self._from()
        slot = next((one.index for one in song.slots if one.start_quarters >= start), 0)
        self._played = []
        bar = song.chart.played[min(self.bar.value(), len(song.chart.played)) - 1].bar
        self._lead = tempo_map(song).seconds(float(start - bar.meter.quarters))
        self._waits = True
        self.setFocus()
        self.starts.emit(slot)
        self._show()

    def begin(self) -> None:
        """What was started sounds from now."""
        if self._waits:
            self._waits, self._begun = False, clock.now() + _HEARD_AFTER_S

    def _quarters(self, when: float) -> float:
        assert self._begun is not None
        return tempo_map(self._document.song).quarters(self._lead + when - self._begun)

    def finish(self) -> None:
        """The click is over: what was played goes into the chart."""
        self._waits = False
        if self._begun is None:
            self._show()
            return
        now = clock.now()
        for key, began in self._down.items():
            self._played.append(Played(key, self._quarters(began), self._quarters(now)))
        until = self._quarters(now)
        notes = list(on_grid([played for played in self._played if played.end > float(self._from())],
                             self.length.currentData()))  # fmt: skip
        self._begun = None
        if notes:
            end = max(note.end for note in notes)
            self._apply(notes, self._from(), max(end, Fraction(until).limit_denominator(64)))
        self._show()

    def _show(self) -> None:
        if self.to_click:
            waiting = "Start counts a bar in; play, and stop with Space or Esc."
            self.words.setText("Listening..." if self._waits or self._begun is not None else waiting)
            return
        names = [
            "rest" if key is None else pitch_for_key(key, self._flats).pretty for _, key in self._steps[-6:]
        ]
        said = " ".join(names)
        self.words.setText(said or "Play a key of the keyboard that is chosen with Ctrl+K: each is a note.")

    @property
    def _flats(self) -> bool:
        return self._document.song.key.prefers_flats

    def keyPressEvent(self, event: QKeyEvent) -> None:
        acts = {Qt.Key.Key_R: self.rest, Qt.Key.Key_Backspace: self.back, Qt.Key.Key_Escape: self.close_strip}
        act = acts.get(Qt.Key(event.key()))
        if act is None or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            super().keyPressEvent(event)
        else:
            act()
