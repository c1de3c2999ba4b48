"""What smoothness weighs. One unit is a hundredth of a semitone of motion.

All values are our choice. Motion is dear and everything else is cheap against it, so
that the smoothest row wins and the rest decides between rows that are about as smooth.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import msgspec

from yellow_hinge.voicing.recipes import School

#: Share of the reach, in hundredths, from which a stretch begins to cost.
EASY_REACH_SHARE = 80
#: Semitones between the hands that need no filling.
EASY_GAP_ST = 12
#: Semitones to either side of a melody note that make its register.
MELODY_ROOM_ST = 4
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
    roll: int = 150  #: per hand that has to roll its chord
    melody_room: int = 60  #: per note within a major third of a melody that wants its register
    taste: int = 2  #: per place down the school's list of recipes


def weights_of(school: School) -> Weights:
    """The default weights with the school's own changes."""
    return replace(Weights(), **school.weights)


@dataclass(frozen=True, slots=True)
class Concern:
    """Something that a player can care about more or less than the school does."""

    id: str
    words: str
    fields: tuple[str, ...]
    least: int  #: what a raised level gives at least, for schools that do not weigh it at all


#: What can be changed in words, in the order shown.
CONCERNS = (
    Concern("bass", "a calm bass line", ("bass_move",), 30),
    Concern("top", "a calm top line", ("top_move",), 30),
    Concern("leaps", "no large moves", ("large_left", "large_right"), 5),
    Concern("stretch", "small stretches", ("strain", "roll"), 3),
    Concern("clear", "a clear low register", ("mud", "high_bass"), 20),
    Concern("rubs", "no rubbing notes", ("minor_ninth", "seconds", "melody_rub"), 20),
    Concern("home", "hands in their home zones", ("home", "gap"), 6),
    Concern("count", "the same number of notes", ("density", "enter", "leave"), 30),
    Concern("shapes", "the school's favourite shapes", ("taste",), 4),
)
#: Levels in words, and by how much they multiply the school's weight.
LEVELS = {-2: ("does not matter", 0.0), -1: ("matters less", 0.5), 0: ("as the school has it", 1.0),
          1: ("matters more", 2.0), 2: ("matters much more", 5.0)}  # fmt: skip
#: Weight of the top line, per semitone, where it is to be held: more than any chord would pay.
HELD_TOP_MOVE = 500


def stressed(school: School, levels: Iterable[tuple[str, int]], held_top: bool = False) -> School:
    """The school with the player's levels, pairs (concern id, level -2..2), and with the top
    note held wherever it can be."""
    weights, base = dict(school.weights), weights_of(school)
    wanted = dict(levels)
    for concern in CONCERNS:
        level = wanted.get(concern.id, 0)
        if level:
            for name in concern.fields:
                value = round(getattr(base, name) * LEVELS[level][1])
                weights[name] = max(value, concern.least * level) if level > 0 else value
    if held_top:
        weights["top_move"] = HELD_TOP_MOVE
    return msgspec.structs.replace(school, weights=weights)
