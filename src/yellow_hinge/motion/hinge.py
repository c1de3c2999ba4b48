"""The hinge between two voicings: its numbers, and the move in words."""

from __future__ import annotations

from functools import cached_property

from msgspec import Struct

from yellow_hinge.hands.fingering import Fingering
from yellow_hinge.motion.distance import HandMotion, hand_motion
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import NoteName, Pitch
from yellow_hinge.theory.spelling import plain
from yellow_hinge.voicing.shape import HandShape, Voicing, spell

FINGER_WORDS = ("", "thumb", "index finger", "middle finger", "ring finger", "little finger")
_INTERVAL_WORDS = (
    "", "a half step", "a whole step", "a minor third", "a major third", "a fourth", "a tritone",
    "a fifth", "a minor sixth", "a major sixth", "a minor seventh", "a major seventh", "an octave",
)  # fmt: skip
SIDES = ("left", "right")


class Held(Struct, frozen=True):
    """A voicing with its chord and the fingers of both hands."""

    chord: ChordSymbol | None
    voicing: Voicing
    left_fingers: Fingering = ()
    right_fingers: Fingering = ()

    def hand(self, side: str) -> tuple[HandShape, Fingering]:
        """The shape and fingers of the "left" or "right" hand."""
        if side == "left":
            return self.voicing.left, self.left_fingers
        return self.voicing.right, self.right_fingers

    def name(self, side: str, key: int) -> NoteName:
        shape, _ = self.hand(side)
        assert self.chord is not None
        return spell(self.chord, key, shape.degrees[shape.keys.index(key)])

    def printed(self, side: str, key: int) -> str:
        """The name of a key on paper: without double signs where the symbol has none."""
        return plain(Pitch(key, self.name(side, key)), self.chord).name.pretty

    def finger(self, side: str, key: int) -> str:
        shape, fingers = self.hand(side)
        return FINGER_WORDS[fingers[shape.keys.index(key)]]


class HingeReport(Struct, frozen=True, dict=True):
    """The change between two neighbouring voicings, the ``ends``. Motions in semitones; ``bass_st``
    and ``top_st`` are signed moves of the lowest and highest note of both hands. The words are found
    when they are first wanted: long songs have many."""

    left: HandMotion
    right: HandMotion
    bass_st: int
    top_st: int
    ends: tuple[Held, Held]

    @cached_property
    def words(self) -> str:
        """A sentence for each hand, with plain note names (A, G#, Bb)."""
        return " ".join(self._sentences(pretty=False))

    @cached_property
    def pretty_words(self) -> str:
        """As :attr:`words`, a line each, with real signs."""
        return "\n".join(self._sentences(pretty=True))

    def _sentences(self, pretty: bool) -> list[str]:
        every = (_hand_words(*self.ends, side, self.hand(side), pretty) for side in SIDES)
        return [words for words in every if words]

    def hand(self, side: str) -> HandMotion:
        return self.left if side == "left" else self.right

    @cached_property
    def motion_st(self) -> int:
        return self.left.motion_st + self.right.motion_st

    @property
    def held(self) -> int:
        return self.left.held + self.right.held

    @property
    def entered(self) -> int:
        return len(self.left.entered) + len(self.right.entered)

    @property
    def left_off(self) -> int:
        """Notes that leave."""
        return len(self.left.left) + len(self.right.left)

    @property
    def largest_st(self) -> int:
        return max(self.left.largest_st, self.right.largest_st)


def hinge(before: Held, after: Held) -> HingeReport:
    """Measure the change."""
    left = hand_motion(before.voicing.left.keys, after.voicing.left.keys)
    right = hand_motion(before.voicing.right.keys, after.voicing.right.keys)
    old, new = before.voicing.keys, after.voicing.keys
    bass, top = (new[0] - old[0], new[-1] - old[-1]) if old and new else (0, 0)
    return HingeReport(left, right, bass, top, (before, after))


def interval_words(semitones: int) -> str:
    """How far, without direction: "a half step"."""
    size = abs(semitones)
    return _INTERVAL_WORDS[size] if size < len(_INTERVAL_WORDS) else f"{size} half steps"


def _hand_words(before: Held, after: Held, side: str, motion: HandMotion, pretty: bool) -> str:
    """One sentence for one hand: "Left hand: little finger A to G#, down a half step; the rest
    stay." Empty when the hand does nothing at all."""

    def say(name: NoteName) -> str:
        return name.pretty if pretty else str(name)

    moving = [(start, to) for start, to in motion.pairs if start != to]
    hand = f"{side.capitalize()} hand"
    if not (motion.pairs or motion.entered or motion.left):
        return ""
    if not (moving or motion.entered or motion.left):
        return f"{hand} stays."
    steps = {to - start for start, to in moving}
    if len(steps) == 1 and len(moving) > 1 and not (motion.held or motion.entered or motion.left):
        step = steps.pop()
        return f"{hand}: the whole shape goes {_direction(step)} {interval_words(step)}."
    parts = [
        f"{before.finger(side, start)} {say(before.name(side, start))} to "
        f"{say(after.name(side, to))}, {_direction(to - start)} {interval_words(to - start)}"
        for start, to in moving
    ]
    parts += [
        f"{say(after.name(side, key))} comes in with the {after.finger(side, key)}" for key in motion.entered
    ]
    parts += [f"{say(before.name(side, key))} is let go" for key in motion.left]
    if motion.held:
        parts.append("the rest stay" if motion.held > 1 else "the other note stays")
    return f"{hand}: {'; '.join(parts)}."


def _direction(semitones: int) -> str:
    return "up" if semitones > 0 else "down"
