"""Changing the grip of the chosen leaf in place: inversions, octaves, slides, and single notes."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Literal

from PySide6.QtCore import Signal

from yellow_hinge.errors import Problem
from yellow_hinge.song.grip_edits import change_grip, on_root
from yellow_hinge.ui.commands import Command, command
from yellow_hinge.ui.pages.hinges.entering import voicing_of
from yellow_hinge.ui.pages.hinges.part import HingesPart, can_grip
from yellow_hinge.ui.pages.hinges.state import Selection
from yellow_hinge.voicing import handling
from yellow_hinge.voicing.handling import Keys

_HANDS = {"right": "", "left": "Shift+"}
_SLIDES = (
    ("half step", "a half step", ("Shift+Up", "Shift+Down")),
    ("scale", "a step of the scale", (">", "<")),
    ("inversion", "to the next of its tones", (")", "(")),
)


def note_chosen(part: HingesPart) -> bool:
    """Whether a note of the grip is chosen."""
    return can_grip(part) and part.grips.note is not None


class Changing(HingesPart):
    """Changes that are heard at once: of a grip that is kept an edit, of one that is being entered on trial.

    ``entered`` carries other keys for what is being entered, ``keeps``: it is kept as it is; ``goes_to``
    carries another leaf to be chosen.
    """

    entered = Signal(object)
    keeps = Signal()
    goes_to = Signal(object)

    def make_commands(self) -> Sequence[Command]:
        can = partial(can_grip, self)
        inverting = [
            Command(f"inversion-{way}-{side}", f"{words} inversion, {side}",
                    partial(self.invert, side, way == "up"), (f"{shift}{key}",), "Grip",
                    tip=f"The {side} hand in its {words.lower()} inversion; heard at once; Ctrl+Z undoes",
                    enabled=can)
            for side, shift in _HANDS.items()
            for way, words, key in (("up", "Next", "PgUp"), ("down", "Previous", "PgDown"))
        ]  # fmt: skip
        octaves = [
            Command(f"octave-{way}-{side}", f"Octave {way}, {side}",
                    partial(self.octave, side, octaves), (f"{shift}{key}",), "Grip",
                    tip=f"The {side} hand an octave {way}", enabled=can)
            for side, shift in _HANDS.items() for way, octaves, key in (("up", 1, "U"), ("down", -1, "D"))
        ]  # fmt: skip
        slides = [
            Command(f"slide-{way.replace(' ', '-')}-{to}", f"Grip {to}, {way}",
                    partial(self.slide, way, to == "up"), (key,), "Grip",
                    tip=f"Both hands {words} {to}; heard at once, undone with Ctrl+Z", enabled=can)
            for way, words, keys in _SLIDES for to, key in zip(("up", "down"), keys, strict=True)
        ]  # fmt: skip
        return [*inverting, *octaves, *slides, *super().make_commands()]

    def change(self, words: str, keys: Keys | None) -> None:
        """Other keys in the chosen leaf, heard at once."""
        song = self.document.song
        if keys is None:
            self._say(f"{words.lower()}: there is no key or finger for that", "try the other way")
            return
        if self.grips.draft(song, self.index) is not None:
            self.entered.emit(keys)
        else:
            voicing = self.grips.desk.voicing(song, self.index, keys)
            self.state.end_trial()
            self.apply(change_grip(song, self.index, voicing, words))
        self.audition()

    def invert(self, side: str, up: bool) -> None:
        """The next or the previous inversion of a hand."""
        keys = handling.inverted(self._keys, side, up)
        self.change(f"{'Next' if up else 'Previous'} inversion, {side} hand", keys)

    def octave(self, side: str, octaves: int) -> None:
        """A hand so many octaves higher."""
        keys = handling.by_octaves(self._keys, side, octaves)
        self.change(f"{side.capitalize()} hand an octave {'up' if octaves > 0 else 'down'}", keys)

    @property
    def _keys(self) -> Keys:
        return self.grips.keys(self.document.song, self.index)

    def slide(self, way: str, up: bool) -> None:
        """The whole grip higher or lower: its shape by half steps, or along the scale or its own tones."""
        keys = self.grips.slid(self.document.song, self.index, way, up)
        self.change(f"Grip {'up' if up else 'down'}, {way}", keys)

    @command("carry-next", "Same shape, next chord", "Shift+Right", given=(1,), menu="Grip", when=can_grip,
             tip="The same shape on the root of the next chord, kept there; one goes along")  # fmt: skip
    @command("carry-previous", "Same shape, previous chord", "Shift+Left", given=(-1,), menu="Grip",
             when=can_grip,
             tip="The same shape on the root of the previous chord, kept there; one goes along")  # fmt: skip
    def carry(self, step: Literal[-1, 1]) -> None:
        song, voicing = self.document.song, voicing_of(self)
        to = self.index + step
        while 0 <= to < len(song.slots) and song.slots[to].chord is None:
            to += step
        if voicing is None or not 0 <= to < len(song.slots):
            self._say("there is no further chord", "go the other way")
            return
        here, there = song.slots[self.index].chord, song.slots[to].chord
        assert here is not None and there is not None
        moved = on_root(voicing, here, there, song.hands)
        if moved is None:
            self._say("the keyboard ends before that root", "take the grip an octave from there first (U, D)")
            return
        if self.grips.draft(song, self.index) is not None:
            self.keeps.emit()
        self.goes_to.emit(Selection(to))
        self.change(f"Same shape on {there.root.pretty}", Keys(moved.left.keys, moved.right.keys))

    # --- single notes ---

    @command("note-next", "Next note", ".", given=(1,), menu="Grip", when=can_grip,
             tip="Choose a note of the chord, from below upwards")  # fmt: skip
    @command("note-before", "Note before", ",", given=(-1,), menu="Grip", when=can_grip,
             tip="Choose a note of the chord, from above downwards")  # fmt: skip
    def choose_note(self, direction: Literal[-1, 1]) -> None:
        self.grips.choose_note(self.document.song, self.index, direction)
        self.shown.emit()

    @command("note-up", "Note up", "+", given=(True,), menu="Grip", when=note_chosen,
             tip="The chosen note to the next chord tone above")  # fmt: skip
    @command("note-down", "Note down", "-", given=(False,), menu="Grip", when=note_chosen,
             tip="The chosen note to the next chord tone below")  # fmt: skip
    def step(self, up: bool) -> None:
        keys = self.grips.stepped(self.document.song, self.index, up)
        self.change(f"Note {'up' if up else 'down'}", keys)

    @command("note-over", "Note to the other hand", "C", menu="Grip", when=note_chosen,
             tip="The other hand takes the chosen note")  # fmt: skip
    def hand_over(self) -> None:
        keys = self.grips.with_note(self.document.song, self.index, handling.handed_over)
        self.change("Note to the other hand", keys)

    @command("note-drop", "Drop the note", "Delete", menu="Grip", when=note_chosen,
             tip="Leave the chosen note out")  # fmt: skip
    def drop(self) -> None:
        keys = self.grips.with_note(self.document.song, self.index, handling.dropped)
        self.change("Drop a note", keys)

    @command("note-add", "Add a note", "Insert", menu="Grip", when=can_grip,
             tip="One more chord tone on top of the hand that clicks go to")  # fmt: skip
    def add(self) -> None:
        self.change("Add a note", self.grips.more(self.document.song, self.index))

    def drag(self, key: int, to: int) -> None:
        """A note dragged on the leaf."""
        self.change("Move a note", handling.moved(self._keys, key, to))

    def over(self, key: int, to: int) -> None:
        """A note is dragged over another key: the grip is heard as it would be."""
        keys = handling.moved(self._keys, key, to)
        if keys is not None:
            self.strikes.emit((*keys.left, *keys.right))

    def breaks(self, key: int, to: int) -> bool:
        """Whether it would break a rule there, or no finger could take it."""
        keys = handling.moved(self._keys, key, to)
        tried = None if keys is None else self.grips.desk.tried(self.document.song, self.index, keys)
        return tried is None or bool(tried.judged.broken)

    def _say(self, what: str, remedy: str) -> None:
        self.said.emit((Problem("My grip", what, remedy),))
