"""Chord kinds, the tensions that may be added past a symbol, and how a melody note sits.

The rules are those taught for chord scales: a natural ninth, thirteenth or eleventh
is at hand when it is a whole step above a chord tone and belongs to the key; altered
tensions belong to dominants. The colour number at which each comes in is our choice.
"""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction
from functools import lru_cache

from msgspec import Struct

from yellow_hinge.remembering import for_a_song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import DEGREES, degree_semitones

MAX_COLOUR = 3

#: kind -> (label, colour at which it may be added, whether it must belong to the key).
#: Avoided altogether, as taught: 11 over a major third, b9 over anything but a dominant,
#: b13 over a perfect fifth outside dominants. A sharp eleventh that nobody named is the last
#: colour to come. On a plain triad a seventh changes what the chord is, so it comes last too.
_EXTRAS: dict[str, tuple[tuple[str, int, bool], ...]] = {
    "major": (("9", 1, True), ("6", 2, True), ("7", 2, True), ("#11", 3, True)),
    "minor": (("9", 1, True), ("b7", 1, True), ("11", 2, True), ("6", 3, True)),
    "dominant": (("9", 1, True), ("13", 2, True), ("#11", 3, False), ("b9", 3, False),
                 ("#9", 3, False), ("b13", 3, False)),
    "half-diminished": (("11", 1, True), ("9", 2, True), ("b13", 2, True)),
    "diminished": (("9", 3, False), ("11", 3, False), ("b13", 3, False)),
    "augmented": (("9", 1, False),),
    "suspended": (("9", 1, True), ("b7", 1, True), ("13", 2, True)),
    "power": (("9", 2, False),),
}  # fmt: skip
_SEVENTHS = frozenset({"7", "b7"})
_CLASH_WITH = {"9": {"b9", "#9"}, "b9": {"9"}, "#9": {"9"}, "13": {"b13", "#5"},
               "6": {"#5", "b13", "bb7"}, "b13": {"13", "6", "#5"}, "11": {"#11"},
               "#11": {"11", "b5"}, "7": {"b7", "bb7", "6"}, "b7": {"7", "bb7", "6"}}  # fmt: skip


def kinds(chord: ChordSymbol) -> frozenset[str]:
    """All tags a recipe can ask for: the base kind, the size (triad, sixth, seventh), altered
    or plain, and slash, third-bass (its third is the slash bass) or thirdless where they apply."""
    size = "seventh" if chord.seventh else "sixth" if chord.sixth else "triad"
    tags = {chord.kind, size, "altered" if chord.alt else "plain"}
    if chord.bass is not None:
        tags.add("slash")
        if chord.third and chord.bass == chord.root.degree(chord.third):
            tags.add("third-bass")
    if not chord.third and not chord.sus:
        tags.add("thirdless")
    return frozenset(tags)


def is_triad(chord: ChordSymbol) -> bool:
    """Whether a symbol names a bare triad or suspension: nothing but root, third and fifth."""
    more = chord.seventh or chord.sixth or chord.adds or chord.alters or chord.alt or chord.upper
    return not more and bool(chord.third or chord.sus)


@for_a_song
@lru_cache(maxsize=8192)
def extra_degrees(
    chord: ChordSymbol, key: Key | None, colour: int, to_minor: bool | None = None
) -> frozenset[str]:
    """Degrees that may be added past the symbol at this colour (0..3).

    ``key`` is the local key, which decides which natural tensions belong; None takes them as
    belonging. A chord whose root is foreign to the key has its own natural tensions. For a
    dominant the chord that it goes to decides instead: ``to_minor`` says whether that is minor
    (flat tensions, one colour earlier) or not (natural ones); None where it goes nowhere, and
    then the key speaks for its goal.
    """
    kind = chord.kind
    degrees = set(chord.degrees)
    triad = is_triad(chord)
    if to_minor is None:
        to_minor = _leads_to_minor(chord, key)
    extras: set[str] = set()
    for label, usually, diatonic in _EXTRAS[kind]:
        needs = MAX_COLOUR if triad and label in _SEVENTHS else usually
        at_home = not diatonic or _at_home(chord, label, key)
        if kind == "dominant" and to_minor is not None:
            if label in ("b9", "b13") and to_minor:
                needs = 2
            if label in ("9", "13"):
                at_home = not to_minor
        if needs <= colour and at_home and not degrees.intersection(_CLASH_WITH.get(label, ())):
            extras.add(label)
    if chord.alt:
        extras = {"b9", "#9", "#11", "b13"}
    if "6" in extras and chord.seventh:
        extras.remove("6")
        extras.add("13")
    return frozenset(extras - degrees)


def _at_home(chord: ChordSymbol, label: str, key: Key | None) -> bool:
    """Whether a tension belongs: it is a note of the key, or the whole chord is borrowed and has
    its own natural tensions. Sevenths must belong in any case."""
    if key is None:
        return True
    borrowed = chord.root.pitch_class not in key.pitch_classes and label not in _SEVENTHS
    return borrowed or _belongs(chord, label, key)


def _belongs(chord: ChordSymbol, label: str, key: Key) -> bool:
    return (chord.root.pitch_class + degree_semitones(label)) % 12 in key.pitch_classes


