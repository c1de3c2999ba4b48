"""Chord symbols as harmony elements."""

from __future__ import annotations

from xml.etree import ElementTree as ET

from msgspec.structs import replace

from yellow_hinge.formats.harmony import write_kind
from yellow_hinge.theory.chord_symbol import ChordSymbol, pretty_quality, pretty_symbol
from yellow_hinge.theory.pitch import STEP_LETTERS, NoteName


def write_harmony(measure: ET.Element, chord: ChordSymbol | None, degrees: bool = True) -> None:
    """A symbol at the place where a measure stands; of a chord over another one the upper one comes first, as
    the standard reads a row of them. Without ``degrees`` its text alone says them: engravers print both."""
    harmony = ET.SubElement(measure, "harmony")
    if chord is None:
        ET.SubElement(ET.SubElement(harmony, "root"), "root-step", text="").text = "C"
        ET.SubElement(harmony, "kind", text="N.C.").text = "none"
    elif chord.upper is not None and not degrees:
        _write_storeys(harmony, chord.upper, replace(chord, upper=None))
    else:
        if chord.upper is not None:
            _write_chord(harmony, chord.upper, degrees)
        _write_chord(harmony, replace(chord, upper=None), degrees)
    ET.SubElement(harmony, "staff").text = "1"


def _write_storeys(harmony: ET.Element, upper: ChordSymbol, lower: ChordSymbol) -> None:
    """One chord over another as a single one with the other in its text: engravers read one root."""
    _write_name(ET.SubElement(harmony, "root"), "root", upper.root)
    text = f"{pretty_quality(upper.quality)}//{pretty_symbol(lower)}"
    ET.SubElement(harmony, "kind", text=text).text = write_kind(upper)[0]


def _write_chord(harmony: ET.Element, chord: ChordSymbol, said: bool) -> None:
    """The text of a kind says its degrees already, so they are not printed beside it."""
    _write_name(ET.SubElement(harmony, "root"), "root", chord.root)
    kind, degrees = write_kind(chord)
    text = chord.quality if said else pretty_quality(chord.quality)
    ET.SubElement(harmony, "kind", text=text).text = kind
    if chord.bass is not None:
        _write_name(ET.SubElement(harmony, "bass"), "bass", chord.bass)
    for degree in degrees if said else ():
        element = ET.SubElement(harmony, "degree", {"print-object": "no"})
        ET.SubElement(element, "degree-value").text = str(degree.value)
        ET.SubElement(element, "degree-alter").text = str(degree.alter)
        ET.SubElement(element, "degree-type").text = degree.action


def _write_name(parent: ET.Element, prefix: str, name: NoteName) -> None:
    ET.SubElement(parent, f"{prefix}-step").text = STEP_LETTERS[name.step]
    if name.alter:
        ET.SubElement(parent, f"{prefix}-alter").text = str(name.alter)
