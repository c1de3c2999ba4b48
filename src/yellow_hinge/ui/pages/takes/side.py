"""The side of the Takes page: the chosen take's name, and what is done with takes and the route."""

from __future__ import annotations

from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.entry_field import EntryField
from yellow_hinge.ui.pages.takes.making import Making
from yellow_hinge.ui.quiet import SidePanel


class TakesSide(SidePanel):
    """Shows the name; its fields go to the part that makes takes."""

    def __init__(self, document: Document, making: Making, commands: CommandList) -> None:
        super().__init__()
        self._making, self._commands = making, commands
        self.name_field = kit.named(EntryField(), "Name of the take", "Return keeps the name")
        self.name_field.kept.connect(lambda: making.rename(self.name_field.text()))
        self.rows.addWidget(self.name_field)
        schools = ((f"New take: {school.name}", school.id) for school in document.library.schools.values())
        tip = "A take of a school; locked chords stay"
        self.school = kit.choice("School of a new take", tip, self._make, [("New take...", None), *schools])
        self.seed = kit.number("Number of the shuffle", (1, 999), "The same number gives the same route")
        self.seed.setPrefix("shuffle no. ")
        self._alone = kit.button(commands, "copy", "first")
        self._several = [
            kit.button(commands, act, kind) for act, kind in (("route", "first"), ("ab", ""), ("copy", ""))
        ]
        self._shuffle = kit.button(commands, "shuffle")
        for widget in (
            self._alone, *self._several, kit.button(commands, "hear"), kit.button(commands, "ladder"),
            self.school, self._shuffle, self.seed,
        ):  # fmt: skip
            self.rows.addWidget(widget)
        self.rows.addStretch(1)

    def show_takes(self, several: bool) -> None:
        """What is done next with one take, and with several."""
        self._alone.setVisible(not several)
        for widget in (*self._several, self._shuffle, self.seed):
            widget.setVisible(several)

    def _make(self) -> None:
        school = self.school.currentData()
        if school is not None:
            words = self.school.currentText().removeprefix("New take: ")
            self.school.setCurrentIndex(0)
            self._making.from_school(school, words)

    def next_seed(self) -> None:
        """The next shuffle is another one."""
        self.seed.setValue(self.seed.value() % 999 + 1)
