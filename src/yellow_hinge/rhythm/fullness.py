"""How full a stretch is, from 1 (a few notes) to 5 (all that the hands can do): what each level asks of the
hands, and the patterns whose strokes come nearest to it.

Notes a quarter grow by about a half from level to level, touch by eleven of MIDI's steps, the top by a whole
step and more: our choice, so that each step is heard beside the one before.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise, product

from msgspec import Struct

from yellow_hinge.rhythm.counts import fits, laid
from yellow_hinge.rhythm.patterns import HELD, TOUCHES, Hand, Pattern, Patterns
from yellow_hinge.rhythm.rungs import rungs_of
from yellow_hinge.rhythm.struck import Struck
from yellow_hinge.rhythm.time import Meter

LEAST, MOST = 1, 5


class Fullness(Struct, frozen=True):
    """A level in words: the fewest and the most notes of each hand, notes a quarter of both hands together,
    how much harder it is struck than a moderate level, how much more colour it has, how many half steps its
    top line lies above where it would, and between which keys its bass lies (0: any)."""

    words: str
    left: tuple[int, int]
    right: tuple[int, int]
    per_quarter: float
    touch: int
    colour: int
    lift_st: int
    low: tuple[int, int]

    def struck(self, hand: Hand, pattern: Pattern) -> Struck:
        """What a hand's grips need at this level under a pattern: what the pattern strikes comes first."""
        least, most = self.left if hand == "left" else self.right
        needs = max(pattern.needs, least)
        if hand == "right":
            return Struck(needs, max(most, needs))
        return Struck(needs, max(most, needs), pattern.bass_below, *self.low)


LEVELS: Mapping[int, Fullness] = {
    1: Fullness("bare", (1, 1), (2, 2), per_quarter=0.75, touch=-22, colour=-1, lift_st=-7, low=(47, 0)),
    2: Fullness("light", (1, 2), (3, 3), per_quarter=1.5, touch=-11, colour=0, lift_st=-4, low=(43, 0)),
    3: Fullness("moderate", (2, 3), (3, 3), per_quarter=2.75, touch=0, colour=0, lift_st=0, low=(0, 0)),
    4: Fullness("full", (3, 3), (3, 4), per_quarter=4.25, touch=11, colour=0, lift_st=5, low=(0, 46)),
    5: Fullness("fullest", (3, 4), (4, 5), per_quarter=6.0, touch=22, colour=1, lift_st=11, low=(0, 41)),
}
#: Shapes of an arc, in words.
ARCS: Mapping[str, str] = {
    "rising": "rising", "wave": "a wave", "verse": "verse and chorus", "quiet": "a quiet end", "flat": "flat",
}  # fmt: skip
#: What it costs to change the families of patterns from one section to the next, to be a note a quarter off a
#: level, to strike the same in both hands, and to be busier above than below.
_CHANGE, _OFF, _ALIKE, _BUSY = 0.6, 1.0, 0.5, 0.5
#: What it costs a swung song above the calm levels that neither hand swings.
_CALM, _STIFF = 2, 0.75
#: The rung of patterns (their own ``level``) up to which each level goes.
_RUNG = {1: 1, 2: 1, 3: 2, 4: 2, 5: 3}
#: A level has so many times the notes a quarter of the one below it, and is so much harder, at least.
_RISE, _HARDER, _FAR = 1.2, 6.0, 1000.0
#: So many pairs of patterns are looked at for each level: those nearest to its notes a quarter.
_NEAREST = 16
#: Strokes a second of one hand that are comfortable for a whole piece, our choice.
_FASTEST_PER_S = 5.0


#: A grip of so many notes is struck as a whole, in one stroke or in several; most grips have so many.
_LARGE, _USUAL = 4, 3


class Texture(Struct, frozen=True):
    """The patterns of both hands at a level, and their notes a quarter."""

    left: Pattern
    right: Pattern
    per_quarter: float

    def touch(self, level: int) -> float:
        """How hard it is struck in the mean at a level, against a moderate one."""
        every = [stroke for hand in (self.left, self.right) for stroke in hand.strokes]
        own = [TOUCHES[stroke.touch] for stroke in every for _ in rungs_of(stroke.what, _USUAL) or "1"]
        return LEVELS[level].touch + sum(own) / len(own)


