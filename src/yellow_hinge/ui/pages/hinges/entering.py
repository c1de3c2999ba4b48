"""Entering a grip of one's own, and keeping it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QDialog, QWidget

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.grip_edits import Where, change_grip, keep, keep_as_take
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.pages.hinges.grip_state import Spelled
from yellow_hinge.ui.pages.hinges.part import HingesPart, can_grip, can_keep, entering
from yellow_hinge.ui.pages.hinges.ways_out import AllWaysOut
from yellow_hinge.voicing import handling
from yellow_hinge.voicing.handling import Keys
from yellow_hinge.voicing.shape import Voicing


def voicing_of(part: HingesPart) -> Voicing | None:
    """The grip of the chosen leaf that is entered or in use, where there is one."""
    if not can_keep(part):
        return None
    song = part.document.song
    return part.grips.desk.voicing(song, part.index, part.grips.keys(song, part.index))


class Entering(HingesPart):
    """What keys and fields put into a chord: on trial until it is kept.

    ``kept``: what was typed is kept now, or given up. ``asks_where``: the player is to say for which chords.
    ``shape_name`` is what stands in the field for it; ``names_shape`` sends the keyboard there,
    ``shape_kept`` empties it.
    """

    kept = Signal()
    asks_where = Signal()
    names_shape = Signal()
    shape_kept = Signal()
    shape_name: Callable[[], str]

    def __init__(self, *given: object) -> None:
        super().__init__(*given)  # type: ignore[arg-type]
        self._sounding: frozenset[int] = frozenset()

    # --- entering ---

    @command("switch-hand", "Other hand", "J", menu="Grip", tip="Keys that are clicked go to the other hand",
             when=can_grip, now=lambda self: f"Clicks: {self.grips.hand} hand")  # fmt: skip
    def switch_hand(self) -> None:
        self.grips.switch_hand()
        self.shown.emit()

    def click(self, key: int, side: str) -> None:
        """A key joins a hand, or is let go; the face for one's own grips opens."""
        keys = self.grips.clicked(self.document.song, self.index, key, side)
        if keys is None:
            self._say(
                f"the {side} hand has no finger left", "let a key go first, or give it to the other hand"
            )
            return
        self.bench.faces.show("grip")
        self.enter(keys)

    def enter(self, keys: Keys, spelled: Spelled = ()) -> None:
        """Other keys for the chosen leaf, on trial until they are kept."""
        self.grips.enter(self.document.song, self.index, keys, spelled)
        self.put_on_trial()
        self.shown.emit()

    def play(self, sounding: frozenset[int]) -> None:
        """Keys that are played: with every new one, what sounds then is the grip; letting go changes
        nothing, so that it can be looked at with free hands."""
        new = sounding - self._sounding
        self._sounding = sounding
        if new:
            self.enter(handling.split(sounding, self.document.song.hands))

    @command("clear-grip", "Clear", "Backspace", menu="Grip",
             tip="Let all keys go, to enter a grip from nothing", when=can_grip)  # fmt: skip
    def clear(self) -> None:
        self.bench.faces.show("grip")
        self.enter(Keys())
        self.kept.emit()

    # --- keeping ---

    @command("keep-grip", "Keep here", "Return", menu="Grip", when=entering,
             tip="Keep my grip for this chord, whatever rule it breaks; the search goes around it"
             )  # fmt: skip
    def keep(self) -> None:
        voicing = voicing_of(self)
        if voicing is not None:
            self._keep(change_grip(self.document.song, self.index, voicing, "My grip"))

    @command("keep-where", "Keep where...", "P", menu="Grip", when=can_keep,
             tip="Keep my grip in this round, in every round, wherever the chord is, or on any root"
             )  # fmt: skip
    def ask_where(self) -> None:
        self.asks_where.emit()

    def keep_where(self, voicing: Voicing, where: Where) -> None:
        """Keep it in these places."""
        self._keep(keep(self.document.song, self.index, voicing, where))

    @command("ways-out-all", "Ways out for all...", "Shift+W", menu="Grip",
             tip="For every grip that is out of reach the first way to play it, shown before it is done",
             when=lambda self: bool(self.document.solved.reductions))  # fmt: skip
    def ask_ways_out(self) -> None:
        from yellow_hinge.tasks.song.ways_out import first_ways, take_first_ways  # noqa: PLC0415 - rarely wanted

        song, owner = self.document.song, self.parent()
        rows = first_ways(song, self.document.solved.reductions)
        above = owner if isinstance(owner, QWidget) else None
        if rows and AllWaysOut(rows, above).exec() == QDialog.DialogCode.Accepted:
            self._keep(take_first_ways(song, rows))

    @command("keep-grip-take", "Keep as a take", "Q", menu="Grip", when=can_keep,
             tip="Keep my grip in a take of its own; this take stays as it is")  # fmt: skip
    def keep_take(self) -> None:
        voicing = voicing_of(self)
        if voicing is not None:
            self._keep(keep_as_take(self.document.song, self.index, voicing, "My grip"))

    @command("keep-shape", "Keep as my shape", "F", menu="Grip", when=can_keep,
             tip="Write the shape of the hand that clicks go to into my recipes, for every key")  # fmt: skip
    def keep_shape(self) -> None:
        self.bench.faces.show("grip")
        voicing, side = voicing_of(self), self.grips.hand
        chord = self.document.song.slots[self.index].chord
        if voicing is None or chord is None:
            return
        if not voicing.hand(side).keys:
            self._say(f"the {side} hand holds nothing", "choose the hand whose shape you mean (J)")
        elif not self.shape_name().strip():
            self.names_shape.emit()
            self._say("your shape has no name yet", "write one in the field, then keep it again")
        else:
            self._keep_shape(voicing, chord)

    def _keep_shape(self, voicing: Voicing, chord: ChordSymbol) -> None:
        from yellow_hinge.tasks.settings.library import keep_recipe  # noqa: PLC0415 - these bring NumPy
        from yellow_hinge.voicing.own_shapes import recipe_of  # noqa: PLC0415

        side = self.grips.hand
        try:
            recipe = recipe_of(voicing.hand(side), side, chord, self.shape_name(), self.document.library)
            library = keep_recipe(recipe)
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return
        self.shape_kept.emit()
        self._keep(change_grip(self.document.song, self.index, voicing, f"My shape {recipe.name}"))
        self.document.learn(library)

    def _keep(self, edit: Edit) -> None:
        """What was entered is part of the song now."""
        self.grips.give_up(self.document.song, self.index)
        self.state.end_trial()
        self.apply(edit)
        self.kept.emit()
        self.to_row.emit()
        self.shown.emit()

    def name_in_chart(self, chord: ChordSymbol) -> None:
        """The chosen chord is called by another name from now on."""
        from yellow_hinge.tasks.song.chart_names import name_in_chart  # noqa: PLC0415 - brings NumPy

        song = self.document.song
        if song.slots[self.index].at.part:
            self._say("this chord is part of a swap", "give it back first (R), then name it")
            return
        self.apply(name_in_chart(song, self.index, chord, self.document.library))

    def _say(self, what: str, remedy: str) -> None:
        self.said.emit((Problem("My grip", what, remedy),))
