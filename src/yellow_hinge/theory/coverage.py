"""What makes a chord itself: the tones that must sound, those that sound once, its bass."""

from __future__ import annotations

from functools import lru_cache

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import DEGREES
from yellow_hinge.theory.tension import base_kind


def bass_degree(chord: ChordSymbol) -> str:
    """What the lowest note does in the chord; for a foreign slash bass, by its letter."""
    if chord.bass is None:
        return "R"
    own = chord.label_of(chord.bass.pitch_class)
    if own is not None:
        return own
    letters = (chord.bass.step - chord.root.step) % 7
    semitones = (chord.bass.pitch_class - chord.root.pitch_class) % 12
    fitting = [name for name, place in DEGREES.items() if place == (letters, semitones)]
    sounding = [name for name, place in DEGREES.items() if place[1] == semitones]
    return (fitting or sounding)[0]


def identity(chord: ChordSymbol, root_needed: bool) -> tuple[frozenset[str], ...]:
    """What must sound, as groups of which one member is needed.

    Third or suspension, named seventh or sixth, every altered tone, the top tension
    named and added tones; the root if ``root_needed``. A perfect fifth is never needed.
    """
    needed = [{chord.third}, {chord.seventh}, *({label} for label in chord.sus | chord.alters)]
    needed += [{label} for label in chord.adds]
    if chord.third == "3" and "11" in chord.degrees:
        needed[0] = {""}  # the eleventh replaces a major third, as in the usual C11
    if chord.sixth:
        needed.append({"6"})
    if chord.fifth in ("b5", "#5") or base_kind(chord) == "power":
        needed.append({chord.fifth})
    stack = [label for label in ("9", "11", "13") if label in chord.degrees]
    if chord.extension > 7 and stack:
        needed.append({stack[-1]})
    if chord.alt:
        needed.append({"b9", "#9", "#11", "b13"})
    if chord.upper is not None:
        needed += [{label} for label in chord.degrees if label not in ("R", "5")]
    if root_needed:
        needed.append({"R"})
    return tuple(dict.fromkeys(frozenset(group) for group in needed if "" not in group))


@lru_cache(maxsize=2048)
def undoubled(chord: ChordSymbol) -> frozenset[str]:
    """Degrees that sound once: sevenths, altered tones, the third of a dominant."""
    labels = {chord.seventh, *chord.alters}
    if base_kind(chord) == "dominant":
        labels |= {"3", "b9", "#9", "#11", "b13"}
    if chord.fifth != "5" and base_kind(chord) in ("dominant", "major"):
        labels.add(chord.fifth)
    return frozenset(labels - {""})
