"""The side of the Rhythm page for how all of it is played: swing, touch, pedal, endings and the band."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.rhythm.band import DRUMS
from yellow_hinge.rhythm.fullness import LEVELS
from yellow_hinge.rhythm.patterns import builtin_patterns
from yellow_hinge.rhythm.perform import SWING_EVEN_AT, SWING_FULL_AT
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.groove import MOST_PERSON, MOST_ROLL_MS, MOST_SLOWING, PEDALS
from yellow_hinge.song.groove_edits import change_groove, set_texture, texture_at
from yellow_hinge.ui import kit
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.pages.rhythm.state import RhythmState
from yellow_hinge.ui.quiet import QuietSide
from yellow_hinge.ui.words import Words

SWINGS = ((0, "even"), (34, "a little"), (67, "medium"), (100, "2 to 1"))
TOUCHES = ((-2, "very soft"), (-1, "soft"), (0, "moderate"), (1, "strong"), (2, "very strong"))
ENDINGS = (("", "as the pattern"), ("held", "held"), ("rolled", "held and rolled"))
_BASS_LINES = ("", "held", "swing-two", "swing-four", "one-five-one", "one-five-one-eighths",
               "pulses", "waltz", "six-held")  # fmt: skip
_CAUTION = "Rest when it tires: fast repeats strain. A teacher or clinician knows your hands."
#: Octaves in which the right hand may play the tune.
_TUNE_OCTAVES = (
    (None, "where most chords fit"), (0, "as written"), (1, "an octave higher"),
    (-1, "an octave lower"), (2, "two octaves higher"), (-2, "two octaves lower"),
)  # fmt: skip


class FeelSide(QuietSide):
    """``changed`` carries an :class:`Edit`."""

    changed = Signal(object)

    def __init__(self, state: RhythmState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._state = state
        layout = self.rows
        self._stretch_heading = kit.label("heading")
        layout.addWidget(self._stretch_heading)
        self._build_stretch(layout)
        heading = kit.heading("The whole take")
        layout.addWidget(heading)
        self._build_feel(layout)
        self._build_ending(layout)
        layout.addWidget(Words(_CAUTION))
        layout.addStretch(1)

    # --- building ---

    def _form(self, layout: QVBoxLayout) -> QFormLayout:
        form = QFormLayout()
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
        form.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapLongRows)
        layout.addLayout(form)
        return form

    def _box(self, form: QFormLayout, words: str, rows: Sequence[tuple[Any, str]], tip: str) -> QComboBox:
        box = kit.named(Choice(), words, tip)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(8)
        for value, said in rows:
            box.addItem(said, value)
        form.addRow(words, box)
        return box

    def _build_stretch(self, layout: QVBoxLayout) -> None:
        form = self._form(layout)
        pedals = [(None, "as around it"), *PEDALS.items()]
        self.pedal = self._box(
            form, "Pedal", pedals, "Up with the stroke, down a little after it, so that it stays clear"
        )
        self.pedal.activated.connect(lambda _: self._texture("Pedal", pedal=self.pedal.currentData()))
        touches = [(None, "as around it"), *TOUCHES]
        self.touch = self._box(
            form, "Touch", touches, "How hard the hands strike; a step is 10 of MIDI's 127"
        )
        self.touch.activated.connect(lambda _: self._texture("Touch", touch=self.touch.currentData()))
        levels = [
            (None, "as around it"),
            *((level, f"{level} {fullness.words}") for level, fullness in LEVELS.items()),
        ]
        self.level = self._box(
            form, "Fullness", levels, "Notes of the hands, register and touch; the arc sets it by section"
        )
        self.level.activated.connect(lambda _: self._texture("Fullness", level=self.level.currentData()))
        self.tune = QCheckBox("Right hand plays the tune")
        self.tune.setToolTip(
            "The tune of the chart, over as much of the chord as the hand can hold below it; the rest is "
            "listed under To look at"
        )
        self.tune.clicked.connect(lambda on: self._texture("Tune in the right hand", tune=on))
        self.fill = QCheckBox("A fill where the section ends")
        self.fill.setToolTip("For patterns that have one, on the last count")
        self.fill.clicked.connect(lambda on: self._texture("Fill", fill=on))
        layout.addWidget(self.tune)
        self.octave_form = self._form(layout)
        tip = "The tune moved as a whole in the stretch above: a section can have an octave of its own"
        self.octave = self._box(self.octave_form, "Its octave", _TUNE_OCTAVES, tip)
        self.octave.activated.connect(
            lambda _: self._texture("Octave of the tune", tune_octave=self.octave.currentData())
        )
        layout.addWidget(self.fill)

    def _build_feel(self, layout: QVBoxLayout) -> None:
        form = self._form(layout)
        self.swing = self._box(
            form, "Swing", SWINGS, "How long the first eighth of a count is; in six it stays even"
        )
        self.swing.activated.connect(lambda _: self._groove("Swing", swing=self.swing.currentData()))
        self.by_tempo = QCheckBox("less at fast tempi")
        self.by_tempo.setToolTip(
            f"From {SWING_FULL_AT:.0f} quarters a minute on less and less, even at {SWING_EVEN_AT:.0f}"
        )
        self.by_tempo.clicked.connect(lambda on: self._groove("Swing", swing_by_tempo=on))
        form.addRow("", self.by_tempo)
        self.roll = QSpinBox()
        self.roll.setRange(0, MOST_ROLL_MS)
        self.roll.setSuffix(" ms a note")
        kit.named(self.roll, "Rolls", "Time from one note of a rolled chord to the next, whatever the tempo")
        self.roll.setKeyboardTracking(False)
        self.roll.valueChanged.connect(lambda ms: self._groove("Rolls", roll_ms=ms))
        form.addRow("Rolls", self.roll)
        people = [(0, "exactly"), *((k, f"a little uneven, {k}") for k in range(1, MOST_PERSON + 1))]
        self.person = self._box(
            form, "In time", people, "As a person plays: up to 14 ms late, touch by up to 5; off in practice"
        )
        self.person.activated.connect(lambda _: self._groove("In time", person=self.person.currentData()))
        self.build = QCheckBox("Builds up")
        self.build.setToolTip("Touch grows from section to section, and the first third plays "
                              "lighter patterns of the same family")  # fmt: skip
        self.build.clicked.connect(lambda on: self._groove("Build up", build=on))
        layout.addWidget(self.build)

    def _build_ending(self, layout: QVBoxLayout) -> None:
        form = self._form(layout)
        self.slowing = QSpinBox()
        self.slowing.setRange(0, MOST_SLOWING)
        self.slowing.setSuffix(" chords")
        self.slowing.setSpecialValueText("not at all")
        kit.named(
            self.slowing, "Slowing down", "Over so many of the last chords, down to two thirds of the tempo"
        )
        self.slowing.setKeyboardTracking(False)
        self.slowing.valueChanged.connect(lambda count: self._groove("Slowing down", slowing=count))
        form.addRow("Slows down", self.slowing)
        self.ending = self._box(
            form, "Last chord", ENDINGS, "Held: at half the tempo, in the pattern's ending"
        )
        self.ending.activated.connect(lambda _: self._groove("Ending", ending=self.ending.currentData()))
        self.count_in = QCheckBox("Count a bar in")
        self.count_in.clicked.connect(lambda on: self._groove("Count-in", count_in=on))
        layout.addWidget(self.count_in)
        band = self._form(layout)
        self.drums = self._box(
            band, "Drums", list(DRUMS.items()), "A plain track that follows meter, feel and form"
        )
        self.drums.activated.connect(lambda _: self._groove("Drums", drums=self.drums.currentData()))
        lines = [
            (name, builtin_patterns()[name].name if name else "as the hands have it") for name in _BASS_LINES
        ]
        self.bass = self._box(band, "Bass", lines, "A bassist's line over the roots; "
                                                   "without one, who has the bass plays it")  # fmt: skip
        self.bass.activated.connect(lambda _: self._groove("Bass", bass_line=self.bass.currentData()))

    # --- acting and showing ---

    def _texture(self, label: str, **changes: Any) -> None:
        if self._state.song.slots:
            self.changed.emit(set_texture(self._state.song, self._state.where, label, changes))

    def _groove(self, label: str, **changes: Any) -> None:
        groove = self._state.song.arrangement.groove
        if any(getattr(groove, name) != value for name, value in changes.items()):
            edit: Edit = change_groove(self._state.song, label, **changes)
            self.changed.emit(edit)

    def refresh(self) -> None:
        """What is decided now."""
        state = self._state
        groove = state.song.arrangement.groove
        words = dict(state.scope_words()).get(state.scope, "the whole song")
        self._stretch_heading.setText(f"For {words}")
        texture = texture_at(groove, state.where)
        self.pedal.setCurrentIndex(self.pedal.findData(texture.pedal))
        self.touch.setCurrentIndex(self.touch.findData(texture.touch))
        self.level.setCurrentIndex(self.level.findData(texture.level))
        around = state.song.texture(state.index) if state.song.slots else texture
        self.tune.setChecked(bool(around.tune))
        self.fill.setChecked(bool(around.fill))
        self.octave.setCurrentIndex(max(0, self.octave.findData(texture.tune_octave)))
        self.octave_form.setRowVisible(self.octave, bool(around.tune))
        self.person.setCurrentIndex(max(0, self.person.findData(groove.person)))
        nearest = min(SWINGS, key=lambda row: abs(row[0] - groove.swing))[0]
        self.swing.setCurrentIndex(self.swing.findData(nearest))
        self.by_tempo.setChecked(groove.swing_by_tempo)
        self.by_tempo.setEnabled(groove.swing > 0)
        for spin, value in ((self.roll, groove.roll_ms), (self.slowing, groove.slowing)):
            spin.blockSignals(True)
            spin.setValue(value)
            spin.blockSignals(False)
        self.build.setChecked(groove.build)
        self.count_in.setChecked(groove.count_in)
        for box, name in (
            (self.ending, groove.ending),
            (self.drums, groove.drums),
            (self.bass, groove.bass_line),
        ):
            box.setCurrentIndex(max(0, box.findData(name)))
