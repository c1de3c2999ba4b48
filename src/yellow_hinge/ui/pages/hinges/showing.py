"""What is shown on the leaves."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QGuiApplication, QPixmap

from yellow_hinge.ui.commands import command
from yellow_hinge.ui.pages.hinges.part import HingesPart, any_chord


class Showing(HingesPart):
    """Labels, tune, and a picture of it all: ``picture`` takes it."""

    picture: Callable[[], QPixmap]

    @command("picture", "Copy as a picture", "O", when=any_chord,
             tip="The leaves and hinges that are seen, for other programs")  # fmt: skip
    def copy_picture(self) -> None:
        QGuiApplication.clipboard().setPixmap(self.picture())
        self.document.noted.emit(("The leaves that are seen are in the clipboard as a picture.",))

    @command("labels", "Notes", "N", tip="What stands on the notes: names, degrees or fingers",
             now=lambda self: f"Notes: {self.state.label}")  # fmt: skip
    def next_label(self) -> None:
        self.state.next_label()
        self.shown.emit()

    @command("tune", "Tune", "M",
             tip="Show the melody over the leaves: filled is a chord tone, a ring a tension, a dash passes, "
             "a cross clashes",
             when=lambda self: any(self.state.row.melody),
             checked=lambda self: self.state.melody)  # fmt: skip
    def toggle_melody(self) -> None:
        self.state.melody = not self.state.melody and any(self.state.row.melody)
        self.shown.emit()
