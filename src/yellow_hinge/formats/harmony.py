"""Chord symbols as the harmony element of MusicXML 4.0, both ways.

The kinds and what they hold are those of the standard's ``kind-value`` type; what a kind
does not hold is said by ``degree`` children (value, alter, type add/alter/subtract).
"""

from __future__ import annotations

from msgspec import Struct

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import DEGREES, NoteName, degree_semitones

#: kind -> (third, fifth, seventh, extension, sixth, suspensions).
_KINDS: dict[str, tuple[str, str, str, int, bool, tuple[str, ...]]] = {
    "major": ("3", "5", "", 0, False, ()),
    "minor": ("b3", "5", "", 0, False, ()),
    "augmented": ("3", "#5", "", 0, False, ()),
    "diminished": ("b3", "b5", "", 0, False, ()),
    "dominant": ("3", "5", "b7", 7, False, ()),
    "major-seventh": ("3", "5", "7", 7, False, ()),
    "minor-seventh": ("b3", "5", "b7", 7, False, ()),
    "diminished-seventh": ("b3", "b5", "bb7", 7, False, ()),
    "augmented-seventh": ("3", "#5", "b7", 7, False, ()),
    "half-diminished": ("b3", "b5", "b7", 7, False, ()),
    "major-minor": ("b3", "5", "7", 7, False, ()),
    "major-sixth": ("3", "5", "", 0, True, ()),
    "minor-sixth": ("b3", "5", "", 0, True, ()),
    "dominant-ninth": ("3", "5", "b7", 9, False, ()),
    "major-ninth": ("3", "5", "7", 9, False, ()),
    "minor-ninth": ("b3", "5", "b7", 9, False, ()),
    "dominant-11th": ("3", "5", "b7", 11, False, ()),
    "major-11th": ("3", "5", "7", 11, False, ()),
    "minor-11th": ("b3", "5", "b7", 11, False, ()),
    "dominant-13th": ("3", "5", "b7", 13, False, ()),
    "major-13th": ("3", "5", "7", 13, False, ()),
    "minor-13th": ("b3", "5", "b7", 13, False, ()),
    "suspended-second": ("", "5", "", 0, False, ("9",)),
    "suspended-fourth": ("", "5", "", 0, False, ("11",)),
    "power": ("", "5", "", 0, False, ()),
    "Neapolitan": ("3", "5", "", 0, False, ()),
    "Italian": ("3", "", "b7", 7, False, ()),
    "French": ("3", "b5", "b7", 7, False, ()),
    "German": ("3", "5", "b7", 7, False, ()),
    "Tristan": ("b3", "b5", "b7", 7, False, ()),
    "pedal": ("", "", "", 0, False, ()),
}
_READ = {name.lower(): body for name, body in _KINDS.items()}
#: Kinds that may be written; the others name a function and are only read.
_WRITTEN = [name for name in _KINDS if name[0].islower() and name != "pedal"]
_NATURAL = {2: "9", 3: "3", 4: "11", 5: "5", 6: "6", 7: "b7", 9: "9", 11: "11", 13: "13"}


class Degree(Struct, frozen=True):
    """One ``degree`` child: scale value, alteration in semitones, and what to do."""

    value: int
    alter: int
    action: str  # add, alter or subtract


def read_kind(kind: str, degrees: list[Degree], root: NoteName, bass: NoteName | None) -> ChordSymbol:
    """The chord of a harmony element.

    Raises ValueError (with a plain sentence) for kinds and degrees outside the standard.
    """
    if kind.lower() not in _READ:
        raise ValueError(f"kind {kind!r} is not one of the standard's")
    third, fifth, seventh, extension, sixth, suspended = _READ[kind.lower()]
    chord = {"3": third, "5": fifth, "7": seventh}
    adds: set[str] = set()
    alters: set[str] = set()
    sus = set(suspended)
    for degree in degrees:
        label = _label(degree, chord["7"])
        family = {"b3": "3", "b5": "5", "#5": "5", "b7": "7", "bb7": "7"}.get(label, label)
        if degree.action == "subtract":
            if family in chord:
                chord[family] = ""
            adds.discard(label)
        elif family in chord:
            if family == "7":
                extension = max(extension, 7)
            chord[family] = label
        elif label == "6":
            sixth = True
        elif label[0] in "b#" and (degree.action == "alter" or chord["7"]):
            alters.add(label)
        else:
            adds.add(label)
    for value, label in ((4, "11"), (2, "9")):  # a fourth or second in place of the third is a suspension
        if not chord["3"] and label in adds and any(d.action == "add" and d.value == value for d in degrees):
            sus.add(label)
            adds.discard(label)
    if chord["7"]:
        extension, adds = _stacked(extension, adds, sus, chord["3"])
    return ChordSymbol(
        root, chord["3"], chord["5"], seventh=chord["7"], extension=extension if chord["7"] else 0,
        sixth=sixth,
        sus=frozenset(sus), alters=frozenset(alters), adds=frozenset(adds),
        bass=None if bass == root else bass,
    )  # fmt: skip


