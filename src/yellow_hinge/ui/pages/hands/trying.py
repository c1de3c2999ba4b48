"""What is done on the Hands page: trying a stretch, habits of the hands, hands that are kept."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, Literal

from msgspec.structs import replace
from PySide6.QtCore import Signal

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.song.edits import change_hands
from yellow_hinge.tasks.settings.profiles import drop_profile, keep_profile, load_profiles
from yellow_hinge.ui.commands import Command, command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.hands.state import Try, hand_of, with_hand
from yellow_hinge.ui.pages.hands.try_keyboard import TryKeyboard

#: What can be tried: (side, for rolled chords).
TRIES = (("left", False), ("right", False), ("left", True), ("right", True))


class HandsPart(Part):
    """A part that changes the hands of the song."""

    @property
    def hands(self) -> HandProfile:
        """The hands as they are now."""
        return self.document.song.hands

    def change(self, hands: HandProfile, words: str) -> None:
        """Other hands, as one step for undo."""
        self.apply(change_hands(self.document.song, hands, words))


def _has_focus(part: Trying) -> bool:
    return part.keyboard.hasFocus()


class Trying(HandsPart):
    """A reach found by trying: two keys on the keyboard are its ends."""

    def __init__(self, document: Document, keyboard: TryKeyboard) -> None:
        super().__init__(document)
        self.keyboard = keyboard
        self.tried = Try()
        keyboard.played.connect(self.play)

    def make_commands(self) -> Sequence[Command]:
        tries = [
            Command(f"try-{number}", _try_words(side, possible), partial(self.begin, side, possible),
                    tip=_try_tip(side, possible), checked=partial(self._is_tried, side, possible))
            for number, (side, possible) in enumerate(TRIES)
        ]  # fmt: skip
        return [*tries, *super().make_commands()]

    def _is_tried(self, side: str, possible: bool) -> bool:
        return (self.tried.side, self.tried.possible) == (side, possible)

    def begin(self, side: str, possible: bool) -> None:
        """Whose reach the next two keys are."""
        self.tried = Try(side, possible=possible)
        self.shown.emit()

    @command("key-down", "Key to the left", "Left", given=(-1,), when=_has_focus,
             tip="On the keyboard: choose the next key down")  # fmt: skip
    @command("key-up", "Key to the right", "Right", given=(1,), when=_has_focus,
             tip="On the keyboard: choose the next key up")  # fmt: skip
    def move_cursor(self, step: Literal[-1, 1]) -> None:
        self.keyboard.move_cursor(step)

    @command("press", "Play the key", "Return", when=_has_focus,
             tip="On the keyboard: the chosen key is an end of the stretch")  # fmt: skip
    def press_key(self) -> None:
        self.keyboard.play_cursor()

    def play(self, key: int) -> None:
        """A key of the try; with the second one the reach is set."""
        self.tried = self.tried.played(key)
        profile = self.tried.applied(self.hands)
        if profile is not None:
            what = "Widest stretch" if self.tried.possible else "Reach"
            self.change(profile, f"{what} of the {self.tried.side} hand")
        self.shown.emit()


class Habits(HandsPart):
    """What hands may do, how many notes they take, and on which keys."""

    @command("roll", "Roll wide chords with the pedal", given=("roll", "Rolled chords"),
             tip="Chords wider than easy are allowed up to the widest stretch, and marked",
             checked=lambda self: self.hands.roll)  # fmt: skip
    @command("interlock", "Hands may interlock", given=("interlock", "Interlocking hands"),
             tip="A hand may pass through the other's range; the outer notes stay its own",
             checked=lambda self: self.hands.interlock)  # fmt: skip
    def toggle(self, field: Literal["roll", "interlock"], words: str) -> None:
        self.change(replace(self.hands, **{field: not getattr(self.hands, field)}), words)

    def set_limit(self, side: str, field: str, value: int) -> None:
        """A limit of one hand."""
        changes: dict[str, Any] = {field: value}
        hand = replace(hand_of(self.hands, side), **changes)
        self.change(with_hand(self.hands, side, hand), f"Limits of the {side} hand")

    def set_octave(self, octave_mm: float) -> None:
        """Wider or narrower keys."""
        self.change(replace(self.hands, octave_mm=octave_mm), "Keyboard size")


class KeptHands(HandsPart):
    """Hands that are kept under names. ``listed``: the list is another one, with this name chosen;
    ``written`` gives the name that is chosen or written."""

    listed = Signal(str)
    written: Callable[[], str]

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.profiles: dict[str, HandProfile] = {}

    def look(self, chosen: str = "") -> None:
        """Read what is kept."""
        try:
            self.profiles = load_profiles()
        except YellowHingeError as error:
            self.profiles = {}
            self.said.emit(error.problems)
        self.listed.emit(chosen)

    def take_over(self) -> None:
        """The song gets the chosen hands."""
        name = self.written()
        if name in self.profiles:
            self.document.taste.belong_to(name)
            self.change(self.profiles[name], f"Hands of {name}")

    @command("keep-hands", "Keep", tip="Keep these hands under the name")
    def keep(self) -> None:
        try:
            name = keep_profile(self.written(), self.hands)
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return
        self.document.taste.belong_to(name)
        self.look(name)

    @command("forget-hands", "Forget", tip="Forget the profile of this name; the song keeps its hands")
    def drop(self) -> None:
        try:
            drop_profile(self.written())
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return
        self.look()


def _try_words(side: str, possible: bool) -> str:
    return f"{side.capitalize()}, rolled" if possible else f"Try the {side} hand"


def _try_tip(side: str, possible: bool) -> str:
    kind = "widest stretch for rolled chords" if possible else "reach"
    return f"The next two keys are the {side} hand's {kind}"
