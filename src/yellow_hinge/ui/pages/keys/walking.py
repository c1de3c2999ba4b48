"""What is done on the Keys page: walking, hearing, and taking a key."""

from __future__ import annotations

from typing import Literal

from PySide6.QtCore import Signal

from yellow_hinge.song.edits import choose_key
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part, Sounding
from yellow_hinge.ui.pages.keys.state import ORDERS, KeysState

#: So many slots are heard of a key.
_HEARD = 4


def any_row(part: Rows) -> bool:
    """Whether a key is chosen."""
    return part.state.row is not None


def elsewhere(part: Rows) -> bool:
    """Whether it is another one than the song's."""
    chosen = part.state.row
    return chosen is not None and chosen.key != part.document.song.key


class Rows(Part):
    """The chosen row. ``looks_again``: the song is to be solved in twelve keys anew."""

    looks_again = Signal()

    def __init__(self, document: Document, state: KeysState) -> None:
        super().__init__(document)
        self.state = state

    def choose(self, number: int) -> None:
        """Another row."""
        self.state.chosen = number
        self.shown.emit()

    @command("down", "Key below", "Down", given=(1,), when=any_row)
    @command("up", "Key above", "Up", given=(-1,), when=any_row)
    def step(self, direction: Literal[-1, 1]) -> None:
        self.state.step(direction)
        self.shown.emit()
        song = self.state.here()
        first = None if song is None or not song.slots else song.voicing(0)
        if first is not None:
            self.strikes.emit(first.keys)

    @command("order", "Order", "O", tip="Half steps, fourths or fifths from row to row",
             now=lambda self: f"Order: {ORDERS[self.state.order][1]}")  # fmt: skip
    def next_order(self) -> None:
        self.state.next_order()
        self.shown.emit()

    @command("carried", "Carried over", "C", when=any_row, checked=lambda self: self.state.carried,
             tip="The grips of the song's own key as they are, or those solved for this key")  # fmt: skip
    def toggle_carried(self) -> None:
        self.state.carried = not self.state.carried
        self.shown.emit()

    @command("hear", "Hear", "H", tip="Hear the beginning in this key", when=any_row)
    def audition(self) -> None:
        song = self.state.here()
        if song is not None:
            last = min(len(song.slots), _HEARD) - 1
            self.hear.emit(Sounding(song, 0, last))

    @command("open-key", "Make it the song's key", "Return", when=any_row,
             tip="The chart and all takes go to this key, with the grips that are looked at; undo brings the "
                 "old one back")  # fmt: skip
    def open_key(self) -> None:
        edit = self.state.opened()
        if edit is not None:
            self.state.chosen = 0
            self.apply(edit)

    @command("take-key", "Keep as a take", "K", when=elsewhere,
             tip="A take that sounds in this key, with the grips that are looked at; the chart stays in its "
                 "own. On the Takes page a round can go through it: the last one a half step up")  # fmt: skip
    def keep_as_take(self) -> None:
        self.apply(self.state.as_take())

    @command("mark", "To practise and print", "M", when=any_row,
             tip="One of the keys to practise and to print, or no longer; the project keeps it",
             checked=lambda self: any_row(self) and self.state.marked(self.state.row.key))  # fmt: skip
    def mark(self) -> None:
        self.apply(self.state.mark())

    def choose_key(self) -> None:
        """The chosen key is one to practise and to print."""
        row = self.state.row
        if row is not None and not self.state.marked(row.key):
            self.mark()

    def give_up(self, place: int) -> None:
        """A key is none to practise and to print any more."""
        self.apply(choose_key(self.document.song, self.state.keys_chosen[place], False))

    @command("look", "Look again", tip="Solve the song in twelve keys anew",
             when=lambda self: bool(self.document.song.slots))  # fmt: skip
    def look_again(self) -> None:
        self.looks_again.emit()
