"""What a player's hands can do: reach, register and who may play how much."""

from __future__ import annotations

import re
from typing import Annotated

from msgspec import Meta, Struct
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.hands.geometry import STANDARD_OCTAVE_MM, span_mm, white_interval_mm

#: Half the play of a fingertip on a key; keeps rounding from refusing the reach itself.
_TOLERANCE_MM = 0.5
#: What one can sensibly say as a reach, as interval numbers on white keys.
SMALLEST_REACH, LARGEST_REACH = 2, 13
_WORDS = ("second", "third", "fourth", "fifth", "sixth", "seventh", "octave", "ninth",
          "tenth", "eleventh", "twelfth", "thirteenth")  # fmt: skip
_NUMBER = re.compile(r"([0-9]{1,2})(?:st|nd|rd|th|ve)?")


#: What a hand can be said to reach: wider than the widest that is known, and far from endless.
Reach = Annotated[float, Meta(ge=10, le=320)]
Key = Annotated[int, Meta(ge=0, le=127)]


class Hand(Struct, frozen=True):
    """One hand.

    reach_mm        widest comfortable stretch, found on a standard keyboard and kept in mm,
                    so that black keys and narrow keyboards come out right
    most_notes      most keys at once, 1..5
    lowest_key, highest_key   register limits (MIDI keys, both included)
    home_low, home_high       where it likes to be; leaving it costs, it is not forbidden
    possible_mm     widest stretch at all, for chords that are rolled; None: as ``reach_mm``
    """

    reach_mm: Reach
    most_notes: Annotated[int, Meta(ge=1, le=5)]
    lowest_key: Key
    highest_key: Key
    home_low: Key
    home_high: Key
    possible_mm: Reach | None = None

    @property
    def widest_mm(self) -> float:
        """The widest stretch that the player has set, never less than the comfortable one."""
        return max(self.reach_mm, self.possible_mm or 0.0)

    @property
    def reach(self) -> int:
        """The reach as an interval number on standard white keys (10 = C to E, a tenth)."""
        return round(self.reach_mm / white_interval_mm(2)) + 1


#: Registers: our choice, from where two hands sit at a full keyboard.
_LEFT = Hand(white_interval_mm(9), most_notes=4, lowest_key=28, highest_key=67, home_low=40, home_high=60)
_RIGHT = Hand(white_interval_mm(8), most_notes=5, lowest_key=50, highest_key=88, home_low=60, home_high=76)


class HandProfile(Struct, frozen=True):
    """Both hands and the keyboard under them (``octave_mm``: width of an octave).

    ``roll``: chords up to the widest stretch may be rolled with the pedal; ``interlock``: a
    hand may pass through the other's range, each keeping its lowest and its highest note
    below and above the other's.
    """

    left: Hand = _LEFT
    right: Hand = _RIGHT
    octave_mm: Annotated[float, Meta(ge=100, le=200)] = STANDARD_OCTAVE_MM
    roll: bool = False
    interlock: bool = False

    @property
    def sound(self) -> bool:
        """Whether each hand has a register: what was read from a file might have none."""
        return all(hand.lowest_key < hand.highest_key for hand in (self.left, self.right))

    def can_reach(self, hand: Hand, keys: tuple[int, ...]) -> bool:
        """Whether the outer keys lie within what the hand may take: its comfortable reach, or
        its widest one where chords may be rolled."""
        return self.excess_mm(hand, keys) <= 0.0

    def excess_mm(self, hand: Hand, keys: tuple[int, ...]) -> float:
        """Millimetres by which a shape is out of reach; zero or less means it fits."""
        if not keys:
            return 0.0
        limit = hand.widest_mm if self.roll else hand.reach_mm
        return span_mm(keys[0], keys[-1], self.octave_mm) - limit - _TOLERANCE_MM

    def roll_excess_mm(self, hand: Hand, keys: tuple[int, ...]) -> float:
        """As :meth:`excess_mm`, if the chord is rolled."""
        return replace(self, roll=True).excess_mm(hand, keys)

    def rolls(self, hand: Hand, keys: tuple[int, ...]) -> bool:
        """Whether the shape is wider than comfortable, so that it has to be rolled."""
        return self.strain(hand, keys) > 100

    def strain(self, hand: Hand, keys: tuple[int, ...]) -> int:
        """How much of the comfortable reach a shape takes, in hundredths."""
        if not keys:
            return 0
        span = span_mm(keys[0], keys[-1], self.octave_mm) - _TOLERANCE_MM
        return int(100 * max(0.0, span) / hand.reach_mm)

    def with_reach(self, left: int, right: int) -> HandProfile:
        """The same profile with reaches given as interval numbers on white keys."""
        return replace(
            self,
            left=replace(self.left, reach_mm=white_interval_mm(left), possible_mm=None),
            right=replace(self.right, reach_mm=white_interval_mm(right), possible_mm=None),
        )


#: Strain in hundredths of the reach up to which each word holds; our choice.
_STRAIN_WORDS = ((60, "easy"), (80, "open"), (95, "wide"), (100, "at the limit"))


def strain_words(strain: int) -> str:
    """A strain, in hundredths of the reach, as a player says it."""
    return next((words for limit, words in _STRAIN_WORDS if strain <= limit), "beyond easy reach")


def reach_words(reach: int) -> str:
    """10 -> "tenth"."""
    return _WORDS[reach - SMALLEST_REACH]


def reach_phrase(reach: int) -> str:
    """10 -> "a tenth", 8 -> "an octave"; beyond the ends of the list the nearest is said."""
    words = reach_words(max(SMALLEST_REACH, min(LARGEST_REACH, reach)))
    return f"{'an' if words[0] in 'aeiou' else 'a'} {words}"


def parse_reach(text: str, place: str = "--reach") -> tuple[int, int]:
    """Read ``10th,9th`` (left, right), also ``tenth,octave`` or ``9`` for both hands.

    Raises :class:`BadInput` for anything else.
    """
    parts = [part.strip().lower() for part in text.split(",")]
    if len(parts) in (1, 2):
        reaches = [_one_reach(part) for part in parts]
        if None not in reaches:
            left, right = reaches[0], reaches[-1]
            assert left is not None and right is not None
            return left, right
    raise BadInput(
        Problem(
            place,
            f"{text!r} is not a reach",
            "write the widest easy interval on white keys for left and right hand, "
            "second to thirteenth: 10th,9th",
        )
    )


def _one_reach(text: str) -> int | None:
    if text in _WORDS:
        return _WORDS.index(text) + SMALLEST_REACH
    match = _NUMBER.fullmatch(text)
    if match and SMALLEST_REACH <= int(match.group(1)) <= LARGEST_REACH:
        return int(match.group(1))
    return None
