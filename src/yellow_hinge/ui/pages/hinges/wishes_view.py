"""The wishes panel: taste for a chord, a section or the song, and what is fixed of a chord."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.motion.weights import CONCERNS, LEVELS
from yellow_hinge.song.arrangement import Taste
from yellow_hinge.song.edits import Edit, settle, vary_round, wish_for_chord, wish_for_section
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.swaps.held_through import as_it_is
from yellow_hinge.ui import kit
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.pages.hinges.rules_panel import RulesPanel
from yellow_hinge.ui.pages.hinges.state import HingesState
from yellow_hinge.ui.pages.hinges.wishes_state import (
    FIXABLE,
    SCOPES,
    Choices,
    basses,
    colours,
    fixed_words,
    hands,
    melodies,
    pedals,
    schools,
    styles,
    takes_for_round,
    taste_at,
    top_line_fields,
    top_line_of,
    top_lines,
    unsaid,
    with_fixed,
    with_register,
)
from yellow_hinge.ui.quiet import QuietScroll
from yellow_hinge.ui.words import Label

#: Room for the words of a tick, in pixels: the panel has a fixed width.
_TICK_WIDTH = 232


class WishesView(QWidget):
    """Follows the chosen leaf; every change is an edit that can be undone."""

    def __init__(self, document: Document, state: HingesState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.rules = RulesPanel(document, state)
        self._document, self._state = document, state
        self.scope = SCOPES[0]
        self._build()

    # --- building ---

    def _build(self) -> None:
        layout = kit.column(self)
        scopes = QHBoxLayout()
        scopes.setSpacing(4)
        self.scopes = QButtonGroup(self)
        for number, scope in enumerate(SCOPES):
            button = QPushButton(f"This {scope}")
            button.setObjectName("face")
            button.setCheckable(True)
            button.setChecked(number == 0)
            button.setToolTip(f"Wishes for this {scope}; narrower ones go before wider ones")
            self.scopes.addButton(button, number)
            scopes.addWidget(button)
        self.scopes.idClicked.connect(self.choose_scope)
        layout.addLayout(scopes)
        inner = QWidget()
        inner.setObjectName("bare")
        rows = QVBoxLayout(inner)
        rows.setContentsMargins(0, 4, 8, 4)
        rows.addWidget(self.rules)
        rows.addWidget(kit.heading("Wishes"))
        rows.addLayout(self._build_tastes())
        self.fixes = self._build_fixes()
        self.concerns = self._build_concerns()
        kit.add_all(rows, (self.fixes, self.concerns))
        rows.addStretch(1)
        scroll = QuietScroll()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inner)
        layout.addWidget(scroll, 1)

    def _build_tastes(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        self.boxes: dict[str, QComboBox] = {}
        self.labels: dict[str, QLabel] = {}
        for row, (field, words, tip) in enumerate(
            (
                ("school", "School", "Which shapes the hands take, and what weighs"),
                ("colour", "Colour", "How far past the symbol a voicing may go"),
                ("melody", "Melody", "What the hands do about the melody"),
                (
                    "top_line",
                    "Top line",
                    "It stays where it can, goes as it comes, sings, or is held wherever the chords allow",
                ),
                ("hands", "Hands", "Which hands play: one alone leaves the other free for a line"),
                ("inverted", "Lowest note", "Inverted chords stand on their third, fifth or seventh"),
                ("style", "Swaps", "Which swaps are near on the Swaps page: a style of reharmonisation"),
                ("pedal", "Pedal bass", "One bass note under all chords of the section"),
                ("round", "This round", "Which take sounds in this round of the section"),
            )
        ):
            label, box = Label(words), Choice()
            label.setObjectName("quiet")
            kit.named(box, words, tip)
            box.setMinimumWidth(120)
            box.activated.connect(lambda _, field=field: self._taste_chosen(field))
            grid.addWidget(label, row, 0)
            grid.addWidget(box, row, 1)
            self.boxes[field], self.labels[field] = box, label
        return grid

    def _build_fixes(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("bare")
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(0, 8, 0, 0)
        heading = kit.heading(
            "Keep of this voicing",
            "What is ticked stays; the rest of the chord and the song is solved around it.",
        )
        layout.addWidget(heading)
        self.ticks: dict[str, QCheckBox] = {}
        for field, _ in FIXABLE:
            tick = QCheckBox()
            tick.clicked.connect(lambda on, field=field: self._fix(field, on))
            layout.addWidget(tick)
            self.ticks[field] = tick
        self.register_tick = QCheckBox()
        self.register_tick.clicked.connect(self._fix_register)
        layout.addWidget(self.register_tick)
        return panel

    def _build_concerns(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("bare")
        grid = QGridLayout(panel)
        grid.setContentsMargins(0, 8, 0, 0)
        heading = kit.heading("How much each thing matters")
        grid.addWidget(heading, 0, 0, 1, 2)
        self.levels: dict[str, QComboBox] = {}
        for row, concern in enumerate(CONCERNS, 1):
            label, box = Label(concern.words), Choice()
            label.setObjectName("quiet")
            label.setWordWrap(True)
            for level, (words, _) in LEVELS.items():
                box.addItem(words, level)
            box.setMinimumWidth(130)
            box.setAccessibleName(concern.words)
            box.activated.connect(lambda _, name=concern.id: self._level_chosen(name))
            grid.addWidget(label, row, 0)
            grid.addWidget(box, row, 1)
            self.levels[concern.id] = box
        grid.setColumnStretch(0, 1)
        return panel

    # --- showing ---

    def choose_scope(self, number: int) -> None:
        """Whose wishes are shown and changed."""
        self.scope = SCOPES[number]
        self.scopes.button(number).setChecked(True)
        self.refresh()

    def refresh(self) -> None:
        """Everything from the song and the chosen leaf."""
        song, index = self._document.song, self._state.selection.index
        if not song.slots or index >= len(song.slots):
            return
        self.scopes.button(1).setEnabled(bool(song.slots[index].section))
        self.rules.refresh(self.scope)
        taste = taste_at(song, index, self.scope)
        for field, choices in self._offered(song).items():
            rows = choices.rows[1:] if field == "school" and self.scope == "song" else choices.rows
            value = top_line_of(taste) if field == "top_line" else getattr(taste, field, None)
            self._fill(field, Choices(rows), value)
        self.fixes.setVisible(self.scope == "chord")
        self.concerns.setVisible(self.scope == "song")
        self._show_fixes(song, index)
        levels = dict(song.arrangement.levels)
        for name, box in self.levels.items():
            box.setCurrentIndex(box.findData(levels.get(name, 0)))

    def _offered(self, song: Song) -> dict[str, Choices]:
        """What may be chosen in each row, in the scope that is shown."""
        words = unsaid(self.scope)
        whole = None if self.scope == "song" else words
        return {
            "school": schools(self._document.library, words),
            "colour": colours(words),
            "melody": melodies(words),
            "top_line": top_lines(words, self.scope),
            "hands": hands(whole),
            "inverted": basses(whole),
            "pedal": pedals(song),
            "style": styles(words),
            "round": takes_for_round(song),
        }

    def _fill(self, field: str, choices: Choices, value: object) -> None:
        box = self.boxes[field]
        if field == "round":
            slot = self._document.song.slots[self._state.selection.index]
            value = self._document.song.route.get((slot.section, slot.round))
        box.clear()
        for own, said in choices.rows:
            box.addItem(said, own)
        box.setCurrentIndex(choices.place(value))
        shown = {
            "pedal": self.scope == "section",
            "style": self.scope != "chord",
            "round": self.scope == "section" and len(choices.rows) > 1,
        }.get(field, True)
        box.setVisible(shown)
        self.labels[field].setVisible(shown)

    def _show_fixes(self, song: Song, index: int) -> None:
        holds = song.ask(index).hold.names
        for field, said in FIXABLE:
            note = fixed_words(song, index, field, self._document.library)
            self._say(self.ticks[field], f"{said}: {note}" if note else said)
            self.ticks[field].setChecked(field in holds)
            self.ticks[field].setEnabled(bool(note))
        self._say(self.register_tick, "register: nothing lower or higher")
        self.register_tick.setChecked("lowest" in holds)

    @staticmethod
    def _say(tick: QCheckBox, words: str) -> None:
        """As much of the words as there is room for; all of them in the tooltip."""
        tick.setText(tick.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, _TICK_WIDTH))
        tick.setToolTip(words)

    # --- acting ---

    def _taste_chosen(self, field: str) -> None:
        song, index = self._document.song, self._state.selection.index
        self._document.apply(self._edit(song, index, field, self.boxes[field].currentData()))

    def _edit(self, song: Song, index: int, field: str, value: Any) -> Edit:
        """The wish as an edit of the chord, its section, its round or the whole take."""
        slot = song.slots[index]
        if field == "round":
            return vary_round(song, slot.section, slot.round, value)
        changes = top_line_fields(song, index, self.scope, value) if field == "top_line" else {field: value}
        if self.scope == "song":
            return settle(song, **{name: one for name, one in changes.items() if name != "held_top"})
        own = taste_at(song, index, self.scope)
        taste: Taste = replace(own, **changes, off=own.off - changes.keys())
        if self.scope == "section":
            return wish_for_section(song, slot.section, taste)
        return wish_for_chord(song, index, replace(song.ask(index), taste=taste))

    def _level_chosen(self, name: str) -> None:
        song = self._document.song
        levels = {**dict(song.arrangement.levels), name: self.levels[name].currentData()}
        kept = tuple(sorted((key, level) for key, level in levels.items() if level))
        self._document.apply(settle(song, levels=kept))

    def _fix(self, field: str, on: bool) -> None:
        song, index = self._document.song, self._state.selection.index
        ask = with_fixed(song, index, field, on)
        edit = as_it_is(song, index, ask, self._document.library) if on else wish_for_chord(song, index, ask)
        self._document.apply(edit)

    def _fix_register(self, on: bool) -> None:
        song, index = self._document.song, self._state.selection.index
        self._document.apply(wish_for_chord(song, index, with_register(song, index, on)))
