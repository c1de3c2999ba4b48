"""Strokes at the cursor of the Rhythm page, and the patterns that they make."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Signal

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.rhythm.patterns import HANDS, Pattern
from yellow_hinge.song.groove_edits import set_texture, use_pattern
from yellow_hinge.tasks.settings.patterns import free_id, keep_pattern
from yellow_hinge.ui.commands import Command, command
from yellow_hinge.ui.pages.rhythm.part import RhythmPart, any_chord

_NOTES = ("lowest", "second", "third", "fourth", "fifth")


def _in_hand(part: RhythmPart) -> bool:
    return any_chord(part) and part.state.lane in HANDS


def _struck(part: RhythmPart) -> bool:
    return any_chord(part) and (part.state.lane == "pedal" or part.state.stroke_here() is not None)


class Strokes(RhythmPart):
    """``wants_riff``: there is no note to take away, one may be typed."""

    wants_riff = Signal()

    @command(
        "toggle",
        "Stroke",
        "Return",
        when=any_chord,
        tip="Put a stroke at the count, or take it away; in the pedal's lane a change of the pedal, in the "
        "riff's lane take the note away",
    )
    def toggle(self) -> None:
        if self.state.lane == "pedal":
            self.apply(self.state.toggle_pedal())
        elif self.state.lane != "riff":
            self.apply_and_hear(self.state.toggle_stroke())
        elif (edit := self.state.drop_riff_note()) is not None:
            self.apply(edit)
        else:
            self.wants_riff.emit()

    def make_commands(self) -> Sequence[Command]:
        first, *others = super().make_commands()
        rungs = [
            Command(
                f"rung-{n}",
                f"Rung {n}",
                partial(self.toggle_rung, n - 1),
                (str(n),),
                tip=f"The {name} note of the grip, on or off at the count",
                enabled=partial(_in_hand, self),
            )
            for n, name in enumerate(_NOTES, 1)
        ]
        return [first, *rungs, *others]

    def toggle_rung(self, rung: int) -> None:
        """One note of the grip at the cursor, on or off; the whole grip where it is below 0."""
        self.apply_and_hear(self.state.toggle_stroke(None if rung < 0 else rung))

    @command("whole", "Whole grip", "0", given=("all",), when=_in_hand, tip="Strike the whole grip")
    def strike(self, what: str) -> None:
        """Something else at the cursor."""
        self.apply_and_hear(self.state.strike(what))

    @command(
        "next-what",
        "Strike something else",
        ".",
        given=(1,),
        when=_in_hand,
        tip="Whole grip, bottom, top, upper, lower, octave, fifth ... in turn",
    )
    @command("what-before", "Strike what came before", ",", given=(-1,), when=_in_hand)
    def next_what(self, step: int) -> None:
        self.apply_and_hear(self.state.next_what(step))

    @command(
        "way",
        "Rolled, crushed, slid",
        "W",
        when=_in_hand,
        tip="The stroke plainly, rolled, shaken, with a crushed half step, or slid into, in turn",
    )
    def next_way(self) -> None:
        self.apply_and_hear(self.state.next_way())

    @command("later", "Stroke later", "]", given=(1,), when=_struck, tip="By one place of the counting")
    @command("earlier", "Stroke earlier", "[", given=(-1,), when=_struck, tip="By one place of the counting")
    def shift(self, steps: int) -> None:
        state = self.state
        places = [at for at, _ in state.places(state.index)]
        place = places.index(state.place) + steps if state.place in places else -1
        if 0 <= place < len(places):
            self.move_to(places[place])

    @command(
        "longer", "Longer", ">", given=(1,), when=_in_hand, tip="It lasts one place of the counting longer"
    )
    @command("shorter", "Shorter", "<", given=(-1,), when=_in_hand, tip="It lasts one place less long")
    def stretch(self, steps: int) -> None:
        state = self.state
        self.last_until(state.place + state.lasts_here + steps * state.grid(state.index))

    def move_to(self, place: Fraction) -> None:
        """What is struck at the cursor, or the pedal's change, at another place of the chord."""
        edit = self.state.move_stroke(place)
        self.apply(edit) if self.state.lane == "pedal" else self.apply_and_hear(edit)

    def last_until(self, place: Fraction) -> None:
        """What is struck at the cursor lasts until a place of the chord."""
        self.apply_and_hear(self.state.let_ring(place))

    @command("harder", "Harder", "+", "=", given=("hard",), when=_in_hand)
    @command("softer", "Softer", "-", given=("soft",), when=_in_hand)
    def touch(self, touch: str) -> None:
        """Harder or softer at the cursor; the same again is as it was."""
        self.apply_and_hear(self.state.touch_here(touch))


class Patterns(RhythmPart):
    """What the hands play. ``moved``: it is about the other hand; ``kept``: a pattern went into the player's
    file."""

    moved = Signal()
    kept = Signal()

    @command("hear", "Hear", "H", when=any_chord, tip="Hear the chosen chord and the next one")
    def hear_chord(self) -> None:
        self.audition()

    @command(
        "other",
        "Hear the other pattern",
        "X",
        when=lambda self: self.state.other is not None,
        tip="The pattern before in its place, and back again: the two in turn",
    )
    def hear_other(self) -> None:
        self.apply_and_hear(self.state.heard_before())

    @command(
        "hand",
        "Hand",
        "J",
        tip="Patterns for the other hand",
        now=lambda self: f"{self.state.hand.capitalize()} hand",
    )
    def switch_hand(self) -> None:
        self.state.to_lane("left" if self.state.hand == "right" else "right")
        self.moved.emit()

    def use(self, pattern: Pattern) -> None:
        """The hand plays a pattern, heard at once."""
        if any_chord(self):
            self.apply_and_hear(self.state.use(pattern))

    def follow_around(self) -> None:
        """Nothing is said for the stretch any more."""
        label = f"{self.state.hand.capitalize()} hand as around it"
        self.apply(set_texture(self.state.song, self.state.where, label, {self.state.hand: None}))

    def keep_mine(self, name: str) -> None:
        """Write the changed pattern into the player's own, under a name."""
        state = self.state
        if not any_chord(self) or not name.strip():
            return
        pattern = state.pattern(state.index, state.hand)
        kept = (
            pattern
            if pattern.id in state.own
            else _named(pattern, name.strip(), free_id(name.strip(), state.own))
        )
        try:
            state.own = dict(keep_pattern(kept))
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return
        self.apply(use_pattern(state.song, state.where, state.hand, kept, own=True))
        self.kept.emit()


def _named(pattern: Pattern, name: str, id_: str) -> Pattern:
    return replace(pattern, id=id_, name=name, family="mine")
