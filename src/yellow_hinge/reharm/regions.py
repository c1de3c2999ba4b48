"""Local keys of a row of chords, and what each chord does in its key.

The keys are the cheapest walk through all 24: every chord costs by how far it is from home in a
key, a change of key costs, and a chord that acts as home speaks for its key when its own dominant
led to it or it lasts two bars. What is at home in a key at no or little cost is what harmony books
list there: the chords of the scale, the dominants of those chords with their twos, what is
borrowed from the parallel key, the dominant sevenths of the blues. The numbers are our choice,
held to a table of 40 progressions in the tests.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fractions import Fraction
from functools import lru_cache

from msgspec import Struct

from yellow_hinge.remembering import for_a_song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import ALL_KEYS, Key
from yellow_hinge.theory.pitch import degree_semitones

_CHANGE, _RETURN, _START_AWAY, _AWAY = 12, 6, 8, 1
_TONIC, _CADENCE, _TWO_BARS = -2, -8, -10
_SECONDARY, _SECONDARY_TRIAD, _RELATED_TWO, _TWO_ELSEWHERE, _PASSING = 3, 4, 3, 2, 2
_STRANGER, _FOREIGN_TONE, _FOREIGN_SEVENTH = 6, 3, 6
#: Dearest chord that still counts as a chord of the key for a dominant that leads to it.
_AT_HOME = 2
_NEVER = 1 << 20
_TWO = Fraction(2)

#: (half steps of the root above the tonic, kind) -> cost, in a major key.
_IN_MAJOR = {
    (0, "major"): 0, (2, "minor"): 0, (4, "minor"): 0, (5, "major"): 0, (7, "major"): 0,
    (7, "dominant"): 0, (9, "minor"): 0, (11, "half-diminished"): 0, (11, "diminished"): 0,
    (0, "dominant"): 2, (5, "dominant"): 2, (7, "augmented"): 2, (0, "augmented"): 3,
    (5, "minor"): 3, (10, "dominant"): 3, (10, "major"): 3, (8, "major"): 3, (8, "dominant"): 4,
    (3, "major"): 4, (2, "half-diminished"): 3, (6, "half-diminished"): 3, (1, "major"): 4,
    (0, "minor"): 6, (7, "minor"): 4,
}  # fmt: skip
#: The same in a minor key, with the raised sixth and seventh where they are usual.
_IN_MINOR = {
    (0, "minor"): 0, (2, "half-diminished"): 0, (2, "diminished"): 0, (3, "major"): 0,
    (5, "minor"): 0, (7, "major"): 0, (7, "dominant"): 0, (8, "major"): 0, (11, "diminished"): 0,
    (10, "major"): 1, (10, "dominant"): 1, (5, "dominant"): 2, (7, "minor"): 2, (9, "half-diminished"): 2,
    (3, "augmented"): 2, (7, "augmented"): 1, (2, "minor"): 3, (5, "major"): 3, (8, "dominant"): 3,
    (1, "major"): 3, (0, "major"): 2, (0, "dominant"): 4, (11, "half-diminished"): 4, (10, "minor"): 5,
}  # fmt: skip


@lru_cache(maxsize=64)
def _keys(home: Key) -> tuple[Key, ...]:
    """One key for each tonic and mode: the song's own, and the plainest of the others."""
    chosen: dict[tuple[int, bool], Key] = {}
    for key in sorted(ALL_KEYS, key=lambda key: (abs(key.fifths), key.prefers_flats != home.prefers_flats)):
        chosen.setdefault((key.tonic.pitch_class, key.minor), key)
    chosen[home.tonic.pitch_class, home.minor] = home
    return tuple(chosen.values())


def _step(key: Key, chord: ChordSymbol) -> int:
    return (chord.root.pitch_class - key.tonic.pitch_class) % 12


def _falls(before: ChordSymbol, after: ChordSymbol) -> int:
    """Half steps by which the root falls, 0..11: 7 is a fifth, 1 a half step, 11 rises by one."""
    return (before.root.pitch_class - after.root.pitch_class) % 12


@for_a_song
@lru_cache(maxsize=65536)
def _plain_cost(chord: ChordSymbol, key: Key) -> int:
    """How far a chord is from home in a key, whatever follows."""
    kind, step = chord.kind, _step(key, chord)
    table = _IN_MINOR if key.minor else _IN_MAJOR
    if kind in ("suspended", "power"):
        return min(_foreign(chord, key) * _FOREIGN_TONE, _STRANGER)
    cost = table.get((step, kind))
    if cost is None:
        return _STRANGER + max(0, _foreign(chord, key) - 1)
    if kind == "major" and chord.seventh == "7" and _is_foreign(chord, "7", key):
        cost += _FOREIGN_SEVENTH  # the five with a major seventh is the one of another key
    return cost


