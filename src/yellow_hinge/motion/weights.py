"""The prices that effort is made of. One unit is a hundredth of a half step of motion.

Every price stands here once, with its group (which share of the effort it belongs to), what it
is paid for, and where it comes from. Schools change some of them; what a school wants by number
of notes is a row of its own in ``schools.toml``.
"""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from functools import lru_cache

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.remembering import for_a_song
from yellow_hinge.rhythm.struck import BELOW_ST
from yellow_hinge.voicing.recipes import School
from yellow_hinge.voicing.shape import TopLine
from yellow_hinge.voicing.wish import Wish

#: Share of the reach, in hundredths, from which a stretch begins to cost.
EASY_REACH_SHARE = 80
#: Half steps between the hands that need no filling, and from which it sounds like a hole.
EASY_GAP_ST, HOLE_FROM_ST = 12, 15
#: Half steps to either side of a melody note that make its register.
MELODY_ROOM_ST = 4
#: Above this key (D3) a left hand's bass no longer carries the chord.
BASS_TOP_KEY = 50
#: The highest key (B2) of a bass that the song ends on.
END_BASS_KEY = 47
#: What of the price of an ending a section pays that is not the song's last, in hundredths.
SECTION_END_SHARE = 40
#: Half steps beyond which the top line leaps: a fourth.
LEAP_FROM_ST = 5
#: Tones beyond the symbol, in hundredths, that a chord of four tones and more is priced towards at colour
#: 0 to 3: a little more than the 0, 0.5, 1 and 1.5 that a song has in the mean then, as some can take none.
COLOUR_WANTED = (0, 60, 120, 190)
#: Above this key (Bb2) a bass note by itself no longer carries it.
LONE_BASS_TOP_KEY = 46


class Group(StrEnum):
    """The shares that an effort is shown in."""

    MOVING = "moving"
    COMING = "coming"
    SOUND = "sound"
    COMFORT = "comfort"
    STYLE = "style"


#: What is said of each price, in their order.
_SAID: list[dict[str, str]] = []


def _price(value: int, group: Group, per: str, why: str) -> int:
    _SAID.append({"group": group, "per": per, "why": why})
    return value


_UNIT = "the unit of effort"
_OURS = "our choice"
_PARKS = f"{_OURS}, measured on rows that players change: least motion alone parks the top note"
_MEASURED = "measured on rows that players chose: below 1.5 a search flickers between thick and thin"


