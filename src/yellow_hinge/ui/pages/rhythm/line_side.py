"""The side of the Rhythm page for what goes between: riffs, proposed lines, and small notes on the way."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.errors import BadInput
from yellow_hinge.reharm.lead_lines import DENSITIES, KINDS
from yellow_hinge.rhythm.patterns import HANDS, Hand
from yellow_hinge.song.at import At
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.tasks.rhythm.line_desk import RANGES, read_riff, scale_words, scales_over
from yellow_hinge.tasks.rhythm.riff_text import MOST_SIGNS, read_riff_text, riff_text
from yellow_hinge.theory.pitch import as_letters, as_named, pitch_for_key
from yellow_hinge.ui import kit
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.entry_field import EntryField
from yellow_hinge.ui.pages.rhythm.state import RhythmState
from yellow_hinge.ui.words import Words

_LENGTHS = (("1", "beat"), ("1/2", "half a beat"), ("1/3", "third of a beat"), ("1/4", "quarter of a beat"),
            ("2", "2 beats"))  # fmt: skip
#: Starts of a proposed line, in words: a share of the range, or None for its middle.
_CHORDS = ((None, "each chord's own scale"),)
_STARTS = ((None, "begins in the middle"), (0.15, "begins low"), (0.85, "begins high"))


class LineSide(QWidget):
    """``typed`` carries the text of a riff, ``propose`` the wishes for a line."""

    typed = Signal(str)
    propose = Signal(dict)

    def __init__(self, state: RhythmState, commands: CommandList, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._state = state
        self._texts: dict[At, str] = {}  #: riffs as they were typed
        layout = kit.column(self)
        self._build_riff(layout)
        self._build_proposal(layout, commands)
        self.small = Words()
        kit.add_all(layout, (kit.heading("Small notes on the way"), self.small))
        layout.addLayout(
            kit.row(kit.button(commands, "small-all"), kit.button(commands, "small-none", shy=True))
        )
        layout.addStretch(1)

    def _build_riff(self, layout: QVBoxLayout) -> None:
        layout.addWidget(kit.heading("Line over this chord"))
        self.field = EntryField()
        self.field.setMaxLength(MOST_SIGNS)
        self.field.setAccessibleName("Notes of the riff")
        self.field.setPlaceholderText(as_named("E5:1/2 D5:1/2 r:1 C5:2"))
        self.field.setToolTip("Notes with their length in beats, r rests; Return keeps them. A keyboard "
                              "that is heard (Ctrl+K) adds what it plays here")  # fmt: skip
        self.field.kept.connect(self._keep)
        layout.addWidget(self.field)
        row = QHBoxLayout()
        hands = ((f"{hand} hand", hand) for hand in reversed(HANDS))
        self.hand = kit.choice("Hand that plays the line", "", self._show_range, hands)
        lengths = ((words, value) for value, words in _LENGTHS)
        self.length = kit.choice("Length of a played note", choices=lengths)
        row.addWidget(self.hand)
        row.addWidget(self.length, 1)
        layout.addLayout(row)
        self.wrong = kit.label("wrong")
        self.wrong.hide()
        layout.addWidget(self.wrong)
        self.notes = kit.listing("Notes of the riff, in words")
        self.notes.setWordWrap(True)
        self.notes.setMaximumHeight(74)
        layout.addWidget(self.notes)

    def _build_proposal(self, layout: QVBoxLayout, commands: CommandList) -> None:
        layout.addWidget(kit.heading("A line for the section"))
        form = kit.form(layout)
        self.kind, self.density, self.start, self.scale = Choice(), Choice(), Choice(), Choice()
        for box, rows, words in (
            (self.kind, KINDS.items(), "Kind of line"), (self.density, DENSITIES.items(), "Density"),
            (self.start, _STARTS, "Where it begins"), (self.scale, _CHORDS, "Over"),
        ):  # fmt: skip
            box.setAccessibleName(words)
            box.offer((said, value) for value, said in rows)
            form.addRow(words, kit.narrow(box))
        self.scale.setToolTip("One scale for the whole section, or each chord's own")
        self.low, self.high = (
            kit.number(words, (21, 108), f"{words}, as MIDI key number: 60 is C4")
            for words in ("Lowest key", "Highest key")
        )
        bounds = QHBoxLayout()
        for spin in (self.low, self.high):
            spin.valueChanged.connect(lambda _: self._name_range())
            bounds.addWidget(spin, 1)
        self.scale.activated.connect(lambda _: self._say_care())
        self.care = Words()
        form.addRow(self.care)
        form.addRow("Between", bounds)
        tip = "Each number is another line; the same number gives the same one"
        self.seed = kit.number("Number of the line", (1, 999), tip)
        form.addRow("Number", self.seed)
        layout.addLayout(kit.row(kit.button(commands, "line"), kit.button(commands, "line-away", shy=True)))
        self._show_range()

    def _show_range(self) -> None:
        low, high = RANGES[self.chosen_hand]
        self.low.setValue(low)
        self.high.setValue(high)

    def _name_range(self) -> None:
        for spin in (self.low, self.high):
            key = spin.value()
            spin.setSuffix(f" = {pitch_for_key(key).pretty}")

    @property
    def chosen_hand(self) -> Hand:
        """The hand that plays lines."""
        return "left" if self.hand.currentData() == "left" else "right"

    @property
    def wishes(self) -> dict[str, Any]:
        """What is wished of a proposed line."""
        low, high = sorted((self.low.value(), self.high.value()))
        share = self.start.currentData()
        start = None if share is None else round(low + share * (high - low))
        return {
            "kind": self.kind.currentData(), "density": self.density.currentData(), "hand": self.chosen_hand,
            "bounds": (low, max(high, low + 12)), "start": start, "seed": self.seed.value(),
            "scale": self.scale.currentData() or frozenset(),
        }  # fmt: skip

    def add_played(self, key: int) -> None:
        """A key was struck on the keyboard that is heard: it goes into the field."""
        name = as_named(str(pitch_for_key(key, self._state.song.key_here.prefers_flats)))
        self.field.setText(f"{self.field.text()} {name}:{self.length.currentData()}".strip())

    def _keep(self) -> None:
        text = as_letters(self.field.text())
        if self._state.song.slots:
            self._texts[self._state.slot.at] = text
        self.typed.emit(text)

    def _text_of(self, notes: tuple[RiffNote, ...]) -> str:
        """A riff as it was typed, as long as it is that; else as the song's key spells it."""
        state = self._state
        text = self._texts.get(state.slot.at, "") if state.song.slots else ""
        try:
            same = bool(notes) and read_riff_text(text, notes[0].hand) == notes
        except BadInput:
            same = False
        return text if same else riff_text(notes, state.song.key_here.prefers_flats)

    def say(self, words: str) -> None:
        """What is wrong with what was typed; "" for nothing."""
        self.wrong.setText(words)
        self.wrong.setVisible(bool(words))

    def refresh(self) -> None:
        """The riff of the chosen chord."""
        state = self._state
        notes: tuple[RiffNote, ...] = state.riff_notes()
        if not self.field.hasFocus():
            self.field.setText(as_named(self._text_of(notes)))
            self.say("")
        readings = read_riff(state.song, state.index) if notes else []
        kit.fill(self.notes, (reading.words for reading in readings))
        self.notes.setVisible(bool(readings))
        self.small.setText(self._small_words())
        self._show_scales()

    def _show_scales(self) -> None:
        """The scales for the section that the chosen chord is in, each with where to take care."""
        state = self._state
        slots = [] if not state.song.slots else [
            slot.index for slot in state.song.slots
            if (slot.section, slot.round) == (state.slot.section, state.slot.round)
        ]  # fmt: skip
        now = self.scale.currentText()
        self.scale.clear()
        self.scale.addItem(_CHORDS[0][1], _CHORDS[0][0])
        for scale in scales_over(state.song, slots) if slots else ():
            self.scale.addItem(str(scale.scale), scale.scale.pitch_classes)
            self.scale.setItemData(
                self.scale.count() - 1, scale_words(state.song, slots, scale), Qt.ItemDataRole.ToolTipRole
            )
        self.scale.setCurrentIndex(max(0, self.scale.findText(now)))
        self._say_care()

    def _say_care(self) -> None:
        """Over which chords to take care with the chosen scale."""
        words = self.scale.currentData(Qt.ItemDataRole.ToolTipRole)
        self.care.setText(words or "")
        self.care.setVisible(bool(words))

    def _small_words(self) -> str:
        state = self._state
        if not state.song.slots:
            return "Type a chart first."
        count = sum(len(state.song.ask(slot.index).fills) for slot in state.song.slots
                    if (slot.section, slot.round) == (state.slot.section, state.slot.round))  # fmt: skip
        return f"{count} in this section. They fall on counts that the patterns leave free."