def _stacked(extension: int, adds: set[str], sus: set[str], third: str) -> tuple[int, set[str]]:
    """Added tensions that complete a stack of thirds are said by the number: 7 add 9 is 9.
    Over a major third a thirteenth stands on the ninth alone."""
    stacks = {9: {"9"}, 11: {"9", "11"}, 13: {"9", "13"} if third == "3" else {"9", "11", "13"}}
    named = sus | {str(number) for number in stacks if number <= extension}
    for number, stack in stacks.items():
        if number > extension and str(number) in adds and stack <= adds | named:
            extension, adds, named = number, adds - stack, named | stack
    return extension, adds


def _label(degree: Degree, seventh: str) -> str:
    """The degree label. A seventh's alteration counts from the dominant's seventh when it is
    added, from the kind's own when it is altered, as the standard says."""
    if degree.value == 7:
        base = "7" if degree.action == "alter" and seventh == "7" else "b7"
        semitones = degree_semitones(base) + degree.alter
        return {11: "7", 10: "b7", 9: "bb7"}.get(semitones, base)
    natural = _NATURAL.get(degree.value)
    if natural is None:
        raise ValueError(f"degree {degree.value} is no chord degree")
    label = {-1: "b", 0: "", 1: "#"}.get(degree.alter, "?") + natural
    label = {"b6": "b13", "#3": "11", "#6": "b7"}.get(label, label)
    if label not in DEGREES:
        raise ValueError(f"degree {degree.value} with alteration {degree.alter} is no chord degree")
    return label


def write_kind(chord: ChordSymbol) -> tuple[str, list[Degree]]:
    """The kind that needs the fewest degrees, and those degrees.

    ``read_kind`` of the result sounds the same degrees. An ``alt`` chord is written as a
    seventh chord with flat nine and flat thirteen, which the standard can say.
    """
    wanted = set(chord.degrees)
    if chord.alt:
        wanted |= {"b9", "b13"}
    best: tuple[str, list[Degree]] | None = None
    for kind in _WRITTEN:
        if set(_KINDS[kind][5]) != ({"11"} if "11" in chord.sus else chord.sus):
            continue  # a suspension is said by the kind, never by degrees
        own = set(read_kind(kind, [], chord.root, None).degrees)
        degrees = _difference(own, wanted)
        if degrees is not None and (best is None or len(degrees) < len(best[1])):
            best = (kind, degrees)
    assert best is not None
    return best


def _difference(own: set[str], wanted: set[str]) -> list[Degree] | None:
    """Degrees that lead from one set of labels to another; None where the standard's kinds
    would need a third, fifth or seventh of a different sort (another kind fits then)."""
    missing, surplus = wanted - own, own - wanted
    degrees = []
    for label in sorted(missing, key=list(DEGREES).index):
        if label in ("bb7",):
            return None
        value, alter = _place(label)
        natural = _NATURAL[value]
        replaced = next((s for s in surplus if _place(s)[0] == value and value != 7), None)
        if replaced is None:
            degrees.append(Degree(value, alter, "add"))
        elif replaced == natural or value == 5:
            surplus.discard(replaced)
            degrees.append(Degree(value, alter, "alter"))
        else:
            return None
    for label in sorted(surplus, key=list(DEGREES).index):
        value, alter = _place(label)
        degrees.append(Degree(value, alter, "subtract"))
    return degrees


def _place(label: str) -> tuple[int, int]:
    """(degree value, alteration); sevenths count from the dominant's seventh."""
    if label in ("7", "b7", "bb7"):
        return 7, {"7": 1, "b7": 0, "bb7": -1}[label]
    if label == "R":
        return 1, 0
    digits = label.lstrip("b#")
    return int(digits), label.count("#") - label.count("b")
