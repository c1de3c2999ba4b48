"""The wishes panel: taste for a chord, a section or the song, and what is fixed of a chord."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.motion.weights import CONCERNS, LEVELS
from yellow_hinge.song.model import Taste
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.hinges_page.state import HingesState
from yellow_hinge.ui.hinges_page.wishes_state import (
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
    taste_at,
    unsaid,
    with_fixed,
)


class WishesView(QWidget):
    """Follows the chosen leaf; every change is an edit that can be undone."""

    def __init__(self, document: Document, state: HingesState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document, self._state = document, state
        self.scope = SCOPES[0]
        self._build()

    # --- building ---

    def _build(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        scopes = QHBoxLayout()
        scopes.setSpacing(4)
        self.scopes = QButtonGroup(self)
        for number, scope in enumerate(SCOPES):
            button = QPushButton(f"This {scope}")
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
        rows.addLayout(self._build_tastes())
        self.fixes = self._build_fixes()
        self.concerns = self._build_concerns()
        rows.addWidget(self.fixes)
        rows.addWidget(self.concerns)
        rows.addStretch(1)
        scroll = QScrollArea()
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
                ("held_top", "Top note", "Held: it stays wherever the chords allow"),
                ("hands", "Hands", "Which hands play: one alone leaves the other free for a line"),
                ("inverted", "Lowest note", "Inverted chords stand on their third, fifth or seventh"),
                ("pedal", "Pedal bass", "One bass note under all chords of the section"),
            )
        ):
            label, box = QLabel(words), QComboBox()
            label.setObjectName("quiet")
            box.setAccessibleName(words)
            box.setToolTip(tip)
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
        heading = QLabel("Keep of this voicing")
        heading.setObjectName("heading")
        heading.setToolTip("What is ticked stays; the rest of the chord and the song is solved around it.")
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
        heading = QLabel("How much each thing matters")
        heading.setObjectName("heading")
        grid.addWidget(heading, 0, 0, 1, 2)
        self.levels: dict[str, QComboBox] = {}
        for row, concern in enumerate(CONCERNS, 1):
            label, box = QLabel(concern.words), QComboBox()
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
        section = song.slots[index].section
        self.scopes.button(1).setEnabled(bool(section))
        words = unsaid(self.scope)
        taste = taste_at(song, index, self.scope)
        offered = {
            "school": schools(self._document.library, words),
            "colour": colours(words),
            "melody": melodies(words),
            "held_top": Choices(((None, words), (True, "held"), (False, "free"))),
            "hands": hands(None if self.scope == "song" else words),
            "inverted": basses(None if self.scope == "song" else words),
            "pedal": pedals(song),
        }
        for field, choices in offered.items():
            rows = choices.rows[1:] if field == "school" and self.scope == "song" else choices.rows
            box, value = self.boxes[field], getattr(taste, field)
            box.clear()
            for own, said in rows:
                box.addItem(said, own)
            box.setCurrentIndex(Choices(rows).place(value))
            shown = {"held_top": self.scope != "song", "pedal": self.scope == "section"}.get(field, True)
            box.setVisible(shown)
            self.labels[field].setVisible(shown)
        self.fixes.setVisible(self.scope == "chord")
        self.concerns.setVisible(self.scope == "song")
        holds = song.ask(index).hold.names
        for field, said in FIXABLE:
            note = fixed_words(song, index, field, self._document.library)
            self.ticks[field].setText(f"{said}: {note}" if note else said)
            self.ticks[field].setChecked(field in holds)
            self.ticks[field].setEnabled(bool(note))
        self.register_tick.setText("register as it is: nothing lower or higher")
        self.register_tick.setChecked("lowest" in holds)
        levels = dict(song.settings.levels)
        for name, box in self.levels.items():
            box.setCurrentIndex(box.findData(levels.get(name, 0)))

    # --- acting ---

    def _taste_chosen(self, field: str) -> None:
        song, index = self._document.song, self._state.selection.index
        value = self.boxes[field].currentData()
        if self.scope == "song":
            self._document.change_settings(replace(song.settings, **{field: value}), f"Song's {field}")
            return
        taste: Taste = replace(taste_at(song, index, self.scope), **{field: value})
        if self.scope == "section":
            self._document.section_taste(song.slots[index].section, taste)
        else:
            self._document.ask(index, replace(song.ask(index), taste=taste))

    def _level_chosen(self, name: str) -> None:
        settings = self._document.song.settings
        levels = dict(settings.levels)
        levels[name] = self.levels[name].currentData()
        kept = tuple(sorted((key, level) for key, level in levels.items() if level))
        self._document.change_settings(replace(settings, levels=kept), "How much it matters")

    def _fix(self, field: str, on: bool) -> None:
        song, index = self._document.song, self._state.selection.index
        self._document.ask(index, with_fixed(song, index, field, on))

    def _fix_register(self, on: bool) -> None:
        song, index = self._document.song, self._state.selection.index
        voicing, ask = song.voicing(index), song.ask(index)
        ends = (voicing.keys[0], voicing.keys[-1]) if on and voicing and voicing.keys else (None, None)
        hold = replace(ask.hold, lowest=ends[0], highest=ends[1])
        self._document.ask(index, replace(ask, hold=hold))