class Weights(Struct, frozen=True):
    """All prices, in hundredths of a half step, as non-negative integers."""

    left_move: int = _price(100, Group.MOVING, "half step of a left-hand voice", _UNIT)
    right_move: int = _price(100, Group.MOVING, "half step of a right-hand voice", _UNIT)
    bass_move: int = _price(
        64, Group.MOVING, "half step of the own bass when it goes to another note, instead of left_move",
        f"{_OURS}: the ear expects a bass to leap, and the arm places it",
    )  # fmt: skip
    top_move: int = _price(8, Group.MOVING, "half step of the top line, on top of its voice", _OURS)
    held_top: int = _price(
        10, Group.STYLE, "top note that stays while the chord changes", f"{_OURS}: for a line that moves"
    )
    held_long: int = _price(
        40, Group.STYLE, "top note that stays over every third change of root as well", _PARKS
    )
    top_leap: int = _price(
        150, Group.STYLE, "half step of the top line beyond a fourth", "usual part-writing: leaps are rare"
    )
    aim: int = _price(
        400, Group.STYLE, "half step of the top note beyond the room of its section's plan", _PARKS
    )
    similar: int = _price(
        10, Group.STYLE, "change in which bass and top line go the same way",
        "usual part-writing: contrary and oblique motion keep the outer voices apart",
    )  # fmt: skip
    parallel: int = _price(
        100, Group.STYLE, "change in which the top line doubles the chord's bass, or its fifth, again",
        "usual part-writing: parallel octaves and fifths make one voice of two",
    )  # fmt: skip
    tendency: int = _price(
        220, Group.STYLE, "tone of a dominant that does not go where it leads, over a falling fifth",
        "usual part-writing: sevenths, suspensions and flat ninths fall or stay, thirds rise or stay",
    )  # fmt: skip
    still: int = _price(
        0,
        Group.STYLE,
        "hand that stays as it is while the root changes",
        f"{_OURS}: they sound other",
    )
    large_left: int = _price(
        2, Group.MOVING, "squared half step beyond a major third in the left hand, bass apart", _OURS
    )
    large_right: int = _price(
        10, Group.MOVING, "squared half step beyond a major third in the right hand",
        f"{_OURS}: up to there the hand turns, beyond the arm travels",
    )  # fmt: skip
    shape_change: int = _price(
        0,
        Group.STYLE,
        "hand whose notes do something else in their chord than before",
        f"{_OURS}: one shape slides",
    )
    enter: int = _price(200, Group.COMING, "note that comes in", _MEASURED)
    leave: int = _price(200, Group.COMING, "note that is let go", _MEASURED)
    notes: int = _price(
        100, Group.SOUND, "hundredth of the school's row of wanted notes", "the rows say their own reason"
    )
    struck: int = _price(
        2000, Group.SOUND, "note that a hand's pattern strikes and its grip has not, or has too much",
        f"{_OURS}: a bass and a chord are more than one note; measured in benchmarks/rhythm.py",
    )  # fmt: skip
    struck_low: int = _price(
        120, Group.SOUND, "half step of the left hand outside of where a level of an arc wants it", _OURS
    )
    no_fifth: int = _price(
        400, Group.SOUND, "plain triad without its fifth", "usual part-writing: a bare triad is whole"
    )
    doubled_third: int = _price(
        40, Group.SOUND, "third that sounds twice", "usual part-writing: double the root, then the fifth"
    )
    echo: int = _price(
        150,
        Group.SOUND,
        "tone that the right hand itself plays twice",
        f"{_OURS}: three tones say more",
    )
    third_over_third: int = _price(
        550, Group.SOUND, "third that sounds again above a third in the bass", "usual part-writing"
    )
    doubled: int = _price(
        250, Group.SOUND, "leading tone, seventh, added or altered tone that sounds twice",
        "usual part-writing; a ban outside open search",
    )  # fmt: skip
    contradiction: int = _price(
        350, Group.SOUND, "pair of tones that deny each other (5 with b13, b9 with #9, 11 over a third)",
        "chord-scale teaching",
    )  # fmt: skip
    minor_ninth: int = _price(
        400, Group.SOUND, "minor ninth that sounds, or half step between the hands, a chord's own b9 apart",
        "arranging books: the one interval to avoid",
    )  # fmt: skip
    mud: int = _price(30, Group.SOUND, "hundred of mud (voicing/register.py)", _OURS)
    gap: int = _price(10, Group.SOUND, "half step between the hands beyond an octave", _OURS)
    hole: int = _price(180, Group.SOUND, "half step between the hands beyond a tenth", _OURS)
    high_bass: int = _price(70, Group.SOUND, "half step of the own bass above D3", _OURS)
    lone_bass: int = _price(
        70, Group.SOUND, "half step of a bass note by itself above Bb2", f"{_OURS}: it no longer carries"
    )
    low_interval: int = _price(
        60, Group.SOUND, "half step below the usual limit of an interval", "arranging books; open search only"
    )
    low_second: int = _price(
        250, Group.SOUND, "second at the bottom of a grip below C4", f"{_OURS}: it growls; open search only"
    )
    inverted_bass: int = _price(
        350, Group.SOUND, "chord that stands on another tone than its root unasked", _OURS
    )
    rub_on_top: int = _price(
        900, Group.SOUND, "half step under the top note of the right hand",
        f"{_OURS}: it blurs the line; a ban in some schools",
    )  # fmt: skip
    seconds: int = _price(12, Group.SOUND, "half step between neighbours inside a hand", _OURS)
    melody_rub: int = _price(
        100, Group.STYLE, "note a half step, or its octave, beside a sung melody note", _OURS
    )
    melody_room: int = _price(
        60, Group.STYLE, "note within a major third of a melody that wants its register", _OURS
    )
    strain: int = _price(1, Group.COMFORT, "hundredth of the reach beyond four fifths of it", _OURS)
    roll: int = _price(150, Group.COMFORT, "hand that has to roll its chord", _OURS)
    home: int = _price(10, Group.COMFORT, "half step outside a hand's home zone", _OURS)
    colour: int = _price(
        250, Group.STYLE, "tone beyond the symbol more or less than the colour has in the mean",
        f"{_OURS}: the colour is what is wanted, not only what is allowed",
    )  # fmt: skip
    colour_on_triad: int = _price(
        450, Group.STYLE, "tone beyond a plain triad, divided by the colour",
        f"{_OURS}: it changes a song's style, unless colour is what is wanted",
    )  # fmt: skip
    end_bass: int = _price(
        1100, Group.STYLE, "bass above B2 that the song ends on", f"{_OURS}: an ending lands"
    )
    end_turned: int = _price(
        4000, Group.STYLE, "song that ends on another note than its root", "usual part-writing"
    )
    end_third: int = _price(1000, Group.STYLE, "third that sounds again at the end", "usual part-writing")
    end_top: int = _price(
        1000,
        Group.STYLE,
        "song that ends with another note on top than the tune's, root, third or fifth",
        _OURS,
    )
    off_class: int = _price(0, Group.STYLE, "hand without a signature shape of the school", _OURS)
    taste: int = _price(1, Group.STYLE, "place down the school's list of recipes", _OURS)


