"""A hand profile on disk, in project files and among the kept hands."""

from typing import Any

import msgspec

from yellow_hinge.hands.profile import Hand, HandProfile

#: What a hand can be said to reach, mm: wider than the widest that is known, and far from endless.
SMALLEST_MM, WIDEST_MM = 10, 320


class HandIn(msgspec.Struct):
    """One hand on disk; lengths in mm, keys as MIDI numbers."""

    reach_mm: float
    most_notes: int
    lowest_key: int
    highest_key: int
    home_low: int
    home_high: int
    possible_mm: float | None = None

    def __post_init__(self) -> None:
        for name in ("reach_mm", "possible_mm"):
            value = getattr(self, name)
            if value is not None and not SMALLEST_MM <= value <= WIDEST_MM:
                raise ValueError(f"{name} must be {SMALLEST_MM}..{WIDEST_MM}, not {value}")
        if not all(0 <= key <= 127 for key in (self.home_low, self.home_high)):
            raise ValueError("home_low and home_high must lie within 0..127")
        if not 1 <= self.most_notes <= 5:
            raise ValueError(f"most_notes must be 1..5, not {self.most_notes}")
        if not 0 <= self.lowest_key < self.highest_key <= 127:
            raise ValueError("lowest_key and highest_key must ascend within 0..127")


class HandsIn(msgspec.Struct):
    left: HandIn
    right: HandIn
    octave_mm: float
    roll: bool = False
    interlock: bool = False

    def __post_init__(self) -> None:
        if not 100 <= self.octave_mm <= 200:
            raise ValueError(f"octave_mm must be 100..200, not {self.octave_mm}")


def profile_from(hands: HandsIn) -> HandProfile:
    """A hand profile as it stands on disk."""
    return HandProfile(_hand(hands.left), _hand(hands.right), hands.octave_mm, hands.roll, hands.interlock)


def profile_out(profile: HandProfile) -> dict[str, Any]:
    """A hand profile for the disk."""
    return {
        "octave_mm": profile.octave_mm,
        "roll": profile.roll,
        "interlock": profile.interlock,
        "left": _hand_out(profile.left),
        "right": _hand_out(profile.right),
    }


def _hand(read_in: HandIn) -> Hand:
    return Hand(**{name: getattr(read_in, name) for name in read_in.__struct_fields__})


def _hand_out(hand: Hand) -> dict[str, Any]:
    return {name: getattr(hand, name) for name in HandIn.__struct_fields__}
