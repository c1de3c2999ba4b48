"""Lines over the chords, for a soloist: guide tones, targets, scales and why.

Scales are chosen by what a chord sounds and where it goes; the chord-scale pairs are those
commonly taught. A scale is only ever given when it holds every tone of the chord.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from yellow_hinge.reharm.regions import is_dominant
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName, degree_semitones, name_for_pitch_class
from yellow_hinge.theory.tension import FitKind, fit

#: Name -> semitones above the root.
SCALES: dict[str, tuple[int, ...]] = {
    "major": (0, 2, 4, 5, 7, 9, 11),
    "lydian": (0, 2, 4, 6, 7, 9, 11),
    "mixolydian": (0, 2, 4, 5, 7, 9, 10),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
    "natural minor": (0, 2, 3, 5, 7, 8, 10),
    "phrygian": (0, 1, 3, 5, 7, 8, 10),
    "locrian": (0, 1, 3, 5, 6, 8, 10),
    "locrian with natural 2": (0, 2, 3, 5, 6, 8, 10),
    "melodic minor": (0, 2, 3, 5, 7, 9, 11),
    "harmonic minor": (0, 2, 3, 5, 7, 8, 11),
    "lydian dominant": (0, 2, 4, 6, 7, 9, 10),
    "phrygian dominant": (0, 1, 4, 5, 7, 8, 10),
    "altered": (0, 1, 3, 4, 6, 8, 10),
    "half-whole diminished": (0, 1, 3, 4, 6, 7, 9, 10),
    "whole-half diminished": (0, 2, 3, 5, 6, 8, 9, 11),
    "whole tone": (0, 2, 4, 6, 8, 10),
    "lydian augmented": (0, 2, 4, 6, 8, 9, 11),
    "chromatic": tuple(range(12)),
}
#: Scales for a whole passage: name, semitones above the tonic of the relative major.
_BLUES = (0, 3, 5, 6, 7, 10)
_PASSAGES = (
    ("major pentatonic", 0, (0, 2, 4, 7, 9)),
    ("blues scale", 0, _BLUES),
    ("minor pentatonic", 9, (0, 3, 5, 7, 10)),
    ("blues scale", 9, _BLUES),
    ("major", 0, SCALES["major"]),
    ("natural minor", 9, SCALES["natural minor"]),
)


class Scale(Struct, frozen=True):
    """A scale on a root, and why it fits."""

    root: NoteName
    name: str
    pitch_classes: frozenset[int]
    why: str

    def __str__(self) -> str:
        return f"{self.root.pretty} {self.name}"


def _tones(chord: ChordSymbol) -> frozenset[int]:
    root = chord.root.pitch_class
    tones = {(root + degree_semitones(label)) % 12 for label in chord.degrees}
    return frozenset(tones | ({(root + s) % 12 for s in (1, 3, 8)} if chord.alt else set()))


def scale_for(chord: ChordSymbol, after: ChordSymbol | None, key: Key) -> Scale:
    """The scale of a chord on its way to ``after`` in a local key."""
    tones, root = _tones(chord), chord.root.pitch_class
    preferred, why = _wanted(chord, after)
    best: tuple[tuple[int, int, int], str] | None = None
    for place, (name, steps) in enumerate(SCALES.items()):
        notes = {(root + step) % 12 for step in steps}
        if tones <= notes:
            rank = (int(name != preferred), len(notes - key.pitch_classes), place)
            best = min(best, (rank, name)) if best is not None else (rank, name)
    assert best is not None  # the chromatic scale holds every chord
    name = best[1]
    scale = frozenset((root + step) % 12 for step in SCALES[name])
    if name != preferred:
        at_home = scale <= key.pitch_classes
        why = f"its notes are those of {key.pretty}" if at_home else "of all that hold it nearest to the key"
    return Scale(chord.root, name, scale, why)


def _wanted(chord: ChordSymbol, after: ChordSymbol | None) -> tuple[str, str]:
    """A scale that the chord itself or its goal asks for, and why; "" where the key decides."""
    if chord.alt:
        return "altered", "every tension of the symbol is altered"
    if is_dominant(chord) and after is not None:
        step = (after.root.pitch_class - chord.root.pitch_class) % 12
        if step == 5 and after.third == "b3":
            return "phrygian dominant", f"the dominant of {after.pretty}, from its harmonic minor"
        if step in (11, 2):
            return "lydian dominant", "a dominant that does not fall a fifth keeps a raised fourth"
    if "bb7" in chord.degrees:
        return "whole-half diminished", "a half step below each chord tone's neighbour"
    if "#11" in chord.degrees and chord.seventh == "b7":
        return "lydian dominant", "the raised eleventh is named"
    if chord.third == "b3" and chord.seventh == "7":
        return "melodic minor", "minor with a major seventh"
    return "", ""


class PassageScale(Struct, frozen=True):
    """A scale for a whole passage: over how many chords none of its notes rubs, and over which
    chords to take care, by place."""

    scale: Scale
    fits: int
    careful: tuple[int, ...]


def passage_scales(chords: Sequence[ChordSymbol | None], key: Key, most: int = 3) -> list[PassageScale]:
    """The few scales that serve a whole passage in a key, the safest first."""
    home = key.relative_major.tonic
    scales = []
    for name, step, steps in _PASSAGES:
        letters = {0: 0, 9: 5}[step]
        root = home.above(letters, step)
        notes = frozenset((root.pitch_class + one) % 12 for one in steps)
        careful = tuple(
            place
            for place, chord in enumerate(chords)
            if chord is not None and any(fit(note, chord, key).kind == FitKind.CLASH for note in notes)
        )
        count = sum(chord is not None for chord in chords) - len(careful)
        why = f"one scale for {count} of {count + len(careful)} chords"
        scales.append(PassageScale(Scale(root, name, notes, why), count, careful))
    scales.sort(key=lambda scale: -scale.fits)
    return scales[:most]


class GuideTone(Struct, frozen=True):
    """A note of the guide-tone line: its name, and its degree in the chord."""

    note: NoteName
    degree: str


def guide_line(chords: Sequence[ChordSymbol | None]) -> list[GuideTone | None]:
    """The line of thirds and sevenths (suspension and sixth where there is neither) with the
    least motion; None over "no chord". The cheapest walk, ties to the lower degree."""
    rows = [() if chord is None else _guide_degrees(chord) for chord in chords]
    costs: list[list[int]] = []
    came: list[list[int]] = []
    before: tuple[int, ...] = ()
    for chord, degrees in zip(chords, rows, strict=True):
        places = () if chord is None else tuple(_place(chord, label) for label in degrees)
        last = costs[-1] if costs else []
        own, origins = [], []
        for place in places or (None,):
            steps = [
                cost + (0 if place is None or not before else _near(before[i], place))
                for i, cost in enumerate(last)
            ] or [0]
            best = min(range(len(steps)), key=steps.__getitem__)
            own.append(steps[best])
            origins.append(best)
        costs.append(own)
        came.append(origins)
        before = places
    line: list[GuideTone | None] = []
    index = min(range(len(costs[-1])), key=costs[-1].__getitem__) if costs else 0
    for chord, degrees, origins in zip(reversed(chords), reversed(rows), reversed(came), strict=True):
        label = degrees[index] if degrees else ""
        line.append(None if chord is None else GuideTone(chord.root.degree(label), label))
        index = origins[index]
    return line[::-1]


def _guide_degrees(chord: ChordSymbol) -> tuple[str, ...]:
    degrees = chord.degrees
    picked = [label for label in ("3", "b3", "11", "b7", "7", "bb7", "6") if label in degrees]
    return tuple(label for label in picked if label != "11" or chord.sus) or degrees[:1]


def _place(chord: ChordSymbol, label: str) -> int:
    return (chord.root.pitch_class + degree_semitones(label)) % 12


def _near(one: int, other: int) -> int:
    return min((one - other) % 12, (other - one) % 12)


def targets(chord: ChordSymbol, after: ChordSymbol | None, key: Key) -> list[str]:
    """What to aim for at the change into ``after``: its guide tones, each with the note of this
    chord that lies a half step or a whole step away."""
    if after is None:
        return []
    own = scale_for(chord, after, key).pitch_classes
    lines = []
    for label in _guide_degrees(after):
        goal = after.root.degree(label)
        near = [(goal.pitch_class + step) % 12 for step in (1, -1, 2, -2)]
        start = next((place for place in near if place in own), None)
        if goal.pitch_class in own:
            lines.append(f"{goal.pretty} is there already and becomes its {label}")
        elif start is not None:
            name = name_for_pitch_class(start, key.prefers_flats).pretty
            lines.append(f"{name} to {goal.pretty}, its {label}")
    return lines