def _is_foreign(chord: ChordSymbol, label: str, key: Key) -> bool:
    return (chord.root.pitch_class + degree_semitones(label)) % 12 not in key.pitch_classes


def _foreign(chord: ChordSymbol, key: Key) -> int:
    return sum(_is_foreign(chord, label, key) for label in chord.degrees)


@for_a_song
@lru_cache(maxsize=65536)
def _cost(chord: ChordSymbol, after: ChordSymbol | None, key: Key) -> int:
    """How far a chord is from home in a key, with what it leads to."""
    plain = _plain_cost(chord, key)
    if after is None:
        return plain
    two = chord.kind == "minor" and is_dominant(after) and _falls(chord, after) == 7
    if two and _plain_cost(after, key) > _AT_HOME:
        return min(plain, _RELATED_TWO) if plain else _TWO_ELSEWHERE
    if plain <= _AT_HOME:
        return plain
    kind, falls, goal = chord.kind, _falls(chord, after), _plain_cost(after, key)
    if is_dominant(chord) and falls in (7, 1) and goal <= _AT_HOME:
        return min(plain, _SECONDARY)
    if kind == "major" and not chord.seventh and falls == 7 and goal <= _AT_HOME:
        return min(plain, _SECONDARY_TRIAD)
    if kind == "diminished" and falls in (11, 1, 0) and goal <= _SECONDARY:
        return min(plain, _PASSING)
    if kind in ("minor", "half-diminished") and is_dominant(after) and falls == 7:
        return min(plain, _RELATED_TWO)
    if is_dominant(chord) and is_dominant(after) and falls == 7:
        return min(plain, _SECONDARY + 1)
    return plain


def _evidence(chord: ChordSymbol, before: ChordSymbol | None, two_bars: bool, key: Key) -> int:
    """What a chord that acts as home says for its key."""
    mode = "minor" if key.minor else "major"
    if chord.root.pitch_class != key.tonic.pitch_class or chord.kind != mode:
        return 0
    speaks = _TONIC
    if before is not None and is_dominant(before) and _falls(before, chord) == 7:
        speaks += _CADENCE
    if two_bars:
        speaks += _TWO_BARS
    return speaks


def key_regions(
    chords: Sequence[ChordSymbol | None],
    home: Key | Sequence[Key],
    pins: Mapping[int, Key] | None = None,
    bars: Sequence[Fraction] = (),
) -> tuple[Key, ...]:
    """The local key of every chord. ``home`` is the key that the song is written in, or one for each
    chord where that changes. ``pins`` fixes the key of single places, as a player has set
    it; "no chord" (None) keeps the key around it; ``bars`` is how many bars each chord lasts (one
    each where it is left out)."""
    homes = [home] * len(chords) if isinstance(home, Key) else list(home)
    if not homes:
        return ()
    pinned = pins or {}
    tried = list(_keys(homes[0]))
    tried += [key for key in dict.fromkeys((*homes, *pinned.values())) if key not in tried]
    keys = tuple(tried)
    best = [0 if key == homes[0] else _START_AWAY for key in keys]
    came: list[list[int]] = []
    lasting, afters = _stretches(chords, bars), goals(chords)
    for place, chord in enumerate(chords):
        before = chords[place - 1] if place else None
        costs = list(_costs(chord, before, afters[place], lasting[place] >= _TWO, keys))
        if place in pinned:
            costs = [cost + (key != pinned[place]) * _NEVER for cost, key in zip(costs, keys, strict=True)]
        best, origins = _stepped(best, costs, keys.index(homes[place]), first=not place)
        came.append(origins)
    index = min(range(len(keys)), key=best.__getitem__)
    walk = []
    for origins in reversed(came):
        walk.append(keys[index])
        index = origins[index]
    return tuple(reversed(walk))


@for_a_song
@lru_cache(maxsize=4096)
def _costs(
    chord: ChordSymbol | None,
    before: ChordSymbol | None,
    after: ChordSymbol | None,
    two_bars: bool,
    keys: tuple[Key, ...],
) -> tuple[int, ...]:
    """What a chord costs in each key, whatever key stands before it."""
    if chord is None:
        return (0,) * len(keys)
    return tuple(_cost(chord, after, key) + _evidence(chord, before, two_bars, key) for key in keys)


