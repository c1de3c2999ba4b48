"""The side of the Rhythm page for how all of it is played: swing, touch, pedal, endings and the band; what
can be drawn is chosen among pictures."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QBoxLayout, QCheckBox, QFormLayout, QSpinBox, QWidget

from yellow_hinge.rhythm.band import DRUMS
from yellow_hinge.rhythm.fullness import LEVELS
from yellow_hinge.rhythm.patterns import builtin_patterns
from yellow_hinge.rhythm.perform import SWING_EVEN_AT, SWING_FULL_AT
from yellow_hinge.song.groove import MOST_PERSON, MOST_ROLL_MS, MOST_SLOWING, PEDALS
from yellow_hinge.song.groove_edits import change_groove, set_texture, texture_at
from yellow_hinge.ui import kit
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.drawn_choice import DrawnChoice
from yellow_hinge.ui.pages.rhythm.feel_pictures import PICTURES
from yellow_hinge.ui.pages.rhythm.state import RhythmState
from yellow_hinge.ui.quiet import QuietSide
from yellow_hinge.ui.words import Words

#: The width of a row of pictures, in pixels, and for how many at least it is parted.
_ROOM, _FEWEST = 140, 6
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
    """``changed`` carries an :class:`Edit`. A control stands for a field of the stretch's texture, or of the
    whole take's groove, by its name."""

    changed = Signal(object)

    def __init__(self, state: RhythmState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._state = state
        self.boxes: dict[str, Choice | DrawnChoice] = {}
        self.ticks: dict[str, QCheckBox] = {}
        self.spins: dict[str, QSpinBox] = {}
        layout = self.rows
        self._stretch_heading = kit.label("heading")
        layout.addWidget(self._stretch_heading)
        self._build_stretch(layout)
        layout.addWidget(kit.heading("The whole take"))
        self._build_feel(layout)
        self._build_ending(layout)
        layout.addWidget(Words(_CAUTION))
        layout.addStretch(1)

    # --- building ---

    def _form(self, layout: QBoxLayout) -> QFormLayout:
        form = kit.form(layout)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
        return form

    def _box(
        self, form: QFormLayout, field: str, words: str, rows: Iterable[tuple[Any, str]], tip: str,
        *, label: str = "", settle: Callable[..., None] | None = None,
    ) -> None:  # fmt: skip
        take = settle or self._groove
        choices = [(said, value) for value, said in rows]
        box: Choice | DrawnChoice
        if field in PICTURES:
            box = DrawnChoice(words, PICTURES[field], tip, _ROOM / max(_FEWEST, len(choices)))
            box.offer(choices)
            form.addRow(box)
        else:
            box = kit.narrow(kit.choice(words, tip, choices=choices))
            form.addRow(words, box)
        self.boxes[field] = box
        box.activated.connect(lambda _: take(label or words, **{field: box.currentData()}))

    def _tick(self, field: str, words: str, label: str, tip: str = "", whole: bool = True) -> QCheckBox:
        settle = self._groove if whole else self._texture
        self.ticks[field] = kit.tick(words, lambda on: settle(label, **{field: on}), tip)
        return self.ticks[field]

    def _spin(
        self, form: QFormLayout, field: str, words: str, most: int, *, suffix: str, tip: str
    ) -> QSpinBox:
        spin = self.spins[field] = kit.number(words, (0, most), tip, suffix)
        spin.setKeyboardTracking(False)
        spin.valueChanged.connect(lambda value: self._groove(words, **{field: value}))
        form.addRow(words, spin)
        return spin

    def _build_stretch(self, layout: QBoxLayout) -> None:
        form = self._form(layout)
        levels = ((level, f"{level} {fullness.words}") for level, fullness in LEVELS.items())
        for field, words, rows, tip in (
            ("pedal", "Pedal", PEDALS.items(),
             "Up with the stroke, down a little after it, so that it stays clear"),
            ("touch", "Touch", TOUCHES, "How hard the hands strike; a step is 10 of MIDI's 127"),
            ("level", "Fullness", levels,
             "Notes of the hands, register and touch; the arc sets it by section"),
        ):  # fmt: skip
            every = ((None, "as around it"), *rows)
            self._box(form, field, words, every, tip, settle=self._texture)
        layout.addWidget(self._tick(
            "tune", "Right hand plays the tune", "Tune in the right hand", "The tune of the chart, over as "
            "much of the chord as the hand can hold below it; the rest is listed under To look at",
            whole=False,
        ))  # fmt: skip
        self.octave_form = self._form(layout)
        tip = "The tune moved as a whole in the stretch above: a section can have an octave of its own"
        self._box(self.octave_form, "tune_octave", "Its octave", _TUNE_OCTAVES, tip,
                  label="Octave of the tune", settle=self._texture)  # fmt: skip
        tip = "For patterns that have one, on the last count"
        layout.addWidget(self._tick("fill", "A fill where the section ends", "Fill", tip, whole=False))

    def _build_feel(self, layout: QBoxLayout) -> None:
        form = self._form(layout)
        tip = "How long the first eighth of a count is; in six it stays even"
        self._box(form, "swing", "Swing", SWINGS, tip)
        tip = f"From {SWING_FULL_AT:.0f} quarters a minute on less and less, even at {SWING_EVEN_AT:.0f}"
        form.addRow("", self._tick("swing_by_tempo", "less at fast tempi", "Swing", tip))
        tip = "Time from one note of a rolled chord to the next, whatever the tempo"
        self._spin(form, "roll_ms", "Rolls", MOST_ROLL_MS, suffix=" ms a note", tip=tip)
        people = [(0, "exactly"), *((k, f"a little uneven, {k}") for k in range(1, MOST_PERSON + 1))]
        tip = "As a person plays: up to 14 ms late, touch by up to 5; off in practice"
        self._box(form, "person", "In time", people, tip)
        layout.addWidget(self._tick(
            "build", "Builds up", "Build up", "Touch grows from section to section, and the first third "
            "plays lighter patterns of the same family",
        ))  # fmt: skip

    def _build_ending(self, layout: QBoxLayout) -> None:
        form = self._form(layout)
        tip = "Over so many of the last chords, down to two thirds of the tempo"
        slowing = self._spin(form, "slowing", "Slowing down", MOST_SLOWING, suffix=" chords", tip=tip)
        slowing.setSpecialValueText("not at all")
        tip = "Held: at half the tempo, in the pattern's ending"
        self._box(form, "ending", "Last chord", ENDINGS, tip, label="Ending")
        layout.addWidget(self._tick("count_in", "Count a bar in", "Count-in"))
        band = self._form(layout)
        self._box(band, "drums", "Drums", DRUMS.items(), "A plain track that follows meter, feel and form")
        known = builtin_patterns()
        lines = ((name, known[name].name if name else "as the hands have it") for name in _BASS_LINES)
        tip = "A bassist's line over the roots; without one, who has the bass plays it"
        self._box(band, "bass_line", "Bass", lines, tip)

    # --- acting and showing ---

    def _texture(self, label: str, **changes: Any) -> None:
        if self._state.song.slots:
            self.changed.emit(set_texture(self._state.song, self._state.where, label, changes))

    def _groove(self, label: str, **changes: Any) -> None:
        groove = self._state.song.arrangement.groove
        if any(getattr(groove, name) != value for name, value in changes.items()):
            self.changed.emit(change_groove(self._state.song, label, **changes))

    def refresh(self) -> None:
        """What is decided now."""
        state = self._state
        groove = state.song.arrangement.groove
        words = dict(state.scope_words()).get(state.scope, "the whole song")
        self._stretch_heading.setText(f"For {words}")
        texture = texture_at(groove, state.where)
        around = state.song.texture(state.index) if state.song.slots else texture
        for field, box in self.boxes.items():
            box.choose(getattr(texture if hasattr(texture, field) else groove, field))
        self.boxes["swing"].choose(min((value for value, _ in SWINGS), key=lambda of: abs(of - groove.swing)))
        for field, tick in self.ticks.items():
            tick.setChecked(bool(getattr(around if hasattr(around, field) else groove, field)))
        for field, spin in self.spins.items():
            with QSignalBlocker(spin):
                spin.setValue(getattr(groove, field))
        self.octave_form.setRowVisible(self.boxes["tune_octave"], bool(around.tune))
        self.ticks["swing_by_tempo"].setEnabled(groove.swing > 0)
