"""The harmony elements of a score as chords."""

from __future__ import annotations

from collections.abc import Callable
from xml.etree import ElementTree as ET

from msgspec.structs import replace

from yellow_hinge.errors import BadInput
from yellow_hinge.formats.harmony import Degree, read_kind, write_kind
from yellow_hinge.formats.musicxml.parsing import text_of, whole_of
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord, with_bass
from yellow_hinge.theory.keys import MAJOR_STEPS, MINOR_STEPS, Key, key_from_fifths
from yellow_hinge.theory.pitch import STEP_LETTERS, NoteName
from yellow_hinge.theory.roman import parse_roman

Say = Callable[[str, str], None]
#: Children of a harmony element that begin one of its chords.
_ROOTS = ("root", "numeral", "function")
#: Degrees that each inversion has in the bass, by the third, fifth and seventh of the chord.
_INVERTED = {1: ("3", "b3", "11", "9"), 2: ("5", "b5", "#5"), 3: ("7", "b7", "bb7", "6")}


def chords_of(element: ET.Element, key: Key, say: Say) -> list[ChordSymbol | None]:
    """The chord of a harmony element as a list of one, None for "no chord" and for one that cannot be read,
    which is said; several chords in one element are storeys, the first on top."""
    groups: list[list[ET.Element]] = []
    for child in element:
        if child.tag in _ROOTS:
            groups.append([])
        if groups:
            groups[-1].append(child)
    if not groups:
        if text_of(element, "kind") == "none":
            return [None]
        say("a chord symbol without a root", "no chord is taken; write it as a symbol")
        return [None]
    storeys = [_chord(_group(children), key, say) for children in groups]
    if len(storeys) == 1:
        return storeys
    upper, lower = storeys[0], storeys[-1]
    if upper is None or lower is None or len(storeys) > 2 or upper.bass is not None:
        say("a chord of several storeys", "its lowest one is taken; look at it")
        return [lower]
    return [replace(lower, upper=upper)]


def _group(children: list[ET.Element]) -> ET.Element:
    """The children that make one chord, by themselves."""
    group = ET.Element("harmony")
    group.extend(children)
    return group


def _chord(element: ET.Element, key: Key, say: Say) -> ChordSymbol | None:
    kind, text = text_of(element, "kind"), _kind_text(element)
    if kind == "none":
        return None
    word = text_of(element, "function")
    function = _roman(word, key)
    root = _name(element, "root", say) or _numeral(element, key) or (function.root if function else None)
    if root is None:
        named = f" ({word})" if word else ""
        say(f"a chord without a root{named}", "no chord is taken; write it as a symbol")
        return None
    if function is not None and not kind:
        return function
    bass = _name(element, "bass", say)
    chord = _of_kind(kind, text, _degrees(element), root, say)
    if chord is None:
        return None
    if bass is not None:
        return replace(chord, bass=None if bass == root else bass)
    return _inverted(chord, whole_of(element, "inversion", 0))


def _of_kind(kind: str, text: str, degrees: list[Degree], root: NoteName, say: Say) -> ChordSymbol | None:
    """By the kind and its degrees; by the text where that says the same or more, or where the kind is none of
    the standard's."""
    written = _read(f"{root}{text}") if text else None
    if written is not None and (kind, degrees) == write_kind(written):
        return written
    try:
        chord = read_kind(kind, degrees, root, None)
    except ValueError as error:
        if written is not None:
            return written
        say(f"a chord on {root}: {error}", "no chord is taken; write it in the chart")
        return None
    if written is not None and not degrees and set(chord.degrees) < set(written.degrees):
        return written
    return chord


def _kind_text(element: ET.Element) -> str:
    """What is printed behind the root."""
    kind = element.find("kind")
    return "" if kind is None else " ".join((kind.get("text") or "").split())[:40]


def _read(text: str) -> ChordSymbol | None:
    try:
        return parse_chord(text)
    except BadInput:
        return None


def _degrees(element: ET.Element) -> list[Degree]:
    return [
        Degree(
            whole_of(d, "degree-value", 0), whole_of(d, "degree-alter", 0), text_of(d, "degree-type", "add")
        )
        for d in element.findall("degree")
    ]


def _name(element: ET.Element, what: str, say: Say) -> NoteName | None:
    step = text_of(element, f"{what}/{what}-step")
    if len(step) != 1 or step not in STEP_LETTERS:
        return None
    alter = whole_of(element, f"{what}/{what}-alter", 0)
    if abs(alter) > 2:
        say(f"a {what} with {alter} half steps", "its plain letter is taken")
        alter = 0
    return NoteName(STEP_LETTERS.index(step), alter)


def _numeral(element: ET.Element, key: Key) -> NoteName | None:
    """The root that a numeral counts from the key's home note, or from one that it names."""
    degree = whole_of(element, "numeral/numeral-root", 0)
    if not 1 <= degree <= 7:
        return None
    fifths = element.find("numeral/numeral-key/numeral-fifths")
    if fifths is not None and abs(whole_of(element, "numeral/numeral-key/numeral-fifths", 0)) <= 7:
        mode = text_of(element, "numeral/numeral-key/numeral-mode")
        key = key_from_fifths(whole_of(element, "numeral/numeral-key/numeral-fifths", 0), mode == "minor")
    name = key.tonic.above(degree - 1, (MINOR_STEPS if key.minor else MAJOR_STEPS)[degree - 1])
    return NoteName(name.step, name.alter + max(-1, min(1, whole_of(element, "numeral/numeral-alter", 0))))


def _roman(word: str, key: Key) -> ChordSymbol | None:
    """A function as a Roman number of the key."""
    try:
        return parse_roman(word, key) if word else None
    except BadInput:
        return None


def _inverted(chord: ChordSymbol, inversion: int) -> ChordSymbol:
    labels = [label for label in _INVERTED.get(inversion, ()) if label in chord.degrees]
    return with_bass(chord, chord.root.degree(labels[0])) if labels else chord
