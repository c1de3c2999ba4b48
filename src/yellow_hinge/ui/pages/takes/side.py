"""The side of the Takes page: the chosen take's name, and what is done with takes and the route."""

from __future__ import annotations

from PySide6.QtWidgets import QPushButton, QVBoxLayout

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
        schools = ((school.name, school.id) for school in document.library.schools.values())
        self.school = kit.choice("School of a new take", choices=schools)
        self.make = QPushButton("New take")
        self.make.setToolTip("A take of this school; locked chords stay")
        self.make.clicked.connect(lambda _=False: self._make())
        self.seed = kit.number("Number of the shuffle", (1, 999), "The same number gives the same route")
        self._fill(self.rows)

    def _fill(self, rows: QVBoxLayout) -> None:
        self._add("route", "work")
        self._add("hear", "ab")
        rows.addWidget(kit.heading("Takes"))
        self._add("copy", "drop")
        for act in ("earlier", "later", "offer"):
            self._add(act)
        school = kit.row(self.school, self.make)
        school.setStretch(0, 1)
        rows.addLayout(school)
        self._add("pair", "in-step")
        self._add("ladder")
        rows.addWidget(kit.heading("The route"))
        self._add("smooth")
        rows.addLayout(kit.row(kit.button(self._commands, "shuffle"), self.seed))
        self._add("keep")
        rows.addWidget(kit.heading("From the chosen take"))
        for act in ("take-chord", "take-run", "take-section"):
            self._add(act)
        rows.addStretch(1)

    def _add(self, *acts: str) -> None:
        self.rows.addLayout(kit.buttons(self._commands, *acts))

    def _make(self) -> None:
        self._making.from_school(self.school.currentData(), self.school.currentText())

    def next_seed(self) -> None:
        """The next shuffle is another one."""
        self.seed.setValue(self.seed.value() % 999 + 1)
