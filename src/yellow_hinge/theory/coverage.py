"""What makes a chord itself: the tones that must sound, those that sound once, its bass, and what may
not sound because it would make another chord of it."""

from __future__ import annotations

from functools import lru_cache

from yellow_hinge.remembering import for_a_song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import DEGREES
from yellow_hinge.theory.tension import is_triad


def bass_degree(chord: ChordSymbol) -> str:
    """What the lowest note does in the chord; for a foreign slash bass, by its letter."""
    if chord.bass is None:
        return "R"
    label = chord.label_of(chord.bass.pitch_class)
    if label is not None:
        return label
    letters = (chord.bass.step - chord.root.step) % 7
    semitones = (chord.bass.pitch_class - chord.root.pitch_class) % 12
    fitting = [name for name, place in DEGREES.items() if place == (letters, semitones)]
    sounding = [name for name, place in DEGREES.items() if place[1] == semitones]
    return (fitting or sounding)[0]


@for_a_song
@lru_cache(maxsize=4096)
def identity(chord: ChordSymbol, root_needed: bool, fifth_needed: bool = False) -> tuple[frozenset[str], ...]:
    """What must sound, as groups of which one member is needed.

    Third or suspension, named seventh or sixth, every altered tone, the top tension
    named and added tones, an altered ninth in an altered chord; the root if ``root_needed``, the fifth of a
    triad with one added tone (without it that makes another chord), and a bare triad's fifth if
    ``fifth_needed``: in larger chords the perfect fifth is the first to go.
    """
    needed = [{chord.third}, {chord.seventh}, *({label} for label in chord.sus | chord.alters)]
    needed += [{label} for label in chord.adds]
    if chord.third == "3" and "11" in chord.degrees and "11" not in chord.adds:
        needed[0] = {""}  # the eleventh replaces a major third, as in the usual C11
    if chord.sixth:
        needed.append({"6"})
    added = bool(chord.adds or chord.sixth) and not (chord.seventh or chord.upper)
    added = added and not (chord.sixth and "9" in chord.adds)
    whole = added or (fifth_needed and is_triad(chord))
    if chord.fifth in ("b5", "#5") or chord.kind == "power" or whole:
        needed.append({chord.fifth})
    stack = [label for label in ("9", "11", "13") if label in chord.degrees and label not in chord.sus]
    if chord.extension > 7 and stack:
        needed.append({stack[-1]})
    if chord.alt:
        needed.append({"b9", "#9"})
    if chord.upper is not None:
        needed += [{label} for label in chord.degrees if label not in ("R", "5")]
    if root_needed:
        needed.append({"R"})
    return tuple(dict.fromkeys(frozenset(group) for group in needed if "" not in group))


#: From so many notes on an altered chord has more than its ninth.
FULL_NOTES = 4


def identity_when_full(chord: ChordSymbol) -> tuple[frozenset[str], ...]:
    """What must sound besides :func:`identity` from :data:`FULL_NOTES` notes on, in the same groups: the
    altered fifth or thirteenth of an altered chord."""
    return (frozenset({"#11", "b13"}),) if chord.alt else ()


#: Semitones above their root of what a colour tone may not complete on another root: a dominant seventh
#: in any case, which turns the ear to its own goal; and over another bass than the root any triad, and
#: with it any seventh chord.
_DOMINANT = (0, 4, 7, 10)
_TRIADS = ((0, 4, 7), (0, 3, 7), (0, 3, 6), (0, 4, 8))
Classes = frozenset[int]


@for_a_song
@lru_cache(maxsize=8192)
def other_chords(own: Classes, more: Classes, rooted: bool) -> tuple[Classes, ...]:
    """Sets of tones, in semitones above the chord's root, that may not all sound together because they
    are a chord on another root, which the symbol's ``own`` tones alone are not. ``more`` are the colour
    tones; ``rooted``: the root is the bass.

    The rule is our choice, from what players throw away: an eleventh on a minor sixth (``Am6`` with D is D7),
    a thirteenth on a half-diminished seventh, a sixth on an inverted triad (``Eb/Bb`` with C is Cm7).
    """
    every = own | more
    shapes = (_DOMINANT,) if rooted else (_DOMINANT, *_TRIADS)
    chords = (frozenset((root + step) % 12 for step in shape) for shape in shapes for root in range(1, 12))
    found = [chord for chord in chords if chord <= every and not chord <= own]
    return tuple(chord for chord in found if not any(other < chord for other in found))


@for_a_song
@lru_cache(maxsize=4096)
def undoubled(chord: ChordSymbol, key: Key | None = None) -> frozenset[str]:
    """Degrees that sound once: sevenths, sixths and tensions, added and altered tones, altered
    fifths, the third of a dominant, and the leading tone of the (local) key, by the usual rules
    of four-part writing. Root, fifth, other thirds and suspended tones may be doubled."""
    free = {"R", "5", "3", "b3", *chord.sus}
    if chord.third == "b3":
        free.add("b5")
    if chord.kind == "augmented":
        free.add("#5")
    if chord.kind == "dominant" or _third_leads(chord, key):
        free.discard("3")
    return frozenset(DEGREES) - free


def _third_leads(chord: ChordSymbol, key: Key | None) -> bool:
    """Whether a major chord is the five of the key, so that its third is the leading tone."""
    return (
        key is not None
        and chord.third == "3"
        and not chord.seventh
        and (chord.root.pitch_class + 5) % 12 == key.tonic.pitch_class
    )


#: Tones that deny each other when both sound: a tone and its own alteration, the eleventh over a
#: major third, the perfect fifth beside a flat thirteenth.
CONTRADICTIONS = tuple(
    (one, other)
    for one, other in (
        pair.split()
        for pair in (
            "b9 9", "b9 #9", "9 #9", "11 #11", "13 b13", "6 b13", "5 b5", "5 #5", "5 b13", "7 b7", "3 11",
        )
    )
)  # fmt: skip


@for_a_song
@lru_cache(maxsize=4096)
def contradictions(chord: ChordSymbol) -> tuple[tuple[str, str], ...]:
    """The pairs of :data:`CONTRADICTIONS` that this symbol does not ask for itself. The perfect
    fifth is never asked for: every symbol has it, so it yields to an alteration."""
    asked = chord.sus | chord.adds | chord.alters | {chord.third, chord.seventh}
    asked |= {"13"} if chord.extension == 13 else set()
    return tuple(pair for pair in CONTRADICTIONS if not asked.issuperset(pair))