def _stepped(best: list[int], costs: list[int], home: int, first: bool) -> tuple[list[int], list[int]]:
    """(cheapest way to each key with a further chord, the key that it comes from)."""
    least = min(range(len(best)), key=best.__getitem__)
    row, origins = [], []
    for index, (stay, cost) in enumerate(zip(best, costs, strict=True)):
        change = best[least] + (_RETURN if index == home else _CHANGE)
        keeps = first or stay <= change
        origins.append(index if keeps else least)
        row.append((stay if keeps else change) + cost + (0 if index == home else _AWAY))
    return row, origins


def _stretches(chords: Sequence[ChordSymbol | None], bars: Sequence[Fraction]) -> list[Fraction]:
    """How many bars each chord stays, its repetitions counted where it begins and nothing after."""
    lengths = [Fraction(1)] * len(chords) if not bars else list(bars)
    stay = [Fraction(0)] * len(chords)
    first = 0
    for place, chord in enumerate(chords):
        if place and chord != chords[place - 1]:
            first = place
        stay[first] += lengths[place]
    return stay


def goals(chords: Sequence[ChordSymbol | None], loop: bool = False) -> list[ChordSymbol | None]:
    """For each chord the one that it goes to: the next that is another chord; in a loop the first
    chords follow the last. None before "no chord" and at the end."""
    symbols: list[ChordSymbol | None] = [None] * len(chords)
    for _ in range(1 + loop):
        goal = (
            symbols[0]
            if loop and chords and chords[0] == chords[-1]
            else chords[0]
            if loop and chords
            else None
        )
        for place in range(len(chords) - 1, -1, -1):
            if place + 1 < len(chords):
                goal = symbols[place + 1] if chords[place + 1] == chords[place] else chords[place + 1]
            symbols[place] = goal
    return symbols


def is_dominant(chord: ChordSymbol) -> bool:
    """Whether a chord pulls a fifth down: a dominant seventh, suspended ones among them."""
    return chord.seventh == "b7" and chord.kind in ("dominant", "suspended")


def pulls(chord: ChordSymbol, after: ChordSymbol | None) -> bool:
    """Whether a chord acts as a dominant here: a dominant seventh, or a plain major triad that
    resolves a fifth down to a chord that is no dominant itself."""
    if is_dominant(chord):
        return True
    plain = chord.kind == "major" and not (chord.seventh or chord.sixth or chord.adds or chord.upper)
    return plain and after is not None and _falls(chord, after) == 7 and not is_dominant(after)


class Function(Struct, frozen=True):
    """What a chord does: "home", "away", "pull" or "colour"; and why, in words."""

    name: str
    words: str


#: Semitones of the root above the tonic -> function of a chord of the key.
_OF_MAJOR = {0: "home", 2: "away", 4: "home", 5: "away", 7: "pull", 9: "home", 11: "pull"}
_OF_MINOR = {0: "home", 2: "away", 3: "home", 5: "away", 7: "pull", 8: "away", 10: "away", 11: "pull"}
#: Dominant sevenths that are at home in a major key as in the blues.
_BLUES = {0: "home", 5: "away"}


def function_of(chord: ChordSymbol, after: ChordSymbol | None, key: Key) -> Function:
    """The function of a chord in its local key, before ``after``."""
    step, kind = _step(key, chord), chord.kind
    if after is not None and kind == "diminished" and _falls(chord, after) in (11, 1):
        way = "up" if _falls(chord, after) == 11 else "down"
        return Function("pull", f"leads a half step {way} to {after.root.pretty}")
    blues = not key.minor and kind == "dominant" and step in _BLUES
    if is_dominant(chord) and after is not None:
        falls = _falls(chord, after)
        if falls == 7 and not (blues and after.kind == "dominant"):
            return Function("pull", f"leads a fifth down to {after.root.pretty}")
        if falls == 1:
            return Function("pull", f"leads a half step down to {after.root.pretty}")
    if blues:
        name = _BLUES[step]
    else:
        name = (_OF_MINOR if key.minor else _OF_MAJOR).get(step, "colour")
        if _plain_cost(chord, key) > _AT_HOME:
            name = "colour"
    words = {
        "home": f"rests in {key.pretty}",
        "away": f"leads away from {key.tonic.pretty}",
        "pull": f"pulls back to {key.tonic.pretty}",
        "colour": f"is no chord of {key.pretty}",
    }[name]
    return Function(name, words)
