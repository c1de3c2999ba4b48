"""The side of the workbench for a grip of the player's own: notes typed or clicked, how they read, and
how they are kept."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.errors import BadInput
from yellow_hinge.theory.pitch import as_letters, as_named
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.entry_field import EntryField
from yellow_hinge.ui.pages.hinges.grip_state import GripState
from yellow_hinge.ui.pages.hinges.state import HingesState
from yellow_hinge.ui.pages.hinges.ways_out import WaysOut

#: How a refusal begins.
_NOTHING_KEPT = "Nothing is kept: "
#: What is kept, and where; the first is what one does next.
_KEEP = (("keep-grip", "first"), ("keep-where", "take"), ("keep-shape", "take"))


class GripSide(QWidget):
    """Shows the grip that is being entered for the chosen leaf, or the one in use."""

    typed = Signal(object, tuple)

    def __init__(
        self, document: Document, state: HingesState, grips: GripState, commands: CommandList,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._document, self._state, self._grips = document, state, grips
        layout = kit.column(self)
        layout.addWidget(kit.label("quiet", "Click the keys below, or type: left hand ; right hand"))
        self.field = kit.named(EntryField(), "Notes of my grip, left hand ; right hand")
        self.field.setPlaceholderText(as_named("D3 G3 B3 ; F#4 B4"))
        self.field.setToolTip("Notes with their octaves, or key numbers; a semicolon between the hands")
        self.field.textEdited.connect(self._text_edited)
        self.field.kept.connect(self._return_pressed)
        self._keep = commands["keep-grip"]
        layout.addWidget(self.field)
        self.trouble = kit.label("wrong")
        layout.addWidget(self.trouble)
        layout.addLayout(self._build_hands())
        self.words = kit.label()
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        inner = QWidget()
        inner.setObjectName("bare")
        room = QVBoxLayout(inner)
        room.setContentsMargins(0, 2, 8, 2)
        self.ways = WaysOut()
        self.ways.chosen.connect(lambda keys: self.typed.emit(keys, ()))
        kit.add_all(room, (self.ways, self.words))
        room.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inner)
        scroll.setAccessibleName("What my grip is")
        layout.addWidget(scroll, 1)
        layout.addLayout(self._build_keeping(commands))

    def _build_hands(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        self.hands = QButtonGroup(self)
        for number, side in enumerate(("left", "right")):
            button = QPushButton(f"{side.capitalize()} hand")
            button.setObjectName("face")
            button.setCheckable(True)
            button.setToolTip(f"Keys that are clicked go to the {side} hand (J changes; the right button "
                              "of the mouse gives a key to the other one)")  # fmt: skip
            self.hands.addButton(button, number)
            row.addWidget(button)
        self.hands.idClicked.connect(self._hand_clicked)
        row.addStretch(1)
        return row

    def _build_keeping(self, commands: CommandList) -> QGridLayout:
        grid = QGridLayout()
        grid.setSpacing(4)
        for number, (command, look) in enumerate(_KEEP):
            button = kit.button(commands, command, look)
            grid.addWidget(button, number // 2, number % 2)
            if command == "keep-where":
                self.where_button = button
        self.name = kit.named(EntryField(), "Name of my shape")
        self.name.setPlaceholderText("A name for the shape")
        self.name.setMaxLength(40)
        grid.addWidget(self.name, 2, 0, 1, 2)
        return grid

    def _hand_clicked(self, number: int) -> None:
        self._grips.hand = ("left", "right")[number]
        self.refresh()

    def _return_pressed(self) -> None:
        """Keep what was typed; what cannot be read whole is refused, and stays."""
        if self.trouble.isHidden():
            self._keep.try_run()
        elif not self.trouble.text().startswith(_NOTHING_KEPT):
            self.trouble.setText(f"{_NOTHING_KEPT}{self.trouble.text()}")

    def _text_edited(self, text: str) -> None:
        from yellow_hinge.tasks.grips.own_grip import read_typed  # noqa: PLC0415 - brings NumPy

        try:
            keys, spelled = read_typed(as_letters(text))
        except BadInput as error:
            problem = error.problems[0]
            self.trouble.setText(f"{problem.what}: {problem.remedy}")
            self.trouble.show()
            return
        self.trouble.hide()
        self.typed.emit(keys, spelled)

    def refresh(self) -> None:
        """The chosen leaf as it is now. A text that is being typed stays."""
        song, index = self._document.song, self._state.selection.index
        self.hands.button(self._grips.hand == "right").setChecked(True)
        if not self.field.hasFocus():
            self.field.setText(as_named(self._grips.typed(song, index)))
            self.trouble.hide()
        self.words.setText(self._reading())
        self.ways.show_ways(self._grips.ways(song, index), self._grips.keys(song, index), song.hands)

    def _reading(self) -> str:
        song, index = self._document.song, self._state.selection.index
        if song.slots[index].chord is None:
            return "There is no chord here to grip."
        lines = self._grips.lines(song, index)
        if not lines:
            return (
                "Nothing is held yet. Click a key, or type a note, and see at once what it is called, "
                "how it lies in the hands and how it leads on. Stay within what is easy: a stretch that "
                "aches is not worth it."
            )
        return "".join(_paragraph(heading, words) for heading, words in lines)

    def forget_text(self) -> None:
        """What was typed is kept now, or given up: the field shows the grip again."""
        self.field.clearFocus()
        self.refresh()


def _paragraph(heading: str, words: str) -> str:
    lines = escape(words).replace("\n", "<br>")
    return f"<p style='margin:0 0 5px 0'><b>{escape(heading)}</b><br>{lines}</p>"