#: Every price by name: its group, what it is paid for and why.
PRICES = dict(zip(Weights.__struct_fields__, _SAID, strict=True))


def bass_top_key(wish: Wish) -> int:
    """The highest key of a left hand's lowest note that carries the chord: higher where the hand
    strikes its bass below the grip."""
    return BASS_TOP_KEY + BELOW_ST * wish.struck_by("left").below


@for_a_song
@lru_cache(maxsize=256)
def _weights(changes: tuple[tuple[str, int], ...]) -> Weights:
    return replace(Weights(), **dict(changes))


def weights_of(school: School) -> Weights:
    """The default prices with the school's own changes."""
    return _weights(tuple(sorted(school.weights.items())))


class Concern(Struct, frozen=True):
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
    Concern("clear", "a clear low register", ("mud", "high_bass", "lone_bass"), 20),
    Concern("rubs", "no rubbing notes", ("minor_ninth", "seconds", "melody_rub", "rub_on_top"), 20),
    Concern("home", "hands in their home zones", ("home", "gap", "hole"), 6),
    Concern("full", "whole chords", ("notes", "no_fifth"), 50),
    Concern("count", "the same number of notes", ("enter", "leave"), 30),
    Concern("plain", "plain triads stay plain", ("colour_on_triad",), 100),
    Concern("shapes", "the school's favourite shapes", ("taste", "off_class"), 4),
)
#: Levels in words, and by how much they multiply the school's weight.
LEVELS = {-2: ("does not matter", 0.0), -1: ("matters less", 0.5), 0: ("as the school has it", 1.0),
          1: ("matters more", 2.0), 2: ("matters much more", 5.0)}  # fmt: skip
#: The prices that make the top line sing, and those of them that it keeps where it goes as it comes.
LINE = ("held_top", "held_long", "top_leap", "aim", "similar", "parallel")
_AS_IT_COMES = ("held_top", "top_leap", "similar", "parallel")


def with_top_line(school: School, top: TopLine) -> School:
    """The school with a top line that stays where it can ("still"), goes as it comes ("free"), or
    sings."""
    if top == "sings":
        return school
    base = weights_of(school)
    kept = {name: getattr(base, name) // 2 for name in _AS_IT_COMES} if top == "free" else {}
    return msgspec.structs.replace(school, weights={**school.weights, **dict.fromkeys(LINE, 0), **kept})


#: Weight of the top line, per half step, where it is to be held: more than any chord would pay.
HELD_TOP_MOVE = 500


def stressed(school: School, levels: Iterable[tuple[str, int]], held_top: bool = False) -> School:
    """The school with the player's levels, pairs (concern id, level -2..2), and with the top
    note held wherever it can be."""
    wanted = {name: level for name, level in levels if level}
    if not wanted and not held_top:
        return school
    weights, base = dict(school.weights), weights_of(school)
    for concern in CONCERNS:
        level = wanted.get(concern.id, 0)
        if level:
            for name in concern.fields:
                value = round(getattr(base, name) * LEVELS[level][1])
                weights[name] = max(value, concern.least * level) if level > 0 else value
    if held_top:
        weights |= {"top_move": HELD_TOP_MOVE, **dict.fromkeys(LINE, 0)}
    return msgspec.structs.replace(school, weights=weights)
