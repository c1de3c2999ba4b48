"""What smoothness weighs. One unit is a hundredth of a semitone of motion.

All values are our choice. Motion is dear and everything else is cheap against it, so
that the smoothest row wins and the rest decides between rows that are about as smooth.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from yellow_hinge.voicing.recipes import School


@dataclass(frozen=True, slots=True)
class Weights:
    """Weights, in hundredths of a semitone, as non-negative integers."""

    left_move: int = 100  #: per semitone of the left hand
    right_move: int = 100  #: per semitone of the right hand
    bass_move: int = 0  #: more, per semitone of the bass, when the left hand has it
    top_move: int = 15  #: more, per semitone of the top line
    large_left: int = 4  #: per squared semitone beyond the large-move limit
    large_right: int = 20
    enter: int = 120  #: per note that enters
    leave: int = 120  #: per note that leaves
    strain: int = 2  #: per hundredth of the reach beyond four fifths of it
    home: int = 12  #: per semitone outside a hand's home zone
    high_bass: int = 30  #: per semitone of the own bass above the D below middle C
    gap: int = 12  #: per semitone of hole between the hands beyond an octave
    density: int = 60  #: per note more or less than the school wants
    minor_ninth: int = 160  #: per minor ninth inside the voicing, a flat ninth over its root apart
    seconds: int = 25  #: per semitone step inside a hand
    taste: int = 3  #: per place down the school's list of recipes


def weights_of(school: School) -> Weights:
    """The default weights with the school's own changes."""
    return replace(Weights(), **school.weights)
