"""On top of the Song page: school and key in boxes, bass, colour and the reach of the hands as drawings."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout

from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.edits import change_hands, settle
from yellow_hinge.tasks.keys.moved import to_key
from yellow_hinge.theory.keys import ALL_KEYS
from yellow_hinge.ui import kit
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.drawn_choice import DrawnChoice
from yellow_hinge.ui.pages.song.drawings import ReachChoice, draw_bass, draw_colour
from yellow_hinge.ui.pages.song.state import (
    CAUTION,
    COLOUR_HELP,
    COLOUR_WORDS,
    REACHES,
    REGISTERS,
    reach_label,
    school_label,
)
from yellow_hinge.ui.quiet import Ground

_COLOURS = "Colour: how far past the symbols a voicing may go\n" + "\n".join(
    f"{word}: {what}" for word, what in zip(COLOUR_WORDS, COLOUR_HELP, strict=True)
)
Decision = Choice | DrawnChoice
_BASSES = (("By school", None), ("My left hand", "self"), ("The bassist", "bassist"))


class Decisions(Ground):
    """What shows the song's decisions, and changes them. Text that is still typed is read before;
    ``readable`` says whether it can be, and tells the player where not."""

    readable: Callable[[str], bool]

    def __init__(self, document: Document) -> None:
        super().__init__("panel")
        self._document = document
        library = document.library
        self.school = _box(
            [(school_label(school), school.id) for school in library.schools.values()],
            "School: which shapes each hand may take", self._settle,
        )  # fmt: skip
        for place, school in enumerate(library.schools.values()):
            self.school.setItemData(place, school.about, Qt.ItemDataRole.ToolTipRole)
        colours = [("By school", None), *((word, colour) for colour, word in enumerate(COLOUR_WORDS))]
        self.colour = DrawnChoice("Colour", draw_colour, _COLOURS, 26, above=True)
        self.bass = DrawnChoice("Bass", draw_bass, "Who plays the bass", 40, above=True)
        self.left_reach, self.right_reach = (
            ReachChoice(
                f"{side.title()} hand", f"Widest easy interval of the {side} hand, on white keys", side
            )
            for side in ("left", "right")
        )
        reaches = [(reach_label(reach), reach) for reach in REACHES]
        for drawn, choices, taken in (
            (self.colour, colours, self._settle), (self.bass, _BASSES, self._settle),
            (self.left_reach, reaches, self._reach_chosen), (self.right_reach, reaches, self._reach_chosen),
        ):  # fmt: skip
            drawn.offer(choices)
            drawn.activated.connect(partial(_told, taken, drawn))
        self.key = _box(
            [(key.pretty, str(key)) for key in ALL_KEYS],
            "Key: choosing another one moves the whole chart, and what you decided on it", self._key_chosen,
        )  # fmt: skip
        self.register = _box(
            REGISTERS,
            "What your own grips and kept notes do when the key changes: the nearer way up or down, or "
            "always upwards with the key",
            lambda _: None,
        )
        self._lay_out()

    def _lay_out(self) -> None:
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 10, 16, 10)
        grid.setHorizontalSpacing(18)
        self._register_name = kit.label("quiet", "Own grips", wraps=False)
        for place, (name, box) in enumerate(
            (
                (kit.label("quiet", "School", wraps=False), self.school),
                (kit.label("quiet", "Key", wraps=False), self.key), (self._register_name, self.register),
            )
        ):  # fmt: skip
            name.setBuddy(box)
            box.setAccessibleName(name.text())
            grid.addWidget(name, 0, place)
            grid.addWidget(box, 1, place)
        for place, drawn in enumerate((self.bass, self.colour, self.left_reach, self.right_reach), 3):
            grid.addWidget(drawn, 0, place, 2, 1)
            grid.setColumnStretch(place, 2)
        grid.addWidget(kit.label("quiet", CAUTION), 2, 0, 1, 7)

    def refresh(self) -> None:
        """The song as it is now."""
        song = self._document.song
        wishes, hands = song.arrangement, song.hands
        for box, value in (
            (self.school, wishes.school), (self.colour, wishes.colour), (self.bass, wishes.bass),
            (self.key, str(song.key)), (self.left_reach, hands.left.reach),
            (self.right_reach, hands.right.reach),
        ):  # fmt: skip
            box.choose(value)
        for widget in (self.register, self._register_name):  # they say something where there are any
            widget.setVisible(any(_has_own_notes(take.arrangement) for take in song.takes))

    def _settle(self, box: Decision) -> None:
        fields = {self.school: "school", self.colour: "colour", self.bass: "bass"}
        value = box.currentData()  # before reading shows the boxes anew
        self._document.read_draft()
        self._document.apply(settle(self._document.song, **{fields[box]: value}))

    def _key_chosen(self, _: Decision) -> None:
        key = next(key for key in ALL_KEYS if str(key) == self.key.currentData())
        if not self.readable("then it can move to another key"):
            self.key.choose(str(self._document.song.key))
            return
        song = self._document.song
        if key != song.key:
            self._document.apply(to_key(song, key, self.register.currentData()))

    def _reach_chosen(self, _: Decision) -> None:
        reaches = self.left_reach.currentData(), self.right_reach.currentData()
        self._document.read_draft()
        hands = self._document.song.hands
        self._document.apply(change_hands(self._document.song, hands.with_reach(*reaches), "Change reach"))


def _has_own_notes(arrangement: Arrangement) -> bool:
    """Whether the player said which notes sound somewhere."""
    return bool(arrangement.asks) or any(choice.locked for choice in arrangement.choices.values())


def _told(taken: Callable[[Decision], None], drawn: DrawnChoice, _: int) -> None:
    taken(drawn)


def _box(choices: Sequence[tuple[str, object]], tip: str, chosen: Callable[[Choice], None]) -> Choice:
    box = kit.choice("", tip, choices=choices)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
    box.activated.connect(lambda _: chosen(box))
    return box
