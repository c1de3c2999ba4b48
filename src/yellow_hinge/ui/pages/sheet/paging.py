"""Which sheet is shown, which page of it, and how large."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, Literal

from PySide6.QtCore import Signal

from yellow_hinge.sheet.kinds import KINDS
from yellow_hinge.ui.commands import Command, command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.sheet.state import SheetState


def is_there(part: Paging) -> bool:
    """Whether the sheet that is wanted is made."""
    return part.state.sheet is not None and not part.state.stale


class Paging(Part):
    """``asks``: another sheet is wanted; ``kind_chosen`` carries its kind before; ``turned``: another page.
    ``zoom`` is how large the paper is drawn now."""

    asks = Signal()
    kind_chosen = Signal(str)
    turned = Signal()
    zoom: Callable[[], float]

    def __init__(self, document: Document, state: SheetState) -> None:
        super().__init__(document)
        self.state = state

    def make_commands(self) -> Sequence[Command]:
        kinds = [
            Command(f"sheet-{kind}", words, partial(self.choose, kind), (key,), tip=tip, menu="Kind",
                    checked=partial(self._is_kind, kind))
            for kind, words, key, tip in KINDS
        ]  # fmt: skip
        return [*kinds, *super().make_commands()]

    def _is_kind(self, kind: str) -> bool:
        return self.state.kind == kind

    def choose(self, kind: str) -> None:
        """Another kind of sheet."""
        self.state.choose(kind)
        self.kind_chosen.emit(kind)
        self.asks.emit()

    def settle(self, **changes: Any) -> None:
        """Another paper, or something more or less on it."""
        self.state.settle(**changes)
        self.asks.emit()

    @command("back", "Page before", "Left", "PgUp", given=(-1,),
             when=lambda self: is_there(self) and self.state.page > 0)  # fmt: skip
    @command("forward", "Next page", "Right", "PgDown", given=(1,),
             when=lambda self: is_there(self) and self.state.page < len(self.state.sheet.pages) - 1
             )  # fmt: skip
    def turn(self, step: Literal[-1, 1]) -> None:
        self.state.turn(step)
        self.turned.emit()
        self.shown.emit()

    @command("closer", "Larger", "+", given=(1,), when=is_there)
    @command("further", "Smaller", "-", given=(-1,), when=is_there)
    def closer(self, step: Literal[-1, 1]) -> None:
        self.state.closer(step, self.zoom())
        self.shown.emit()

    @command("fit", "Whole page", "F", when=is_there, checked=lambda self: self.state.zoom is None)
    def fit(self) -> None:
        """The whole page is seen."""
        self.state.zoom = None
        self.shown.emit()
