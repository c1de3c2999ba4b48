"""The Hands page: try a stretch on the keyboard, set notes at once, register and key size."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.hands.geometry import is_black
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.hinge import SIDES
from yellow_hinge.song.edits import change_hands
from yellow_hinge.tasks.settings.profiles import drop_profile, keep_profile, load_profiles
from yellow_hinge.ui.access import Choice, Painted
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.hands_page.state import (
    CAUTIONS,
    KEYBOARDS,
    TRY_KEYS,
    Try,
    hand_of,
    hand_words,
    key_words,
    with_hand,
)
from yellow_hinge.ui.keyboard import key_rect, paint_held, paint_keys, paint_mark_words
from yellow_hinge.ui.keyboard_values import KeyMark
from yellow_hinge.ui.page import Page
from yellow_hinge.ui.theme import LIGHT, Theme

_LOWEST_KEY, _HIGHEST_KEY = 21, 108
#: What can be tried: (side, for rolled chords).
TRIES = (("left", False), ("right", False), ("left", True), ("right", True))

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys


class TryKeyboard(Painted):
    """A keyboard to click on; ``played`` carries the key. Arrows and Return play it as well."""

    played = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = LIGHT
        self._try = Try()
        self._cursor = 60
        self._by_keys = False
        self._held: tuple[int, ...] = ()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Keyboard for the guided try")
        self.setToolTip("Click the two ends of the stretch. Left and Right choose a key, Return plays it.")

    def sizeHint(self) -> QSize:
        return QSize(800, 190)

    def show_try(self, tried: Try) -> None:
        self._try = tried
        self.update()

    def show_held(self, keys: tuple[int, ...]) -> None:
        """What a player holds down now."""
        self._held = keys
        self.update()

    def _area(self) -> QRectF:
        return QRectF(self.rect()).adjusted(2, 2, -2, -6)

    def key_at(self, x: float, y: float) -> int | None:
        """The key under a point; black keys lie on top."""
        keys = range(TRY_KEYS[0], TRY_KEYS[1] + 1)
        for key in sorted(keys, key=is_black, reverse=True):
            if key_rect(key, *TRY_KEYS, self._area()).contains(x, y):
                return key
        return None

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        marks = {key: KeyMark(self._try.side, key_words(key)) for key in self._try.keys}
        if self.hasFocus() and self._by_keys and self._cursor not in marks:
            marks[self._cursor] = KeyMark("bass", key_words(self._cursor))
        paint_keys(painter, self._area(), TRY_KEYS, marks, self.theme)
        paint_mark_words(painter, self._area(), TRY_KEYS, marks, self.theme)
        paint_held(painter, self._area(), TRY_KEYS, self._held, self.theme)
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        key = self.key_at(event.position().x(), event.position().y())
        if key is not None:
            self._cursor, self._by_keys = key, False
            self.played.emit(key)

    def move_cursor(self, step: int) -> None:
        """Choose a neighbouring key."""
        self._by_keys = True
        self._cursor = max(TRY_KEYS[0], min(TRY_KEYS[1], self._cursor + step))
        self.update()

    def play_cursor(self) -> None:
        """Play the chosen key."""
        self.played.emit(self._cursor)


class HandsPage(Page):
    """The page: keeps no song of its own, only the try that goes on."""

    name = "Hands"

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.tried = Try()
        self.keyboard = TryKeyboard()
        super().__init__(document, parent)
        self._build()
        self.refresh()

    def make_commands(self) -> Sequence[Command]:
        keyboard = self.keyboard
        return [
            *(
                Command(f"try-{number}", _try_words(side, possible), partial(self.choose_side, number),
                        tip=_try_tip(side, possible), checked=partial(self._is_tried, side, possible))
                for number, (side, possible) in enumerate(TRIES)
            ),
            Command("key-down", "Key to the left", lambda: keyboard.move_cursor(-1), ("Left",),
                    tip="On the keyboard: choose the next key down", enabled=keyboard.hasFocus),
            Command("key-up", "Key to the right", lambda: keyboard.move_cursor(1), ("Right",),
                    tip="On the keyboard: choose the next key up", enabled=keyboard.hasFocus),
            Command("press", "Play the key", keyboard.play_cursor, ("Return",),
                    tip="On the keyboard: the chosen key is an end of the stretch",
                    enabled=keyboard.hasFocus),
            Command("roll", "Roll wide chords with the pedal", partial(self._toggle, "roll"),
                    tip="Chords wider than easy are allowed up to the widest stretch, and marked",
                    checked=lambda: self._hands.roll),
            Command("interlock", "Hands may interlock", partial(self._toggle, "interlock"),
                    tip="A hand may pass through the other's range; the outer notes stay its own",
                    checked=lambda: self._hands.interlock),
            Command("keep-hands", "Keep", self.keep_profile, tip="Keep these hands under the name"),
            Command("forget-hands", "Forget", self.drop_profile,
                    tip="Forget the profile of this name; the song keeps its hands"),
        ]  # fmt: skip

    @property
    def _hands(self) -> HandProfile:
        return self.document.song.hands

    def show_held(self, held: HeldKeys) -> None:
        """What a player holds shows on the keys. It sets no reach: that is done on purpose, by a try."""
        self.keyboard.show_held(held.sounding)

    @property
    def focus(self) -> QWidget:
        return self.keyboard

    def _is_tried(self, side: str, possible: bool) -> bool:
        return (self.tried.side, self.tried.possible) == (side, possible)

    # --- building ---

    def _build(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(22, 16, 22, 16)
        layout.setSpacing(12)
        title = QLabel("How far do your hands reach with ease?")
        title.setObjectName("title")
        layout.addWidget(title)
        layout.addLayout(self._build_sides())
        self.instruction = QLabel()
        self.instruction.setWordWrap(True)
        layout.addWidget(self.instruction)
        self.keyboard.played.connect(self.play)
        layout.addWidget(self.keyboard)
        layout.addWidget(self._build_details())
        layout.addLayout(self._build_habits())
        for words in CAUTIONS:
            caution = QLabel(words)
            caution.setObjectName("quiet")
            caution.setWordWrap(True)
            layout.addWidget(caution)
        layout.addStretch(1)

    def _build_sides(self) -> QHBoxLayout:
        row = QHBoxLayout()
        for number, _ in enumerate(TRIES):
            row.addWidget(self.commands.bind(QPushButton(), f"try-{number}"))
        row.addStretch(1)
        label = QLabel("Keyboard")
        label.setObjectName("quiet")
        self.octave = Choice()
        for words, octave_mm in KEYBOARDS:
            self.octave.addItem(words, octave_mm)
        self.octave.setAccessibleName("Keyboard size")
        self.octave.setToolTip("On narrow keys the same hand reaches farther")
        self.octave.activated.connect(lambda _: self._octave_changed())
        row.addWidget(label)
        row.addWidget(self.octave)
        return row

    def _build_details(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("panel")
        grid = QGridLayout(panel)
        grid.setContentsMargins(16, 12, 16, 12)
        grid.setHorizontalSpacing(14)
        self.summaries: dict[str, QLabel] = {}
        self.spins: dict[tuple[str, str], QSpinBox] = {}
        for row, side in enumerate(SIDES):
            summary = QLabel()
            summary.setObjectName("heading")
            self.summaries[side] = summary
            grid.addWidget(summary, 2 * row, 0, 1, 7)
            for column, (field, words, least, most) in enumerate(
                (
                    ("most_notes", "Most notes at once", 1, 5),
                    ("lowest_key", "Lowest key", _LOWEST_KEY, _HIGHEST_KEY),
                    ("highest_key", "Highest key", _LOWEST_KEY, _HIGHEST_KEY),
                )
            ):
                label = QLabel(words)
                label.setObjectName("quiet")
                spin = KeySpin(least, most) if field.endswith("key") else QSpinBox()
                spin.setRange(least, most)
                spin.setAccessibleName(f"{words}, {side} hand")
                spin.setKeyboardTracking(False)
                spin.valueChanged.connect(self._changer(side, field))
                self.spins[side, field] = spin
                grid.addWidget(label, 2 * row + 1, 2 * column)
                grid.addWidget(spin, 2 * row + 1, 2 * column + 1)
        grid.setColumnStretch(6, 1)
        return panel

    def _build_habits(self) -> QHBoxLayout:
        """Rolling, interlocking, and the profiles that are kept."""
        row = QHBoxLayout()
        for habit in ("roll", "interlock"):
            row.addWidget(self.commands.bind(QCheckBox(), habit))
        self.profile_box = Choice()
        self.profile_box.setEditable(True)
        self.profile_box.setMinimumWidth(170)
        edit = self.profile_box.lineEdit()
        assert edit is not None
        edit.setPlaceholderText("whose hands?")
        self.profile_box.setAccessibleName("Kept hand profiles")
        self.profile_box.setToolTip("Choose kept hands to take them over, or write a name and keep these")
        self.profile_box.activated.connect(lambda _: self.take_profile())
        row.addStretch(1)
        label = QLabel("Kept hands")
        label.setObjectName("quiet")
        row.addWidget(label)
        row.addWidget(self.profile_box)
        for command in ("keep-hands", "forget-hands"):
            row.addWidget(self.commands.bind(QPushButton(), command))
        self._list_profiles()
        return row

    def _list_profiles(self, chosen: str = "") -> None:
        try:
            self._profiles = load_profiles()
        except YellowHingeError as error:
            self._profiles = {}
            self.said.emit(error.problems)
        self.profile_box.clear()
        self.profile_box.addItems(sorted(self._profiles))
        self.profile_box.setCurrentText(chosen)

    def take_profile(self) -> None:
        """Take over the chosen kept hands."""
        name = self.profile_box.currentText()
        if name in self._profiles:
            self._change(self._profiles[name], f"Hands of {name}")

    def keep_profile(self) -> None:
        """Keep the hands under the written name."""
        try:
            name = keep_profile(self.profile_box.currentText(), self._hands)
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return
        self._list_profiles(name)

    def drop_profile(self) -> None:
        """Forget the profile of the written name."""
        try:
            drop_profile(self.profile_box.currentText())
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return
        self._list_profiles()

    def _toggle(self, field: str) -> None:
        hands = self._hands
        if field == "roll":
            self._change(replace(hands, roll=not hands.roll), "Rolled chords")
        else:
            self._change(replace(hands, interlock=not hands.interlock), "Interlocking hands")

    def _changer(self, side: str, field: str) -> Callable[[int], None]:
        return lambda value: self._detail_changed(side, field, value)

    # --- showing ---

    def set_theme(self, theme: Theme) -> None:
        super().set_theme(theme)
        self.keyboard.theme = theme
        self.keyboard.update()

    def refresh(self) -> None:
        """Take over the document as it is now."""
        profile = self._hands
        self.octave.setCurrentIndex(self.octave.findData(profile.octave_mm))
        for side in SIDES:
            hand = hand_of(profile, side)
            self.summaries[side].setText(hand_words(side, hand, profile.roll))
            for field in ("most_notes", "lowest_key", "highest_key"):
                spin = self.spins[side, field]
                spin.blockSignals(True)
                spin.setValue(getattr(hand, field))
                spin.blockSignals(False)
        self.commands.refresh()
        self.instruction.setText(self.tried.words(profile.octave_mm))
        self.keyboard.say_chosen(self.instruction.text())
        self.keyboard.show_try(self.tried)

    # --- acting ---

    def choose_side(self, number: int) -> None:
        """Whose reach the next two keys are."""
        side, possible = TRIES[number]
        self.tried = Try(side, possible=possible)
        self.refresh()

    def play(self, key: int) -> None:
        """A key of the try; with the second one the reach is set."""
        self.tried = self.tried.played(key)
        profile = self.tried.applied(self._hands)
        if profile is not None:
            what = "Widest stretch" if self.tried.possible else "Reach"
            self._change(profile, f"{what} of the {self.tried.side} hand")
        self.refresh()

    def _octave_changed(self) -> None:
        profile = self._hands
        self._change(replace(profile, octave_mm=self.octave.currentData()), "Keyboard size")

    def _detail_changed(self, side: str, field: str, value: int) -> None:
        profile = self._hands
        hand = replace(hand_of(profile, side), **{field: value})
        if hand.lowest_key >= hand.highest_key:
            self.refresh()  # a register that holds no key is not taken
            return
        self._change(with_hand(profile, side, hand), f"Limits of the {side} hand")

    def _change(self, hands: HandProfile, label: str) -> None:
        self.document.apply(change_hands(self.document.song, hands, label))


def _try_words(side: str, possible: bool) -> str:
    return f"{side.capitalize()}, rolled" if possible else f"Try the {side} hand"


def _try_tip(side: str, possible: bool) -> str:
    kind = "widest stretch for rolled chords" if possible else "reach"
    return f"The next two keys are the {side} hand's {kind}"


class KeySpin(QSpinBox):
    """A spin box that shows MIDI keys by name."""

    def __init__(self, least: int, most: int) -> None:
        super().__init__()
        self.setRange(least, most)
        self.lineEdit().setReadOnly(True)

    def textFromValue(self, value: int) -> str:
        return key_words(value)
