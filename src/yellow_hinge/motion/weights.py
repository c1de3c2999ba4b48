"""What smoothness weighs. One unit is a hundredth of a semitone of motion.

All values are our choice. Motion is dear and everything else is cheap against it, so
that the smoothest row wins and the rest decides between rows that are about as smooth.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from yellow_hinge.voicing.recipes import School

#: Share of the reach, in hundredths, from which a stretch begins to cost.
EASY_REACH_SHARE = 80
#: Semitones between the hands that need no filling.
EASY_GAP_ST = 12
#: Above this key (D3) a left hand's bass no longer carries the chord.
BASS_TOP_KEY = 50


@dataclass(frozen=True, slots=True)
class Weights:
    """Weights, in hundredths of a semitone, as non-negative integers."""

    left_move: int = 100  #: per semitone of the left hand
    right_move: int = 100  #: per semitone of the right hand
    bass_move: int = 0  #: more, per semitone of the bass, when the left hand has it
    top_move: int = 8  #: more, per semitone of the top line
    large_left: int = 2  #: per squared semitone beyond the large-move limit
    large_right: int = 10
    shape_change: int = 0  #: per semitone by which the form of a hand changes while it slides
    enter: int = 80  #: per note that enters
    leave: int = 80  #: per note that leaves
    strain: int = 1  #: per hundredth of the reach beyond four fifths of it
    home: int = 6  #: per semitone outside a hand's home zone
    high_bass: int = 40  #: per semitone of the own bass above the D below middle C
    mud: int = 30  #: per hundred of mud (see voicing/register.py)
    gap: int = 6  #: per semitone of hole between the hands beyond an octave
    density: int = 40  #: per note more or less than the school wants
    minor_ninth: int = 100  #: per minor ninth inside the voicing, a flat ninth over its root apart
    seconds: int = 12  #: per semitone step inside a hand
    melody_rub: int = 100  #: per note a half step, or its octave, beside a sung melody note
    taste: int = 2  #: per place down the school's list of recipes


def weights_of(school: School) -> Weights:
    """The default weights with the school's own changes."""
    return replace(Weights(), **school.weights)