def notes_in(pattern: Pattern, meter: Meter, notes: int) -> int:
    """How many notes a pattern strikes in a bar on a grip of so many."""
    whole = 0
    for stroke in laid(pattern, meter, Fraction(0), meter.quarters):
        whole += len(rungs_of(stroke.what, notes)) or 1
        whole += stroke.what == "octaves"
    return whole


def strokes_a_quarter(pattern: Pattern, meter: Meter) -> Fraction:
    """How often a hand strikes."""
    places = {stroke.at for stroke in laid(pattern, meter, Fraction(0), meter.quarters)}
    return Fraction(len(places)) / meter.quarters


def _for_arcs(pattern: Pattern, hand: Hand, meter: Meter, tempo: float, swing: bool) -> bool:
    """Whether a pattern may stand for a level by itself: no effect, not too fast, of the song's own feel
    (what is struck on the counts alone has any), and a left hand that begins where the chord does."""
    effects = any(stroke.way or stroke.tied or stroke.touch == "hard" for stroke in pattern.strokes)
    rate = float(strokes_a_quarter(pattern, meter)) * tempo / 60
    heard = {rung for stroke in pattern.strokes for rung in rungs_of(stroke.what, _LARGE)}
    first = pattern.strokes[0]
    begins = hand == "right" or (first.at == 0 and 0 in rungs_of(first.what, _LARGE))
    on_counts = all(stroke.at.denominator == 1 for stroke in pattern.strokes)
    feel = pattern.feel == ("swing" if swing else "straight") or on_counts
    at_ease = rate <= _FASTEST_PER_S and not effects
    whole = len(heard) == _LARGE  # else a change may not be heard
    return hand in pattern.hands and fits(pattern, meter) and at_ease and begins and feel and whole


class _Choice(Struct, frozen=True):
    """What patterns may be chosen from: the meter, the tempo (quarters a minute), whether it swings, the
    patterns, and those that are fixed for a hand."""

    meter: Meter
    tempo: float
    swing: bool
    patterns: Patterns
    fixed: Mapping[Hand, str]

    def row(self, hand: Hand, level: int) -> list[tuple[Pattern, int]]:
        """The patterns of a hand at a level, each with its notes in a bar."""
        if hand in self.fixed:
            patterns = [self.patterns[self.fixed[hand]]]
        else:
            patterns = [
                pattern
                for pattern in self.patterns.values()
                if pattern.level <= _RUNG[level]
                and _for_arcs(pattern, hand, self.meter, self.tempo, self.swing)
            ]
        low, high = LEVELS[level].left if hand == "left" else LEVELS[level].right
        size = (low + high) // 2
        return [
            (pattern, notes_in(pattern, self.meter, max(size, pattern.needs)))
            for pattern in patterns or [self.patterns[HELD]]
        ]

    def pairs(self, level: int) -> list[tuple[float, Texture]]:
        """The pairs of patterns nearest to a level's notes a quarter, each with its cost, the least first."""
        full, quarters = LEVELS[level], float(self.meter.quarters)
        textures = [
            Texture(left, right, (low + high) / quarters)
            for (left, low), (right, high) in product(self.row("left", level), self.row("right", level))
            if not _quarrel(left, right)
        ]
        textures.sort(
            key=lambda texture: (
                abs(texture.per_quarter - full.per_quarter),
                texture.left.id,
                texture.right.id,
            )
        )
        nearest = [
            (self.own_cost(texture, level), number) for number, texture in enumerate(textures[:_NEAREST])
        ]
        return [(cost, textures[number]) for cost, number in sorted(nearest)]

    def own_cost(self, texture: Texture, level: int) -> float:
        """How far a texture is off its level. Hands that strike the same places are less alive than hands
        that answer each other; the right hand, which has the top line, is the calmer one."""
        alike = texture.left.strokes == texture.right.strokes and level > LEAST
        rates = [strokes_a_quarter(hand, self.meter) for hand in (texture.left, texture.right)]
        busy = rates[1] > rates[0]
        off = abs(texture.per_quarter - LEVELS[level].per_quarter)
        swings = "swing" in (texture.left.feel, texture.right.feel)
        stiff = self.swing and level > _CALM and not swings
        return _OFF * off + _ALIKE * alike + _BUSY * busy + _STIFF * stiff


