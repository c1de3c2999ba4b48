"""What the Hands page thinks: the guided try, and the words about a hand."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.geometry import STANDARD_OCTAVE_MM, span_mm
from yellow_hinge.hands.profile import Hand, HandProfile, reach_phrase
from yellow_hinge.theory.pitch import pitch_for_key

#: Keyboards that are made: (words, octave width in mm). Narrow ones have 15/16 and 7/8 keys.
KEYBOARDS = (
    ("Full size (octave 164.5 mm)", STANDARD_OCTAVE_MM),
    ("Narrow (octave 152 mm)", 152.0),
    ("Narrower (octave 140 mm)", 140.0),
)
#: The stretch of keyboard that the try shows: C3 to E5.
TRY_KEYS = (48, 76)
#: What counts as a try, in mm: below it is one finger, above it no hand.
LEAST_MM, MOST_MM = 25.0, 300.0
CAUTIONS = (
    "Choose what feels easy with a loose wrist, not what is just possible.",
    "No forcing: rest when it aches; stop at pain or numbness and see a teacher or clinician.",
    "Practise in short blocks with breaks, slowly first. Begin at moderate volume.",
)


def key_words(key: int) -> str:
    """A key as a player says it: C4, F♯3."""
    return pitch_for_key(key).pretty


def hand_words(side: str, hand: Hand, roll: bool = False) -> str:
    """The reach of a hand in words and millimetres."""
    rolled = f", rolled up to {hand.widest_mm:.0f} mm" if roll and hand.widest_mm > hand.reach_mm else ""
    return (
        f"{side.capitalize()} hand: about {reach_phrase(hand.reach)} on white keys "
        f"({hand.reach_mm:.0f} mm{rolled}), {hand.most_notes} notes at once, "
        f"{key_words(hand.lowest_key)} to {key_words(hand.highest_key)}"
    )


class Try(Struct, frozen=True):
    """The guided try: whose hand, the keys that were played so far, and whether the widest
    stretch for rolled chords is wanted rather than the easy one."""

    side: str = "left"
    keys: tuple[int, ...] = ()
    possible: bool = False

    def played(self, key: int) -> Try:
        """One more key; a third one begins anew."""
        keys = (key,) if len(self.keys) != 1 or key in self.keys else (*self.keys, key)
        return replace(self, keys=tuple(sorted(keys)))

    def span_mm(self, octave_mm: float) -> float | None:
        """How far the two keys are apart, or None before there are two."""
        return span_mm(*self.keys, octave_mm) if len(self.keys) == 2 else None

    def words(self, octave_mm: float) -> str:
        """What to do, or what was found."""
        span = self.span_mm(octave_mm)
        if span is None:
            next_word = "other" if self.keys else "one"
            if self.possible:
                return (
                    f"Rolled chords: play the widest two keys that the {self.side} hand may open to, "
                    f"still without strain: click {next_word} end."
                )
            return f"Play the widest two keys that feel easy for the {self.side} hand: click {next_word} end."
        if not LEAST_MM <= span <= MOST_MM:
            return "That is no stretch of one hand. Click two keys once more."
        low, high = map(key_words, self.keys)
        kind = "widest stretch for rolled chords" if self.possible else "reach"
        return f"{low} to {high}: {span:.0f} mm. This is now the {self.side} hand's {kind}."

    def applied(self, profile: HandProfile) -> HandProfile | None:
        """The profile with the reach that was found; None while there is none."""
        span = self.span_mm(profile.octave_mm)
        if span is None or not LEAST_MM <= span <= MOST_MM:
            return None
        hand = hand_of(profile, self.side)
        if not self.possible:
            return with_hand(profile, self.side, replace(hand, reach_mm=span))
        return replace(with_hand(profile, self.side, replace(hand, possible_mm=span)), roll=True)


def hand_of(profile: HandProfile, side: str) -> Hand:
    return profile.left if side == "left" else profile.right


def with_hand(profile: HandProfile, side: str, hand: Hand) -> HandProfile:
    """The profile with one hand changed."""
    return replace(profile, left=hand) if side == "left" else replace(profile, right=hand)
