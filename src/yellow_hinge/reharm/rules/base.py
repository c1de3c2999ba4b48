"""What every rule is made of: places, drafts, and arithmetic in letters and semitones.

All arithmetic counts from a root as degrees are counted, so that a rule spells and sounds alike
in every key.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import lru_cache

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.reharm.regions import pulls
from yellow_hinge.remembering import for_a_song
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName

#: From so many beats on a chord stands still by itself; with its like beside it from so many.
LONG_BEATS, BAR_BEATS = 8, 3
#: No chord of a swap is shorter than this, in beats.
SHORTEST_BEATS = Fraction(1)


class Place(Struct, frozen=True):
    """A chord with what a rule may look at: its length in beats, its neighbours (None at the ends
    and for "no chord"), and the local key."""

    chord: ChordSymbol
    beats: Fraction
    before: ChordSymbol | None
    after: ChordSymbol | None
    key: Key


class Timed(Struct, frozen=True):
    """A chord with its length in beats."""

    chord: ChordSymbol
    beats: Fraction


class Draft(Struct, frozen=True):
    """What a rule puts in a place (the lengths add up to the place's), and the reason. ``first``: whoever
    knows the place expects it before others."""

    chords: tuple[Timed, ...]
    reason: str
    first: bool = False


Find = Callable[[Place], Iterator[Draft]]


class Rule(Struct, frozen=True):
    """A rule with its id, its name, the group that says what it does to the music, and its price in
    hundredths of a half step: what keeps the function is cheap. ``joint`` False keeps it out of the
    search over the whole song: it is for the ear to choose. ``holds``: the right hand stays under it."""

    id: str
    name: str
    group: str
    price: int
    joint: bool
    find: Find
    holds: bool = False


RULES: dict[str, Rule] = {}
#: Families: what a swap does to the music.
PULL, PASSING, SAME, BORROWED, LINE, COLOUR, BASS = (
    "stronger pull", "passing", "same job", "borrowed", "line", "sus and colour", "other bass",
)  # fmt: skip
GROUPS = (PULL, PASSING, SAME, BORROWED, LINE, COLOUR, BASS)


def rule(
    rule_id: str, name: str, group: str, price: int, joint: bool = True, *, holds: bool = False
) -> Callable[[Find], Find]:
    """Put a function into the list of rules."""

    def register(find: Find) -> Find:
        RULES[rule_id] = Rule(rule_id, name, group, price, joint, find=find, holds=holds)
        return find

    return register


# --- arithmetic --------------------------------------------------------------------------


@for_a_song
@lru_cache(maxsize=4096)
def _quality(text: str) -> ChordSymbol:
    symbol = parse_chord(f"C{text}")
    assert symbol is not None
    return symbol


def on(root: NoteName, quality: str) -> ChordSymbol:
    """A chord on a root, spelled without double signs."""
    root = root if abs(root.alter) < 2 else root.simple
    return replace(_quality(quality), root=root)


def up(note: NoteName, letters: int, semitones: int) -> NoteName:
    """The note so many letters and semitones above."""
    return note.above(letters, semitones)


def semitones_between(start: NoteName, end: NoteName) -> int:
    """Upwards, 0..11."""
    return (end.pitch_class - start.pitch_class) % 12


def step_in_key(place: Place) -> int:
    """Semitones of the chord's root above the tonic of the local key."""
    return semitones_between(place.key.tonic, place.chord.root)


def falls_a_fifth(place: Place) -> bool:
    return place.after is not None and semitones_between(place.chord.root, place.after.root) == 5


def is_minor(chord: ChordSymbol) -> bool:
    return chord.third == "b3"


def goes_home(place: Place) -> bool:
    """Whether the next chord is the home chord of the local key."""
    return (
        place.after is not None
        and place.after.root.pitch_class == place.key.tonic.pitch_class
        and is_minor(place.after) == place.key.minor
    )


def is_pull(place: Place) -> bool:
    """Whether the chord acts as a dominant here. A plain major triad that resolves is one when it
    is the five of the key or has a third foreign to it; home on its way to four is none."""
    chord = place.chord
    if chord.seventh:
        return pulls(chord, place.after)
    foreign = chord.root.degree("3").pitch_class not in place.key.pitch_classes
    return pulls(chord, place.after) and (step_in_key(place) == 7 or foreign)


def stands_still(place: Place) -> bool:
    """Whether a chord lasts a bar or more without the harmony moving: long by itself, or beside its like."""
    around = (symbol for symbol in (place.before, place.after) if symbol is not None)
    again = any(
        symbol.root == place.chord.root and is_minor(symbol) == is_minor(place.chord) for symbol in around
    )
    return place.beats >= LONG_BEATS or (again and place.beats >= BAR_BEATS)


def is_plain(chord: ChordSymbol) -> bool:
    """Whether a chord has neither a slash bass nor an upper chord."""
    return chord.bass is None and chord.upper is None


def whole(place: Place, chord: ChordSymbol, reason: str, first: bool = False) -> Iterator[Draft]:
    """One chord for the whole place, unless it is the one that stands there."""
    if chord != place.chord:
        yield Draft((Timed(chord, place.beats),), reason, first)


def split(beats: Fraction, parts: int) -> tuple[Fraction, ...] | None:
    """Lengths in whole beats where that goes, the first ones longer; None when a part would be
    shorter than a beat."""
    if beats < parts * SHORTEST_BEATS:
        return None
    each = beats // parts
    lengths = [Fraction(each)] * parts
    lengths[0] += beats - each * parts
    if parts == 2 and beats == 3:
        lengths = [Fraction(2), Fraction(1)]
    return tuple(lengths)


def row(place: Place, chords: tuple[ChordSymbol, ...], reason: str, first: bool = False) -> Iterator[Draft]:
    """Several chords that share the place."""
    lengths = split(place.beats, len(chords))
    if lengths is not None:
        yield Draft(tuple(Timed(c, b) for c, b in zip(chords, lengths, strict=True)), reason, first)


def into(place: Place, road: tuple[ChordSymbol, ...], reason: str, first: bool = False) -> Iterator[Draft]:
    """The chord keeps the first half, at the least a beat; a road into the next one follows."""
    half = (place.beats + 1) // 2
    lengths = split(place.beats - half, len(road))
    if half >= SHORTEST_BEATS and lengths is not None:
        rest = tuple(Timed(c, b) for c, b in zip(road, lengths, strict=True))
        yield Draft((Timed(place.chord, Fraction(half)), *rest), reason, first)


#: The seventh chords of a major key, by semitones above its tonic.
_OF_KEY = {0: "maj7", 2: "m7", 4: "m7", 5: "maj7", 7: "7", 9: "m7", 11: "m7b5"}


def diatonic(root: NoteName, key: Key) -> ChordSymbol:
    """The seventh chord of a key on a root; a minor seventh on a foreign one."""
    return on(root, _OF_KEY.get(semitones_between(key.relative_major.tonic, root), "m7"))


def two_of(target: NoteName, minor: bool) -> ChordSymbol:
    """The two of a target: minor seventh, half-diminished towards minor."""
    return on(up(target, 1, 2), "m7b5" if minor else "m7")


def five_of(target: NoteName, minor: bool) -> ChordSymbol:
    """The dominant of a target, with a flat ninth towards minor."""
    return on(up(target, 4, 7), "7b9" if minor else "9")