def _leads_to_minor(chord: ChordSymbol, key: Key | None) -> bool | None:
    """Whether a dominant's target, a fifth below, has its minor third in the key; None where the
    target is no note of the key."""
    if key is None or chord.kind != "dominant":
        return None
    target = (chord.root.pitch_class + 5) % 12
    scale = key.pitch_classes
    if target not in scale or chord.kind != "dominant":
        return None
    return (target + 3) % 12 in scale and (target + 4) % 12 not in scale


def leads_to_minor(chord: ChordSymbol, after: ChordSymbol | None) -> bool | None:
    """Whether the chord that a dominant resolves to, a fifth down, is minor; None where it is no
    dominant or goes elsewhere. A half-diminished or diminished goal counts as minor."""
    if after is None or chord.kind != "dominant" or not chord.third:
        return None
    if (after.root.pitch_class - chord.root.pitch_class) % 12 != 5:
        return None
    return after.third == "b3"


# --- one melody note against one chord ---------------------------------------------------

#: Notes up to this many quarters may pass when they move by step.
PASSING_QUARTERS = 1


class FitKind(StrEnum):
    """How a melody note sits on a chord, best first."""

    CHORD_TONE = "chord tone"
    TENSION = "tension"
    PASSING = "passing"
    CLASH = "clash"


class Fit(Struct, frozen=True):
    """How a note sits: its kind, its degree over the chord, why, and whether it rubs all the same:
    the root of a chord with a major seventh."""

    kind: FitKind
    degree: str
    reason: str
    rubs: bool = False


def fit(
    pitch_class: int,
    chord: ChordSymbol,
    key: Key | None,
    *,
    quarters: Fraction | int = 4,
    strong: bool = True,
    stepwise: bool = False,
) -> Fit:
    """How a melody note sits on a chord.

    A note of the chord is a chord tone; what the chord may take at full colour is a tension; a
    note of at most a quarter, off the strong beats, that comes or goes by step is passing; a half
    step above a chord tone, the other third or seventh, or a natural tension over an altered
    dominant is a clash; what is left lies a whole step from the chord and is a tension foreign to
    the key. ``quarters`` is the note's length, ``strong``
    whether it falls on the bar's first or middle beat.
    """
    pitch_class %= 12
    own = chord.label_of(pitch_class)
    if own == "R" and chord.seventh == "7":
        return Fit(FitKind.CHORD_TONE, own, "the root, a half step above the major seventh: it rubs", True)
    if own is not None:
        return Fit(FitKind.CHORD_TONE, own, f"{_article(own)} of the chord")
    if chord.bass is not None and chord.bass.pitch_class == pitch_class:
        return Fit(FitKind.CHORD_TONE, any_label(chord, pitch_class), "the bass note")
    extras = {degree_semitones(label): label for label in extra_degrees(chord, key, MAX_COLOUR)}
    offset = (pitch_class - chord.root.pitch_class) % 12
    if offset in extras:
        label = extras[offset]
        return Fit(FitKind.TENSION, label, f"{_article(label)}, at home over this chord")
    label = any_label(chord, pitch_class)
    if quarters <= PASSING_QUARTERS and not strong and stepwise:
        return Fit(FitKind.PASSING, label, "short, on a weak beat, by step")
    rubbed = _rubs_against(chord, offset)
    if rubbed is not None:
        return Fit(FitKind.CLASH, label, rubbed)
    return Fit(FitKind.TENSION, label, f"{_article(label)}, foreign to the key but a whole step clear")


def _rubs_against(chord: ChordSymbol, offset: int) -> str | None:
    """What a foreign note rubs against, in words, or None."""
    if (offset, chord.third) in ((4, "b3"), (3, "3")):
        return f"the wrong third: the chord has {_article(chord.third)}"
    if (offset, chord.seventh) in ((10, "7"), (11, "b7")):
        return f"the wrong seventh: the chord has {_article(chord.seventh)}"
    if offset == 4 and "11" in chord.sus:
        return "the third beside the suspension"
    if chord.alt and offset in (2, 5, 9):
        return "a natural tension over an altered chord"
    for label in chord.degrees:
        if (degree_semitones(label) + 1) % 12 == offset:
            return f"a half step above {_article(label)} of the chord"
    return None


def any_label(chord: ChordSymbol, pitch_class: int) -> str:
    """A label for a note that is no tone of the chord. Over a minor one a flat sixth is that, no raised
    fifth."""
    offset = (pitch_class - chord.root.pitch_class) % 12
    if offset == degree_semitones("b13") and chord.third == "b3":
        return "b13"
    return next(label for label, (_, semitones) in DEGREES.items() if semitones == offset)


#: Degree labels as one says them.
DEGREE_WORDS = {
    "R": "the root", "b9": "the flat ninth", "9": "the ninth", "#9": "the sharp ninth",
    "b3": "the minor third", "3": "the major third", "11": "the eleventh",
    "#11": "the sharp eleventh", "b5": "the flat fifth", "5": "the fifth",
    "#5": "the raised fifth", "b13": "the flat thirteenth", "13": "the thirteenth",
    "6": "the sixth", "bb7": "the diminished seventh", "b7": "the minor seventh",
    "7": "the major seventh",
}  # fmt: skip


def _article(label: str) -> str:
    return DEGREE_WORDS[label]