def _quarrel(left: Pattern, right: Pattern) -> bool:
    """Whether one hand wants no pedal where the other one lives by it."""
    return (left.pedal == "dry") != (right.pedal == "dry") and HELD not in (left.id, right.id)


def textures(
    row: Sequence[int],
    meter: Meter,
    tempo: float,
    swing: bool,
    patterns: Patterns,
    *,
    fixed: Mapping[Hand, str] | None = None,
) -> dict[int, Texture]:
    """For each level of an arc (``row``, by section as played) its patterns: of all choices among the pairs
    nearest to their levels the one with the least cost in which notes a quarter rise with every level.
    ``tempo`` in quarters a minute; ``fixed`` are patterns that the player has set for a hand."""
    choice = _Choice(meter, tempo, swing, patterns, fixed or {})
    levels = sorted(set(row))
    pairs = {level: choice.pairs(level) for level in levels}
    joins = Counter((min(pair), max(pair)) for pair in pairwise(row) if pair[0] != pair[1])
    best: tuple[float, dict[int, Texture]] = float("inf"), {level: pairs[level][0][1] for level in levels}

    def walk(cost: float, chosen: dict[int, Texture]) -> None:
        nonlocal best
        if len(chosen) == len(levels):
            best = min(best, (cost, chosen), key=lambda one: one[0])
            return
        level = levels[len(chosen)]
        below = max((texture.per_quarter for texture in chosen.values()), default=0.0) * _RISE
        softer = max((texture.touch(lower) for lower, texture in chosen.items()), default=-_FAR) + _HARDER
        for own, pair in pairs[level]:
            more = own + sum(
                joins[lower, level] * _CHANGE * _apart(texture, pair) for lower, texture in chosen.items()
            )
            rises = pair.per_quarter >= below and pair.touch(level) >= softer
            if rises and cost + more < best[0]:
                walk(cost + more, {**chosen, level: pair})

    walk(0.0, {})
    return best[1]


def _apart(texture: Texture, other: Texture) -> float:
    """Of two textures, how many hands change the family of their pattern, and whether the pedal comes or
    goes."""
    hands = (texture.left.family != other.left.family) + (texture.right.family != other.right.family)
    return hands / 2 + ((texture.left.pedal == "dry") != (other.left.pedal == "dry")) / 2


def variant(pattern: Pattern, hand: Hand, meter: Meter, patterns: Patterns) -> Pattern:
    """Another pattern of a family with as many notes, for a round that comes again at the same level; itself
    where there is none."""
    notes = notes_in(pattern, meter, 3)
    others = [
        one for one in patterns.values()
        if one.id != pattern.id and one.family == pattern.family and hand in one.hands and fits(one, meter)
        and one.feel == pattern.feel and one.needs == pattern.needs
        and abs(notes_in(one, meter, 3) - notes) <= 1
    ]  # fmt: skip
    return min(others, key=lambda one: (abs(notes_in(one, meter, 3) - notes), one.id), default=pattern)


@lru_cache(maxsize=64)
def shape(kind: str, sections: tuple[str, ...]) -> tuple[int, ...]:
    """One of :data:`ARCS` over the sections as they are played, by name: "verse" has the first
    section light, the second one full, and each a step more when it comes again."""
    count = len(sections)
    last = max(1, count - 1)
    if kind == "flat":
        return (3,) * count
    if kind == "rising":
        return tuple(LEAST + round((MOST - LEAST) * place / last) for place in range(count))
    if kind == "wave":
        return tuple(
            LEAST + round((MOST - LEAST) * (1 - abs(2 * place / last - 1))) for place in range(count)
        )
    if kind == "quiet":
        return tuple(3 if not place else 1 if place == count - 1 else 4 for place in range(count))
    return _verse_and_chorus(sections)


def _verse_and_chorus(sections: tuple[str, ...]) -> tuple[int, ...]:
    """Sections in the order in which they are first played: the first one light, the second full, others
    between; each round of a section a step more."""
    order = list(dict.fromkeys(sections))
    turns: dict[str, int] = {}
    chorus = []
    for name in sections:
        turn = turns[name] = turns.get(name, -1) + 1
        base = (2, 4, 3)[min(2, order.index(name))]
        chorus.append(min(MOST, base + min(1, turn)))
    return tuple(chorus)
