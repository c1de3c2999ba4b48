"""How the window looks and how it says notes: colours, size of text, note names, stillness, sound; kept
between runs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import suppress
from functools import partial
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QObject, QRect, Signal
from PySide6.QtWidgets import QApplication

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.tasks.settings.display import Display
from yellow_hinge.theory.pitch import Naming, name_as
from yellow_hinge.ui import theme
from yellow_hinge.ui.commands import Command

#: How each way of naming notes stands in the menu.
NAMINGS: dict[Naming, str] = {
    "letters": "C D E F G A B", "h": "C D E F G A H, B is B flat", "solfege": "do re mi fa sol la si",
}  # fmt: skip
_CURSOR_MS = 1000


class Looks(QObject):
    """The settings in force. ``dressed``: other colours; ``sized``: text of another size; ``named``: notes
    have other names; ``failed``: they could not be kept."""

    dressed = Signal()
    sized = Signal()
    named = Signal()
    failed = Signal(object)

    def __init__(self, display: Display, parent: QObject) -> None:
        super().__init__(parent)
        self.display = display

    @property
    def theme(self) -> theme.Theme:
        return theme.THEMES[self.display.theme]

    @property
    def calm(self) -> bool:
        """Whether nothing may move by itself."""
        return self.display.calm

    def commands(self) -> Sequence[Command]:
        scales = theme.TEXT_SCALES
        return [
            Command("theme", "Light or dark", self.switch_theme, ("Ctrl+D",), "View", tip="Other colours"),
            Command("larger", "Larger text", partial(self.change_text, 1), ("Ctrl++", "Ctrl+="), "View",
                    tip="Text a quarter larger, up to twice its size",
                    enabled=lambda: theme.text_scale() < scales[-1]),
            Command("smaller", "Smaller text", partial(self.change_text, -1), ("Ctrl+-",), "View",
                    tip="Text a quarter smaller, down to its usual size",
                    enabled=lambda: theme.text_scale() > scales[0]),
            *(
                Command(f"names-{naming}", words, partial(self.name_as, naming), menu="View/Note names",
                        tip=f"Notes are shown as {words}; the chart's text stays in letters",
                        checked=partial(self._is_named, naming))
                for naming, words in NAMINGS.items()
            ),
            Command("calm", "Nothing moves by itself", self.switch_calm, (), "View",
                    tip="While a song plays pages stand still, and the text cursor does not blink",
                    checked=lambda: self.calm),
            Command("walking", "Chords sound as I walk", self.switch_walking, (), "Play",
                    tip="A chord is heard as you come to it",
                    checked=lambda: self.display.walking),
        ]  # fmt: skip

    def switch_theme(self) -> None:
        self._take(self.dressed.emit, theme="dark" if self.theme is theme.LIGHT else "light")

    def change_text(self, steps: int) -> None:
        """Larger or smaller text."""
        scales = theme.TEXT_SCALES
        place = max(0, min(len(scales) - 1, scales.index(theme.text_scale()) + steps))
        self._take(self.sized.emit, text=round(100 * scales[place]))

    def name_as(self, naming: Naming) -> None:
        """Other names for notes, wherever they are shown."""
        self._take(self.named.emit, names=naming)

    def switch_calm(self) -> None:
        self._take(lambda: None, calm=not self.calm)

    def switch_walking(self) -> None:
        self._take(lambda: None, walking=not self.display.walking)

    def keep_place(
        self, place: QRect, beside: str = "", split: Sequence[int] = (), above: bool = False
    ) -> None:
        """Where the window stood when it was closed, and which page beside another, over how much room; where
        that cannot be kept it is of no weight."""
        self.display = replace(
            self.display, window=(place.x(), place.y(), place.width(), place.height()), beside=beside,
            split=(split[0], split[1]) if beside else None, above=above,
        )  # fmt: skip
        with suppress(YellowHingeError):
            self.display.keep()

    def _is_named(self, naming: Naming) -> bool:
        return self.display.names == naming

    def _take(self, then: Callable[[], object], **changes: Any) -> None:
        self.display = replace(self.display, **changes)
        put_on(self.display)
        then()
        try:
            self.display.keep()
        except YellowHingeError as error:
            self.failed.emit(error.problems)


def put_on(display: Display) -> None:
    """Settings take effect for what is made, painted and said from now on."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    theme.set_text_scale(app, display.text / 100)
    theme.apply(app, theme.THEMES[display.theme])
    name_as(display.names)
    app.setCursorFlashTime(0 if display.calm else _CURSOR_MS)
