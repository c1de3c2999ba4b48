"""The Hands page: try a stretch on the keyboard, set notes at once, register and key size."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget

from yellow_hinge.ui import kit
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.faces import Face, Faces
from yellow_hinge.ui.page import Page, Part
from yellow_hinge.ui.pages.hands.limits import LimitsPanel
from yellow_hinge.ui.pages.hands.state import CAUTIONS, KEYBOARDS
from yellow_hinge.ui.pages.hands.taste_face import TasteFace
from yellow_hinge.ui.pages.hands.tasting import Tasting
from yellow_hinge.ui.pages.hands.try_keyboard import TryKeyboard
from yellow_hinge.ui.pages.hands.trying import TRIES, Habits, KeptHands, Trying
from yellow_hinge.ui.theme import scaled

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys


FACES = (
    Face("reach", "Reach", "R", "How far the hands reach, how many notes they take, and where"),
    Face("taste", "Taste", "T", "What you like, learnt from your own choices"),
)
_FACES_WIDTH = 260


class HandsPage(Page):
    """The page: keeps no song of its own, only the try that goes on."""

    name = "Hands"
    works_empty = True

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(document, parent)
        self._build()
        self.refresh()

    def make_parts(self) -> Sequence[Part]:
        self.keyboard = TryKeyboard()
        self.trying = Trying(self.document, self.keyboard)
        self.habits, self.kept = Habits(self.document), KeptHands(self.document)
        self.tasting = Tasting(self.document)
        self.faces = Faces(self.document, FACES, "")
        return self.faces, self.trying, self.habits, self.kept, self.tasting

    @property
    def focus(self) -> QWidget:
        return self.taste if self.faces.open.id == "taste" else self.keyboard

    # --- building ---

    def _build(self) -> None:
        around = QVBoxLayout(self)
        around.setContentsMargins(22, 14, 22, 16)
        self.title = kit.label("title", wraps=False)
        faces = self.faces.row(self.commands)
        faces.setMaximumWidth(scaled(_FACES_WIDTH))
        top = kit.row(self.title, faces)
        top.setStretch(0, 1)
        around.addLayout(top)
        self.reach, self.taste = QWidget(), TasteFace(self.tasting, self.commands)
        kit.add_all(around, (self.reach, self.taste))
        layout = kit.column(self.reach, spacing=9)
        layout.addLayout(self._build_sides())
        self.instruction = kit.label()
        self.limits = LimitsPanel()
        self.limits.changed.connect(self.habits.set_limit)
        for widget in (self.instruction, self.keyboard, self.limits):
            layout.addWidget(widget)
        layout.addLayout(self._build_habits())
        layout.addWidget(kit.label("quiet", " ".join(CAUTIONS)))
        layout.addStretch(1)

    def _build_sides(self) -> QHBoxLayout:
        row = kit.row()
        for number, _ in enumerate(TRIES):
            row.addWidget(kit.button(self.commands, f"try-{number}", "" if number else "first"))
        self.octave = kit.choice(
            "Keyboard size", "On narrow keys the same hand reaches farther", self._octave_chosen, KEYBOARDS
        )
        row.addStretch(1)
        kit.add_all(row, (kit.label("quiet", "Keyboard", wraps=False), self.octave))
        return row

    def _build_habits(self) -> QHBoxLayout:
        """Rolling, interlocking, and the hands that are kept."""
        row = QHBoxLayout()
        for habit in ("roll", "interlock"):
            row.addWidget(self.commands.bind(QCheckBox(), habit))
        self.profile_box = kit.choice(
            "Kept hand profiles", "Choose kept hands to take them over, or write a name and keep these",
            self.kept.take_over,
        )  # fmt: skip
        self.profile_box.setEditable(True)
        self.profile_box.setMinimumWidth(170)
        edit = self.profile_box.lineEdit()
        assert edit is not None
        edit.setPlaceholderText("whose hands?")
        row.addStretch(1)
        kit.add_all(row, (kit.label("quiet", "Kept hands", wraps=False), self.profile_box))
        for act in ("keep-hands", "forget-hands"):
            row.addWidget(kit.button(self.commands, act))
        self.kept.written = self.profile_box.currentText
        self.kept.listed.connect(self._list_profiles)
        self.kept.look()
        return row

    def _list_profiles(self, chosen: str) -> None:
        self.profile_box.clear()
        self.profile_box.addItems(sorted(self.kept.profiles))
        self.profile_box.setCurrentText(chosen)

    def _octave_chosen(self) -> None:
        self.habits.set_octave(self.octave.currentData())

    # --- showing ---

    def refresh(self) -> None:
        """Take over the document as it is now."""
        self.show_all()

    def show_all(self) -> None:
        """Everything from the song and the try."""
        profile, tried = self.document.song.hands, self.trying.tried
        self.octave.setCurrentIndex(self.octave.findData(profile.octave_mm))
        self.limits.show_hands(profile)
        self.commands.refresh()
        self.instruction.setText(tried.words(profile.octave_mm))
        self.keyboard.say_chosen(self.instruction.text())
        self.keyboard.show_try(tried)
        tasting = self.faces.open.id == "taste"
        self.title.setText(self.taste.title if tasting else "How far do your hands reach with ease?")
        if tasting == self.taste.isHidden():
            self.reach.setVisible(not tasting)
            self.taste.setVisible(tasting)
            self.focus.setFocus()
        if tasting:
            self.tasting.look()
            self.taste.refresh()

    def close_page(self) -> None:
        self.tasting.worker.close()

    def show_held(self, held: HeldKeys) -> None:
        """What a player holds shows on the keys. It sets no reach: that is done on purpose, by a try."""
        self.keyboard.show_held(held.sounding)
