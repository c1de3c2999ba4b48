"""The left side of the Practise page: today's blocks, drills of one's own, the map, weeks, and settings."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime

import msgspec
from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter
from PySide6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QListWidget,
    QSpinBox,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from yellow_hinge.practice.history import weeks
from yellow_hinge.tasks.practice.desk import CAUTION
from yellow_hinge.tasks.settings.practice_settings import BOUNDS, Settings
from yellow_hinge.theory.pitch import pitch_for_key
from yellow_hinge.theory.pretty import counted
from yellow_hinge.ui import kit
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.pages.practise.map_state import sureness, weakest
from yellow_hinge.ui.pages.practise.pictures import MapView, WeeksView
from yellow_hinge.ui.pages.practise.riddle_state import KINDS
from yellow_hinge.ui.pages.practise.state import PractiseState
from yellow_hinge.ui.theme import cut, font
from yellow_hinge.ui.words import Words

#: The keys that can stand for "again" and "next": the lowest and the highest octave and a half.
_LOW_KEYS, _HIGH_KEYS = range(21, 40), range(84, 109)


class _TwoLines(QStyledItemDelegate):
    """The first line of an entry is what it is, the rest what is said of it."""

    def _parts(self, index: QModelIndex | QPersistentModelIndex) -> tuple[str, str]:
        first, _, rest = str(index.data() or "").partition("\n")
        return first, rest

    def _heights(self, width: int, index: QModelIndex | QPersistentModelIndex) -> tuple[int, int]:
        heights = []
        for words, bold in zip(self._parts(index), (True, False), strict=True):
            box = QFontMetrics(font(0.95, bold)).boundingRect(QRect(0, 0, width, 10_000), _WRAPPED, words)
            heights.append(box.height() if words else 0)
        return heights[0], heights[1]

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        view = option.widget
        width = (view.viewport().width() if isinstance(view, QListWidget) else 240) - 20
        return QSize(width, sum(self._heights(width, index)) + 12)

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        rect, state = option.rect, option.state
        chosen = bool(state & QStyle.StateFlag.State_Selected)
        palette = option.palette
        painter.save()
        if chosen:
            painter.fillRect(rect, palette.highlight())
        inner = rect.adjusted(8, 5, -8, -5)
        high, _ = self._heights(inner.width() - 4, index)
        first, rest = self._parts(index)
        painter.setPen(palette.highlightedText().color() if chosen else palette.text().color())
        painter.setFont(font(0.95, bold=True))
        painter.drawText(inner, _WRAPPED, _no_longer(painter, first, inner.width()))
        painter.setFont(font(0.95))
        if not chosen:
            painter.setPen(palette.dark().color())  # muted, in every theme
        painter.drawText(
            inner.adjusted(0, high + 1, 0, 0), _WRAPPED, _no_longer(painter, rest, inner.width())
        )
        painter.restore()


def _no_longer(painter: QPainter, words: str, width: int) -> str:
    """With every word cut that is longer than a line."""
    return " ".join(cut(painter, word, width) for word in words.split(" "))


_WRAPPED = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)


def _list(name: str, activated: Callable[[int], object] | None = None) -> QListWidget:
    made = kit.listing(name, activated)
    made.setWordWrap(True)
    made.setItemDelegate(_TwoLines(made))
    made.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return made


class TodaySide(QWidget):
    """The blocks of the plan, each with its reason."""

    chosen = Signal(int)
    minutes_set = Signal(float)
    days_set = Signal(int)

    def __init__(self, state: PractiseState, commands: CommandList, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._state = state
        layout = kit.column(self)
        row = QHBoxLayout()
        tip = "How long you want to practise today; more than a quarter of an hour has breaks"
        self.minutes = kit.number("Minutes today", (3, 120), tip, " minutes")
        self.minutes.editingFinished.connect(lambda: self.minutes_set.emit(float(self.minutes.value())))
        tip = "Today alone, or further days too: a guess, as if each went as expected"
        self.days = kit.number("Days ahead", (1, 14), tip, " day")
        self.days.valueChanged.connect(lambda days: self.days.setSuffix(" day" if days == 1 else " days"))
        self.days.editingFinished.connect(lambda: self.days_set.emit(self.days.value()))
        row.addWidget(self.minutes, 3)
        row.addWidget(self.days, 2)
        layout.addLayout(row)
        self.words = Words()
        kit.add_all(layout, (kit.button(commands, "plan"), self.words))
        self.list = _list("Blocks of today", self.chosen.emit)
        layout.addWidget(self.list, 1)
        layout.addWidget(Words(CAUTION))

    def show_all(self) -> None:
        """Everything from the state."""
        state = self._state
        if not self.minutes.hasFocus():
            self.minutes.setValue(round(state.settings.minutes))
        if not self.days.hasFocus():
            self.days.setValue(state.settings.days)
        nothing = "" if state.desk is None else "Nothing is planned: there are no changes yet."
        self.words.setText(state.plan_words if state.blocks else nothing)
        rows = ["\n".join(state.block_words(place)) for place in range(len(state.blocks))]
        kit.fill(self.list, [*rows, *state.ahead], state.block if state.own is None else -1)


class DrillsSide(QWidget):
    """Drills around the chosen change, keys, riddles, and the shelf."""

    drill_chosen = Signal(int)
    riddle_chosen = Signal(str)
    keys_chosen = Signal(int)

    def __init__(self, state: PractiseState, commands: CommandList, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._state = state
        layout = kit.column(self)
        self.words = Words()
        layout.addWidget(self.words)
        self.list = _list("Drills and riddles", self._activated)
        layout.addWidget(self.list, 2)
        tip = "Plans and practice sheets run over all of them; the open song comes first"
        layout.addWidget(kit.heading("Songs of the evening", tip))
        self.alone = Words("The open song alone. Add the others, and plans run over all of them.")
        layout.addWidget(self.alone)
        self.shelf = _list("Songs of the evening")
        layout.addWidget(self.shelf, 1)
        acts = ("shelf-up", "shelf-down", "shelf-away", "shelf-print")
        self.shelf_menu = kit.menu_on(self.shelf, commands, *acts)
        self.shelf.setToolTip("The right button of the mouse moves a song, takes it away, saves the sheets")
        layout.addWidget(kit.button(commands, "shelf-add"))

    def show_all(self, songs: Sequence[str]) -> None:
        """Everything from the state."""
        state = self._state
        drills = [words for words, _ in state.drills()]
        keys = [f"In all keys, {words}" for words in KEY_WORDS] if drills else []
        riddles = [words for _, words, _ in KINDS] if drills else []
        kit.fill(self.list, [*drills, *keys, *riddles], self.list.currentRow())
        change = state.chosen_change
        around = "" if change is None else f"Around {change.words} (another one on the map, M):"
        self.words.setText(around if drills else "No changes yet.")
        self.alone.setVisible(not songs)
        kit.fill(self.shelf, list(songs), max(0, self.shelf.currentRow()))

    def _activated(self, row: int) -> None:
        drills = len(self._state.drills())
        if row < drills:
            self.drill_chosen.emit(row)
        elif row < drills + len(KEY_WORDS):
            self.keys_chosen.emit(row - drills)
        else:
            self.riddle_chosen.emit(KINDS[row - drills - len(KEY_WORDS)][0])


KEY_WORDS = ("in fourths", "in fifths", "in half steps", "shuffled")


class MapSide(QWidget):
    """The map of the song's changes by how sure they are, and the weakest in words."""

    chosen = Signal(int)

    def __init__(self, state: PractiseState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._state = state
        layout = kit.column(self)
        self.map = MapView()
        self.map.chosen.connect(self.chosen)
        layout.addWidget(self.map, 1)
        self.words = Words()
        layout.addWidget(self.words)
        layout.addWidget(kit.heading("The weakest"))
        self._stands: list[int] = []
        self.list = _list("The weakest changes", lambda row: self.chosen.emit(self._stands[row]))
        layout.addWidget(self.list, 2)

    def show_all(self) -> None:
        """Everything from the state."""
        state, desk = self._state, self._state.desk
        there = desk is not None and state.ready
        bars = sureness(desk.shelf) if desk is not None and there else []
        sections = []
        if state.ready:
            piece = state.first
            sections = [(first, piece.stands[first].section) for first, _ in piece.sections]
        self.map.show_map(bars, state.chosen, sections)
        here = bars[state.chosen] if state.chosen < len(bars) else None
        tried = (
            "" if here is None else f", {counted(here[1], 'try', 'tries')}" if here[1] else ", not tried yet"
        )
        self.words.setText("" if here is None or here[0] < 0 else f"{here[2]}: {here[0]:.0%} sure{tried}")
        rows = weakest(desk.shelf) if desk is not None and there else []
        self._stands = [stand for stand, _ in rows]
        kit.fill(self.list, (words for _, words in rows))


class WeeksSide(QWidget):
    """Progress over weeks; taking the log along, and deleting it."""

    def __init__(self, state: PractiseState, commands: CommandList, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._state = state
        layout = kit.column(self)
        self.words, self.passage_words = Words(), Words()
        self.weeks, self.passage = WeeksView("All of it", minutes=True), WeeksView("The chosen change")
        for words, view in ((self.words, self.weeks), (self.passage_words, self.passage)):
            layout.addWidget(words)
            layout.addWidget(view, 1)
        layout.addStretch(0)
        for one in ("export-log", "forget-song"):
            layout.addWidget(kit.button(commands, one))

    def show_all(self) -> None:
        """All tries, and those of the chosen change."""
        desk, change, today = self._state.desk, self._state.chosen_change, datetime.now().astimezone()
        every = () if desk is None else desk.tries
        rows = [] if desk is None else weeks(desk.sessions, every, today)
        self.weeks.show_weeks(rows)
        minutes = sum(week.minutes for week in rows)
        nothing = "Nothing has been practised yet: what you play is kept here."
        words = f"{counted(len(every), 'try', 'tries')} in {minutes:.0f} minutes."
        self.words.setText(words if every else nothing)
        here = [] if change is None else [attempt for attempt in every if attempt.change in change.ids]
        self.passage.show_weeks(weeks((), here, today))
        self.passage_words.setText(
            "" if change is None else f"{change.words}: {counted(len(here), 'try', 'tries')}."
        )
        self.weeks.setVisible(bool(every))
        self.passage.setVisible(bool(here))


class SetSide(QWidget):
    """Tolerances, the ladder, latency, keys that act."""

    changed = Signal(object)

    def __init__(self, commands: CommandList, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._shown = Settings()
        layout = kit.column(self)
        form = kit.form(layout)
        self.spins: dict[str, QSpinBox] = {}
        for name, words, bounds, suffix, tip in _NUMBERS:
            spin = self.spins[name] = kit.number(words, bounds, tip, suffix)
            spin.editingFinished.connect(self._edited)
            form.addRow(words, spin)
        self.ends: dict[str, Choice] = {}
        tip = "A key at the end of the keyboard that does this, for busy hands"
        for name, words, keys in (
            ("again_key", "Key for again", _LOW_KEYS),
            ("next_key", "Key for next", _HIGH_KEYS),
        ):
            named = ((pitch_for_key(key, flats=True).pretty, key) for key in keys)
            box = self.ends[name] = kit.choice(words, tip, self._edited, [("none", None), *named])
            form.addRow(words, box)
        self.checks: dict[str, QCheckBox] = {}
        for name, words, tip in _CHECKS:
            self.checks[name] = kit.tick(words, lambda _: self._edited(), tip)
            layout.addWidget(self.checks[name])
        self.latency = Words()
        kit.add_all(layout, (kit.button(commands, "latency"), self.latency))
        layout.addStretch(1)

    def show_settings(self, settings: Settings) -> None:
        self._shown = settings
        for name, spin in self.spins.items():
            if not spin.hasFocus():
                spin.setValue(getattr(settings, name))
        for name, box in self.ends.items():
            box.choose(getattr(settings, name))
        for name, check in self.checks.items():
            check.setChecked(getattr(settings, name))
        measured = settings.latency_ms
        self.latency.setText(
            "Latency: not measured yet. Play any key with each click, and what the device needs is taken off."
            if measured is None
            else f"Latency: {measured} ms are taken off."
        )

    def _edited(self) -> None:
        values: dict[str, object] = {name: spin.value() for name, spin in self.spins.items()}
        values |= {name: box.currentData() for name, box in self.ends.items()}
        values |= {name: check.isChecked() for name, check in self.checks.items()}
        new = msgspec.structs.replace(self._shown, **values)
        if new != self._shown:
            self.changed.emit(new)


_NUMBERS = tuple(
    (name, words, BOUNDS[name], suffix, tip)
    for name, words, suffix, tip in (
        ("early_ms", "Early up to", " ms", "Strokes that come more than this before their count are early"),
        ("late_ms", "Late up to", " ms", "Strokes that come more than this after their count are late"),
        ("roll_ms", "Rolled up to", " ms", "The notes of one stroke may come so far apart"),
        ("step", "Step of the ladder", " %", "How much faster after clean rounds, and slower after slips"),
        ("clean_rounds", "Faster after", " clean", "Clean rounds in a row before the tempo rises"),
        ("slips", "Slower after", " with slips", "Rounds with slips in a row before the tempo falls"),
    )
)
_CHECKS = (
    (
        "apart_first",
        "Hands apart first",
        "Weak changes begin with each hand alone; else together from the start",
    ),
    ("click", "Click", "A click on every count while you play with the click"),
    ("bass", "Bass", "The program plays the bass of each chord"),
)
